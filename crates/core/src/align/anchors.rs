//! Fixed points: items that are unique on both sides, and the longest chain of them that keeps its order.

use super::sequence::Item;

/// A run of items that match one to one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Run {
    pub(super) before: usize,
    pub(super) after: usize,
    pub(super) len: usize,
}

/// How often a number occurs on either side, and where it was seen last. Reused from region to region.
pub(super) struct Anchors {
    tallies: Vec<Tally>,
}

#[derive(Clone, Copy, Default)]
struct Tally {
    before: u32,
    after: u32,
    after_at: u32,
}

type Sides = (Vec<Item>, Vec<Item>);

impl Anchors {
    pub(super) fn new(distinct: usize) -> Self {
        Self { tallies: vec![Tally::default(); distinct] }
    }

    /// Splits both sequences into the items whose number occurs on both sides, and the others.
    pub(super) fn split_by_presence(&mut self, before: &[Item], after: &[Item]) -> (Sides, Sides) {
        self.count(before, after);
        let tallies = &self.tallies;
        let shared = |item: &&Item| {
            let tally = tallies[item.id as usize];
            tally.before > 0 && tally.after > 0
        };
        let (before_kept, before_aside) = before.iter().partition(shared);
        let (after_kept, after_aside) = after.iter().partition(shared);
        self.forget(before, after);
        ((before_kept, after_kept), (before_aside, after_aside))
    }

    /// The runs of at least `shortest` matching items around items that are unique on both sides, in order.
    pub(super) fn unique_runs(&mut self, before: &[Item], after: &[Item], shortest: usize) -> Vec<Run> {
        self.count(before, after);
        let mut pairs = Vec::new();
        for (at, item) in before.iter().enumerate() {
            let tally = self.tallies[item.id as usize];
            if tally.before == 1 && tally.after == 1 {
                pairs.push((at, tally.after_at as usize));
            }
        }
        self.forget(before, after);
        let mut runs: Vec<Run> = Vec::new();
        let (mut free_before, mut free_after) = (0, 0);
        for (b, a) in longest_chain(&pairs) {
            if b < free_before || a < free_after {
                continue;
            }
            let same = |(x, y): &(&Item, &Item)| x.id == y.id;
            let back = before[free_before..b].iter().rev().zip(after[free_after..a].iter().rev()).take_while(same);
            let back = back.count();
            let ahead = before[b..].iter().zip(&after[a..]).take_while(same).count();
            let run = Run { before: b - back, after: a - back, len: back + ahead };
            if run.len >= shortest {
                (free_before, free_after) = (b + ahead, a + ahead);
                runs.push(run);
            }
        }
        runs
    }

    fn count(&mut self, before: &[Item], after: &[Item]) {
        for item in before {
            self.tallies[item.id as usize].before += 1;
        }
        for (at, item) in (0..).zip(after) {
            let tally = &mut self.tallies[item.id as usize];
            tally.after += 1;
            tally.after_at = at;
        }
    }

    fn forget(&mut self, before: &[Item], after: &[Item]) {
        for item in before.iter().chain(after) {
            self.tallies[item.id as usize] = Tally::default();
        }
    }
}

/// Of pairs in order of their first part, the most that are also in order of their second (all second parts differ).
pub(crate) fn longest_chain(pairs: &[(usize, usize)]) -> Vec<(usize, usize)> {
    const NONE: usize = usize::MAX;
    let mut tails: Vec<usize> = Vec::new();
    let mut previous = vec![NONE; pairs.len()];
    for (at, &(_, second)) in pairs.iter().enumerate() {
        let place = tails.partition_point(|&tail| pairs[tail].1 < second);
        if place > 0 {
            previous[at] = tails[place - 1];
        }
        if place == tails.len() { tails.push(at) } else { tails[place] = at }
    }
    let mut chain = Vec::with_capacity(tails.len());
    let mut at = tails.last().copied().unwrap_or(NONE);
    while at != NONE {
        chain.push(pairs[at]);
        at = previous[at];
    }
    chain.reverse();
    chain
}

#[cfg(test)]
mod tests {
    use super::longest_chain;

    #[test]
    fn the_chain_is_the_longest_increasing_one() {
        let pairs: Vec<_> = [3, 0, 4, 1, 5, 2].into_iter().enumerate().collect();
        let chain: Vec<_> = longest_chain(&pairs).into_iter().map(|(_, second)| second).collect();
        assert_eq!(chain.len(), 3);
        assert!(chain.is_sorted());
        assert!(longest_chain(&[]).is_empty());
    }
}
