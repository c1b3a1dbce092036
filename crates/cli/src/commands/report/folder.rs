//! A folder of pages: an index, and a page for each file with something to show.

use std::collections::HashSet;
use std::fs::{self, File};
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use rayon::prelude::*;
use tideline_core::internal::plan::{Contents, ExpectedState, Plan, Step};
use tideline_core::internal::tree::{Progress, TreePath};
use tideline_journal::{Staged, Staging};
use tideline_views::html::{self, Assets, Link, Links, SCRIPT, SCRIPT_NAME, SIGNATURE, STYLE, STYLE_NAME};
use tideline_views::plural;

use super::super::writing::{carry_out, in_full, journal};
use super::found::Found;
use super::target::tell;

const INDEX: &str = "index.html";
/// The folder with the pages of files.
const PAGES: &str = "pages";
/// Letters of the name of a file in the name of its page.
const LONGEST_NAME: usize = 48;

/// Writes a report into a folder: all of it or, where something stands in the way, nothing.
pub(super) fn write(found: &Found<'_>, folder: &Path, progress: &Progress) -> Result<()> {
    let place = Place::of(folder)?;
    let making = || format!("cannot write {}", folder.display());
    let staging = journal()?.staging()?;
    let names: Vec<String> = found.shown.iter().map(|&at| page_name(&found.comparison.pairs[at].path)).collect();
    let pages = (0..names.len()).into_par_iter().map(|number| -> Result<Step> {
        let staged = staging.begin(&number.to_string()).with_context(making)?;
        let made = write_page(found, &names, number, progress, staged).with_context(making)?;
        Ok(place.step(&format!("{PAGES}/{}", names[number]), made))
    });
    let mut steps = pages.collect::<Result<Vec<_>>>()?;
    let href = |index: usize| {
        let number = found.shown.binary_search(&index).ok()?;
        Some(format!("{PAGES}/{}", names[number]))
    };
    let head = found.head();
    let index =
        stage(&staging, INDEX, |out| html::write_tree_page(&head, &found.view(), &href, Assets::Linked(""), None, out));
    steps.push(place.step(INDEX, index.with_context(making)?));
    for (name, text) in [(STYLE_NAME, STYLE), (SCRIPT_NAME, SCRIPT)] {
        let made = stage(&staging, name, |out| out.write_all(text.as_bytes())).with_context(making)?;
        steps.push(place.step(name, made));
    }
    let mut plan = Plan { roots: place.roots(), ..Plan::of(place.folders()) };
    plan.steps.extend(place.stale(&names)?);
    plan.steps.extend(steps);
    let run = carry_out(&plan)?;
    let replaced = run.filter(|_| place.holds_report);
    tell(folder, &format!("index.html and {}", plural(names.len(), "page")), replaced)
}

/// The name of a page: as much of the file's name as any system takes, and a hash of its path. A link to it holds in the next report too.
fn page_name(path: &TreePath) -> String {
    const HASH_LETTERS: usize = 12;
    let plain =
        |&byte: &u8| if byte.is_ascii_alphanumeric() || b".-_".contains(&byte) { char::from(byte) } else { '_' };
    let name: String = path.name().iter().take(LONGEST_NAME).map(plain).collect();
    format!("{name}-{}.html", &blake3::hash(path).to_hex()[..HASH_LETTERS])
}

fn stage(staging: &Staging, name: &str, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> io::Result<Contents> {
    let mut staged = staging.begin(name)?;
    write(&mut staged)?;
    staged.finish()
}

fn write_page(
    found: &Found<'_>,
    names: &[String],
    number: usize,
    progress: &Progress,
    mut staged: Staged,
) -> io::Result<Contents> {
    let pair = &found.comparison.pairs[found.shown[number]];
    let link = |number: Option<usize>| {
        let number = number.filter(|&number| number < names.len())?;
        let path = &found.comparison.pairs[found.shown[number]].path;
        Some(Link::new(names[number].as_str(), path.name()))
    };
    let links =
        Links { index: format!("../{INDEX}"), previous: link(number.checked_sub(1)), next: link(Some(number + 1)) };
    found.with_file(pair, progress, |file| {
        let head = found.making.head(&found.title, &found.trees.labels, &found.paths, &pair.account, Some(&pair.path));
        html::write_file_page(&head, file, &found.shape, (Assets::Linked("../"), Some(&links)), &mut staged)
    })?;
    staged.finish()
}

/// The folder that a report goes into.
struct Place {
    folder: PathBuf,
    is_there: bool,
    has_pages: bool,
    /// Whether an earlier report is replaced.
    holds_report: bool,
}

impl Place {
    /// A folder that does not exist, is empty, or holds an earlier report.
    fn of(folder: &Path) -> Result<Self> {
        let shown = folder.display();
        let place = in_full(folder)?;
        if place.symlink_metadata().is_err() {
            return Ok(Self { folder: place, is_there: false, has_pages: false, holds_report: false });
        }
        let mut entries = fs::read_dir(&place).with_context(|| format!("cannot write {shown}"))?;
        let holds_report = is_report(&place.join(INDEX));
        if entries.next().is_some() && !holds_report {
            bail!("cannot write {shown}: it holds other files and no earlier report; name a new folder");
        }
        let has_pages = place.join(PAGES).is_dir();
        Ok(Self { folder: place, is_there: true, has_pages, holds_report })
    }

    /// The folder that everything is beneath.
    fn roots(&self) -> Vec<PathBuf> {
        let root = if self.is_there { Some(self.folder.as_path()) } else { self.folder.parent() };
        root.map(Path::to_path_buf).into_iter().collect()
    }

    /// The folders that must be made.
    fn folders(&self) -> Vec<Step> {
        let folder = (!self.is_there).then(|| Step::new_folder(self.folder.clone()));
        let pages = (!self.has_pages).then(|| Step::new_folder(self.folder.join(PAGES)));
        folder.into_iter().chain(pages).collect()
    }

    fn step(&self, name: &str, contents: Contents) -> Step {
        let expected = if self.is_there { ExpectedState::Anything } else { ExpectedState::Nothing };
        let path = self.folder.join(name);
        Step::write(path, expected, contents)
    }

    /// Pages of an earlier report that this one does not have.
    fn stale(&self, names: &[String]) -> Result<Vec<Step>> {
        if !self.has_pages {
            return Ok(Vec::new());
        }
        let pages = self.folder.join(PAGES);
        let reading = || format!("cannot read {}", pages.display());
        let names: HashSet<&str> = names.iter().map(String::as_str).collect();
        let mut stale = Vec::new();
        for entry in fs::read_dir(&pages).with_context(reading)? {
            let entry = entry.with_context(reading)?;
            let is_ours = entry.file_name().to_str().is_none_or(|name| names.contains(name));
            if !is_ours && is_report(&entry.path()) {
                stale.push(Step::Remove { path: entry.path(), expected: ExpectedState::Anything });
            }
        }
        Ok(stale)
    }
}

/// Whether a file is a page of a report.
fn is_report(path: &Path) -> bool {
    let mut head = Vec::new();
    let read = File::open(path).and_then(|file| file.take(2048).read_to_end(&mut head));
    read.is_ok() && memchr::memmem::find(&head, SIGNATURE.as_bytes()).is_some()
}
