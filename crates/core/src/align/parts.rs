//! The parts of two lines that differ, under rules: what counts is aligned by words, what is masked is told apart from it.

use std::ops::Range;

use super::bounds::Bounds;
use super::script::script;
use super::words::align_words;
use crate::internal::model::{Segment, Weight, Words};
use crate::internal::rules::{Effect, LineMask, MaskedText};
use crate::internal::text::lines::{as_slices, intern};
use crate::internal::text::words::{Grain, line_end_len};

/// A line, and what of it is masked.
#[derive(Clone, Debug)]
pub struct MaskedLine {
    /// Its bytes in the whole text.
    pub bytes: Range<usize>,
    /// What of it is masked.
    pub mask: LineMask,
}

/// A line of a text.
pub(super) type Side<'s, 't> = (&'s MaskedText<'t>, &'s MaskedLine);

/// Aligns two lines of two texts by words, as [`align_words`] does, without being disturbed by what the rules masked. Muted
/// text that differs is a part of its own; ignored text never differs.
pub fn align_parts(before: Side<'_, '_>, after: Side<'_, '_>, grain: &Grain) -> Words {
    let (mut b, mut a) = (Projected::of(before.0, before.1), Projected::of(after.0, after.1));
    let words = align_words(&b.counted, &a.counted, grain);
    b.mark(&words.before);
    a.mark(&words.after);
    mark_muted((before, &mut b), (after, &mut a));
    Words { before: b.parts(), after: a.parts() }
}

/// Aligns some lines of one text with some of another as if they were not broken: a break and the white space around it are read as one space, and
/// as none inside brackets and before punctuation. White space alone does not differ. The parts are those of each line.
pub fn align_joined(
    (before, lines_before): (&MaskedText<'_>, &[MaskedLine]),
    (after, lines_after): (&MaskedText<'_>, &[MaskedLine]),
    grain: &Grain,
) -> (Vec<Vec<Segment>>, Vec<Vec<Segment>>) {
    let (one, other) = (joined(lines_before), joined(lines_after));
    let mut b = Projected::of_joined(before, lines_before);
    let mut a = Projected::of_joined(after, lines_after);
    let words = align_words(&b.counted, &a.counted, grain);
    b.mark(&words.before);
    a.mark(&words.after);
    mark_muted(((before, &one), &mut b), ((after, &other), &mut a));
    (b.parts_of(before, lines_before), a.parts_of(after, lines_after))
}

/// Consecutive lines as one.
fn joined(lines: &[MaskedLine]) -> MaskedLine {
    let start = lines.first().map_or(0, |line| line.bytes.start);
    let mut mask = LineMask::default();
    for line in lines {
        let shift = line.bytes.start - start;
        mask.spans.extend(line.mask.spans.iter().map(|span| {
            let mut span = span.clone();
            span.range = span.range.start + shift..span.range.end + shift;
            span
        }));
    }
    MaskedLine { bytes: start..lines.last().map_or(start, |line| line.bytes.end), mask }
}

/// The line after with all that does not count as it is in the line before: `stays` tells which effects do not count.
pub fn carry_over(before: Side<'_, '_>, after: Side<'_, '_>, stays: impl Fn(Effect) -> bool) -> Vec<u8> {
    let (mut b, mut a) = (Projected::of(before.0, before.1), Projected::of(after.0, after.1));
    let words = align_words(&b.counted, &a.counted, &Grain::Word);
    b.mark(&words.before);
    a.mark(&words.after);
    let text = |(masked, line): Side<'_, '_>| masked.text()[line.bytes.clone()].to_vec();
    let (text_before, text_after) = (text(before), text(after));
    let rules = before.0.file_rules().rules();
    let case_stays = before.0.file_rules().case_effect().is_none_or(&stays);
    let mut carried = Vec::with_capacity(text_after.len());
    let mut of_before = b.tokens(before.1).into_iter().peekable();
    // What stands before the next piece that both lines have: of that, what does not count stays.
    let keep_asides = |of_before: &mut std::iter::Peekable<std::vec::IntoIter<Token>>, carried: &mut Vec<u8>| {
        while let Some(token) = of_before.next_if(|token| !matches!(token, Token::Equal(_))) {
            if let Token::HiddenStretch(range, rule) = token
                && stays(rules[rule].effect())
            {
                carried.extend(&text_before[range]);
            }
        }
    };
    let content_after = text_after.len() - line_end_len(&text_after);
    for token in a.tokens(after.1) {
        match token {
            Token::HiddenStretch(_, rule) if stays(rules[rule].effect()) => keep_asides(&mut of_before, &mut carried),
            Token::HiddenStretch(range, _) | Token::Changed(range) => {
                // Nothing of the line comes behind its end.
                if range.start >= content_after {
                    keep_asides(&mut of_before, &mut carried);
                }
                carried.extend(&text_after[range]);
            }
            Token::Equal(range) => {
                keep_asides(&mut of_before, &mut carried);
                match of_before.next() {
                    Some(Token::Equal(before)) if case_stays => carried.extend(&text_before[before]),
                    _ => carried.extend(&text_after[range]),
                }
            }
        }
    }
    for token in of_before {
        match token {
            Token::HiddenStretch(range, rule) if stays(rules[rule].effect()) => carried.extend(&text_before[range]),
            Token::Equal(range) => carried.extend(&text_before[range]),
            Token::HiddenStretch(..) | Token::Changed(_) => {}
        }
    }
    carried
}

/// A piece of a line.
enum Token {
    /// Masked by a rule, with nothing that stands for it.
    HiddenStretch(Range<usize>, usize),
    /// It counts, and both lines have it.
    Equal(Range<usize>),
    /// It counts and differs.
    Changed(Range<usize>),
}

/// What of a line counts, and where each byte of it comes from.
pub(super) struct Projected {
    pub(super) counted: Vec<u8>,
    /// For each byte that counts, the bytes of the line that it stands for.
    pub(super) from: Vec<Range<usize>>,
    /// For each byte of the line, whether it differs.
    pub(super) differs: Vec<Option<Weight>>,
}

impl Projected {
    pub(super) fn of(masked: &MaskedText<'_>, line: &MaskedLine) -> Self {
        let text = &masked.text()[line.bytes.clone()];
        let mut projected = Self { counted: Vec::new(), from: Vec::new(), differs: vec![None; text.len()] };
        let folds = masked.file_rules().case_effect().is_some();
        let mut at = 0;
        for span in &line.mask.spans {
            projected.take(text, at..span.range.start, folds);
            for &byte in span.stands_for.bytes() {
                projected.counted.push(byte);
                projected.from.push(span.range.clone());
            }
            at = span.range.end;
        }
        projected.take(text, at..text.len(), folds);
        projected
    }

    /// Consecutive lines as one, without the breaks and the white space around them.
    fn of_joined(masked: &MaskedText<'_>, lines: &[MaskedLine]) -> Self {
        let mut joined = Self { counted: Vec::new(), from: Vec::new(), differs: Vec::new() };
        for (at, line) in lines.iter().enumerate() {
            let of_line = Self::of(masked, line);
            let start = joined.differs.len();
            let mut skipped = 0;
            if at > 0 {
                while joined.counted.pop_if(|byte| byte.is_ascii_whitespace()).is_some() {
                    joined.from.pop();
                }
                // The line end of the last line is that of all of them.
                let is_last = at + 1 == lines.len();
                let is_skipped = |byte: &&u8| byte.is_ascii_whitespace() && !(is_last && matches!(byte, b'\r' | b'\n'));
                skipped = of_line.counted.iter().take_while(is_skipped).count();
                let is_inside_brackets = matches!(joined.counted.last(), Some(b'(' | b'['))
                    || matches!(of_line.counted.get(skipped), Some(b')' | b']' | b',' | b';' | b'.'));
                if !is_inside_brackets {
                    joined.counted.push(b' ');
                    joined.from.push(start..start);
                }
            }
            joined.counted.extend(&of_line.counted[skipped..]);
            joined.from.extend(of_line.from[skipped..].iter().map(|from| from.start + start..from.end + start));
            joined.differs.extend(of_line.differs);
        }
        joined
    }

    /// The parts of each of some lines that were joined.
    fn parts_of(&self, masked: &MaskedText<'_>, lines: &[MaskedLine]) -> Vec<Vec<Segment>> {
        let mut start = 0;
        let parts = |line: &MaskedLine| {
            let text = &masked.text()[line.bytes.clone()];
            let mut differs = self.differs[start..start + text.len()].to_vec();
            start += text.len();
            let is_blank = |part: &Segment| text[part.bytes.clone()].iter().all(u8::is_ascii_whitespace);
            for blank in segments(&differs).into_iter().filter(is_blank) {
                differs[blank.bytes].fill(None);
            }
            segments(&differs)
        };
        lines.iter().map(parts).collect()
    }

    /// Takes bytes that count, letter by letter where their case is folded.
    fn take(&mut self, text: &[u8], range: Range<usize>, folds: bool) {
        let piece = &text[range.clone()];
        if !folds || piece.is_ascii() {
            self.counted.extend(piece.iter().map(|byte| if folds { byte.to_ascii_lowercase() } else { *byte }));
            self.from.extend(range.map(|at| at..at + 1));
            return;
        }
        let mut at = range.start;
        for chunk in piece.utf8_chunks() {
            let letters = chunk.valid().chars().map(char::len_utf8).chain(chunk.invalid().iter().map(|_| 1));
            for length in letters {
                let folded = crate::internal::rules::folded(&text[at..at + length]);
                self.from.extend(folded.iter().map(|_| at..at + length));
                self.counted.extend(folded);
                at += length;
            }
        }
    }

    /// Carries what differs in the text that counts over to the line.
    fn mark(&mut self, parts: &[Segment]) {
        for part in parts.iter().filter(|part| part.differs.is_some()) {
            for from in &self.from[part.bytes.clone()] {
                self.differs[from.clone()].fill(part.differs);
            }
        }
    }

    /// Marks bytes as muted where they do not count already.
    fn mute(&mut self, range: Range<usize>) {
        for differs in self.differs[range].iter_mut().filter(|differs| differs.is_none()) {
            *differs = Some(Weight::Muted);
        }
    }

    /// The bytes of the line that stand for what both sides have, byte by byte.
    fn equal(&self) -> impl Iterator<Item = &Range<usize>> {
        let counts =
            |from: &&Range<usize>| self.differs[from.start.min(self.differs.len() - 1)] != Some(Weight::Counted);
        self.from.iter().filter(|from| !from.is_empty()).filter(counts)
    }

    /// The pieces of the line, in order.
    fn tokens(&self, line: &MaskedLine) -> Vec<Token> {
        let spans = line.mask.spans.iter().filter(|span| span.stands_for.bytes().is_empty());
        let mut tokens: Vec<(usize, Token)> =
            spans.map(|span| (span.range.start, Token::HiddenStretch(span.range.clone(), span.rule))).collect();
        let mut ranges = self.from.clone();
        ranges.dedup();
        tokens.extend(ranges.into_iter().map(|range| {
            let differs = self.differs.get(range.start).copied().flatten().is_some() && !range.is_empty();
            (range.start, if differs { Token::Changed(range) } else { Token::Equal(range) })
        }));
        tokens.sort_by_key(|(start, _)| *start);
        tokens.into_iter().map(|(_, token)| token).collect()
    }

    fn parts(&self) -> Vec<Segment> {
        segments(&self.differs)
    }
}

/// The runs of bytes that differ alike.
fn segments(differs: &[Option<Weight>]) -> Vec<Segment> {
    let mut at = 0;
    let segment = |run: &[Option<Weight>]| {
        at += run.len();
        Segment { bytes: at - run.len()..at, differs: run[0] }
    };
    differs.chunk_by(|one, other| one == other).map(segment).collect()
}

/// Marks what is muted and differs.
pub(super) fn mark_muted((before, b): (Side<'_, '_>, &mut Projected), (after, a): (Side<'_, '_>, &mut Projected)) {
    mark_asides((before, b), (after, a));
    if before.0.file_rules().case_effect() == Some(Effect::Mute) {
        mark_case((&before, b), (&after, a));
    }
}

/// Marks the muted text that the other side does not have in the same order.
fn mark_asides((before, b): (Side<'_, '_>, &mut Projected), (after, a): (Side<'_, '_>, &mut Projected)) {
    let tagged = |(masked, line): Side<'_, '_>| -> Vec<Vec<u8>> {
        let text = &masked.text()[line.bytes.clone()];
        let tag = |span: &crate::internal::rules::MaskedSpan| {
            [&span.rule.to_be_bytes()[..], &text[span.range.clone()]].concat()
        };
        line.mask.spans.iter().map(tag).collect()
    };
    let (tagged_before, tagged_after) = (tagged(before), tagged(after));
    let found = script(&intern(&as_slices(&tagged_before), &as_slices(&tagged_after)), &Bounds::default());
    for ((masked, line), projected, alone) in [(before, b, found.gone), (after, a, found.new)] {
        for (span, _) in line.mask.spans.iter().zip(alone).filter(|(_, alone)| *alone) {
            if masked.file_rules().rules()[span.rule].effect() == Effect::Mute {
                projected.mute(span.range.clone());
            }
        }
    }
}

/// Marks letters that differ in their case alone.
fn mark_case((before, b): (&Side<'_, '_>, &mut Projected), (after, a): (&Side<'_, '_>, &mut Projected)) {
    let (text_before, text_after) = (&before.0.text()[before.1.bytes.clone()], &after.0.text()[after.1.bytes.clone()]);
    let cased = |letter: &[u8]| letter.len() > 1 || crate::internal::rules::folded(letter) != letter;
    let differ = |(one, other): &(&Range<usize>, &Range<usize>)| {
        let (letter, counterpart) = (&text_before[(*one).clone()], &text_after[(*other).clone()]);
        letter != counterpart && (cased(letter) || cased(counterpart))
    };
    let found: Vec<(Range<usize>, Range<usize>)> =
        b.equal().zip(a.equal()).filter(differ).map(|(one, other)| (one.clone(), other.clone())).collect();
    for (one, other) in found {
        b.mute(one);
        a.mute(other);
    }
}
