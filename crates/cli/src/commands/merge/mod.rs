//! `merge`: what two sides changed since a common base, brought together.

mod files;
mod options;
mod told;
mod trees;
mod unresolved;

use anyhow::{Result, bail};
use tideline_core::internal::merge::Three;

pub(crate) use trees::decide_one;

use super::Outcome;
use super::versions::{OpenedVersions, open_versions};
use crate::args::MergeArgs;
use crate::settings::{Config, content_options, encodings, how, kind, side_options};

pub(super) fn run(args: &MergeArgs) -> Result<Outcome> {
    if !args.unresolved.is_empty() {
        return unresolved::run(args);
    }
    let (Some(base), Some(mine), Some(theirs)) = (&args.base, &args.mine, &args.theirs) else {
        bail!("cannot merge: name the base and both sides");
    };
    let config = Config::load(&args.what)?;
    let contents = content_options(&args.what, &config, encodings(&args.read)?, false)?
        .kind(kind(args.read.kind))
        .how(how(&args.read.how));
    let paths = Three::new(base.as_path(), mine.as_path(), theirs.as_path());
    match open_versions(paths, &side_options(&args.files, &args.sides, args.read.kind), &args.labels)? {
        OpenedVersions::Files(files) => {
            if args.go {
                bail!("--go is for folders: with -o, the result of two files is written at once");
            }
            files::run(args, &config, &contents, &files)
        }
        OpenedVersions::Trees(trees) => trees::run(args, &config, &contents, &trees),
    }
}
