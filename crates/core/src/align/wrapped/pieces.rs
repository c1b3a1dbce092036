//! A passage cut where both sides have a line start at the same word, and what became of each piece.

use std::ops::Range;

use super::differences::{Difference, differing};
use super::path::Path;
use super::side::{Side, marks_in};
use crate::internal::align::bounds::Bounds;
use crate::internal::align::parts::mark_muted;
use crate::internal::align::words::align_words;
use crate::internal::model::{Segment, Span, Weight};
use crate::internal::rules::{Effect, MaskedText, Verdict};
use crate::internal::text::words::Grain;

/// A piece of a passage.
#[derive(Clone, Debug)]
pub(crate) struct Piece {
    pub(crate) before: Span,
    pub(crate) after: Span,
    pub(crate) state: State,
}

/// What became of a piece.
#[derive(Clone, Debug)]
pub(crate) enum State {
    /// Its lines are compared as lines.
    Lines,
    /// It was only wrapped; the rule that explains what differs.
    Wrapped(Verdict, usize),
    /// It was wrapped, and words in it differ: the segments of each line, and which lines belong together.
    Edited(Box<EditedPiece>),
}

/// A piece in which words differ, and which was wrapped too.
#[derive(Clone, Debug)]
pub(crate) struct EditedPiece {
    /// The pieces of each line before, and of each line after.
    pub(crate) before: Vec<Vec<Segment>>,
    pub(crate) after: Vec<Vec<Segment>>,
    /// The lines, counted from the start of the piece, in which the same place differs; in order on both sides.
    pub(crate) pairs: Vec<(usize, usize)>,
    /// What differs, as bytes of the whole texts.
    pub(crate) differs: Vec<(Range<usize>, Range<usize>)>,
}

impl EditedPiece {
    /// Whether a line has words that differ and count.
    pub(crate) fn counts(line: &[Segment]) -> bool {
        line.iter().any(|part| part.differs == Some(Weight::Counted))
    }

    /// How many lines of the longer side have no such words.
    pub(super) fn wrapped_lines(&self) -> usize {
        let wrapped = |lines: &[Vec<Segment>]| lines.iter().filter(|line| !Self::counts(line)).count();
        wrapped(&self.before).max(wrapped(&self.after))
    }
}

/// Cuts a passage where both sides have a line start at the same word. `None` where breaks count, where one side has no line, and where the
/// passage is too large.
pub(crate) fn pieces(
    (before, span_before): (&MaskedText<'_>, &Span),
    (after, span_after): (&MaskedText<'_>, &Span),
    bounds: &Bounds,
) -> Option<Vec<Piece>> {
    let size = span_before.bytes.len() + span_after.bytes.len();
    if before.file_rules().line_breaks().is_none()
        || span_before.is_empty()
        || span_after.is_empty()
        || span_before.lines.len() == 1 && span_after.lines.len() == 1
        || !bounds.reads_passage(size)
    {
        return None;
    }
    let (text_before, text_after) =
        (&before.text()[span_before.bytes.clone()], &after.text()[span_after.bytes.clone()]);
    if text_before > text_after {
        let mirrored = pieces((after, span_after), (before, span_before), bounds)?;
        return Some(mirrored.into_iter().map(Piece::mirrored).collect());
    }
    let (mut b, mut a) = (Side::of(before, span_before)?, Side::of(after, span_after)?);
    let asks = before.file_rules().renames()
        && before.is_renamed_back_in((b.line.bytes.clone(), &b.line.mask), (after, a.line.bytes.clone(), &a.line.mask));
    if asks {
        return None;
    }
    let grain = if before.file_rules().ignores_all_space() { Grain::Letter } else { Grain::Word };
    let words = align_words(&b.projected.counted, &a.projected.counted, &grain);
    let path = Path::of(&words.before, &words.after);
    let differs = differing(&path, &b, &a);
    for Difference { marked: (gone, new), .. } in &differs {
        b.mark(gone);
        a.mark(new);
    }
    let (line_before, line_after) = (b.line.clone(), a.line.clone());
    mark_muted(((before, &line_before), &mut b.projected), ((after, &line_after), &mut a.projected));
    b.forget_breaks();
    a.forget_breaks();
    Some(cut(&path, &differs, &b, &a))
}

impl Piece {
    fn mirrored(self) -> Self {
        let state = match self.state {
            State::Edited(edited) => State::Edited(Box::new(EditedPiece {
                before: edited.after,
                after: edited.before,
                pairs: edited.pairs.into_iter().map(|(b, a)| (a, b)).collect(),
                differs: edited.differs.into_iter().map(|(b, a)| (a, b)).collect(),
            })),
            state => state,
        };
        Self { before: self.after, after: self.before, state }
    }
}

/// The span from the start of one to the end of another.
pub(super) fn joined(first: &Span, last: &Span) -> Span {
    Span { lines: first.lines.start..last.lines.end, bytes: first.bytes.start..last.bytes.end }
}

/// Cuts both sides where each has a line start, and tells what became of the pieces. Pieces that are compared as lines and touch are one.
fn cut(path: &Path, differs: &[Difference], b: &Side<'_, '_>, a: &Side<'_, '_>) -> Vec<Piece> {
    let mut pieces: Vec<Piece> = Vec::new();
    let mut from = ((0, 0), (0, 0));
    let mut next_stretch = 0;
    for (at_b, at_a) in points(path, b, a) {
        let (Some(byte_b), Some(byte_a)) = (b.line_start(at_b), a.line_start(at_a)) else { continue };
        let (bytes_b, bytes_a) = (from.1.0..byte_b, from.1.1..byte_a);
        if bytes_b.is_empty() && bytes_a.is_empty() {
            continue;
        }
        let first = next_stretch;
        while differs.get(next_stretch).is_some_and(|found| found.gone.end <= at_b && found.new.end <= at_a) {
            next_stretch += 1;
        }
        let shown = (from.0.0..at_b, from.0.1..at_a);
        let state = state((&bytes_b, &bytes_a), shown, &differs[first..next_stretch], (b, a));
        let piece = Piece { before: b.span(&bytes_b), after: a.span(&bytes_a), state };
        match pieces.last_mut() {
            Some(last) if matches!((&last.state, &piece.state), (State::Lines, State::Lines)) => {
                last.before = joined(&last.before, &piece.before);
                last.after = joined(&last.after, &piece.after);
            }
            _ => pieces.push(piece),
        }
        from = ((at_b, at_a), (byte_b, byte_a));
    }
    pieces
}

/// The points of a path where a cut can be, in order.
fn points<'p>(path: &'p Path, b: &'p Side<'_, '_>, a: &'p Side<'_, '_>) -> impl Iterator<Item = (usize, usize)> + 'p {
    let ends = (b.projected.counted.len(), a.projected.counted.len());
    let mut found: Vec<(usize, usize)> = path.stretches.iter().map(|(gone, new)| (gone.end, new.end)).collect();
    found.extend(path.stretches.iter().map(|(gone, new)| (gone.start, new.start)));
    for &(start_b, start_a, length) in &path.runs {
        found.extend(marks_in(b, start_b, length).map(|at| (start_b + at + 1, start_a + at + 1)));
    }
    found.push(ends);
    found.sort_unstable();
    found.dedup();
    found.into_iter()
}

/// What became of a piece.
fn state(
    (bytes_b, bytes_a): (&Range<usize>, &Range<usize>),
    (shown_b, shown_a): (Range<usize>, Range<usize>),
    differs: &[Difference],
    (b, a): (&Side<'_, '_>, &Side<'_, '_>),
) -> State {
    let (lines_b, lines_a) = (b.span(bytes_b).lines.len(), a.span(bytes_a).lines.len());
    if lines_b.min(lines_a) == 0 || lines_b.max(lines_a) == 1 || b.text(bytes_b) == a.text(bytes_a) {
        return State::Lines;
    }
    if differs.is_empty() {
        let (verdict, rule) = verdict((bytes_b, bytes_a), (b, a));
        return State::Wrapped(verdict, rule);
    }
    // Of lines that were written anew, few words are the same, and they are best compared as lines.
    let differing = |of: fn(&Difference) -> usize| differs.iter().map(of).sum::<usize>();
    let alike = 2 * differing(|found| found.marked.0.len()) <= shown_b.len()
        && 2 * differing(|found| found.marked.1.len()) <= shown_a.len();
    if !alike {
        return State::Lines;
    }
    let first = (b.line_of(bytes_b.start), a.line_of(bytes_a.start));
    let mut pairs: Vec<(usize, usize)> = Vec::new();
    let mut changed = Vec::with_capacity(differs.len());
    for Difference { gone, new, marked } in differs {
        let (marked_b, marked_a) = (b.bytes(&marked.0), a.bytes(&marked.1));
        let line = |side: &Side<'_, '_>, at: usize, first: usize, lines: usize| {
            side.line_of(at).saturating_sub(first).min(lines - 1)
        };
        let pair = (line(b, marked_b.start, first.0, lines_b), line(a, marked_a.start, first.1, lines_a));
        if pairs.last().is_none_or(|last| pair.0 > last.0 && pair.1 > last.1) {
            pairs.push(pair);
        }
        // What is missing at the end of the piece is missing before the first word of the next.
        let whole = |side: &Side<'_, '_>, bytes: Range<usize>, end: usize| {
            side.span.bytes.start + bytes.start.min(end)..side.span.bytes.start + bytes.end.min(end)
        };
        changed.push((whole(b, b.bytes(gone), bytes_b.end), whole(a, a.bytes(new), bytes_a.end)));
    }
    State::Edited(Box::new(EditedPiece {
        before: segments(b, bytes_b),
        after: segments(a, bytes_a),
        pairs,
        differs: changed,
    }))
}

/// Whether a piece whose words are the same is muted or ignored, and the rule that explains it.
fn verdict(
    (bytes_b, bytes_a): (&Range<usize>, &Range<usize>),
    (b, a): (&Side<'_, '_>, &Side<'_, '_>),
) -> (Verdict, usize) {
    let rules = b.masked.file_rules();
    let breaks = rules.line_breaks().unwrap_or_default();
    let muted = |side: &Side<'_, '_>, bytes: &Range<usize>| {
        side.projected.differs[bytes.clone()].iter().position(Option::is_some).map(|at| bytes.start + at)
    };
    if rules.rules()[breaks].effect() == Effect::Mute {
        return (Verdict::Muted, breaks);
    }
    let found = [(b, muted(b, bytes_b)), (a, muted(a, bytes_a))].into_iter().find_map(|(side, at)| Some((side, at?)));
    let Some((side, at)) = found else { return (Verdict::Ignored, breaks) };
    let spans = &side.line.mask.spans;
    let span = spans.get(spans.partition_point(|span| span.range.end <= at)).filter(|span| span.range.contains(&at));
    (Verdict::Muted, span.map(|span| span.rule).or(rules.case_rule()).unwrap_or(breaks))
}

/// The pieces of each line of a part of a passage, counted from the start of the line.
fn segments(side: &Side<'_, '_>, bytes: &Range<usize>) -> Vec<Vec<Segment>> {
    let lines = side.starts[side.line_of(bytes.start)..].windows(2).take_while(|line| line[0] < bytes.end);
    lines
        .map(|line| {
            let mut at = 0;
            let runs = side.projected.differs[line[0]..line[1]].chunk_by(|one, other| one == other);
            let segment = |run: &[Option<Weight>]| {
                at += run.len();
                Segment { bytes: at - run.len()..at, differs: run[0] }
            };
            runs.map(segment).collect()
        })
        .collect()
}
