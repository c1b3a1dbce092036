//! `demo`

use std::path::PathBuf;

use clap::Args;

/// Write the demo data to a new folder and show the commands at work on it
#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  tideline demo               into ./tideline-demo\n  tideline demo /tmp/estuary")]
pub(crate) struct DemoArgs {
    /// The folder to make; it must not exist yet
    #[arg(value_name = "FOLDER", default_value = "tideline-demo")]
    pub(crate) folder: PathBuf,
}
