//! `apply`

use std::path::PathBuf;

use clap::{Args, ValueEnum};

/// Put patches into files or a folder, or take them out; all of it or nothing
#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline apply fix.patch                       into the files it names, below this folder\n  \
    tideline apply --dry-run fix.patch             try it, and write nothing\n  \
    tideline apply --into ../release fix.patch     below another folder\n  \
    tideline apply --into levels.py fix.patch      into one file, whatever it is called in the patch\n  \
    tideline apply --keep-going fix.patch          place what fits; the rest goes to fix.leftover.patch\n  \
    tideline apply --reverse fix.patch             take it out again\n  \
    tideline apply --into gauge.json new.patch.json   a JSON Patch (RFC 6902), known by its contents\n  \
    tideline undo                                  put everything back as it was")]
pub(crate) struct ApplyArgs {
    /// The patches, in order (with `--reverse`, the last one comes out first); also compressed with gzip, or in a mail; `-` is standard input
    #[arg(value_name = "PATCH", required = true)]
    pub(crate) patches: Vec<PathBuf>,
    /// The folder that names in the patch are looked for in, or the one file that the patch is for
    #[arg(long, value_name = "PATH")]
    pub(crate) into: Option<PathBuf>,
    /// Write the result of a patch of one file here, and leave its target alone
    #[arg(short, long, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
    /// Drop so many leading folders of each name [default: found out from the files that exist]
    #[arg(long, value_name = "N")]
    pub(crate) drop_folders: Option<usize>,
    /// How many outer context lines at either end of a hunk need not hold. More slack never makes it guess: where two places are about as
    /// good, or lines that the hunk adds are there already, it is refused
    #[arg(long, value_name = "N", default_value_t = 2)]
    pub(crate) slack: usize,
    /// What does not matter when lines are found again: `space`, `space-amount`, `case`, `comments`, …; repeatable
    #[arg(long, value_name = "WHAT,…", allow_hyphen_values = true)]
    pub(crate) ignore: Vec<String>,
    /// Take the patch out instead of putting it in
    #[arg(long)]
    pub(crate) reverse: bool,
    /// Place what fits, and write the other hunks as a patch of their own, NAME.leftover.patch
    #[arg(long)]
    pub(crate) keep_going: bool,
    /// Place what fits, and put each other hunk into its file as a conflict, between `<<<<<<<` and `>>>>>>>`
    #[arg(long, conflicts_with = "keep_going")]
    pub(crate) mark: bool,
    /// Try it and say what would be done, but write nothing
    #[arg(long)]
    pub(crate) dry_run: bool,
    /// Also keep a copy of each file beside it, with this ending; no such file may be there yet
    #[arg(long, value_name = "SUFFIX")]
    pub(crate) backup: Option<String>,
    /// How the patches are written, where that cannot be seen: `merge-patch` (RFC 7396) for the JSON file that --into names
    #[arg(long, value_name = "FORMAT", value_enum, requires = "into")]
    pub(crate) format: Option<ApplyFormat>,
    /// Print JSON Lines for programs: a record for each file, and one for the run
    #[arg(long)]
    pub(crate) json: bool,
    #[command(flatten)]
    pub(crate) colour: super::ColourArgs,
}

/// How a patch is written that does not say so itself.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ApplyFormat {
    /// What changes in a map of JSON, null for what goes (RFC 7396)
    MergePatch,
}
