//! From a merge of trees to the steps that write it: into mine as it is, or into a new folder.

use std::collections::{BTreeMap, BTreeSet};

use super::super::beside::suffix_beside;
use super::super::three_way::Three;
use super::clash::TreeClash;
use super::entry::{Beside, MergedEntry, SideOfEntry, Source};
use super::found::TreeMerge;
use crate::internal::model::Status;
use crate::internal::plan::{Item, Moment, Side, Stamp, SyncPlan, SyncStep, checked_path};
use crate::internal::tree::{EntryMetadata, EntryType, Tree, TreeComparison, TreePath};

/// What a merge of trees writes.
#[derive(Clone, Debug, Default)]
pub struct MergeSteps {
    /// The steps.
    pub plan: SyncPlan,
    /// What each file that is written will hold, by its path.
    pub contents: BTreeMap<TreePath, StepContents>,
    /// Paths that cannot be written because their names would lead elsewhere.
    pub refused: Vec<(TreePath, String)>,
}

/// What a file that is written will hold.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum StepContents {
    /// What mine has at a path.
    Mine(TreePath),
    /// What theirs has at a path.
    Theirs(TreePath),
    /// These bytes.
    Bytes(Vec<u8>),
}

impl TreeMerge {
    /// The steps that make the merge of mine. What is put beside a conflict is named after its side.
    pub fn steps_into_mine(&self, trees: Three<&dyn Tree>, labels: &Three<String>) -> MergeSteps {
        let mut steps = Steps::new(trees, labels, false);
        for entry in self.entries.iter().filter(|entry| entry.changes_mine()) {
            steps.entry(entry);
        }
        for folder in &self.new_folders {
            steps.folder(folder);
        }
        steps.folders_that_go(&self.gone_folders);
        steps.sorted()
    }

    /// The steps that write the merge into a new folder; the comparison of nothing with mine tells all that mine holds.
    pub fn steps_into_new(
        &self,
        trees: Three<&dyn Tree>,
        all_of_mine: &TreeComparison,
        labels: &Three<String>,
    ) -> MergeSteps {
        let mut steps = Steps::new(trees, labels, true);
        let changed: BTreeSet<&TreePath> = self
            .entries
            .iter()
            .filter(|entry| entry.changes_mine())
            .filter_map(|entry| entry.mine.path.as_ref())
            .collect();
        let gone: BTreeSet<&TreePath> = self.gone_folders.iter().collect();
        for pair in all_of_mine.pairs.iter().filter(|pair| pair.status == Status::New && !changed.contains(&pair.path))
        {
            match pair.types.1 {
                Some(EntryType::Folder) if gone.contains(&pair.path) => {}
                Some(EntryType::Folder) => steps.folder_like(&pair.path, trees.mine),
                entry_type => {
                    let side = SideOfEntry {
                        status: Status::Same,
                        path: Some(pair.path.clone()),
                        entry_type,
                        metadata: pair.after,
                        only_mode: false,
                    };
                    steps.write(
                        &pair.path,
                        Written { of: &side, is_mine: true, bytes: None, mode: None },
                        Item::Nothing,
                    );
                }
            }
        }
        for entry in self.entries.iter().filter(|entry| entry.changes_mine()) {
            steps.fresh_entry(entry);
        }
        for folder in &self.new_folders {
            steps.folder(folder);
        }
        steps.sorted()
    }
}

/// What is written at a path.
struct Written<'w> {
    /// The version that it has the times and permissions of.
    of: &'w SideOfEntry,
    is_mine: bool,
    /// What it holds, if that is not what the version holds.
    bytes: Option<Vec<u8>>,
    mode: Option<u32>,
}

struct Steps<'s> {
    trees: Three<&'s dyn Tree>,
    labels: &'s Three<String>,
    /// Folders that are made.
    made: BTreeSet<TreePath>,
    /// Paths that something is written to.
    written: BTreeSet<TreePath>,
    /// Whether it is all written into a new folder, in which nothing stands yet.
    is_new: bool,
    /// How much goes from each folder.
    gone: BTreeMap<TreePath, usize>,
    steps: MergeSteps,
}

impl<'s> Steps<'s> {
    fn new(trees: Three<&'s dyn Tree>, labels: &'s Three<String>, is_new: bool) -> Self {
        Self {
            trees,
            labels,
            made: BTreeSet::new(),
            written: BTreeSet::new(),
            is_new,
            gone: BTreeMap::new(),
            steps: MergeSteps::default(),
        }
    }

    /// The steps in the order of their paths, one for each path.
    fn sorted(self) -> MergeSteps {
        let mut steps = self.steps;
        let mut leaves: BTreeMap<TreePath, Item> = BTreeMap::new();
        let mut comes: Vec<SyncStep> = Vec::new();
        for step in steps.plan.steps {
            match (&step.moved_from, &step.will) {
                (Some(from), _) => {
                    leaves.insert(from.clone(), step.was.clone());
                    comes.push(step);
                }
                (None, Item::Nothing) => {
                    leaves.insert(step.path, step.was);
                }
                (None, _) => comes.push(step),
            }
        }
        let taken: BTreeSet<TreePath> = comes.iter().map(|step| step.path.clone()).collect();
        for step in &mut comes {
            // A file that moves to where another leaves, or from where another comes, is written there instead.
            match step.moved_from.clone() {
                Some(from) if leaves.contains_key(&step.path) || taken.contains(&from) => {
                    step.moved_from = None;
                    step.was = Item::Nothing;
                    if matches!(step.will, Item::File { .. }) {
                        steps.contents.insert(step.path.clone(), StepContents::Mine(from));
                    }
                }
                Some(from) => drop(leaves.remove(&from)),
                None => {}
            }
        }
        for step in comes.iter_mut().filter(|step| step.moved_from.is_none()) {
            if let Some(was) = leaves.remove(&step.path) {
                step.was = was;
            }
        }
        let goes = leaves.into_iter().map(|(path, was)| SyncStep {
            path,
            moved_from: None,
            same_as: None,
            side: Side::Into,
            was,
            will: Item::Nothing,
        });
        steps.plan.steps = comes.into_iter().chain(goes).collect();
        steps.plan.steps.sort_by(|one, other| one.path.cmp(&other.path));
        steps
    }

    /// What stands in mine now.
    fn item(&self, side: &SideOfEntry) -> Item {
        let Some(path) = &side.path else { return Item::Nothing };
        item(self.trees.mine, path, side.entry_type, side.metadata)
    }

    fn entry(&mut self, entry: &MergedEntry) {
        let was = self.item(&entry.mine);
        let old = entry.mine.path.clone();
        match &entry.plan.to {
            None => {
                if let Some(old) = old {
                    self.remove(&old, was);
                }
            }
            Some(to) if old.as_ref() == Some(to) => {
                if entry.plan.source != Source::Mine || entry.plan.mode.is_some() {
                    self.put(entry, to, was);
                }
            }
            Some(to) => match old {
                Some(old) if entry.plan.source == Source::Mine && entry.plan.mode.is_none() => {
                    self.move_to(&old, to, was);
                }
                old => {
                    self.put(entry, to, Item::Nothing);
                    if let Some(old) = old {
                        self.remove(&old, was);
                    }
                }
            },
        }
        self.beside(entry);
    }

    /// The same where nothing of mine is there yet.
    fn fresh_entry(&mut self, entry: &MergedEntry) {
        if let Some(to) = &entry.plan.to {
            self.put(entry, to, Item::Nothing);
        }
        self.beside(entry);
    }

    fn put(&mut self, entry: &MergedEntry, to: &TreePath, was: Item) {
        let is_mine = entry.plan.source != Source::Theirs;
        let bytes = if let Source::Merged(bytes) = &entry.plan.source { Some(bytes.clone()) } else { None };
        let of = if is_mine { &entry.mine } else { &entry.theirs };
        self.write(to, Written { of, is_mine, bytes, mode: entry.plan.mode }, was);
    }

    fn write(&mut self, to: &TreePath, written: Written<'_>, was: Item) {
        if let Err(why) = checked_path(to) {
            return self.steps.refused.push((to.clone(), why.to_string()));
        }
        let Some(source) = written.of.path.clone() else { return };
        let tree = if written.is_mine { self.trees.mine } else { self.trees.theirs };
        let mut will = item(tree, &source, written.of.entry_type, written.of.metadata);
        if let Item::File { stamp, mode, .. } = &mut will {
            *mode = written.mode.or(*mode);
            let contents = match written.bytes {
                Some(bytes) => {
                    *stamp = Stamp { size: bytes.len() as u64, modified: None, changed: None };
                    StepContents::Bytes(bytes)
                }
                None if written.is_mine => StepContents::Mine(source),
                None => StepContents::Theirs(source),
            };
            self.steps.contents.insert(to.clone(), contents);
        }
        if will == Item::Nothing {
            return;
        }
        self.make_way(&to.parent());
        if matches!(will, Item::Folder { .. }) {
            self.made.insert(to.clone());
        }
        self.step(to, None, was, will);
    }

    fn step(&mut self, path: &TreePath, moved_from: Option<TreePath>, was: Item, will: Item) {
        if will != Item::Nothing {
            self.written.insert(path.clone());
        }
        let step = SyncStep { path: path.clone(), moved_from, same_as: None, side: Side::Into, was, will };
        self.steps.plan.steps.push(step);
    }

    fn remove(&mut self, path: &TreePath, was: Item) {
        if matches!(was, Item::Folder { .. }) {
            return;
        }
        *self.gone.entry(path.parent()).or_default() += 1;
        self.step(path, None, was, Item::Nothing);
    }

    fn move_to(&mut self, from: &TreePath, to: &TreePath, was: Item) {
        if let Err(why) = checked_path(to) {
            return self.steps.refused.push((to.clone(), why.to_string()));
        }
        self.make_way(&to.parent());
        *self.gone.entry(from.parent()).or_default() += 1;
        self.step(to, Some(from.clone()), was.clone(), was);
    }

    /// Writes versions beside an entry, for a person to choose from.
    fn beside(&mut self, entry: &MergedEntry) {
        let (mine, theirs) = (entry.mine.path.as_ref(), entry.theirs.path.as_ref());
        let is_wanted_twice = entry.clashes.iter().any(|clash| matches!(clash, TreeClash::SameName(_)));
        let place = if is_wanted_twice { theirs.or(mine) } else { mine.or(theirs) };
        let place = place.unwrap_or(&entry.path).clone();
        let both = entry.plan.beside == Beside::Both;
        for (side, is_mine, label) in
            [(&entry.mine, true, self.labels.mine.clone()), (&entry.theirs, false, self.labels.theirs.clone())]
        {
            let wanted = if is_mine { both } else { entry.plan.beside != Beside::Nothing };
            if wanted && matches!(side.entry_type, Some(EntryType::File | EntryType::Link)) {
                let name = match file_above(entry) {
                    // What needs a folder where mine has a file stands in a folder beside that.
                    Some(file) => {
                        let rest = entry.path.as_bytes()[file.len()..].strip_prefix(b"/").unwrap_or_default();
                        self.free_name(file, &label).join(rest)
                    }
                    None => self.free_name(&place, &label),
                };
                self.write(&name, Written { of: side, is_mine, bytes: None, mode: None }, Item::Nothing);
            }
        }
    }

    /// A name beside a path that mine does not have and that nothing is written to.
    fn free_name(&self, place: &TreePath, label: &str) -> TreePath {
        let is_free = |name: &TreePath| self.trees.mine.metadata(name).is_err() && !self.written.contains(name);
        let named = |number: usize| {
            let name = [place.name(), suffix_beside(label, number).as_bytes()].concat();
            place.parent().join(&name)
        };
        (1..).map(named).find(is_free).unwrap_or_else(|| named(1))
    }

    /// Makes the folders above a path that mine does not have.
    fn make_way(&mut self, folder: &TreePath) {
        if folder.is_empty() || self.made.contains(folder) {
            return;
        }
        self.make_way(&folder.parent());
        self.folder(folder);
    }

    /// Makes a folder of theirs, unless mine has it.
    fn folder(&mut self, folder: &TreePath) {
        if self.made.contains(folder) || !self.is_new && is_folder(self.trees.mine, folder) || self.is_blocked(folder) {
            return;
        }
        let tree = if is_folder(self.trees.theirs, folder) { self.trees.theirs } else { self.trees.mine };
        self.folder_like(folder, tree);
    }

    /// Whether mine keeps a file where a folder of theirs would be, or above it.
    fn is_blocked(&self, folder: &TreePath) -> bool {
        let all = std::iter::once(folder.as_bytes()).chain(folder.folders_above());
        all.map(TreePath::from).any(|path| {
            let is_there = self.trees.mine.metadata(&path).is_ok() && !is_folder(self.trees.mine, &path);
            is_there
                && !self.made.contains(&path)
                && !self.steps.plan.steps.iter().any(|step| step.path == path && step.will == Item::Nothing)
        })
    }

    fn folder_like(&mut self, folder: &TreePath, tree: &dyn Tree) {
        if checked_path(folder).is_ok() && self.made.insert(folder.clone()) {
            let will = item(tree, folder, Some(EntryType::Folder), None);
            self.step(folder, None, Item::Nothing, will);
        }
    }

    /// Removes folders that theirs removed and that hold nothing any more.
    fn folders_that_go(&mut self, folders: &[TreePath]) {
        let mut folders: Vec<&TreePath> = folders.iter().collect();
        folders.sort_by(|one, other| other.cmp(one));
        for folder in folders {
            let inside = self.gone.get(folder).copied().unwrap_or(0);
            let below = self.written.range(folder.join(b"")..).next();
            let is_written = below.is_some_and(|path| path.is_within(folder));
            let all = self.trees.mine.list(folder).is_ok_and(|listing| {
                listing.ignored == 0 && listing.repositories.is_empty() && listing.entries.len() == inside
            });
            if all && !is_written {
                *self.gone.entry(folder.parent()).or_default() += 1;
                let was = item(self.trees.mine, folder, Some(EntryType::Folder), None);
                self.step(folder, None, was, Item::Nothing);
            }
        }
    }
}

/// The file of mine that stands where an entry needs a folder.
fn file_above(entry: &MergedEntry) -> Option<&TreePath> {
    entry.clashes.iter().find_map(|clash| match clash {
        TreeClash::FileAgainstFolder(path) if entry.path != *path && entry.path.is_within(path) => Some(path),
        _ => None,
    })
}

fn is_folder(tree: &dyn Tree, path: &TreePath) -> bool {
    // A tree need not know what type an entry is without listing the folder that it is in.
    tree.list(&path.parent()).is_ok_and(|listing| {
        listing.entries.iter().any(|entry| entry.name == path.name() && entry.entry_type == EntryType::Folder)
    })
}

/// What stands at a path of a tree, as a step tells it.
fn item(tree: &dyn Tree, path: &TreePath, entry_type: Option<EntryType>, metadata: Option<EntryMetadata>) -> Item {
    match entry_type {
        Some(EntryType::File) => {
            let metadata = metadata.or_else(|| tree.metadata(path).ok()).unwrap_or_default();
            Item::File { stamp: Stamp::from(&metadata), mode: metadata.mode, hash: None }
        }
        Some(EntryType::Link) => tree.link_target(path).map_or(Item::Nothing, |target| Item::Link { target }),
        Some(EntryType::Folder) => {
            let metadata = tree.metadata(path).unwrap_or_default();
            Item::Folder { mode: metadata.mode, modified: metadata.modified.map(Moment::from) }
        }
        Some(EntryType::Special(_)) | None => Item::Nothing,
    }
}
