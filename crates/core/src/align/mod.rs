//! Alignment: from two texts to the stretches of lines that differ.
//!
//! [`align`] goes through these steps, each in a file of its own:
//!
//! 1. Equal heads and tails are cut off by whole blocks ([`crate::internal::text::bytes`]).
//! 2. Large texts are walked through; only islands around differences are cut into lines (`walk`).
//! 3. The lines of a region become numbers ([`crate::internal::text::lines`]), and the shortest script between them is found within
//!    bounds ([`script`], [`Bounds`]).
//! 4. Under rules, lines match when they are equal but for what is masked, those that are equal in full first (`equal_first`); the differences that this leaves between lines that
//!    match are told apart from those that count (`classify`).
//! 5. The edges of each edit slide to where a reader would put them (`slide`).
//!
//! Afterwards, [`moves`] finds blocks that stand elsewhere. Inside an edit, [`pairs`] finds the lines that belong together, and [`words`] the words
//! in them that differ ([`parts`] under rules).
//!
//! Bytes that are not text are aligned by themselves (`bytes`).
//!
//! The result does not depend on which side is called before: swapping the sides mirrors it exactly.

mod anchors;
mod bounds;
pub(crate) mod bytes;
mod classify;
mod edit;
mod equal_first;
mod holds;
mod items;
pub(crate) mod likeness;
mod long_line;
mod marks;
mod matched;
pub mod moves;
pub mod pairs;
pub mod parts;
mod region;
pub mod script;
mod sequence;
mod slide;
mod stretch;
mod stretch_lines;
mod walk;
pub mod words;
pub mod work;
pub(crate) mod wrapped;

use rayon::prelude::*;

pub(crate) use anchors::longest_chain;
pub use bounds::{Bounds, LineBounds, PairBounds, WalkBounds};
pub(crate) use bounds::{
    LARGEST_BLOCK_SEARCH, LARGEST_MOVED_FILE, LARGEST_SAMPLE, LONGEST_EDITED_LINE, MOST_EDITS, MOST_EDITS_IN_FILE,
    MOST_HOLDERS, MOST_REPEATS, MOST_SAMPLED, MOST_WEIGHED_MEMBERS, SKETCH_HASHES,
};
pub use bytes::ByteBounds;
pub use edit::{Alignment, Edit};
pub(crate) use items::{align_items, pair_alike};

use crate::internal::rules::{Account, MaskedText};
use crate::internal::text::bytes::equal_tail;
use classify::Found;
pub(crate) use holds::Holds;
use region::region;
pub(crate) use slide::places;
use stretch::Stretch;

/// The edits that turn `before` into `after`, in order, never adjacent.
///
/// Any bytes will do; lines end with a line feed. Two lines match when their bytes are equal, line end included.
///
/// ```
/// use tideline_core::internal::align::{Bounds, align};
///
/// let edits = align(b"low\nhigh\n", b"low\nmean\nhigh\n", &Bounds::default());
/// assert_eq!(edits.len(), 1);
/// assert_eq!(edits[0].after.lines, 1..2);
/// ```
pub fn align(before: &[u8], after: &[u8], bounds: &Bounds) -> Vec<Edit> {
    align_masked(&MaskedText::unmasked(before), &MaskedText::unmasked(after), bounds).edits
}

/// Aligns two texts under the rules. Both must be under the same rules.
///
/// Two lines match when they are equal but for what is masked; lines that are excluded stand between
/// others without disturbing them. The edits still tell every byte that differs: what does not count has its own verdict.
pub fn align_masked(before: &MaskedText<'_>, after: &MaskedText<'_>, bounds: &Bounds) -> Alignment {
    let holds = Holds::of(before, after);
    let (mut b, mut a) = (Stretch::whole(before), Stretch::whole(after));
    let wrapped = |b: &Stretch<'_, '_>, a: &Stretch<'_, '_>| {
        let mut found = between(b, a, bounds);
        wrapped::tell_wrapped(&mut found, before, after, bounds);
        found
    };
    let mut found = Found::default();
    for (held_b, held_a) in holds.iter() {
        found = found.with(wrapped(&b.upto(held_b.bytes.start), &a.upto(held_a.bytes.start)));
        found = found.with(region(&Stretch::of(before, held_b), &Stretch::of(after, held_a), bounds));
        (b, a) = (b.below(held_b), a.below(held_a));
    }
    found = found.with(wrapped(&b, &a));
    found.edits = slide::slide(found.edits, (before, after), &holds, bounds.farthest_slide());
    let mut account = Account::default();
    let rules = before.file_rules().rules();
    found.lines.resize(rules.len(), 0);
    let put_nothing: Vec<bool> = found.lines.iter().map(|lines| *lines == 0).collect();
    let matched = matched::matched_lines(&found.edits, (before, after), &put_nothing);
    for (rule, (lines, matched)) in rules.iter().zip(found.lines.into_iter().zip(matched)) {
        account.put(rule.name(), rule.effect(), lines);
        account.matched(rule.name(), matched);
    }
    Alignment { edits: found.edits, account }
}

/// Aligns two stretches.
fn between(before: &Stretch<'_, '_>, after: &Stretch<'_, '_>, bounds: &Bounds) -> Found {
    // Equal bytes are equal under every rule that looks at a line alone.
    let local = before.masked.file_rules().is_local();
    let head = before.masked.equal_lines(&before.bytes, (after.masked, &after.bytes));
    let tail = if local { equal_tail(&before.text()[head.bytes..], &after.text()[head.bytes..]) } else { 0 };
    let (b, a) = (before.without(head, tail), after.without(head, tail));
    if b.text() > a.text() { middle(&a, &b, bounds).mirrored() } else { middle(&b, &a, bounds) }
}

/// Aligns what is left between an equal head and an equal tail.
fn middle(before: &Stretch<'_, '_>, after: &Stretch<'_, '_>, bounds: &Bounds) -> Found {
    if before.bytes.is_empty() && after.bytes.is_empty() {
        return Found::default();
    }
    if !bounds.walks(before.bytes.len() + after.bytes.len()) {
        return region(before, after, bounds);
    }
    let islands = walk::islands(before, after, bounds);
    let found: Vec<Found> = walk::with_what_lies_between(islands, before, after)
        .into_par_iter()
        .map(|part| match part {
            walk::Region::Island(b, a) => region(&b, &a, bounds),
            walk::Region::Matching(b, a) => classify::matching(&b, &a),
        })
        .collect();
    found.into_iter().fold(Found::default(), Found::with)
}
