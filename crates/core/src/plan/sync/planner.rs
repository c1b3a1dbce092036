//! From what differs to what is to be done.

use std::collections::{BTreeMap, HashSet};
use std::time::SystemTime;

use super::{Item, Side, SyncOptions, SyncPlan, SyncStep, Undecided, Way};
use crate::model::Status;
use crate::plan::{Moment, Stamp};
use crate::tree::{Entry, Facts, Nature, Pair, Tree, TreeComparison, join, split};

/// Plans to make the tree before like the tree after: `into` is the side before of the comparison, `from` the side after.
///
/// The comparison must hold all pairs that are to be carried; nothing else is touched.
pub fn plan_sync(comparison: &TreeComparison, (into, from): (&dyn Tree, &dyn Tree), options: &SyncOptions) -> SyncPlan {
    let retyped = comparison.pairs.iter().filter(|pair| pair.status == Status::Retyped);
    let mut planner = Planner {
        into,
        from,
        options,
        plan: SyncPlan { both_ways: options.way == Way::BothWays, ..SyncPlan::default() },
        made: HashSet::new(),
        there: HashSet::from([Vec::new()]),
        blocked: HashSet::new(),
        retyped: retyped.map(|pair| pair.path.clone()).collect(),
        removed: BTreeMap::new(),
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
    made: HashSet<Vec<u8>>,
    /// Folders that are there.
    there: HashSet<Vec<u8>>,
    /// Paths that stay what they are, so that nothing can come below them.
    blocked: HashSet<Vec<u8>>,
    retyped: HashSet<Vec<u8>>,
    /// What goes, by folder.
    removed: BTreeMap<Vec<u8>, usize>,
}

impl Planner<'_> {
    fn pair(&mut self, pair: &Pair) {
        let both_ways = self.options.way == Way::BothWays;
        match pair.status {
            Status::Same | Status::Muted => {}
            Status::Unreadable => self.trouble(pair, pair.note.clone().unwrap_or_default()),
            Status::Changed if both_ways => self.changed_both_ways(pair),
            // What is in a folder that is something else on the other side is told with it.
            Status::New | Status::Gone if both_ways && (pair.is_folder() || self.above_is_retyped(&pair.path)) => {}
            Status::New if both_ways => self.undecided(pair, "only FROM has it: it came there, or went from INTO"),
            Status::Gone if both_ways => self.undecided(pair, "only INTO has it: it came there, or went from FROM"),
            Status::Moved if both_ways => {
                let from = String::from_utf8_lossy(pair.path_before()).into_owned();
                self.undecided(pair, &format!("it stands at {from} in INTO"));
            }
            Status::Retyped if both_ways => {
                let nature = |nature: Option<Nature>| nature.map(|nature| nature.to_string()).unwrap_or_default();
                let (into, from) = (nature(pair.natures.0), nature(pair.natures.1));
                self.undecided(pair, &format!("a {from} in FROM, a {into} in INTO"));
            }
            Status::Changed => self.changed(pair),
            Status::New => self.new_one(pair),
            Status::Gone => self.gone(pair),
            Status::Moved => self.moved(pair),
            Status::Retyped => self.retyped(pair),
        }
    }

    fn undecided(&mut self, pair: &Pair, reason: &str) {
        self.plan.undecided.push(Undecided { path: pair.path.clone(), reason: reason.to_owned(), is_trouble: false });
    }

    fn trouble(&mut self, pair: &Pair, reason: String) {
        self.plan.undecided.push(Undecided { path: pair.path.clone(), reason, is_trouble: true });
    }

    fn step(&mut self, path: &[u8], side: Side, was: Item, will: Item) {
        let path = path.to_vec();
        self.plan.steps.push(SyncStep { path, moved_from: None, with_contents: false, side, was, will });
    }

    /// What stands at a path of one side, which is there.
    fn item(&self, side: Side, path: &[u8], nature: Option<Nature>, facts: Option<Facts>) -> Result<Item, String> {
        let tree = if side == Side::Into { self.into } else { self.from };
        match nature {
            None => Ok(Item::Nothing),
            Some(Nature::File) => {
                let facts = facts.map_or_else(|| tree.facts(path), Ok).map_err(|problem| problem.to_string())?;
                Ok(Item::File { stamp: Stamp::from(&facts), mode: facts.mode })
            }
            Some(Nature::Link) => {
                let target = tree.link_target(path).map_err(|problem| problem.to_string())?;
                Ok(Item::Link { target })
            }
            Some(Nature::Folder) => {
                let facts = tree.facts(path).unwrap_or_default();
                Ok(Item::Folder { mode: facts.mode, modified: facts.modified.map(Moment::from) })
            }
            Some(special @ Nature::Special(_)) => Err(format!("it is a {special}, which is not carried")),
        }
    }

    /// What stands on either side, and what comes of it.
    fn items(&mut self, pair: &Pair) -> Option<(Item, Item)> {
        let into = self.item(Side::Into, pair.path_before(), pair.natures.0, pair.before);
        let from = self.item(Side::From, &pair.path, pair.natures.1, pair.after);
        match (into, from) {
            (Ok(into), Ok(from)) => Some((into, from)),
            (Err(reason), _) | (_, Err(reason)) => {
                self.blocked.insert(pair.path.clone());
                self.undecided(pair, &reason);
                None
            }
        }
    }

    fn changed(&mut self, pair: &Pair) {
        if self.options.way == Way::Newer && !is_newer(pair.after, pair.before) && pair.natures.1 == Some(Nature::File)
        {
            self.plan.left.not_newer += 1;
            return;
        }
        if let Some((was, will)) = self.items(pair) {
            self.step(&pair.path, Side::Into, was, will);
        }
    }

    fn changed_both_ways(&mut self, pair: &Pair) {
        let seconds = |facts: Option<Facts>| facts.and_then(|facts| facts.modified).map(|time| Moment::from(time).0);
        let (into, from) = (seconds(pair.before), seconds(pair.after));
        let Some((was, will)) = self.items(pair) else { return };
        match into.zip(from).map(|(into, from)| into.cmp(&from)) {
            Some(std::cmp::Ordering::Less) => self.step(&pair.path, Side::Into, was, will),
            Some(std::cmp::Ordering::Greater) => self.step(&pair.path, Side::From, will, was),
            Some(std::cmp::Ordering::Equal) => self.undecided(pair, "both sides were changed in the same second"),
            None => self.undecided(pair, "nothing tells which side is newer"),
        }
    }

    fn new_one(&mut self, pair: &Pair) {
        // A folder that is known only by what is in it is made when a file needs it.
        if !self.make_way(split(&pair.path).0, pair) {
            return;
        }
        if pair.is_folder() {
            self.make_folder(&pair.path);
        } else if let Some((was, will)) = self.items(pair) {
            self.step(&pair.path, Side::Into, was, will);
        }
    }

    fn make_folder(&mut self, path: &[u8]) {
        if self.made.insert(path.to_vec()) {
            let will = self.item(Side::From, path, Some(Nature::Folder), None);
            self.step(path, Side::Into, Item::Nothing, will.unwrap_or(Item::Folder { mode: None, modified: None }));
        }
    }

    /// Makes the folders above a path that are missing; whether they can be.
    fn make_way(&mut self, folder: &[u8], pair: &Pair) -> bool {
        if self.made.contains(folder) || self.there.contains(folder) {
            return true;
        }
        if self.blocked.contains(folder) {
            self.undecided(pair, "what it would be in is left as it is");
            return false;
        }
        let above = split(folder).0.to_vec();
        if !self.make_way(&above, pair) {
            return false;
        }
        let name = split(folder).1;
        // What is new holds nothing yet; a folder that is there is listed once for all that are in it.
        let entries = if self.made.contains(&above) { Vec::new() } else { self.entries(&above) };
        let folders = entries.iter().filter(|entry| entry.nature == Nature::Folder);
        self.there.extend(folders.map(|entry| join(&above, &entry.name)));
        match entries.iter().find(|entry| entry.name == name).map(|entry| entry.nature) {
            Some(Nature::Folder) => true,
            None => {
                self.make_folder(folder);
                true
            }
            Some(other) => {
                self.blocked.insert(folder.to_vec());
                let folder = String::from_utf8_lossy(folder).into_owned();
                self.undecided(pair, &format!("{folder} is a {other} in INTO, and no folder"));
                false
            }
        }
    }

    fn entries(&self, folder: &[u8]) -> Vec<Entry> {
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
        if pair.is_folder() {
            return;
        }
        if let Some((was, will)) = self.items(pair) {
            *self.removed.entry(split(&pair.path).0.to_vec()).or_default() += 1;
            self.step(&pair.path, Side::Into, was, will);
        }
    }

    /// Folders that hold nothing any more once all that goes is gone; one that holds what was not looked at stays.
    fn folders_that_go(&mut self, pairs: &[Pair]) {
        if !self.options.mirror {
            return;
        }
        let gone = pairs.iter().rev().filter(|pair| pair.status == Status::Gone && pair.is_folder());
        let retyped = |pair: &&Pair| pair.status == Status::Retyped && pair.natures.0 == Some(Nature::Folder);
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
                    self.undecided(pair, "the folder that stands there holds what was not looked at");
                }
            } else if all {
                *self.removed.entry(split(&pair.path).0.to_vec()).or_default() += 1;
                if let Ok(was) = self.item(Side::Into, &pair.path, Some(Nature::Folder), None) {
                    self.step(&pair.path, Side::Into, was, Item::Nothing);
                }
            } else {
                self.plan.left.kept_folders += 1;
            }
        }
    }

    fn above_is_retyped(&self, path: &[u8]) -> bool {
        let mut folder = split(path).0;
        while !folder.is_empty() {
            if self.retyped.contains(folder) {
                return true;
            }
            folder = split(folder).0;
        }
        false
    }

    fn moved(&mut self, pair: &Pair) {
        let old = pair.path_before().to_vec();
        if !self.make_way(split(&pair.path).0, pair) {
            return;
        }
        let Some((was, will)) = self.items(pair) else { return };
        *self.removed.entry(split(&old).0.to_vec()).or_default() += 1;
        // A file that comes out of, or goes into, what becomes something else is written anew and removed.
        if self.above_is_retyped(&old) || self.above_is_retyped(&pair.path) {
            self.step(&old, Side::Into, was, Item::Nothing);
            return self.step(&pair.path, Side::Into, Item::Nothing, will);
        }
        let with_contents = pair.changes > 0 || pair.account.is_empty() && !self.holds_the_same(pair);
        self.plan.steps.push(SyncStep {
            path: pair.path.clone(),
            moved_from: Some(old),
            with_contents,
            side: Side::Into,
            was,
            will,
        });
    }

    fn holds_the_same(&self, pair: &Pair) -> bool {
        match (self.into.contents(pair.path_before()), self.from.contents(&pair.path)) {
            (Ok(one), Ok(other)) => (*one).as_ref() == (*other).as_ref(),
            _ => false,
        }
    }

    fn retyped(&mut self, pair: &Pair) {
        let Some((was, will)) = self.items(pair) else { return };
        match (&was, &will) {
            (Item::Folder { .. }, _) if !self.options.mirror => {
                self.blocked.insert(pair.path.clone());
                self.undecided(pair, "a folder stands there; --mirror removes it with what is in it");
            }
            (_, Item::Folder { .. }) => {
                self.made.insert(pair.path.clone());
                self.step(&pair.path, Side::Into, was, will);
            }
            _ => self.step(&pair.path, Side::Into, was, will),
        }
    }
}

fn is_newer(one: Option<Facts>, other: Option<Facts>) -> bool {
    let time = |facts: Option<Facts>| facts.and_then(|facts| facts.modified).unwrap_or(SystemTime::UNIX_EPOCH);
    time(one) > time(other)
}
