//! Two entries that both want one name, or of which one is a file where the other needs a folder.

use std::collections::BTreeMap;

use super::super::three_way::{Prefer, Together};
use super::clash::TreeClash;
use super::entry::{Beside, MergedEntry, Source};
use super::join::decide;
use crate::internal::tree::{EntryType, TreePath};

/// Tells which entries of theirs cannot be where they want to be because mine has something else there.
pub(super) fn tell_collisions(entries: &mut [MergedEntry], prefer: Option<Prefer>) {
    // What is put aside goes back to where mine has it, and another may want that place.
    let taken = loop {
        if let Some(taken) = place(entries, prefer) {
            break taken;
        }
    };
    let blocked: Vec<(usize, TreePath)> = (0..entries.len())
        .filter(|at| comes_from_theirs(&entries[*at]))
        .filter_map(|at| Some((at, in_the_way(entries, at, &taken)?)))
        .collect();
    for (at, path) in blocked {
        set_aside(&mut entries[at], TreeClash::FileAgainstFolder(path));
        if prefer == Some(Prefer::Mine) {
            decide(&mut entries[at], Prefer::Mine);
        }
    }
}

/// Where what comes of each entry will be; nothing where entries had to be put aside, and it has to be told anew.
fn place(entries: &mut [MergedEntry], prefer: Option<Prefer>) -> Option<BTreeMap<TreePath, usize>> {
    let mut taken: BTreeMap<TreePath, usize> = BTreeMap::new();
    let mut is_stable = true;
    for at in 0..entries.len() {
        let Some(path) = entries[at].plan.to.clone() else { continue };
        let Some(&other) = taken.get(&path) else {
            taken.insert(path, at);
            continue;
        };
        is_stable = false;
        // Of two, the one that mine has there stays.
        let (comes, stays) = if is_there(&entries[other], &path) { (at, other) } else { (other, at) };
        clash(entries, comes, stays, prefer);
        taken.insert(path, stays);
    }
    is_stable.then_some(taken)
}

/// What an entry will be.
fn final_type(entry: &MergedEntry) -> Option<EntryType> {
    if entry.plan.source == Source::Theirs { entry.theirs.entry_type } else { entry.mine.entry_type }
}

/// Whether mine has an entry at a path already.
fn is_there(entry: &MergedEntry, path: &TreePath) -> bool {
    entry.mine.path.as_ref() == Some(path)
}

/// Whether an entry comes to a place where mine does not have it.
fn comes_from_theirs(entry: &MergedEntry) -> bool {
    entry.plan.to.is_some() && entry.plan.to != entry.mine.path
}

/// Two entries for one name: the one that is not there yet is put beside it.
fn clash(entries: &mut [MergedEntry], comes: usize, stays: usize, prefer: Option<Prefer>) {
    let other = entries[stays].path.clone();
    set_aside(&mut entries[comes], TreeClash::SameName(other));
    let own = entries[comes].path.clone();
    let stays = &mut entries[stays];
    stays.together = Together::Conflict;
    stays.clashes.push(TreeClash::SameName(own));
    if prefer == Some(Prefer::Mine) {
        stays.is_decided = true;
        decide(&mut entries[comes], Prefer::Mine);
    }
}

/// Keeps what mine has, and puts the version of theirs beside.
fn set_aside(entry: &mut MergedEntry, clash: TreeClash) {
    entry.together = Together::Conflict;
    entry.clashes.push(clash);
    entry.plan.to = entry.mine.path.clone();
    entry.plan.source = Source::Mine;
    entry.plan.mode = None;
    entry.plan.beside = Beside::Theirs;
    entry.is_decided = false;
}

/// What stands in the way of a file that comes to a new place: a file that mine keeps above it, or one below it.
fn in_the_way(entries: &[MergedEntry], at: usize, taken: &BTreeMap<TreePath, usize>) -> Option<TreePath> {
    let path = entries[at].plan.to.as_ref()?;
    let above = path.folders_above().find_map(|folder| {
        let folder = TreePath::from(folder);
        let other = &entries[*taken.get(&folder)?];
        (final_type(other) != Some(EntryType::Folder) && is_there(other, &folder)).then_some(folder)
    });
    let is_folder = entries[at].theirs.entry_type == Some(EntryType::Folder);
    above.or_else(|| {
        let first = path.join(b"");
        let below = taken.range(first..).next().filter(|(other, _)| other.is_within(path) && *other != path)?;
        (!is_folder && is_there(&entries[*below.1], below.0)).then(|| below.0.clone())
    })
}
