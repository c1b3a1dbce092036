//! The lines of a stretch as the alignment works with them: what each is compared by, and which are excluded.

use std::borrow::Cow;
use std::ops::Range;

use rayon::prelude::*;

use super::stretch::Stretch;
use crate::internal::model::Span;
use crate::internal::text::lines::Lines;

/// The lines of a stretch.
pub(super) struct StretchLines<'t> {
    /// Where the stretch begins: its first byte, and the index of its first line.
    base: (usize, usize),
    lines: Lines<'t>,
    /// Whether every line is compared by itself.
    clear: bool,
    /// Else, what each line is compared by; `None` when it is excluded.
    keys: Vec<Option<Cow<'t, [u8]>>>,
}

impl<'t> StretchLines<'t> {
    /// Reads the lines of a stretch.
    pub(super) fn of(stretch: &Stretch<'t, '_>) -> Self {
        const WORTH_A_THREAD: usize = 4096;
        let (masked, start) = (stretch.masked, stretch.bytes.start);
        let lines = Lines::of(stretch.text());
        let key = |line: usize| masked.key(start + lines.start(line)..start + lines.start(line + 1));
        let keys = if masked.file_rules().is_clear() {
            Vec::new()
        } else if lines.len() < WORTH_A_THREAD {
            (0..lines.len()).map(key).collect()
        } else {
            (0..lines.len()).into_par_iter().map(key).collect()
        };
        Self { base: (start, stretch.line), clear: masked.file_rules().is_clear(), lines, keys }
    }

    /// How many lines there are, those that are excluded included.
    pub(super) fn len(&self) -> usize {
        self.lines.len()
    }

    /// What the lines that are there are compared by.
    pub(super) fn keys(&self) -> Vec<&[u8]> {
        if self.clear {
            return self.lines.iter().collect();
        }
        self.keys.iter().flatten().map(AsRef::as_ref).collect()
    }

    /// The index of each line that is there.
    pub(super) fn included(&self) -> impl Iterator<Item = usize> {
        (0..self.lines.len()).filter(|line| self.is_included(*line))
    }

    /// The lines that are there, with their line ends.
    pub(super) fn included_lines(&self) -> Vec<&'t [u8]> {
        self.included().map(|line| self.line(line)).collect()
    }

    /// Whether a line is there.
    pub(super) fn is_included(&self, line: usize) -> bool {
        self.clear || self.keys[line].is_some()
    }

    /// A line with its line end.
    pub(super) fn line(&self, line: usize) -> &'t [u8] {
        self.lines.get(line)
    }

    /// Some of its lines, as a stretch of the whole text.
    pub(super) fn span(&self, lines: Range<usize>) -> Span {
        let byte = |line: usize| self.base.0 + self.lines.start(line);
        Span { bytes: byte(lines.start)..byte(lines.end), lines: self.base.1 + lines.start..self.base.1 + lines.end }
    }
}
