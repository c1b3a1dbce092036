//! `review`

use std::path::PathBuf;

use clap::Args;

use super::align::pair;
use super::{FilesArgs, HoldArgs, LookArgs, ReadArgs, SideArgs, WhatArgs, any_path};

/// Compare two files or folders full screen: walk, step, carry changes across, save
#[derive(Clone, Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline review spring autumn                 walk the tree, open a file with Enter\n  \
    tideline review spring/a.toml autumn/a.toml   two files\n  \
    tideline review spring autumn stations        only what is below one folder\n  \
    tideline review --ignore space spring autumn  with rules, as compare has them\n  \
    tideline review --base spring keeper office   bring both sides together, conflict by conflict\n\n\
    On the screen, the lowest line shows the keys of the place; ? lists all of them. Nothing is written until it is saved, and \
    `tideline undo` puts back what was.")]
pub(crate) struct ReviewArgs {
    /// The side before: a file, a folder, an archive, `git:REV`, an inventory
    #[arg(value_name = "BEFORE")]
    pub(crate) before: PathBuf,
    /// The side after; without it, the working folder after a `git:REV`
    #[arg(value_name = "AFTER", default_value = "", hide_default_value = true, value_parser = any_path())]
    pub(crate) after: PathBuf,
    /// Of two folders, only these paths in them
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,
    /// Bring together what both sides changed since this common base: a third pane shows the result
    #[arg(long, value_name = "BASE", conflicts_with_all = ["pair", "hold"])]
    pub(crate) base: Option<PathBuf>,
    /// With --base, where the result is saved [default: BEFORE]
    #[arg(short, long, value_name = "FILE", requires = "base")]
    pub(crate) output: Option<PathBuf>,
    /// Leave muted changes out of the view
    #[arg(long, help_heading = "What counts")]
    pub(crate) counted_only: bool,
    #[command(flatten)]
    pub(crate) holds: HoldArgs,
    /// Of two folders, compare what is at OLD before with what is at NEW after; repeatable
    #[arg(long, value_name = "OLD=NEW", value_parser = pair, help_heading = "What is compared")]
    pub(crate) pair: Vec<(PathBuf, PathBuf)>,
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
