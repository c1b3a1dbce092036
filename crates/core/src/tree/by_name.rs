//! Pairs that names make: what was paired by hand, and what the rules rename.

use std::collections::HashMap;

use super::both_trees::{Found, Unknown};
use super::walk::Walk;
use super::{EntryType, Pair, TreeOptions, TreePath};
use crate::internal::model::Status;
use crate::internal::rules::Effect;

/// The path after that a path before is compared with, and by what.
enum Partner {
    ByHand(TreePath),
    Renamed(TreePath, Effect),
}

/// Makes one pair of each gone and new entry whose names belong together. How many pairs turned out to be the same and were not asked for
/// is told too.
pub(super) fn pair_by_name(found: Vec<Found>, walk: &Walk<'_>) -> (Vec<Found>, usize) {
    let options = walk.trees.options;
    if options.pairs.is_empty() && !options.renames {
        return (found, 0);
    }
    let mut new: HashMap<TreePath, usize> = HashMap::new();
    for (index, found) in found.iter().enumerate().filter(|(_, found)| found.pair.status == Status::New) {
        new.insert(found.pair.path.clone(), index);
    }
    let mut found: Vec<Option<Found>> = found.into_iter().map(Some).collect();
    let mut same = 0;
    for index in 0..found.len() {
        let Some(gone) = found[index].as_ref().map(|found| &found.pair).filter(|pair| pair.status == Status::Gone)
        else {
            continue;
        };
        let Some(partner) = partner_of(&gone.path, options) else { continue };
        let (path, is_by_hand) = match &partner {
            Partner::ByHand(path) => (path, true),
            Partner::Renamed(path, _) => (path, false),
        };
        let Some(&other) = new.get(path) else { continue };
        let types = |pair: &Pair| pair.types.0.or(pair.types.1);
        let Some(came) = found[other].as_ref().map(|found| &found.pair).filter(|came| types(came) == types(gone))
        else {
            continue;
        };
        let mut pair = Pair::new(came.path.clone(), Status::Same, (gone.types.0, came.types.1));
        (pair.moved_from, pair.before, pair.after) = (Some(gone.path.clone()), gone.before, came.after);
        (found[index], found[other]) = (None, None);
        if types(&pair) == Some(EntryType::Folder) {
            continue;
        }
        let unknown = walk.trees.pair(&mut pair);
        match partner {
            Partner::ByHand(_) if pair.status != Status::Unreadable => pair.status = Status::Moved,
            Partner::Renamed(_, Effect::Mute) if pair.status == Status::Same => pair.status = Status::Muted,
            Partner::ByHand(_) | Partner::Renamed(..) => {}
        }
        if pair.status == Status::Same && unknown == Unknown::Nothing && !options.wants(Status::Same) {
            same += 1;
        } else {
            let unknown = if is_by_hand && unknown == Unknown::Nothing { Unknown::Difference } else { unknown };
            found[other] = Some(Found { pair, unknown });
        }
    }
    (found.into_iter().flatten().collect(), same)
}

fn partner_of(path: &TreePath, options: &TreeOptions) -> Option<Partner> {
    for (before, after) in &options.pairs {
        if let Some(rest) = path.strip_prefix(&before[..])
            && (rest.is_empty() || rest.starts_with(b"/"))
        {
            return Some(Partner::ByHand([&after[..], rest].concat().as_slice().into()));
        }
    }
    if !options.renames {
        return None;
    }
    let (renamed, effect) = options.contents.file_rules(path).renamed_path(path)?;
    Some(Partner::Renamed(renamed.as_slice().into(), effect))
}
