//! Block-wise work on raw bytes: equal heads and tails, and the counting of line ends.
//!
//! Everything here runs at the speed of memory: equal stretches are compared in blocks that fit the cache, and the
//! place where a block differs is looked for only in that one block.

/// Bytes compared at a time. Small enough that the line ends of a block can be counted while it is still in the cache.
const BLOCK: usize = 32 * 1024;

/// The number of leading bytes that two slices share.
///
/// ```
/// assert_eq!(tideline_core::internal::text::bytes::common_prefix(b"high tide", b"high water"), 5);
/// ```
pub fn common_prefix(a: &[u8], b: &[u8]) -> usize {
    let limit = a.len().min(b.len());
    let mut at = 0;
    while at < limit {
        let end = (at + BLOCK).min(limit);
        if a[at..end] != b[at..end] {
            return at + first_difference(&a[at..end], &b[at..end]);
        }
        at = end;
    }
    limit
}

/// The number of trailing bytes that two slices share.
pub fn common_suffix(a: &[u8], b: &[u8]) -> usize {
    let limit = a.len().min(b.len());
    let (a, b) = (&a[a.len() - limit..], &b[b.len() - limit..]);
    let mut left = limit;
    while left > 0 {
        let start = left.saturating_sub(BLOCK);
        if a[start..left] != b[start..left] {
            let tail = a[start..left].iter().rev().zip(b[start..left].iter().rev());
            return limit - left + tail.take_while(|(x, y)| x == y).count();
        }
        left = start;
    }
    limit
}

/// An equal stretch of whole lines: how far it goes, and how many lines it holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct EqualLines {
    /// Bytes from the start of the slices to the start of the first line that differs.
    pub bytes: usize,
    /// Lines in these bytes.
    pub lines: usize,
}

/// The whole lines that two slices share at their heads.
///
/// Line ends are counted block by block while the block is in the cache. When the slices are equal to their very end,
/// a last line without a line end counts as one.
pub fn equal_lines(a: &[u8], b: &[u8]) -> EqualLines {
    let limit = a.len().min(b.len());
    let (mut at, mut lines) = (0, 0);
    while at < limit {
        let end = (at + BLOCK).min(limit);
        if a[at..end] != b[at..end] {
            let upto = at + first_difference(&a[at..end], &b[at..end]);
            lines += count_line_ends(&a[at..upto]);
            return EqualLines { bytes: line_start(a, upto), lines };
        }
        lines += count_line_ends(&a[at..end]);
        at = end;
    }
    if a.len() == b.len() {
        return EqualLines { bytes: limit, lines: lines + usize::from(unended(a)) };
    }
    EqualLines { bytes: line_start(a, limit), lines }
}

/// The number of bytes in the whole lines that two slices share at their tails.
pub fn equal_tail(a: &[u8], b: &[u8]) -> usize {
    let shared = common_suffix(a, b);
    let starts_line = |text: &[u8]| text.len() == shared || text[text.len() - shared - 1] == b'\n';
    if starts_line(a) && starts_line(b) {
        return shared;
    }
    let tail = &a[a.len() - shared..];
    memchr::memchr(b'\n', tail).map_or(0, |end| shared - end - 1)
}

/// Whether a byte belongs to a letter or a digit; those beyond ASCII do, as most of them are letters.
pub fn is_letter_or_digit(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || !byte.is_ascii()
}

/// How many bytes a line is indented.
pub(crate) fn leading_space(line: &[u8]) -> usize {
    line.iter().take_while(|byte| matches!(byte, b' ' | b'\t')).count()
}

/// The number of lines in a slice; a last line without a line end counts.
pub fn count_lines(text: &[u8]) -> usize {
    count_line_ends(text) + usize::from(unended(text))
}

/// The start of the line that holds the byte at `at` (or that would begin there).
pub fn line_start(text: &[u8], at: usize) -> usize {
    memchr::memrchr(b'\n', &text[..at]).map_or(0, |end| end + 1)
}

/// The end of the line that starts at `at`, its line end included.
pub fn line_end(text: &[u8], at: usize) -> usize {
    memchr::memchr(b'\n', &text[at..]).map_or(text.len(), |end| at + end + 1)
}

/// Where up to `count` lines above `at` begin, and how many they are.
pub fn lines_above(text: &[u8], at: usize, count: usize) -> (usize, usize) {
    let mut start = at;
    for found in 0..count {
        if start == 0 {
            return (0, found);
        }
        start = line_start(text, start - 1);
    }
    (start, count)
}

/// Where up to `count` lines from `at` on end, and how many they are.
pub fn lines_below(text: &[u8], at: usize, count: usize) -> (usize, usize) {
    let mut end = at;
    for found in 0..count {
        if end == text.len() {
            return (end, found);
        }
        end = line_end(text, end);
    }
    (end, count)
}

fn count_line_ends(text: &[u8]) -> usize {
    memchr::memchr_iter(b'\n', text).count()
}

fn unended(text: &[u8]) -> bool {
    text.last().is_some_and(|&last| last != b'\n')
}

fn first_difference(a: &[u8], b: &[u8]) -> usize {
    const STEP: usize = 64;
    let whole = a.chunks(STEP).zip(b.chunks(STEP)).take_while(|(x, y)| x == y).count() * STEP;
    let rest = a.iter().zip(b).skip(whole);
    whole.min(a.len()) + rest.take_while(|(x, y)| x == y).count()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn heads_and_tails_stop_at_the_first_differing_byte_in_any_block() {
        for at in [0, 1, 63, 64, 65, BLOCK - 1, BLOCK, BLOCK + 1, 3 * BLOCK - 1] {
            let a = vec![b'x'; 3 * BLOCK];
            let mut b = a.clone();
            b[at] = b'y';
            assert_eq!(common_prefix(&a, &b), at);
            assert_eq!(common_suffix(&a, &b), 3 * BLOCK - at - 1);
        }
    }

    #[test]
    fn only_whole_lines_are_equal_lines() {
        assert_eq!(equal_lines(b"a\nbc\nd", b"a\nbx\nd"), EqualLines { bytes: 2, lines: 1 });
        assert_eq!(equal_lines(b"a\nb", b"a\nb\n"), EqualLines { bytes: 2, lines: 1 });
        assert_eq!(equal_lines(b"a\nb", b"a\nb"), EqualLines { bytes: 3, lines: 2 });
        assert_eq!(equal_tail(b"one\nsame\n", b"other\nsame\n"), 5);
        assert_eq!(equal_tail(b"xsame\n", b"same\n"), 0);
        assert_eq!(equal_tail(b"more\nsame\n", b"same\n"), 5);
    }
}
