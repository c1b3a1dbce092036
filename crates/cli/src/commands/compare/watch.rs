//! `compare --watch`: compares again when a file of either side is saved, and says what became different.

use std::collections::{BTreeMap, BTreeSet};
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::sync::mpsc::{Receiver, channel};
use std::time::Duration;

use anyhow::{Context, Result, bail};
use jiff::Zoned;
use notify::{Event, RecommendedWatcher, RecursiveMode, Watcher};
use tideline_core::internal::kinds::Comparison;
use tideline_core::internal::model::{Change, Status};
use tideline_core::internal::tree::{TreeComparison, TreePath};
use tideline_sources::{Argument, is_packed};
use tideline_views::terminal::{Look, draw_pair, draw_tree};
use tideline_views::{PairView, encoding_note, plural};

use super::named;
use crate::commands::Outcome;
use crate::commands::pairs::Trees;
use crate::commands::print::printing;
use crate::commands::request::Request;
use crate::commands::resolve::{Resolved, open_files};
use crate::commands::sides::Sides;

/// Editors save in several steps; what comes within this time belongs together.
const SETTLING: Duration = Duration::from_millis(150);

pub(super) fn run(request: &Request, look: &Look) -> Result<Outcome> {
    for path in [&request.before, &request.after] {
        if Argument::is_revision(path) || path.is_file() && is_packed(path) {
            bail!("cannot watch {}: --watch is for files and folders on the disk", path.display());
        }
    }
    let (sender, events) = channel();
    let mut watcher = notify::recommended_watcher(move |event| {
        // Without a listener the program is about to end.
        let _ = sender.send(event);
    })
    .context("cannot watch files on this system")?;
    let watched = [Watched::of(&request.before), Watched::of(&request.after)];
    for side in &watched {
        side.begin(&mut watcher)?;
    }
    let mut known = Known::of(request);
    said("watching both sides; Ctrl-C ends")?;
    loop {
        let Some(saved) = next_saved(&events, &watched) else { return Ok(Outcome::Same) };
        known = match known {
            Known::Trees(trees, before) => {
                let now = tell_trees(&saved, (&trees, &before), request, look)?;
                Known::Trees(trees, Box::new(now))
            }
            Known::Files(before) => tell_files(&saved, before.as_ref(), request, look)?,
        };
    }
}

/// One side that is watched.
struct Watched {
    /// The folder that is watched.
    folder: PathBuf,
    /// The only file in it that matters.
    file: Option<PathBuf>,
}

impl Watched {
    fn of(path: &Path) -> Self {
        let whole = path.canonicalize().unwrap_or_else(|_| path.to_path_buf());
        if whole.is_dir() {
            return Self { folder: whole, file: None };
        }
        // Editors put a new file in the place of the old one: only its folder sees that.
        let folder = whole.parent().unwrap_or(Path::new(".")).to_path_buf();
        Self { folder, file: Some(whole) }
    }

    fn begin(&self, watcher: &mut RecommendedWatcher) -> Result<()> {
        let mode = if self.file.is_some() { RecursiveMode::NonRecursive } else { RecursiveMode::Recursive };
        watcher.watch(&self.folder, mode).with_context(|| format!("cannot watch {}", self.folder.display()))
    }

    fn concerns(&self, path: &Path) -> bool {
        self.file.as_ref().map_or_else(|| path.starts_with(&self.folder), |file| file == path)
    }
}

/// Waits until something is saved; the paths, each once.
fn next_saved(events: &Receiver<notify::Result<Event>>, watched: &[Watched; 2]) -> Option<BTreeSet<PathBuf>> {
    let mut saved = BTreeSet::new();
    loop {
        let event = if saved.is_empty() {
            events.recv().ok()?
        } else {
            match events.recv_timeout(SETTLING) {
                Ok(event) => event,
                Err(_) => return Some(saved),
            }
        };
        let Ok(event) = event else { continue };
        if event.kind.is_access() {
            continue;
        }
        saved.extend(event.paths.into_iter().filter(|path| watched.iter().any(|side| side.concerns(path))));
    }
}

fn said(what: &str) -> Result<()> {
    printing(false, |out| writeln!(out, "\n{}  {what}", Zoned::now().strftime("%H:%M:%S")))
}

fn saved_names(saved: &BTreeSet<PathBuf>) -> String {
    const SHOWN: usize = 3;
    let here = std::env::current_dir().unwrap_or_default();
    let name = |path: &PathBuf| path.strip_prefix(&here).unwrap_or(path).display().to_string();
    let names: Vec<_> = saved.iter().take(SHOWN).map(name).collect();
    let more = saved.len().saturating_sub(SHOWN);
    let more = if more > 0 { format!(" and {more} more") } else { String::new() };
    format!("{}{more}", names.join(", "))
}

/// What was known when it was last told.
enum Known {
    Trees(Box<Trees>, Box<TreeComparison>),
    /// Nothing is known while a file is missing or is not text.
    Files(Option<ChangeTexts>),
}

/// The two sides of a change, by which it is known again.
type ChangeText = (Vec<u8>, Vec<u8>);
/// How often each stands in a pair of files.
type ChangeTexts = BTreeMap<ChangeText, usize>;

impl Known {
    fn of(request: &Request) -> Self {
        match request.open() {
            Ok(Resolved::Trees(trees)) => {
                let known = named::known(request, &trees);
                Self::Trees(trees, Box::new(known))
            }
            Ok(Resolved::Files(sides)) => Self::Files(Some(texts_of(&sides.compare(&request.contents)))),
            Err(_) => Self::Files(None),
        }
    }
}

fn texts_of(comparison: &Comparison<'_>) -> ChangeTexts {
    let Comparison::Text(texts) = comparison else { return ChangeTexts::new() };
    let (before, after) = (texts.before.text(), texts.after.text());
    let text =
        |change: &Change| (before[change.before.bytes.clone()].to_vec(), after[change.after.bytes.clone()].to_vec());
    let mut counts = ChangeTexts::new();
    texts.found.changes.iter().map(text).for_each(|text| *counts.entry(text).or_default() += 1);
    counts
}

/// How many of some changes are not among others.
fn beyond(changes: &ChangeTexts, others: &ChangeTexts) -> usize {
    changes.iter().map(|(text, count)| count.saturating_sub(others.get(text).copied().unwrap_or(0))).sum()
}

/// Compares two files again, and draws the changes that were not there before.
fn tell_files(saved: &BTreeSet<PathBuf>, known: Option<&ChangeTexts>, request: &Request, look: &Look) -> Result<Known> {
    let sides: Sides = match open_files(&request.before, &request.after) {
        Ok(sides) => sides,
        Err(error) => {
            said(&format!("{error:#}"))?;
            return Ok(Known::Files(None));
        }
    };
    let mut comparison = sides.compare(&request.contents);
    let now = texts_of(&comparison);
    let nothing = ChangeTexts::new();
    let known = known.unwrap_or(&nothing);
    let (came, went) = (beyond(&now, known), beyond(known, &now));
    let names = saved_names(saved);
    let count = |count: usize| plural(count, "change");
    said(&match (came, went, now.values().sum::<usize>()) {
        (0, 0, left) => format!("{names} saved: nothing became different, {} as before", count(left)),
        (0, _, 0) => format!("{names} saved: {} went, both sides are alike now", count(went)),
        (_, _, left) => format!("{names} saved: {} came, {went} went, {left} in all", count(came)),
    })?;
    if came > 0 {
        if let Comparison::Text(texts) = &mut comparison {
            let (before, after) = (texts.before.text(), texts.after.text());
            let text = |change: &Change| -> ChangeText {
                (before[change.before.bytes.clone()].to_vec(), after[change.after.bytes.clone()].to_vec())
            };
            // Of several that are the same, the last ones are taken for those that came.
            let mut left = known.clone();
            let mut is_new = |change: &Change| match left.get_mut(&text(change)) {
                Some(count) if *count > 0 => {
                    *count -= 1;
                    false
                }
                _ => true,
            };
            let new: Vec<bool> = texts.found.changes.iter().map(&mut is_new).collect();
            texts.found.places.retain(|place| new[place.change]);
        }
        let look = look.clone().legend(false);
        let note = encoding_note(&comparison);
        let view = PairView::new(&comparison, sides.title(note.as_deref()));
        printing(false, |out| draw_pair(&view, &look, out))?;
    }
    Ok(Known::Files(Some(now)))
}

/// Compares two trees again, and draws the pairs of which something became different.
fn tell_trees(
    saved: &BTreeSet<PathBuf>,
    (trees, known): (&Trees, &TreeComparison),
    request: &Request,
    look: &Look,
) -> Result<TreeComparison> {
    let now = named::known(request, trees);
    let told = |comparison: &TreeComparison| -> BTreeMap<TreePath, (Status, usize, usize, usize, u64)> {
        let pairs = comparison.pairs.iter();
        pairs
            .map(|pair| {
                (
                    pair.path.clone(),
                    (pair.status, pair.extent.counted, pair.extent.muted, pair.extent.size, pair.size()),
                )
            })
            .collect()
    };
    let (before, after) = (told(known), told(&now));
    let became = |path: &TreePath| before.get(path) != after.get(path);
    let gone: Vec<String> = before
        .keys()
        .filter(|path| !after.contains_key(*path))
        .map(|path| String::from_utf8_lossy(path).escape_debug().to_string())
        .collect();
    let names = saved_names(saved);
    let different = now.pairs.iter().filter(|pair| became(&pair.path)).count();
    let files = now.files() - now.count(Status::Same) - now.count(Status::Muted);
    let left = format!("{} in {}", plural(now.changes, "change"), plural(files, "file"));
    if different == 0 && gone.is_empty() {
        said(&format!("{names} saved: nothing became different, {left} as before"))?;
        return Ok(now);
    }
    said(&format!("{names} saved: {left} in all"))?;
    printing(false, |out| {
        if different > 0 {
            let mut part = now.clone();
            part.pairs.retain(|pair| became(&pair.path));
            draw_tree(&request.view(&part, &trees.labels), &look.clone().legend(false), out)?;
        }
        gone.iter().try_for_each(|path| writeln!(out, "    {path} no longer differs"))
    })?;
    // The output of a watch is followed as it comes.
    io::stdout().flush().context("cannot write to standard output")?;
    Ok(now)
}
