//! Two lines that belong together, as a reader sees them: whether they can be told apart, and which parts of them are shown.

use tideline_core::internal::model::{Segment, Words};
use unicode_normalization::UnicodeNormalization;

/// Lines with more bytes may be shown in part.
const LONG: usize = 240;

/// Whether only a part of one of two lines may be shown.
pub(crate) fn is_long(before: &[u8], after: &[u8]) -> bool {
    before.len().max(after.len()) > LONG
}

/// Words with a part of no bytes where only the other line has something: of a line of which only the surroundings of its changes are shown, these
/// surroundings are shown too.
pub(crate) fn with_places(words: Words) -> Words {
    let mut placed = Words::default();
    let (mut b, mut a) = (words.before.into_iter().peekable(), words.after.into_iter().peekable());
    let place = |parts: &[Segment], weight| {
        let at = parts.last().map_or(0, |last| last.bytes.end);
        Segment { bytes: at..at, differs: weight }
    };
    // What is equal in both lines comes in the same order, but may be cut into parts differently.
    let (mut left_b, mut left_a) = (0, 0);
    loop {
        let gone = (left_b == 0).then(|| b.next_if(|part| part.differs.is_some())).flatten();
        let new = (left_a == 0).then(|| a.next_if(|part| part.differs.is_some())).flatten();
        match (gone, new) {
            (None, None) => {}
            (Some(gone), None) => {
                placed.after.push(place(&placed.after, gone.differs));
                placed.before.push(gone);
                continue;
            }
            (None, Some(new)) => {
                placed.before.push(place(&placed.before, new.differs));
                placed.after.push(new);
                continue;
            }
            (Some(gone), Some(new)) => {
                placed.before.push(gone);
                placed.after.push(new);
                continue;
            }
        }
        if left_b == 0 {
            left_b = b.peek().map_or(0, |part| part.bytes.len());
        }
        if left_a == 0 {
            left_a = a.peek().map_or(0, |part| part.bytes.len());
        }
        let step = left_b.min(left_a);
        if step == 0 {
            placed.before.extend(b);
            placed.after.extend(a);
            return placed;
        }
        for (parts, left, placed) in
            [(&mut b, &mut left_b, &mut placed.before), (&mut a, &mut left_a, &mut placed.after)]
        {
            let start = placed.last().map_or(0, |last: &Segment| last.bytes.end);
            placed.push(Segment::equal(start..start + step));
            *left -= step;
            if *left == 0 {
                parts.next();
            }
        }
    }
}

/// Whether two lines differ in their indentation alone.
pub(crate) fn is_indented_differently(before: &[u8], after: &[u8]) -> bool {
    let said = |line: &[u8]| line.iter().position(|byte| !matches!(byte, b' ' | b'\t')).unwrap_or(line.len());
    let (b, a) = (said(before), said(after));
    before[b..] == after[a..] && !before[b..].trim_ascii().is_empty()
}

/// Whether a reader cannot tell two lines apart, however they are written: they differ in blanks at their end, in what kind of space is between their
/// words, or in how their letters are put together.
pub(crate) fn print_alike(before: &[u8], after: &[u8]) -> bool {
    const LONGEST: usize = 4 << 10;
    let shown = |line: &[u8]| -> Option<String> {
        let text = std::str::from_utf8(line).ok()?;
        let spaced: String = text.nfc().map(|letter| if letter.is_whitespace() { ' ' } else { letter }).collect();
        Some(spaced.trim_end().to_owned())
    };
    if before.is_ascii() && after.is_ascii() {
        return before.trim_ascii_end() == after.trim_ascii_end();
    }
    before.len().max(after.len()) <= LONGEST && shown(before).is_some_and(|one| Some(one) == shown(after))
}
