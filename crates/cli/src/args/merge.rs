//! `merge`

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use tideline_views::Context;

use super::show::{LayoutChoice, LookArgs, parse_context};
use super::{ColourArgs, FilesArgs, ReadArgs, SideArgs, WhatArgs};

/// Bring together what two sides changed since a common base, in files or folders
#[derive(Clone, Debug, Args)]
#[command(
    long_about = "Bring together what two sides changed since a common base, in files or folders.\n\n\
        What one side alone changed is taken, and what both changed alike is taken once. Where both changed the same lines, the \
        result holds both versions between marks that editors know, and the exit status is 1. Of files, the result goes to standard \
        output, or with -o into a file, which may be MINE. Of folders, what would be done is printed; --go does it.",
    after_help = "Examples:\n  \
    tideline merge base.toml mine.toml theirs.toml                the result on standard output\n  \
    tideline merge base.toml mine.toml theirs.toml -o mine.toml   the result in mine.toml\n  \
    tideline merge --list base.toml mine.toml theirs.toml         print the conflicts, write nothing\n  \
    tideline merge --grain word base.txt mine.txt theirs.txt      merge words within a line too\n  \
    tideline merge --prefer theirs base.txt mine.txt theirs.txt   conflicts go to theirs\n  \
    tideline merge spring keeper office -o keeper                 what would be done to keeper\n  \
    tideline merge spring keeper office -o merged --go            do it, into a new folder\n  \
    tideline merge --unresolved .                                 what is left to decide in files\n\n\
    As the merge program of a repository, in its configuration:\n  \
    [merge \"tideline\"]\n    \
    driver = tideline merge %O %A %B -o %A --name %P --labels %S %X %Y\n\n\
    Exit status: 0 merged; 1 conflicts left, or a plan that was not carried out; 2 it could not be done."
)]
pub(crate) struct MergeArgs {
    /// What both sides come from: a file, a folder, an archive, `git:REV`
    #[arg(value_name = "BASE", required_unless_present = "unresolved")]
    pub(crate) base: Option<PathBuf>,
    /// One side
    #[arg(value_name = "MINE", required_unless_present = "unresolved")]
    pub(crate) mine: Option<PathBuf>,
    /// The other side
    #[arg(value_name = "THEIRS", required_unless_present = "unresolved")]
    pub(crate) theirs: Option<PathBuf>,
    /// Where the result goes; of folders, MINE or a new folder
    #[arg(short, long, value_name = "OUT")]
    pub(crate) output: Option<PathBuf>,
    /// What the base and the sides are called in marks and messages [default: the parts of their paths that tell them apart]
    #[arg(long, num_args = 3, value_names = ["BASE", "MINE", "THEIRS"])]
    pub(crate) labels: Vec<String>,
    /// The path that the file has where it belongs: rules, and how it is read, go by it
    #[arg(long, value_name = "PATH")]
    pub(crate) name: Option<PathBuf>,
    /// What merges by itself: edits of different lines, or of different words in one line too
    #[arg(long, value_name = "GRAIN", value_enum, default_value_t = GrainChoice::Line)]
    pub(crate) grain: GrainChoice,
    /// Keep lines that both sides put in at one place, in this order; without it, they are a conflict
    #[arg(long, value_name = "ORDER", value_enum)]
    pub(crate) both_insertions: Option<InsertionsChoice>,
    /// Let this side decide conflicts
    #[arg(long, value_name = "SIDE", value_enum)]
    pub(crate) prefer: Option<PreferChoice>,
    /// Whether the lines of the base stand between those of both sides in a marked conflict
    #[arg(long, value_name = "WHEN", value_enum, default_value_t = OnOff::On)]
    pub(crate) base_text: OnOff,
    /// Print the conflicts and write nothing
    #[arg(long, conflicts_with_all = ["output", "go"])]
    pub(crate) list: bool,
    /// Find what is left to decide in these files and folders: marked conflicts, and versions beside files
    #[arg(long, value_name = "PATH", num_args = 1.., conflicts_with_all = ["base", "output", "list", "go", "prefer", "labels"])]
    pub(crate) unresolved: Vec<PathBuf>,
    /// Of folders, do it, and not only say it
    #[arg(long, requires = "output")]
    pub(crate) go: bool,
    /// Say what would come of it, and write nothing
    #[arg(long, conflicts_with = "go")]
    pub(crate) dry_run: bool,
    /// Print JSON Lines for programs: a record for each region or path, and a summary
    #[arg(long)]
    pub(crate) json: bool,
    #[command(flatten)]
    pub(crate) what: WhatArgs,
    #[command(flatten)]
    pub(crate) read: ReadArgs,
    #[command(flatten)]
    pub(crate) files: FilesArgs,
    #[command(flatten)]
    pub(crate) sides: SideArgs,
    #[command(flatten)]
    pub(crate) colour: ColourArgs,
    /// With --list, how conflicts are laid out [default: three columns on a terminal of 150 columns or more, else stacked]
    #[arg(long, value_name = "LAYOUT", value_enum, help_heading = "How it looks")]
    pub(crate) layout: Option<LayoutChoice>,
    /// With --list, equal lines shown around each conflict, or `all` [default: 3]
    #[arg(long, value_name = "N|all", value_parser = parse_context, help_heading = "How it looks")]
    pub(crate) context: Option<Context>,
    /// Columns to draw in [default: those of the terminal, else 100]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(40..), help_heading = "How it looks")]
    pub(crate) width: Option<u16>,
}

impl MergeArgs {
    /// How conflicts are drawn.
    pub(crate) fn look(&self) -> LookArgs {
        LookArgs {
            colour: self.colour.for_records(self.json),
            layout: self.layout,
            context: self.context,
            grain: None,
            syntax: None,
            width: self.width,
            no_legend: false,
            no_preview: true,
            no_pager: true,
        }
    }
}

/// What merges by itself.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum GrainChoice {
    Line,
    Word,
}

/// In which order lines that both sides put in follow each other.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum InsertionsChoice {
    MineFirst,
    TheirsFirst,
}

/// One of the two sides of a merge.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum PreferChoice {
    Mine,
    Theirs,
}

/// Whether something is so.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum OnOff {
    On,
    Off,
}
