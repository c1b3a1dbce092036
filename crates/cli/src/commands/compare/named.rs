//! The files and folders of two trees that were named after them.

use std::path::{Path, PathBuf};

use anyhow::{Result, bail};
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{self, EntryType, Filter, Pair, Tree, TreeComparison, TreeOptions, TreePath};

use crate::commands::pairs::Trees;
use crate::commands::progress::with_progress;
use crate::commands::request::Request;

/// Compares two trees, or only what was named in them, and finds what the names mean. Of what was named, also what is the same is
/// counted.
pub(crate) fn compare_asked(
    request: &Request,
    trees: &Trees,
    options: TreeOptions,
    progress: &tree::Progress,
) -> Result<(TreeComparison, Vec<Named>)> {
    let Request { paths, only, .. } = request;
    let mut options = all_that_is_shown(request, options);
    if let Some(patterns) = patterns_for(paths, trees) {
        // Files that both trees have can be compared without a look at all the others. Blocks can only move between several.
        options = options.filter(Filter::default().include(&patterns)?).moves(paths.len() > 1);
    }
    if !paths.is_empty() {
        options = options.only(Some(Status::ALL.to_vec()));
    }
    let mut comparison = tree::compare(&*trees.before, &*trees.after, &options, progress);
    let named = paths.iter().map(|path| resolve(path, &comparison, trees.both())).collect::<Result<Vec<_>>>()?;
    if !named.is_empty() {
        comparison.narrow(|pair| named.iter().any(|named| named.holds(pair)));
        let wanted = |pair: &Pair| if only.is_empty() { pair.status != Status::Same } else { pair.is_one_of(only) };
        comparison.pairs.retain(wanted);
    }
    Ok((comparison, named))
}

/// Leaves out pairs in which only muted changes are, where those are not shown.
pub(crate) fn all_that_is_shown(request: &Request, options: TreeOptions) -> TreeOptions {
    if !request.counted_only || !request.only.is_empty() {
        return options;
    }
    let counted = Status::ALL.into_iter().filter(|status| !matches!(status, Status::Same | Status::Muted));
    options.only(Some(counted.collect()))
}

fn compare_trees(trees: &Trees, options: &TreeOptions) -> TreeComparison {
    with_progress(|progress| tree::compare(&*trees.before, &*trees.after, options, progress))
}

/// Only the pairs that paths name, all of them if none does.
pub(crate) fn narrowed(
    mut comparison: TreeComparison,
    paths: &[PathBuf],
    trees: (&dyn Tree, &dyn Tree),
) -> Result<TreeComparison> {
    if !paths.is_empty() {
        let named = paths.iter().map(|path| resolve(path, &comparison, trees)).collect::<Result<Vec<_>>>()?;
        comparison.narrow(|pair| named.iter().any(|named| named.holds(pair)));
    }
    Ok(comparison)
}

/// A path that was named after the two folders.
pub(crate) struct Named {
    pub(crate) path: TreePath,
    pub(crate) is_file: bool,
}

impl Named {
    /// Whether a pair is what was named, or in it, or came from there.
    fn holds(&self, pair: &Pair) -> bool {
        pair.path.is_within(&self.path) || pair.path_before().is_within(&self.path)
    }
}

/// A path as the trees have it.
fn inner_path(typed: &Path) -> TreePath {
    let typed = typed.as_os_str().as_encoded_bytes();
    let typed = typed.strip_prefix(b"./").unwrap_or(typed);
    typed.strip_suffix(b"/").unwrap_or(typed).into()
}

/// What stands at a path in either tree.
fn types(path: &TreePath, trees: (&dyn Tree, &dyn Tree)) -> [Option<EntryType>; 2] {
    [trees.0, trees.1].map(|tree| {
        let entries = tree.list(&path.parent()).ok()?.entries;
        entries.into_iter().find(|entry| entry.name == path.name()).map(|entry| entry.entry_type)
    })
}

/// Patterns that fit just the named paths, if all of them are files in both trees.
fn patterns_for(paths: &[PathBuf], trees: &Trees) -> Option<Vec<String>> {
    let pattern = |path: &PathBuf| {
        let path = inner_path(path);
        let both = types(&path, trees.both()) == [Some(EntryType::File); 2];
        both.then(|| format!("/{}", globset::escape(&String::from_utf8_lossy(&path))))
    };
    let patterns: Option<Vec<String>> = paths.iter().map(pattern).collect();
    patterns.filter(|patterns| !patterns.is_empty())
}

/// Finds what a named path means: a path in one of the trees, or the end of just one path that differs.
fn resolve(path: &Path, comparison: &TreeComparison, trees: (&dyn Tree, &dyn Tree)) -> Result<Named> {
    let path = inner_path(path);
    let types = types(&path, trees);
    if types.iter().any(Option::is_some) {
        return Ok(Named { is_file: !types.contains(&Some(EntryType::Folder)), path });
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

/// Compares two trees as `compare` would, for a caller that goes on watching them.
pub(crate) fn known(request: &Request, trees: &Trees) -> TreeComparison {
    let mut comparison = tree::compare(&*trees.before, &*trees.after, &request.trees, &tree::Progress::default());
    if !request.paths.is_empty() {
        // A path that names nothing just now may come again.
        let found = |path: &PathBuf| {
            let unknown = |_| Named { path: inner_path(path), is_file: false };
            resolve(path, &comparison, trees.both()).unwrap_or_else(unknown)
        };
        let named: Vec<Named> = request.paths.iter().map(found).collect();
        comparison.narrow(|pair| named.iter().any(|named| named.holds(pair)));
    }
    comparison
}

/// Finds one file of two trees, which may have moved, on both sides.
pub(crate) fn locate(trees: &Trees, path: &Path) -> Result<(TreePath, TreePath)> {
    let inner = inner_path(path);
    if types(&inner, trees.both()) == [Some(EntryType::File); 2] {
        return Ok((inner.clone(), inner));
    }
    let comparison = compare_trees(trees, &TreeOptions::default().counts(false).only(Some(Status::ALL.to_vec())));
    let named = resolve(path, &comparison, trees.both())?;
    let pair = comparison.pairs.iter().find(|pair| pair.path == named.path || *pair.path_before() == named.path);
    match pair {
        Some(pair) if pair.is_file() && !matches!(pair.status, Status::Gone | Status::New) => {
            Ok((pair.path_before().clone(), pair.path.clone()))
        }
        Some(pair) if matches!(pair.status, Status::Gone | Status::New) => {
            bail!("{} is {}: all of it counts", path.display(), pair.status.name())
        }
        _ => bail!("{} is not a file in both folders", path.display()),
    }
}
