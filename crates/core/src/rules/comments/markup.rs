//! Pages: comments stand between tags, quotes count inside them, and scripts and style sheets have comments of their own.

use super::code::code;
use super::scan::{Scan, Stop};
use crate::internal::rules::languages::{SCRIPT, STYLE};
use crate::internal::rules::syntax::Syntax;

/// Elements whose contents are text, whatever they look like.
const TEXT_ELEMENTS: [&str; 6] = ["textarea", "title", "xmp", "iframe", "noembed", "noframes"];

/// Reads a page up to a mark, or to the end. In a page of XML, scripts are elements like any other.
pub(super) fn page(scan: &mut Scan<'_>, is_html: bool, until: Option<&str>) {
    while let Some(found) = memchr::memchr(b'<', scan.rest()) {
        scan.skip(found);
        if until.is_some_and(|mark| scan.ahead(mark)) {
            return;
        }
        if scan.ahead("<!--") {
            comment(scan, is_html);
        } else if scan.ahead("<![CDATA[") {
            scan.skip_past(b"]]>");
        } else if scan.ahead("<?") {
            scan.skip_past(b"?>");
        } else if scan.ahead("<!") {
            declaration(scan);
        } else if scan.peek(1).is_ascii_alphabetic() || scan.peek(1) == b'/' {
            tag(scan, is_html);
        } else {
            scan.skip(1);
        }
    }
    scan.rest_is_text();
}

/// Code between `<?` and `?>`, in a page.
pub(super) fn islands(scan: &mut Scan<'_>, syntax: &Syntax) {
    while !scan.is_at_end() {
        page(scan, true, Some("<?"));
        scan.skip(2);
        code(scan, syntax, Stop::Mark("?>"));
    }
}

fn comment(scan: &mut Scan<'_>, is_html: bool) {
    let inside = &scan.rest()[4..];
    // These close at once, and what follows is text.
    if is_html && (inside.starts_with(b">") || inside.starts_with(b"->")) {
        return scan.skip(4);
    }
    let end = scan.find(b"-->", scan.at + 4).map(|at| at + 3);
    let other = if is_html { scan.find(b"--!>", scan.at + 4).map(|at| at + 4) } else { None };
    let end = match (end, other) {
        (Some(end), Some(other)) => end.min(other),
        (end, other) => end.or(other).unwrap_or(scan.text.len()),
    };
    // What is shown by some browsers is no remark.
    let is_condition = is_html && (inside.starts_with(b"[if") || inside.starts_with(b"<![endif"));
    if is_condition {
        scan.go(end);
    } else {
        scan.comment(end);
    }
}

/// `<!DOCTYPE …>`, `<!ENTITY …>`: quotes count in it, and so do the declarations in its brackets.
fn declaration(scan: &mut Scan<'_>) {
    scan.skip(2);
    while !scan.is_at_end() {
        match scan.peek(0) {
            // The declarations inside are read like those outside, and so are comments among them.
            b'>' | b'[' => return scan.skip(1),
            quote @ (b'"' | b'\'') => {
                scan.skip(1);
                scan.skip_past(&[quote]);
            }
            _ => scan.skip(1),
        }
    }
}

/// A tag with its attributes; of a script or a style sheet, what it holds too.
fn tag(scan: &mut Scan<'_>, is_html: bool) {
    let start = scan.at;
    scan.skip(1);
    let mut value_follows = false;
    while !scan.is_at_end() && scan.peek(0) != b'>' {
        let byte = scan.peek(0);
        if matches!(byte, b'"' | b'\'') && (value_follows || !is_html) {
            scan.skip(1);
            scan.skip_past(&[byte]);
            value_follows = false;
            continue;
        }
        if !byte.is_ascii_whitespace() {
            value_follows = byte == b'=';
        }
        scan.skip(1);
    }
    let head = scan.text[start..scan.at].to_ascii_lowercase();
    scan.skip(1);
    if !is_html || head.ends_with(b"/") {
        return;
    }
    let is = |name: &str| {
        head.get(1..).is_some_and(|rest| rest.starts_with(name.as_bytes()))
            && !head.get(1 + name.len()).is_some_and(u8::is_ascii_alphanumeric)
    };
    if is("script") {
        if is_script(&head) { code(scan, &SCRIPT, Stop::Mark("</script")) } else { text_up_to(scan, "</script") }
    } else if is("style") {
        code(scan, &STYLE, Stop::Mark("</style"));
    } else if let Some(name) = TEXT_ELEMENTS.iter().find(|name| is(name)) {
        text_up_to(scan, &format!("</{name}"));
    }
}

/// Whether a script tag, in small letters, says that it holds a script: data and templates have no comments.
fn is_script(head: &[u8]) -> bool {
    let Some(at) = memchr::memmem::find(head, b"type") else { return true };
    let value = head[at + 4..].trim_ascii_start();
    let Some(value) = value.strip_prefix(b"=") else { return true };
    let value = value.trim_ascii_start();
    let value = value.strip_prefix(b"\"").or_else(|| value.strip_prefix(b"'")).unwrap_or(value);
    let end = value.iter().position(|byte| b"\"'> \t\n".contains(byte)).unwrap_or(value.len());
    matches!(
        &value[..end],
        b"" | b"module" | b"text/javascript" | b"application/javascript" | b"text/ecmascript" | b"text/babel"
    )
}

fn text_up_to(scan: &mut Scan<'_>, mark: &str) {
    while !scan.is_at_end() && !scan.ahead_in_any_case(mark) {
        scan.skip(1);
    }
}
