//! `merge`: what two sides changed since a common base, brought together.

mod files;
mod told;
mod trees;
mod unresolved;

use anyhow::{Result, bail};
use tideline_core::internal::merge::{Insertions, Marks, MergeOptions, Prefer, Three};

pub(crate) use trees::decide_one;

use super::Outcome;
use super::versions::{OpenedVersions, open_versions};
use crate::args::{GrainChoice, InsertionsChoice, MergeArgs, OnOff, PreferChoice};
use crate::settings::{Config, content_options, encodings, kind, side_options};

pub(super) fn run(args: &MergeArgs) -> Result<Outcome> {
    if !args.unresolved.is_empty() {
        return unresolved::run(args);
    }
    let (Some(base), Some(mine), Some(theirs)) = (&args.base, &args.mine, &args.theirs) else {
        bail!("cannot merge: name the base and both sides");
    };
    let config = Config::load(&args.what)?;
    let contents = content_options(&args.what, &config, encodings(&args.read)?, false)?.kind(kind(args.read.kind));
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

/// How texts are merged.
fn options(args: &MergeArgs) -> MergeOptions {
    MergeOptions::default()
        .by_words(args.grain == GrainChoice::Word)
        .both_insertions(args.both_insertions.map(|order| match order {
            InsertionsChoice::MineFirst => Insertions::MineFirst,
            InsertionsChoice::TheirsFirst => Insertions::TheirsFirst,
        }))
        .prefer(prefer(args))
}

/// Which side decides conflicts.
fn prefer(args: &MergeArgs) -> Option<Prefer> {
    args.prefer.map(|side| match side {
        PreferChoice::Mine => Prefer::Mine,
        PreferChoice::Theirs => Prefer::Theirs,
    })
}

/// How conflicts are marked.
fn marks(args: &MergeArgs, labels: &Three<String>) -> Marks {
    Marks { labels: labels.clone(), base_text: args.base_text == OnOff::On }
}
