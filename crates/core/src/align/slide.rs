//! Sliding the edges of a change to where a reader would put them.
//!
//! When a block that is gone or new begins with the same lines that follow it, several scripts of equal size tell the
//! same: the block can slide. Of all places, the one is taken whose two edges fall on the strongest seams of the text: the
//! ends of the file, blank lines, the outermost indentation, the beginning rather than the end of a block.

use super::Edit;
use crate::model::Span;
use crate::text::bytes::{line_end, line_start};

/// A block slides at most so many lines either way.
const FARTHEST: usize = 200;

/// Slides every edit that is only gone or only new to its best place, keeping at least one equal line between edits.
pub(super) fn slide(edits: &mut [Edit], before: &[u8], after: &[u8]) {
    for at in 0..edits.len() {
        let floor = if at == 0 { (0, 0) } else { (edits[at - 1].before.bytes.end, edits[at - 1].after.bytes.end) };
        let ceiling = edits
            .get(at + 1)
            .map_or((before.len(), after.len()), |next| (next.before.bytes.start, next.after.bytes.start));
        // A neighbour must stay a neighbour: touching it would make one change of two.
        let apart = (at > 0, at + 1 < edits.len());
        let edit = &mut edits[at];
        if edit.after.is_empty() {
            let limits = Limits { floor: floor.0, ceiling: ceiling.0, other_floor: floor.1, other_ceiling: ceiling.1, apart };
            slide_one(&mut edit.before, &mut edit.after, before, after, &limits);
        } else if edit.before.is_empty() {
            let limits = Limits { floor: floor.1, ceiling: ceiling.1, other_floor: floor.0, other_ceiling: ceiling.0, apart };
            slide_one(&mut edit.after, &mut edit.before, after, before, &limits);
        }
    }
}

struct Limits {
    floor: usize,
    ceiling: usize,
    other_floor: usize,
    other_ceiling: usize,
    apart: (bool, bool),
}

/// A place a block can slide to: how many lines down from where it was found, and the bytes that takes on both sides.
#[derive(Clone, Copy)]
struct Stop {
    lines: isize,
    start: usize,
    end: usize,
    other: usize,
}

fn slide_one(block: &mut Span, gap: &mut Span, text: &[u8], other: &[u8], limits: &Limits) {
    let found = Stop { lines: 0, start: block.bytes.start, end: block.bytes.end, other: gap.bytes.start };
    let mut stops = vec![found];
    stops.extend(std::iter::successors(Some(found), |stop| up(*stop, text, other, limits)).skip(1).take(FARTHEST));
    stops.extend(std::iter::successors(Some(found), |stop| down(*stop, text, other, limits)).skip(1).take(FARTHEST));
    if stops.len() == 1 {
        return;
    }
    let best = stops.into_iter().max_by_key(|stop| (seam(text, stop.start) + seam(text, stop.end), stop.lines));
    let Some(best) = best else { return };
    let moved = |line: usize| line.saturating_add_signed(best.lines);
    block.lines = moved(block.lines.start)..moved(block.lines.end);
    block.bytes = best.start..best.end;
    gap.lines = moved(gap.lines.start)..moved(gap.lines.start);
    gap.bytes = best.other..best.other;
}

fn up(stop: Stop, text: &[u8], other: &[u8], limits: &Limits) -> Option<Stop> {
    if stop.start <= limits.floor || stop.other <= limits.other_floor {
        return None;
    }
    let above = line_start(text, stop.start - 1);
    let last = line_start(text, stop.end - 1);
    if text[above..stop.start] != text[last..stop.end] {
        return None;
    }
    let moved =
        Stop { lines: stop.lines - 1, start: above, end: last, other: line_start(other, stop.other - 1) };
    (!limits.apart.0 || moved.start > limits.floor && moved.other > limits.other_floor).then_some(moved)
}

fn down(stop: Stop, text: &[u8], other: &[u8], limits: &Limits) -> Option<Stop> {
    if stop.end >= limits.ceiling || stop.other >= limits.other_ceiling {
        return None;
    }
    let first = line_end(text, stop.start);
    let below = line_end(text, stop.end);
    if text[stop.start..first] != text[stop.end..below] {
        return None;
    }
    let moved = Stop { lines: stop.lines + 1, start: first, end: below, other: line_end(other, stop.other) };
    (!limits.apart.1 || moved.end < limits.ceiling && moved.other < limits.other_ceiling).then_some(moved)
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
    line.iter().take_while(|&&byte| byte == b' ' || byte == b'\t').map(|&byte| if byte == b'\t' { 4 } else { 1 }).sum()
}

fn ends_a_block(line: &[u8]) -> bool {
    const WORDS: [&[u8]; 6] = [b"end", b"fi", b"done", b"esac", b"else", b"</"];
    matches!(line.first(), Some(b'}' | b')' | b']')) || WORDS.iter().any(|word| line.starts_with(word))
}

fn opens_a_block(line: &[u8]) -> bool {
    matches!(line.last(), Some(b'{' | b'(' | b'[' | b':'))
}
