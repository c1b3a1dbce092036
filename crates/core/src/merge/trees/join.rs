//! What two sides did to one path, and what comes of it.

use super::super::three_way::{
    FileMerge, MergedValue, Prefer, Three, Together, ValueConflict, WholeMerge, merge_files,
};
use super::clash::TreeClash;
use super::entry::{Beside, EntryPlan, MergedEntry, SideOfEntry, Source};
use super::options::TreeMergeOptions;
use crate::internal::merge::three_way::Resolution;
use crate::internal::model::Status;
use crate::internal::tree::{Attribute, Contents, EntryMetadata, EntryType, Note, Pair, Progress, Tree, TreePath};

/// By what the pairs of both sides are known to be of one entry.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Key {
    path: TreePath,
    /// Whether the base does not have it.
    is_new: bool,
}

impl Key {
    pub(super) fn of(pair: &Pair) -> Self {
        Self { path: pair.path_before().clone(), is_new: pair.types.0.is_none() }
    }
}

/// The pairs of one entry: the base with mine, and the base with theirs. A side without one did nothing to it.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Versions<'p> {
    pub(super) mine: Option<&'p Pair>,
    pub(super) theirs: Option<&'p Pair>,
}

impl Versions<'_> {
    pub(super) fn is_both(&self) -> bool {
        self.mine.is_some() && self.theirs.is_some()
    }
}

/// What comes of an entry, and how many lines of theirs were dropped for it.
pub(super) fn entry(
    key: &Key,
    versions: &Versions<'_>,
    trees: Three<&dyn Tree>,
    options: &TreeMergeOptions,
    progress: &Progress,
) -> (MergedEntry, usize) {
    let base = versions.mine.or(versions.theirs).and_then(|pair| pair.types.0);
    let side = |pair: Option<&Pair>, tree: &dyn Tree| side_of(key, base, pair, tree);
    let entry = MergedEntry {
        path: key.path.clone(),
        base,
        mine: side(versions.mine, trees.mine),
        theirs: side(versions.theirs, trees.theirs),
        together: Together::OneSided,
        clashes: Vec::new(),
        is_decided: false,
        plan: EntryPlan { to: None, source: Source::Mine, mode: None, beside: Beside::Nothing },
    };
    let mut joining = Joining { entry, trees, options, progress, dropped: 0 };
    joining.join(versions);
    joining.decide();
    (joining.entry, joining.dropped)
}

fn side_of(key: &Key, base: Option<EntryType>, pair: Option<&Pair>, tree: &dyn Tree) -> SideOfEntry {
    let Some(pair) = pair else {
        // What is not told of was not changed.
        let path = base.map(|_| key.path.clone());
        let metadata = path.as_ref().and_then(|path| tree.metadata(path).ok());
        return SideOfEntry { status: Status::Same, path, entry_type: base, metadata, only_mode: false };
    };
    let path = pair.types.1.map(|_| pair.path.clone());
    let metadata = pair.after.or_else(|| path.as_ref().and_then(|path| tree.metadata(path).ok()));
    let only_mode = pair.status == Status::Changed && pair.kind.is_none() && pair.attributes == [Attribute::Mode];
    SideOfEntry { status: pair.status, path, entry_type: pair.types.1, metadata, only_mode }
}

struct Joining<'j> {
    entry: MergedEntry,
    trees: Three<&'j dyn Tree>,
    options: &'j TreeMergeOptions,
    progress: &'j Progress,
    dropped: usize,
}

impl Joining<'_> {
    fn join(&mut self, versions: &Versions<'_>) {
        if let Some(reason) = [versions.mine, versions.theirs].into_iter().flatten().find_map(unreadable) {
            return self.conflict(TreeClash::Unreadable(reason), Beside::Nothing);
        }
        match (self.entry.mine.status, self.entry.theirs.status) {
            (Status::Same, _) => self.take_theirs(),
            (_, Status::Same) => self.keep_mine(),
            (Status::Gone, Status::Gone) => self.alike(),
            // What does not count does not clash either.
            (Status::Gone, Status::Muted) => self.keep_mine(),
            (Status::Muted, Status::Gone) => self.take_theirs(),
            (Status::Gone, other) | (other, Status::Gone) => {
                let removed_by_mine = self.entry.mine.status == Status::Gone;
                let is_moved = other == Status::Moved && !self.is_edited(removed_by_mine);
                let beside = if removed_by_mine { Beside::Theirs } else { Beside::Nothing };
                self.conflict(TreeClash::ChangedAndRemoved { removed_by_mine, is_moved }, beside);
            }
            _ if self.entry.mine.entry_type != self.entry.theirs.entry_type => {
                let types = TreeClash::Types(self.entry.mine.entry_type, self.entry.theirs.entry_type);
                self.conflict(types, Beside::Theirs);
            }
            _ => self.both_changed(),
        }
    }

    /// Whether the side that kept a file holds something else in it than the base.
    fn is_edited(&self, removed_by_mine: bool) -> bool {
        let (side, tree) =
            if removed_by_mine { (&self.entry.theirs, self.trees.theirs) } else { (&self.entry.mine, self.trees.mine) };
        let Some(path) = &side.path else { return false };
        match (self.trees.base.contents(&self.entry.path), tree.contents(path)) {
            (Ok(base), Ok(own)) => (*base).as_ref() != (*own).as_ref(),
            _ => true,
        }
    }

    fn keep_mine(&mut self) {
        self.entry.plan.to = self.entry.mine.path.clone();
    }

    fn take_theirs(&mut self) {
        self.entry.plan.to = self.entry.theirs.path.clone();
        self.entry.plan.source = Source::Theirs;
    }

    fn alike(&mut self) {
        self.entry.together = Together::Alike;
        self.keep_mine();
    }

    fn conflict(&mut self, clash: TreeClash, beside: Beside) {
        self.entry.together = Together::Conflict;
        self.entry.clashes.push(clash);
        if self.entry.plan.to.is_none() {
            self.keep_mine();
        }
        if beside != Beside::Nothing {
            self.entry.plan.beside = beside;
        }
    }

    /// Both sides have it, as the same type of entry, and at least one value of each differs from the base.
    fn both_changed(&mut self) {
        self.keep_mine();
        self.entry.together = Together::Apart;
        let paths = (self.entry.mine.path.clone(), self.entry.theirs.path.clone());
        let (Some(mine), Some(theirs)) = paths else { return };
        let old = if self.entry.base.is_some() { self.entry.path.clone() } else { mine.clone() };
        match MergedValue::of(Three::new(old, mine.clone(), theirs.clone())) {
            MergedValue::One(path) => self.entry.plan.to = Some(path),
            MergedValue::Conflict(mine, theirs) => {
                self.conflict(TreeClash::MovedApart(mine, theirs), Beside::Nothing);
            }
        }
        match self.entry.mine.entry_type {
            Some(EntryType::File) => {
                self.modes();
                self.contents(&mine, &theirs);
            }
            Some(EntryType::Link) => {
                let target = |tree: &dyn Tree, path: &TreePath| tree.link_target(path).ok();
                let base = self.entry.base.and_then(|_| target(self.trees.base, &self.entry.path));
                let targets = Three::new(base, target(self.trees.mine, &mine), target(self.trees.theirs, &theirs));
                self.links(&targets);
            }
            _ => self.conflict(TreeClash::NotText, Beside::Nothing),
        }
    }

    fn links(&mut self, targets: &Three<Option<Vec<u8>>>) {
        if targets.mine == targets.theirs {
            self.entry.together = if self.entry.clashes.is_empty() { Together::Alike } else { Together::Conflict };
        } else if targets.mine == targets.base {
            self.entry.plan.source = Source::Theirs;
        } else if targets.theirs != targets.base {
            self.conflict(TreeClash::NotText, Beside::Theirs);
        }
    }

    fn modes(&mut self) {
        let mode = |metadata: Option<EntryMetadata>| metadata.and_then(|known| known.mode);
        let base = self.entry.base.and_then(|_| mode(self.trees.base.metadata(&self.entry.path).ok()));
        let (Some(mine), Some(theirs)) = (mode(self.entry.mine.metadata), mode(self.entry.theirs.metadata)) else {
            return;
        };
        let base = base.unwrap_or(mine);
        match MergedValue::of(Three::new(base, mine, theirs)) {
            MergedValue::One(mode) => self.entry.plan.mode = (mode != mine).then_some(mode),
            MergedValue::Conflict(mine, theirs) => {
                self.conflict(TreeClash::Value(ValueConflict::Mode(mine, theirs)), Beside::Nothing);
            }
        }
    }

    fn contents(&mut self, mine: &TreePath, theirs: &TreePath) {
        let read = |tree: &dyn Tree, path: &TreePath| tree.contents(path).map_err(|error| error.to_string());
        let nothing = || Ok::<Contents, String>(Box::new(Vec::new()));
        let base = if self.entry.base.is_some() { read(self.trees.base, &self.entry.path) } else { nothing() };
        let (base, mine, theirs) = match (base, read(self.trees.mine, mine), read(self.trees.theirs, theirs)) {
            (Ok(base), Ok(mine), Ok(theirs)) => (base, mine, theirs),
            (Err(reason), ..) | (_, Err(reason), _) | (.., Err(reason)) => {
                return self.conflict(TreeClash::Unreadable(reason), Beside::Nothing);
            }
        };
        let versions = Three::new((*base).as_ref(), (*mine).as_ref(), (*theirs).as_ref());
        self.progress.add(versions.all().into_iter().map(|bytes| bytes.len() as u64).sum());
        self.merge(versions);
        for contents in [base, mine, theirs] {
            if let Err(error) = contents.check() {
                self.conflict(TreeClash::Unreadable(error.to_string()), Beside::Nothing);
            }
        }
    }

    fn merge(&mut self, versions: Three<&[u8]>) {
        let is_new = self.entry.base.is_none();
        match WholeMerge::of(versions) {
            _ if versions.mine == versions.theirs => {
                let is_whole = self.entry.clashes.is_empty()
                    && self.entry.plan.mode.is_none()
                    && self.entry.plan.to == self.entry.mine.path;
                if is_whole {
                    self.entry.together = Together::Alike;
                }
                return;
            }
            WholeMerge::Theirs => {
                self.entry.plan.source = Source::Theirs;
                return;
            }
            WholeMerge::Mine | WholeMerge::Alike => return,
            WholeMerge::Conflict => {}
        }
        let path = self.entry.plan.to.clone().unwrap_or_else(|| self.entry.path.clone());
        let texts = self.options.texts.clone().prefer(self.options.prefer);
        let FileMerge::Text(text) = merge_files(&path, versions, &self.options.contents, &texts) else {
            let clash = if is_new { TreeClash::BothAdded } else { TreeClash::NotText };
            return self.conflict(clash, Beside::Both);
        };
        self.dropped += text.merge.dropped();
        let lines = text.merge.conflicts().count();
        let values = text.value_conflicts();
        let result = match self.options.prefer {
            _ if lines == 0 => text.merge.merged().unwrap_or_default(),
            Some(Prefer::Mine) => text.merge.resolved(|_| Resolution::Mine),
            Some(Prefer::Theirs) => text.merge.resolved(|_| Resolution::Theirs),
            None => text.merge.marked(&self.options.marks),
        };
        let Some(result) = text.encoded(&result) else { return self.conflict(TreeClash::NotText, Beside::Both) };
        if is_new && lines > 0 {
            self.conflict(TreeClash::BothAdded, Beside::Nothing);
        } else if lines > 0 {
            self.conflict(TreeClash::Lines(lines), Beside::Nothing);
        }
        for value in values {
            self.conflict(TreeClash::Value(value), Beside::Nothing);
        }
        self.entry.plan.source = Source::Merged(if self.options.keeps_results { result } else { Vec::new() });
    }

    /// Lets the preferred side decide a conflict.
    fn decide(&mut self) {
        let Some(prefer) = self.options.prefer.filter(|_| !self.entry.clashes.is_empty()) else { return };
        if self.entry.clashes.iter().any(|clash| matches!(clash, TreeClash::Unreadable(_))) {
            return;
        }
        decide(&mut self.entry, prefer);
    }
}

/// Lets one side decide all that both sides clash in.
pub(super) fn decide(entry: &mut MergedEntry, prefer: Prefer) {
    entry.is_decided = true;
    entry.plan.beside = Beside::Nothing;
    // Lines that did not clash keep the changes of both sides.
    let is_merged = matches!(entry.plan.source, Source::Merged(_));
    let side = if prefer == Prefer::Mine { &entry.mine } else { &entry.theirs };
    let moved_apart = entry.clashes.iter().any(|clash| matches!(clash, TreeClash::MovedApart(..)));
    if !is_merged || moved_apart {
        entry.plan.to = side.path.clone();
    }
    let mode = entry.clashes.iter().find_map(|clash| match clash {
        TreeClash::Value(ValueConflict::Mode(mine, theirs)) => {
            Some(if prefer == Prefer::Mine { *mine } else { *theirs })
        }
        _ => None,
    });
    entry.plan.mode = mode.or(entry.plan.mode);
    let only_values =
        entry.clashes.iter().all(|clash| matches!(clash, TreeClash::Value(_) | TreeClash::MovedApart(..)));
    if !is_merged && !only_values {
        entry.plan.source = if prefer == Prefer::Mine { Source::Mine } else { Source::Theirs };
    }
}

fn unreadable(pair: &Pair) -> Option<String> {
    match &pair.note {
        Some(Note::Unreadable(error) | Note::UnreadableBefore(error) | Note::UnreadableAfter(error))
            if pair.status == Status::Unreadable =>
        {
            Some(error.to_string())
        }
        _ if pair.status == Status::Unreadable => Some("it cannot be read".to_owned()),
        _ => None,
    }
}
