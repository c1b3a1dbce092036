//! `patch`: a patch that turns one file or tree into the other.

mod common;
mod extended;
mod file;
mod tree;

use anyhow::Result;

use super::Outcome;
use super::resolve::{Resolved, resolve_both};
use crate::args::PatchArgs;
use crate::settings::{Config, content_options, side_options};
pub(super) use common::is_patch;

pub(super) fn run(args: &PatchArgs) -> Result<Outcome> {
    let config = Config::load(&args.what)?;
    let contents = content_options(&args.what, &config, (None, None), args.counted_only)?;
    match resolve_both((&args.before, &args.after), &side_options(&args.files), &contents)? {
        Resolved::Trees(trees) => tree::run(args, &trees),
        Resolved::Files(sides) => file::run(args, &sides, &contents),
    }
}
