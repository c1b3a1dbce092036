//! The rules of the house that a compiler does not check: which folder may import which, and that the core computes only.

use std::fs;
use std::path::{Path, PathBuf};

use crate::file_graph::FileGraph;

/// The folders of the core, in order: each imports only those above it.
const FOLDERS: [&str; 9] = ["text", "rules", "model", "align", "kinds", "tree", "plan", "patch", "merge"];

/// The crates, in order: each depends only on those above it.
const CRATES: [(&str, &str); 5] = [
    ("core", "tideline-core"),
    ("sources", "tideline-sources"),
    ("journal", "tideline-journal"),
    ("views", "tideline-views"),
    ("cli", "tideline"),
];

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

fn sources(folder: &Path) -> Vec<(PathBuf, String)> {
    let mut found = Vec::new();
    let mut folders = vec![folder.to_path_buf()];
    while let Some(folder) = folders.pop() {
        for entry in fs::read_dir(&folder).unwrap().map(Result::unwrap) {
            let path = entry.path();
            if path.is_dir() {
                folders.push(path);
            } else if path.extension().is_some_and(|ending| ending == "rs") {
                let text = fs::read_to_string(&path).unwrap();
                found.push((path, text));
            }
        }
    }
    found
}

/// The code of a file without its comments and its tests.
fn code(text: &str) -> String {
    let code = text.split("#[cfg(test)]").next().unwrap_or_default();
    code.lines().filter(|line| !line.trim_start().starts_with("//")).collect::<Vec<_>>().join("\n")
}

#[test]
fn folders_of_the_core_import_only_those_above_them() {
    let src = root().join("crates/core/src");
    for (rank, folder) in FOLDERS.iter().enumerate().filter(|(_, folder)| src.join(folder).exists()) {
        for (path, text) in sources(&src.join(folder)) {
            for below in &FOLDERS[rank + 1..] {
                let import = format!("crate::{below}");
                assert!(!code(&text).contains(&import), "{} imports {import}, which stands below it", path.display());
            }
        }
    }
}

#[test]
fn crates_depend_only_on_those_above_them() {
    for (rank, (folder, _)) in CRATES.iter().enumerate() {
        let Ok(manifest) = fs::read_to_string(root().join("crates").join(folder).join("Cargo.toml")) else { continue };
        let dependencies = manifest.split("[dependencies]").nth(1).unwrap_or_default();
        for (_, below) in &CRATES[rank..] {
            let named = dependencies.lines().any(|line| line.split(['.', ' ']).next() == Some(below));
            assert!(!named, "crates/{folder} depends on {below}, which stands below it");
        }
    }
}

#[test]
fn no_files_import_each_other_in_a_circle() {
    for (folder, _) in CRATES {
        let src = root().join("crates").join(folder).join("src");
        let circle = FileGraph::of(&sources(&src), &src).circle();
        assert_eq!(
            circle, None,
            "in crates/{folder}/src, each of these files imports the next, and the last the first"
        );
    }
}

#[test]
fn the_core_prints_nothing_and_reads_no_files() {
    let forbidden = [
        "println!",
        "eprintln!",
        "print!(",
        "dbg!",
        "std::fs",
        "std::env",
        "std::process",
        "std::net",
        "io::stdout",
        "io::stderr",
        "io::stdin",
        "SystemTime::now",
        "Instant::now",
    ];
    for (path, text) in sources(&root().join("crates/core/src")) {
        for word in forbidden {
            assert!(!code(&text).contains(word), "{} uses {word}", path.display());
        }
    }
    let manifest = fs::read_to_string(root().join("crates/core/Cargo.toml")).unwrap();
    for package in ["clap", "anstream", "anstyle", "indicatif", "crossterm", "ratatui"] {
        assert!(!manifest.contains(package), "the core depends on {package}");
    }
}
