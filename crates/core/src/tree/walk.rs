//! Walking two trees side by side.
//!
//! Each pair of folders is listed, merged by name and dropped again; only pairs that differ are kept, so that memory grows
//! with what differs and not with the trees. Entries of a folder are compared in parallel.

use std::cmp::Ordering;

use rayon::prelude::*;

use super::both_trees::BothTrees;
use super::options::TreeOptions;
use super::progress::Progress;
use super::{Entry, EntryMetadata, EntryType, LeftOut, Note, Pair, Tree, TreeComparison, TreeError, join, moves};
use crate::model::{Extent, Status};
use crate::rules::Account;

/// Compares two trees. What cannot be read is a pair of its own; the rest goes on.
pub fn compare(before: &dyn Tree, after: &dyn Tree, options: &TreeOptions, progress: &Progress) -> TreeComparison {
    let walk = Walk { trees: BothTrees { before, after, options, progress } };
    let mut found = walk.all();
    if options.moves {
        match_moves(&mut found.pairs, &walk);
    }
    found.pairs.par_sort_by(|one, other| by_path(&one.path, &other.path));
    found.left_out.repositories.sort_unstable();
    found.left_out.repositories.dedup();
    let mut comparison = TreeComparison { left_out: found.left_out, ..TreeComparison::default() };
    comparison.counts.insert(Status::Same, found.same);
    comparison.account = found.account;
    comparison.tally(&found.pairs);
    found.pairs.retain(|pair| options.keeps(pair));
    comparison.pairs = found.pairs;
    comparison
}

/// Bytes of two paths that are compared at once: deep paths begin alike.
const STRETCH: usize = 64;

/// The order of paths, folder by folder: a folder comes before what is in it, and all of that before what comes after the folder.
pub fn by_path(one: &[u8], other: &[u8]) -> Ordering {
    let alike = one.chunks(STRETCH).zip(other.chunks(STRETCH)).take_while(|(one, other)| one == other).count();
    let from = (alike * STRETCH).min(one.len()).min(other.len());
    let rank = |&byte: &u8| if byte == b'/' { 0 } else { byte };
    one[from..].iter().map(rank).cmp(other[from..].iter().map(rank))
}

/// Makes one pair of each gone and new file that belong together.
fn match_moves(pairs: &mut Vec<Pair>, walk: &Walk<'_>) {
    let found = moves::find(pairs, walk.trees.before, walk.trees.after);
    let moved: Vec<(usize, Pair)> = found
        .into_par_iter()
        .map(|(gone, new)| {
            let (from, to) = (&pairs[gone], &pairs[new]);
            let mut pair = Pair {
                status: Status::Moved,
                moved_from: Some(from.path.clone()),
                types: (from.types.0, to.types.1),
                before: from.before,
                kind: None,
                extent: Extent::default(),
                ..to.clone()
            };
            walk.trees.measure(&mut pair);
            (gone, pair)
        })
        .collect();
    let mut drop = vec![false; pairs.len()];
    let places: std::collections::HashMap<Vec<u8>, usize> = pairs
        .iter()
        .enumerate()
        .filter(|(_, pair)| pair.status == Status::New)
        .map(|(index, pair)| (pair.path.clone(), index))
        .collect();
    for (gone, pair) in moved {
        drop[gone] = true;
        if let Some(&place) = places.get(&pair.path) {
            pairs[place] = pair;
        }
    }
    let mut kept = drop.into_iter().map(|drop| !drop);
    pairs.retain(|_| kept.next().unwrap_or(true));
}

/// A folder that is still to be looked into.
enum Pending {
    /// One that both sides have.
    Both(Vec<u8>),
    /// One that only one side has, which is gone or new.
    Alone(Vec<u8>, Status),
}

/// What a part of the walk found.
#[derive(Default)]
struct SubtreeResult {
    pairs: Vec<Pair>,
    pending: Vec<Pending>,
    /// Pairs in which nothing differs and which are not kept.
    same: usize,
    /// What the rules masked in them.
    account: Account,
    left_out: LeftOut,
}

impl SubtreeResult {
    fn of(pair: Pair) -> Self {
        Self { pairs: vec![pair], ..Self::default() }
    }

    fn pending(folder: Pending) -> Self {
        Self { pending: vec![folder], ..Self::default() }
    }

    fn add(mut self, other: Self) -> Self {
        self.pending.extend(other.pending);
        if self.pairs.is_empty() {
            self.pairs = other.pairs;
        } else {
            self.pairs.extend(other.pairs);
        }
        self.same += other.same;
        self.account.add(&other.account);
        self.left_out.add(other.left_out);
        self
    }
}

/// Walks both trees, folder by folder.
struct Walk<'a> {
    trees: BothTrees<'a>,
}

impl Walk<'_> {
    /// Looks into all folders, level by level: however deep they are, no stack grows with it.
    fn all(&self) -> SubtreeResult {
        let mut found = SubtreeResult::default();
        let mut level = vec![Pending::Both(Vec::new())];
        while !level.is_empty() {
            let parts: Vec<SubtreeResult> = level
                .into_par_iter()
                .map(|pending| match pending {
                    Pending::Both(path) => self.folder(&path),
                    Pending::Alone(path, status) => self.alone(path, EntryType::Folder, status),
                })
                .collect();
            found = parts.into_iter().fold(found, SubtreeResult::add);
            level = std::mem::take(&mut found.pending);
        }
        found
    }

    /// Compares a folder that both sides have.
    fn folder(&self, path: &[u8]) -> SubtreeResult {
        if !self.trees.options.filter.enters(path) {
            return SubtreeResult {
                left_out: LeftOut { too_deep: 1, ..LeftOut::default() },
                ..SubtreeResult::default()
            };
        }
        let mut part = SubtreeResult::default();
        let mut list = |tree: &dyn Tree| list_sorted(tree, path, &mut part.left_out);
        let (before, after) = match (list(self.trees.before), list(self.trees.after)) {
            (Ok(before), Ok(after)) => (before, after),
            (Err(problem), _) => {
                return part.add(SubtreeResult::of(unreadable_folder(path, Note::UnreadableBefore(problem))));
            }
            (_, Err(problem)) => {
                return part.add(SubtreeResult::of(unreadable_folder(path, Note::UnreadableAfter(problem))));
            }
        };
        let parts: Vec<SubtreeResult> =
            merged(&before, &after).into_par_iter().map(|(one, other)| self.entry(path, one, other)).collect();
        parts.into_iter().fold(part, SubtreeResult::add)
    }

    /// Compares an entry that one side or both have.
    fn entry(&self, folder: &[u8], before: Option<&Entry>, after: Option<&Entry>) -> SubtreeResult {
        let Some(name) = before.or(after).map(|entry| &entry.name) else { return SubtreeResult::default() };
        let path = join(folder, name);
        let types = (before.map(|entry| entry.entry_type), after.map(|entry| entry.entry_type));
        let folders = types.0 == Some(EntryType::Folder) || types.1 == Some(EntryType::Folder);
        let filter = &self.trees.options.filter;
        if filter.leaves_out(&path) || (!folders && !filter.takes(&path)) {
            return SubtreeResult {
                left_out: LeftOut { by_pattern: 1, ..LeftOut::default() },
                ..SubtreeResult::default()
            };
        }
        match types {
            (Some(EntryType::Folder), Some(EntryType::Folder)) => SubtreeResult::pending(Pending::Both(path)),
            (Some(EntryType::Folder), None) => SubtreeResult::pending(Pending::Alone(path, Status::Gone)),
            (None, Some(EntryType::Folder)) => SubtreeResult::pending(Pending::Alone(path, Status::New)),
            (Some(entry_type), None) => {
                self.alone_with(path, (entry_type, before.and_then(|entry| entry.metadata)), Status::Gone)
            }
            (None, Some(entry_type)) => {
                self.alone_with(path, (entry_type, after.and_then(|entry| entry.metadata)), Status::New)
            }
            (Some(one), Some(other)) if one != other => self.retyped(&path, one, other),
            _ => {
                let mut pair = Pair::new(path, Status::Same, types);
                (pair.before, pair.after) =
                    (before.and_then(|entry| entry.metadata), after.and_then(|entry| entry.metadata));
                self.trees.pair(&mut pair);
                if pair.status == Status::Same
                    && self.trees.options.only.as_ref().is_none_or(|only| !only.contains(&Status::Same))
                {
                    return SubtreeResult {
                        same: 1,
                        account: pair.account,
                        left_out: self.unread(),
                        ..SubtreeResult::default()
                    };
                }
                SubtreeResult { left_out: self.unread(), ..SubtreeResult::of(pair) }
            }
        }
    }

    fn unread(&self) -> LeftOut {
        LeftOut { unread: usize::from(self.trees.options.trust.is_some()), ..LeftOut::default() }
    }

    /// An entry that only one side has, with all that is in it.
    fn alone(&self, path: Vec<u8>, entry_type: EntryType, status: Status) -> SubtreeResult {
        self.alone_with(path, (entry_type, None), status)
    }

    /// The same with what a listing told of the entry.
    fn alone_with(
        &self,
        path: Vec<u8>,
        (entry_type, metadata): (EntryType, Option<EntryMetadata>),
        status: Status,
    ) -> SubtreeResult {
        let tree = if status == Status::Gone { self.trees.before } else { self.trees.after };
        let types = if status == Status::Gone { (Some(entry_type), None) } else { (None, Some(entry_type)) };
        let mut pair = Pair::new(path, status, types);
        *(if status == Status::Gone { &mut pair.before } else { &mut pair.after }) = metadata;
        if entry_type == EntryType::Folder {
            return self.folder_alone(pair, tree);
        }
        if entry_type == EntryType::File {
            self.trees.describe(&mut pair, tree);
        }
        self.trees.progress.add(pair.size());
        SubtreeResult::of(pair)
    }

    fn folder_alone(&self, mut pair: Pair, tree: &dyn Tree) -> SubtreeResult {
        let (path, status) = (pair.path.clone(), pair.status);
        let told = |pair: Pair| {
            if self.trees.options.filter.is_selective() { SubtreeResult::default() } else { SubtreeResult::of(pair) }
        };
        if !self.trees.options.filter.enters(&path) {
            pair.note = Some(Note::NotEntered);
            return told(pair).add(SubtreeResult {
                left_out: LeftOut { too_deep: 1, ..LeftOut::default() },
                ..SubtreeResult::default()
            });
        }
        let mut left_out = LeftOut::default();
        match list_sorted(tree, &path, &mut left_out) {
            Ok(entries) => {
                if !entries.is_empty() || left_out.by_ignore_files > 0 {
                    pair.note = Some(Note::NothingLookedAt);
                }
                let part = told(pair).add(SubtreeResult { left_out, ..SubtreeResult::default() });
                let gone = status == Status::Gone;
                let side = |entry| if gone { (Some(entry), None) } else { (None, Some(entry)) };
                let parts: Vec<SubtreeResult> = entries
                    .par_iter()
                    .map(|entry| {
                        let (before, after) = side(entry);
                        self.entry(&path, before, after)
                    })
                    .collect();
                parts.into_iter().fold(part, SubtreeResult::add)
            }
            Err(problem) => {
                let side = if status == Status::Gone { Note::UnreadableBefore } else { Note::UnreadableAfter };
                SubtreeResult::of(unreadable_folder(&path, side(problem)))
            }
        }
    }
    /// Entries of different types under one name; what a folder among them holds is gone or new.
    fn retyped(&self, path: &[u8], one: EntryType, other: EntryType) -> SubtreeResult {
        let mut pair = Pair::new(path.to_vec(), Status::Retyped, (Some(one), Some(other)));
        pair.note = Some(Note::Became(one, other));
        let mut inside = match (one, other) {
            (EntryType::Folder, _) => self.alone(path.to_vec(), one, Status::Gone),
            (_, EntryType::Folder) => self.alone(path.to_vec(), other, Status::New),
            _ => SubtreeResult::default(),
        };
        if !self.trees.options.filter.takes(path) {
            inside.left_out.by_pattern += 1;
            return inside;
        }
        // The folder itself is told by the retyped pair.
        inside.pairs.retain(|found| found.path != pair.path || found.status == Status::Unreadable);
        SubtreeResult::of(pair).add(inside)
    }
}

fn unreadable_folder(path: &[u8], why: Note) -> Pair {
    let folder = Some(EntryType::Folder);
    let mut pair = Pair::new(path.to_vec(), Status::Unreadable, (folder, folder));
    pair.note = Some(why);
    pair
}

/// The entries of a folder by name; what the tree left out of them is added to the account.
fn list_sorted(tree: &dyn Tree, folder: &[u8], left_out: &mut LeftOut) -> Result<Vec<Entry>, TreeError> {
    let listing = tree.list(folder)?;
    left_out.by_ignore_files += listing.ignored;
    left_out.own += listing.own;
    left_out.repositories.extend(listing.repositories.iter().map(|name| join(folder, name)));
    let mut entries = listing.entries;
    entries.sort_unstable_by(|one, other| one.name.cmp(&other.name));
    Ok(entries)
}

/// The entries of both lists, which are sorted by name, side by side.
fn merged<'e>(before: &'e [Entry], after: &'e [Entry]) -> Vec<(Option<&'e Entry>, Option<&'e Entry>)> {
    let mut pairs = Vec::with_capacity(before.len().max(after.len()));
    let (mut one, mut other) = (before.iter().peekable(), after.iter().peekable());
    loop {
        let order = match (one.peek(), other.peek()) {
            (None, None) => return pairs,
            (Some(_), None) => Ordering::Less,
            (None, Some(_)) => Ordering::Greater,
            (Some(b), Some(a)) => b.name.cmp(&a.name),
        };
        pairs.push(match order {
            Ordering::Less => (one.next(), None),
            Ordering::Greater => (None, other.next()),
            Ordering::Equal => (one.next(), other.next()),
        });
    }
}
