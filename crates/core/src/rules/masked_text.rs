//! A text under the rules.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::{Arc, OnceLock};

use super::mask::LineMask;
use super::{Effect, FileRules, Verdict};
use crate::internal::text::bytes::{EqualLines, count_lines, equal_lines, line_end, line_start, lines_below};
use crate::internal::text::single_lines::{LARGEST_TEXT, SingleLines};

/// A text and the rules that hold for it.
#[derive(Clone, Debug)]
pub struct MaskedText<'t> {
    text: Cow<'t, [u8]>,
    file_rules: Arc<FileRules>,
    /// Where rules that look beyond a line match: by rule, in order.
    spans: Vec<(usize, Vec<Range<usize>>)>,
    line_end: &'static [u8],
    /// Whether it is the text before, which has the old names of what is renamed.
    is_before: bool,
    /// The index of its first line; not 0 where it is a part of a text.
    first_line: usize,
    /// Lines of it, and with each a line of the other text that it is kept together with; in order on both sides.
    holds: Vec<(usize, usize)>,
    /// Its lines that it has once, found when first asked for.
    single_lines: OnceLock<Arc<SingleLines>>,
}

impl<'t> MaskedText<'t> {
    /// A text under rules.
    pub fn new(text: impl Into<Cow<'t, [u8]>>, file_rules: &Arc<FileRules>) -> Self {
        let text = text.into();
        let first = line_end(&text, 0);
        let line_end: &[u8] = if text[..first].ends_with(b"\r\n") { b"\r\n" } else { b"\n" };
        let spans = if file_rules.is_local() { Vec::new() } else { file_rules.long_spans(&text) };
        Self {
            text,
            file_rules: Arc::clone(file_rules),
            spans,
            line_end,
            is_before: false,
            first_line: 0,
            holds: Vec::new(),
            single_lines: OnceLock::new(),
        }
    }

    /// Two texts under the same rules, which may read each in its own language.
    pub fn both<'u>(
        (before, of_before): (Cow<'t, [u8]>, &Arc<FileRules>),
        (after, of_after): (Cow<'u, [u8]>, &Arc<FileRules>),
    ) -> (Self, MaskedText<'u>) {
        const WORTH_A_THREAD: usize = 1 << 18;
        if before.len() + after.len() < WORTH_A_THREAD || of_before.is_local() {
            return (Self::new(before, of_before).before(), MaskedText::new(after, of_after));
        }
        rayon::join(|| Self::new(before, of_before).before(), || MaskedText::new(after, of_after))
    }

    /// The same as the text before.
    pub fn before(mut self) -> Self {
        self.is_before = true;
        self
    }

    /// The same with lines that are kept together with lines of the other text, counted from 0 in the whole texts and in order on both sides.
    pub fn holding(mut self, holds: Vec<(usize, usize)>) -> Self {
        self.holds = holds;
        self
    }

    /// Only some lines of it, which keep their numbers; as many as there are.
    pub fn part(mut self, lines: &Range<usize>) -> Self {
        let start = lines_below(&self.text, 0, lines.start).0;
        let end = lines_below(&self.text, start, lines.len()).0;
        for (_, spans) in &mut self.spans {
            spans.retain_mut(|span| {
                *span = span.start.clamp(start, end) - start..span.end.clamp(start, end) - start;
                span.start < span.end
            });
        }
        self.text = match self.text {
            Cow::Borrowed(text) => Cow::Borrowed(&text[start..end]),
            Cow::Owned(text) => Cow::Owned(text[start..end].to_vec()),
        };
        self.first_line = lines.start;
        self.single_lines = OnceLock::new();
        self
    }

    /// The index of its first line; not 0 where it is a part of a text.
    pub fn first_line(&self) -> usize {
        self.first_line
    }

    /// Lines of it that are kept together with lines of the other text.
    pub fn holds(&self) -> &[(usize, usize)] {
        &self.holds
    }

    /// A text under no rules.
    pub fn unmasked(text: &'t [u8]) -> Self {
        static NO_RULES: OnceLock<Arc<FileRules>> = OnceLock::new();
        let file_rules = Arc::clone(NO_RULES.get_or_init(Arc::default));
        Self {
            text: Cow::Borrowed(text),
            file_rules,
            spans: Vec::new(),
            line_end: b"\n",
            is_before: false,
            first_line: 0,
            holds: Vec::new(),
            single_lines: OnceLock::new(),
        }
    }

    /// The text.
    pub fn text(&self) -> &[u8] {
        &self.text
    }

    /// Whether it has a line once. Of a very large text that is not known, and none is.
    fn has_once(&self, line: &[u8]) -> bool {
        self.text.len() <= LARGEST_TEXT
            && self.single_lines.get_or_init(|| Arc::new(SingleLines::of(&self.text))).contains(line)
    }

    /// Whether this text and another have a line once each.
    pub(crate) fn once_in_both(&self, other: &MaskedText<'_>, line: &[u8]) -> bool {
        self.has_once(line) && other.has_once(line)
    }

    /// The rules that hold for it.
    pub fn file_rules(&self) -> &Arc<FileRules> {
        &self.file_rules
    }

    /// What of a line is masked. The range is that of a whole line, with its line end.
    pub fn mask_of(&self, line: Range<usize>) -> LineMask {
        if self.file_rules.is_clear() {
            return LineMask::default();
        }
        let mut spans = Vec::new();
        for (rule, ranges) in &self.spans {
            let from = ranges.partition_point(|range| range.end <= line.start);
            let content = line.end - crate::internal::text::words::line_end_len(&self.text[line.clone()]);
            for range in ranges[from..].iter().take_while(|range| range.start < line.end) {
                let part = range.start.max(line.start)..range.end.min(content);
                if part.start < part.end {
                    spans.push((*rule, part.start - line.start..part.end - line.start));
                } else if range.start <= line.start && line.start == content {
                    // An empty line inside a comment is part of it.
                    return LineMask {
                        spans: Vec::new(),
                        gone: Some(*rule),
                        gone_ignored: Some(*rule).filter(|rule| self.file_rules.effect(*rule) == Effect::Ignore),
                    };
                }
            }
        }
        self.file_rules.mask_of(&self.text[line], spans, self.line_end)
    }

    /// How many lines two stretches have in common at their starts: with equal bytes, and read alike by the rules that look beyond a line.
    pub(crate) fn equal_lines(
        &self,
        own: &Range<usize>,
        (masked, other): (&MaskedText<'_>, &Range<usize>),
    ) -> EqualLines {
        let equal = equal_lines(&self.text[own.clone()], &masked.text[other.clone()]);
        let alike = self.read_alike((own.start, masked, other.start), equal.bytes);
        if alike >= equal.bytes {
            return equal;
        }
        let bytes = line_start(&self.text[own.clone()], alike);
        EqualLines { bytes, lines: count_lines(&self.text[own.start..own.start + bytes]) }
    }

    /// Up to how many bytes the rules that look beyond a line read two places alike, of so many.
    fn read_alike(&self, (own, masked, other): (usize, &MaskedText<'_>, usize), bytes: usize) -> usize {
        if self.spans.len() != masked.spans.len() {
            return 0;
        }
        let mut alike = bytes;
        for ((_, one), (_, two)) in self.spans.iter().zip(&masked.spans) {
            // What of a span lies behind a place, counted from there.
            fn behind(spans: &[Range<usize>], at: usize) -> impl Iterator<Item = Range<usize>> + '_ {
                let from = spans.partition_point(|span| span.end <= at);
                spans[from..].iter().map(move |span| span.start.saturating_sub(at)..span.end - at)
            }
            let (mut one, mut two) = (behind(one, own), behind(two, other));
            loop {
                let (b, a) = (one.next(), two.next());
                if b == a && b.as_ref().is_none_or(|span| span.end < alike) {
                    if b.is_none() {
                        break;
                    }
                    continue;
                }
                let start = |span: Option<Range<usize>>| span.map_or(usize::MAX, |span| span.start);
                let differs_at = if b == a { usize::MAX } else { start(b).min(start(a)) };
                alike = alike.min(differs_at);
                break;
            }
        }
        alike
    }

    /// What a line is compared by; `None` when it is excluded.
    pub fn key(&self, line: Range<usize>) -> Option<Cow<'_, [u8]>> {
        if self.file_rules.is_clear() {
            return Some(Cow::Borrowed(&self.text[line]));
        }
        let mask = self.mask_of(line.clone());
        if mask.gone.is_some() { None } else { Some(self.counted(line, &mask)) }
    }

    /// What of a line counts, its case folded where that does not.
    pub fn counted(&self, line: Range<usize>, mask: &LineMask) -> Cow<'_, [u8]> {
        self.left(&self.text[line], mask, |_| true)
    }

    /// What is left of a line without what is ignored.
    pub fn visible(&self, line: Range<usize>, mask: &LineMask) -> Cow<'_, [u8]> {
        self.left(&self.text[line], mask, |rule| self.file_rules.effect(rule) == Effect::Ignore)
    }

    fn left<'l>(&self, line: &'l [u8], mask: &LineMask, put_aside: impl Fn(usize) -> bool) -> Cow<'l, [u8]> {
        let folds = self.file_rules.case.is_some_and(&put_aside);
        if !folds && !mask.spans.iter().any(|span| put_aside(span.rule)) {
            return Cow::Borrowed(line);
        }
        let mut left = Vec::with_capacity(line.len() + 2);
        let mut at = 0;
        for span in mask.spans.iter().filter(|span| put_aside(span.rule)) {
            left.extend_from_slice(&line[at..span.range.start]);
            left.extend_from_slice(span.stands_for.bytes());
            at = span.range.end;
        }
        left.extend_from_slice(&line[at..]);
        Cow::Owned(if folds { folded(&left) } else { left })
    }

    /// How two lines differ that are equal but for what is masked, and the first rule that explains it.
    pub fn verdict_of(
        &self,
        line: Range<usize>,
        (masked, other): (&MaskedText<'_>, Range<usize>),
    ) -> (Verdict, Option<usize>) {
        let masks = (self.mask_of(line.clone()), masked.mask_of(other.clone()));
        self.verdict_of_masks((line, &masks.0), (masked, other, &masks.1))
    }

    /// The same for lines that have been read.
    pub(crate) fn verdict_of_masks(
        &self,
        (line, one): (Range<usize>, &LineMask),
        (masked, other, two): (&MaskedText<'_>, Range<usize>, &LineMask),
    ) -> (Verdict, Option<usize>) {
        if self.is_renamed_back((line.clone(), one), (masked, other.clone(), two)) {
            return (Verdict::Counted, None);
        }
        let same = self.visible(line.clone(), one) == masked.visible(other.clone(), two);
        let effect = if same { Effect::Ignore } else { Effect::Mute };
        let (line, other) = (&self.text[line], &masked.text[other]);
        let rules = (0..self.file_rules.rules().len()).filter(|rule| self.file_rules.effect(*rule) == effect);
        let explains = |rule: &usize| {
            self.file_rules.case == Some(*rule) && is_left_unlike((line, one), (other, two))
                || !parts(line, one, *rule).eq(parts(other, two, *rule))
        };
        (if same { Verdict::Ignored } else { Verdict::Muted }, rules.into_iter().find(explains))
    }
}

impl MaskedText<'_> {
    /// Whether two lines differ in more than what rules mask in them. Where they match, that is the case of letters.
    pub(crate) fn is_left_unlike(&self, line: Range<usize>, (masked, other): (&MaskedText<'_>, Range<usize>)) -> bool {
        let (one, two) = (self.mask_of(line.clone()), masked.mask_of(other.clone()));
        is_left_unlike((&self.text[line], &one), (&masked.text[other], &two))
    }

    /// Whether a name in two passages that are given with what is masked in them was renamed the other way round.
    pub(crate) fn is_renamed_back_in(
        &self,
        line: (Range<usize>, &LineMask),
        other: (&MaskedText<'_>, Range<usize>, &LineMask),
    ) -> bool {
        self.is_renamed_back(line, other)
    }

    /// Whether a name in two lines that match was renamed the other way round.
    fn is_renamed_back(
        &self,
        (line, one): (Range<usize>, &LineMask),
        (masked, other, two): (&MaskedText<'_>, Range<usize>, &LineMask),
    ) -> bool {
        let (line, other) = ((&self.text[line], one), (&masked.text[other], two));
        match (self.is_before, masked.is_before) {
            (true, false) => self.file_rules.is_renamed_back(line, other),
            (false, true) => self.file_rules.is_renamed_back(other, line),
            _ => false,
        }
    }
}

/// The parts of a line that a rule masked.
fn parts<'l>(line: &'l [u8], mask: &'l LineMask, rule: usize) -> impl Iterator<Item = &'l [u8]> {
    mask.spans.iter().filter(move |span| span.rule == rule).map(|span| &line[span.range.clone()])
}

fn is_left_unlike((line, one): (&[u8], &LineMask), (other, two): (&[u8], &LineMask)) -> bool {
    without(line, one) != without(other, two)
}

/// A line without what is masked, in the letters it has.
fn without(line: &[u8], mask: &LineMask) -> Vec<u8> {
    let mut left = Vec::with_capacity(line.len());
    let mut at = 0;
    for span in &mask.spans {
        left.extend_from_slice(&line[at..span.range.start]);
        at = span.range.end;
    }
    left.extend_from_slice(&line[at..]);
    left
}

/// Text in small letters, by Unicode. Capital letters are taken in between, so that letters with several small forms agree; the `ı` without a dot
/// is a letter of its own.
pub(crate) fn folded(text: &[u8]) -> Vec<u8> {
    if text.is_ascii() {
        return text.to_ascii_lowercase();
    }
    let mut result = Vec::with_capacity(text.len());
    for chunk in text.utf8_chunks() {
        for letter in chunk.valid().chars() {
            let mut add = |c: char| result.extend_from_slice(c.encode_utf8(&mut [0; 4]).as_bytes());
            if letter == 'ı' {
                add(letter);
            } else {
                letter.to_lowercase().flat_map(char::to_uppercase).flat_map(char::to_lowercase).for_each(add);
            }
        }
        result.extend_from_slice(chunk.invalid());
    }
    result
}
