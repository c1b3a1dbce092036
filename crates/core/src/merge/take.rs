//! Chosen changes of two texts, carried into one of them.
//!
//! Lines that are not carried stay as they are, byte for byte. Where line ends do not count, what is carried gets those of the
//! text it comes into.

use std::collections::BTreeSet;

use crate::internal::kinds::text::{Grain, detail};
use crate::internal::model::{Place, Row, Span, TextComparison};
use crate::internal::rules::MaskedText;
use crate::internal::text::lines::Lines;
use crate::internal::text::words::line_end_len;

/// The text that changes are carried into.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TakeInto {
    /// The text before becomes more like the text after.
    Before,
    /// The text after becomes more like the text before.
    After,
}

/// What is done with a change.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Pick {
    /// It stays.
    #[default]
    Leave,
    /// It is carried, all of it.
    Take,
    /// Only the rows with these lines (from 0) of the text before or the text after are carried.
    Rows {
        /// Lines of the text before.
        before: BTreeSet<usize>,
        /// Lines of the text after.
        after: BTreeSet<usize>,
    },
    /// These lines take its place.
    Lines(Vec<u8>),
}

/// Carries changes into one of two texts: a pick for each change, in the order of their numbers.
///
/// ```
/// use tideline_core::internal::kinds::text::{TextOptions, compare_masked};
/// use tideline_core::internal::merge::{Pick, TakeInto, take};
/// use tideline_core::internal::rules::{FileRules, MaskedText};
///
/// let file_rules = std::sync::Arc::<FileRules>::default();
/// let before = MaskedText::new(&b"one\ntwo\nthree\nfour\n"[..], &file_rules);
/// let after = MaskedText::new(&b"1\ntwo\nthree\n4\n"[..], &file_rules);
/// let comparison = compare_masked(&before, &after, &TextOptions::default());
/// let taken = take((&before, &after), &comparison, TakeInto::Before, &[Pick::Leave, Pick::Take]);
/// assert_eq!(taken, b"one\ntwo\nthree\n4\n");
/// ```
pub fn take(
    (before, after): (&MaskedText<'_>, &MaskedText<'_>),
    comparison: &TextComparison,
    into: TakeInto,
    picks: &[Pick],
) -> Vec<u8> {
    let target = if into == TakeInto::Before { before } else { after };
    let mut text = Text::of(target);
    let mut at = 0;
    let mut masked = BTreeSet::new();
    for place in &comparison.places {
        let span = side(place, into);
        text.add(&target.text()[at..span.bytes.start]);
        let first = masked.insert(place.change);
        match picks.get(place.change).unwrap_or(&Pick::Leave) {
            Pick::Leave => text.add(&target.text()[span.bytes.clone()]),
            Pick::Take => {
                let (source, span) = match into {
                    TakeInto::Before => (after, &place.after),
                    TakeInto::After => (before, &place.before),
                };
                text.carry(&source.text()[span.bytes.clone()]);
            }
            // Of a change with two places, the first.
            Pick::Lines(lines) if first => text.carry(lines),
            Pick::Lines(_) => {}
            Pick::Rows { before: b, after: a } => {
                let detail = detail((before, &place.before), (after, &place.after), &Grain::Line);
                let chosen = |row: &Row| {
                    let (before, after) = lines_of(row);
                    before.is_some_and(|line| b.contains(&(place.before.lines.start + line)))
                        || after.is_some_and(|line| a.contains(&(place.after.lines.start + line)))
                };
                for row in &detail.rows {
                    text.add_row(row, chosen(row), into, (&detail.before, &detail.after));
                }
            }
        }
        at = span.bytes.end;
    }
    text.add(&target.text()[at..]);
    text.bytes
}

fn side(place: &Place, into: TakeInto) -> &Span {
    if into == TakeInto::Before { &place.before } else { &place.after }
}

/// The lines of a row that can be carried by themselves.
pub(super) fn lines_of(row: &Row) -> (Option<usize>, Option<usize>) {
    match row {
        Row::Gone { before, .. } => (Some(*before), None),
        Row::New { after, .. } => (None, Some(*after)),
        Row::Edited { before, after, .. } => (Some(*before), Some(*after)),
        Row::Equal { .. } | Row::Hidden { .. } => (None, None),
    }
}

/// The text that comes of it.
struct Text {
    bytes: Vec<u8>,
    /// The line end of the text that is carried into.
    line_end: &'static [u8],
    /// Whether what is carried gets that line end.
    adapts: bool,
}

impl Text {
    fn of(target: &MaskedText<'_>) -> Self {
        let first = memchr::memchr(b'\n', target.text());
        let is_crlf = first.is_some_and(|at| at > 0 && target.text()[at - 1] == b'\r');
        Self {
            bytes: Vec::with_capacity(target.text().len()),
            line_end: if is_crlf { b"\r\n" } else { b"\n" },
            adapts: target.file_rules().forgets_line_ends() && first.is_some(),
        }
    }

    /// Adds lines of the text itself.
    fn add(&mut self, lines: &[u8]) {
        if !lines.is_empty() && self.bytes.last().is_some_and(|byte| *byte != b'\n') {
            // The line above was the last of its text, and is not any more.
            self.bytes.extend_from_slice(self.line_end);
        }
        self.bytes.extend_from_slice(lines);
    }

    /// Adds lines of the other text.
    fn carry(&mut self, lines: &[u8]) {
        if !self.adapts {
            return self.add(lines);
        }
        for line in Lines::of(lines).iter() {
            let length = line_end_len(line);
            self.add(&line[..line.len() - length]);
            if length > 0 {
                self.bytes.extend_from_slice(self.line_end);
            }
        }
    }

    fn add_row(&mut self, row: &Row, chosen: bool, into: TakeInto, (before, after): (&Lines<'_>, &Lines<'_>)) {
        let (b, a) = match row {
            Row::Gone { before, .. } => (Some(*before), None),
            Row::New { after, .. } => (None, Some(*after)),
            Row::Edited { before, after, .. } | Row::Equal { before, after } => (Some(*before), Some(*after)),
            Row::Hidden { before, after } => (*before, *after),
        };
        let (own, other) = match into {
            TakeInto::Before => (b.map(|line| before.get(line)), a.map(|line| after.get(line))),
            TakeInto::After => (a.map(|line| after.get(line)), b.map(|line| before.get(line))),
        };
        match (chosen, own, other) {
            (false, Some(line), _) => self.add(line),
            (true, _, Some(line)) => self.carry(line),
            (false, None, _) | (true, _, None) => {}
        }
    }
}
