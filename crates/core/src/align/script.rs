//! The script between two sequences of numbers: which items stand on one side alone.
//!
//! 1. Items that occur on one side only are set aside: no script can match them.
//! 2. The rest is searched for a shortest script in linear space, from both ends to the middle: E. W. Myers, "An O(ND)
//!    Difference Algorithm and Its Variations", Algorithmica 1 (1986), section 4b.
//! 3. Where that would take too long, items that are unique on both sides become fixed points, as in P. Heckel, "A
//!    technique for isolating differences between files", CACM 21 (1978); of those, the longest chain that keeps its
//!    order (C. Schensted, "Longest increasing and decreasing subsequences", 1961) is taken.
//! 4. Where nothing is unique, the farthest point that the search reached becomes a fixed point.

use std::ops::Range;

use super::anchors::{Anchors, Run};
use super::bounds::Bounds;
use super::sequence::Item;
use super::work;
use crate::internal::text::lines::Interned;

/// For each item of either side, whether it stands there alone. The others match one to one, in order.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Script {
    /// Items of before that are gone.
    pub gone: Vec<bool>,
    /// Items of after that are new.
    pub new: Vec<bool>,
}

impl Script {
    /// The number of items that stand on one side alone.
    pub fn size(&self) -> usize {
        self.gone.iter().chain(&self.new).filter(|&&alone| alone).count()
    }

    /// The stretches that differ, as ranges of items before and after, in order and never adjacent on both sides.
    pub fn stretches(&self) -> Vec<(Range<usize>, Range<usize>)> {
        let mut found = Vec::new();
        let (mut b, mut a) = (0, 0);
        let alone = |flags: &[bool], at: usize| flags.get(at).copied().unwrap_or(false);
        while b < self.gone.len() || a < self.new.len() {
            let (from_b, from_a) = (b, a);
            while alone(&self.gone, b) {
                b += 1;
            }
            while alone(&self.new, a) {
                a += 1;
            }
            if b > from_b || a > from_a {
                found.push((from_b..b, from_a..a));
            } else {
                b += 1;
                a += 1;
            }
        }
        found
    }
}

/// Finds the script between two interned sequences.
pub fn script(interned: &Interned, bounds: &Bounds) -> Script {
    script_within(interned, &[(0..interned.before.len(), 0..interned.after.len())], bounds)
}

/// Finds the scripts between some parts of two interned sequences; what lies outside of them is known to match.
pub(super) fn script_within(interned: &Interned, parts: &[(Range<usize>, Range<usize>)], bounds: &Bounds) -> Script {
    let mut solver = Solver {
        script: Script { gone: vec![false; interned.before.len()], new: vec![false; interned.after.len()] },
        anchors: Anchors::new(interned.distinct),
        bounds: *bounds,
        forward: Diagonals::default(),
        backward: Diagonals::default(),
    };
    let items = |ids: &[u32], part: &Range<usize>| {
        let numbered = ids[part.clone()].iter().zip(part.clone());
        numbered.map(|(&id, at)| Item { id, at: at as u32 }).collect::<Vec<_>>()
    };
    for (before, after) in parts {
        solver.solve(&items(&interned.before, before), &items(&interned.after, after), 0);
    }
    solver.script
}

struct Solver {
    script: Script,
    anchors: Anchors,
    bounds: Bounds,
    forward: Diagonals,
    backward: Diagonals,
}

impl Solver {
    /// Solves one region: sets aside what is on one side only, then searches, then falls back on fixed points.
    fn solve(&mut self, before: &[Item], after: &[Item], depth: usize) {
        let (before, after) = trim(before, after);
        if before.is_empty() || after.is_empty() {
            return self.alone(before, after);
        }
        let (before, after) = self.set_aside(before, after);
        let (before, after) = trim(&before, &after);
        let lines = before.len() + after.len();
        if self.bounds.cuts_first(lines) && self.bounds.cuts_at(depth) {
            let runs = self.anchors.unique_runs(before, after, 16);
            if !runs.is_empty() {
                return self.between(before, after, &runs, depth);
            }
        }
        let limit = self.bounds.search_in(lines);
        match self.middle(before, after, limit) {
            Middle::None => self.alone(before, after),
            Middle::Met(b, a) => self.divide(before, after, b, a),
            Middle::Beyond(..) => {
                let runs =
                    if self.bounds.cuts_at(depth) { self.anchors.unique_runs(before, after, 1) } else { Vec::new() };
                if runs.is_empty() { self.advance(before, after) } else { self.between(before, after, &runs, depth) }
            }
        }
    }

    /// Solves what lies between runs that are known to match.
    fn between(&mut self, before: &[Item], after: &[Item], runs: &[Run], depth: usize) {
        let (mut b, mut a) = (0, 0);
        for run in runs {
            self.solve(&before[b..run.before], &after[a..run.after], depth + 1);
            (b, a) = (run.before + run.len, run.after + run.len);
        }
        self.solve(&before[b..], &after[a..], depth + 1);
    }

    /// Solves both sides of a point that is known to lie on a shortest script.
    fn divide(&mut self, before: &[Item], after: &[Item], b: usize, a: usize) {
        for (before, after) in [(&before[..b], &after[..a]), (&before[b..], &after[a..])] {
            let (before, after) = trim(before, after);
            match self.middle(before, after, usize::MAX) {
                Middle::Met(b, a) => self.divide(before, after, b, a),
                Middle::None | Middle::Beyond(..) => self.alone(before, after),
            }
        }
    }

    /// Goes forward by farthest points, each within a small bound, when no item is unique.
    fn advance<'i>(&mut self, mut before: &'i [Item], mut after: &'i [Item]) {
        loop {
            (before, after) = trim(before, after);
            match self.middle(before, after, self.bounds.step_in()) {
                Middle::None => return self.alone(before, after),
                Middle::Met(b, a) => return self.divide(before, after, b, a),
                Middle::Beyond(b, a) => {
                    self.divide(&before[..b], &after[..a], b, a);
                    (before, after) = (&before[b..], &after[a..]);
                }
            }
        }
    }

    fn alone(&mut self, before: &[Item], after: &[Item]) {
        for item in before {
            self.script.gone[item.at as usize] = true;
        }
        for item in after {
            self.script.new[item.at as usize] = true;
        }
    }

    fn set_aside(&mut self, before: &[Item], after: &[Item]) -> (Vec<Item>, Vec<Item>) {
        let (kept, aside) = self.anchors.split_by_presence(before, after);
        self.alone(&aside.0, &aside.1);
        kept
    }

    /// Looks for the middle of a shortest script by searching from both ends at once.
    ///
    /// `forward[k]` is the farthest item before that is reached on diagonal `k` (before minus after) with the number
    /// of differences so far; `backward` is the same seen from the ends.
    fn middle(&mut self, before: &[Item], after: &[Item], limit: usize) -> Middle {
        let (n, m) = (before.len() as isize, after.len() as isize);
        if n == 0 || m == 0 {
            return Middle::None;
        }
        let delta = n - m;
        let odd = delta & 1 != 0;
        let most = isize::try_from(limit).unwrap_or(isize::MAX).min((n + m + 1) / 2);
        self.forward.start();
        self.backward.start();
        for d in 0..=most {
            self.forward.widen(d);
            self.backward.widen(d);
            work::count(2 * (d.min(n) - lowest(d, m) + 2) as usize);
            let mut k = lowest(d, m);
            while k <= d.min(n) {
                let x = self.forward.next(k, n, m, |x, y| before[x].id == after[y].id);
                if odd && (k - delta).abs() < d && x >= 0 && x + self.backward.at(delta - k) >= n {
                    return Middle::Met(x as usize, (x - k) as usize);
                }
                k += 2;
            }
            let mut k = lowest(d, m);
            while k <= d.min(n) {
                let (last_b, last_a) = (before.len() - 1, after.len() - 1);
                let x = self.backward.next(k, n, m, |x, y| before[last_b - x].id == after[last_a - y].id);
                if !odd && (delta - k).abs() <= d && x >= 0 && x + self.forward.at(delta - k) >= n {
                    return Middle::Met((n - x) as usize, (m - (x - k)) as usize);
                }
                k += 2;
            }
        }
        let (x, y) = self.forward.farthest(most, n, m);
        Middle::Beyond(x, y)
    }
}

enum Middle {
    /// One side is empty.
    None,
    /// A point on a shortest script.
    Met(usize, usize),
    /// Not within the bound; the farthest point that was reached from the start.
    Beyond(usize, usize),
}

/// The lowest diagonal at distance `d` that lies inside the sequences, of the right parity.
fn lowest(d: isize, m: isize) -> isize {
    if d <= m { -d } else { -m + ((d - m) & 1) }
}

/// Farthest points by diagonal, negative and positive ones interleaved so that the list only grows at its end.
#[derive(Default)]
struct Diagonals {
    reached: Vec<isize>,
}

/// Smaller than any reachable point by more than any sum can mend.
const UNREACHED: isize = isize::MIN / 4;

impl Diagonals {
    fn slot(k: isize) -> usize {
        if k >= 0 { 2 * k as usize } else { (-2 * k - 1) as usize }
    }

    /// Forgets everything and stands at the start: as if one step before it on diagonal 1.
    fn start(&mut self) {
        self.reached.clear();
        self.reached.resize(Self::slot(1) + 1, UNREACHED);
        self.reached[Self::slot(1)] = 0;
    }

    /// Makes room for the diagonals that distance `d` may look at.
    fn widen(&mut self, d: isize) {
        let room = (Self::slot(d + 1) + 1).max(self.reached.len());
        self.reached.resize(room, UNREACHED);
    }

    fn at(&self, k: isize) -> isize {
        self.reached.get(Self::slot(k)).copied().unwrap_or(UNREACHED)
    }

    /// One more difference on diagonal `k`, then along equal items as far as they go.
    fn next(&mut self, k: isize, n: isize, m: isize, equal: impl Fn(usize, usize) -> bool) -> isize {
        let (left, right) = (self.at(k - 1), self.at(k + 1));
        let by_before = if left < n { left + 1 } else { UNREACHED };
        let by_after = if right - k <= m { right } else { UNREACHED };
        let mut x = by_before.max(by_after);
        if x >= 0 {
            let from = x;
            while x < n && x - k < m && equal(x as usize, (x - k) as usize) {
                x += 1;
            }
            work::count((x - from) as usize);
        }
        self.reached[Self::slot(k)] = x;
        x
    }

    /// The reached point with the largest sum of coordinates.
    fn farthest(&self, d: isize, n: isize, m: isize) -> (usize, usize) {
        let points = (-d.min(m)..=d.min(n)).map(|k| (self.at(k), self.at(k) - k));
        let best = points.filter(|&(x, y)| x >= 0 && y >= 0 && x <= n && y <= m).max_by_key(|&(x, y)| x + y);
        best.map_or((n as usize, m as usize), |(x, y)| (x as usize, y as usize))
    }
}

fn trim<'i>(before: &'i [Item], after: &'i [Item]) -> (&'i [Item], &'i [Item]) {
    let head = before.iter().zip(after).take_while(|(b, a)| b.id == a.id).count();
    let (before, after) = (&before[head..], &after[head..]);
    let tail = before.iter().rev().zip(after.iter().rev()).take_while(|(b, a)| b.id == a.id).count();
    (&before[..before.len() - tail], &after[..after.len() - tail])
}
