//! What a maintainer runs: `cargo xtask screenshots`.

mod screenshots;
mod window;

use anyhow::Result;
use clap::Parser;

/// Chores of the maintainers
#[derive(Parser)]
#[command(name = "cargo xtask")]
enum Task {
    /// Draw the pictures in docs/screenshots anew, from the demo data
    Screenshots {
        /// Only the pictures whose names contain this
        only: Option<String>,
    },
}

fn main() -> Result<()> {
    match Task::parse() {
        Task::Screenshots { only } => screenshots::draw(only.as_deref()),
    }
}

/// The folder of the workspace.
fn root() -> &'static std::path::Path {
    std::path::Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap_or(std::path::Path::new("."))
}
