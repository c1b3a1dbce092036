//! `compare`: what changed between two files or two trees.

mod files;
mod named;
mod once;
mod settings;
mod trees;
mod watch;

use anyhow::Result;

use super::Outcome;
use crate::args::CompareArgs;
use crate::settings::{Config, content_options, encodings, is_paged, look};
pub(super) use files::give_records;
pub(super) use named::{compare_asked, locate, narrowed};
use once::once;
use settings::Settings;
pub(super) use trees::{concluded, view_of};

pub(super) fn run(args: &CompareArgs) -> Result<Outcome> {
    let config = Config::load(&args.what)?;
    let contents = content_options(&args.what, &config, encodings(&args.read)?, args.counted_only)?;
    let settings =
        Settings { look: look(&args.look, &config.view)?, paged: is_paged(&args.look, &config.view), contents };
    if args.watch { watch::run(args, &settings) } else { once(args, &settings) }
}
