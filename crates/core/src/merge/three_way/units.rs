//! Merging inside a line: word by word.

use std::ops::Range;

use super::region::Three;
use crate::internal::align::Bounds;
use crate::internal::align::script::script;
use crate::internal::text::lines::intern;
use crate::internal::text::words::{Grain, cut};

/// Lines with more bytes than this are not merged by words.
const LONGEST_LINE: usize = 64 << 10;

/// Merges three versions of a line (or of some) word by word: where each side changed other words, the lines with the words of both.
///
/// ```
/// use tideline_core::internal::merge::{Three, merge_words};
///
/// let lines: Three<&[u8]> = Three::new(b"every 60 s, in mm\n", b"every 30 s, in mm\n", b"every 60 s, in cm\n");
/// assert_eq!(merge_words(lines).as_deref(), Some(&b"every 30 s, in cm\n"[..]));
/// assert_eq!(merge_words(Three::new(b"60\n", b"30\n", b"90\n")), None);
/// ```
pub fn merge_words(lines: Three<&[u8]>) -> Option<Vec<u8>> {
    if lines.all().into_iter().any(|line| line.len() > LONGEST_LINE) {
        return None;
    }
    let units = lines.map(|line| cut(line, &Grain::Word));
    let slices = Three::new(
        slices(lines.base, &units.base),
        slices(lines.mine, &units.mine),
        slices(lines.theirs, &units.theirs),
    );
    let stretches = |side: &[&[u8]]| script(&intern(&slices.base, side), &Bounds::default()).stretches();
    let (mine, theirs) = (stretches(&slices.mine), stretches(&slices.theirs));
    let mut merged = Vec::with_capacity(lines.mine.len() + lines.theirs.len());
    let mut at = 0;
    let (mut mine, mut theirs) = (mine.into_iter().peekable(), theirs.into_iter().peekable());
    loop {
        let (base, words) = match (mine.peek(), theirs.peek()) {
            (None, None) => break,
            (Some(one), Some(other)) if touch(&one.0, &other.0) => {
                if one.0 != other.0 || slices.mine[one.1.clone()] != slices.theirs[other.1.clone()] {
                    return None;
                }
                let (base, words) = (one.0.clone(), &slices.mine[one.1.clone()]);
                mine.next();
                theirs.next();
                (base, words)
            }
            (Some(one), other) if other.is_none_or(|other| one.0.start < other.0.start) => {
                let (base, words) = (one.0.clone(), &slices.mine[one.1.clone()]);
                mine.next();
                (base, words)
            }
            (_, Some(other)) => {
                let (base, words) = (other.0.clone(), &slices.theirs[other.1.clone()]);
                theirs.next();
                (base, words)
            }
            (Some(_), None) => break,
        };
        merged.extend(slices.base[at..base.start].concat());
        merged.extend(words.concat());
        at = base.end;
    }
    merged.extend(slices.base[at..].concat());
    Some(merged)
}

fn slices<'l>(line: &'l [u8], units: &[Range<usize>]) -> Vec<&'l [u8]> {
    units.iter().map(|unit| &line[unit.clone()]).collect()
}

/// Whether two stretches overlap, or have nothing between them.
fn touch(one: &Range<usize>, other: &Range<usize>) -> bool {
    one.start <= other.end && other.start <= one.end
}
