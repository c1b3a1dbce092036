//! Options for which lines are compared with which.

use std::ops::Range;
use std::path::PathBuf;

use clap::Args;

use tideline_core::internal::merge::parse_numbers;

/// Lines that are kept together.
#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "What is compared")]
pub(crate) struct HoldArgs {
    /// Keep two lines together: `before:12=after:40`; repeatable
    #[arg(long, value_name = "before:N=after:M", value_parser = hold)]
    pub(crate) hold: Vec<Hold>,
}

/// The lines that are compared.
#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "What is compared")]
pub(crate) struct PartArgs {
    /// Compare only these lines of two files: `before:10-80,after:12-90`; a side that is not named is compared as a whole
    #[arg(long, value_name = "before:N-M,after:N-M", value_parser = parts, conflicts_with = "sections")]
    pub(crate) lines: Option<Parts>,
    /// Of two folders, compare what is at OLD before with what is at NEW after; repeatable
    #[arg(long, value_name = "OLD=NEW", value_parser = pair)]
    pub(crate) pair: Vec<(PathBuf, PathBuf)>,
}

/// A line before and a line after, from 1.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Hold {
    pub(crate) before: usize,
    pub(crate) after: usize,
}

/// The lines of each side that are compared, counted from 0.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct Parts {
    pub(crate) before: Option<Range<usize>>,
    pub(crate) after: Option<Range<usize>>,
}

fn hold(text: &str) -> Result<Hold, String> {
    let lines = text.split_once('=').and_then(|(before, after)| {
        let line =
            |text: &str, side: &str| text.trim().strip_prefix(side)?.parse::<usize>().ok().filter(|line| *line > 0);
        Some(Hold { before: line(before, "before:")?, after: line(after, "after:")? })
    });
    lines.ok_or_else(|| "write the two lines as in before:12=after:40".to_owned())
}

pub(super) fn pair(text: &str) -> Result<(PathBuf, PathBuf), String> {
    let paths = text.split_once('=').filter(|(old, new)| !old.is_empty() && !new.is_empty() && !new.contains('='));
    let (old, new) = paths.ok_or_else(|| "write the two paths as in OLD=NEW".to_owned())?;
    Ok((old.into(), new.into()))
}

fn parts(text: &str) -> Result<Parts, String> {
    let wrong = || "write the lines as in before:10-80,after:12-90".to_owned();
    let mut parts = Parts::default();
    for part in text.split(',') {
        let (side, lines) = part.trim().split_once(':').ok_or_else(wrong)?;
        let lines = parse_numbers(lines).ok_or_else(wrong)?;
        let [lines] = &lines[..] else { return Err(wrong()) };
        let slot = match side {
            "before" => &mut parts.before,
            "after" => &mut parts.after,
            _ => return Err(wrong()),
        };
        if slot.replace(lines.start() - 1..*lines.end()).is_some() {
            return Err(format!("{side} is named twice"));
        }
    }
    Ok(parts)
}
