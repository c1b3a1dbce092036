//! Alignment: from two texts to the stretches of lines that differ.
//!
//! [`align`] goes through these steps, each in a file of its own:
//!
//! 1. Equal heads and tails are cut off by whole blocks ([`crate::text::bytes`]).
//! 2. Large texts are walked through; only islands around differences are cut into lines (`walk`).
//! 3. The lines of a region become numbers ([`crate::text::lines`]), and the shortest script between them is found within
//!    bounds ([`script`], [`Bounds`]).
//! 4. The edges of each edit slide to where a reader would put them (`slide`).
//!
//! Afterwards, [`moves`] finds blocks that stand elsewhere. Inside an edit, [`pairs`] finds the lines that belong together, and [`words`] the words in them that differ.
//!
//! The result does not depend on which side is called before: swapping the sides mirrors it exactly.

mod anchors;
mod bounds;
pub mod moves;
pub mod pairs;
pub mod script;
mod slide;
mod walk;
pub mod words;

use std::ops::Range;

use rayon::prelude::*;

pub use bounds::Bounds;

use crate::model::Span;
use crate::text::bytes::{count_lines, equal_lines, equal_tail};
use crate::text::lines::{Lines, number};

/// Two stretches of whole lines that differ; one of them may be empty. All between two edits is equal.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edit {
    /// Where before.
    pub before: Span,
    /// Where after.
    pub after: Span,
}

impl Edit {
    /// The same edit with the sides exchanged.
    pub fn mirrored(self) -> Self {
        Self { before: self.after, after: self.before }
    }
}

/// The edits that turn `before` into `after`, in order, never adjacent.
///
/// Any bytes will do; lines end with a line feed. Two lines match when their bytes are equal, line end included.
///
/// ```
/// use tideline_core::align::{Bounds, align};
///
/// let edits = align(b"low\nhigh\n", b"low\nmean\nhigh\n", &Bounds::default());
/// assert_eq!(edits.len(), 1);
/// assert_eq!(edits[0].after.lines, 1..2);
/// ```
pub fn align(before: &[u8], after: &[u8], bounds: &Bounds) -> Vec<Edit> {
    let head = equal_lines(before, after);
    let (rest_before, rest_after) = (&before[head.bytes..], &after[head.bytes..]);
    let tail = equal_tail(rest_before, rest_after);
    let middle_before = &rest_before[..rest_before.len() - tail];
    let middle_after = &rest_after[..rest_after.len() - tail];
    let mut edits = if middle_before > middle_after {
        let mirrored = middle(middle_after, middle_before, bounds);
        mirrored.into_iter().map(Edit::mirrored).collect()
    } else {
        middle(middle_before, middle_after, bounds)
    };
    for edit in &mut edits {
        for span in [&mut edit.before, &mut edit.after] {
            shift(span, head.lines, head.bytes);
        }
    }
    slide::slide(edits, before, after)
}

/// Aligns what is left between an equal head and an equal tail.
fn middle(before: &[u8], after: &[u8], bounds: &Bounds) -> Vec<Edit> {
    if before.is_empty() && after.is_empty() {
        return Vec::new();
    }
    if before.is_empty() || after.is_empty() {
        return vec![Edit { before: whole(before), after: whole(after) }];
    }
    if !bounds.walks(before.len() + after.len()) {
        return region(before, after, bounds);
    }
    let islands = walk::islands(before, after);
    let found: Vec<Vec<Edit>> = islands
        .par_iter()
        .map(|island| {
            let (b, a) = (&island.before, &island.after);
            let mut edits = region(&before[b.bytes.clone()], &after[a.bytes.clone()], bounds);
            for edit in &mut edits {
                shift(&mut edit.before, b.lines.start, b.bytes.start);
                shift(&mut edit.after, a.lines.start, a.bytes.start);
            }
            edits
        })
        .collect();
    found.concat()
}

/// Aligns two stretches line by line.
fn region(before: &[u8], after: &[u8], bounds: &Bounds) -> Vec<Edit> {
    const WORTH_A_THREAD: usize = 1 << 18;
    let (before, after) = if before.len() + after.len() < WORTH_A_THREAD {
        (Lines::of(before), Lines::of(after))
    } else {
        rayon::join(|| Lines::of(before), || Lines::of(after))
    };
    let numbered = number(&before.iter().collect::<Vec<_>>(), &after.iter().collect::<Vec<_>>());
    let span = |lines: &Lines, range: Range<usize>| Span {
        bytes: lines.start(range.start)..lines.start(range.end),
        lines: range,
    };
    let stretches = script::script(&numbered, bounds).stretches();
    stretches.into_iter().map(|(b, a)| Edit { before: span(&before, b), after: span(&after, a) }).collect()
}

fn whole(text: &[u8]) -> Span {
    Span { lines: 0..count_lines(text), bytes: 0..text.len() }
}

fn shift(span: &mut Span, lines: usize, bytes: usize) {
    span.lines = span.lines.start + lines..span.lines.end + lines;
    span.bytes = span.bytes.start + bytes..span.bytes.end + bytes;
}
