//! `sync`

use std::path::PathBuf;

use clap::Args;

use super::{ColourArgs, FilesArgs, SideArgs, WhatArgs};

/// Make the folder INTO like the folder FROM; prints what would be done, and does it with --go
#[derive(Debug, Args)]
#[command(
    long_about = "Make the folder INTO like the folder FROM.\n\n\
        Without --go nothing is written: what would be done is printed, and the command that does it. What is new or changed in \
        FROM is copied into INTO; what only INTO has stays. With --mirror it goes, and a file that has moved is moved. Statuses (--only) tell what happens to INTO: `new` is what only FROM has, `gone` \
        what only INTO has. Pairs that differ only in what the rules mute or ignore are left alone.",
    after_help = "Examples:\n  \
    tideline sync release backup                       what would be done to make backup like release\n  \
    tideline sync release backup --go                  do it\n  \
    tideline sync release backup --mirror --go         also remove what release does not have\n  \
    tideline sync desk laptop --both-ways              carry each difference from its newer side to the older\n  \
    tideline sync release backup --save-plan p.plan    keep the plan; look at it\n  \
    tideline sync --plan p.plan --go                   … and carry out just that, or nothing\n  \
    tideline undo                                      put everything back as it was\n\n\
    Exit status: 0 nothing to do, or all done; 1 steps not carried out without --go, or undecided; 2 something was left out, or refused."
)]
pub(crate) struct SyncArgs {
    /// The folder that is carried from, or an archive or `git:REV`
    #[arg(value_name = "FROM", required_unless_present = "plan")]
    pub(crate) from: Option<PathBuf>,
    /// The folder that becomes like it; made if it is missing
    #[arg(value_name = "INTO", required_unless_present = "plan")]
    pub(crate) into: Option<PathBuf>,
    /// Only these files and folders, by their paths in FROM and INTO
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,
    /// Do it, and not only say it
    #[arg(long)]
    pub(crate) go: bool,
    /// Only say what would be done; that is so without --go anyway
    #[arg(long, conflicts_with = "go")]
    pub(crate) dry_run: bool,
    /// Also remove what FROM does not have; without it, nothing is removed and nothing is moved away
    #[arg(long, conflicts_with = "both_ways")]
    pub(crate) mirror: bool,
    /// Replace or remove only what is older than in FROM; what only INTO has goes if FROM's folder is newer
    #[arg(long, conflicts_with = "both_ways")]
    pub(crate) newer: bool,
    /// Carry each difference from its newer side to the older; what that does not decide is listed and left
    #[arg(long)]
    pub(crate) both_ways: bool,
    /// Allow more than half of the files that were looked at to be removed
    #[arg(long, requires = "mirror")]
    pub(crate) remove_many: bool,
    /// Keep the plan in this file; one that is there already goes to the journal
    #[arg(long, value_name = "FILE", conflicts_with = "go")]
    pub(crate) save_plan: Option<PathBuf>,
    /// Take the plan from this file; with --go, carry out just that, or nothing if something changed since
    #[arg(long, value_name = "FILE", conflicts_with_all = ["from", "save_plan", "mirror", "newer", "both_ways"])]
    pub(crate) plan: Option<PathBuf>,
    /// Print JSON Lines for programs: a record for each step, for what is undecided, and for the run
    #[arg(long)]
    pub(crate) json: bool,
    #[command(flatten)]
    pub(crate) what: WhatArgs,
    #[command(flatten)]
    pub(crate) files: FilesArgs,
    #[command(flatten)]
    pub(crate) sides: SideArgs,
    #[command(flatten)]
    pub(crate) colour: ColourArgs,
}
