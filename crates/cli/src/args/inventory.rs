//! Arguments of `inventory`.

use std::path::PathBuf;

use clap::{Args, ValueEnum};

use super::{ColourArgs, FilesArgs, SideArgs};

/// Write down the paths, sizes and hashes of a tree, to compare with later or elsewhere
#[derive(Clone, Debug, Args)]
#[command(
    long_about = "Write down the paths, sizes, times and hashes of a tree, to compare with later or elsewhere.\n\n\
        An inventory is JSON Lines: a head, a record for each entry, and totals with a hash over all. It stands for the tree wherever a \
        side does, but for the contents: `tideline kit.jsonl kit` says which files changed since.",
    after_help = "Examples:\n  \
        tideline inventory kit -o kit.jsonl             write it down\n  \
        tideline inventory --check kit.jsonl            what is missing, extra or altered since\n  \
        tideline inventory --check kit.jsonl backup     the same of another folder\n  \
        tideline inventory --check SHA256SUMS release   a list of checksums does as well\n  \
        tideline kit.jsonl kit                          the same as a comparison, with what moved"
)]
pub(crate) struct InventoryArgs {
    /// The tree: a folder, an archive, or `git:REV`; with --check, the one that the inventory names if it is left out
    #[arg(value_name = "TREE", required_unless_present = "check")]
    pub(crate) tree: Option<PathBuf>,
    /// Where it goes; `-` is standard output
    #[arg(short, long, value_name = "FILE", required_unless_present = "check", conflicts_with = "check")]
    pub(crate) output: Option<PathBuf>,
    /// Hash files with this algorithm too
    #[arg(long, value_name = "ALGORITHM", value_enum, conflicts_with = "check")]
    pub(crate) hash: Option<HashChoice>,
    /// Say what is missing, extra or altered in a tree since this inventory was made; a list of checksums does as well
    #[arg(long, value_name = "FILE")]
    pub(crate) check: Option<PathBuf>,
    /// With --check, print JSON Lines for programs
    #[arg(long, requires = "check")]
    pub(crate) json: bool,
    #[command(flatten)]
    pub(crate) files: FilesArgs,
    #[command(flatten)]
    pub(crate) sides: SideArgs,
    #[command(flatten)]
    pub(crate) colour: ColourArgs,
}

/// A hash besides BLAKE3.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum HashChoice {
    /// SHA-256
    Sha256,
}
