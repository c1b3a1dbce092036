//! `runs` and `undo`

use std::time::Duration;

use clap::{Args, Subcommand};

/// List what was written, finish a run that was cut off, or drop old records
#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline runs                                  what was written, the last run first\n  \
    tideline runs finish 12                        finish a run that was cut off\n  \
    tideline runs prune --older-than 30d --keep 20\n\n\
    Records take at most 2 GiB: beyond that, the oldest are dropped after each run.")]
pub(crate) struct RunsArgs {
    #[command(subcommand)]
    pub(crate) action: Option<RunsAction>,
    /// Print JSON Lines for programs: a record for each run
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, Subcommand)]
pub(crate) enum RunsAction {
    /// Finish a run that was cut off
    #[command(after_help = "Example:\n  tideline runs finish 12")]
    Finish {
        /// Its number
        #[arg(value_name = "RUN")]
        run: u64,
    },
    /// Drop old records; what they recorded can then not be undone any more
    #[command(after_help = "Example:\n  tideline runs prune --older-than 30d --keep 20")]
    Prune {
        /// Only records older than this: 30d, 12h, 90m
        #[arg(long, value_name = "TIME", value_parser = parse_time)]
        older_than: Option<Duration>,
        /// Keep the last so many in any case
        #[arg(long, value_name = "N", default_value_t = 20)]
        keep: usize,
    },
}

/// Undo a run: put back bytes, permissions and times
#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline undo        the last run\n  \
    tideline undo 12     the run with this number; an undoing can be undone in turn\n\n\
    What was changed since the run is named and left as it is; the rest is put back.\n\n\
    Exit status: 0 everything is as before; 2 something stands in the way, or the run cannot be undone.")]
pub(crate) struct UndoArgs {
    /// The number of the run [default: the last that is not undone]
    #[arg(value_name = "RUN")]
    pub(crate) run: Option<u64>,
    /// Also put back what was changed since; what stands there is backed up first
    #[arg(long)]
    pub(crate) force: bool,
}

fn parse_time(text: &str) -> Result<Duration, String> {
    let wrong = || "give a number and a unit: 30d, 12h, 90m, 45s".to_owned();
    let unit = text.chars().last().ok_or_else(wrong)?;
    let number: u64 = text[..text.len() - unit.len_utf8()].parse().map_err(|_| wrong())?;
    let seconds = match unit {
        'd' => 86_400,
        'h' => 3600,
        'm' => 60,
        's' => 1,
        _ => return Err(wrong()),
    };
    number.checked_mul(seconds).map(Duration::from_secs).ok_or_else(wrong)
}
