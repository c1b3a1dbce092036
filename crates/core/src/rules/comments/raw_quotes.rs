//! Quoted text that ends in a way of its own, language by language.

use super::scan::{ReadCode, Scan, Stop, closing, is_word};
use crate::internal::rules::syntax::Syntax;

/// How often a byte stands in a row from a place on.
pub(super) fn count(scan: &Scan<'_>, from: usize, byte: u8) -> usize {
    scan.text[from.min(scan.text.len())..].iter().take_while(|next| **next == byte).count()
}

/// The place behind a mark, or the end of the text where it does not come.
pub(super) fn past(scan: &Scan<'_>, mark: &[u8], from: usize) -> usize {
    scan.find(mark, from).map_or(scan.text.len(), |at| at + mark.len())
}

/// `r"…"`, `r#"…"#`: Rust.
pub(super) fn hashed_quote(scan: &Scan<'_>) -> Option<usize> {
    let hashes = count(scan, scan.at + 1, b'#');
    // `br` and `cr` are prefixes too; other words that end in `r` are not.
    if !matches!(scan.word_before(), b"" | b"b" | b"c") || scan.peek(1 + hashes) != b'"' {
        return None;
    }
    let close = [&b"\""[..], &vec![b'#'; hashes]].concat();
    Some(past(scan, &close, scan.at + 2 + hashes))
}

/// `#"…"#` and `##"""…"""##`, with code behind `\#(`; `#/…/#`: Swift.
pub(super) fn swift_quote(scan: &mut Scan<'_>, syntax: &Syntax, read: ReadCode) -> bool {
    let hashes = count(scan, scan.at, b'#');
    let signs = vec![b'#'; hashes];
    let quotes: &[u8] = match scan.peek(hashes) {
        b'/' => b"/",
        b'"' if scan.rest()[hashes..].starts_with(b"\"\"\"") => b"\"\"\"",
        b'"' => b"\"",
        _ => return false,
    };
    let (close, opens) = ([quotes, &signs].concat(), [&b"\\"[..], &signs, b"("].concat());
    scan.skip(hashes + quotes.len());
    while !scan.is_at_end() {
        if scan.rest().starts_with(&close) {
            scan.skip(close.len());
            return true;
        }
        if scan.rest().starts_with(&opens) {
            scan.skip(opens.len());
            scan.inside(|scan| read(scan, syntax, Stop::Close(b'(', b')')));
        } else {
            scan.skip(1);
        }
    }
    true
}

/// `R"name(…)name"`: C++.
pub(super) fn named_quote(scan: &Scan<'_>) -> Option<usize> {
    let prefix = scan.word_before();
    let is_name = scan.text[..scan.at - prefix.len()].ends_with(b"$");
    if is_name || !matches!(prefix, b"" | b"u8" | b"u" | b"U" | b"L") {
        return None;
    }
    let name = scan.rest().strip_prefix(b"R\"")?;
    let length = name.iter().take(17).position(|&byte| byte == b'(')?;
    if name[..length].iter().any(|byte| byte.is_ascii_whitespace() || b"\\)".contains(byte)) {
        return None;
    }
    let close = [&b")"[..], &name[..length], b"\""].concat();
    Some(past(scan, &close, scan.at))
}

/// `$$…$$`, `$tag$…$tag$`: PostgreSQL.
pub(super) fn dollar_quote(scan: &Scan<'_>) -> Option<usize> {
    let length = scan.rest()[1..].iter().take_while(|byte| is_word(**byte)).count();
    let tag = scan.rest().get(..length + 2)?;
    let is_tag = tag.ends_with(b"$") && !tag[1].is_ascii_digit() && !scan.before().is_some_and(is_word);
    is_tag.then(|| past(scan, tag, scan.at + tag.len()))
}

/// `r"(…)"`, `R"---[…]---"`: R.
pub(super) fn raw_brackets(scan: &Scan<'_>) -> Option<usize> {
    let quote = scan.peek(1);
    if !scan.word_before().is_empty() || !matches!(quote, b'"' | b'\'') {
        return None;
    }
    let dashes = count(scan, scan.at + 2, b'-');
    let open = scan.peek(2 + dashes);
    if !matches!(open, b'(' | b'[' | b'{') {
        return None;
    }
    let close = [&[closing(open)][..], &vec![b'-'; dashes], &[quote]].concat();
    Some(past(scan, &close, scan.at))
}

/// Quoted text of C#: `"""…"""` with as many quotes as one likes, `@"…"`, and with code in braces behind `$`.
pub(super) fn many_quotes(scan: &mut Scan<'_>, syntax: &Syntax, read: ReadCode) -> bool {
    let signs = scan.rest().iter().take_while(|byte| matches!(byte, b'$' | b'@')).count();
    let prefix = &scan.rest()[..signs];
    let (dollars, verbatim) = (prefix.iter().filter(|byte| **byte == b'$').count(), prefix.contains(&b'@'));
    let quotes = count(scan, scan.at + signs, b'"');
    if quotes == 0 || signs == 0 && quotes < 3 {
        return false;
    }
    if quotes >= 3 && !verbatim {
        scan.skip(signs + quotes);
        let close = vec![b'"'; quotes];
        while !scan.is_at_end() && !scan.rest().starts_with(&close) {
            if dollars > 0 && count(scan, scan.at, b'{') >= dollars {
                scan.skip(count(scan, scan.at, b'{'));
                scan.inside(|scan| read(scan, syntax, Stop::Close(b'{', b'}')));
            } else {
                scan.skip(1);
            }
        }
        scan.skip(count(scan, scan.at, b'"'));
        return true;
    }
    scan.skip(signs + 1);
    while !scan.is_at_end() {
        match scan.peek(0) {
            b'"' if verbatim && scan.peek(1) == b'"' => scan.skip(2),
            b'"' => {
                scan.skip(1);
                return true;
            }
            b'\\' if !verbatim => scan.skip_escaped(),
            b'{' if dollars > 0 && scan.peek(1) == b'{' => scan.skip(2),
            b'{' if dollars > 0 => {
                scan.skip(1);
                scan.inside(|scan| read(scan, syntax, Stop::Close(b'{', b'}')));
            }
            b'\n' if !verbatim => return true,
            _ => scan.skip(1),
        }
    }
    true
}

/// `@"` at the end of a line up to `"@` at the start of one; a backtick before any sign; `$#` and the like: PowerShell.
pub(super) fn here_string(scan: &mut Scan<'_>) -> bool {
    match (scan.peek(0), scan.peek(1)) {
        (b'`', _) => scan.skip_escaped(),
        (b'$', b'#' | b'$' | b'?' | b'^') => scan.skip(2),
        (b'@', quote @ (b'"' | b'\'')) => {
            let rest = &scan.rest()[2..];
            let blanks = rest.iter().take_while(|byte| matches!(byte, b' ' | b'\t' | b'\r')).count();
            if rest.get(blanks).is_some_and(|byte| *byte != b'\n') {
                return false;
            }
            scan.skip_past(&[b'\n', quote, b'@']);
        }
        _ => return false,
    }
    true
}

/// `[name| … |]`: Haskell.
pub(super) fn quasiquote(scan: &Scan<'_>) -> Option<usize> {
    let length = scan.rest()[1..].iter().take_while(|byte| is_word(**byte) || **byte == b'.').count();
    (length > 0 && scan.peek(1 + length) == b'|').then(|| past(scan, b"|]", scan.at))
}

/// `{|…|}`, `{name|…|name}`: OCaml.
pub(super) fn braced_quote(scan: &Scan<'_>) -> Option<usize> {
    let length = scan.rest()[1..].iter().take_while(|byte| byte.is_ascii_lowercase() || **byte == b'_').count();
    if scan.peek(1 + length) != b'|' {
        return None;
    }
    let close = [&b"|"[..], &scan.rest()[1..=length], b"}"].concat();
    Some(past(scan, &close, scan.at + length + 2))
}

/// `f"…{code}…"`: Python.
pub(super) fn formatted_quote(scan: &mut Scan<'_>, syntax: &Syntax, read: ReadCode) -> bool {
    let length = scan.rest().iter().take(3).take_while(|byte| byte.is_ascii_alphabetic()).count();
    let quote = scan.peek(length);
    let word = [scan.word_before(), &scan.rest()[..length]].concat();
    let is_prefix = word.len() <= 2 && word.iter().all(|byte| b"fFrR".contains(byte));
    if !is_prefix || !matches!(quote, b'"' | b'\'') {
        return false;
    }
    scan.skip(length);
    let triple = [quote; 3];
    let close = if scan.rest().starts_with(&triple) { triple.to_vec() } else { vec![quote] };
    scan.skip(close.len());
    while !scan.is_at_end() && !scan.rest().starts_with(&close) {
        match scan.peek(0) {
            b'\\' => scan.skip_escaped(),
            b'{' if scan.peek(1) == b'{' => scan.skip(2),
            b'{' => {
                scan.skip(1);
                scan.inside(|scan| read(scan, syntax, Stop::Close(b'{', b'}')));
            }
            b'\n' if close.len() == 1 => return true,
            _ => scan.skip(1),
        }
    }
    scan.skip(close.len());
    true
}
