//! A text as the rules let it be seen.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::OnceLock;

use super::mask::Reading;
use super::{Effect, Lens, Standing};
use crate::text::bytes::line_end;

/// A text and the lens it is seen through.
#[derive(Clone, Debug)]
pub struct Seen<'t> {
    text: &'t [u8],
    lens: &'t Lens,
    /// Where rules that look beyond a line match: by rule, in order.
    spans: Vec<(usize, Vec<Range<usize>>)>,
    line_end: &'static [u8],
}

impl<'t> Seen<'t> {
    /// A text seen through a lens.
    pub fn new(text: &'t [u8], lens: &'t Lens) -> Self {
        let first = line_end(text, 0);
        let line_end: &[u8] = if text[..first].ends_with(b"\r\n") { b"\r\n" } else { b"\n" };
        let spans = if lens.is_local() { Vec::new() } else { lens.long_spans(text) };
        Self { text, lens, spans, line_end }
    }

    /// A text seen as it stands.
    pub fn clear(text: &'t [u8]) -> Self {
        static CLEAR: OnceLock<Lens> = OnceLock::new();
        Self { text, lens: CLEAR.get_or_init(Lens::default), spans: Vec::new(), line_end: b"\n" }
    }

    /// The text.
    pub fn text(&self) -> &'t [u8] {
        self.text
    }

    /// What it is seen through.
    pub fn lens(&self) -> &'t Lens {
        self.lens
    }

    /// What of a line is put aside. The range is that of a whole line, with its line end.
    pub fn read(&self, line: Range<usize>) -> Reading {
        if self.lens.is_clear() {
            return Reading::default();
        }
        let mut spans = Vec::new();
        for (rule, ranges) in &self.spans {
            let from = ranges.partition_point(|range| range.end <= line.start);
            let content = line.end - crate::text::words::line_end_len(&self.text[line.clone()]);
            for range in ranges[from..].iter().take_while(|range| range.start < line.end) {
                let part = range.start.max(line.start)..range.end.min(content);
                if part.start < part.end {
                    spans.push((*rule, part.start - line.start..part.end - line.start));
                } else if range.start <= line.start && line.start == content {
                    // An empty line inside a comment is part of it.
                    return Reading {
                        asides: Vec::new(),
                        gone: Some(*rule),
                        gone_ignored: Some(*rule).filter(|rule| self.lens.effect(*rule) == Effect::Ignore),
                    };
                }
            }
        }
        self.lens.read(&self.text[line], spans, self.line_end)
    }

    /// What a line is compared by; `None` when it is as if it were not there.
    pub fn key(&self, line: Range<usize>) -> Option<Cow<'t, [u8]>> {
        if self.lens.is_clear() {
            return Some(Cow::Borrowed(&self.text[line]));
        }
        let reading = self.read(line.clone());
        if reading.gone.is_some() { None } else { Some(self.counted(line, &reading)) }
    }

    /// What of a line counts, its case folded where that does not.
    pub fn counted(&self, line: Range<usize>, reading: &Reading) -> Cow<'t, [u8]> {
        self.left(&self.text[line], reading, |_| true)
    }

    /// What is left of a line without what is ignored.
    pub fn visible(&self, line: Range<usize>, reading: &Reading) -> Cow<'t, [u8]> {
        self.left(&self.text[line], reading, |rule| self.lens.effect(rule) == Effect::Ignore)
    }

    fn left(&self, line: &'t [u8], reading: &Reading, put_aside: impl Fn(usize) -> bool) -> Cow<'t, [u8]> {
        let folds = self.lens.case.is_some_and(&put_aside);
        if !folds && !reading.asides.iter().any(|aside| put_aside(aside.rule)) {
            return Cow::Borrowed(line);
        }
        let mut left = Vec::with_capacity(line.len() + 2);
        let mut at = 0;
        for aside in reading.asides.iter().filter(|aside| put_aside(aside.rule)) {
            left.extend_from_slice(&line[at..aside.range.start]);
            left.extend_from_slice(aside.stands_for);
            at = aside.range.end;
        }
        left.extend_from_slice(&line[at..]);
        Cow::Owned(if folds { folded(&left) } else { left })
    }

    /// How two lines differ that are equal but for what is put aside, and the first rule that explains it.
    pub fn judge(&self, line: Range<usize>, (seen, other): (&Seen<'_>, Range<usize>)) -> (Standing, Option<usize>) {
        let readings = (self.read(line.clone()), seen.read(other.clone()));
        self.judge_read((line, &readings.0), (seen, other, &readings.1))
    }

    /// The same for lines that have been read.
    pub(crate) fn judge_read(
        &self,
        (line, one): (Range<usize>, &Reading),
        (seen, other, two): (&Seen<'_>, Range<usize>, &Reading),
    ) -> (Standing, Option<usize>) {
        let same = self.visible(line.clone(), one) == seen.visible(other.clone(), two);
        let effect = if same { Effect::Ignore } else { Effect::Mute };
        let (line, other) = (&self.text[line], &seen.text[other]);
        let rules = (0..self.lens.rules().len()).filter(|rule| self.lens.effect(*rule) == effect);
        let explains = |rule: &usize| {
            self.lens.case == Some(*rule) && without(line, one) != without(other, two)
                || !parts(line, one, *rule).eq(parts(other, two, *rule))
        };
        (if same { Standing::Ignored } else { Standing::Muted }, rules.into_iter().find(explains))
    }
}

/// The parts of a line that a rule put aside.
fn parts<'l>(line: &'l [u8], reading: &'l Reading, rule: usize) -> impl Iterator<Item = &'l [u8]> {
    reading.asides.iter().filter(move |aside| aside.rule == rule).map(|aside| &line[aside.range.clone()])
}

/// A line without what is put aside, in the letters it has.
fn without(line: &[u8], reading: &Reading) -> Vec<u8> {
    let mut left = Vec::with_capacity(line.len());
    let mut at = 0;
    for aside in &reading.asides {
        left.extend_from_slice(&line[at..aside.range.start]);
        at = aside.range.end;
    }
    left.extend_from_slice(&line[at..]);
    left
}

/// Text in small letters, by Unicode. Capital letters are taken first, so that letters with several small forms agree.
pub(crate) fn folded(text: &[u8]) -> Vec<u8> {
    if text.is_ascii() {
        return text.to_ascii_lowercase();
    }
    let mut result = Vec::with_capacity(text.len());
    for chunk in text.utf8_chunks() {
        for c in chunk.valid().chars().flat_map(char::to_uppercase).flat_map(char::to_lowercase) {
            result.extend_from_slice(c.encode_utf8(&mut [0; 4]).as_bytes());
        }
        result.extend_from_slice(chunk.invalid());
    }
    result
}
