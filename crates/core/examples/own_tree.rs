//! Compares two trees that are no folders: here, settings held in memory. `cargo run --example own_tree`

use tideline_core::{MemoryTree, Options, compare_trees};

fn main() {
    let spring = MemoryTree::new()
        .file("stations/mouth.toml", "interval = 60\n")
        .file("stations/quay.toml", "interval = 60\n")
        .file("notes.txt", "The gauge at the quay was cleaned.\n");
    let autumn = MemoryTree::new()
        .file("stations/mouth.toml", "interval = 30\n")
        .file("stations/pier.toml", "interval = 10\n")
        .file("notes.txt", "The gauge at the quay was cleaned.\n");
    let comparison = compare_trees(&spring, &autumn, &Options::new());
    for pair in &comparison.pairs {
        println!("{:8} {}", pair.status.name(), pair.path.to_text());
    }
    println!("{} of {} files differ", comparison.pairs.len(), comparison.files());
}
