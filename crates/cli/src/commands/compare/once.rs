//! One comparison.

use anyhow::Result;

use super::settings::Settings;
use super::{files, trees};
use crate::args::CompareArgs;
use crate::commands::Outcome;
use crate::commands::resolve::{Resolved, refuse_paths, resolve_both};
use crate::settings::side_options;

/// Compares two files, or two trees.
pub(super) fn once(args: &CompareArgs, settings: &Settings) -> Result<Outcome> {
    match resolve_both((&args.before, &args.after), &side_options(&args.files), &settings.contents)? {
        Resolved::Trees(trees) => trees::run(args, settings, &trees),
        Resolved::Files(sides) => {
            refuse_paths(&args.paths, &args.before, &args.after)?;
            files::run(args, settings, &sides)
        }
    }
}
