//! Makefiles: recipes belong to the shell, and what they print is seen.

use super::scan::{Scan, content_end, is_continued};
use crate::internal::text::bytes::line_end;

/// Reads a makefile.
pub(super) fn makefile(scan: &mut Scan<'_>) {
    let mut in_definition = false;
    // Whether the line goes on from one that was text.
    let mut goes_on = false;
    while !scan.is_at_end() {
        let (start, end) = (scan.at, scan.content_end());
        let line = &scan.text[start..end];
        let is_recipe = line.starts_with(b"\t");
        let words = line.trim_ascii_start();
        let begins = words.starts_with(b"define ") || words.starts_with(b"override define ");
        if in_definition || is_recipe || goes_on || begins {
            in_definition = (in_definition || begins) && !words.starts_with(b"endef");
            goes_on = (is_recipe || goes_on) && is_continued(line);
            scan.go(line_end(scan.text, start));
            continue;
        }
        rule(scan, end);
        goes_on = false;
        let next = line_end(scan.text, scan.at);
        scan.go(next);
    }
}

/// A line that is no recipe: a comment goes on as long as its lines end with a backslash.
fn rule(scan: &mut Scan<'_>, end: usize) {
    let mut brackets = 0_usize;
    let mut has_colon = false;
    while scan.at < end {
        match scan.peek(0) {
            b'\\' => scan.skip(2),
            b'$' if matches!(scan.peek(1), b'(' | b'{') => {
                brackets += 1;
                scan.skip(2);
            }
            b')' | b'}' => {
                brackets = brackets.saturating_sub(1);
                scan.skip(1);
            }
            // Behind a semicolon, the line of a rule is a recipe.
            b';' if has_colon => return scan.go(end),
            b':' => {
                has_colon = true;
                scan.skip(1);
            }
            b'#' if brackets == 0 => {
                let mut last = end;
                while last < scan.text.len() && is_continued(&scan.text[scan.at..last]) {
                    last = content_end(scan.text, line_end(scan.text, last));
                }
                return scan.comment(last);
            }
            // Inside a call it depends on the version.
            b'#' => return scan.go(end),
            _ => scan.skip(1),
        }
    }
}
