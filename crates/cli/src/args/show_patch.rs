//! `show`

use std::path::PathBuf;

use clap::Args;

use super::LookArgs;

/// Draw an existing patch like a comparison
#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline show fix.patch\n  \
    tideline show --layout beside --width 160 fix.patch")]
pub(crate) struct ShowArgs {
    /// The patch; `-` is standard input
    #[arg(value_name = "PATCH")]
    pub(crate) patch: PathBuf,
    #[command(flatten)]
    pub(crate) look: LookArgs,
}
