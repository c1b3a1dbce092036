//! Walking through large texts: equal stretches are passed at the speed of memory, and only the neighbourhoods of
//! differences are cut into lines.
//!
//! At a difference the walk looks for the place where both texts go on alike. It searches forward, fewest differences
//! first, until a solid run of equal lines is found; if that takes more than a bounded number of steps, it looks
//! for runs of lines that are unique in windows of growing size. What lies between the two places is an island.
//! An island closes only when a long equal stretch follows it, so that a chance similarity cannot split what belongs
//! together; the longer the island, the shorter that stretch may be, so that islands stay small and the whole takes time
//! in step with the size of the texts.

use std::borrow::Cow;
use std::collections::{HashMap, HashSet};
use std::ops::Range;

use foldhash::fast::FixedState;

use super::anchors::{Anchors, longest_chain};
use super::bounds::{Bounds, WalkBounds};
use super::sequence::Item;
use super::stretch::Stretch;
use super::stretch_lines::StretchLines;
use super::work;
use crate::internal::model::Span;
use crate::internal::rules::MaskedText;
use crate::internal::text::bytes::{
    common_suffix, count_lines, equal_lines, line_end, line_start, lines_above, lines_below,
};
use crate::internal::text::lines::{hash_line, intern};

/// How much larger each next window is.
const WINDOW_GROWTH: usize = 8;

/// A pair of stretches that hold differences.
#[derive(Clone, Debug)]
pub(super) struct Island {
    pub(super) before: Span,
    pub(super) after: Span,
}

/// A part of two texts.
pub(super) enum Region<'s, 't> {
    /// Stretches that hold differences.
    Island(Stretch<'s, 't>, Stretch<'s, 't>),
    /// Stretches whose lines match.
    Matching(Stretch<'s, 't>, Stretch<'s, 't>),
}

/// Islands and what lies between them, in order.
pub(super) fn with_what_lies_between<'s, 't>(
    islands: Vec<Island>,
    before: &Stretch<'s, 't>,
    after: &Stretch<'s, 't>,
) -> Vec<Region<'s, 't>> {
    /// Cuts a stretch at an island: what lies before it, and the island.
    fn cut<'s, 't>(rest: &mut Stretch<'s, 't>, island: &Span) -> (Stretch<'s, 't>, Stretch<'s, 't>) {
        let between = Stretch { bytes: rest.bytes.start..island.bytes.start, ..rest.clone() };
        let inside = Stretch { bytes: island.bytes.clone(), line: island.lines.start, ..rest.clone() };
        (rest.bytes.start, rest.line) = (island.bytes.end, island.lines.end);
        (between, inside)
    }
    let mut parts = Vec::with_capacity(2 * islands.len() + 1);
    let (mut b, mut a) = (before.clone(), after.clone());
    for island in islands {
        let (between_b, inside_b) = cut(&mut b, &island.before);
        let (between_a, inside_a) = cut(&mut a, &island.after);
        parts.push(Region::Matching(between_b, between_a));
        parts.push(Region::Island(inside_b, inside_a));
    }
    parts.push(Region::Matching(b, a));
    parts
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

/// A side that is walked through, up to the end of its stretch.
#[derive(Clone, Copy)]
struct Side<'s, 't> {
    masked: &'s MaskedText<'t>,
    end: usize,
}

impl<'s> Side<'s, '_> {
    fn rest(&self, from: usize) -> &'s [u8] {
        &self.masked.text()[from..self.end]
    }

    /// The first line from `at` on that is there, with what it is compared by, where it starts, and the place behind it.
    fn next(&self, mut at: Place) -> Option<(Cow<'s, [u8]>, usize, Place)> {
        while at.byte < self.end {
            let line = at.byte..line_end(self.masked.text(), at.byte);
            let start = at.byte;
            at = Place { byte: line.end, line: at.line + 1 };
            work::count(1);
            if let Some(key) = self.masked.key(line) {
                return Some((key, start, at));
            }
        }
        None
    }

    /// The last line above `at` that is there, but none above `top`: where it starts.
    fn previous(&self, mut at: Place, top: Place) -> Option<Place> {
        let text = self.masked.text();
        while at.byte > top.byte {
            let start = line_start(text, at.byte - 1);
            let line = start..at.byte;
            at = Place { byte: start, line: at.line - 1 };
            work::count(1);
            if self.masked.key(line).is_some() {
                return Some(at);
            }
        }
        None
    }

    /// The line that starts at a place.
    fn line(&self, at: Place) -> &'s [u8] {
        let text = self.masked.text();
        &text[at.byte..line_end(text, at.byte)]
    }
}

/// Finds the islands of two stretches, in order. Everything outside them matches.
pub(super) fn islands(before: &Stretch<'_, '_>, after: &Stretch<'_, '_>, bounds: &Bounds) -> Vec<Island> {
    let found = walk(before, after, bounds);
    if before.masked.file_rules().is_clear() { found } else { widened(found, before, after, bounds.walk()) }
}

fn walk(before: &Stretch<'_, '_>, after: &Stretch<'_, '_>, bounds: &Bounds) -> Vec<Island> {
    let start = |stretch: &Stretch<'_, '_>| Place { byte: stretch.bytes.start, line: stretch.line };
    let (mut b, mut a) = (start(before), start(after));
    let as_they_stand = (MaskedText::unmasked(before.masked.text()), MaskedText::unmasked(after.masked.text()));
    let is_clear = before.masked.file_rules().is_clear();
    let before = Side { masked: before.masked, end: before.bytes.end };
    let after = Side { masked: after.masked, end: after.bytes.end };
    let as_they_stand = (Side { masked: &as_they_stand.0, ..before }, Side { masked: &as_they_stand.1, ..after });
    let mut found = Vec::new();
    let mut open: Option<(Place, Place)> = None;
    loop {
        let (next_b, next_a) = alike(before, after, b, a);
        let ends = next_b.byte == before.end && next_a.byte == after.end;
        if let Some((from_b, from_a)) = open {
            let inside = (b.line - from_b.line) + (a.line - from_a.line);
            if ends || next_b.line - b.line >= bounds.walk().closing(inside) {
                found.push(Island { before: from_b.to(b), after: from_a.to(a) });
                open = None;
            }
        }
        (b, a) = (next_b, next_a);
        if ends {
            return found;
        }
        open = open.or(Some((b, a)));
        let places = (b.byte, a.byte);
        // Mostly the texts soon go on equal as they stand, which is told without a reading by the rules.
        let nearby =
            if is_clear { None } else { search(as_they_stand.0, as_they_stand.1, places, &bounds.walk().nearby()) };
        let (skip_b, skip_a) =
            nearby.filter(moves_on).unwrap_or_else(|| meet_again(before, after, places, bounds.walk()));
        b = skip(before, b, skip_b);
        a = skip(after, a, skip_a);
    }
}

/// The islands with the lines around them that match and differ.
fn widened(
    islands: Vec<Island>,
    before: &Stretch<'_, '_>,
    after: &Stretch<'_, '_>,
    bounds: &WalkBounds,
) -> Vec<Island> {
    let place = |stretch: &Stretch<'_, '_>| Place { byte: stretch.bytes.start, line: stretch.line };
    let mut top = (place(before), place(after));
    let text_before = Side { masked: before.masked, end: before.bytes.end };
    let text_after = Side { masked: after.masked, end: after.bytes.end };
    let starts: Vec<usize> = islands.iter().skip(1).map(|island| island.before.bytes.start).collect();
    let next_starts = starts.into_iter().chain([before.bytes.end]);
    let mut widened = Vec::with_capacity(islands.len());
    for (Island { before, after }, next_start) in islands.into_iter().zip(next_starts) {
        let place = |line: usize, byte: usize| Place { byte, line };
        let from = (place(before.lines.start, before.bytes.start), place(after.lines.start, after.bytes.start));
        let to = (place(before.lines.end, before.bytes.end), place(after.lines.end, after.bytes.end));
        let up = |(b, a): (Place, Place)| {
            let above = (text_before.previous(b, top.0)?, text_after.previous(a, top.1)?);
            Some((above, text_before.line(above.0) == text_after.line(above.1)))
        };
        let down = |(b, a): (Place, Place)| {
            let (one, two) = (text_before.next(b)?, text_after.next(a)?);
            let equal = text_before.masked.text()[one.1..one.2.byte] == text_after.masked.text()[two.1..two.2.byte];
            (one.2.byte <= next_start).then_some(((one.2, two.2), equal))
        };
        let (text_b, text_a) = (text_before.masked.text(), text_after.masked.text());
        let above = |text: &[u8], at: Place| lines_above(text, at.byte, bounds.solid).0..at.byte;
        let below = |text: &[u8], at: Place| at.byte..lines_below(text, at.byte, bounds.solid).0;
        // Most often the lines around are equal as they stand.
        let from = if text_b[above(text_b, from.0)] == text_a[above(text_a, from.1)] {
            from
        } else {
            beyond_what_differs(from, up, bounds)
        };
        let to = if text_b[below(text_b, to.0)] == text_a[below(text_a, to.1)] {
            to
        } else {
            beyond_what_differs(to, down, bounds)
        };
        top = to;
        widened.push(Island { before: from.0.to(to.0), after: from.1.to(to.1) });
    }
    widened
}

/// Goes on from line to line over lines that match, to the last that differs before many in a row are equal in full.
///
/// Where that is far, it stays where it is: then most lines differ, and their place tells nothing.
fn beyond_what_differs(
    from: (Place, Place),
    step: impl Fn((Place, Place)) -> Option<((Place, Place), bool)>,
    bounds: &WalkBounds,
) -> (Place, Place) {
    let (mut at, mut beyond, mut equal) = (from, from, 0);
    for _ in 0..bounds.beside {
        let Some((next, same)) = step(at) else { return beyond };
        at = next;
        if same {
            equal += 1;
            if equal >= bounds.solid {
                return beyond;
            }
        } else {
            (beyond, equal) = (next, 0);
        }
    }
    from
}

/// How far two texts go on alike from two places.
fn alike(before: Side<'_, '_>, after: Side<'_, '_>, mut b: Place, mut a: Place) -> (Place, Place) {
    loop {
        let equal = before.masked.equal_lines(&(b.byte..before.end), (after.masked, &(a.byte..after.end)));
        for place in [&mut b, &mut a] {
            place.byte += equal.bytes;
            place.line += equal.lines;
        }
        if before.masked.file_rules().is_clear() {
            return (b, a);
        }
        match (before.next(b), after.next(a)) {
            (Some((key_b, _, next_b)), Some((key_a, _, next_a))) if key_b == key_a => (b, a) = (next_b, next_a),
            (None, None) => {
                // What is left is excluded.
                let end = |side: Side<'_, '_>, at: Place| skip(side, at, side.end - at.byte);
                return (end(before, b), end(after, a));
            }
            _ => return (b, a),
        }
    }
}

fn skip(side: Side<'_, '_>, from: Place, bytes: usize) -> Place {
    let end = from.byte + bytes;
    Place { byte: end, line: from.line + count_lines(&side.masked.text()[from.byte..end]) }
}

fn moves_on(skipped: &(usize, usize)) -> bool {
    *skipped != (0, 0)
}

/// How many bytes of either text come before the place where they go on alike; never none of both.
fn meet_again(
    before: Side<'_, '_>,
    after: Side<'_, '_>,
    (b, a): (usize, usize),
    bounds: &WalkBounds,
) -> (usize, usize) {
    if let Some(found) = search(before, after, (b, a), bounds).filter(moves_on) {
        return found;
    }
    let (rest_b, rest_a) = (before.end - b, after.end - a);
    let mut window = bounds.window;
    loop {
        let windows = (head(before, b, window), head(after, a, window));
        let found = if window > bounds.window && before.masked.file_rules().is_clear() {
            in_sample(&windows.0, &windows.1, bounds)
        } else {
            in_window(&windows.0, &windows.1, bounds)
        };
        if let Some(found) = found.filter(moves_on) {
            return found;
        }
        if window >= rest_b.max(rest_a) {
            return (rest_b, rest_a);
        }
        window = window.saturating_mul(WINDOW_GROWTH);
    }
}

/// The whole lines of the first `bytes` bytes from a place on.
fn head<'s, 't>(side: Side<'s, 't>, from: usize, bytes: usize) -> Stretch<'s, 't> {
    let rest = side.rest(from);
    let len = if rest.len() <= bytes { rest.len() } else { line_start(rest, bytes) };
    Stretch { masked: side.masked, bytes: from..from + len, line: 0 }
}

/// The greedy search: with each further difference, every diagonal goes on as far as its lines are equal.
fn search(
    before: Side<'_, '_>,
    after: Side<'_, '_>,
    (b, a): (usize, usize),
    bounds: &WalkBounds,
) -> Option<(usize, usize)> {
    let most = isize::try_from(bounds.differences).unwrap_or(isize::MAX / 4);
    let (mut before, mut after) = (Unrolled::of(before, b), Unrolled::of(after, a));
    let mut steps = 0;
    // Two rows of farthest lines by diagonal, shifted so that no index is negative.
    let width = 2 * bounds.differences + 3;
    let shift = most + 1;
    let mut reached = vec![-1_isize; width];
    for d in 0..=most {
        for k in (-d..=d).step_by(2) {
            let slot = (k + shift) as usize;
            let start = if d == 0 { 0 } else { (reached[slot - 1] + 1).max(reached[slot + 1]) };
            let (mut x, mut y) = (start as usize, start - k);
            if start < 0 || y < 0 || !before.has(x) || !after.has(y as usize) {
                let both_end = start >= 0 && y >= 0 && before.ends_at(x) && after.ends_at(y as usize);
                if both_end {
                    return Some((before.whole(), after.whole()));
                }
                reached[slot] = if start >= 0 && y >= 0 { start } else { -1 };
                continue;
            }
            let (run_x, run_y) = (x, y as usize);
            let mut different = Vec::with_capacity(bounds.varied);
            while before.has(x) && after.has(y as usize) && before.key(x) == after.key(y as usize) {
                (x, y) = (x + 1, y + 1);
                steps += 1;
                if (x - run_x).is_multiple_of(bounds.solid)
                    && before.varied(&mut different, x - bounds.solid..x, bounds.varied)
                {
                    return Some((before.start(run_x), after.start(run_y)));
                }
            }
            if before.ends_at(x) && after.ends_at(y as usize) {
                return Some((before.start(run_x), after.start(run_y)));
            }
            reached[slot] = x as isize;
            steps += 1;
        }
        work::count((2 * d + 1) as usize);
        if steps > bounds.steps {
            return None;
        }
    }
    None
}

/// The first solid run around lines that are unique in both windows and keep their order.
fn in_window(before: &Stretch<'_, '_>, after: &Stretch<'_, '_>, bounds: &WalkBounds) -> Option<(usize, usize)> {
    let from = (before.bytes.start, after.bytes.start);
    let (before, after) = rayon::join(|| StretchLines::of(before), || StretchLines::of(after));
    let interned = intern(&before.keys(), &after.keys());
    let items = |ids: &[u32]| ids.iter().zip(0..).map(|(&id, at)| Item { id, at }).collect::<Vec<_>>();
    let (b, a) = (items(&interned.before), items(&interned.after));
    let runs = Anchors::new(interned.distinct).unique_runs(&b, &a, bounds.solid);
    let varied = |from: usize, len: usize| {
        let ids: HashSet<u32> = interned.before[from..from + len].iter().copied().collect();
        ids.len() >= bounds.varied
    };
    let run = runs.into_iter().find(|run| varied(run.before, run.len))?;
    let start = |items: &StretchLines<'_>, index: usize| {
        let line = items.included().nth(index)?;
        Some(items.span(line..line).bytes.start)
    };
    Some((start(&before, run.before)? - from.0, start(&after, run.after)? - from.1))
}

/// The same among one line in so many, chosen by their hashes alike on both sides: a large window need not be held line by line.
fn in_sample(before: &Stretch<'_, '_>, after: &Stretch<'_, '_>, bounds: &WalkBounds) -> Option<(usize, usize)> {
    let (b, a) = (before.text(), after.text());
    let (sample_b, sample_a) = rayon::join(|| sample(b, bounds.sampled), || sample(a, bounds.sampled));
    let single = |(hash, at): (&u64, &Option<usize>)| Some((at.as_ref().copied()?, sample_a.get(hash).copied()??));
    let mut pairs: Vec<(usize, usize)> = sample_b.iter().filter_map(single).collect();
    pairs.sort_unstable();
    longest_chain(&pairs).into_iter().find_map(|(at_b, at_a)| {
        let back = common_suffix(&b[..at_b], &a[..at_a]);
        let (from_b, from_a) = (at_b - back, at_a - back);
        let begins = |text: &[u8], at: usize| at == 0 || text[at - 1] == b'\n';
        let skipped =
            if begins(b, from_b) && begins(a, from_a) { 0 } else { line_start_within(b, from_b, at_b) - from_b };
        let (start_b, start_a) = (from_b + skipped, from_a + skipped);
        let equal = equal_lines(&b[start_b..], &a[start_a..]);
        let run = &b[start_b..start_b + equal.bytes];
        let different: HashSet<&[u8]> = run.split_inclusive(|byte| *byte == b'\n').take(4 * bounds.solid).collect();
        (equal.lines >= bounds.solid && different.len() >= bounds.varied).then_some((start_b, start_a))
    })
}

/// The first line start from a byte on, up to another that is one.
fn line_start_within(text: &[u8], from: usize, upto: usize) -> usize {
    memchr::memchr(b'\n', &text[from..upto]).map_or(upto, |end| from + end + 1)
}

/// Where the lines begin whose hashes choose them, by hash; nothing of a line that is there more than once.
fn sample(text: &[u8], sampled: u64) -> HashMap<u64, Option<usize>, FixedState> {
    let mut chosen = HashMap::default();
    let mut at = 0;
    while at < text.len() {
        let end = line_end(text, at);
        let hash = hash_line(&text[at..end]);
        if hash.is_multiple_of(sampled) {
            chosen.entry(hash).and_modify(|place| *place = None).or_insert(Some(at));
        }
        work::count(1);
        at = end;
    }
    chosen
}

/// Lines that are found only as far as they are asked for; those that are excluded are passed.
struct Unrolled<'s, 't> {
    side: Side<'s, 't>,
    from: usize,
    /// Where the next line is looked for.
    at: Place,
    starts: Vec<usize>,
    keys: Vec<Cow<'s, [u8]>>,
}

impl<'s, 't> Unrolled<'s, 't> {
    fn of(side: Side<'s, 't>, from: usize) -> Self {
        Self { side, from, at: Place { byte: from, line: 0 }, starts: Vec::new(), keys: Vec::new() }
    }

    fn has(&mut self, line: usize) -> bool {
        while self.keys.len() <= line {
            let Some((key, start, behind)) = self.side.next(self.at) else { return false };
            self.keys.push(key);
            self.starts.push(start);
            self.at = behind;
        }
        true
    }

    fn ends_at(&mut self, line: usize) -> bool {
        !self.has(line) && line == self.keys.len()
    }

    /// What a line is compared by.
    fn key(&self, line: usize) -> &[u8] {
        &self.keys[line]
    }

    /// The bytes before a line; behind the last, all of them.
    fn start(&self, line: usize) -> usize {
        self.starts.get(line).map_or_else(|| self.whole(), |start| start - self.from)
    }

    fn whole(&self) -> usize {
        self.side.end - self.from
    }

    /// Adds lines to those of a run that are different, up to so many; whether there are so many.
    fn varied(&self, different: &mut Vec<usize>, lines: Range<usize>, enough: usize) -> bool {
        for line in lines {
            if different.len() >= enough {
                break;
            }
            work::count(different.len());
            if different.iter().all(|&other| self.key(other) != self.key(line)) {
                different.push(line);
            }
        }
        different.len() >= enough
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn islands_of(before: &str, after: &str) -> Vec<Island> {
        let (b, a) = (MaskedText::unmasked(before.as_bytes()), MaskedText::unmasked(after.as_bytes()));
        islands(
            &Stretch { masked: &b, bytes: 0..before.len(), line: 0 },
            &Stretch { masked: &a, bytes: 0..after.len(), line: 0 },
            &Bounds::default(),
        )
    }

    fn numbers(range: std::ops::Range<usize>) -> String {
        range.map(|n| format!("reading {n}\n")).collect()
    }

    #[test]
    fn each_distant_difference_is_an_island_of_its_own() {
        let before = numbers(0..5000);
        let after = before.replace("reading 700\n", "reading seven hundred\n").replace("reading 3000\n", "");
        let found = islands_of(&before, &after);
        let lines: Vec<_> =
            found.iter().map(|island| (island.before.lines.clone(), island.after.lines.clone())).collect();
        assert_eq!(lines, [(700..701, 700..701), (3000..3001, 3000..3000)]);
    }

    #[test]
    fn a_block_too_long_for_the_search_is_found_by_windows() {
        let before = numbers(0..600_000);
        let after = [numbers(0..1000), numbers(700_000..800_000), numbers(1000..600_000)].concat();
        let found = islands_of(&before, &after);
        assert_eq!(found.len(), 1);
        assert_eq!(found[0].before.lines, 1000..1000);
        assert_eq!(found[0].after.lines, 1000..101_000);
    }

    #[test]
    fn the_last_window_holds_all_that_is_left() {
        let short = |range: std::ops::Range<usize>| range.map(|n| format!("r {n}\n")).collect::<String>();
        let before = short(0..300_000);
        let after = [short(0..1000), short(700_000..900_000), short(1000..300_000)].concat();
        let found = islands_of(&before, &after);
        assert_eq!(found.len(), 1);
        assert_eq!((found[0].before.lines.clone(), found[0].after.lines.clone()), (1000..1000, 1000..201_000));
    }

    #[test]
    fn repeated_lines_are_no_solid_ground() {
        let before = "a\nb\n".repeat(2000);
        let after = format!("{}{}", "b\na\n".repeat(1999), "tail\n");
        let found = islands_of(&before, &after);
        assert_eq!(found.len(), 1);
    }
}
