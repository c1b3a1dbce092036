//! From what differs to what is to be done.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::time::SystemTime;

use super::{Item, Reason, Side, SyncMode, SyncOptions, SyncPlan, SyncStep, Undecided};
use crate::internal::model::Status;
use crate::internal::plan::{Moment, Stamp, checked_path};
use crate::internal::tree::{Entry, EntryMetadata, EntryType, Pair, Tree, TreeComparison, TreePath};

/// Plans to make the tree before like the tree after: `into` is the side before of the comparison, `from` the side after.
///
/// The comparison must hold all pairs that are to be carried; nothing else is touched.
pub fn plan_sync(comparison: &TreeComparison, (into, from): (&dyn Tree, &dyn Tree), options: &SyncOptions) -> SyncPlan {
    let retyped = comparison.pairs.iter().filter(|pair| pair.status == Status::Retyped);
    let mut planner = Planner {
        into,
        from,
        options,
        plan: SyncPlan { both_ways: options.mode == SyncMode::BothWays, ..SyncPlan::default() },
        made: HashSet::new(),
        there: HashSet::from([TreePath::ROOT]),
        blocked: HashSet::new(),
        retyped: retyped.map(|pair| pair.path.clone()).collect(),
        removed: BTreeMap::new(),
        first_names: HashMap::new(),
        folder_times: HashMap::new(),
    };
    planner.plan.left.same = comparison.count(Status::Same);
    planner.plan.left.muted = comparison.count(Status::Muted);
    for pair in &comparison.pairs {
        planner.pair(pair);
    }
    planner.folders_that_go(&comparison.pairs);
    planner.plan.steps.sort_by(|one, other| one.path.cmp(&other.path));
    planner.plan
}

struct Planner<'p> {
    into: &'p dyn Tree,
    from: &'p dyn Tree,
    options: &'p SyncOptions,
    plan: SyncPlan,
    /// Folders that are made.
    made: HashSet<TreePath>,
    /// Folders that are there.
    there: HashSet<TreePath>,
    /// Paths that stay what they are, so that nothing can come below them.
    blocked: HashSet<TreePath>,
    retyped: HashSet<TreePath>,
    /// What goes, by folder.
    removed: BTreeMap<TreePath, usize>,
    /// Files with several names, by what they are, and the first step that writes each.
    first_names: HashMap<(u64, u64), TreePath>,
    /// When the nearest folder above a path was last changed in FROM.
    folder_times: HashMap<TreePath, Option<SystemTime>>,
}

impl Planner<'_> {
    fn pair(&mut self, pair: &Pair) {
        // An archive may name what lies outside of it.
        if let Err(why) = checked_path(&pair.path)
            && pair.status != Status::Same
        {
            self.blocked.insert(pair.path.clone());
            let (path, reason) = (pair.path.clone(), Reason::Unsafe(why));
            self.plan.undecided.push(Undecided { path, reason, is_trouble: true });
            return;
        }
        let both_ways = self.options.mode == SyncMode::BothWays;
        match pair.status {
            Status::Same | Status::Muted => {}
            Status::Unreadable => self.trouble(pair),
            Status::Changed if both_ways => self.changed_both_ways(pair),
            // What is in a folder that is something else on the other side is told with it.
            Status::New | Status::Gone if both_ways && (pair.is_folder() || self.above_is_retyped(&pair.path)) => {}
            Status::New if both_ways => self.undecided(pair, Reason::OnlyOn(Side::From)),
            Status::Gone if both_ways => self.undecided(pair, Reason::OnlyOn(Side::Into)),
            Status::Moved if both_ways => self.undecided(pair, Reason::At(pair.path_before().clone())),
            Status::Retyped if both_ways => {
                self.undecided(pair, Reason::Types { from: pair.types.1, into: pair.types.0 });
            }
            Status::Changed => self.changed(pair),
            Status::New => self.new_one(pair),
            Status::Gone => self.gone(pair),
            Status::Moved => self.moved(pair),
            Status::Retyped => self.retyped(pair),
        }
    }

    fn undecided(&mut self, pair: &Pair, reason: Reason) {
        self.plan.undecided.push(Undecided { path: pair.path.clone(), reason, is_trouble: false });
    }

    fn trouble(&mut self, pair: &Pair) {
        let reason = Reason::unreadable(pair);
        self.plan.undecided.push(Undecided { path: pair.path.clone(), reason, is_trouble: true });
    }

    fn step(&mut self, path: &TreePath, side: Side, was: Item, will: Item) {
        let path = path.clone();
        self.plan.steps.push(SyncStep { path, moved_from: None, same_as: None, side, was, will });
    }

    /// A step that writes what FROM has; a file of which FROM has several names that are written has them in INTO too.
    fn carry(&mut self, pair: &Pair, was: Item, will: Item) {
        let metadata = pair.after.filter(|metadata| metadata.names > 1 && matches!(will, Item::File { .. }));
        let same_as =
            metadata.and_then(|metadata| metadata.identity).and_then(|file| match self.first_names.get(&file) {
                Some(first) => Some(first.clone()),
                None => {
                    self.first_names.insert(file, pair.path.clone());
                    None
                }
            });
        let path = pair.path.clone();
        self.plan.steps.push(SyncStep { path, moved_from: None, same_as, side: Side::Into, was, will });
    }

    /// Whether what INTO has is to stay because that of FROM is not newer.
    fn stays_as_newer(&mut self, pair: &Pair) -> bool {
        let time = |tree: &dyn Tree, path: &TreePath, metadata: Option<EntryMetadata>| {
            metadata.or_else(|| tree.metadata(path).ok()).and_then(|metadata| metadata.modified)
        };
        let stays = self.options.mode == SyncMode::Newer && {
            let into = time(self.into, pair.path_before(), pair.before);
            let from = time(self.from, &pair.path, pair.after);
            from.unwrap_or(SystemTime::UNIX_EPOCH) <= into.unwrap_or(SystemTime::UNIX_EPOCH)
        };
        self.plan.left.not_newer += usize::from(stays);
        stays
    }

    /// Whether what only INTO has is newer than the folder of FROM that does not have it.
    fn is_newer_than_folder(&mut self, pair: &Pair) -> bool {
        if self.options.mode != SyncMode::Newer {
            return false;
        }
        let mut folder = pair.path_before().parent();
        let time = loop {
            if let Some(time) = self.folder_times.get(&folder) {
                break *time;
            }
            match self.from.metadata(&folder) {
                Err(_) if !folder.is_empty() => folder = folder.parent(),
                metadata => {
                    let time = metadata.ok().and_then(|metadata| metadata.modified);
                    self.folder_times.insert(folder, time);
                    break time;
                }
            }
        };
        let own =
            pair.before.or_else(|| self.into.metadata(pair.path_before()).ok()).and_then(|metadata| metadata.modified);
        own > time
    }

    /// What stands at a path of one side, which is there.
    fn item(
        &self,
        side: Side,
        path: &TreePath,
        entry_type: Option<EntryType>,
        metadata: Option<EntryMetadata>,
    ) -> Result<Item, Reason> {
        let tree = if side == Side::Into { self.into } else { self.from };
        let unreadable = |error| Reason::Unreadable(None, error);
        match entry_type {
            None => Ok(Item::Nothing),
            Some(EntryType::File) => {
                let metadata = metadata.map_or_else(|| tree.metadata(path), Ok).map_err(unreadable)?;
                Ok(Item::File { stamp: Stamp::from(&metadata), mode: metadata.mode, hash: None })
            }
            Some(EntryType::Link) => {
                let target = tree.link_target(path).map_err(unreadable)?;
                Ok(Item::Link { target })
            }
            Some(EntryType::Folder) => {
                let metadata = tree.metadata(path).unwrap_or_default();
                Ok(Item::Folder { mode: metadata.mode, modified: metadata.modified.map(Moment::from) })
            }
            Some(special @ EntryType::Special(_)) => Err(Reason::NotCarried(special)),
        }
    }

    /// What stands on either side, and what comes of it.
    fn items(&mut self, pair: &Pair) -> Option<(Item, Item)> {
        let into = self.item(Side::Into, pair.path_before(), pair.types.0, pair.before);
        let from = self.item(Side::From, &pair.path, pair.types.1, pair.after);
        match (into, from) {
            (Ok(into), Ok(from)) => {
                let from = self.with_known_mode(pair, &into, from);
                Some((into, from))
            }
            (Err(reason), _) | (_, Err(reason)) => {
                self.blocked.insert(pair.path.clone());
                self.undecided(pair, reason);
                None
            }
        }
    }

    /// A file of FROM with the permissions that it gets in INTO. Where FROM tells only whether a file can be run, the others are those
    /// of the file that is there.
    fn with_known_mode(&self, pair: &Pair, into: &Item, from: Item) -> Item {
        let unknown = pair.after.or_else(|| self.from.metadata(&pair.path).ok()).map_or(0, |known| known.mode_unknown);
        match (into, from) {
            (Item::File { mode: Some(there), .. }, Item::File { stamp, mode: Some(mode), hash }) if unknown != 0 => {
                let runs = if mode & 0o100 != 0 { (there & 0o444) >> 2 } else { 0 };
                Item::File { stamp, mode: Some(there & !0o111 | runs), hash }
            }
            (_, from) => from,
        }
    }

    fn changed(&mut self, pair: &Pair) {
        if self.stays_as_newer(pair) {
            return;
        }
        if let Some((was, will)) = self.items(pair) {
            self.carry(pair, was, will);
        }
    }

    fn changed_both_ways(&mut self, pair: &Pair) {
        let seconds = |metadata: Option<EntryMetadata>| {
            metadata.and_then(|metadata| metadata.modified).map(|time| Moment::from(time).0)
        };
        let (into, from) = (seconds(pair.before), seconds(pair.after));
        let Some((was, will)) = self.items(pair) else { return };
        match into.zip(from).map(|(into, from)| into.cmp(&from)) {
            Some(std::cmp::Ordering::Less) => self.step(&pair.path, Side::Into, was, will),
            Some(std::cmp::Ordering::Greater) => self.step(&pair.path, Side::From, will, was),
            Some(std::cmp::Ordering::Equal) => self.undecided(pair, Reason::SameSecond),
            None => self.undecided(pair, Reason::NoTimes),
        }
    }

    fn new_one(&mut self, pair: &Pair) {
        if pair.types.1.is_some_and(|entry_type| self.into.leaves_out(&pair.path, entry_type)) {
            self.plan.left.ignored += 1;
            return;
        }
        // A folder that is known only by what is in it is made when a file needs it.
        if !self.make_way(&pair.path.parent(), pair) {
            return;
        }
        if pair.is_folder() {
            self.make_folder(&pair.path);
        } else if let Some((was, will)) = self.items(pair) {
            self.carry(pair, was, will);
        }
    }

    fn make_folder(&mut self, path: &TreePath) {
        if self.made.insert(path.clone()) {
            let will = self.item(Side::From, path, Some(EntryType::Folder), None);
            self.step(path, Side::Into, Item::Nothing, will.unwrap_or(Item::Folder { mode: None, modified: None }));
        }
    }

    /// Makes the folders above a path that are missing; whether they can be.
    fn make_way(&mut self, folder: &TreePath, pair: &Pair) -> bool {
        if self.made.contains(folder) || self.there.contains(folder) {
            return true;
        }
        if self.blocked.contains(folder) {
            self.undecided(pair, Reason::AboveIsLeft);
            return false;
        }
        let above = folder.parent();
        if !self.make_way(&above, pair) {
            return false;
        }
        let name = folder.name();
        // What is new holds nothing yet; a folder that is there is listed once for all that are in it.
        let entries = if self.made.contains(&above) { Vec::new() } else { self.entries(&above) };
        let folders = entries.iter().filter(|entry| entry.entry_type == EntryType::Folder);
        self.there.extend(folders.map(|entry| above.join(&entry.name)));
        match entries.iter().find(|entry| entry.name == name).map(|entry| entry.entry_type) {
            Some(EntryType::Folder) => true,
            None => {
                self.make_folder(folder);
                true
            }
            Some(other) => {
                self.blocked.insert(folder.clone());
                self.undecided(pair, Reason::NotInFolder(folder.clone(), other));
                false
            }
        }
    }

    fn entries(&self, folder: &TreePath) -> Vec<Entry> {
        self.into.list(folder).map(|listing| listing.entries).unwrap_or_default()
    }

    fn gone(&mut self, pair: &Pair) {
        let in_the_way = self.retyped.contains(&pair.path) || self.above_is_retyped(&pair.path);
        if !self.options.mirror {
            if !pair.is_folder() && !in_the_way {
                self.plan.left.extra += 1;
            }
            return;
        }
        if pair.is_folder() || self.above_is_in(&self.blocked, &pair.path) || !in_the_way && self.is_to_stay(pair) {
            return;
        }
        if let Some((was, will)) = self.items(pair) {
            *self.removed.entry(pair.path.parent()).or_default() += 1;
            self.step(&pair.path, Side::Into, was, will);
        }
    }

    /// Folders that hold nothing any more once all that goes is gone; one that holds what was not looked at stays.
    fn folders_that_go(&mut self, pairs: &[Pair]) {
        if !self.options.mirror {
            return;
        }
        let gone = pairs.iter().rev().filter(|pair| pair.status == Status::Gone && pair.is_folder());
        let retyped = |pair: &&Pair| pair.status == Status::Retyped && pair.types.0 == Some(EntryType::Folder);
        let mut folders: Vec<&Pair> = gone.chain(pairs.iter().filter(retyped)).collect();
        folders.sort_by(|one, other| other.path.cmp(&one.path));
        for pair in folders {
            let inside = self.removed.get(&pair.path).copied().unwrap_or(0);
            let all = self.into.list(&pair.path).is_ok_and(|listing| {
                listing.ignored == 0 && listing.repositories.is_empty() && listing.entries.len() == inside
            });
            if pair.status == Status::Retyped {
                if !all {
                    self.plan.steps.retain(|step| step.path != pair.path || step.was == Item::Nothing);
                    self.undecided(pair, Reason::HoldsUnseen);
                }
            } else if all {
                *self.removed.entry(pair.path.parent()).or_default() += 1;
                if let Ok(was) = self.item(Side::Into, &pair.path, Some(EntryType::Folder), None) {
                    self.step(&pair.path, Side::Into, was, Item::Nothing);
                }
            } else {
                self.plan.left.kept_folders += 1;
            }
        }
    }

    fn above_is_retyped(&self, path: &TreePath) -> bool {
        self.above_is_in(&self.retyped, path)
    }

    /// Whether a folder above a path is among some.
    fn above_is_in(&self, folders: &HashSet<TreePath>, path: &TreePath) -> bool {
        !folders.is_empty() && path.folders_above().any(|folder| folders.contains(folder))
    }

    /// Whether what only INTO has stays although the rest goes: FROM would leave it out, or it is newer.
    fn is_to_stay(&mut self, pair: &Pair) -> bool {
        if pair.types.0.is_some_and(|entry_type| self.from.leaves_out(pair.path_before(), entry_type)) {
            self.plan.left.ignored += 1;
            return true;
        }
        let newer = self.is_newer_than_folder(pair);
        self.plan.left.not_newer += usize::from(newer);
        newer
    }

    /// What moved is copied, and goes from its old place only when INTO is to mirror FROM. It is moved when it is the same file;
    /// one that is merely alike is written, and the old one is removed.
    fn moved(&mut self, pair: &Pair) {
        let old = pair.path_before().clone();
        if pair.types.1.is_some_and(|entry_type| self.into.leaves_out(&pair.path, entry_type)) {
            self.plan.left.ignored += 1;
            return;
        }
        if !self.make_way(&pair.path.parent(), pair) {
            return;
        }
        let Some((was, will)) = self.items(pair) else { return };
        if !self.options.mirror {
            if !self.above_is_retyped(&old) {
                self.plan.left.extra += 1;
            }
            return self.carry(pair, Item::Nothing, will);
        }
        // A file that comes out of, or goes into, what becomes something else is written anew and removed.
        let apart = self.above_is_retyped(&old) || self.above_is_retyped(&pair.path);
        if apart || !self.holds_the_same(pair) {
            self.carry(pair, Item::Nothing, will);
            if apart || !self.is_to_stay(pair) {
                *self.removed.entry(old.parent()).or_default() += 1;
                self.step(&old, Side::Into, was, Item::Nothing);
            }
            return;
        }
        *self.removed.entry(old.parent()).or_default() += 1;
        self.plan.steps.push(SyncStep {
            path: pair.path.clone(),
            moved_from: Some(old),
            same_as: None,
            side: Side::Into,
            was,
            will,
        });
    }

    fn holds_the_same(&self, pair: &Pair) -> bool {
        let size = |metadata: Option<EntryMetadata>| metadata.map(|metadata| metadata.size);
        if size(pair.before) != size(pair.after) {
            return false;
        }
        match (self.into.contents(pair.path_before()), self.from.contents(&pair.path)) {
            (Ok(one), Ok(other)) => (*one).as_ref() == (*other).as_ref(),
            _ => false,
        }
    }

    fn retyped(&mut self, pair: &Pair) {
        if self.stays_as_newer(pair) {
            self.blocked.insert(pair.path.clone());
            return;
        }
        let Some((was, will)) = self.items(pair) else { return };
        match (&was, &will) {
            (Item::Folder { .. }, _) if !self.options.mirror => {
                self.blocked.insert(pair.path.clone());
                self.undecided(pair, Reason::FolderInPlace);
            }
            (_, Item::Folder { .. }) => {
                self.made.insert(pair.path.clone());
                self.step(&pair.path, Side::Into, was, will);
            }
            _ => self.step(&pair.path, Side::Into, was, will),
        }
    }
}
