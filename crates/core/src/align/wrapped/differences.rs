//! What of two passages differs and counts: words, paragraphs, the ends of comments.

use std::collections::HashSet;
use std::ops::Range;

use super::path::Path;
use super::side::{Side, marks_in};
use crate::internal::rules::passage::LineBreak;

/// What differs and counts, in a projection.
pub(super) struct Difference {
    /// What took the place of what.
    pub(super) gone: Range<usize>,
    pub(super) new: Range<usize>,
    /// The same without the breaks at its ends, which need not be marked.
    pub(super) marked: (Range<usize>, Range<usize>),
}

/// What differs and counts. A break on one side is nothing on the other where that joins no words.
pub(super) fn differing(path: &Path, b: &Side<'_, '_>, a: &Side<'_, '_>) -> Vec<Difference> {
    let whole =
        |(gone, new): (Range<usize>, Range<usize>)| Difference { marked: (gone.clone(), new.clone()), gone, new };
    let breaks = other_breaks(path, b, a);
    let ends: HashSet<(usize, usize)> = breaks.iter().map(|(gone, new)| (gone.end, new.end)).collect();
    let starts: HashSet<(usize, usize)> = breaks.iter().map(|(gone, new)| (gone.start, new.start)).collect();
    let mut differs: Vec<Difference> = breaks.into_iter().map(whole).collect();
    for (gone, new) in &path.stretches {
        // A blank line takes the place of whole lines, and so does what stands at a break that differs.
        let is_blank = |side: &Side<'_, '_>, range: &Range<usize>| {
            let mut marks = marks_in(side, range.start, range.len());
            marks.any(|at| side.break_at(range.start + at).is_some_and(|found| found.is_blank))
        };
        let is_whole = is_blank(b, gone)
            || is_blank(a, new)
            || ends.contains(&(gone.start, new.start))
            || starts.contains(&(gone.end, new.end));
        let marked = if is_whole { (gone.clone(), new.clone()) } else { (trimmed(gone, b), trimmed(new, a)) };
        if !marked.0.is_empty() || !marked.1.is_empty() {
            differs.push(Difference { gone: gone.clone(), new: new.clone(), marked });
        }
    }
    differs.sort_by_key(|found| (found.gone.start, found.new.start));
    differs
}

/// Where a blank line, or the end of a comment or a paragraph, stands for something else on the other side.
fn other_breaks(path: &Path, b: &Side<'_, '_>, a: &Side<'_, '_>) -> Vec<(Range<usize>, Range<usize>)> {
    let mut found = Vec::new();
    for &(start_b, start_a, length) in &path.runs {
        let mut add = |at: usize| found.push((start_b + at..start_b + at + 1, start_a + at..start_a + at + 1));
        for at in marks_in(b, start_b, length) {
            let (one, other) = (b.break_at(start_b + at), a.break_at(start_a + at));
            if !one.is_none_or(|one| other.map_or(one.is_plain(), |other| is_same_break((b, one), (a, other)))) {
                add(at);
            }
        }
        for at in marks_in(a, start_a, length) {
            let is_lonely = b.break_at(start_b + at).is_none();
            if is_lonely && a.break_at(start_a + at).is_some_and(|found| !found.is_plain()) {
                add(at);
            }
        }
    }
    found
}

/// Whether two breaks are the same, but for the white space around them.
fn is_same_break((b, one): (&Side<'_, '_>, &LineBreak), (a, other): (&Side<'_, '_>, &LineBreak)) -> bool {
    let forgets = b.masked.file_rules().forgets_line_ends();
    let ends = |side: &Side<'_, '_>, found: &LineBreak| side.text(&found.bytes).ends_with(b"\r\n");
    let has_end = |side: &Side<'_, '_>, found: &LineBreak| !side.text(&found.bytes).is_empty();
    one.is_blank == other.is_blank
        && one.ends_comment == other.ends_comment
        && b.text(&one.sign) == a.text(&other.sign)
        && (forgets || ends(b, one) == ends(a, other) || !has_end(b, one) || !has_end(a, other))
}

/// A stretch without the breaks at its ends, which stand for nothing.
fn trimmed(range: &Range<usize>, side: &Side<'_, '_>) -> Range<usize> {
    let counted = &side.projected.counted;
    let is_nothing = |at: usize| {
        let (above, below) = (at.checked_sub(1), counted.get(at + 1));
        let (Some(above), Some(&below)) = (above, below) else { return false };
        side.break_at(at).is_some_and(LineBreak::is_plain)
            && side.break_at(above).is_none_or(|above| !above.is_blank)
            && !joins(counted[above], below)
    };
    let mut range = range.clone();
    while !range.is_empty() && is_nothing(range.start) {
        range.start += 1;
    }
    while !range.is_empty() && is_nothing(range.end - 1) {
        range.end -= 1;
    }
    range
}

/// Whether two marks would be read as one sign if nothing stood between them, as `-` and `-` would.
fn joins(one: u8, other: u8) -> bool {
    const OPERATORS: &[u8] = b"+-*/%=<>!&|^~?:.#@$\\";
    OPERATORS.contains(&one) && OPERATORS.contains(&other) && (one, other) != (b'>', b'<')
}
