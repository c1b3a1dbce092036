//! Shell scripts: a `#` begins a comment only where a word may begin.

use super::documents::{self, Document};
use super::scan::Scan;
use crate::internal::rules::syntax::{DocumentStyle, Indentation};

const DOCUMENTS: DocumentStyle =
    DocumentStyle { open: "<<", apart: true, small: true, minus: Indentation::Tabs, loose: false };

/// How far the end of quoted text in a parameter is looked for, and that of arithmetic.
const NEAR: usize = 1 << 10;
const FAR: usize = 1 << 12;

/// Where a piece of a script ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum End {
    /// With the text.
    Text,
    /// Behind the bracket of `$(`.
    Bracket,
    /// Before the backtick of a backtick.
    Backtick,
}

/// Reads a script.
pub(super) fn script(scan: &mut Scan<'_>) {
    if scan.ahead("#!") {
        // What runs the script is no remark.
        scan.line_is_text();
    }
    commands(scan, End::Text);
}

fn commands(scan: &mut Scan<'_>, end: End) {
    let mut documents: Vec<Document> = Vec::new();
    let mut brackets = 0_usize;
    // Whether a word may begin here.
    let mut apart = true;
    while !scan.is_at_end() {
        let byte = scan.peek(0);
        let mut begins_word = matches!(byte, b' ' | b'\t' | b'\n' | b';' | b'&' | b'|' | b'(' | b')' | b'<' | b'>');
        match byte {
            b'#' if apart => {
                let end_of_line = scan.content_end();
                // A comment inside backticks ends with them.
                let inside = if end == End::Backtick {
                    memchr::memchr(b'`', &scan.text[scan.at..end_of_line]).map(|at| scan.at + at)
                } else {
                    None
                };
                scan.comment(inside.unwrap_or(end_of_line));
            }
            b'\\' => scan.skip(2),
            b'\'' => {
                scan.skip(1);
                scan.skip_past(b"'");
            }
            b'"' => double_quoted(scan),
            b'`' if end == End::Backtick => return,
            b'`' => backticks(scan),
            b'$' => dollar(scan),
            b'\n' | b'<' if documents::step(scan, &DOCUMENTS, &mut documents) => begins_word = byte == b'\n',
            b'(' if scan.ahead("((") && apart => {
                // Arithmetic: `<<` shifts in it, and `#` names a base.
                arithmetic(scan);
            }
            b'(' => {
                brackets += 1;
                scan.skip(1);
            }
            b')' if end == End::Bracket && brackets == 0 => return scan.skip(1),
            b')' => {
                brackets = brackets.saturating_sub(1);
                scan.skip(1);
            }
            b'<' if scan.ahead("<<<") => scan.skip(3),
            b'<' if scan.ahead("<<") => scan.skip(2),
            _ => scan.skip(1),
        }
        apart = begins_word;
    }
}

fn double_quoted(scan: &mut Scan<'_>) {
    scan.skip(1);
    while !scan.is_at_end() {
        match scan.peek(0) {
            b'"' => return scan.skip(1),
            b'\\' => scan.skip(2),
            b'`' => backticks(scan),
            b'$' if scan.peek(1) != b'\'' => dollar(scan),
            _ => scan.skip(1),
        }
    }
}

fn backticks(scan: &mut Scan<'_>) {
    scan.skip(1);
    scan.inside(|scan| commands(scan, End::Backtick));
    scan.skip(1);
}

/// What a `$` begins: a command, arithmetic, a parameter, a quoted text.
fn dollar(scan: &mut Scan<'_>) {
    match scan.peek(1) {
        b'(' if scan.peek(2) == b'(' => {
            scan.skip(1);
            arithmetic(scan);
        }
        b'(' => {
            scan.skip(2);
            scan.inside(|scan| commands(scan, End::Bracket));
        }
        b'{' => {
            scan.skip(2);
            scan.inside(parameter);
        }
        b'\'' => {
            let end = scan.end_of_delimited(scan.at + 1, true);
            scan.go(end.unwrap_or(scan.text.len()));
        }
        b'"' => scan.skip(1),
        // `$#`, `$$`, `$1` and the like.
        _ => scan.skip(2),
    }
}

/// What stands between `${` and `}`.
fn parameter(scan: &mut Scan<'_>) {
    while !scan.is_at_end() {
        match scan.peek(0) {
            b'}' => return scan.skip(1),
            b'\\' => scan.skip(2),
            b'\'' => {
                // A quote inside double quotes is a letter like any other: only one that closes before the brace counts.
                let near = &scan.rest()[..scan.rest().len().min(NEAR)];
                let brace = memchr::memchr(b'}', near).unwrap_or(0);
                let close = memchr::memchr(b'\'', &near[1..]).map_or(usize::MAX, |at| at + 1);
                scan.skip(if close < brace { close + 1 } else { 1 });
            }
            b'"' => double_quoted(scan),
            b'`' => backticks(scan),
            b'$' => dollar(scan),
            _ => scan.skip(1),
        }
    }
}

/// `((…))`: brackets are counted, and nothing else. What does not close so is a pair of subshells, of which what is left of the line is text.
fn arithmetic(scan: &mut Scan<'_>) {
    let near = Scan::at(&scan.text[..scan.text.len().min(scan.at + FAR)], scan.at);
    match near.end_of_delimited(scan.at, true) {
        Some(end) if scan.text[..end].ends_with(b"))") => scan.go(end),
        _ => scan.line_is_text(),
    }
}
