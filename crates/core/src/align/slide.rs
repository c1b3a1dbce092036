//! Sliding the edges of a change to where a reader would put them.
//!
//! When a block that is gone or new begins with the same lines that follow it, several scripts of equal size tell the
//! same: the block can slide. Neighbouring blocks that can slide together become one. Of all other places, the one is
//! taken whose two edges fall on the strongest seams of the text: the ends of the file, blank lines, the outermost
//! indentation, the beginning rather than the end of a block.

use super::bounds::Bounds;
use super::edit::Edit;
use super::holds::Holds;
use crate::internal::model::Span;
use crate::internal::rules::{MaskedText, Verdict};
use crate::internal::text::bytes::{line_end, line_start};

/// Slides every edit that is only gone or only new to its best place. Between any two edits at least one equal line stays.
///
/// A block slides at most so many lines either way.
pub(super) fn slide(
    edits: Vec<Edit>,
    (before, after): (&MaskedText<'_>, &MaskedText<'_>),
    holds: &Holds,
    farthest: usize,
) -> Vec<Edit> {
    let mut edits = join(edits, (before, after), holds, farthest);
    for at in 0..edits.len() {
        let room = Room::around(&edits, at).within(holds, edits[at].before.bytes.start);
        if let Some(block) = Block::of(&edits[at], before, after) {
            let best = block.stops(farthest).into_iter().filter(|stop| room.leaves_a_line(stop, block.is_gone));
            let best = best.max_by_key(|stop| {
                (seam(block.text.text(), stop.start) + seam(block.text.text(), stop.end), stop.lines)
            });
            if let Some(best) = best {
                edits[at] = block.at(best);
            }
        }
    }
    edits
}

/// Every place that an edit can slide to, from the top down, its own included: between it and the next edit at least one equal line stays.
/// An edit that cannot slide has its own place only.
pub(crate) fn places(
    edits: &[Edit],
    at: usize,
    (before, after): (&MaskedText<'_>, &MaskedText<'_>),
    bounds: &Bounds,
) -> Vec<Edit> {
    let Some(block) = Block::of(&edits[at], before, after) else { return vec![edits[at].clone()] };
    let room = Room::around(edits, at);
    let mut stops = block.stops(bounds.farthest_slide());
    stops.retain(|stop| stop.lines == 0 || room.leaves_a_line(stop, block.is_gone));
    stops.sort_unstable_by_key(|stop| stop.lines);
    stops.into_iter().map(|stop| block.at(stop)).collect()
}

/// Joins neighbours of one side where one can slide until it touches the other.
fn join(edits: Vec<Edit>, texts: (&MaskedText<'_>, &MaskedText<'_>), holds: &Holds, farthest: usize) -> Vec<Edit> {
    let mut joined: Vec<Edit> = Vec::with_capacity(edits.len());
    for next in edits {
        let is_held = |last: &&Edit| {
            holds.around(last.before.bytes.end).1.is_some_and(|(held, _)| held.bytes.start < next.before.bytes.start)
        };
        let one =
            joined.last().filter(|last| !is_held(last)).and_then(|last| joined_with(last, &next, texts, farthest));
        match (one, joined.last_mut()) {
            (Some(one), Some(last)) => *last = one,
            _ => joined.push(next),
        }
    }
    joined
}

/// The two edits as one, if they can slide together.
fn joined_with(
    last: &Edit,
    next: &Edit,
    (before, after): (&MaskedText<'_>, &MaskedText<'_>),
    farthest: usize,
) -> Option<Edit> {
    let (upper, lower) = (Block::of(last, before, after)?, Block::of(next, before, after)?);
    if upper.is_gone != lower.is_gone {
        return None;
    }
    let downwards = upper.slides_down(farthest).find(|stop| stop.end >= lower.block.bytes.start);
    let down = downwards.filter(|stop| stop.end == lower.block.bytes.start).map(|stop| (upper.at(stop), next.clone()));
    let up = || {
        let upwards = lower.slides_up(farthest).find(|stop| stop.start <= upper.block.bytes.end);
        upwards.filter(|stop| stop.start == upper.block.bytes.end).map(|stop| (last.clone(), lower.at(stop)))
    };
    let (upper, lower) = down.or_else(up)?;
    let whole = |first: Span, second: Span| Span {
        lines: first.lines.start..second.lines.end,
        bytes: first.bytes.start..second.bytes.end,
    };
    Some(Edit::counted(whole(upper.before, lower.before), whole(upper.after, lower.after)))
}

/// What lies free around an edit: the end of the edit above and the start of the one below, in bytes of each side.
struct Room {
    before: std::ops::Range<Option<usize>>,
    after: std::ops::Range<Option<usize>>,
}

impl Room {
    fn around(edits: &[Edit], at: usize) -> Self {
        let (above, below) = (at.checked_sub(1).map(|above| &edits[above]), edits.get(at + 1));
        Self {
            before: above.map(|edit| edit.before.bytes.end)..below.map(|edit| edit.before.bytes.start),
            after: above.map(|edit| edit.after.bytes.end)..below.map(|edit| edit.after.bytes.start),
        }
    }

    /// The same between the lines that are held above and below a byte of the text before, which stay where they are.
    fn within(mut self, holds: &Holds, at: usize) -> Self {
        let (above, below) = holds.around(at);
        if let Some((b, a)) = above {
            self.before.start = self.before.start.max(Some(b.bytes.start));
            self.after.start = self.after.start.max(Some(a.bytes.start));
        }
        if let Some((b, a)) = below {
            let nearer = |end: Option<usize>, held: usize| Some(end.map_or(held, |end| end.min(held)));
            self.before.end = nearer(self.before.end, b.bytes.end);
            self.after.end = nearer(self.after.end, a.bytes.end);
        }
        self
    }

    fn leaves_a_line(&self, stop: &Stop, is_gone: bool) -> bool {
        let (block, other) = if is_gone { (&self.before, &self.after) } else { (&self.after, &self.before) };
        block.start.is_none_or(|floor| stop.start > floor)
            && block.end.is_none_or(|ceiling| stop.end < ceiling)
            && other.start.is_none_or(|floor| stop.other > floor)
            && other.end.is_none_or(|ceiling| stop.other < ceiling)
    }
}

/// A block that only one side has, and the gap on the other side.
struct Block<'a> {
    is_gone: bool,
    block: &'a Span,
    gap: &'a Span,
    text: &'a MaskedText<'a>,
    other: &'a MaskedText<'a>,
}

/// A place a block can slide to: how many lines down from where it was found, and the bytes that takes on both sides.
#[derive(Clone, Copy)]
struct Stop {
    lines: isize,
    start: usize,
    end: usize,
    other: usize,
}

impl<'a> Block<'a> {
    fn of(edit: &'a Edit, before: &'a MaskedText<'a>, after: &'a MaskedText<'a>) -> Option<Self> {
        if edit.verdict != Verdict::Counted {
            return None;
        }
        match (edit.before.is_empty(), edit.after.is_empty()) {
            (false, true) => {
                Some(Self { is_gone: true, block: &edit.before, gap: &edit.after, text: before, other: after })
            }
            (true, false) => {
                Some(Self { is_gone: false, block: &edit.after, gap: &edit.before, text: after, other: before })
            }
            _ => None,
        }
    }

    fn found(&self) -> Stop {
        Stop { lines: 0, start: self.block.bytes.start, end: self.block.bytes.end, other: self.gap.bytes.start }
    }

    fn stops(&self, farthest: usize) -> Vec<Stop> {
        std::iter::once(self.found()).chain(self.slides_up(farthest)).chain(self.slides_down(farthest)).collect()
    }

    fn slides_up(&self, farthest: usize) -> impl Iterator<Item = Stop> {
        std::iter::successors(Some(self.found()), |stop| self.up(stop)).skip(1).take(farthest)
    }

    fn slides_down(&self, farthest: usize) -> impl Iterator<Item = Stop> {
        std::iter::successors(Some(self.found()), |stop| self.down(stop)).skip(1).take(farthest)
    }

    fn up(&self, stop: &Stop) -> Option<Stop> {
        if stop.start == 0 || stop.other == 0 {
            return None;
        }
        let text = self.text.text();
        let (above, last) = (line_start(text, stop.start - 1), line_start(text, stop.end - 1));
        let equal = self.same(above..stop.start, last..stop.end);
        let other = line_start(self.other.text(), stop.other - 1);
        equal.then_some(Stop { lines: stop.lines - 1, start: above, end: last, other })
    }

    fn down(&self, stop: &Stop) -> Option<Stop> {
        let text = self.text.text();
        if stop.end == text.len() || stop.other == self.other.text().len() {
            return None;
        }
        let (first, below) = (line_end(text, stop.start), line_end(text, stop.end));
        let equal = self.same(stop.start..first, stop.end..below);
        let other = line_end(self.other.text(), stop.other);
        equal.then_some(Stop { lines: stop.lines + 1, start: first, end: below, other })
    }

    /// Whether two lines of the block's side are the same, under rules that look beyond a line too.
    fn same(&self, one: std::ops::Range<usize>, other: std::ops::Range<usize>) -> bool {
        let text = self.text.text();
        text[one.clone()] == text[other.clone()]
            && (self.text.file_rules().is_local() || self.text.mask_of(one) == self.text.mask_of(other))
    }

    /// The edit with its block slid to a stop.
    fn at(&self, stop: Stop) -> Edit {
        let moved = |line: usize| line.saturating_add_signed(stop.lines);
        let block =
            Span { lines: moved(self.block.lines.start)..moved(self.block.lines.end), bytes: stop.start..stop.end };
        let gap = moved(self.gap.lines.start);
        let gap = Span { lines: gap..gap, bytes: stop.other..stop.other };
        if self.is_gone { Edit::counted(block, gap) } else { Edit::counted(gap, block) }
    }
}

/// How strong a seam the text has between the line that ends at `at` and the one that begins there.
fn seam(text: &[u8], at: usize) -> i32 {
    if at == 0 || at == text.len() {
        return 60;
    }
    let above = text[line_start(text, at - 1)..at].trim_ascii();
    let line = &text[at..line_end(text, at)];
    let below = line.trim_ascii();
    let mut strength = match (above.is_empty(), below.is_empty()) {
        (true, false) => 40,
        (true, true) => 20,
        (false, true) => 25,
        (false, false) => 0,
    };
    if !below.is_empty() {
        strength -= i32::try_from(indentation(line)).unwrap_or(i32::MAX).min(40);
    }
    if ends_a_block(below) {
        strength -= 12;
    }
    if opens_a_block(above) {
        strength -= 6;
    }
    strength
}

fn indentation(line: &[u8]) -> usize {
    let blank = line.iter().take_while(|&&byte| byte == b' ' || byte == b'\t');
    blank.map(|&byte| if byte == b'\t' { 4 } else { 1 }).sum()
}

fn ends_a_block(line: &[u8]) -> bool {
    const WORDS: [&[u8]; 6] = [b"end", b"fi", b"done", b"esac", b"else", b"</"];
    matches!(line.first(), Some(b'}' | b')' | b']')) || WORDS.iter().any(|word| line.starts_with(word))
}

fn opens_a_block(line: &[u8]) -> bool {
    matches!(line.last(), Some(b'{' | b'(' | b'[' | b':'))
}
