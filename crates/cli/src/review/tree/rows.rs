//! The rows of a tree on the screen: folders with their totals, and the files in them.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{Pair, by_path};

use crate::args::SortBy;
use crate::commands::compare::order;

/// A row.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Row {
    /// A folder with files below it that differ.
    Folder { path: Vec<u8>, depth: usize, totals: Totals, is_folded: bool },
    /// A pair, by its index.
    Pair { index: usize, depth: usize },
}

/// What differs below a folder.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Totals {
    pub(super) files: BTreeMap<Status, usize>,
    pub(super) changes: usize,
}

/// Which rows are wanted, and in which order.
#[derive(Clone, Debug, Default)]
pub(super) struct Wish {
    pub(super) folded: BTreeSet<Vec<u8>>,
    pub(super) status: Option<Status>,
    /// What a path must hold, in small letters.
    pub(super) name: String,
    pub(super) sort: SortBy,
}

impl Wish {
    fn fits(&self, pair: &Pair) -> bool {
        self.status.is_none_or(|status| pair.status == status)
            && (self.name.is_empty() || String::from_utf8_lossy(&pair.path).to_lowercase().contains(&self.name))
    }
}

/// The rows of pairs.
pub(super) fn rows(pairs: &[Pair], wish: &Wish) -> Vec<Row> {
    let mut indexes: Vec<usize> = (0..pairs.len()).filter(|&index| wish.fits(&pairs[index])).collect();
    if wish.sort != SortBy::Path {
        indexes.sort_by(|&one, &other| order(wish.sort, &pairs[one], &pairs[other]));
        let files = indexes.into_iter().filter(|&index| !pairs[index].is_folder());
        return files.map(|index| Row::Pair { index, depth: 0 }).collect();
    }
    indexes.sort_by(|&one, &other| by_path(&pairs[one].path, &pairs[other].path));
    let totals = totals(pairs, &indexes);
    let mut rows = Vec::with_capacity(indexes.len());
    let mut open: Vec<Vec<u8>> = Vec::new();
    let mut folded: Option<Vec<u8>> = None;
    for index in indexes {
        let path: &[u8] = &pairs[index].path;
        if let Some(folder) = &folded
            && is_below(path, folder)
        {
            continue;
        }
        folded = None;
        open.retain(|folder| is_below(path, folder));
        let shown = open.last().map_or(0, |folder| folder.len() + 1);
        let ends = path.iter().enumerate().skip(shown).filter(|(_, byte)| **byte == b'/').map(|(at, _)| at);
        for end in ends {
            let folder = path[..end].to_vec();
            let is_folded = wish.folded.contains(&folder);
            let totals = totals.get(&folder).cloned().unwrap_or_default();
            rows.push(Row::Folder { path: folder.clone(), depth: open.len(), totals, is_folded });
            if is_folded {
                folded = Some(folder);
                break;
            }
            open.push(folder);
        }
        if folded.is_some() {
            continue;
        }
        // A folder that is there with what is in it has a row of its own.
        let pair = &pairs[index];
        if pair.is_folder() && totals.contains_key(path) {
            let is_folded = wish.folded.contains(path);
            let totals = totals.get(path).cloned().unwrap_or_default();
            rows.push(Row::Folder { path: path.to_vec(), depth: open.len(), totals, is_folded });
            if is_folded {
                folded = Some(path.to_vec());
            } else {
                open.push(path.to_vec());
            }
            continue;
        }
        rows.push(Row::Pair { index, depth: open.len() });
    }
    rows
}

/// All folders that have rows.
pub(super) fn folders(pairs: &[Pair]) -> BTreeSet<Vec<u8>> {
    pairs.iter().flat_map(|pair| pair.path.folders_above().map(<[u8]>::to_vec)).collect()
}

fn is_below(path: &[u8], folder: &[u8]) -> bool {
    path.len() > folder.len() && path.starts_with(folder) && path[folder.len()] == b'/'
}

fn totals(pairs: &[Pair], indexes: &[usize]) -> HashMap<Vec<u8>, Totals> {
    let mut totals: HashMap<Vec<u8>, Totals> = HashMap::new();
    for &index in indexes {
        let pair = &pairs[index];
        if pair.is_folder() {
            continue;
        }
        for folder in pair.path.folders_above() {
            let folder = totals.entry(folder.to_vec()).or_default();
            *folder.files.entry(pair.status).or_default() += 1;
            folder.changes += pair.extent.counted;
        }
    }
    totals
}
