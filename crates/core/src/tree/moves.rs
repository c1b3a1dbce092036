//! Files that stand elsewhere: a gone file and a new file with equal or alike contents become one moved pair.
//!
//! Names that differ only in case come first, then equal contents, then alike texts. Each gone file is weighed only against new
//! files that share a rare line of its sketch, so that thousands of gone and new files take time in step with their number.

use std::collections::{HashMap, HashSet, VecDeque};
use std::hash::BuildHasher;

use foldhash::quality::FixedState;
use rayon::prelude::*;

use super::similarity::{Sketch, lines_of};
use super::{ContentId, Pair, Tree, TreePath};
use crate::internal::align::{LARGEST_MOVED_FILE, LARGEST_SAMPLE, MOST_HOLDERS, MOST_SAMPLED, work};
use crate::internal::kinds::{self, ContentOptions, Read};
use crate::internal::model::Status;

/// Texts that share less than this of their lines have not moved.
const ALIKE: f64 = 0.5;

/// Finds moved files among gone and new ones, by their indices in `pairs`: gone, then new. Which lines are usual is told from some files that
/// are the same in both trees, and from those that changed.
pub(super) fn find(pairs: &[Pair], before: &dyn Tree, after: &dyn Tree, usual: &[TreePath]) -> Vec<(usize, usize)> {
    let with = |status: Status| -> Vec<usize> {
        let files = pairs.iter().enumerate().filter(|(_, pair)| pair.status == status && pair.is_file());
        files.map(|(index, _)| index).collect()
    };
    let (mut gone, mut new) = (with(Status::Gone), with(Status::New));
    let mut found = Vec::new();
    let steps: [Step<'_>; 3] = [
        &|gone, new| by_case(pairs, gone, new),
        &|gone, new| by_contents(pairs, gone, new, (before, after)),
        &|gone, new| by_likeness(pairs, (gone, new), (before, after), usual),
    ];
    for step in steps {
        if gone.is_empty() || new.is_empty() {
            break;
        }
        let moved = step(&gone, &new);
        let (from, to): (HashSet<usize>, HashSet<usize>) = moved.iter().copied().unzip();
        gone.retain(|index| !from.contains(index));
        new.retain(|index| !to.contains(index));
        found.extend(moved);
    }
    found
}

/// Finds moved files among some that are gone and some that are new.
type Step<'s> = &'s dyn Fn(&[usize], &[usize]) -> Vec<(usize, usize)>;
type Trees<'t> = (&'t dyn Tree, &'t dyn Tree);

/// The same path but for the case of its letters.
fn by_case(pairs: &[Pair], gone: &[usize], new: &[usize]) -> Vec<(usize, usize)> {
    let folded = |index: usize| String::from_utf8_lossy(&pairs[index].path).to_lowercase();
    let mut places: HashMap<String, Vec<usize>> = HashMap::new();
    for &index in new {
        places.entry(folded(index)).or_default().push(index);
    }
    let mut taken = |&index: &usize| {
        let name = folded(index);
        let [only] = places.get(&name)?[..] else { return None };
        places.remove(&name);
        Some((index, only))
    };
    gone.iter().filter_map(&mut taken).collect()
}

/// Equal contents. Of several, the same name is preferred, then the order of paths.
fn by_contents(pairs: &[Pair], gone: &[usize], new: &[usize], trees: Trees<'_>) -> Vec<(usize, usize)> {
    let size = |index: usize| pairs[index].size();
    let sizes = |indices: &[usize]| indices.iter().map(|&index| size(index)).collect::<HashSet<_>>();
    let (gone_sizes, new_sizes) = (sizes(gone), sizes(new));
    let algorithm = common_algorithm(pairs, (gone, new), trees);
    let hashes = |indices: &[usize], tree: &dyn Tree, others: &HashSet<u64>| -> Vec<(usize, u64)> {
        let worth = indices.par_iter().filter(|&&index| size(index) > 0 && others.contains(&size(index)));
        let hash = |&index: &usize| {
            let path = &pairs[index].path;
            if let Some(algorithm) = algorithm {
                return Some((index, FixedState::default().hash_one(identity(tree, path, algorithm)?.bytes)));
            }
            let contents = tree.contents(path).ok()?;
            Some((index, FixedState::default().hash_one((*contents).as_ref())))
        };
        worth.filter_map(hash).collect()
    };
    let same_bytes = |from: usize, to: usize| match algorithm {
        Some(algorithm) => {
            let one = identity(trees.0, &pairs[from].path, algorithm);
            one.is_some() && one == identity(trees.1, &pairs[to].path, algorithm)
        }
        None => same_bytes(pairs, from, to, trees),
    };
    // What is new, by its contents, in path order; and of that, by its name too.
    let mut places: HashMap<(u64, u64), VecDeque<usize>> = HashMap::new();
    let mut named: HashMap<(u64, u64, &[u8]), VecDeque<usize>> = HashMap::new();
    for (index, hash) in hashes(new, trees.1, &gone_sizes) {
        places.entry((size(index), hash)).or_default().push_back(index);
        named.entry((size(index), hash, pairs[index].path.name())).or_default().push_back(index);
    }
    let gone = hashes(gone, trees.0, &new_sizes);
    let (mut found, mut taken) = (Vec::new(), HashSet::new());
    let mut without_name = Vec::new();
    for (index, hash) in gone {
        match named.get_mut(&(size(index), hash, pairs[index].path.name())).and_then(VecDeque::pop_front) {
            Some(other) if same_bytes(index, other) => {
                taken.insert(other);
                found.push((index, other));
            }
            _ => without_name.push((index, hash)),
        }
    }
    for (index, hash) in without_name {
        let Some(candidates) = places.get_mut(&(size(index), hash)) else { continue };
        while candidates.pop_front_if(|other| taken.contains(other)).is_some() {}
        if let Some(&other) = candidates.front()
            && same_bytes(index, other)
        {
            candidates.pop_front();
            found.push((index, other));
        }
    }
    found.sort_unstable();
    found
}

/// The algorithm by which what is gone and what is new can be known without reading the contents of both: one tree keeps identities, and the
/// other keeps them too or makes them.
fn common_algorithm(pairs: &[Pair], (gone, new): (&[usize], &[usize]), trees: Trees<'_>) -> Option<&'static str> {
    let kept = |indices: &[usize], tree: &dyn Tree| {
        indices.iter().find_map(|&index| tree.identity(&pairs[index].path)).map(|identity| identity.algorithm)
    };
    let first = |indices: &[usize]| indices.first().map(|&index| &pairs[index].path);
    let makes = |tree: &dyn Tree, indices: &[usize], algorithm: &'static str| {
        first(indices).is_some_and(|path| tree.identify(path, algorithm).is_some()).then_some(algorithm)
    };
    match (kept(gone, trees.0), kept(new, trees.1)) {
        (Some(one), Some(other)) if one == other => Some(one),
        (Some(one), other) => makes(trees.1, new, one).or_else(|| other.and_then(|other| makes(trees.0, gone, other))),
        (None, Some(other)) => makes(trees.0, gone, other),
        (None, None) => None,
    }
}

/// By what a file is known in an algorithm.
fn identity(tree: &dyn Tree, path: &TreePath, algorithm: &'static str) -> Option<ContentId> {
    match tree.identity(path) {
        Some(kept) if kept.algorithm == algorithm => Some(kept),
        _ => tree.identify(path, algorithm)?.ok(),
    }
}

fn same_bytes(pairs: &[Pair], from: usize, to: usize, trees: Trees<'_>) -> bool {
    work::count(usize::try_from(pairs[from].size()).unwrap_or(usize::MAX));
    match (trees.0.contents(&pairs[from].path), trees.1.contents(&pairs[to].path)) {
        (Ok(one), Ok(other)) => (*one).as_ref() == (*other).as_ref(),
        _ => false,
    }
}

/// How many files have each line of the sketches: a licence at the head of every file does not make two of them alike.
struct Common {
    files: HashMap<u64, u32>,
}

impl Common {
    /// Of the files that are gone or new, and of some that are in both trees.
    fn of(
        gone: &[(usize, Sketch)],
        new: &[(usize, Sketch)],
        (pairs, usual): (&[Pair], &[TreePath]),
        after: &dyn Tree,
    ) -> Self {
        let mut files: HashMap<u64, u32> = HashMap::new();
        if gone.is_empty() || new.is_empty() {
            return Self { files };
        }
        // One that moved is gone in one tree and new in the other: that is one file.
        let mut sides: HashMap<u64, [u32; 2]> = HashMap::new();
        for (side, sketches) in [gone, new].into_iter().enumerate() {
            for hash in sketches.iter().flat_map(|(_, sketch)| sketch.hashes()) {
                sides.entry(*hash).or_default()[side] += 1;
            }
        }
        files.extend(sides.into_iter().map(|(hash, [gone, new])| (hash, gone.max(new))));
        let has_changed = |pair: &&Pair| {
            pair.is_file()
                && matches!(pair.status, Status::Same | Status::Muted | Status::Changed)
                && (1..=LARGEST_SAMPLE).contains(&pair.size())
        };
        let changed = pairs.iter().filter(has_changed).map(|pair| &pair.path);
        let sampled: Vec<&TreePath> = usual.iter().chain(changed).take(MOST_SAMPLED).collect();
        let lines = |path: &&TreePath| -> HashSet<u64> {
            let Ok(contents) = after.contents(path) else { return HashSet::new() };
            lines_of((*contents).as_ref()).into_iter().filter(|hash| files.contains_key(hash)).collect()
        };
        let found: Vec<HashSet<u64>> = sampled.par_iter().map(lines).collect();
        for hash in found.into_iter().flatten() {
            *files.entry(hash).or_default() += 1;
        }
        Self { files }
    }

    fn weight(&self, hash: u64) -> f64 {
        1.0 / f64::from(self.files.get(&hash).copied().unwrap_or(1).max(1))
    }
}

/// Alike texts, the most alike first.
fn by_likeness(
    pairs: &[Pair],
    (gone, new): (&[usize], &[usize]),
    trees: Trees<'_>,
    usual: &[TreePath],
) -> Vec<(usize, usize)> {
    let sketches = |indices: &[usize], tree: &dyn Tree| -> Vec<(usize, Sketch)> {
        let sketch = |&index: &usize| {
            if pairs[index].size() > LARGEST_MOVED_FILE {
                return None;
            }
            let contents = tree.contents(&pairs[index].path).ok()?;
            let bytes = (*contents).as_ref();
            match kinds::read(&pairs[index].path, bytes, true, &ContentOptions::default()) {
                Read::Text(text) => Some((index, Sketch::of(&text)?)),
                Read::Bytes(_) => None,
            }
        };
        indices.par_iter().filter_map(sketch).collect()
    };
    let (gone, new) = (sketches(gone, trees.0), sketches(new, trees.1));
    let mut holders: HashMap<u64, Vec<usize>> = HashMap::new();
    for (at, (_, sketch)) in new.iter().enumerate() {
        for &hash in sketch.hashes() {
            holders.entry(hash).or_default().push(at);
        }
    }
    let common = Common::of(&gone, &new, (pairs, usual), trees.1);
    let weigh = |(at, (_, sketch)): (usize, &(usize, Sketch))| {
        let rare =
            sketch.hashes().iter().filter_map(|hash| holders.get(hash)).filter(|list| list.len() <= MOST_HOLDERS);
        let candidates: std::collections::BTreeSet<usize> = rare.flatten().copied().collect();
        work::count(candidates.len());
        let weighed = candidates
            .into_iter()
            .map(|other| (sketch.similarity(&new[other].1, |hash| common.weight(hash)), at, other));
        weighed.filter(|(similarity, ..)| *similarity >= ALIKE).collect::<Vec<_>>()
    };
    let mut candidates: Vec<_> = gone.par_iter().enumerate().flat_map_iter(weigh).collect();
    let name = |index: usize| pairs[index].path.name();
    let order = |&(similarity, from, to): &(f64, usize, usize)| {
        let renamed = name(gone[from].0) != name(new[to].0);
        // Likeness in thousandths, so that equal ones are told apart by name, then by path.
        (std::cmp::Reverse((similarity * 1000.0) as u32), renamed, from, to)
    };
    candidates.sort_unstable_by_key(order);
    let (mut left, mut came) = (vec![false; gone.len()], vec![false; new.len()]);
    let mut found = Vec::new();
    for (_, from, to) in candidates {
        if !left[from] && !came[to] {
            (left[from], came[to]) = (true, true);
            found.push((gone[from].0, new[to].0));
        }
    }
    found
}
