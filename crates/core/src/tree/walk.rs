//! Walking two trees side by side, in path order.
//!
//! What is still to come is a list in the order of paths: pairs that are known, and folders that are not looked into yet. Again and
//! again the next folders of the list are looked into, several at once, and each is replaced by what is in it. Pairs at the head
//! of the list are passed on. So memory grows with what differs and with the folders that wait, not with the trees, and
//! however deep they are, no stack grows with them.

use std::cmp::Ordering;
use std::ops::ControlFlow;

use rayon::prelude::*;

use super::both_trees::{BothTrees, Found, Unknown};
use super::{Attribute, Entry, EntryMetadata, EntryType, LeftOut, Note, Pair, Tree, TreeError, TreePath};
use crate::internal::align::{LARGEST_SAMPLE, MOST_SAMPLED};
use crate::internal::model::Status;
use crate::internal::rules::Account;

/// Folders that are looked into at once.
const FOLDERS_AT_ONCE: usize = 512;
/// How far ahead in the list they are looked for.
const LOOK_AHEAD: usize = 8192;

/// What stands in the list.
enum Item {
    Pair(Box<Found>),
    /// A folder that both sides have.
    Both(TreePath),
    /// A folder that only one side has, which is gone or new.
    Alone(TreePath, Status),
}

/// What a part of the walk found.
#[derive(Default)]
struct Part {
    /// In path order.
    items: Vec<Item>,
    totals: WalkTotals,
}

/// What the walk counted of what it does not pass on.
#[derive(Default)]
pub(super) struct WalkTotals {
    /// Pairs in which nothing differs.
    pub(super) same: usize,
    /// What the rules masked in them.
    pub(super) account: Account,
    pub(super) left_out: LeftOut,
    /// Some small files in which nothing differs: which lines are usual in these trees is told from them.
    pub(super) usual: Vec<TreePath>,
}

impl WalkTotals {
    fn add(&mut self, other: Self) {
        self.same += other.same;
        self.account.add(&other.account);
        self.left_out.add(other.left_out);
        self.usual.extend(other.usual.into_iter().take(MOST_SAMPLED - self.usual.len()));
    }
}

impl Part {
    fn of(item: Item) -> Self {
        Self { items: vec![item], ..Self::default() }
    }

    fn pair(pair: Pair, unknown: Unknown) -> Self {
        Self::of(Item::Pair(Box::new(Found { pair, unknown })))
    }

    fn left_out(left_out: LeftOut) -> Self {
        Self { totals: WalkTotals { left_out, ..WalkTotals::default() }, ..Self::default() }
    }

    fn add(mut self, other: Self) -> Self {
        if self.items.is_empty() {
            self.items = other.items;
        } else {
            self.items.extend(other.items);
        }
        self.totals.add(other.totals);
        self
    }
}

/// Walks both trees, folder by folder.
pub(super) struct Walk<'a> {
    pub(super) trees: BothTrees<'a>,
}

impl Walk<'_> {
    /// Passes all pairs on that are not the same, in path order, as many at a time as are known.
    pub(super) fn all(&self, mut pass_on: impl FnMut(Vec<Found>) -> ControlFlow<()>) -> WalkTotals {
        let mut totals = WalkTotals::default();
        // The next item is the last of the list.
        let mut list = vec![Item::Both(TreePath::ROOT)];
        while !list.is_empty() {
            let start = list.len() - ahead(&list);
            let parts: Vec<Part> = list.split_off(start).into_par_iter().map(|item| self.item(item)).collect();
            for part in parts {
                totals.add(part.totals);
                list.extend(part.items.into_iter().rev());
            }
            let mut known = Vec::new();
            while let Some(Item::Pair(found)) = list.pop_if(|item| matches!(item, Item::Pair(_))) {
                known.push(*found);
            }
            if !known.is_empty() && pass_on(known).is_break() {
                return totals;
            }
        }
        totals
    }

    fn item(&self, item: Item) -> Part {
        match item {
            Item::Pair(_) => Part::of(item),
            Item::Both(path) => self.folder(&path),
            Item::Alone(path, status) => self.alone((path, EntryType::Folder, None), status),
        }
    }

    /// Compares a folder that both sides have.
    fn folder(&self, path: &TreePath) -> Part {
        if !self.trees.options.filter.enters(path) {
            return Part::left_out(LeftOut { too_deep: 1, ..LeftOut::default() });
        }
        if let Some(same) = self.trees.same_folder(path) {
            return Part { totals: WalkTotals { same, ..WalkTotals::default() }, ..Part::default() };
        }
        let mut part = Part::default();
        let mut list = |tree: &dyn Tree| list_sorted(tree, path, &mut part.totals.left_out);
        let ((before, cut_before), (after, cut_after)) = match (list(self.trees.before), list(self.trees.after)) {
            (Ok(before), Ok(after)) => (before, after),
            (Err(problem), _) => return part.add(unreadable_folder(path, Note::UnreadableBefore(problem))),
            (_, Err(problem)) => return part.add(unreadable_folder(path, Note::UnreadableAfter(problem))),
        };
        for note in [cut_before.map(Note::UnreadableBefore), cut_after.map(Note::UnreadableAfter)].into_iter().flatten()
        {
            part = part.add(unreadable_folder(path, note));
        }
        let parts: Vec<Part> =
            merged(&before, &after).into_par_iter().map(|(one, other)| self.entry(path, one, other)).collect();
        parts.into_iter().fold(part, Part::add)
    }

    /// Compares an entry that one side or both have.
    fn entry(&self, folder: &TreePath, before: Option<&Entry>, after: Option<&Entry>) -> Part {
        let Some(name) = before.or(after).map(|entry| &entry.name) else { return Part::default() };
        let path = folder.join(name);
        let types = (before.map(|entry| entry.entry_type), after.map(|entry| entry.entry_type));
        let known = |entry: Option<&Entry>| entry.and_then(|entry| entry.metadata);
        let folders = types.0 == Some(EntryType::Folder) || types.1 == Some(EntryType::Folder);
        let filter = &self.trees.options.filter;
        if filter.leaves_out(&path) || (!folders && !filter.takes(&path)) {
            return Part::left_out(LeftOut { by_pattern: 1, ..LeftOut::default() });
        }
        if types.0 == Some(EntryType::File) && types.0 == types.1 && self.trees.options.is_paired_elsewhere(&path) {
            let gone = self.alone((path.clone(), EntryType::File, known(before)), Status::Gone);
            return gone.add(self.alone((path, EntryType::File, known(after)), Status::New));
        }
        match types {
            (Some(EntryType::Folder), Some(EntryType::Folder))
                if before.is_some_and(|entry| entry.packed) && after.is_some_and(|entry| entry.packed) =>
            {
                self.archives(path, (known(before), known(after)))
            }
            (Some(EntryType::Folder), Some(EntryType::Folder)) => Part::of(Item::Both(path)),
            (Some(EntryType::Folder), None) => Part::of(Item::Alone(path, Status::Gone)),
            (None, Some(EntryType::Folder)) => Part::of(Item::Alone(path, Status::New)),
            (Some(entry_type), None) => self.alone((path, entry_type, known(before)), Status::Gone),
            (None, Some(entry_type)) => self.alone((path, entry_type, known(after)), Status::New),
            (Some(one), Some(other)) if one != other => self.retyped(&path, one, other),
            _ => {
                let mut pair = Pair::new(path, Status::Same, types);
                (pair.before, pair.after) = (known(before), known(after));
                let unknown = self.trees.pair(&mut pair);
                let is_packed = [before, after].into_iter().flatten().any(|entry| entry.packed);
                if is_packed && pair.status == Status::Same && !self.trees.same_packing(&pair.path) {
                    (pair.status, pair.note) = (Status::Muted, Some(Note::Packing));
                }
                let uncompared = |attribute| usize::from(pair.uncompared.contains(&attribute));
                let mut part = Part::left_out(LeftOut {
                    unread: usize::from(self.trees.options.trust.is_some()),
                    modes: uncompared(Attribute::Mode),
                    times: uncompared(Attribute::Time),
                    ..LeftOut::default()
                });
                if pair.status == Status::Same && !self.trees.options.wants(Status::Same) {
                    part.totals.same = 1;
                    if pair.is_file() && (1..=LARGEST_SAMPLE).contains(&pair.size()) {
                        part.totals.usual.push(pair.path.clone());
                    }
                    return part;
                }
                part.add(Part::pair(pair, unknown))
            }
        }
    }

    /// Two archives. What is in them is compared, unless they are the same file.
    fn archives(&self, path: TreePath, known: (Option<EntryMetadata>, Option<EntryMetadata>)) -> Part {
        let is_same = self.trees.same_packing(&path);
        let status = if is_same { Status::Same } else { Status::Muted };
        let mut pair = Pair::new(path.clone(), status, (Some(EntryType::File), Some(EntryType::File)));
        (pair.before, pair.after) = known;
        self.trees.progress.add(pair.size());
        if !is_same {
            // It is taken back when something in them differs.
            pair.note = Some(Note::Packing);
            return Part::pair(pair, Unknown::Nothing).add(Part::of(Item::Both(path)));
        }
        if self.trees.options.wants(Status::Same) {
            return Part::pair(pair, Unknown::Nothing);
        }
        Part { totals: WalkTotals { same: 1, ..WalkTotals::default() }, ..Part::default() }
    }

    /// An entry that only one side has, with all that is in it, and what a listing told of it.
    fn alone(
        &self,
        (path, entry_type, metadata): (TreePath, EntryType, Option<EntryMetadata>),
        status: Status,
    ) -> Part {
        let tree = if status == Status::Gone { self.trees.before } else { self.trees.after };
        let types = if status == Status::Gone { (Some(entry_type), None) } else { (None, Some(entry_type)) };
        let mut pair = Pair::new(path, status, types);
        *(if status == Status::Gone { &mut pair.before } else { &mut pair.after }) = metadata;
        if entry_type == EntryType::Folder {
            return self.folder_alone(pair, tree);
        }
        let unknown =
            if entry_type == EntryType::File { self.trees.look_at(&mut pair, tree) } else { Unknown::Nothing };
        self.trees.progress.add(pair.size());
        Part::pair(pair, unknown)
    }

    fn folder_alone(&self, mut pair: Pair, tree: &dyn Tree) -> Part {
        let (path, status) = (pair.path.clone(), pair.status);
        let told = |pair: Pair| {
            if self.trees.options.filter.is_selective() { Part::default() } else { Part::pair(pair, Unknown::Nothing) }
        };
        if !self.trees.options.filter.enters(&path) {
            pair.note = Some(Note::NotEntered);
            return told(pair).add(Part::left_out(LeftOut { too_deep: 1, ..LeftOut::default() }));
        }
        let other = if status == Status::Gone { self.trees.after } else { self.trees.before };
        if !other.holds_empty_folders() && !holds_a_file(tree, &path) {
            return Part::left_out(LeftOut { empty_folders: 1, ..LeftOut::default() });
        }
        let mut left_out = LeftOut::default();
        match list_sorted(tree, &path, &mut left_out) {
            Ok((entries, cut)) => {
                if !entries.is_empty() || left_out.by_ignore_files > 0 {
                    pair.note = Some(Note::NothingLookedAt);
                }
                let mut part = told(pair).add(Part::left_out(left_out));
                if let Some(problem) = cut {
                    let side = if status == Status::Gone { Note::UnreadableBefore } else { Note::UnreadableAfter };
                    part = part.add(unreadable_folder(&path, side(problem)));
                }
                let parts: Vec<Part> = entries
                    .par_iter()
                    .map(|entry| match status {
                        Status::Gone => self.entry(&path, Some(entry), None),
                        _ => self.entry(&path, None, Some(entry)),
                    })
                    .collect();
                parts.into_iter().fold(part, Part::add)
            }
            Err(problem) => {
                let side = if status == Status::Gone { Note::UnreadableBefore } else { Note::UnreadableAfter };
                unreadable_folder(&path, side(problem))
            }
        }
    }

    /// Entries of different types under one name; what a folder among them holds is gone or new.
    fn retyped(&self, path: &TreePath, one: EntryType, other: EntryType) -> Part {
        let mut pair = Pair::new(path.clone(), Status::Retyped, (Some(one), Some(other)));
        pair.note = Some(Note::Became(one, other));
        let mut inside = match (one, other) {
            (EntryType::Folder, _) => self.alone((path.clone(), one, None), Status::Gone),
            (_, EntryType::Folder) => self.alone((path.clone(), other, None), Status::New),
            _ => Part::default(),
        };
        if !self.trees.options.filter.takes(path) {
            inside.totals.left_out.by_pattern += 1;
            return inside;
        }
        // The folder itself is told by the retyped pair.
        inside.items.retain(|item| match item {
            Item::Pair(found) => found.pair.path != pair.path || found.pair.status == Status::Unreadable,
            Item::Both(_) | Item::Alone(..) => true,
        });
        Part::pair(pair, Unknown::Nothing).add(inside)
    }
}

/// How many of the next items hold as many folders as are looked into at once.
fn ahead(list: &[Item]) -> usize {
    let mut folders = 0;
    let within = list.iter().rev().take(LOOK_AHEAD).take_while(|item| {
        folders += usize::from(!matches!(item, Item::Pair(_)));
        folders <= FOLDERS_AT_ONCE
    });
    within.count()
}

/// Whether anything but folders is in a folder, at any depth. One that cannot be read may hold anything.
fn holds_a_file(tree: &dyn Tree, folder: &TreePath) -> bool {
    let mut folders = vec![folder.clone()];
    while let Some(folder) = folders.pop() {
        let Ok(listing) = tree.list(&folder) else { return true };
        for entry in listing.entries {
            if entry.entry_type != EntryType::Folder || entry.packed {
                return true;
            }
            folders.push(folder.join(&entry.name));
        }
    }
    false
}

fn unreadable_folder(path: &TreePath, why: Note) -> Part {
    let folder = Some(EntryType::Folder);
    let mut pair = Pair::new(path.clone(), Status::Unreadable, (folder, folder));
    pair.note = Some(why);
    Part::pair(pair, Unknown::Nothing)
}

/// The entries of a folder by name, and why there may be more; what the tree left out of them is added to the account.
fn list_sorted(
    tree: &dyn Tree,
    folder: &TreePath,
    left_out: &mut LeftOut,
) -> Result<(Vec<Entry>, Option<TreeError>), TreeError> {
    let listing = tree.list(folder)?;
    left_out.by_ignore_files += listing.ignored;
    left_out.own += listing.own;
    left_out.repositories.extend(listing.repositories.iter().map(|name| folder.join(name)));
    let mut entries = listing.entries;
    entries.sort_unstable_by(|one, other| one.name.cmp(&other.name));
    Ok((entries, listing.damage))
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
