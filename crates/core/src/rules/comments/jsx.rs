//! Markup inside scripts: elements with attributes, text, and code in braces. In the text nothing is a comment.

use super::scan::{ReadCode, Scan, Stop, is_word};
use crate::internal::rules::syntax::Syntax;

/// What is no element is told within so many bytes; where it takes more, all that is left is text.
const TOLD_WITHIN: usize = 1024;

/// So often what looks like an element may be none.
const MOST_FAILURES: usize = 1000;

/// Steps over an element that begins here, if a value may stand. What does not close as an element does is none.
pub(super) fn element(scan: &mut Scan<'_>, syntax: &Syntax, read: ReadCode, may_stand: bool) -> bool {
    let next = scan.peek(1);
    if !(next.is_ascii_alphabetic() || next == b'>') || !may_stand {
        return false;
    }
    let (start, found) = (scan.at, scan.found.len());
    let mut closed = false;
    scan.nested(|scan| closed = is_closed_element(scan, syntax, read));
    scan.failures += usize::from(!closed);
    if !closed && (scan.at - start > TOLD_WITHIN || scan.failures > MOST_FAILURES) {
        scan.rest_is_text();
        return true;
    }
    if !closed {
        scan.at = start;
        scan.found.truncate(found);
    }
    closed
}

/// Reads an element with all that is in it; whether it is closed.
fn is_closed_element(scan: &mut Scan<'_>, syntax: &Syntax, read: ReadCode) -> bool {
    let mut open = 0_usize;
    loop {
        // A tag begins here.
        let closes = scan.peek(1) == b'/';
        scan.skip(if closes { 2 } else { 1 });
        match tag(scan, syntax, read) {
            None => return false,
            Some(_) if closes => open -= 1,
            Some(true) => {}
            Some(false) => open += 1,
        }
        while open > 0 && scan.peek(0) != b'<' {
            if scan.is_at_end() {
                return false;
            }
            if scan.peek(0) == b'{' {
                scan.skip(1);
                read(scan, syntax, Stop::Close(b'{', b'}'));
            } else {
                scan.skip(1);
            }
        }
        if open == 0 {
            return true;
        }
    }
}

/// Reads a tag behind its bracket; whether it closes itself.
fn tag(scan: &mut Scan<'_>, syntax: &Syntax, read: ReadCode) -> Option<bool> {
    loop {
        match scan.peek(0) {
            b'>' => {
                scan.skip(1);
                return Some(false);
            }
            b'/' if scan.peek(1) == b'>' => {
                scan.skip(2);
                return Some(true);
            }
            b'{' => {
                scan.skip(1);
                read(scan, syntax, Stop::Close(b'{', b'}'));
            }
            quote @ (b'"' | b'\'') => {
                scan.skip(1);
                scan.skip_past(&[quote]);
            }
            byte if is_word(byte) || byte.is_ascii_whitespace() || b"=-:.$".contains(&byte) => scan.skip(1),
            _ => return None,
        }
        if scan.is_at_end() {
            return None;
        }
    }
}
