//! YAML: quotes count where a value begins, and blocks of text go on as long as they are indented.

use super::scan::Scan;
use crate::internal::text::bytes::line_end;

/// Reads a stream of documents.
pub(super) fn stream(scan: &mut Scan<'_>) {
    // How many flow collections are open, and whether a value may begin here.
    let mut flow = 0_usize;
    let mut begins = true;
    // How deep a text without quotes stands, which deeper lines go on with.
    let mut plain: Option<usize> = None;
    let mut leading = leading_in(scan);
    while !scan.is_at_end() {
        let byte = scan.peek(0);
        let apart = scan.before().is_none_or(|byte| byte.is_ascii_whitespace());
        let ends_word = matches!(scan.peek(1), b' ' | b'\t' | b'\n' | b'\r' | 0);
        match byte {
            b'\n' => {
                scan.skip(1);
                let indented = scan.rest().iter().take_while(|byte| **byte == b' ').count();
                leading = leading_in(scan);
                begins = flow > 0 || plain.is_none_or(|depth| indented <= depth);
                plain = plain.filter(|_| !begins);
            }
            b' ' | b'\t' | b'\r' => scan.skip(1),
            b'#' if apart => {
                plain = None;
                let end = scan.content_end();
                scan.comment(end);
            }
            b'"' if begins => {
                let end = scan.end_of_delimited(scan.at, true);
                scan.go(end.unwrap_or(scan.text.len()));
                begins = false;
            }
            b'\'' if begins => {
                single_quoted(scan);
                begins = false;
            }
            b'|' | b'>' if begins && flow == 0 => {
                block(scan);
                begins = false;
            }
            // A tag or an anchor stands before its value.
            b'&' | b'!' if begins => word(scan),
            b'*' if begins => {
                word(scan);
                begins = false;
            }
            b'[' | b'{' if begins => {
                flow += 1;
                scan.skip(1);
            }
            b']' | b'}' if flow > 0 => {
                flow -= 1;
                begins = false;
                scan.skip(1);
            }
            b',' if flow > 0 => {
                begins = true;
                scan.skip(1);
            }
            b'-' | b'?' if begins && ends_word => scan.skip(1),
            b'-' if scan.ahead("---") && scan.starts_line() => scan.skip(3),
            b':' if ends_word || flow > 0 => {
                (begins, plain) = (true, None);
                scan.skip(1);
            }
            _ => {
                if begins && flow == 0 {
                    plain = Some(leading);
                }
                begins = false;
                scan.skip(1);
            }
        }
    }
}

/// The indentation of the line that begins here, with the marks of lists.
fn leading_in(scan: &Scan<'_>) -> usize {
    scan.rest().iter().take_while(|byte| matches!(byte, b' ' | b'-' | b'?')).count()
}

fn word(scan: &mut Scan<'_>) {
    while !scan.is_at_end() && !scan.peek(0).is_ascii_whitespace() && !matches!(scan.peek(0), b',' | b']' | b'}') {
        scan.skip(1);
    }
}

/// Quoted text in which a doubled quote stands for one.
fn single_quoted(scan: &mut Scan<'_>) {
    scan.skip(1);
    while !scan.is_at_end() {
        scan.skip_past(b"'");
        if scan.peek(0) != b'\'' {
            return;
        }
        scan.skip(1);
    }
}

/// A `|` or `>` with its signs, and the deeper lines below it.
fn block(scan: &mut Scan<'_>) {
    let signs = scan.rest()[1..].iter().take_while(|byte| matches!(byte, b'+' | b'-' | b'0'..=b'9')).count();
    let behind = &scan.rest()[1 + signs..];
    let blanks = behind.iter().take_while(|byte| matches!(byte, b' ' | b'\t' | b'\r')).count();
    let has_remark = behind.get(blanks) == Some(&b'#') && blanks > 0;
    if !has_remark && behind.get(blanks).is_some_and(|byte| *byte != b'\n') {
        // No block begins here.
        return scan.skip(1);
    }
    let depth = depth_of(scan);
    if has_remark {
        scan.skip(1 + signs + blanks);
        scan.comment(scan.content_end());
    }
    scan.go(line_end(scan.text, scan.at));
    while !scan.is_at_end() {
        let next = line_end(scan.text, scan.at);
        let line = &scan.text[scan.at..next];
        let indented = line.iter().take_while(|&&byte| byte == b' ').count();
        let is_end = match depth {
            Some(depth) => indented <= depth,
            // A text that is all of its document ends with the document.
            None => line.starts_with(b"---") || line.starts_with(b"..."),
        };
        if !line.trim_ascii().is_empty() && is_end {
            break;
        }
        scan.go(next);
    }
    // The last line end belongs to what follows.
    if scan.before() == Some(b'\n') {
        scan.at -= 1;
    }
}

/// How deep the lines of a block must be indented at least, less one: as deep as what the block is the value of. None where it is the value
/// of the whole document.
fn depth_of(scan: &Scan<'_>) -> Option<usize> {
    let line = scan.line_before();
    if line.starts_with(b"---") {
        return None;
    }
    // Tags and anchors before the sign, and the marks of lists before them, do not change what it belongs to.
    let leading = line.iter().take_while(|byte| matches!(byte, b' ' | b'-' | b'?')).count();
    let own = line[leading..].trim_ascii();
    let is_property = own.split(u8::is_ascii_whitespace).all(|word| word.is_empty() || matches!(word[0], b'!' | b'&'));
    let marks = line[..leading].iter().rposition(|byte| matches!(byte, b'-' | b'?'));
    if !is_property {
        return Some(leading);
    }
    match marks {
        Some(mark) => Some(mark),
        // The sign stands alone in its line: what it is the value of stands above.
        None => (leading > 0).then_some(0),
    }
}
