//! `patch`: a patch that turns one file or tree into the other.

mod common;
mod data;
mod extended;
mod file;
mod tree;

use anyhow::{Result, bail};

use super::Outcome;
use super::lines::AskedLines;
use super::request::{Asked, Request};
use super::resolve::Resolved;
use crate::args::{PatchArgs, PatchFormat, ReadArgs};
use crate::settings::Config;
pub(super) use common::is_patch;

pub(super) fn run(args: &PatchArgs) -> Result<Outcome> {
    let config = Config::load(&args.what)?;
    let PatchArgs { before, after, what, files, counted_only, sides, .. } = args;
    let (paths, read) = (&[][..], &ReadArgs { kind: args.kind, ..ReadArgs::default() });
    let lines = AskedLines::default();
    let request = Request::new(
        &Asked { before, after, paths, what, read, files, sides, counted_only: *counted_only, lines },
        &config,
    )?
    .lines_only()
    .by_bytes();
    let is_data = matches!(args.format, PatchFormat::JsonPatch | PatchFormat::MergePatch);
    match request.open()? {
        Resolved::Trees(_) if is_data => {
            bail!("a patch of JSON is about two files; --format unified or extended carries two folders")
        }
        Resolved::Files(sides) if is_data => data::run(args, &request, &sides),
        Resolved::Trees(trees) => tree::run(args, &request, &trees),
        Resolved::Files(sides) => file::run(args, &request, &sides),
    }
}
