//! `inventory`: writes down what is in a tree, and says what became different since.

use std::io::{self, Write};
use std::ops::ControlFlow;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{
    self, EntryType, MemoryTree, Note, Pair, PairSink, Progress, Tree, TreeComparison, TreeOptions,
};
use tideline_sources::inventory::{Head, InventoryHead, InventoryWriter, Listed, Rules, Text, Total, VERSION};
use tideline_sources::{Algorithm, OpenedSide, Side, SideOptions, resolve, resolve_both};
use tideline_views::json::{self, records::Record};
use tideline_views::terminal::{Look, pair_words, write_about};
use tideline_views::{Labels, note, plural, shown_path};

use super::print::printing;
use super::progress::with_progress;
use super::resolve::open_tree;
use super::writing::{Destination, Inputs, journal};
use super::{Outcome, tell};
use crate::args::{FilesArgs, HashChoice, InventoryArgs, KindArgs, LinksChoice};
use crate::settings::{Config, look_of_colours, name_trees, side_options, tree_options};

pub(super) fn run(args: &InventoryArgs) -> Result<Outcome> {
    match (&args.check, &args.tree, &args.output) {
        (Some(inventory), tree, _) => check(args, inventory, tree.as_deref()),
        (None, Some(tree), Some(output)) => write(args, tree, output),
        _ => bail!("inventory needs a tree and -o FILE, or --check FILE"),
    }
}

/// Writes the inventory of a tree.
fn write(args: &InventoryArgs, path: &Path, output: &Path) -> Result<Outcome> {
    if !args.files.only.is_empty() {
        bail!("--only is for --check: an inventory holds all entries; --include and --exclude choose among them");
    }
    let options = side_options(&args.files, &args.sides, KindArgs::default());
    let opened = open_tree(path, &options)?;
    let Side::Tree(tree) = &opened.side else { bail!("cannot look into {}: it is a file", path.display()) };
    let mut algorithms = vec![Algorithm::Blake3];
    algorithms.extend(args.hash.map(|HashChoice::Sha256| Algorithm::Sha256));
    let head = Head {
        version: VERSION,
        root: Text::of(path.as_os_str().as_encoded_bytes()),
        hashes: algorithms.iter().map(|algorithm| algorithm.name().to_owned()).collect(),
        rules: rules_of(&args.files),
    };
    let options = tree_options(&args.files, ContentOptions::default())?;
    let list = |out: &mut dyn Write| {
        with_progress(|progress| write_down(&**tree, head.clone(), &algorithms, (&options, progress), out))
    };
    let listed = if output.as_os_str() == "-" {
        let mut listed = None;
        printing(false, |out| {
            listed = Some(list(out)?);
            Ok(())
        })?;
        // A reader that had enough of it need not be told the sums.
        let Some(listed) = listed else { return Ok(Outcome::Same) };
        listed
    } else {
        Inputs { paths: vec![path], is_earlier: is_inventory, command: "inventory" }.refuse(output)?;
        let making = || format!("cannot write {}", output.display());
        let destination = Destination::of(output)?;
        let staging = journal()?.staging()?;
        let mut staged = staging.begin("inventory").with_context(making)?;
        let listed = list(&mut staged).with_context(making)?;
        let replaced = destination.replaces();
        let run = destination.write(staged.finish().with_context(making)?)?;
        let replaced = run.filter(|_| replaced).map_or_else(String::new, |run| {
            format!("; what was there is replaced (run {run}; `tideline undo {run}` puts it back)")
        });
        let sums = in_words(&listed.total);
        printing(false, |out| writeln!(out, "wrote {} ({sums}){replaced}", shown_path(output)))?;
        listed
    };
    for line in &listed.notes {
        tell(line);
    }
    Ok(if listed.total.unreadable > 0 || listed.is_cut { Outcome::Trouble } else { Outcome::Same })
}

fn is_inventory(bytes: &[u8]) -> bool {
    bytes.starts_with(b"{\"record\":\"inventory\"")
}

fn rules_of(files: &FilesArgs) -> Rules {
    Rules {
        include: files.include.clone(),
        exclude: files.exclude.clone(),
        depth: files.depth,
        use_ignore_files: files.use_ignore_files,
        with_repositories: files.with_repositories,
        follow_links: files.links == LinksChoice::Follow,
        open_archives: files.open_archives,
    }
}

/// The options that an inventory was made with, where no others were given.
fn files_of(rules: &Rules, files: &FilesArgs) -> FilesArgs {
    let mut files = files.clone();
    if files.include.is_empty() {
        files.include.clone_from(&rules.include);
    }
    if files.exclude.is_empty() {
        files.exclude.clone_from(&rules.exclude);
    }
    files.depth = files.depth.or(rules.depth);
    files.use_ignore_files |= rules.use_ignore_files;
    files.with_repositories |= rules.with_repositories;
    files.open_archives |= rules.open_archives;
    if rules.follow_links {
        files.links = LinksChoice::Follow;
    }
    files
}

/// What came of writing an inventory.
struct Written {
    total: Total,
    /// What could not be read, and what there is to know.
    notes: Vec<String>,
    /// Whether there may be more than could be listed.
    is_cut: bool,
}

/// Writes down all that is in a tree: what is new in it against nothing.
fn write_down(
    tree: &dyn Tree,
    head: Head,
    algorithms: &[Algorithm],
    (options, progress): (&TreeOptions, &Progress),
    out: &mut dyn Write,
) -> io::Result<Written> {
    let writer = InventoryWriter::new(tree, head, algorithms.to_vec(), progress, out)?;
    let mut listing = Listing { writer, notes: Vec::new(), is_cut: false, result: Ok(()) };
    let options = options.clone().moves(false).counts(false).trust(None);
    // The walk counts nothing: the writer does, as it reads.
    let nothing = MemoryTree::new();
    let walked = tree::compare_into((&nothing, tree), &options, &Progress::default(), None, &mut listing);
    listing.result?;
    let (mut notes, is_cut) = (listing.notes, listing.is_cut);
    let total = listing.writer.end()?;
    let left = walked.left_out;
    let counted = [
        (left.by_pattern, "by --include or --exclude"),
        (left.by_ignore_files, "by ignore files"),
        (left.too_deep, "by --depth"),
        (left.repositories.len(), "of version control; --with-repositories takes them in"),
    ];
    notes.extend(counted.iter().filter(|(count, _)| *count > 0).map(|(count, why)| format!("left out: {count} {why}")));
    notes.extend(walked.remarks.iter().map(|remark| match &remark.path {
        Some(path) => format!("note: {}: {}", path.to_text().escape_debug(), remark.text),
        None => format!("note: {}", remark.text),
    }));
    Ok(Written { total, notes, is_cut })
}

/// Passes what is in a tree on to the writer.
struct Listing<'w> {
    writer: InventoryWriter<'w>,
    notes: Vec<String>,
    is_cut: bool,
    result: io::Result<()>,
}

impl PairSink for Listing<'_> {
    fn pair(&mut self, pair: Pair, _: Vec<u8>) -> ControlFlow<()> {
        let unreadable = match &pair.note {
            Some(Note::Unreadable(reason) | Note::UnreadableBefore(reason) | Note::UnreadableAfter(reason)) => {
                let path = if pair.path.is_root() { "the tree".to_owned() } else { pair.path.to_text() };
                self.notes.push(format!("cannot read {}: {reason}", path.escape_debug()));
                Some(reason.clone())
            }
            _ => None,
        };
        if pair.path.is_root() {
            self.is_cut = true;
            return ControlFlow::Continue(());
        }
        let entry_type = pair.types.1.or(pair.types.0).unwrap_or(EntryType::File);
        self.result = self.writer.add(Listed { path: pair.path, entry_type, metadata: pair.after, unreadable });
        if self.result.is_ok() { ControlFlow::Continue(()) } else { ControlFlow::Break(()) }
    }
}

fn in_words(total: &Total) -> String {
    let number = |count: u64| usize::try_from(count).unwrap_or(usize::MAX);
    let mut parts = vec![plural(number(total.files), "file"), plural(number(total.bytes), "byte")];
    for (count, what) in [(total.folders, "folder"), (total.links, "link"), (total.others, "other entry")] {
        if count > 0 {
            parts.push(if what == "other entry" { format!("{count} other") } else { plural(number(count), what) });
        }
    }
    if total.unreadable > 0 {
        parts.push(format!("{} could not be read", total.unreadable));
    }
    parts.join(", ")
}

/// Says what became different of a tree since its inventory was made.
fn check(args: &InventoryArgs, inventory: &Path, tree: Option<&Path>) -> Result<Outcome> {
    let config = Config::default();
    let look = look_of_colours(&args.colour.for_records(args.json), &config.view)?;
    let plain = side_options(&args.files, &args.sides, KindArgs::default());
    let head = head_of(inventory, &plain)?;
    let tree = match (tree, &head.root) {
        (Some(tree), _) => tree.to_path_buf(),
        (None, Some(root)) => PathBuf::from(String::from_utf8_lossy(root).into_owned()),
        (None, None) => PathBuf::from("."),
    };
    let mut files = files_of(&head.rules, &args.files);
    files.exclude.extend(itself(inventory, &tree));
    let options = side_options(&files, &args.sides, KindArgs::default());
    let (before, after) =
        with_progress(|progress| resolve_both((inventory, &tree), &options.clone().progress(Arc::clone(progress))))?;
    let labels = Labels { about: (before.about, after.about), ..name_trees(inventory, &tree) };
    let labels = match after.label {
        Some(label) => Labels { after: label, ..labels },
        None => labels,
    };
    let (Side::Tree(known), Side::Tree(there)) = (before.side, after.side) else {
        bail!(
            "cannot check {} with {}: it is no inventory, and no list of checksums",
            tree.display(),
            inventory.display()
        );
    };
    let options = tree_options(&files, ContentOptions::default())?.moves(false).counts(false);
    let comparison = with_progress(|progress| tree::compare(&*known, &*there, &options, progress));
    printing(false, |out| {
        if args.json {
            json::write_record(&json::opening(&labels), out)?;
            for pair in &comparison.pairs {
                json::write_record(&Record::Pair(json::tree_pair(pair)), out)?;
            }
            return json::write_record(&json::tree_summary(&comparison), out);
        }
        draw(&comparison, &labels, &look, out)
    })?;
    for pair in comparison.pairs.iter().filter(|pair| pair.status == Status::Unreadable) {
        let path = if pair.path.is_root() { inventory.display().to_string() } else { pair.path.to_text() };
        tell(&format!("cannot check {}: {}", path.escape_debug(), note(pair).unwrap_or_default()));
    }
    Ok(if comparison.count(Status::Unreadable) > 0 {
        Outcome::Trouble
    } else if comparison.differs() {
        Outcome::Different
    } else {
        Outcome::Same
    })
}

/// A pattern for the inventory, where it stands in the tree: it is no part of what it tells.
fn itself(inventory: &Path, tree: &Path) -> Option<String> {
    let (inventory, tree) = (inventory.canonicalize().ok()?, tree.canonicalize().ok()?);
    let inner = inventory.strip_prefix(&tree).ok()?;
    Some(format!("/{}", globset::escape(inner.to_str()?)))
}

/// What an inventory says of itself; nothing of a list of checksums.
fn head_of(path: &Path, options: &SideOptions) -> Result<InventoryHead> {
    let OpenedSide { inventory, .. } = resolve(path, options)?;
    Ok(inventory.unwrap_or_default())
}

/// Draws what became different: an entry a line.
fn draw(comparison: &TreeComparison, labels: &Labels, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let word = |status: Status| match status {
        Status::Gone => "missing",
        Status::New => "extra",
        Status::Unreadable => "unreadable",
        _ => "altered",
    };
    let mut counts = [("missing", 0), ("extra", 0), ("altered", 0), ("unreadable", 0)];
    write_about(labels, look, out)?;
    for pair in comparison.pairs.iter().filter(|pair| !matches!(pair.status, Status::Same | Status::Muted)) {
        let words = pair_words(pair, false, look);
        let word = word(pair.status);
        if let Some((_, count)) = counts.iter_mut().find(|(name, _)| *name == word) {
            *count += 1;
        }
        let (mark, style) = (words.mark, words.style);
        let name = if pair.path.is_root() { "(the whole)".to_owned() } else { words.name };
        let why = if word == "unreadable" { format!("    {}", words.facts) } else { String::new() };
        writeln!(out, "  {style}{mark}{style:#} {word:<10}  {name}{why}")?;
    }
    let told: Vec<String> =
        counts.iter().filter(|(_, count)| *count > 0).map(|(word, count)| format!("{count} {word}")).collect();
    let same = plural(comparison.count(Status::Same), "entry");
    let same = same.replace("entrys", "entries");
    if told.is_empty() {
        return writeln!(out, "{}: {same} as {} says", labels.after, labels.before);
    }
    writeln!(out, "{}: {}; {same} as {} says", labels.after, told.join(", "), labels.before)
}
