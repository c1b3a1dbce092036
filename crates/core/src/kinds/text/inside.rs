//! The inside of a change: which of its lines belong together, and what differs in those.

use std::ops::Range;

use super::broken::{self, tell_broken};
use super::clear::{Clear, clear_rows, placed};
use super::coalesce::{melted, stretches_inside};
use crate::internal::align::parts::{MaskedLine, align_parts};
use crate::internal::align::wrapped::{EditedPiece, Piece, State, pieces};
use crate::internal::align::{Bounds, Holds, pairs::pair_lines, script::script, words::align_words};
use crate::internal::model::{Row, Segment, Span, Weight, Words};
use crate::internal::rules::{Effect, MaskedText, Verdict};
use crate::internal::text::bytes::lines_below;
use crate::internal::text::lines::{Lines, as_slices, intern};
use crate::internal::text::words::Grain;

/// The inside of a change: its lines, which of them belong together, and the words that differ in those.
#[derive(Clone, Debug)]
pub struct Detail<'t> {
    /// The lines before.
    pub before: Lines<'t>,
    /// The lines after.
    pub after: Lines<'t>,
    /// The rows in reading order; every line is in exactly one.
    pub rows: Vec<Row>,
}

/// Looks inside a change. The spans are those of a [`Place`](crate::internal::model::Place) or a [`Change`](crate::internal::model::Change)
/// between the same two texts.
pub fn detail<'t>(
    before: (&'t MaskedText<'_>, &Span),
    after: (&'t MaskedText<'_>, &Span),
    grain: &Grain,
) -> Detail<'t> {
    detail_within((before, after), grain, &Bounds::default())
}

/// The same within bounds.
pub fn detail_within<'t>(
    (before, after): ((&'t MaskedText<'_>, &Span), (&'t MaskedText<'_>, &Span)),
    grain: &Grain,
    bounds: &Bounds,
) -> Detail<'t> {
    detail_of((before, after), true, grain, bounds)
}

/// The same line by line, even where breaks do not count.
pub(crate) fn detail_by_lines<'t>(
    before: (&'t MaskedText<'_>, &Span),
    after: (&'t MaskedText<'_>, &Span),
    grain: &Grain,
) -> Detail<'t> {
    detail_of((before, after), false, grain, &Bounds::default())
}

/// Some lines of a text.
type Lined<'t, 'm, 's> = (&'t MaskedText<'m>, &'s Span);

fn detail_of<'t>(
    (before, after): (Lined<'t, '_, '_>, Lined<'t, '_, '_>),
    reads_passages: bool,
    grain: &Grain,
    bounds: &Bounds,
) -> Detail<'t> {
    let (lines_before, lines_after) = (lines_of(before), lines_of(after));
    let holds = Holds::of(before.0, after.0).inside(before.1, after.1);
    let rows = if before.0.file_rules().is_clear() && holds.is_empty() {
        clear_rows(&Clear::of(before, &lines_before), &Clear::of(after, &lines_after), grain, bounds)
    } else {
        let (b, a) = (Side::of(before, &lines_before, bounds), Side::of(after, &lines_after, bounds));
        b.rows_around(&a, &holds, reads_passages, grain)
    };
    Detail { before: lines_before, after: lines_after, rows }
}

/// How many lines of the longer side of a change do not differ, or differ only in what does not count. Lines need not be paired for
/// that.
pub(super) fn equal_inside(before: (&MaskedText<'_>, &Span), after: (&MaskedText<'_>, &Span)) -> usize {
    let bounds = Bounds::default();
    let (lines_before, lines_after) = (lines_of(before), lines_of(after));
    let longer = lines_before.len().max(lines_after.len());
    if before.0.file_rules().is_clear() {
        let stretches = stretches_inside(&lines_before, &lines_after, &bounds);
        if stretches.len() < 2 {
            return lines_before.len() - stretches.iter().map(|(gone, _)| gone.len()).sum::<usize>();
        }
        let (b, a) = (Clear::of(before, &lines_before), Clear::of(after, &lines_after));
        let rows = clear_rows(&b, &a, &Grain::Line, &bounds);
        return rows.iter().filter(|row| matches!(row, Row::Equal { .. })).count();
    }
    if before.0.file_rules().renames() || before.0.file_rules().line_breaks().is_some() {
        let rows = detail(before, after, &Grain::Line).rows;
        let counted = |row: &&Row| match row {
            Row::Gone { weight, .. } | Row::New { weight, .. } | Row::Edited { weight, .. } => {
                *weight == Weight::Counted
            }
            Row::Equal { .. } | Row::Hidden { .. } => false,
        };
        return longer.saturating_sub(rows.iter().filter(counted).count());
    }
    let (b, a) = (Side::of(before, &lines_before, &bounds), Side::of(after, &lines_after, &bounds));
    let counted = |side: &Side<'_, '_>, lines: &Range<usize>| {
        lines.clone().filter(|&line| side.weight_alone(line) == Some(Weight::Counted)).count()
    };
    let found = b.stretches(0..lines_before.len(), (&a, 0..lines_after.len()));
    let differing = melted(found.clone(), bounds.pairs()).into_iter().map(|(gone, new)| {
        let is_one = found.binary_search_by_key(&gone.start, |stretch| stretch.0.start);
        if is_one.is_ok_and(|at| found[at] == (gone.clone(), new.clone())) {
            return counted(&b, &gone).max(counted(&a, &new));
        }
        let (mut of_before, mut of_after) = (0, 0);
        for row in b.rows((gone, &a, new), &Grain::Line) {
            match row {
                Row::Gone { weight: Weight::Counted, .. } => of_before += 1,
                Row::New { weight: Weight::Counted, .. } => of_after += 1,
                Row::Edited { weight: Weight::Counted, .. } => (of_before, of_after) = (of_before + 1, of_after + 1),
                _ => {}
            }
        }
        of_before.max(of_after)
    });
    longer.saturating_sub(differing.sum())
}

fn lines_of<'t>((masked, span): (&'t MaskedText<'_>, &Span)) -> Lines<'t> {
    Lines::of(&masked.text()[span.bytes.clone()])
}

/// The names of the rules that explain a change which does not count, in the order of its lines. Of a very long change, its
/// first lines are looked at.
pub fn causes(before: (&MaskedText<'_>, &Span), after: (&MaskedText<'_>, &Span)) -> Vec<String> {
    const LOOKED_AT: usize = 1000;
    let head = |(masked, span): (&MaskedText<'_>, &Span)| {
        let (end, lines) = lines_below(&masked.text()[..span.bytes.end], span.bytes.start, LOOKED_AT);
        Span { lines: span.lines.start..span.lines.start + lines, bytes: span.bytes.start..end }
    };
    let (head_before, head_after) = (head(before), head(after));
    let lines = |masked: &MaskedText<'_>, span: &Span| -> Vec<Range<usize>> {
        let lines = Lines::of(&masked.text()[span.bytes.clone()]);
        (0..lines.len()).map(|at| span.bytes.start + lines.start(at)..span.bytes.start + lines.start(at + 1)).collect()
    };
    let (lines_before, lines_after) = (lines(before.0, &head_before), lines(after.0, &head_after));
    let gone = |masked: &MaskedText<'_>, line: &Range<usize>| {
        let mask = masked.mask_of(line.clone());
        mask.gone.map(|rule| masked.file_rules().muting(&mask).filter(|_| mask.gone_ignored.is_none()).unwrap_or(rule))
    };
    let breaks = before.0.file_rules().line_breaks();
    let mut rules: Vec<usize> = Vec::new();
    let mut add = |rule: Option<usize>| rules.extend(rule.filter(|rule| !rules.contains(rule)));
    for row in detail((before.0, &head_before), (after.0, &head_after), &Grain::Line).rows {
        match row {
            Row::Gone { before: line, .. } => add(gone(before.0, &lines_before[line]).or(breaks)),
            Row::New { after: line, .. } => add(gone(after.0, &lines_after[line]).or(breaks)),
            Row::Edited { before: b, after: a, weight: Weight::Muted, .. } => {
                let (b, a) = (&lines_before[b], &lines_after[a]);
                match (gone(before.0, b), gone(after.0, a)) {
                    (None, None) => add(before.0.verdict_of(b.clone(), (after.0, a.clone())).1),
                    (one, other) => {
                        add(one);
                        add(other);
                    }
                }
            }
            Row::Edited { .. } | Row::Equal { .. } | Row::Hidden { .. } => {}
        }
    }
    rules.into_iter().map(|rule| before.0.file_rules().rules()[rule].name().to_owned()).collect()
}

/// One side of a change under the rules.
struct Side<'s, 't> {
    masked: &'s MaskedText<'t>,
    lines: Vec<MaskedLine>,
    /// What each line is compared by: what counts of it, or all of one that is excluded.
    keys: Vec<Vec<u8>>,
    bounds: Bounds,
}

impl<'s, 't> Side<'s, 't> {
    fn of((masked, span): (&'s MaskedText<'t>, &Span), lines: &Lines<'_>, bounds: &Bounds) -> Self {
        let read = |line: usize| {
            let bytes = span.bytes.start + lines.start(line)..span.bytes.start + lines.start(line + 1);
            MaskedLine { mask: masked.mask_of(bytes.clone()), bytes }
        };
        let lines: Vec<MaskedLine> = (0..lines.len()).map(read).collect();
        let key = |line: &MaskedLine| match line.mask.gone {
            None => masked.counted(line.bytes.clone(), &line.mask).into_owned(),
            Some(_) => masked.text()[line.bytes.clone()].to_vec(),
        };
        Self { masked, keys: lines.iter().map(key).collect(), lines, bounds: *bounds }
    }

    fn is_gone(&self, line: usize) -> bool {
        self.lines[line].mask.gone.is_some()
    }

    fn text(&self, line: usize) -> &[u8] {
        &self.masked.text()[self.lines[line].bytes.clone()]
    }

    /// Keys that tell lines that are there from those that are not.
    fn tagged(&self, lines: &Range<usize>) -> Vec<Vec<u8>> {
        let tag = |line: usize| [&[u8::from(self.is_gone(line))], &self.keys[line][..]].concat();
        lines.clone().map(tag).collect()
    }

    /// The rows of all lines of this side and the other, of which some are kept together.
    fn rows_around(&self, other: &Self, holds: &[(usize, usize)], reads_passages: bool, grain: &Grain) -> Vec<Row> {
        let mut rows = Vec::new();
        let (mut b, mut a) = (0, 0);
        for &(held_b, held_a) in holds {
            rows.extend(self.rows_between((b..held_b, other, a..held_a), reads_passages, grain));
            let is_same = self.keys[held_b] == other.keys[held_a] && self.is_gone(held_b) == other.is_gone(held_a);
            let pair = if is_same { Self::matched } else { Self::paired };
            rows.push(pair(self, held_b, other, held_a, grain));
            (b, a) = (held_b + 1, held_a + 1);
        }
        let rest = (b..self.lines.len(), other, a..other.lines.len());
        rows.extend(self.rows_between(rest, reads_passages, grain));
        rows
    }

    /// The rows of some lines of this side and the other, which may be wrapped in another way.
    fn rows_between(
        &self,
        (lines, other, lines_after): (Range<usize>, &Self, Range<usize>),
        reads_passages: bool,
        grain: &Grain,
    ) -> Vec<Row> {
        let (before, after) = (self.span(&lines), other.span(&lines_after));
        let pieces =
            if reads_passages { pieces((self.masked, &before), (other.masked, &after), &self.bounds) } else { None };
        match pieces {
            Some(pieces) => self.rows_of_pieces((lines, other, lines_after), &pieces, grain),
            None => self.rows((lines, other, lines_after), grain),
        }
    }

    /// Some of its lines, as lines of the whole text are counted from the first one.
    fn span(&self, lines: &Range<usize>) -> Span {
        let start = |line: usize| self.lines.get(line).map(|line| line.bytes.start);
        let end = self.lines.last().map_or(0, |line| line.bytes.end);
        let byte = |line: usize| start(line).unwrap_or(end);
        Span { lines: lines.clone(), bytes: byte(lines.start)..byte(lines.end) }
    }

    /// The rows of pieces that may be wrapped in another way.
    fn rows_of_pieces(
        &self,
        (lines, other, lines_after): (Range<usize>, &Self, Range<usize>),
        pieces: &[Piece],
        grain: &Grain,
    ) -> Vec<Row> {
        let mut rows = Vec::with_capacity(lines.len().max(lines_after.len()));
        for piece in pieces {
            let (before, after) = (piece.before.lines.clone(), piece.after.lines.clone());
            match &piece.state {
                State::Lines => rows.extend(self.rows((before, other, after), grain)),
                State::Wrapped(..) => {
                    rows.extend(before.map(|line| self.wrapped(line)));
                    rows.extend(after.map(|line| other.wrapped(line).mirrored()));
                }
                State::Edited(edited) => {
                    let ends = [(before.len(), after.len())];
                    let (mut b, mut a) = (0, 0);
                    for &(to_b, to_a) in edited.pairs.iter().chain(&ends) {
                        rows.extend((b..to_b).map(|line| self.alone(before.start + line, &edited.before[line])));
                        let alone = |line: usize| other.alone(after.start + line, &edited.after[line]).mirrored();
                        rows.extend((a..to_a).map(alone));
                        if to_b < before.len() {
                            let words =
                                Words { before: edited.before[to_b].clone(), after: edited.after[to_a].clone() };
                            let (before, after) = (before.start + to_b, after.start + to_a);
                            rows.push(Row::Edited { before, after, words, weight: Weight::Counted });
                        }
                        (b, a) = (to_b + 1, to_a + 1);
                    }
                }
            }
        }
        rows
    }

    /// The row of a line that was only wrapped, as one before.
    fn wrapped(&self, line: usize) -> Row {
        let rules = self.masked.file_rules();
        let effect = rules.line_breaks().map(|rule| rules.rules()[rule].effect());
        match (effect, self.weight_alone(line)) {
            (Some(Effect::Mute), Some(_)) => Row::Gone { before: line, words: Vec::new(), weight: Weight::Muted },
            _ => Row::Hidden { before: Some(line), after: None },
        }
    }

    /// The row of a line in a wrapped piece that has no partner, as one before.
    fn alone(&self, line: usize, words: &[Segment]) -> Row {
        if EditedPiece::counts(words) {
            return Row::Gone { before: line, words: words.to_vec(), weight: Weight::Counted };
        }
        self.wrapped(line)
    }

    /// The rows of some lines of this side and the other.
    fn rows(&self, (lines, other, lines_after): (Range<usize>, &Self, Range<usize>), grain: &Grain) -> Vec<Row> {
        let (before, after) = (lines.end, lines_after.end);
        let mut rows = Vec::with_capacity(lines.len().max(lines_after.len()));
        let (mut b, mut a) = (lines.start, lines_after.start);
        let parts = melted(self.stretches(lines, (other, lines_after)), self.bounds.pairs());
        for (gone, new) in parts.into_iter().chain([(before..before, after..after)]) {
            rows.extend((b..gone.start).zip(a..new.start).map(|(b, a)| self.matched(b, other, a, grain)));
            let (gone_keys, new_keys) = (as_slices(&self.keys[gone.clone()]), as_slices(&other.keys[new.clone()]));
            let is_in_both = |line: &[u8]| self.masked.once_in_both(other.masked, line);
            let paired = pair_lines(&gone_keys, &new_keys, is_in_both, self.bounds.pairs());
            for row in paired {
                rows.push(match placed(row, gone.start, new.start) {
                    Row::Gone { before, words, .. } => match self.weight_alone(before) {
                        Some(weight) => Row::Gone { before, words, weight },
                        None => Row::Hidden { before: Some(before), after: None },
                    },
                    Row::New { after, words, .. } => match other.weight_alone(after) {
                        Some(weight) => Row::New { after, words, weight },
                        None => Row::Hidden { before: None, after: Some(after) },
                    },
                    Row::Equal { before, after } if self.is_gone(before) == other.is_gone(after) => {
                        self.matched(before, other, after, grain)
                    }
                    Row::Equal { before, after } | Row::Edited { before, after, .. } => {
                        self.paired(before, other, after, grain)
                    }
                    row @ Row::Hidden { .. } => row,
                });
            }
            (b, a) = (gone.end, new.end);
        }
        tell_broken(rows, (self, other), grain, self.bounds.pairs())
    }

    /// The stretches of some lines that do not match.
    fn stretches(
        &self,
        lines: Range<usize>,
        (other, lines_after): (&Self, Range<usize>),
    ) -> Vec<(Range<usize>, Range<usize>)> {
        if !self.bounds.looks_inside(lines.len() + lines_after.len()) {
            return vec![(lines, lines_after)];
        }
        if self.keys[lines.clone()] > other.keys[lines_after.clone()] {
            let mirrored = other.stretches(lines_after, (self, lines));
            return mirrored.into_iter().map(|(new, gone)| (gone, new)).collect();
        }
        let (before, after) = (self.tagged(&lines), other.tagged(&lines_after));
        let numbered = intern(&as_slices(&before), &as_slices(&after));
        let placed = |range: Range<usize>, first: usize| range.start + first..range.end + first;
        let found = script(&numbered, &self.bounds).stretches().into_iter();
        found.map(|(gone, new)| (placed(gone, lines.start), placed(new, lines_after.start))).collect()
    }

    /// The weight of a line that only this side has; none of one that is ignored.
    fn weight_alone(&self, line: usize) -> Option<Weight> {
        let mask = &self.lines[line].mask;
        match (mask.gone, mask.gone_ignored) {
            (_, Some(_)) => None,
            (Some(_), None) => Some(Weight::Muted),
            (None, None) => Some(Weight::Counted),
        }
    }

    /// The row of two lines that match.
    fn matched(&self, before: usize, other: &Self, after: usize, grain: &Grain) -> Row {
        if self.text(before) == other.text(after) {
            return Row::Equal { before, after };
        }
        let judged =
            self.masked.verdict_of(self.lines[before].bytes.clone(), (other.masked, other.lines[after].bytes.clone()));
        match judged.0 {
            Verdict::Ignored => Row::Equal { before, after },
            Verdict::Counted => {
                let words = align_words(self.text(before), other.text(after), grain);
                Row::Edited { before, after, words, weight: Weight::Counted }
            }
            Verdict::Muted => {
                Row::Edited { before, after, words: self.words(before, other, after, grain), weight: Weight::Muted }
            }
        }
    }

    /// The row of two lines that do not match but belong together.
    fn paired(&self, before: usize, other: &Self, after: usize, grain: &Grain) -> Row {
        match (self.weight_alone(before), other.weight_alone(after)) {
            (None, None) => Row::Equal { before, after },
            (Some(Weight::Muted) | None, Some(Weight::Muted) | None) => {
                let mut words = if matches!(grain, Grain::Line) {
                    Words::default()
                } else {
                    align_words(self.text(before), other.text(after), grain)
                };
                let mute = |part: &mut Segment| part.differs = part.differs.map(|_| Weight::Muted);
                words.before.iter_mut().for_each(mute);
                words.after.iter_mut().for_each(mute);
                Row::Edited { before, after, words, weight: Weight::Muted }
            }
            _ => Row::Edited { before, after, words: self.words(before, other, after, grain), weight: Weight::Counted },
        }
    }

    fn words(&self, before: usize, other: &Self, after: usize, grain: &Grain) -> Words {
        if matches!(grain, Grain::Line) {
            return Words::default();
        }
        align_parts((self.masked, &self.lines[before]), (other.masked, &other.lines[after]), grain)
    }
}

impl broken::Side for Side<'_, '_> {
    fn masked(&self) -> &MaskedText<'_> {
        self.masked
    }

    fn counted(&self, line: usize) -> &[u8] {
        &self.keys[line]
    }

    fn line(&self, line: usize) -> MaskedLine {
        self.lines[line].clone()
    }
}
