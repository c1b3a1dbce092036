//! TeX: verbatim text, and commands whose argument is an address.

use super::scan::{Scan, closing};

/// Environments whose text is shown as it is.
const VERBATIM: [&str; 9] =
    ["verbatim", "Verbatim", "lstlisting", "minted", "alltt", "filecontents", "comment", "BVerbatim", "LVerbatim"];
/// Commands whose argument is shown as it is, or is an address.
const PLAIN: [&str; 10] =
    ["verb", "lstinline", "mintinline", "url", "href", "path", "nolinkurl", "Verb", "texttt@", "urldef"];

/// Reads a document.
pub(super) fn document(scan: &mut Scan<'_>) {
    while let Some(at) = memchr::memchr2(b'\\', b'%', scan.rest()) {
        scan.skip(at);
        if scan.peek(0) == b'%' {
            comment(scan);
        } else {
            command(scan);
        }
    }
}

/// A comment takes the line end with it, and so joins two words: behind a word, its sign stays.
fn comment(scan: &mut Scan<'_>) {
    if !scan.starts_line() && scan.before().is_some_and(|byte| !byte.is_ascii_whitespace()) {
        scan.skip(1);
    }
    let end = scan.content_end();
    scan.comment(end);
}

fn command(scan: &mut Scan<'_>) {
    let name = &scan.rest()[1..];
    let length = name.iter().take_while(|byte| byte.is_ascii_alphabetic()).count();
    if length == 0 {
        return scan.skip(2);
    }
    let name = &name[..length];
    scan.skip(1 + length);
    if name == b"begin" {
        return environment(scan);
    }
    if !PLAIN.iter().any(|plain| plain.as_bytes() == name) {
        return;
    }
    if scan.peek(0) == b'*' {
        scan.skip(1);
    }
    // Options, and for code the name of its language, come first.
    while scan.peek(0) == b'[' || name == b"mintinline" && scan.peek(0) == b'{' {
        let Some(end) = end_in_line(scan) else { return scan.line_is_text() };
        scan.go(end);
        if name == b"mintinline" && scan.text[end - 1] == b'}' {
            break;
        }
    }
    let open = scan.peek(0);
    if open == b'{' {
        match end_in_line(scan) {
            Some(end) => scan.go(end),
            None => scan.line_is_text(),
        }
        return;
    }
    if matches!(name, b"verb" | b"Verb" | b"lstinline" | b"mintinline" | b"path") && !open.is_ascii_whitespace() {
        let line = &scan.text[scan.at..scan.content_end()];
        match line.get(1..).and_then(|rest| memchr::memchr(closing(open), rest)) {
            Some(end) => scan.skip(end + 2),
            None => scan.line_is_text(),
        }
    }
}

/// Where brackets end in their line that begin here.
fn end_in_line(scan: &Scan<'_>) -> Option<usize> {
    Scan::at(&scan.text[..scan.content_end()], scan.at).end_of_delimited(scan.at, false)
}

fn environment(scan: &mut Scan<'_>) {
    let Some(rest) = scan.rest().strip_prefix(b"{") else { return };
    const LONGEST: usize = 64;
    let Some(length) = memchr::memchr(b'}', &rest[..rest.len().min(LONGEST)]) else { return };
    let name = &rest[..length];
    let bare = name.strip_suffix(b"*").unwrap_or(name);
    if VERBATIM.iter().any(|verbatim| verbatim.as_bytes() == bare) {
        scan.skip_past(&[b"\\end{", name, b"}"].concat());
    }
}
