//! Merges of real files: three releases of packages, and releases taken apart and put together again.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::{Context, Result, ensure};
use tideline_core::internal::align::{Bounds, Edit, align};
use tideline_core::internal::merge::{MergeOptions, RegionOutcome, TextMerge, Three, merge_texts};

use crate::root;

/// Random triples against the slow reference; and triples of trees, each a folder that holds `base`, `mine` and `theirs`.
pub(super) fn run(cases: usize, triples: Option<&Path>) -> Result<()> {
    if let Some(triples) = triples {
        return real(triples);
    }
    let tested = Command::new(env!("CARGO"))
        .args(["test", "--release", "--package", "tideline-core", "--test", "core", "--", "--nocapture"])
        .arg("the_slow_reference_allows_every_merge")
        .env("TIDELINE_TRIAL_CASES", cases.to_string())
        .current_dir(root())
        .status()?;
    ensure!(tested.success(), "a merge was wrong; the case is written above");
    Ok(())
}

#[derive(Default)]
struct Figures {
    files: usize,
    regions: usize,
    conflicts: usize,
    put_together: usize,
    exactly: usize,
    touching: usize,
}

fn real(triples: &Path) -> Result<()> {
    let mut figures = Figures::default();
    for entry in fs::read_dir(triples).with_context(|| format!("cannot list {}", triples.display()))? {
        let folder = entry?.path();
        if folder.join("base").is_dir() {
            trees(&folder, &mut figures)?;
        }
    }
    ensure!(figures.files > 0, "no folder in {} holds `base`, `mine` and `theirs`", triples.display());
    println!(
        "{} files of three releases: {} regions, {} conflicts, 0 wrong",
        figures.files, figures.regions, figures.conflicts
    );
    println!(
        "{} releases taken apart and put together again, {} of them byte for byte, 0 wrong; {} with halves that touch",
        figures.put_together, figures.exactly, figures.touching
    );
    Ok(())
}

/// Merges every file of text that three trees have.
fn trees(folder: &Path, figures: &mut Figures) -> Result<()> {
    let mut folders = vec![PathBuf::new()];
    while let Some(inner) = folders.pop() {
        for entry in fs::read_dir(folder.join("base").join(&inner))? {
            let entry = entry?;
            let path = inner.join(entry.file_name());
            let in_side = |side: &str| folder.join(side).join(&path);
            if entry.file_type()?.is_dir() {
                folders.push(path);
            } else if ["base", "mine", "theirs"].iter().all(|side| in_side(side).is_file()) {
                let texts =
                    Three::new(fs::read(in_side("base"))?, fs::read(in_side("mine"))?, fs::read(in_side("theirs"))?);
                if texts.as_ref().all().into_iter().all(|text| std::str::from_utf8(text).is_ok()) {
                    file(texts.as_ref().map(Vec::as_slice), figures)
                        .with_context(|| format!("wrong: {}", folder.join(&path).display()))?;
                }
            }
        }
    }
    Ok(())
}

fn merge<'t>(texts: Three<&'t [u8]>) -> TextMerge<'t> {
    merge_texts(texts.map(Into::into), &std::sync::Arc::default(), &MergeOptions::default())
}

fn file(texts: Three<&[u8]>, figures: &mut Figures) -> Result<()> {
    let found = merge(texts);
    figures.files += 1;
    figures.regions += found.regions.len();
    figures.conflicts += found.conflicts().count();
    check(&found)?;
    let mirrored = merge(Three::new(texts.base, texts.theirs, texts.mine));
    ensure!(mirrored.merged() == found.merged(), "mirrored texts merge to something else");
    ensure!(
        merge(Three::new(texts.base, texts.base, texts.theirs)).merged().as_deref() == Some(texts.theirs),
        "base = mine"
    );
    ensure!(
        merge(Three::new(texts.base, texts.mine, texts.mine)).merged().as_deref() == Some(texts.mine),
        "mine = theirs"
    );
    for side in [texts.mine, texts.theirs] {
        taken_apart(texts.base, side, figures)?;
    }
    Ok(())
}

/// What must hold of any merge: its regions part all three texts, and each is what it is said to be.
fn check(found: &TextMerge<'_>) -> Result<()> {
    let texts = found.texts.as_ref().map(|masked| masked.text());
    let (mut base, mut mine, mut theirs) = (0, 0, 0);
    for region in &found.regions {
        let between = &texts.base[base..region.base.bytes.start];
        ensure!(between == &texts.mine[mine..region.mine.bytes.start], "a change of mine is in no region");
        ensure!(between == &texts.theirs[theirs..region.theirs.bytes.start], "a change of theirs is in no region");
        let lines = found.lines_of(region);
        let holds = match region.outcome {
            RegionOutcome::Mine => lines.theirs == lines.base,
            RegionOutcome::Theirs => lines.mine == lines.base,
            RegionOutcome::Alike => lines.mine == lines.theirs,
            RegionOutcome::Joined(..) => true,
            RegionOutcome::Conflict(_) => lines.mine != lines.theirs,
        };
        ensure!(holds, "a region is not what it is said to be");
        (base, mine, theirs) = (region.base.bytes.end, region.mine.bytes.end, region.theirs.bytes.end);
    }
    let rest = &texts.base[base..];
    ensure!(rest == &texts.mine[mine..] && rest == &texts.theirs[theirs..], "the texts do not end alike");
    Ok(())
}

/// Every other edit of a release on one side, the others on the other: together they are the release.
fn taken_apart(base: &[u8], release: &[u8], figures: &mut Figures) -> Result<()> {
    let edits = align(base, release, &Bounds::default());
    if edits.len() < 2 {
        return Ok(());
    }
    let half = |wanted: usize| {
        let mut text = Vec::new();
        let mut at = 0;
        for (_, Edit { before, after, .. }) in edits.iter().enumerate().filter(|(index, _)| index % 2 == wanted) {
            text.extend_from_slice(&base[at..before.bytes.start]);
            text.extend_from_slice(&release[after.bytes.clone()]);
            at = before.bytes.end;
        }
        text.extend_from_slice(&base[at..]);
        text
    };
    let (one, other) = (half(0), half(1));
    match merge(Three::new(base, &one, &other)).merged() {
        Some(merged) => {
            // A line that could stand at several places, told by one half alone, may come to another of them.
            let sorted = |text: &[u8]| {
                let mut lines: Vec<Vec<u8>> = text.split_inclusive(|byte| *byte == b'\n').map(<[u8]>::to_vec).collect();
                lines.sort_unstable();
                lines
            };
            ensure!(sorted(&merged) == sorted(release), "a release that was taken apart lost or doubled a line");
            figures.put_together += 1;
            figures.exactly += usize::from(merged == release);
        }
        None => figures.touching += 1,
    }
    Ok(())
}
