//! What is told of the marks in a pair of lines. It shares no code with the alignment.

use tideline_core::internal::model::{Segment, Words};

/// Letters and digits of a line.
pub(super) fn letters(line: &[u8]) -> usize {
    line.iter().filter(|byte| byte.is_ascii_alphanumeric() || **byte >= 0x80).count()
}

/// How alike two lines are but for white space, by the pairs of neighbouring letters that they share: 0 to 1.
pub(super) fn likeness(one: &[u8], other: &[u8]) -> f64 {
    let pairs = |line: &[u8]| {
        let kept: Vec<u8> = line.iter().copied().filter(|byte| !byte.is_ascii_whitespace()).collect();
        let mut pairs: Vec<[u8; 2]> = kept.windows(2).map(|two| [two[0], two[1]]).collect();
        pairs.sort_unstable();
        pairs
    };
    let (one, mut other) = (pairs(one), pairs(other));
    let all = one.len() + other.len();
    if all == 0 {
        return 1.0;
    }
    let mut common = 0;
    for pair in one {
        if let Ok(at) = other.binary_search(&pair) {
            other.remove(at);
            common += 1;
        }
    }
    2.0 * f64::from(common) / all as f64
}

/// Whether two lines begin with the same word: the name that they set, most often.
pub(super) fn begin_alike(one: &[u8], other: &[u8]) -> bool {
    let word = |line: &[u8]| -> Vec<u8> {
        let ends = |byte: &u8| byte.is_ascii_whitespace() || b"=:(".contains(byte);
        line.trim_ascii_start().iter().copied().take_while(|byte| !ends(byte)).collect()
    };
    !word(one).is_empty() && word(one) == word(other)
}

/// How many stretches of a line are marked.
pub(super) fn mark_count(parts: &[Segment]) -> usize {
    parts.iter().filter(|part| part.differs.is_some()).count()
}

/// The share of both lines, indentation and line ends left out, that is marked.
pub(super) fn marked_share(words: &Words, (before, after): (&[u8], &[u8])) -> f64 {
    let marked = |parts: &[Segment], line: &[u8]| -> usize {
        let marked = parts.iter().filter(|part| part.differs.is_some());
        marked.map(|part| line[part.bytes.clone()].trim_ascii().len()).sum()
    };
    let all = before.trim_ascii().len() + after.trim_ascii().len();
    (marked(&words.before, before) + marked(&words.after, after)) as f64 / all.max(1) as f64
}

/// Of words that took the place of words and share half of their segments: how many are marked only in part, and how many as a whole.
pub(super) fn is_narrowed_apart(words: &Words, (before, after): (&[u8], &[u8])) -> (usize, usize) {
    let whole = |parts: &[Segment], line: &[u8]| -> Vec<(bool, Vec<u8>)> {
        let marked = parts.iter().filter(|part| part.differs.is_some());
        marked
            .map(|part| {
                let is_word =
                    |at: Option<usize>| at.and_then(|at| line.get(at)).is_some_and(|byte| is_word_byte(*byte));
                let is_whole = !is_word(part.bytes.start.checked_sub(1)) && !is_word(Some(part.bytes.end));
                (is_whole, line[part.bytes.clone()].to_vec())
            })
            .collect()
    };
    let (b, a) = (whole(&words.before, before), whole(&words.after, after));
    if b.len() != a.len() {
        return (0, 0);
    }
    let mut counts = (0, 0);
    for ((whole_b, one), (whole_a, other)) in b.iter().zip(&a) {
        let are_words = [one, other].iter().all(|word| !word.is_empty() && word.iter().all(|byte| is_word_byte(*byte)));
        if !are_words {
            continue;
        }
        if !whole_b || !whole_a {
            counts.0 += 1;
        } else if shares_half(one, other) {
            counts.1 += 1;
        }
    }
    counts
}

fn is_word_byte(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || byte == b'_'
}

/// Whether half of the segments of both identifiers are the same.
fn shares_half(one: &[u8], other: &[u8]) -> bool {
    let (one, mut other) = (segments(one), segments(other));
    let most = one.len().max(other.len());
    let mut shared = 0;
    for segment in one {
        if let Some(at) = other.iter().position(|there| *there == segment) {
            other.remove(at);
            shared += 1;
        }
    }
    most > 1 && 2 * shared >= most
}

/// The segments of an identifier: between underscores, before a capital, between letters and digits.
fn segments(word: &[u8]) -> Vec<Vec<u8>> {
    let mut segments: Vec<Vec<u8>> = vec![Vec::new()];
    for at in 0..word.len() {
        let byte = word[at];
        let last = at.checked_sub(1).map(|at| word[at]);
        let begins = last.is_some_and(|last| {
            byte.is_ascii_uppercase() && !last.is_ascii_uppercase() || byte.is_ascii_digit() != last.is_ascii_digit()
        });
        if begins || byte == b'_' {
            segments.push(Vec::new());
        }
        if let Some(open) = segments.last_mut().filter(|_| byte != b'_') {
            open.push(byte);
        }
    }
    segments.retain(|segment| !segment.is_empty());
    segments
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn likeness_is_the_share_of_letter_pairs() {
        assert_eq!(likeness(b"level", b"  level\n"), 1.0);
        assert_eq!(likeness(b"abcd", b"abxy"), 2.0 / 6.0);
        assert_eq!(likeness(b"ebb", b"quay"), 0.0);
    }

    #[test]
    fn identifiers_share_half_of_their_segments() {
        let shares = |one: &str, other: &str| shares_half(one.as_bytes(), other.as_bytes());
        assert!(shares("low_water", "high_water") && shares("readTide2", "readTide3") && shares("level", "level_mm"));
        assert!(!shares("ebb", "flow") && !shares("mean_low", "peak_high"));
    }

    #[test]
    fn a_word_marked_as_a_whole_is_told_from_one_marked_in_part() {
        let part = |bytes: std::ops::Range<usize>, marked: bool| {
            if marked { Segment::changed(bytes) } else { Segment::equal(bytes) }
        };
        let (b, a) = (&b"low_water"[..], &b"high_water"[..]);
        let whole = Words { before: vec![part(0..9, true)], after: vec![part(0..10, true)] };
        assert_eq!(is_narrowed_apart(&whole, (b, a)), (0, 1));
        let narrow = Words {
            before: vec![part(0..3, true), part(3..9, false)],
            after: vec![part(0..4, true), part(4..10, false)],
        };
        assert_eq!(is_narrowed_apart(&narrow, (b, a)), (1, 0));
        assert_eq!((mark_count(&narrow.before), marked_share(&whole, (b, a))), (1, 1.0));
    }
}
