//! One comparison.

use anyhow::Result;

use super::settings::Settings;
use super::{files, trees};
use crate::args::CompareArgs;
use crate::commands::Outcome;

/// Compares two files, or two trees.
pub(super) fn once(args: &CompareArgs, settings: &Settings) -> Result<Outcome> {
    let folders = args.before.is_dir() && args.after.is_dir();
    if folders { trees::run(args, settings) } else { files::run(args, settings) }
}
