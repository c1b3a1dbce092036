//! `compare` on two folders.

use std::io::{self, Write};
use std::path::{Path, PathBuf};

use anyhow::{Result, bail};
use tideline_core::kinds::ContentOptions;
use tideline_core::kinds::text::Grain;
use tideline_core::model::{Kind, Status};
use tideline_core::rules::Rules;
use tideline_core::tree::{self, Filter, Nature, Pair, Tree, TreeComparison, TreeOptions};
use tideline_sources::FolderTree;
use tideline_views::json::{self, records::Record};
use tideline_views::report::Body;
use tideline_views::terminal::{Look, draw_file, draw_tree, write_account, write_bytes_view};
use tideline_views::{Labels, TreeView, status_word};

use super::Outcome;
use super::compare::Settings;
use super::pairs::Trees;
use super::print::printing;
use super::progress::with_progress;
use super::unused::tell_unused;
use crate::args::{CompareArgs, FilesArgs, TrustChoice};
use crate::settings::{name_trees, tree_options};

/// Every status.
pub(super) const ALL: [Status; 8] = [
    Status::Same,
    Status::Muted,
    Status::Changed,
    Status::Gone,
    Status::New,
    Status::Moved,
    Status::Retyped,
    Status::Unreadable,
];

pub(super) fn run(args: &CompareArgs, settings: &Settings) -> Result<Outcome> {
    let look = &settings.look;
    let trees = Trees::new((&args.before, &args.after), &args.files, settings.contents.clone());
    let mut options = tree_options(&args.files, settings.contents.clone())?;
    if args.quiet {
        options = options.counts(false).moves(false);
    } else if args.flat || args.null {
        options = options.counts(false);
    }
    let asked =
        with_progress(|progress| compare_asked(&trees, options, &args.paths, args.counted_only, &args.files, progress));
    let (comparison, paths) = asked?;
    let named_files = !paths.is_empty() && paths.iter().all(|path| path.is_file);
    let paged = settings.paged && !args.json && !args.flat && !args.null;
    if !args.quiet {
        printing(paged, |out| {
            if args.json {
                write_json(&comparison, &trees, args.each_file || named_files, look.marked(), out)
            } else if args.flat || args.null {
                write_flat(&comparison, args.null, out)
            } else if named_files {
                draw_files(&paths, &comparison, &trees, look, out)
            } else {
                draw_tree(&view_of(&comparison, &trees.labels, &args.files, args.counted_only), look, out)?;
                if args.each_file { draw_each(&comparison, &trees, look, out) } else { Ok(()) }
            }
        })?;
    }
    Ok(concluded(&comparison, settings.contents.all_rules()))
}

/// Compares two trees, or only what was named in them, and finds what the names mean. Of what was named, also what is the same is
/// counted.
pub(super) fn compare_asked(
    trees: &Trees,
    mut options: TreeOptions,
    paths: &[PathBuf],
    counted_only: bool,
    files: &FilesArgs,
    progress: &tree::Progress,
) -> Result<(TreeComparison, Vec<Named>)> {
    let only = &files.only;
    if let Some(patterns) = patterns_for(paths, trees) {
        // Files that both trees have can be compared without a look at all the others.
        options = options.filter(Filter::default().include(&patterns)?).moves(false);
    }
    if !paths.is_empty() {
        options = options.only(Some(ALL.to_vec()));
    } else if counted_only && only.is_empty() {
        let counted = ALL.into_iter().filter(|status| !matches!(status, Status::Same | Status::Muted));
        options = options.only(Some(counted.collect()));
    }
    let mut comparison = tree::compare(&trees.before, &trees.after, &options, progress);
    let named = paths.iter().map(|path| resolve(path, &comparison, trees.both())).collect::<Result<Vec<_>>>()?;
    if !named.is_empty() {
        comparison.narrow(|pair| named.iter().any(|named| named.holds(pair)));
        let wanted = |pair: &Pair| if only.is_empty() { pair.status != Status::Same } else { pair.is_one_of(only) };
        comparison.pairs.retain(wanted);
    }
    Ok((comparison, named))
}

/// Says on standard error what could not be read and which rules did nothing, and what the exit status tells.
pub(super) fn concluded(comparison: &TreeComparison, rules: &Rules) -> Outcome {
    complain_of_unreadable(comparison);
    if comparison.differs() || !comparison.account.is_empty() {
        tell_unused(rules, &comparison.account);
    }
    outcome(comparison)
}

fn compare_trees(trees: &Trees, options: &TreeOptions) -> TreeComparison {
    with_progress(|progress| tree::compare(&trees.before, &trees.after, options, progress))
}

/// What the exit status tells of two trees.
fn outcome(comparison: &TreeComparison) -> Outcome {
    if comparison.count(Status::Unreadable) > 0 {
        Outcome::Trouble
    } else if comparison.differs() {
        Outcome::Different
    } else {
        Outcome::Same
    }
}

/// What could not be read is said on standard error too, where a script that reads the output sees it.
fn complain_of_unreadable(comparison: &TreeComparison) {
    for pair in comparison.pairs.iter().filter(|pair| pair.status == Status::Unreadable) {
        let path = String::from_utf8_lossy(&pair.path);
        let reason = pair.note.as_deref().unwrap_or_default();
        super::tell(&format!("cannot read {path}: {reason}"));
    }
}

/// Two trees as the options want them shown.
pub(super) fn view_of<'a>(
    comparison: &'a TreeComparison,
    labels: &'a Labels,
    files: &'a FilesArgs,
    counted_only: bool,
) -> TreeView<'a> {
    TreeView {
        labels,
        comparison,
        only: (!files.only.is_empty()).then_some(files.only.as_slice()),
        muted_is_hidden: counted_only,
        trusted: files.trust.map(|trust| match trust {
            TrustChoice::Size => "size",
            TrustChoice::Time => "size and time",
        }),
    }
}

/// Only the pairs that paths name, all of them if none does.
pub(super) fn narrowed(
    mut comparison: TreeComparison,
    paths: &[PathBuf],
    trees: (&FolderTree, &FolderTree),
) -> Result<TreeComparison> {
    if !paths.is_empty() {
        let named = paths.iter().map(|path| resolve(path, &comparison, trees)).collect::<Result<Vec<_>>>()?;
        comparison.narrow(|pair| named.iter().any(|named| named.holds(pair)));
    }
    Ok(comparison)
}

/// A path that was named after the two folders.
pub(super) struct Named {
    path: Vec<u8>,
    is_file: bool,
}

impl Named {
    /// Whether a pair is what was named, or in it, or came from there.
    fn holds(&self, pair: &Pair) -> bool {
        let inside = |path: &[u8]| {
            path.strip_prefix(&self.path[..]).is_some_and(|rest| matches!(rest.first(), None | Some(b'/')))
        };
        inside(&pair.path) || inside(pair.path_before())
    }
}

/// A path as the trees have it.
fn inner_path(typed: &Path) -> Vec<u8> {
    let typed = typed.as_os_str().as_encoded_bytes();
    let typed = typed.strip_prefix(b"./").unwrap_or(typed);
    typed.strip_suffix(b"/").unwrap_or(typed).to_vec()
}

/// What stands at a path in either tree.
fn natures(path: &[u8], trees: (&FolderTree, &FolderTree)) -> [Option<Nature>; 2] {
    [trees.0, trees.1].map(|tree| {
        let (folder, name) = tree::split(path);
        let entries = tree.list(folder).ok()?.entries;
        entries.into_iter().find(|entry| entry.name == name).map(|entry| entry.nature)
    })
}

/// Patterns that fit just the named paths, if all of them are files in both trees.
fn patterns_for(paths: &[PathBuf], trees: &Trees) -> Option<Vec<String>> {
    let pattern = |path: &PathBuf| {
        let path = inner_path(path);
        let both = natures(&path, trees.both()) == [Some(Nature::File); 2];
        both.then(|| format!("/{}", globset::escape(&String::from_utf8_lossy(&path))))
    };
    let patterns: Option<Vec<String>> = paths.iter().map(pattern).collect();
    patterns.filter(|patterns| !patterns.is_empty())
}

/// Finds what a named path means: a path in one of the trees, or the end of just one path that differs.
fn resolve(path: &Path, comparison: &TreeComparison, trees: (&FolderTree, &FolderTree)) -> Result<Named> {
    let path = inner_path(path);
    let natures = natures(&path, trees);
    if natures.iter().any(Option::is_some) {
        return Ok(Named { is_file: !natures.contains(&Some(Nature::Folder)), path });
    }
    let ends_so = |pair: &&Pair| pair.path.ends_with(&[b"/", &path[..]].concat());
    let mut found: Vec<&Pair> = comparison.pairs.iter().filter(ends_so).collect();
    // Names are taken from what is shown: of several files of one name, those that differ are meant.
    if found.iter().any(|pair| pair.status != Status::Same) {
        found.retain(|pair| pair.status != Status::Same);
    }
    let name = String::from_utf8_lossy(&path).into_owned();
    match found[..] {
        [pair] => Ok(Named { path: pair.path.clone(), is_file: !pair.is_folder() }),
        [] => bail!("there is no {name} in either tree; paths are given from the folders that are compared"),
        _ => {
            let paths: Vec<_> = found.iter().map(|pair| String::from_utf8_lossy(&pair.path).into_owned()).collect();
            bail!("{name} could be any of {}: give more of the path", paths.join(", "))
        }
    }
}

/// Compares two trees as `compare` would, for somebody who goes on watching them.
pub(super) fn known(args: &CompareArgs, settings: &Settings) -> Result<TreeComparison> {
    let trees = Trees::new((&args.before, &args.after), &args.files, settings.contents.clone());
    let options = tree_options(&args.files, settings.contents.clone())?;
    let mut comparison = tree::compare(&trees.before, &trees.after, &options, &tree::Progress::default());
    if !args.paths.is_empty() {
        let named: Vec<Named> =
            args.paths.iter().map(|path| Named { path: inner_path(path), is_file: false }).collect();
        comparison.narrow(|pair| named.iter().any(|named| named.holds(pair)));
    }
    Ok(comparison)
}

/// Draws what is known of two trees.
pub(super) fn draw_known(
    comparison: &TreeComparison,
    args: &CompareArgs,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let labels = name_trees(&args.before, &args.after);
    draw_tree(&view_of(comparison, &labels, &args.files, args.counted_only), look, out)
}

/// Finds one file of two trees, which may have moved, on both sides.
pub(super) fn locate((before, after): (&Path, &Path), path: &Path) -> Result<(PathBuf, PathBuf)> {
    let trees = Trees {
        before: FolderTree::new(before),
        after: FolderTree::new(after),
        labels: name_trees(before, after),
        contents: ContentOptions::default(),
    };
    let inner = inner_path(path);
    let full = |root: &Path, path: &[u8]| root.join(&*String::from_utf8_lossy(path));
    if natures(&inner, trees.both()) == [Some(Nature::File); 2] {
        return Ok((full(before, &inner), full(after, &inner)));
    }
    let comparison = compare_trees(&trees, &TreeOptions::default().counts(false).only(Some(ALL.to_vec())));
    let named = resolve(path, &comparison, trees.both())?;
    let pair = comparison.pairs.iter().find(|pair| pair.path == named.path || pair.path_before() == named.path);
    match pair {
        Some(pair) if pair.is_file() && !matches!(pair.status, Status::Gone | Status::New) => {
            Ok((full(before, pair.path_before()), full(after, &pair.path)))
        }
        Some(pair) if matches!(pair.status, Status::Gone | Status::New) => {
            bail!("{} is {}: all of it counts", path.display(), status_word(pair.status))
        }
        _ => bail!("{} is not a file in both folders", path.display()),
    }
}

fn write_flat(comparison: &TreeComparison, null: bool, out: &mut dyn Write) -> io::Result<()> {
    for pair in &comparison.pairs {
        out.write_all(&pair.path)?;
        out.write_all(if null { b"\0" } else { b"\n" })?;
    }
    Ok(())
}

/// Draws every pair with contents to show, each below an empty line.
fn draw_each(comparison: &TreeComparison, trees: &Trees, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let look = look.clone().legend(false);
    for pair in comparison.pairs.iter().filter(|pair| pair.is_file() && pair.contents_differ()) {
        writeln!(out)?;
        draw_pair(pair, trees, &look, out)?;
    }
    Ok(())
}

/// Draws the files that were named, whatever became of them.
fn draw_files(
    named: &[Named],
    comparison: &TreeComparison,
    trees: &Trees,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    for (index, named) in named.iter().enumerate() {
        if index > 0 {
            writeln!(out)?;
        }
        let is_named = |pair: &&Pair| pair.path == named.path || pair.path_before() == named.path;
        let path = String::from_utf8_lossy(&named.path).into_owned();
        match comparison.pairs.iter().find(is_named) {
            None => {
                let (before, after) = (&trees.labels.before, &trees.labels.after);
                let aside = if comparison.account.is_empty() { "" } else { ", but for what is put aside" };
                writeln!(out, "{} is the same in {before} and {after}{aside}", path.escape_debug())?;
                write_account(&comparison.account, true, look, out)?;
            }
            Some(pair) if pair.is_file() => draw_pair(pair, trees, look, out)?,
            Some(pair) => {
                let note = pair.note.clone().unwrap_or_default();
                writeln!(out, "{}: {} {}", path.escape_debug(), status_word(pair.status), note.escape_debug())?;
            }
        }
    }
    Ok(())
}

fn draw_pair(pair: &Pair, trees: &Trees, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let path = String::from_utf8_lossy(&pair.path);
    trees.with_pair(pair, |held| match held {
        Body::Text(view) => draw_file(&view, look, out),
        Body::Bytes(before, after) => write_bytes_view(&path, &trees.labels, (before, after), look, out),
        Body::Nothing(why) => writeln!(out, "{}: {why}", path.escape_debug()),
    })
}

fn write_json(
    comparison: &TreeComparison,
    trees: &Trees,
    changes: bool,
    grain: &Grain,
    out: &mut dyn Write,
) -> io::Result<()> {
    json::write_record(&json::opening(&trees.labels), out)?;
    for pair in &comparison.pairs {
        json::write_record(&Record::Pair(json::tree_pair(pair)), out)?;
        if changes && pair.is_file() && pair.kind == Some(Kind::Text) && pair.contents_differ() {
            trees.with_pair(pair, |held| match held {
                Body::Text(view) => json::write_changes(&pair.path, &view, grain, out),
                // A file that has become unreadable since has no changes to tell.
                Body::Bytes(..) | Body::Nothing(_) => Ok(()),
            })?;
        }
    }
    json::write_record(&json::tree_summary(comparison), out)
}
