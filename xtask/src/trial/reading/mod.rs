//! How well differences read: every change of two versions of some packages, measured.
//!
//! The figures count what makes a reader stumble: true pairs that were missed, marks that are scattered or too wide, lines paired that have
//! nothing in common, crumbs of moved blocks, changes without a name. A lower figure is better. The packages are read and not kept.

mod changes;
mod figures;
mod marks;
mod packages;

use std::fs;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, ensure};

use figures::Figures;

/// Measures pairs of trees: each folder in `pairs` holds a `before` and an `after`. Without it, twelve packages are fetched for the time
/// of the trial.
pub(crate) fn run(pairs: Option<&Path>) -> Result<()> {
    let fetched = tempfile::tempdir().context("cannot make a folder for the packages")?;
    let pairs = match pairs {
        Some(pairs) => pairs,
        None => {
            packages::fetch(fetched.path())?;
            fetched.path()
        }
    };
    let mut names: Vec<PathBuf> = fs::read_dir(pairs)
        .with_context(|| format!("cannot list {}", pairs.display()))?
        .map(|entry| Ok(entry?.path()))
        .collect::<Result<_>>()?;
    names.retain(|name| name.join("before").is_dir() && name.join("after").is_dir());
    ensure!(!names.is_empty(), "no folder in {} holds a folder `before` and a folder `after`", pairs.display());
    names.sort();
    let mut all = Figures::default();
    for name in &names {
        let mut figures = Figures::default();
        pair_of_trees(&name.join("before"), &name.join("after"), &mut figures)?;
        eprintln!("{}: {} changes", name.file_name().unwrap_or_default().to_string_lossy(), figures.changes);
        all.add(figures);
    }
    print!("{all}");
    Ok(())
}

/// Measures every file of text that both trees have and that differs.
fn pair_of_trees(before: &Path, after: &Path, figures: &mut Figures) -> Result<()> {
    let mut folders = vec![PathBuf::new()];
    while let Some(folder) = folders.pop() {
        let listed = before.join(&folder);
        for entry in fs::read_dir(&listed).with_context(|| format!("cannot list {}", listed.display()))? {
            let entry = entry?;
            let path = folder.join(entry.file_name());
            let kind = entry.file_type()?;
            if kind.is_dir() {
                folders.push(path);
            } else if kind.is_file() && after.join(&path).is_file() {
                let (one, other) = (fs::read(before.join(&path))?, fs::read(after.join(&path))?);
                let is_text = |bytes: &[u8]| std::str::from_utf8(bytes).is_ok() && !bytes.contains(&0);
                if one != other && is_text(&one) && is_text(&other) {
                    changes::measure(&path.to_string_lossy(), (&one, &other), figures);
                }
            }
        }
    }
    Ok(())
}
