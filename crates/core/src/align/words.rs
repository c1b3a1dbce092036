//! The words (or letters) that differ in two lines that belong together.

use std::ops::Range;

use super::bounds::Bounds;
use super::long_line::{Island, islands};
use super::marks::{Stretch, marked};
use super::script::script;
use super::work;
use crate::internal::model::{Segment, Words};
use crate::internal::text::lines::{Interned, intern};
use crate::internal::text::words::{Grain, cut};

/// Aligns two lines by the units that `grain` cuts them into.
///
/// Matches too small to read between two changes are marked with them (`marks`).
///
/// ```
/// use tideline_core::internal::align::words::align_words;
/// use tideline_core::internal::text::words::Grain;
///
/// let words = align_words(b"interval_s = 60\n", b"interval_s = 30\n", &Grain::Word);
/// let changed: Vec<_> = words.before.iter().filter(|part| part.differs.is_some()).map(|part| part.bytes.clone()).collect();
/// assert_eq!(changed, [13..15]);
/// ```
pub fn align_words(before: &[u8], after: &[u8], grain: &Grain) -> Words {
    align_words_within(before, after, grain, &Bounds::default())
}

/// The same within other bounds.
pub fn align_words_within(before: &[u8], after: &[u8], grain: &Grain, bounds: &Bounds) -> Words {
    if before > after {
        let Words { before, after } = align_words_within(after, before, grain, bounds);
        return Words { before: after, after: before };
    }
    let changed = if bounds.is_long_line(before.len() + after.len()) {
        let islands = islands(before, after, bounds);
        islands.into_iter().flat_map(|island| inside(&island, (before, after), grain, bounds)).collect()
    } else {
        stretches(before, after, grain)
    };
    let changed = marked(changed, (before, after), grain);
    Words {
        before: parts(changed.iter().map(|stretch| stretch.before.clone()), before.len()),
        after: parts(changed.iter().map(|stretch| stretch.after.clone()), after.len()),
    }
}

/// What differs in an island of two long lines. A very large one differs as a whole.
fn inside(island: &Island, (before, after): (&[u8], &[u8]), grain: &Grain, bounds: &Bounds) -> Vec<Stretch> {
    let Island { before: b, after: a } = island;
    if bounds.is_large_island(b.len() + a.len()) {
        return vec![Stretch { before: b.clone(), after: a.clone() }];
    }
    let moved = |range: Range<usize>, by: usize| range.start + by..range.end + by;
    let found = stretches(&before[b.clone()], &after[a.clone()], grain).into_iter();
    found
        .map(|stretch| Stretch { before: moved(stretch.before, b.start), after: moved(stretch.after, a.start) })
        .collect()
}

/// What differs in two texts, unit by unit.
fn stretches(before: &[u8], after: &[u8], grain: &Grain) -> Vec<Stretch> {
    work::count(before.len() + after.len());
    let (before_units, after_units) = (cut(before, grain), cut(after, grain));
    let interned = intern(&slices(before, &before_units), &slices(after, &after_units));
    let mut stretches = script(&interned, &Bounds::default()).stretches();
    slide_right(&mut stretches, &interned);
    let bytes = |units: &[Range<usize>], range: Range<usize>, len: usize| {
        let start = units.get(range.start).map_or(len, |unit| unit.start);
        start..if range.is_empty() { start } else { units[range.end - 1].end }
    };
    stretches
        .into_iter()
        .map(|(b, a)| Stretch {
            before: bytes(&before_units, b, before.len()),
            after: bytes(&after_units, a, after.len()),
        })
        .collect()
}

fn slices<'t>(text: &'t [u8], units: &[Range<usize>]) -> Vec<&'t [u8]> {
    units.iter().map(|unit| &text[unit.clone()]).collect()
}

/// Slides what only one side has as far right as it goes: in `mean(read())` made of `read()`, the bracket that closes the
/// outer call is the new one.
fn slide_right(stretches: &mut [(Range<usize>, Range<usize>)], interned: &Interned) {
    for at in 0..stretches.len() {
        let (mut before, mut after) = stretches[at].clone();
        let end = stretches.get(at + 1).map_or(interned.before.len(), |next| next.0.start.saturating_sub(1));
        let (block, units) =
            if before.is_empty() { (&mut after, &interned.after) } else { (&mut before, &interned.before) };
        let start = block.start;
        if !stretches[at].0.is_empty() && !stretches[at].1.is_empty() {
            continue;
        }
        let room = end - stretches[at].0.end;
        while block.start - start < room && units[block.start] == units[block.end] {
            *block = block.start + 1..block.end + 1;
        }
        let slid = block.start - start;
        let gap = |range: &Range<usize>| range.start + slid..range.end + slid;
        stretches[at] = (gap(&stretches[at].0), gap(&stretches[at].1));
    }
}

fn parts(changed: impl Iterator<Item = Range<usize>>, len: usize) -> Vec<Segment> {
    let mut parts = Vec::new();
    let mut at = 0;
    for range in changed.filter(|range| !range.is_empty()) {
        if range.start > at {
            parts.push(Segment::equal(at..range.start));
        }
        at = range.end;
        parts.push(Segment::changed(range));
    }
    if at < len {
        parts.push(Segment::equal(at..len));
    }
    parts
}
