//! Which of the differences between two lines are marked: from the smallest script between their words to what a reader takes in at a glance.
//!
//! Equal text between two marks that holds no letter or digit is marked with them; an identifier that became another is marked at the segments that
//! differ; and where hardly anything is equal, or marks are many, they become one, or few.

use std::ops::Range;

use super::bounds::Bounds;
use super::script::script;
use crate::internal::text::bytes::{common_prefix, common_suffix, is_letter_or_digit};
use crate::internal::text::lines::intern;
use crate::internal::text::words::{Grain, segments};

/// Of two lines with less equal text than this, all is marked from the first difference to the last.
const FEWEST_EQUAL: f64 = 0.3;
/// So many marks in two lines are too many…
const TOO_MANY: usize = 6;
/// …and so many are left.
const FEW: usize = 4;
/// Lines with more bytes keep all their marks: they are read in pieces.
const LONGEST: usize = 512;

/// A stretch that differs, as bytes of both lines.
#[derive(Clone, Debug)]
pub(super) struct Stretch {
    pub(super) before: Range<usize>,
    pub(super) after: Range<usize>,
}

impl Stretch {
    fn is_on_both_sides(&self) -> bool {
        !self.before.is_empty() && !self.after.is_empty()
    }

    /// How many marks it is in both lines together.
    fn marks(&self) -> usize {
        usize::from(!self.before.is_empty()) + usize::from(!self.after.is_empty())
    }

    fn with(&mut self, next: &Self) {
        (self.before.end, self.after.end) = (next.before.end, next.after.end);
    }
}

/// What of two lines is marked, of what differs.
pub(super) fn marked(changed: Vec<Stretch>, (before, after): (&[u8], &[u8]), grain: &Grain) -> Vec<Stretch> {
    let mut marked = coalesce(changed, before, grain);
    if matches!(grain, Grain::Word) {
        marked = marked.into_iter().flat_map(|stretch| narrowed(stretch, (before, after))).collect();
        if before.len().max(after.len()) <= LONGEST {
            thin_out(&mut marked, (before, after));
        }
    }
    for stretch in &mut marked {
        narrow_space(stretch, before, after);
    }
    marked
}

/// Joins neighbouring stretches when too little that is equal stands between them.
fn coalesce(changed: Vec<Stretch>, before: &[u8], grain: &Grain) -> Vec<Stretch> {
    let mut joined: Vec<Stretch> = Vec::with_capacity(changed.len());
    for next in changed {
        if let Some(last) = joined.last_mut() {
            let between = &before[last.before.end..next.before.start];
            let smaller = last.before.len().max(last.after.len()).min(next.before.len().max(next.after.len()));
            let too_small = match grain {
                Grain::Letter => between.len() <= 2 && smaller > between.len() && !between.contains(&b'\n'),
                Grain::Word => {
                    let is_space = between.iter().all(|byte| matches!(byte, b' ' | b'\t'));
                    let is_replaced = last.is_on_both_sides() && next.is_on_both_sides();
                    !says_something(between) && (is_replaced || !is_space)
                }
                Grain::Line | Grain::Pattern(_) => false,
            };
            if too_small {
                last.with(&next);
                continue;
            }
        }
        joined.push(next);
    }
    joined
}

fn says_something(text: &[u8]) -> bool {
    text.iter().any(|byte| is_letter_or_digit(*byte))
}

/// One identifier that became another, marked where they differ; all else as it is.
fn narrowed(stretch: Stretch, (before, after): (&[u8], &[u8])) -> Vec<Stretch> {
    let (b, a) = (&before[stretch.before.clone()], &after[stretch.after.clone()]);
    let is_identifier = |text: &[u8]| {
        text.iter().all(|byte| is_letter_or_digit(*byte) || *byte == b'_')
            && text.iter().any(|byte| !byte.is_ascii_digit())
    };
    if b.is_empty() || a.is_empty() || !is_identifier(b) || !is_identifier(a) {
        return vec![stretch];
    }
    by_segments(&stretch, b, a).unwrap_or_else(|| vec![mostly_equal(stretch, b, a)])
}

/// The segments of two identifiers that differ, if half of them are the same.
fn by_segments(stretch: &Stretch, b: &[u8], a: &[u8]) -> Option<Vec<Stretch>> {
    let (of_b, of_a) = (segments(b), segments(a));
    if of_b.len().max(of_a.len()) < 2 {
        return None;
    }
    let slices = |text, of: &[Range<usize>]| of.iter().map(|segment| slice(text, segment)).collect::<Vec<_>>();
    let found = script(&intern(&slices(b, &of_b), &slices(a, &of_a)), &Bounds::default());
    let named = |text: &[u8], of: &[Range<usize>]| {
        of.iter().filter(|segment| says_something(&text[(*segment).clone()])).count()
    };
    let same = of_b.iter().zip(&found.gone).filter(|(segment, gone)| !**gone && says_something(&b[(*segment).clone()]));
    if 2 * same.count() < named(b, &of_b).max(named(a, &of_a)) {
        return None;
    }
    let bytes = |of: &[Range<usize>], range: &Range<usize>, base: usize, len: usize| {
        let start = of.get(range.start).map_or(len, |segment| segment.start);
        let end = if range.is_empty() { start } else { of[range.end - 1].end };
        base + start..base + end
    };
    let mut narrow: Vec<Stretch> = Vec::new();
    for (gone, new) in found.stretches() {
        let next = Stretch {
            before: bytes(&of_b, &gone, stretch.before.start, b.len()),
            after: bytes(&of_a, &new, stretch.after.start, a.len()),
        };
        match narrow.last_mut() {
            // Only an underscore lies between them.
            Some(last)
                if !says_something(
                    &b[last.before.end - stretch.before.start..next.before.start - stretch.before.start],
                ) =>
            {
                last.with(&next);
            }
            _ => narrow.push(next),
        }
    }
    Some(narrow)
}

fn slice<'t>(text: &'t [u8], range: &Range<usize>) -> &'t [u8] {
    &text[range.clone()]
}

/// Two long words (a key, a line of data) that are mostly equal, marked only where they differ.
fn mostly_equal(mut stretch: Stretch, b: &[u8], a: &[u8]) -> Stretch {
    const LONG: usize = 24;
    let shorter = b.len().min(a.len());
    if shorter < LONG || !b.is_ascii() || !a.is_ascii() {
        return stretch;
    }
    let head = common_prefix(b, a);
    let tail = common_suffix(&b[head..], &a[head..]);
    if 4 * (head + tail) >= 3 * shorter {
        stretch.before = stretch.before.start + head..stretch.before.end - tail;
        stretch.after = stretch.after.start + head..stretch.after.end - tail;
    }
    stretch
}

/// Makes many marks few, and one of marks between which hardly anything is equal. Numbers that became others keep their marks: a row of readings is
/// read one by one.
fn thin_out(marked: &mut Vec<Stretch>, (before, after): (&[u8], &[u8])) {
    let is_number = |text: &[u8]| {
        text.iter().any(u8::is_ascii_digit)
            && text.iter().all(|byte| byte.is_ascii_digit() || b".,:-+/%".contains(byte))
    };
    let are_numbers =
        |stretch: &Stretch| is_number(&before[stretch.before.clone()]) && is_number(&after[stretch.after.clone()]);
    if marked.len() < 2 || marked.iter().all(are_numbers) {
        return;
    }
    let letters = |text: &[u8]| text.iter().filter(|byte| is_letter_or_digit(**byte)).count();
    let in_marks: usize = marked.iter().map(|stretch| letters(&before[stretch.before.clone()])).sum();
    let equal = letters(before) - in_marks;
    let longer = letters(before).max(letters(after));
    let mut left = if (equal as f64) < FEWEST_EQUAL * longer as f64 { 0 } else { usize::MAX };
    let count = |marked: &[Stretch]| marked.iter().map(Stretch::marks).sum::<usize>();
    if left > 0 && count(marked) >= TOO_MANY {
        left = FEW;
    }
    while marked.len() > 1 && count(marked) > left {
        let gap = |at: &usize| marked[at + 1].before.start - marked[*at].before.end;
        let Some(nearest) = (0..marked.len() - 1).min_by_key(gap) else { return };
        let next = marked.remove(nearest + 1);
        marked[nearest].with(&next);
    }
}

/// White space that both sides have at an end of a changed stretch did not change: only what is more of it is marked.
fn narrow_space(stretch: &mut Stretch, before: &[u8], after: &[u8]) {
    let (b, a) = (&before[stretch.before.clone()], &after[stretch.after.clone()]);
    let space = |byte: &&u8| matches!(byte, b' ' | b'\t');
    let head = common_prefix(b, a).min(b.iter().take_while(space).count());
    let (b, a) = (&b[head..], &a[head..]);
    let tail = common_suffix(b, a).min(b.iter().rev().take_while(space).count());
    stretch.before = stretch.before.start + head..stretch.before.end - tail;
    stretch.after = stretch.after.start + head..stretch.after.end - tail;
}
