//! `compare`

use std::path::PathBuf;

use clap::Args;

use super::{LookArgs, ReadArgs};

/// Show what changed between two files (the default)
#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline old.toml new.toml\n  \
    tideline --layout beside old.toml new.toml    before on the left, after on the right\n  \
    tideline --context all old.toml new.toml      the whole file around its changes\n  \
    sort levels.txt | tideline - sorted.txt       standard input as one side\n  \
    tideline <(ls north) <(ls south)              the output of two commands\n  \
    tideline --quiet a b && echo the same         for scripts")]
pub(crate) struct CompareArgs {
    /// The file before; `-` is standard input
    #[arg(value_name = "BEFORE")]
    pub(crate) before: PathBuf,
    /// The file after; `-` is standard input
    #[arg(value_name = "AFTER")]
    pub(crate) after: PathBuf,
    /// Print nothing; the exit status tells
    #[arg(short, long)]
    pub(crate) quiet: bool,
    /// Print JSON Lines for programs: a record for the pair, one for each change, and a summary
    #[arg(long, conflicts_with = "quiet")]
    pub(crate) json: bool,
    #[command(flatten)]
    pub(crate) read: ReadArgs,
    #[command(flatten)]
    pub(crate) look: LookArgs,
}
