//! `report`

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use tideline_views::Context;

use super::{FilesArgs, HoldArgs, PartArgs, ReadArgs, SideArgs, SyntaxChoice, WhatArgs, any_path, parse_context};

/// Write what differs as HTML, Markdown or JSON, for somebody who was not there
#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline report old.toml new.toml -o change.html --open      one page that needs nothing else\n  \
    tideline report release-1 release-2 -o site/                 an index, and a page for each file\n  \
    tideline report release-1 release-2 -o release-2.html        all of it in one page\n  \
    tideline report release-1 release-2 -o release-2.md          for a code review or a wiki\n  \
    tideline report release-1 release-2 -o - --format json       for a program\n  \
    tideline report --base spring keeper office -o both.html     what each side did since a common base\n\n\
    A page of a whole tree holds the changes of files up to 32 MB and says what it does not hold; a folder holds all. An earlier \
    report in the same place is replaced, and can be put back with `tideline undo`. The time in a report is that of \
    SOURCE_DATE_EPOCH, where that is set.")]
pub(crate) struct ReportArgs {
    /// The side before: a file, a folder, an archive, `git:REV`, an inventory; `-` is standard input
    #[arg(value_name = "BEFORE")]
    pub(crate) before: PathBuf,
    /// The side after; without it, the working folder after a `git:REV`
    #[arg(value_name = "AFTER", default_value = "", hide_default_value = true, value_parser = any_path())]
    pub(crate) after: PathBuf,
    /// Of two folders, only these paths in them
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,
    /// Tell what each side did since this common base, in three columns
    #[arg(long, value_name = "BASE", conflicts_with_all = ["sections", "with_notes", "hold", "pair"])]
    pub(crate) base: Option<PathBuf>,
    /// Where to: NAME.html, NAME.md, NAME.json, a FOLDER/ for a page of each file, or `-` for standard output
    #[arg(short, long, value_name = "OUT")]
    pub(crate) output: PathBuf,
    /// The format, where the name does not tell it
    #[arg(long, value_name = "FORMAT", value_enum)]
    pub(crate) format: Option<FormatChoice>,
    /// The title [default: what the sides are called]
    #[arg(long, value_name = "TEXT")]
    pub(crate) title: Option<String>,
    /// Changes shown of each file; how many were cut is said [default: 20 in Markdown, else all]
    #[arg(long, value_name = "N")]
    pub(crate) each_limit: Option<usize>,
    /// Tell which sections differ instead of lines: functions, classes, chapters, tables
    #[arg(long)]
    pub(crate) sections: bool,
    /// Add what was marked as seen and noted in `review` of the same two sides
    #[arg(long)]
    pub(crate) with_notes: bool,
    /// Show it in the desktop's browser
    #[arg(long)]
    pub(crate) open: bool,
    /// Equal lines shown around each change, or `all`, which shows very long lines whole too
    #[arg(long, value_name = "N|all", default_value = "3", value_parser = parse_context, help_heading = "How it looks")]
    pub(crate) context: Context,
    /// What is marked inside a line: `line`, `word`, `letter`, or what a `/regular expression/` matches
    #[arg(long, value_name = "GRAIN", default_value = "word", help_heading = "How it looks")]
    pub(crate) grain: String,
    /// Colour code by its syntax in HTML; `auto` does so in reports of up to 256 kB of text [default: auto]
    #[arg(long, value_name = "WHEN", value_enum, help_heading = "How it looks")]
    pub(crate) syntax: Option<SyntaxChoice>,
    /// Leave muted changes out
    #[arg(long, help_heading = "What counts")]
    pub(crate) counted_only: bool,
    #[command(flatten)]
    pub(crate) holds: HoldArgs,
    #[command(flatten)]
    pub(crate) part: PartArgs,
    #[command(flatten)]
    pub(crate) what: WhatArgs,
    #[command(flatten)]
    pub(crate) read: ReadArgs,
    #[command(flatten)]
    pub(crate) files: FilesArgs,
    #[command(flatten)]
    pub(crate) sides: SideArgs,
}

/// The format of a report.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum FormatChoice {
    /// A page for a browser
    Html,
    /// Text for a review or a wiki
    #[value(alias = "md")]
    Markdown,
    /// Records for programs
    Json,
    /// Two images and what differs, beside each other
    Png,
}
