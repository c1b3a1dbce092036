//! Conflicts in a text, marked as the trade does: `<<<<<<<` above the lines of mine, `|||||||` above those of the base, `=======` above those of
//! theirs, and `>>>>>>>` below them.

use std::ops::Range;

use super::options::Resolution;
use super::region::{Region, Three};
use super::text::TextMerge;
use crate::internal::text::lines::Lines;

/// How long a mark is, unless the text holds lines that begin like one.
const SHORTEST: usize = 7;

/// How conflicts are marked.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Marks {
    /// What stands behind the marks; a control character in them becomes a space.
    pub labels: Three<String>,
    /// Whether the lines of the base stand between those of mine and theirs.
    pub base_text: bool,
}

/// A conflict that is marked in a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MarkedConflict {
    /// Its lines, marks included, counted from 0.
    pub lines: Range<usize>,
    /// What stands behind the first mark.
    pub mine: String,
    /// What stands behind the last.
    pub theirs: String,
}

impl TextMerge<'_> {
    /// The result with its conflicts marked.
    pub fn marked(&self, marks: &Marks) -> Vec<u8> {
        self.decided(marks, |_| None)
    }

    /// The result with each conflict resolved as one says, by its number from 0; those of which nothing is said are marked.
    pub fn decided(&self, marks: &Marks, resolution: impl Fn(usize) -> Option<Resolution>) -> Vec<u8> {
        if self.conflicts().next().is_none() {
            return self.written(|_, _, _| false);
        }
        let length = mark_length(self.texts.as_ref().map(|masked| masked.text()));
        self.written(|number, region, text| match resolution(number) {
            Some(resolution) => {
                text.extend(self.resolved_lines(region, &resolution));
                false
            }
            None => {
                self.mark(region, marks, length, text);
                true
            }
        })
    }

    fn mark(&self, region: &Region, marks: &Marks, length: usize, text: &mut Vec<u8>) {
        let lines = self.lines_of(region);
        let mark = |text: &mut Vec<u8>, sign: u8, label: &str| {
            text.extend(std::iter::repeat_n(sign, length));
            if !label.is_empty() {
                text.push(b' ');
                // A label must not end its line, nor tell a terminal what to do.
                text.extend_from_slice(label.replace(char::is_control, " ").as_bytes());
            }
            text.push(b'\n');
        };
        mark(text, b'<', &marks.labels.mine);
        text.extend_from_slice(lines.mine);
        if marks.base_text {
            mark(text, b'|', &marks.labels.base);
            text.extend_from_slice(lines.base);
        }
        mark(text, b'=', "");
        text.extend_from_slice(lines.theirs);
        mark(text, b'>', &marks.labels.theirs);
    }
}

/// How long marks must be so that no line of the texts looks like one.
fn mark_length(texts: Three<&[u8]>) -> usize {
    let longest = |text: &[u8]| Lines::of(text).iter().filter_map(sign_of).map(|(_, length)| length).max().unwrap_or(0);
    let longest = texts.map(longest).all().into_iter().max().unwrap_or(0);
    if longest < SHORTEST { SHORTEST } else { longest + 1 }
}

/// The sign of a line that looks like a mark, and how often it stands there.
fn sign_of(line: &[u8]) -> Option<(u8, usize)> {
    let sign = *line.first().filter(|sign| b"<|=>".contains(sign))?;
    let length = line.iter().take_while(|byte| **byte == sign).count();
    let is_mark = length >= SHORTEST && matches!(line.get(length), None | Some(b' ' | b'\n' | b'\r'));
    is_mark.then_some((sign, length))
}

/// The conflicts that are marked in a text: a mark above mine, one above theirs and one below, of one length and in this order.
///
/// ```
/// use tideline_core::internal::merge::marked_conflicts;
///
/// let found = marked_conflicts(b"a\n<<<<<<< mine\nb\n=======\nc\n>>>>>>> theirs\n");
/// assert_eq!(found[0].lines, 1..6);
/// assert!(marked_conflicts(b"Heading\n=======\n").is_empty());
/// ```
pub fn marked_conflicts(text: &[u8]) -> Vec<MarkedConflict> {
    if memchr::memmem::find(text, b"<<<<<<<").is_none() {
        return Vec::new();
    }
    let mut found = Vec::new();
    let mut open: Option<(usize, usize, String, bool)> = None;
    for (at, line) in Lines::of(text).iter().enumerate() {
        let Some((sign, length)) = sign_of(line) else { continue };
        let label = || String::from_utf8_lossy(line[length..].trim_ascii()).into_owned();
        match (sign, &mut open) {
            (b'<', _) => open = Some((at, length, label(), false)),
            (b'=', Some((_, opened, _, is_parted))) if *opened == length => *is_parted = true,
            (b'>', Some((start, opened, mine, true))) if *opened == length => {
                found.push(MarkedConflict { lines: *start..at + 1, mine: std::mem::take(mine), theirs: label() });
                open = None;
            }
            _ => {}
        }
    }
    found
}
