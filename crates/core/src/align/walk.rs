//! Walking through large texts: equal stretches are passed at the speed of memory, and only the neighbourhoods of
//! differences are cut into lines.
//!
//! At a difference the walk looks for the place where both texts go on alike. It searches forward, fewest differences
//! first, until a run of [`SOLID`] equal lines is found; if that takes more than a bounded number of steps, it looks
//! for runs of lines that are unique in windows of growing size. What lies between the two places is an island.
//! An island closes only when a long equal stretch follows it, so that a chance likeness cannot split what belongs
//! together; the longer the island, the shorter that stretch may be, so that islands stay small and the whole takes time
//! in step with the size of the texts.

use std::collections::HashSet;

use super::anchors::Anchors;
use super::script::Item;
use crate::model::Span;
use crate::text::bytes::{count_lines, equal_lines, line_end, line_start};
use crate::text::lines::{Lines, hash_line, number};

/// So many equal lines in a row are taken for the place where two texts go on alike, if enough of them are different.
const SOLID: usize = 32;
/// How many different lines a solid run must have.
const VARIED: usize = 8;
/// Differences searched through before windows are tried.
const MOST_DIFFERENCES: isize = 400;
/// Line comparisons in one search before windows are tried.
const MOST_STEPS: usize = 1 << 20;
/// The first window in bytes, and how much each next one is larger.
const WINDOW: (usize, usize) = (1 << 20, 8);

/// A pair of stretches that hold differences.
#[derive(Clone, Debug)]
pub(super) struct Island {
    pub(super) before: Span,
    pub(super) after: Span,
}

/// Where the walk stands on one side.
#[derive(Clone, Copy)]
struct Place {
    byte: usize,
    line: usize,
}

impl Place {
    fn to(self, end: Place) -> Span {
        Span { lines: self.line..end.line, bytes: self.byte..end.byte }
    }
}

/// Finds the islands of two texts, in order. Everything outside them is equal.
pub(super) fn islands(before: &[u8], after: &[u8]) -> Vec<Island> {
    let mut found = Vec::new();
    let (mut b, mut a) = (Place { byte: 0, line: 0 }, Place { byte: 0, line: 0 });
    let mut open: Option<(Place, Place)> = None;
    loop {
        let equal = equal_lines(&before[b.byte..], &after[a.byte..]);
        let ends = b.byte + equal.bytes == before.len() && a.byte + equal.bytes == after.len();
        if let Some((from_b, from_a)) = open {
            let inside = (b.line - from_b.line) + (a.line - from_a.line);
            if ends || equal.lines >= closing_stretch(inside) {
                found.push(Island { before: from_b.to(b), after: from_a.to(a) });
                open = None;
            }
        }
        for place in [&mut b, &mut a] {
            place.byte += equal.bytes;
            place.line += equal.lines;
        }
        if ends {
            return found;
        }
        open = open.or(Some((b, a)));
        let (skip_b, skip_a) = meet_again(&before[b.byte..], &after[a.byte..]);
        b = skip(before, b, skip_b);
        a = skip(after, a, skip_a);
    }
}

fn skip(text: &[u8], from: Place, bytes: usize) -> Place {
    let end = from.byte + bytes;
    Place { byte: end, line: from.line + count_lines(&text[from.byte..end]) }
}

/// How many equal lines close an island of so many lines.
fn closing_stretch(lines: usize) -> usize {
    if lines < 20_000 { 256 } else { SOLID }
}

/// How many bytes of either text come before the place where they go on alike.
fn meet_again(before: &[u8], after: &[u8]) -> (usize, usize) {
    if let Some(found) = search(before, after) {
        return found;
    }
    let mut window = WINDOW.0;
    while window < before.len().max(after.len()) {
        if let Some(found) = in_window(head(before, window), head(after, window)) {
            return found;
        }
        window = window.saturating_mul(WINDOW.1);
    }
    (before.len(), after.len())
}

/// The whole lines of the first `bytes` bytes.
fn head(text: &[u8], bytes: usize) -> &[u8] {
    if text.len() <= bytes { text } else { &text[..line_start(text, bytes)] }
}

/// The greedy search: with each further difference, every diagonal goes on as far as its lines are equal.
fn search(before: &[u8], after: &[u8]) -> Option<(usize, usize)> {
    let (mut before, mut after) = (Unrolled::of(before), Unrolled::of(after));
    let mut steps = 0;
    // Two rows of farthest lines by diagonal, shifted so that no index is negative.
    let width = 2 * (MOST_DIFFERENCES as usize) + 3;
    let shift = MOST_DIFFERENCES + 1;
    let mut reached = vec![-1_isize; width];
    for d in 0..=MOST_DIFFERENCES {
        for k in (-d..=d).step_by(2) {
            let slot = (k + shift) as usize;
            let start = if d == 0 { 0 } else { (reached[slot - 1] + 1).max(reached[slot + 1]) };
            let (mut x, mut y) = (start as usize, start - k);
            if start < 0 || y < 0 || !before.has(x) || !after.has(y as usize) {
                let both_end = start >= 0 && y >= 0 && before.ends_at(x) && after.ends_at(y as usize);
                if both_end {
                    return Some((before.text.len(), after.text.len()));
                }
                reached[slot] = if start >= 0 && y >= 0 { start } else { -1 };
                continue;
            }
            let (run_x, run_y) = (x, y as usize);
            while before.has(x) && after.has(y as usize) && before.hash(x) == after.hash(y as usize) {
                (x, y) = (x + 1, y + 1);
                steps += 1;
                if (x - run_x).is_multiple_of(SOLID) && before.varied(run_x, x) {
                    return Some((before.start(run_x), after.start(run_y)));
                }
            }
            if before.ends_at(x) && after.ends_at(y as usize) {
                return Some((before.start(run_x), after.start(run_y)));
            }
            reached[slot] = x as isize;
            steps += 1;
        }
        if steps > MOST_STEPS {
            return None;
        }
    }
    None
}

/// The first solid run around lines that are unique in both windows and keep their order.
fn in_window(before: &[u8], after: &[u8]) -> Option<(usize, usize)> {
    let (before, after) = rayon::join(|| Lines::of(before), || Lines::of(after));
    let numbered = number(&before.iter().collect::<Vec<_>>(), &after.iter().collect::<Vec<_>>());
    let items = |ids: &[u32]| ids.iter().zip(0..).map(|(&id, at)| Item { id, at }).collect::<Vec<_>>();
    let (b, a) = (items(&numbered.before), items(&numbered.after));
    let runs = Anchors::new(numbered.distinct).unique_runs(&b, &a, SOLID);
    let varied = |from: usize, len: usize| {
        let ids: HashSet<u32> = numbered.before[from..from + len].iter().copied().collect();
        ids.len() >= VARIED
    };
    let run = runs.into_iter().find(|run| varied(run.before, run.len))?;
    Some((before.start(run.before), after.start(run.after)))
}

/// Lines that are found and hashed only as far as they are asked for.
struct Unrolled<'t> {
    text: &'t [u8],
    starts: Vec<usize>,
    hashes: Vec<u64>,
}

impl<'t> Unrolled<'t> {
    fn of(text: &'t [u8]) -> Self {
        Self { text, starts: vec![0], hashes: Vec::new() }
    }

    fn has(&mut self, line: usize) -> bool {
        while self.hashes.len() <= line {
            let start = self.starts[self.hashes.len()];
            if start == self.text.len() {
                return false;
            }
            let end = line_end(self.text, start);
            self.hashes.push(hash_line(&self.text[start..end]));
            self.starts.push(end);
        }
        true
    }

    fn ends_at(&mut self, line: usize) -> bool {
        !self.has(line) && line == self.hashes.len()
    }

    fn hash(&self, line: usize) -> u64 {
        self.hashes[line]
    }

    fn start(&self, line: usize) -> usize {
        self.starts[line]
    }

    fn varied(&self, from: usize, to: usize) -> bool {
        let hashes: HashSet<u64> = self.hashes[from..to].iter().copied().collect();
        hashes.len() >= VARIED
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn numbers(range: std::ops::Range<usize>) -> String {
        range.map(|n| format!("reading {n}\n")).collect()
    }

    #[test]
    fn each_distant_difference_is_an_island_of_its_own() {
        let before = numbers(0..5000);
        let after = before.replace("reading 700\n", "reading seven hundred\n").replace("reading 3000\n", "");
        let found = islands(before.as_bytes(), after.as_bytes());
        let lines: Vec<_> =
            found.iter().map(|island| (island.before.lines.clone(), island.after.lines.clone())).collect();
        assert_eq!(lines, [(700..701, 700..701), (3000..3001, 3000..3000)]);
    }

    #[test]
    fn a_block_too_long_for_the_search_is_found_by_windows() {
        let before = numbers(0..600_000);
        let after = [numbers(0..1000), numbers(700_000..800_000), numbers(1000..600_000)].concat();
        let found = islands(before.as_bytes(), after.as_bytes());
        assert_eq!(found.len(), 1);
        assert_eq!(found[0].before.lines, 1000..1000);
        assert_eq!(found[0].after.lines, 1000..101_000);
    }

    #[test]
    fn repeated_lines_are_no_solid_ground() {
        let before = "a\nb\n".repeat(2000);
        let after = format!("{}{}", "b\na\n".repeat(1999), "tail\n");
        let found = islands(before.as_bytes(), after.as_bytes());
        assert_eq!(found.len(), 1);
    }
}
