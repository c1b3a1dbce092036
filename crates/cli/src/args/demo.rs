//! `demo`

use std::path::PathBuf;

use clap::Args;

/// Write the demo data to a new folder and show the commands at work on it
#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline demo               into ./tideline-demo; on a terminal, Enter goes on to the next stop\n  \
    tideline demo --no-pause /tmp/estuary")]
pub(crate) struct DemoArgs {
    /// The folder to make; it must not exist yet
    #[arg(value_name = "FOLDER", default_value = "tideline-demo")]
    pub(crate) folder: PathBuf,
    /// Do not wait for Enter between the stops of the tour
    #[arg(long)]
    pub(crate) no_pause: bool,
}
