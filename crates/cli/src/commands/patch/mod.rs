//! `patch`: a patch that turns one file or tree into the other.

mod common;
mod extended;
mod file;
mod tree;

use anyhow::Result;

use super::Outcome;
use super::lines::AskedLines;
use super::request::{Asked, Request};
use super::resolve::Resolved;
use crate::args::{PatchArgs, ReadArgs};
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
    )?;
    match request.open()? {
        Resolved::Trees(trees) => tree::run(args, &request, &trees),
        Resolved::Files(sides) => file::run(args, &request, &sides),
    }
}
