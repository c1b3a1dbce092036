//! Under rules: what differs between lines that match, and between lines that are excluded.
//!
//! Lines that match may differ in what is masked; lines that are excluded stand between them on one side or
//! both. Both are edits too, but muted or ignored ones, and each is put down to the rule that explains it.

use std::ops::Range;

use super::script::{Script, script};
use super::stretch::Stretch;
use super::stretch_lines::StretchLines;
use super::{Bounds, Edit};
use crate::internal::model::Span;
use crate::internal::rules::{LineMask, MaskedText, Verdict};
use crate::internal::text::bytes::line_end;
use crate::internal::text::lines::{as_slices, intern};

/// What differs in a part of two texts.
#[derive(Debug, Default)]
pub(super) struct Found {
    pub(super) edits: Vec<Edit>,
    /// For each rule of the rules, the lines that it masked.
    pub(super) lines: Vec<usize>,
}

impl Found {
    pub(super) fn mirrored(self) -> Self {
        Self { edits: self.edits.into_iter().map(Edit::mirrored).collect(), lines: self.lines }
    }

    /// Adds what differs in the part that follows.
    pub(super) fn with(mut self, next: Self) -> Self {
        for edit in next.edits {
            push(&mut self.edits, edit);
        }
        if self.lines.is_empty() {
            self.lines = next.lines;
        } else {
            self.lines.iter_mut().zip(next.lines).for_each(|(sum, lines)| *sum += lines);
        }
        self
    }
}

/// Adds an edit; one that touches the last and has its verdict is joined to it.
pub(super) fn push(edits: &mut Vec<Edit>, edit: Edit) {
    match edits.last_mut() {
        Some(last)
            if last.verdict == edit.verdict
                && last.before.bytes.end == edit.before.bytes.start
                && last.after.bytes.end == edit.after.bytes.start =>
        {
            for (span, next) in [(&mut last.before, edit.before), (&mut last.after, edit.after)] {
                span.lines.end = next.lines.end;
                span.bytes.end = next.bytes.end;
            }
        }
        _ => edits.push(edit),
    }
}

/// Tells what differs under the rules of one file.
pub(super) struct Classifier<'s, 't> {
    before: &'s MaskedText<'t>,
    after: &'s MaskedText<'t>,
    found: Found,
}

impl<'s, 't> Classifier<'s, 't> {
    pub(super) fn new(before: &'s MaskedText<'t>, after: &'s MaskedText<'t>) -> Self {
        let lines = vec![0; before.file_rules().rules().len()];
        Self { before, after, found: Found { edits: Vec::new(), lines } }
    }

    pub(super) fn found(self) -> Found {
        self.found
    }

    /// Goes through two stretches whose lines match as a script says.
    pub(super) fn script(&mut self, before: &StretchLines<'_>, after: &StretchLines<'_>, script: &Script) {
        let matched = |there: Vec<usize>, alone: &[bool]| {
            there.into_iter().zip(alone.to_vec()).filter(|(_, alone)| !alone).map(|(line, _)| line)
        };
        let pairs =
            matched(before.included().collect(), &script.gone).zip(matched(after.included().collect(), &script.new));
        let (mut b, mut a) = (0, 0);
        for (line_b, line_a) in pairs {
            self.gap((before, b..line_b), (after, a..line_a));
            self.pair(before.span(line_b..line_b + 1), after.span(line_a..line_a + 1));
            (b, a) = (line_b + 1, line_a + 1);
        }
        self.gap((before, b..before.len()), (after, a..after.len()));
    }

    /// Two lines that match.
    fn pair(&mut self, before: Span, after: Span) {
        if self.before.text()[before.bytes.clone()] == self.after.text()[after.bytes.clone()] {
            return;
        }
        let masks = (self.before.mask_of(before.bytes.clone()), self.after.mask_of(after.bytes.clone()));
        self.pair_read((before, &masks.0), (after, &masks.1));
    }

    /// Two lines that match and differ, and have been read.
    fn pair_read(&mut self, (before, one): (Span, &LineMask), (after, two): (Span, &LineMask)) {
        let other = (self.after, after.bytes.clone(), two);
        let (verdict, rule) = self.before.verdict_of_masks((before.bytes.clone(), one), other);
        if let Some(rule) = rule {
            self.found.lines[rule] += 1;
        }
        push(&mut self.found.edits, Edit { before, after, verdict });
    }

    /// What stands between two pairs of lines that match: lines that match nothing, and lines that are excluded.
    fn gap(&mut self, (before, b): (&StretchLines<'_>, Range<usize>), (after, a): (&StretchLines<'_>, Range<usize>)) {
        if b.is_empty() && a.is_empty() {
            return;
        }
        if b.clone().all(|line| before.is_included(line)) && a.clone().all(|line| after.is_included(line)) {
            return self.stretch((before, b), (after, a));
        }
        // Lines with equal bytes match here too, those that are there with those that are there.
        let tagged = |items: &StretchLines<'_>, lines: &Range<usize>| -> Vec<Vec<u8>> {
            let tag = |line: usize| [&[u8::from(items.is_included(line))], items.line(line)].concat();
            lines.clone().map(tag).collect()
        };
        let (tagged_before, tagged_after) = (tagged(before, &b), tagged(after, &a));
        let interned = intern(&as_slices(&tagged_before), &as_slices(&tagged_after));
        for (gone, new) in script(&interned, &Bounds::default()).stretches() {
            let moved = |range: Range<usize>, by: usize| range.start + by..range.end + by;
            self.stretch((before, moved(gone, b.start)), (after, moved(new, a.start)));
        }
    }

    /// Lines that match nothing. They count if one of them is there.
    fn stretch(
        &mut self,
        (before, b): (&StretchLines<'_>, Range<usize>),
        (after, a): (&StretchLines<'_>, Range<usize>),
    ) {
        let (span_before, span_after) = (before.span(b.clone()), after.span(a.clone()));
        let counts = b.clone().any(|line| before.is_included(line)) || a.clone().any(|line| after.is_included(line));
        // Of two lines that belong together one is put down to a rule.
        let excluded = |items: &StretchLines<'_>, lines: Range<usize>| -> Vec<usize> {
            lines.filter(|line| !items.is_included(*line)).collect()
        };
        let (b, a) = (excluded(before, b), excluded(after, a));
        let is_longer = b.len() >= a.len();
        let muted =
            self.put_down((self.before, before, &b), is_longer) | self.put_down((self.after, after, &a), !is_longer);
        let verdict = match (counts, muted) {
            (true, _) => Verdict::Counted,
            (false, true) => Verdict::Muted,
            (false, false) => Verdict::Ignored,
        };
        push(&mut self.found.edits, Edit { before: span_before, after: span_after, verdict });
    }

    /// Puts lines down to the rules by which they are excluded; whether one of them is muted.
    fn put_down(
        &mut self,
        (masked, items, lines): (&MaskedText<'t>, &StretchLines<'_>, &[usize]),
        counted: bool,
    ) -> bool {
        let mut muted = false;
        for &line in lines {
            let mask = masked.mask_of(items.span(line..line + 1).bytes);
            let rule = mask.gone_ignored.or_else(|| masked.file_rules().muting(&mask)).or(mask.gone);
            muted |= mask.gone_ignored.is_none();
            if let Some(rule) = rule.filter(|_| counted) {
                self.found.lines[rule] += 1;
            }
        }
        muted
    }
}

/// What differs in two stretches whose lines are known to match, all of them, under rules that look at lines alone.
pub(super) fn matching(before: &Stretch<'_, '_>, after: &Stretch<'_, '_>) -> Found {
    let mut classifier = Classifier::new(before.masked, after.masked);
    if before.masked.file_rules().is_clear() {
        return classifier.found();
    }
    let (mut b, mut a) = (before.clone(), after.clone());
    loop {
        let equal = b.masked.equal_lines(&b.bytes, (a.masked, &a.bytes));
        for side in [&mut b, &mut a] {
            side.bytes.start += equal.bytes;
            side.line += equal.lines;
        }
        if b.bytes.is_empty() && a.bytes.is_empty() {
            return classifier.found();
        }
        let (gone, one) = up_to_a_line_that_is_there(&mut b);
        let (new, two) = up_to_a_line_that_is_there(&mut a);
        if !gone.bytes.is_empty() || !new.bytes.is_empty() {
            let (gone, new) = (StretchLines::of(&gone), StretchLines::of(&new));
            classifier.gap((&gone, 0..gone.len()), (&new, 0..new.len()));
        }
        let (line_b, line_a) = (next_line(&mut b), next_line(&mut a));
        if b.masked.text()[line_b.bytes.clone()] != a.masked.text()[line_a.bytes.clone()] {
            classifier.pair_read((line_b, &one), (line_a, &two));
        }
    }
}

/// Cuts off the lines at the start of a stretch that are excluded, and reads the first that is.
fn up_to_a_line_that_is_there<'s, 't>(stretch: &mut Stretch<'s, 't>) -> (Stretch<'s, 't>, LineMask) {
    let mut head = Stretch { bytes: stretch.bytes.start..stretch.bytes.start, ..stretch.clone() };
    while !stretch.bytes.is_empty() {
        let line = stretch.bytes.start..line_end(stretch.masked.text(), stretch.bytes.start);
        let mask = stretch.masked.mask_of(line.clone());
        if mask.gone.is_none() {
            return (head, mask);
        }
        head.bytes.end = line.end;
        stretch.bytes.start = line.end;
        stretch.line += 1;
    }
    (head, LineMask::default())
}

/// Cuts off the first line of a stretch; nothing where it is empty.
fn next_line(stretch: &mut Stretch<'_, '_>) -> Span {
    let start = (stretch.bytes.start, stretch.line);
    if !stretch.bytes.is_empty() {
        stretch.bytes.start = line_end(stretch.masked.text(), start.0);
        stretch.line += 1;
    }
    Span { lines: start.1..stretch.line, bytes: start.0..stretch.bytes.start }
}
