//! The merge of three short texts, from its definition and from nothing else: every pair of shortest scripts is tried, and edits are compared one by
//! one. It shares no code with the core, and takes its time.

use std::collections::BTreeSet;

/// Lines of a text.
pub(crate) type Text = Vec<u8>;

/// A stretch of the base (from, upto) and what takes its place.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
struct Change {
    from: usize,
    upto: usize,
    lines: Text,
}

/// What may come of a merge.
#[derive(Debug, Default)]
pub(crate) struct Allowed {
    /// Every result that some pair of shortest scripts gives without a conflict.
    pub(crate) merged: BTreeSet<Text>,
    /// Whether some pair of shortest scripts clashes.
    pub(crate) may_clash: bool,
}

/// Everything that may come of three texts.
pub(crate) fn allowed(base: &[u8], mine: &[u8], theirs: &[u8]) -> Allowed {
    let mut allowed = Allowed::default();
    let (ours, others) = (scripts(base, mine), scripts(base, theirs));
    for one in &ours {
        for other in &others {
            match merged(base, one, other) {
                Some(text) => drop(allowed.merged.insert(text)),
                None => allowed.may_clash = true,
            }
        }
    }
    allowed
}

/// All shortest scripts from one text to another.
fn scripts(base: &[u8], side: &[u8]) -> Vec<Vec<Change>> {
    // longest[b][s]: the length of the longest common subsequence of what lies behind b and s.
    let mut longest = vec![vec![0; side.len() + 1]; base.len() + 1];
    for b in (0..base.len()).rev() {
        for s in (0..side.len()).rev() {
            longest[b][s] =
                if base[b] == side[s] { longest[b + 1][s + 1] + 1 } else { longest[b + 1][s].max(longest[b][s + 1]) };
        }
    }
    let mut found = BTreeSet::new();
    walk((base, side), &longest, (0, 0), &mut Vec::new(), &mut found);
    found.into_iter().map(|pairs| changes(base, side, &pairs)).collect()
}

type Pairs = Vec<(usize, usize)>;

fn walk(
    (base, side): (&[u8], &[u8]),
    longest: &[Vec<usize>],
    (b, s): (usize, usize),
    pairs: &mut Pairs,
    found: &mut BTreeSet<Pairs>,
) {
    if longest[b][s] == 0 {
        found.insert(pairs.clone());
        return;
    }
    // The next pair may be any that leaves a longest rest.
    for at in b..base.len() {
        for to in s..side.len() {
            if base[at] == side[to] && longest[at + 1][to + 1] + 1 == longest[b][s] {
                pairs.push((at, to));
                walk((base, side), longest, (at + 1, to + 1), pairs, found);
                pairs.pop();
            }
        }
    }
}

/// What differs around lines that are kept.
fn changes(base: &[u8], side: &[u8], pairs: &Pairs) -> Vec<Change> {
    let mut found = Vec::new();
    let (mut b, mut s) = (0, 0);
    for &(at, to) in pairs.iter().chain([&(base.len(), side.len())]) {
        if at > b || to > s {
            found.push(Change { from: b, upto: at, lines: side[s..to].to_vec() });
        }
        (b, s) = (at + 1, to + 1);
    }
    found
}

/// Both scripts together; nothing where two changes that are not the same touch.
fn merged(base: &[u8], ours: &[Change], others: &[Change]) -> Option<Text> {
    let touch = |one: &Change, other: &Change| one.from <= other.upto && other.from <= one.upto;
    for one in ours {
        for other in others {
            if one != other && touch(one, other) && !share_a_twin(one, other, (ours, others)) {
                return None;
            }
        }
    }
    let all: BTreeSet<&Change> = ours.iter().chain(others).collect();
    let mut text = Vec::new();
    let mut at = 0;
    for change in all {
        text.extend_from_slice(&base[at..change.from]);
        text.extend_from_slice(&change.lines);
        at = change.upto;
    }
    text.extend_from_slice(&base[at..]);
    Some(text)
}

/// Changes of one side never touch each other, so that a change that both have touches no other of either side.
fn share_a_twin(one: &Change, other: &Change, (ours, others): (&[Change], &[Change])) -> bool {
    others.contains(one) && ours.contains(other)
}
