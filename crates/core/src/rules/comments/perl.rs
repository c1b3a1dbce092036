//! Perl: quote-like operators with any mark, documents, formats, and remarks in plain old documentation.

use super::documents::{self, Document};
use super::features::{pattern_of, value_may_stand};
use super::scan::{Scan, closing, is_word};
use crate::internal::rules::syntax::{DocumentStyle, Indentation};
use crate::internal::text::bytes::line_end;

const DOCUMENTS: DocumentStyle =
    DocumentStyle { open: "<<", apart: false, small: true, minus: Indentation::Blanks, loose: false };

/// Reads a program.
pub(super) fn program(scan: &mut Scan<'_>) {
    let mut documents: Vec<Document> = Vec::new();
    if scan.ahead("#!") {
        scan.line_is_text();
    }
    while !scan.is_at_end() {
        let byte = scan.peek(0);
        let starts_line = scan.before().is_none_or(|byte| byte == b'\n');
        match byte {
            b'\n' | b'<' if documents::step(scan, &DOCUMENTS, &mut documents) => {}
            b'_' if starts_line && (scan.ahead("__END__") || scan.ahead("__DATA__")) => return scan.rest_is_text(),
            b'=' if starts_line && scan.peek(1).is_ascii_alphabetic() => remark(scan),
            b'f' if starts_line && format_begins(scan) => scan.skip_past(b"\n.\n"),
            b'#' if scan.before().is_none_or(|byte| byte.is_ascii_whitespace() || b";{}()[],".contains(&byte)) => {
                let end = scan.content_end();
                scan.comment(end);
            }
            b'#' => scan.line_is_text(),
            // `$#list`, `$'`, `@"` and the like are names.
            b'$' | b'@' | b'%' | b'&' if !is_word(scan.peek(1)) && scan.peek(1) != b'{' && byte == b'$' => {
                scan.skip(2);
            }
            b'$' | b'@' | b'%' | b'&' | b'>' if is_word(scan.peek(1)) => skip_word(scan, 1),
            b'"' | b'\'' | b'`' => delimited(scan, 0),
            b'<' if scan.ahead("<<") => scan.skip(2),
            b'/' if pattern_of(scan, value_stands(scan), |scan, end| scan.go(end)) => {}
            _ if is_word(byte) => {
                if !quote_like(scan) {
                    skip_word(scan, 0);
                }
            }
            _ => scan.skip(1),
        }
    }
}

/// Whether a pattern may begin here: behind the name of a function, it may be what that is given.
fn value_stands(scan: &Scan<'_>) -> Option<bool> {
    const FUNCTIONS: [&[u8]; 8] = [b"split", b"grep", b"map", b"join", b"push", b"unshift", b"lt", b"gt"];
    let above = scan.above();
    let length = above.iter().rev().take_while(|byte| is_word(**byte)).count();
    let (rest, word) = above.split_at(above.len() - length);
    let is_bare = word.first().is_some_and(|byte| !byte.is_ascii_digit())
        && !rest.last().is_some_and(|byte| b"$@%&>:".contains(byte));
    match value_may_stand(scan) {
        Some(false) if FUNCTIONS.contains(&word) && is_bare => Some(true),
        Some(false) if is_bare => None,
        stands => stands,
    }
}

fn skip_word(scan: &mut Scan<'_>, from: usize) {
    let length = scan.rest()[from..].iter().take_while(|byte| is_word(**byte)).count();
    scan.skip(from + length.max(1));
}

/// From a line that begins with `=` and a word up to the line after `=cut`.
fn remark(scan: &mut Scan<'_>) {
    let end = if scan.ahead("=cut") { Some(scan.at) } else { scan.find(b"\n=cut", scan.at).map(|at| at + 1) };
    let end = end.map_or(scan.text.len(), |at| line_end(scan.text, at));
    scan.comment(end - usize::from(scan.text[..end].ends_with(b"\n")));
}

/// Whether a line begins a format, whose lines are text.
fn format_begins(scan: &Scan<'_>) -> bool {
    let line = &scan.text[scan.at..scan.content_end()];
    line.strip_prefix(b"format")
        .is_some_and(|rest| rest.first().is_none_or(|byte| !is_word(*byte)) && rest.trim_ascii_end().ends_with(b"="))
}

/// `q(…)`, `qw/…/`, `s{…}{…}`, `tr#…#…#`: steps over one that begins here.
fn quote_like(scan: &mut Scan<'_>) -> bool {
    let length = scan.rest().iter().take_while(|byte| is_word(**byte)).count();
    let parts = match &scan.rest()[..length] {
        b"q" | b"qq" | b"qw" | b"qr" | b"qx" | b"m" => 1,
        b"s" | b"tr" | b"y" => 2,
        _ => return false,
    };
    // A name of that kind: a key, a method, a function.
    let above = scan.above();
    let is_name =
        above.ends_with(b"->") || above.ends_with(b"sub") || above.ends_with(b"{") && scan.peek(length) == b'}';
    let rest = &scan.rest()[length..];
    let blanks = rest.len() - rest.trim_ascii_start().len();
    let open = rest.get(blanks).copied().unwrap_or_default();
    let is_mark = open != 0 && !open.is_ascii_whitespace() && !is_word(open) && (open != b'#' || blanks == 0);
    let is_key = rest[blanks..].starts_with(b"=>") || matches!(open, b',' | b';' | b')') || open == b'=' && blanks > 0;
    if is_name || !is_mark || is_key {
        return false;
    }
    scan.skip(length + blanks);
    delimited(scan, 0);
    if parts == 2 {
        if closing(open) == open {
            // The second part has no mark of its own before it.
            delimited_from_inside(scan, open);
        } else {
            while scan.peek(0).is_ascii_whitespace() && !scan.is_at_end() {
                scan.skip(1);
            }
            if scan.peek(0) == b'#' {
                scan.line_is_text();
                return true;
            }
            delimited(scan, 0);
        }
    }
    true
}

/// Steps over what stands between two marks; the first is so many bytes ahead. Without an end, all that is left is text.
fn delimited(scan: &mut Scan<'_>, ahead: usize) {
    let end = scan.end_of_delimited(scan.at + ahead, true);
    scan.go(end.unwrap_or(scan.text.len()));
}

fn delimited_from_inside(scan: &mut Scan<'_>, mark: u8) {
    while !scan.is_at_end() && scan.peek(0) != mark {
        scan.skip(if scan.peek(0) == b'\\' { 2 } else { 1 });
    }
    scan.skip(1);
}
