//! What a maintainer runs: `cargo xtask screenshots`, `cargo xtask bench`, `cargo xtask trial`.

mod bench;
mod screenshots;
mod trial;
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
    /// Measure the whole program, as ratios to what the design names
    Bench {
        /// Only the rows whose names contain this: tiny, logs, unrelated, doubled, worst
        only: Option<String>,
        /// Inputs a tenth the size
        #[arg(long)]
        quick: bool,
        /// Print instead how close the scripts of these pairs of files are to the smallest
        #[arg(long, num_args = 2.., value_names = ["BEFORE", "AFTER"])]
        pairs: Vec<std::path::PathBuf>,
    },
    /// Run a long trial, of which the test suite holds a sample
    Trial {
        /// Which one
        #[arg(value_enum)]
        trial: trial::Trial,
        /// About how many calls of a file system it makes (journal), ten times the cases (apply), or the cases (merge)
        #[arg(long, default_value_t = 1_000_000)]
        calls: usize,
        /// A folder of pairs of trees to read (reading), each a folder that holds `before` and `after`; of triples (merge)
        #[arg(long, value_name = "FOLDER")]
        pairs: Option<std::path::PathBuf>,
    },
}

fn main() -> Result<()> {
    match Task::parse() {
        Task::Screenshots { only } => screenshots::draw(only.as_deref()),
        Task::Bench { only, quick, pairs } => bench::run(only.as_deref(), quick, &pairs),
        Task::Trial { trial, calls, pairs } => trial::run(trial, calls, pairs.as_deref()),
    }
}

/// The folder of the workspace.
fn root() -> &'static std::path::Path {
    std::path::Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap_or(std::path::Path::new("."))
}
