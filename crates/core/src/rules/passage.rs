//! Some lines of a text read as one passage, in which it does not count where lines are broken.
//!
//! A break stands for one blank. The white space around it belongs to it, and so does the comment sign (or the `>` of quoted text) with
//! which the line above it begins too. A blank line stands for itself: it begins a new paragraph.

use std::ops::Range;

use super::MaskedText;
use super::file_rules::is_white_space;
use super::mask::{LineMask, MaskedSpan, StandsFor};
use crate::internal::text::words::line_end_len;

/// What a break stands for.
const BREAK: StandsFor = StandsFor::Fixed(b" ");
/// What a blank line stands for; texts that hold this byte are told apart by where it comes from.
const BLANK_LINE: StandsFor = StandsFor::Fixed(b"\x1e");

/// Some lines of a text, read as one.
#[derive(Clone, Debug)]
pub(crate) struct Passage {
    /// Its bytes in the whole text.
    pub(crate) bytes: Range<usize>,
    /// What of it is masked.
    pub(crate) mask: LineMask,
    /// Where it is broken, in order; and its blank lines.
    pub(crate) breaks: Vec<LineBreak>,
    /// Where each line starts, and where the last one ends.
    pub(crate) starts: Vec<usize>,
}

/// Where a passage is broken. Bytes are counted from its start.
#[derive(Clone, Debug)]
pub(crate) struct LineBreak {
    /// The line end; of a blank line, all of it.
    pub(crate) bytes: Range<usize>,
    /// The sign that the line above and the line below begin with; of a blank line, its own.
    pub(crate) sign: Range<usize>,
    /// Whether it is a blank line.
    pub(crate) is_blank: bool,
    /// Whether it ends a comment that goes up to the end of its line: what stands below does not belong to it.
    pub(crate) ends_comment: bool,
    /// Whether a blank line stands below, an item of a list, or nothing.
    pub(crate) ends_paragraph: bool,
}

impl LineBreak {
    /// Whether a blank can stand in its place.
    pub(crate) fn is_plain(&self) -> bool {
        !self.is_blank && !self.ends_comment && !self.ends_paragraph
    }
}

impl Passage {
    /// Reads some whole lines of a text whose rules say that breaks do not count.
    pub(crate) fn read(masked: &MaskedText<'_>, bytes: Range<usize>) -> Option<Self> {
        let rule = masked.file_rules().line_breaks()?;
        let text = &masked.text()[bytes.clone()];
        let mut passage = Self { bytes: bytes.clone(), mask: LineMask::default(), breaks: Vec::new(), starts: vec![0] };
        let mut sign_above: &[u8] = b"";
        for line in text.split_inclusive(|byte| *byte == b'\n') {
            let start = *passage.starts.last().unwrap_or(&0);
            let end = start + line.len();
            passage.starts.push(end);
            let mask = masked.mask_of(bytes.start + start..bytes.start + end);
            let spans = mask.spans.iter();
            let mut spans: Vec<MaskedSpan> = spans.map(|span| shifted(span, start)).collect();
            if let Some(gone) = mask.gone {
                let rule = mask.gone_ignored.or_else(|| masked.file_rules().muting(&mask)).unwrap_or(gone);
                passage.mask.spans.push(MaskedSpan { range: start..end, rule, stands_for: StandsFor::NOTHING });
                continue;
            }
            let content = &line[..line.len() - line_end_len(line)];
            let indentation = content.len() - content.trim_ascii_start().len();
            let sign = sign_of(&content[indentation..], masked);
            let sign = start + indentation..start + indentation + sign;
            let blanks = text[sign.end..start + content.len()].iter().take_while(|byte| is_white_space(**byte)).count();
            if sign.end + blanks == start + content.len() {
                // A line of nothing but its sign begins a new paragraph too.
                passage.mask.spans.push(MaskedSpan { range: start..end, rule, stands_for: BLANK_LINE });
                passage.end_paragraph();
                passage.breaks.push(LineBreak {
                    bytes: start..end,
                    sign,
                    is_blank: true,
                    ends_comment: false,
                    ends_paragraph: false,
                });
                continue;
            }
            let range = start..sign.end + blanks;
            let is_whole = spans.iter().all(|span| span.range.start >= range.end || span.range.end <= range.end);
            let is_repeated = !sign.is_empty() && text[sign.clone()] == *sign_above && is_whole;
            sign_above = &text[sign.clone()];
            if is_repeated {
                spans.retain(|span| span.range.start >= range.end);
                spans.insert(0, MaskedSpan { range, rule, stands_for: StandsFor::NOTHING });
                if let Some(above) = passage.breaks.last_mut() {
                    (above.sign, above.ends_comment) = (sign.clone(), false);
                }
            }
            let ends_comment = !sign.is_empty() || masked.file_rules().holds_line_comment(content);
            if masked.file_rules().is_prose() && is_item(&content[indentation..]) {
                passage.end_paragraph();
            }
            let line_end = start + content.len()..end;
            let has_end = !line_end.is_empty() || spans.last().is_some_and(|span| span.range.is_empty());
            if has_end {
                spans.retain(|span| span.range.start < line_end.start);
                spans.push(MaskedSpan { range: line_end.clone(), rule, stands_for: BREAK });
                passage.breaks.push(LineBreak {
                    bytes: line_end,
                    sign: 0..0,
                    is_blank: false,
                    ends_comment,
                    ends_paragraph: false,
                });
            }
            passage.mask.spans.append(&mut spans);
        }
        passage.end_paragraph();
        Some(passage)
    }

    fn end_paragraph(&mut self) {
        if let Some(last) = self.breaks.last_mut() {
            last.ends_paragraph = true;
        }
    }
}

/// Whether a line of prose without its indentation begins an item of a list.
fn is_item(content: &[u8]) -> bool {
    let number = content.iter().take_while(|byte| byte.is_ascii_digit()).count();
    let marks: &[u8] = if number > 0 { b".)" } else { b"-*+" };
    content.get(number).is_some_and(|mark| marks.contains(mark))
        && content.get(number + 1).is_some_and(|next| is_white_space(*next))
}

fn shifted(span: &MaskedSpan, by: usize) -> MaskedSpan {
    MaskedSpan { range: span.range.start + by..span.range.end + by, ..span.clone() }
}

/// The length of the comment sign, or the sign of quoted text, that a line without its indentation begins with. It must stand apart from
/// what follows.
fn sign_of(content: &[u8], masked: &MaskedText<'_>) -> usize {
    let starts = masked.file_rules().line_signs().any(|sign| content.starts_with(sign));
    let length = content.iter().take_while(|byte| byte.is_ascii_punctuation()).count();
    let apart = content.get(length).is_none_or(|byte| is_white_space(*byte));
    if starts && apart { length } else { 0 }
}
