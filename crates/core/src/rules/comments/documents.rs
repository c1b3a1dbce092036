//! Here documents: text that begins in the line below a word and goes on to a line with that word.

use super::scan::{Scan, is_word};
use crate::internal::rules::syntax::{DocumentStyle, Indentation};
use crate::internal::text::bytes::line_end;

/// A document that the line began.
pub(super) struct Document {
    word: Vec<u8>,
    /// What may stand before the word in its last line.
    indented: Indentation,
    /// Whether marks may stand behind it.
    goes_on: bool,
}

/// Steps over a word that begins a document, or over the line end and the documents that wait below it; whether one of them came next.
pub(super) fn step(scan: &mut Scan<'_>, style: &DocumentStyle, waiting: &mut Vec<Document>) -> bool {
    if scan.peek(0) == b'\n' && !waiting.is_empty() {
        scan.skip(1);
        step_over(scan, waiting);
        return true;
    }
    let document = begin(scan, style);
    let begins = document.is_some();
    waiting.extend(document);
    begins
}

/// Reads the word of a document that begins here, if one does, and goes on behind it.
fn begin(scan: &mut Scan<'_>, style: &DocumentStyle) -> Option<Document> {
    if !scan.ahead(style.open) {
        return None;
    }
    let start = scan.at;
    scan.skip(style.open.len());
    let mut indented = if style.loose { Indentation::Blanks } else { Indentation::Nothing };
    let mut flagged = false;
    match scan.peek(0) {
        b'-' if style.minus != Indentation::Nothing => (indented, flagged) = (style.minus, true),
        b'~' if style.minus == Indentation::Blanks => (indented, flagged) = (Indentation::Blanks, true),
        _ => {}
    }
    scan.skip(usize::from(flagged));
    while style.apart && matches!(scan.peek(0), b' ' | b'\t') {
        scan.skip(1);
    }
    let quote = scan.peek(0);
    let word = match quote {
        b'"' | b'\'' | b'`' => {
            let end = memchr::memchr2(quote, b'\n', &scan.rest()[1..]).map(|at| scan.at + 1 + at);
            let end = end.filter(|end| scan.text[*end] == quote);
            let word = end.map(|end| scan.text[scan.at + 1..end].to_vec());
            scan.go(end.map_or(scan.at, |end| end + 1));
            word
        }
        _ => {
            // A backslash keeps a word as it is, as quotes do.
            let escaped = style.small && quote == b'\\';
            scan.skip(usize::from(escaped));
            let is_name = |byte: &&u8| is_word(**byte) || style.small && matches!(**byte, b'-' | b'.' | b'+');
            let length = scan.rest().iter().take_while(is_name).count();
            let word = scan.rest()[..length].to_vec();
            let first = word.first().copied().unwrap_or_default();
            let fits =
                first.is_ascii_uppercase() || first == b'_' || first.is_ascii_lowercase() && (style.small || flagged);
            scan.skip(length);
            Some(word).filter(|_| fits)
        }
    };
    if word.is_none() {
        scan.at = start;
    }
    word.map(|word| Document { word, indented, goes_on: style.loose })
}

/// Steps over the documents that the line above began. Where one has no end, all that is left is text.
fn step_over(scan: &mut Scan<'_>, documents: &mut Vec<Document>) {
    for document in documents.drain(..) {
        loop {
            if scan.is_at_end() {
                return;
            }
            let (start, end) = (scan.at, scan.content_end());
            let line = &scan.text[start..end];
            let line = match document.indented {
                Indentation::Nothing => line,
                Indentation::Tabs => &line[line.iter().take_while(|byte| **byte == b'\t').count()..],
                Indentation::Blanks => line.trim_ascii_start(),
            };
            let rest = line.strip_prefix(&document.word[..]);
            match rest.filter(|rest| rest.is_empty() || document.goes_on && !is_word(rest[0])) {
                Some(rest) => {
                    let behind = end - rest.len();
                    scan.go(if document.goes_on { behind } else { line_end(scan.text, start) });
                    break;
                }
                None => scan.go(line_end(scan.text, start)),
            }
        }
    }
}
