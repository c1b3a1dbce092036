//! Ruby: quoted text with code in it, percent literals, documents, patterns and characters.

use super::code::quote;
use super::documents::{self, Document};
use super::features::{pattern_of, step_character, value_may_stand};
use super::scan::{Scan, Stop, closing, is_word};
use crate::internal::rules::syntax::{DocumentStyle, Escape, Indentation, MarkPosition, Quote, QuoteExtent, Syntax};
use crate::internal::text::bytes::line_end;

const DOCUMENTS: DocumentStyle =
    DocumentStyle { open: "<<", apart: false, small: false, minus: Indentation::Blanks, loose: false };
const QUOTES: [Quote; 3] =
    [quoted("\"", Some(("#{", b'{', b'}'))), quoted("'", None), quoted("`", Some(("#{", b'{', b'}')))];

const fn quoted(mark: &'static str, code: Option<(&'static str, u8, u8)>) -> Quote {
    let (escape, holds, stands) = (Escape::Backslash, QuoteExtent::Lines, MarkPosition::Anywhere);
    Quote { open: mark, close: mark, escape, holds, stands, code }
}

/// Reads code.
pub(super) fn code(scan: &mut Scan<'_>, syntax: &Syntax, stop: Stop) {
    let mut documents: Vec<Document> = Vec::new();
    let mut brackets = 0_usize;
    if scan.at == 0 && scan.ahead("#!") {
        scan.line_is_text();
    }
    while !scan.is_at_end() {
        let byte = scan.peek(0);
        let starts_line = scan.before().is_none_or(|byte| byte == b'\n');
        match byte {
            b'\n' | b'<' if documents::step(scan, &DOCUMENTS, &mut documents) => {}
            b'_' if starts_line && scan.rest()[..scan.content_end() - scan.at] == *b"__END__" => {
                return scan.rest_is_text();
            }
            b'=' if starts_line && scan.ahead("=begin") && !is_word(scan.peek(6)) => remark(scan),
            b'#' => {
                let end = scan.content_end();
                scan.comment(end);
            }
            b'{' if matches!(stop, Stop::Close(..)) => {
                brackets += 1;
                scan.skip(1);
            }
            b'}' if matches!(stop, Stop::Close(..)) => {
                scan.skip(1);
                match brackets.checked_sub(1) {
                    Some(left) => brackets = left,
                    None => return,
                }
            }
            b'"' | b'\'' | b'`' => {
                QUOTES.iter().any(|found| quote(scan, syntax, found, code));
            }
            b'<' if scan.ahead("<<") => scan.skip(2),
            b'?' if step_character(scan) => {}
            b'/' if pattern_of(scan, value_stands(scan), |scan, end| inside_slashes(scan, syntax, end)) => {}
            b'%' if percent(scan, syntax) => {}
            // `$#` and the like are names.
            b'$' => scan.skip(2),
            _ => scan.skip(1),
        }
    }
}

/// Whether a pattern may begin here: behind a name, it may be what a call is given.
fn value_stands(scan: &Scan<'_>) -> Option<bool> {
    let is_apart = scan.before() == Some(b' ') && !scan.peek(1).is_ascii_whitespace();
    value_may_stand(scan).filter(|stands| *stands || !is_apart)
}

/// From `=begin` up to the line that begins with `=end`.
fn remark(scan: &mut Scan<'_>) {
    let end = scan.find(b"\n=end", scan.at).map(|at| line_end(scan.text, at + 1));
    let end = end.map_or(scan.text.len(), |end| end - usize::from(scan.text[..end].ends_with(b"\n")));
    scan.comment(end);
}

/// The inside of a pattern may hold code, and so go on over what looks like its end.
fn inside_slashes(scan: &mut Scan<'_>, syntax: &Syntax, end: usize) {
    let has_code = memchr::memmem::find(&scan.text[scan.at..end], b"#{").is_some();
    if has_code {
        scan.skip(1);
        delimited(scan, syntax, b'/', true);
    } else {
        scan.go(end);
    }
}

/// `%w[…]`, `%q(…)`, `%(…)`, where a value may stand. Where that cannot be told, what is left of the line is text.
fn percent(scan: &mut Scan<'_>, syntax: &Syntax) -> bool {
    let letter = scan.peek(1);
    let named = b"qQwWiIrsx".contains(&letter) && !is_word(scan.peek(2)) && !scan.peek(2).is_ascii_whitespace();
    let open = if named { scan.peek(2) } else { letter };
    if !named && !b"([{<|!/^".contains(&open) || open == b'=' || open == 0 {
        return false;
    }
    let before = scan.before();
    let is_apart = before.is_some_and(|byte| byte == b' ' || byte == b'\t');
    match value_may_stand(scan) {
        Some(true) => {}
        Some(false) if !is_apart => return false,
        // `puts %w(a b)` is a call, `a %(b)` a remainder.
        Some(false) if named => {}
        Some(false) | None => {
            scan.line_is_text();
            return true;
        }
    }
    scan.skip(if named { 3 } else { 2 });
    delimited(scan, syntax, open, !matches!(letter, b'q' | b'w' | b'i' | b's'));
    true
}

/// What stands between two marks, with code in it where that is allowed.
fn delimited(scan: &mut Scan<'_>, syntax: &Syntax, open: u8, holds_code: bool) {
    let close = closing(open);
    let mut depth = 0;
    while !scan.is_at_end() {
        let byte = scan.peek(0);
        if holds_code && scan.ahead("#{") {
            scan.skip(2);
            scan.inside(|scan| code(scan, syntax, Stop::Close(b'{', b'}')));
            continue;
        }
        scan.skip(if byte == b'\\' { 2 } else { 1 });
        if byte == close {
            if depth == 0 {
                return;
            }
            depth -= 1;
        } else if byte == open {
            depth += 1;
        }
    }
}
