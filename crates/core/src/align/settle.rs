//! Under rules: what differs between lines that match, and between lines that are as if they were not there.
//!
//! Lines that match may differ in what is put aside; lines that are gone under the rules stand between them on one side or
//! both. Both are edits too, but muted or ignored ones, and each is put down to the rule that explains it.

use std::ops::Range;

use super::items::Items;
use super::script::{Script, script};
use super::stretch::Stretch;
use super::{Bounds, Edit};
use crate::model::Span;
use crate::rules::{Reading, Seen, Standing};
use crate::text::bytes::{equal_lines, line_end};
use crate::text::lines::{as_slices, number};

/// What differs in a part of two texts.
#[derive(Debug, Default)]
pub(super) struct Found {
    pub(super) edits: Vec<Edit>,
    /// For each rule of the lens, the lines that it put aside.
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

/// Adds an edit; one that touches the last and has its standing goes on with it.
fn push(edits: &mut Vec<Edit>, edit: Edit) {
    match edits.last_mut() {
        Some(last)
            if last.standing == edit.standing
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

/// Tells what differs under the rules of one lens.
pub(super) struct Settler<'s, 't> {
    before: &'s Seen<'t>,
    after: &'s Seen<'t>,
    found: Found,
}

impl<'s, 't> Settler<'s, 't> {
    pub(super) fn new(before: &'s Seen<'t>, after: &'s Seen<'t>) -> Self {
        let lines = vec![0; before.lens().rules().len()];
        Self { before, after, found: Found { edits: Vec::new(), lines } }
    }

    pub(super) fn found(self) -> Found {
        self.found
    }

    /// Goes through two stretches whose lines match as a script says.
    pub(super) fn script(&mut self, before: &Items<'t>, after: &Items<'t>, script: &Script) {
        let matched = |there: Vec<usize>, alone: &[bool]| {
            there.into_iter().zip(alone.to_vec()).filter(|(_, alone)| !alone).map(|(line, _)| line)
        };
        let pairs = matched(before.there().collect(), &script.gone).zip(matched(after.there().collect(), &script.new));
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
        let readings = (self.before.read(before.bytes.clone()), self.after.read(after.bytes.clone()));
        self.pair_read((before, &readings.0), (after, &readings.1));
    }

    /// Two lines that match and differ, and have been read.
    fn pair_read(&mut self, (before, one): (Span, &Reading), (after, two): (Span, &Reading)) {
        let other = (self.after, after.bytes.clone(), two);
        let (standing, rule) = self.before.judge_read((before.bytes.clone(), one), other);
        if let Some(rule) = rule {
            self.found.lines[rule] += 1;
        }
        push(&mut self.found.edits, Edit { before, after, standing });
    }

    /// What stands between two pairs of lines that match: lines that match nothing, and lines that are as if they were not there.
    fn gap(&mut self, (before, b): (&Items<'t>, Range<usize>), (after, a): (&Items<'t>, Range<usize>)) {
        if b.is_empty() && a.is_empty() {
            return;
        }
        if b.clone().all(|line| before.is_there(line)) && a.clone().all(|line| after.is_there(line)) {
            return self.stretch((before, b), (after, a));
        }
        // Lines with equal bytes match here too, those that are there with those that are there.
        let tagged = |items: &Items<'t>, lines: &Range<usize>| -> Vec<Vec<u8>> {
            let tag = |line: usize| [&[u8::from(items.is_there(line))], items.line(line)].concat();
            lines.clone().map(tag).collect()
        };
        let (tagged_before, tagged_after) = (tagged(before, &b), tagged(after, &a));
        let numbered = number(&as_slices(&tagged_before), &as_slices(&tagged_after));
        for (gone, new) in script(&numbered, &Bounds::default()).stretches() {
            let moved = |range: Range<usize>, by: usize| range.start + by..range.end + by;
            self.stretch((before, moved(gone, b.start)), (after, moved(new, a.start)));
        }
    }

    /// Lines that match nothing. They count if one of them is there.
    fn stretch(&mut self, (before, b): (&Items<'t>, Range<usize>), (after, a): (&Items<'t>, Range<usize>)) {
        let (span_before, span_after) = (before.span(b.clone()), after.span(a.clone()));
        let counts = b.clone().any(|line| before.is_there(line)) || a.clone().any(|line| after.is_there(line));
        let standing = if counts {
            Standing::Counted
        } else {
            let longer = if b.len() >= a.len() { (self.before, before, &b) } else { (self.after, after, &a) };
            let shorter = if b.len() >= a.len() { (self.after, after, &a) } else { (self.before, before, &b) };
            let muted = self.put_down(longer, true) | self.put_down(shorter, false);
            if muted { Standing::Muted } else { Standing::Ignored }
        };
        push(&mut self.found.edits, Edit { before: span_before, after: span_after, standing });
    }

    /// Puts lines down to the rules by which they are as if they were not there; whether one of them is muted.
    fn put_down(&mut self, (seen, items, lines): (&Seen<'t>, &Items<'t>, &Range<usize>), counted: bool) -> bool {
        let mut muted = false;
        for line in lines.clone() {
            let reading = seen.read(items.span(line..line + 1).bytes);
            let rule = reading.gone_ignored.or_else(|| seen.lens().muting(&reading)).or(reading.gone);
            muted |= reading.gone_ignored.is_none();
            if let Some(rule) = rule.filter(|_| counted) {
                self.found.lines[rule] += 1;
            }
        }
        muted
    }
}

/// What differs in two stretches whose lines are known to match, all of them, under rules that look at lines alone.
pub(super) fn matching(before: &Stretch<'_, '_>, after: &Stretch<'_, '_>) -> Found {
    let mut settler = Settler::new(before.seen, after.seen);
    if before.seen.lens().is_clear() {
        return settler.found();
    }
    let (mut b, mut a) = (before.clone(), after.clone());
    loop {
        let equal = equal_lines(b.text(), a.text());
        for side in [&mut b, &mut a] {
            side.bytes.start += equal.bytes;
            side.line += equal.lines;
        }
        if b.bytes.is_empty() && a.bytes.is_empty() {
            return settler.found();
        }
        let (gone, one) = up_to_a_line_that_is_there(&mut b);
        let (new, two) = up_to_a_line_that_is_there(&mut a);
        if !gone.bytes.is_empty() || !new.bytes.is_empty() {
            let (gone, new) = (Items::of(&gone), Items::of(&new));
            settler.gap((&gone, 0..gone.len()), (&new, 0..new.len()));
        }
        let (line_b, line_a) = (next_line(&mut b), next_line(&mut a));
        if b.seen.text()[line_b.bytes.clone()] != a.seen.text()[line_a.bytes.clone()] {
            settler.pair_read((line_b, &one), (line_a, &two));
        }
    }
}

/// Cuts off the lines at the start of a stretch that are as if they were not there, and reads the first that is.
fn up_to_a_line_that_is_there<'s, 't>(stretch: &mut Stretch<'s, 't>) -> (Stretch<'s, 't>, Reading) {
    let mut head = Stretch { bytes: stretch.bytes.start..stretch.bytes.start, ..stretch.clone() };
    while !stretch.bytes.is_empty() {
        let line = stretch.bytes.start..line_end(stretch.seen.text(), stretch.bytes.start);
        let reading = stretch.seen.read(line.clone());
        if reading.gone.is_none() {
            return (head, reading);
        }
        head.bytes.end = line.end;
        stretch.bytes.start = line.end;
        stretch.line += 1;
    }
    (head, Reading::default())
}

/// Cuts off the first line of a stretch; nothing where it is empty.
fn next_line(stretch: &mut Stretch<'_, '_>) -> Span {
    let start = (stretch.bytes.start, stretch.line);
    if !stretch.bytes.is_empty() {
        stretch.bytes.start = line_end(stretch.seen.text(), start.0);
        stretch.line += 1;
    }
    Span { lines: start.1..stretch.line, bytes: start.0..stretch.bytes.start }
}
