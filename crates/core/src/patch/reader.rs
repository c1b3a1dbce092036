//! A patch line by line, and what is wrong with it.

use bytes::Bytes;

use super::model::HunkLine;
use crate::internal::text::bytes::line_end;

/// Why a patch cannot be read.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {reason}")]
pub struct PatchError {
    /// The line of the patch, from 1.
    pub line: usize,
    /// What was expected there.
    pub reason: String,
}

/// A patch, and where in it the reading stands.
pub(super) struct Reader<'p> {
    whole: &'p Bytes,
    /// The line that comes next.
    next: &'p [u8],
    /// Where it ends.
    end: usize,
    /// Its number, from 0.
    pub(super) number: usize,
}

impl<'p> Reader<'p> {
    pub(super) fn new(whole: &'p Bytes, at: usize) -> Self {
        let end = line_end(whole, at);
        Self { whole, next: &whole[at..end], end, number: 0 }
    }

    /// Where the line that comes next begins.
    pub(super) fn at(&self) -> usize {
        self.end - self.next.len()
    }

    pub(super) fn peek(&self) -> Option<&'p [u8]> {
        (!self.next.is_empty()).then_some(self.next)
    }

    /// The line so many ahead.
    pub(super) fn line(&self, ahead: usize) -> Option<&'p [u8]> {
        let mut at = self.at();
        for _ in 0..ahead {
            at = line_end(self.whole, at);
        }
        (at < self.whole.len()).then(|| &self.whole[at..line_end(self.whole, at)])
    }

    pub(super) fn next(&mut self) -> Option<&'p [u8]> {
        let line = self.peek();
        let start = self.end;
        self.end = line_end(self.whole, start);
        self.next = &self.whole[start..self.end];
        self.number += 1;
        line
    }

    /// Bytes that are not read yet.
    pub(super) fn left(&self) -> usize {
        self.whole.len() - self.at()
    }

    /// A part of the patch as the text of a hunk's line. It is a whole line, also where the patch lacks its own last line end.
    pub(super) fn text(&self, part: &[u8]) -> Bytes {
        if part.ends_with(b"\n") { self.whole.slice_ref(part) } else { Bytes::from([part, b"\n"].concat()) }
    }

    /// The number of the line that comes next, from 1.
    pub(super) fn number(&self) -> usize {
        self.number + 1
    }

    pub(super) fn error(&self, reason: impl Into<String>) -> PatchError {
        PatchError { line: self.number(), reason: reason.into() }
    }
}

/// A line without its line end.
pub(super) fn without_end(line: &[u8]) -> &[u8] {
    let line = line.strip_suffix(b"\n").unwrap_or(line);
    line.strip_suffix(b"\r").unwrap_or(line)
}

/// Takes the remark that the line above has no line end.
pub(super) fn take_no_line_end(reader: &mut Reader<'_>, lines: &mut [HunkLine]) {
    let Some(remark) = reader.peek().filter(|line| line.starts_with(b"\\")) else { return };
    reader.next();
    if let Some(last) = lines.last_mut() {
        // Where the remark ends with CR LF, the patch as a whole was turned to such line ends.
        let converted = remark.ends_with(b"\r\n") && last.text.ends_with(b"\r\n");
        last.text.truncate(last.text.len().saturating_sub(if converted { 2 } else { 1 }));
    }
}
