//! `patch`

use std::path::PathBuf;

use clap::Args;
use tideline_views::Context;

use super::{FilesArgs, KindArgs, SideArgs, WhatArgs, any_path, parse_context};

/// How a patch is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
pub(crate) enum PatchFormat {
    /// The unified format of POSIX: changed, new and gone texts
    Unified,
    /// The same with further headers that several programs read: modes, moves, links, empty files, contents that are not text
    Extended,
    /// Of two JSON files: operations by RFC 6902, with tests of what they replace
    JsonPatch,
    /// Of two JSON files: what changes in a map, by RFC 7396; nulls and edits inside lists cannot be said
    MergePatch,
}

/// Write a patch that turns BEFORE into AFTER, in the POSIX unified format
#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline patch old.toml new.toml\n  \
    tideline patch old.toml new.toml -o interval.patch\n  \
    tideline patch --labels spring,autumn release-1 release-2 -o release-2.patch\n  \
    tideline patch --labels spring/gauge.toml,autumn/gauge.toml old.toml new.toml\n  \
    tideline patch --format extended release-1 release-2 -o release-2.patch   also modes, moves, links, pictures\n  \
    tideline patch --format json-patch old.json new.json -o settings.patch.json")]
pub(crate) struct PatchArgs {
    /// The side before: a file, a folder, an archive, `git:REV`, an inventory; `-` is standard input
    #[arg(value_name = "BEFORE")]
    pub(crate) before: PathBuf,
    /// The side after; without it, the working folder after a `git:REV`
    #[arg(value_name = "AFTER", default_value = "", hide_default_value = true, value_parser = any_path())]
    pub(crate) after: PathBuf,
    /// Write to this file instead of standard output; one that is there can be put back with `tideline undo`
    #[arg(short, long, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
    /// Equal lines written around each change, or `all`
    #[arg(long, value_name = "N|all", default_value = "3", value_parser = parse_context)]
    pub(crate) context: Context,
    /// The names in the two header lines, instead of the paths and their times; of two folders, what stands before each path
    #[arg(long, value_name = "BEFORE,AFTER", value_parser = parse_labels)]
    pub(crate) labels: Option<(String, String)>,
    /// How it is written
    #[arg(long, value_name = "FORMAT", default_value = "unified")]
    pub(crate) format: PatchFormat,
    /// Leave out what does not count: it stays as it is in BEFORE
    #[arg(long, help_heading = "What counts")]
    pub(crate) counted_only: bool,
    #[command(flatten)]
    pub(crate) what: WhatArgs,
    #[command(flatten)]
    pub(crate) kind: KindArgs,
    #[command(flatten)]
    pub(crate) files: FilesArgs,
    #[command(flatten)]
    pub(crate) sides: SideArgs,
}

fn parse_labels(text: &str) -> Result<(String, String), String> {
    match text.split_once(',') {
        Some((before, after)) if !before.is_empty() && !after.is_empty() && !after.contains(',') => {
            Ok((before.to_owned(), after.to_owned()))
        }
        _ => Err("give two names with one comma between them".to_owned()),
    }
}
