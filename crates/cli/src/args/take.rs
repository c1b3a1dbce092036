//! `take`

use std::ops::RangeInclusive;
use std::path::PathBuf;

use clap::{ArgGroup, Args, ValueEnum};
use tideline_core::internal::merge::parse_numbers;

use super::{HoldArgs, LookArgs, ReadArgs, SideArgs, WhatArgs};

/// Carry chosen changes of two files into one of them
#[derive(Clone, Debug, Args)]
#[command(
    group = ArgGroup::new("which").required(true).multiple(true).args(["changes", "all_but", "lines", "ask"]),
    long_about = "Carry chosen changes of two files into one of them, by the numbers that `compare` prints with the same options.\n\n\
        --into before makes BEFORE more like AFTER; --into after makes AFTER more like BEFORE. All other lines stay as they are, byte for byte.",
    after_help = "Examples:\n  \
    tideline old.toml new.toml                                  see the changes and their numbers\n  \
    tideline take old.toml new.toml --changes 2,5-7 --into before   bring these into old.toml\n  \
    tideline take old.toml new.toml --all-but 3 --into before       all the others\n  \
    tideline take old.toml new.toml --changes 3 --into after        take change 3 back out of new.toml\n  \
    tideline take old.toml new.toml --lines after:13-14 --into before   only these lines of new.toml\n  \
    tideline take old.toml new.toml --changes 1 --into before -o mix.toml   both sides stay\n  \
    tideline take old.toml new.toml --ask --into before             be asked, change by change\n  \
    tideline take release-1 release-2 gauge.toml --ask --into before   of one file of two folders\n  \
    tideline undo                                               put it back"
)]
pub(crate) struct TakeArgs {
    /// The side before: a file, a folder, an archive, `git:REV`
    #[arg(value_name = "BEFORE")]
    pub(crate) before: PathBuf,
    /// The side after
    #[arg(value_name = "AFTER")]
    pub(crate) after: PathBuf,
    /// Of two folders, the file in them
    #[arg(value_name = "PATH")]
    pub(crate) path: Option<PathBuf>,
    /// Which side changes are carried into
    #[arg(long, value_name = "SIDE", value_enum)]
    pub(crate) into: SideChoice,
    /// These changes, by number: `2,5-7`
    #[arg(long, value_name = "NUMBERS", value_parser = numbers, conflicts_with_all = ["all_but", "ask"])]
    pub(crate) changes: Option<Numbers>,
    /// All changes but these
    #[arg(long, value_name = "NUMBERS", value_parser = numbers, conflicts_with_all = ["lines", "ask"])]
    pub(crate) all_but: Option<Numbers>,
    /// Single lines of changes: `before:13-14`, `after:20`; repeatable
    #[arg(long, value_name = "SIDE:NUMBERS", value_parser = lines, conflicts_with = "ask")]
    pub(crate) lines: Vec<Lines>,
    /// Go through the changes one by one and ask
    #[arg(long, conflicts_with = "json")]
    pub(crate) ask: bool,
    /// Write the result here, and leave both sides alone
    #[arg(short, long, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
    /// Show what would come of it, but write nothing
    #[arg(long)]
    pub(crate) dry_run: bool,
    /// Print JSON Lines for programs: a record for each change of the target, and one for the run
    #[arg(long)]
    pub(crate) json: bool,
    /// Number counted changes only, as `compare --counted-only` does
    #[arg(long, help_heading = "What counts")]
    pub(crate) counted_only: bool,
    #[command(flatten)]
    pub(crate) holds: HoldArgs,
    #[command(flatten)]
    pub(crate) what: WhatArgs,
    #[command(flatten)]
    pub(crate) read: ReadArgs,
    #[command(flatten)]
    pub(crate) sides: SideArgs,
    #[command(flatten)]
    pub(crate) look: LookArgs,
}

/// One of the two sides.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum SideChoice {
    Before,
    After,
}

/// Numbers, as ranges of them.
#[derive(Clone, Debug)]
pub(crate) struct Numbers(pub(crate) Vec<RangeInclusive<usize>>);

/// Lines of a side.
#[derive(Clone, Debug)]
pub(crate) struct Lines(pub(crate) SideChoice, pub(crate) Vec<RangeInclusive<usize>>);

pub(super) fn numbers(text: &str) -> Result<Numbers, String> {
    parse_numbers(text).map(Numbers).ok_or_else(|| "numbers are written as in 2,5-7".to_owned())
}

fn lines(text: &str) -> Result<Lines, String> {
    let wrong = || "lines are written as in before:13-14 or after:20".to_owned();
    let (side, text) = text.split_once(':').ok_or_else(wrong)?;
    let side = match side {
        "before" => SideChoice::Before,
        "after" => SideChoice::After,
        _ => return Err(wrong()),
    };
    parse_numbers(text).map(|numbers| Lines(side, numbers)).ok_or_else(wrong)
}
