//! `patch`: a patch that turns one file or tree into the other.

mod common;
mod extended;
mod file;
mod tree;

use anyhow::Result;

use super::Outcome;
use crate::args::PatchArgs;
pub(super) use common::is_patch;

pub(super) fn run(args: &PatchArgs) -> Result<Outcome> {
    if args.before.is_dir() && args.after.is_dir() { tree::run(args) } else { file::run(args) }
}
