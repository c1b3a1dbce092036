//! `compare`

use std::path::PathBuf;

use clap::{Args, ValueEnum};

use super::take::{Numbers, numbers};
use super::{FilesArgs, HoldArgs, LookArgs, PartArgs, ReadArgs, SideArgs, WhatArgs, any_path};

/// Show what changed between two files or folders (the default)
#[derive(Clone, Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline old.toml new.toml\n  \
    tideline release-1 release-2                  which files differ between two folders\n  \
    tideline release-1 release-2 src/main.rs      what changed in one of them\n  \
    tideline --each-file --only changed one two   and in all of them\n  \
    tideline --folders --depth 1 release-1 release-2   how much differs in each folder\n  \
    tideline --sort lines release-1 release-2     the files with the most lines that differ first\n  \
    tideline --sections release-1 release-2       which functions changed, file by file\n  \
    tideline --repeats release-1 release-2        which edits were made again and again\n  \
    tideline --layout beside old.toml new.toml    before on the left, after on the right\n  \
    tideline --changes 5,7-9 old.toml new.toml    only these changes\n  \
    tideline --context all old.toml new.toml      the whole file around its changes\n  \
    sort levels.txt | tideline - sorted.txt       standard input as one side\n  \
    tideline release-1.zip project                an archive as one side\n  \
    tideline git:HEAD~3                           the working folder since three commits ago\n  \
    tideline git:main git:HEAD src                a folder in two revisions\n  \
    tideline <(ls north) <(ls south)              the output of two commands\n  \
    tideline --mute timestamps old.log new.log    two runs of one program\n  \
    tideline --ignore space,comments one two      all but what a formatter did\n  \
    tideline --base spring keeper office          what each side did since a common base\n  \
    tideline --quiet a b && echo the same         for scripts")]
pub(crate) struct CompareArgs {
    /// The side before: a file, a folder, an archive, `git:REV`, an inventory; `-` is standard input
    #[arg(value_name = "BEFORE")]
    pub(crate) before: PathBuf,
    /// The side after; without it, the working folder after a `git:REV`
    #[arg(value_name = "AFTER", default_value = "", hide_default_value = true, value_parser = any_path())]
    pub(crate) after: PathBuf,
    /// Of two folders, only these paths in them; one file is shown with its changes
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,
    /// Tell what each side did since this common base
    #[arg(long, value_name = "BASE", conflicts_with_all = ["each_file", "changes", "sections", "repeats", "folders", "flat", "null", "watch"])]
    pub(crate) base: Option<PathBuf>,
    /// Of two folders, print the changes of every file below the tree
    #[arg(long)]
    pub(crate) each_file: bool,
    /// Only these changes, by number: `2,5-7`; of two files, or of one file of two folders
    #[arg(long, value_name = "NUMBERS", value_parser = numbers,
        conflicts_with_all = ["each_file", "json", "flat", "null", "quiet", "watch"])]
    pub(crate) changes: Option<Numbers>,
    /// Print which sections differ instead of lines: functions, classes, chapters, tables
    #[arg(long, conflicts_with_all = ["flat", "null", "quiet", "each_file", "watch"])]
    pub(crate) sections: bool,
    /// Print edits of words that occur more than once, the most frequent first, instead of lines
    #[arg(long, conflicts_with_all = ["sections", "flat", "null", "quiet", "each_file", "watch"])]
    pub(crate) repeats: bool,
    /// Of two folders, print a line with totals for each folder; with --depth, deeper ones are counted for the folder at that depth
    #[arg(long, conflicts_with_all = ["flat", "null", "quiet", "json", "each_file", "sections", "repeats", "watch"])]
    pub(crate) folders: bool,
    /// Of two folders, the order of what is printed; all but `path` print the largest or latest first
    #[arg(long, value_name = "BY", value_enum, default_value_t, conflicts_with_all = ["folders", "watch"])]
    pub(crate) sort: SortBy,
    /// Of two folders, print only the paths of what differs, one a line; what is only muted too, unless `--counted-only`
    #[arg(long, conflicts_with_all = ["json", "each_file"])]
    pub(crate) flat: bool,
    /// Like --flat, but end each path with a NUL, for names that hold line ends
    #[arg(short = '0', conflicts_with_all = ["json", "each_file"])]
    pub(crate) null: bool,
    /// Print nothing; the exit status tells
    #[arg(short, long)]
    pub(crate) quiet: bool,
    /// Print JSON Lines for programs: a record for the pair, one for each change, and a summary
    #[arg(long, conflicts_with = "quiet")]
    pub(crate) json: bool,
    /// Compare again whenever a file of either side is saved, and say what became different
    #[arg(long, conflicts_with_all = ["json", "quiet", "flat", "null"])]
    pub(crate) watch: bool,
    /// Leave muted changes out of the view
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
    #[command(flatten)]
    pub(crate) look: LookArgs,
}

/// What the order of pairs goes by.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum SortBy {
    /// Their paths
    #[default]
    Path,
    /// How many changes count
    Changes,
    /// How many lines differ
    Lines,
    /// How large the files are
    Size,
    /// When they were changed last
    Time,
}
