//! `explain`

use std::path::PathBuf;

use clap::{ArgGroup, Args};

use super::{HoldArgs, ReadArgs, SideArgs, WhatArgs};

/// Say how files are read and why, and why a line or a change counts, is muted or is ignored
#[derive(Debug, Args)]
#[command(group = ArgGroup::new("where"), after_help = "Examples:\n  \
    tideline explain old.png new.png\n  \
    tideline explain --mute timestamps old.log new.log --line after:12\n  \
    tideline explain old.toml new.toml --change 2\n  \
    tideline explain release-1 release-2 src/main.rs --line before:40")]
pub(crate) struct ExplainArgs {
    /// The side before: a file, a folder, an archive, `git:REV`; `-` is standard input
    #[arg(value_name = "BEFORE")]
    pub(crate) before: PathBuf,
    /// The side after
    #[arg(value_name = "AFTER")]
    pub(crate) after: PathBuf,
    /// Of two folders, the file in them
    #[arg(value_name = "PATH")]
    pub(crate) path: Option<PathBuf>,
    /// The line, by its number on one side
    #[arg(long, value_name = "before:N|after:N", group = "where", value_parser = parse_line)]
    pub(crate) line: Option<LineChoice>,
    /// A change, by the number that `compare` prints; of text, all its lines
    #[arg(long, value_name = "N", group = "where", value_parser = clap::value_parser!(u32).range(1..))]
    pub(crate) change: Option<u32>,
    /// Print JSON Lines for programs: a record for each line, or for two that belong together
    #[arg(long)]
    pub(crate) json: bool,
    /// Number changes as `compare --counted-only` does
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
    pub(crate) colour: super::ColourArgs,
}

/// A line of one side, from 1.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum LineChoice {
    Before(usize),
    After(usize),
}

fn parse_line(text: &str) -> Result<LineChoice, String> {
    let wrong = || "give a side and a line number, as in before:12 or after:12".to_owned();
    let (side, number) = text.split_once(':').ok_or_else(wrong)?;
    let number = number.parse::<usize>().ok().filter(|number| *number > 0).ok_or_else(wrong)?;
    match side {
        "before" => Ok(LineChoice::Before(number)),
        "after" => Ok(LineChoice::After(number)),
        _ => Err(wrong()),
    }
}
