//! Code in a language that a row of [`languages`](crate::internal::rules::languages) describes: line, block and nested comments, between
//! quoted text of every shape, which may hold code itself.

use super::documents::{self, Document};
use super::features;
use super::scan::{ReadCode, Scan, Stop, content_end, is_continued};
use crate::internal::rules::syntax::{Block, Escape, LanguageFeature, Line, MarkPosition, Quote, QuoteExtent, Syntax};
use crate::internal::text::bytes::line_end;
use crate::internal::text::words::line_end_len;

/// Reads code.
pub(super) fn code(scan: &mut Scan<'_>, syntax: &Syntax, stop: Stop) {
    let interesting = interesting(syntax, stop);
    let mut documents: Vec<Document> = Vec::new();
    let mut brackets = 0_usize;
    if scan.at == 0 && scan.ahead("#!") && !scan.ahead("#![") {
        // What runs the script is no remark.
        scan.is_no_code(scan.content_end());
        scan.line_is_text();
    }
    if scan.at == 0 && syntax.has(LanguageFeature::LeadingSettings) {
        features::leading_settings(scan);
    }
    loop {
        scan.skip_while(|byte| !interesting[usize::from(byte)]);
        if scan.is_at_end() {
            return;
        }
        let byte = scan.peek(0);
        match stop {
            Stop::Mark(mark) if scan.ahead_in_any_case(mark) => return,
            Stop::Close(_, close) if byte == close => {
                scan.skip(1);
                match brackets.checked_sub(1) {
                    Some(left) => brackets = left,
                    None => return,
                }
                continue;
            }
            Stop::Close(open, _) if byte == open => {
                brackets += 1;
                scan.skip(1);
                continue;
            }
            Stop::End | Stop::Mark(_) | Stop::Close(..) => {}
        }
        let stepped = syntax.documents.as_ref().is_some_and(|style| documents::step(scan, style, &mut documents))
            || features::step(scan, syntax, code)
            || block(scan, syntax.block)
            || line(scan, syntax, stop)
            || any_quote(scan, syntax);
        if !stepped {
            scan.skip(1);
        }
    }
}

fn stands(scan: &Scan<'_>, stands: MarkPosition, length: usize) -> bool {
    let before = scan.before();
    match stands {
        MarkPosition::Anywhere => true,
        MarkPosition::LineStart => scan.starts_line(),
        MarkPosition::NewLine => scan.starts_line() && !continues(scan),
        MarkPosition::Apart => before.is_none_or(|byte| byte.is_ascii_whitespace() || b";&|([{,:=)}]".contains(&byte)),
        MarkPosition::NoOperator => {
            let symbol = |byte: &u8| b"!#$%&*+./<=>?@\\^|~:".contains(byte);
            let end = scan.rest().iter().take_while(|&&byte| byte == b'-').count();
            !before.as_ref().is_some_and(symbol) && !scan.rest().get(end.max(length)).is_some_and(symbol)
        }
    }
}

/// Whether the line goes on from the one above, which ends with a backslash.
fn continues(scan: &Scan<'_>) -> bool {
    let above = &scan.text[..scan.line_start()];
    is_continued(&above[..above.len() - line_end_len(above)])
}

fn block(scan: &mut Scan<'_>, blocks: &[Block]) -> bool {
    let Some(block) = blocks.iter().find(|block| scan.ahead(block.open) && stands(scan, block.stands, 0)) else {
        return false;
    };
    // Some comments are orders to the compiler or to the database.
    let behind = &scan.rest()[block.open.len()..];
    let is_order = block.orders.iter().any(|order| behind.starts_with(order.as_bytes()));
    let mut depth = 1;
    let mut first_close = None;
    let mut at = scan.at + block.open.len();
    while depth > 0 {
        let Some(close) = scan.find(block.close.as_bytes(), at) else {
            at = scan.text.len();
            break;
        };
        let end = close + block.close.len();
        first_close.get_or_insert(end);
        // One may open with bytes of what looks like an end: `/*/`.
        let upto = scan.text.len().min(close + block.open.len() - 1);
        let inner = memchr::memmem::find(&scan.text[at..upto], block.open.as_bytes()).filter(|_| block.nested);
        match inner {
            Some(open) => (depth, at) = (depth + 1, at + open + block.open.len()),
            None => (depth, at) = (depth - 1, end),
        }
    }
    if is_order {
        scan.go(at);
    } else if block.may_nest {
        // Where comments may nest and may not, what lies behind the first end is text.
        scan.comment(first_close.unwrap_or(at));
        scan.go(at);
    } else {
        scan.comment(at);
    }
    // If they do not nest, a quote that opened in between may still be open: what is left of the line is text, and where the quote does
    // not end on that line, all that follows.
    if block.may_nest
        && let Some(close) = first_close.filter(|close| *close != at)
    {
        let end = scan.content_end();
        scan.go(if leaves_quote_open(&scan.text[close..end]) { scan.text.len() } else { end });
    }
    true
}

/// Whether a quote that opens in some text may end beyond it.
fn leaves_quote_open(mut text: &[u8]) -> bool {
    if memchr::memchr(b'$', text).is_some() {
        return true;
    }
    while let Some(open) = memchr::memchr3(b'\'', b'"', b'`', text) {
        let (mark, rest) = (text[open], &text[open + 1..]);
        match memchr::memchr2(mark, b'\\', rest) {
            Some(close) if rest[close] == mark => text = &rest[close + 1..],
            // What a backslash does inside a quote differs from one database to the next.
            Some(_) | None => return true,
        }
    }
    false
}

fn line(scan: &mut Scan<'_>, syntax: &Syntax, stop: Stop) -> bool {
    let fits = |line: &&Line| scan.ahead(line.mark) && stands(scan, line.stands, line.mark.len());
    let Some(line) = syntax.line.iter().find(fits) else {
        return false;
    };
    let is_attribute = line.mark == "#" && syntax.name == "PHP" && scan.ahead("#[");
    if is_attribute {
        return false;
    }
    let mut end = scan.content_end();
    while syntax.has(LanguageFeature::Continues) && end < scan.text.len() && scan.text[..end].ends_with(b"\\") {
        let next = line_end(scan.text, end);
        end = content_end(scan.text, next);
    }
    if let Stop::Mark(mark) = stop
        && let Some(inner) = memchr::memmem::find(&scan.text[scan.at..end], mark.as_bytes())
    {
        end = scan.at + inner;
    }
    scan.comment(end);
    true
}

fn any_quote(scan: &mut Scan<'_>, syntax: &Syntax) -> bool {
    let found = syntax.quotes.iter().any(|found| quote(scan, syntax, found, code));
    if found {
        scan.quote_end = scan.at;
    }
    found
}

/// Steps over quoted text. Where it has no end as its kind must, what is left of the line is text.
pub(super) fn quote(scan: &mut Scan<'_>, syntax: &Syntax, quote: &Quote, read: ReadCode) -> bool {
    if !scan.ahead(quote.open) || !stands(scan, quote.stands, 0) {
        return false;
    }
    let start = scan.at + quote.open.len();
    if quote.holds == QuoteExtent::OneCharacter {
        let Some(end) = end_of_character(scan, start, quote) else { return false };
        scan.go(end);
        return true;
    }
    scan.go(start);
    let first = |mark: &str| mark.as_bytes().first().copied().unwrap_or_default();
    let (close, opens_code) = (first(quote.close), quote.code.map_or(b'\n', |(open, ..)| first(open)));
    loop {
        scan.skip_while(|byte| !matches!(byte, b'\\' | b'`' | b'\n') && byte != close && byte != opens_code);
        if scan.is_at_end() {
            return true;
        }
        let byte = scan.peek(0);
        if let Some((open, bracket, close)) = quote.code
            && scan.ahead(open)
            && !(syntax.has(LanguageFeature::DoubledOpening) && scan.before() == Some(open.as_bytes()[0]))
        {
            scan.skip(open.len());
            scan.inside(|scan| read(scan, syntax, Stop::Close(bracket, close)));
            continue;
        }
        match quote.escape {
            Escape::Backslash if byte == b'\\' => {
                scan.skip_escaped();
                continue;
            }
            Escape::Backtick if byte == b'`' => {
                scan.skip_escaped();
                continue;
            }
            Escape::Backslash | Escape::Backtick | Escape::Doubled | Escape::Nothing => {}
        }
        if scan.ahead(quote.close) {
            let end = scan.at + quote.close.len();
            let is_doubled = matches!(quote.escape, Escape::Doubled | Escape::Backtick)
                && scan.text[end..].starts_with(quote.close.as_bytes());
            scan.go(if is_doubled { end + quote.close.len() } else { end });
            if is_doubled {
                continue;
            }
            return true;
        }
        if byte == b'\n' && quote.holds == QuoteExtent::OneLine {
            return true;
        }
        scan.skip(1);
    }
}

/// Where a quoted character ends.
fn end_of_character(scan: &Scan<'_>, start: usize, quote: &Quote) -> Option<usize> {
    const LONGEST: usize = 12;
    let rest = &scan.text[start..scan.text.len().min(start + LONGEST)];
    let escaped = usize::from(rest.first() == Some(&b'\\')) * 2;
    let close = memchr::memmem::find(rest.get(escaped..)?, quote.close.as_bytes())? + escaped;
    let inside = std::str::from_utf8(&rest[..close]).ok().filter(|inside| !inside.contains('\n'))?;
    (inside.starts_with('\\') || inside.chars().count() == 1).then_some(start + close + quote.close.len())
}

/// The bytes at which something may begin.
fn interesting(syntax: &Syntax, stop: Stop) -> [bool; 256] {
    let mut table = [false; 256];
    let marks = syntax.line.iter().map(|line| line.mark).chain(syntax.block.iter().map(|block| block.open));
    let marks = marks.chain(syntax.quotes.iter().map(|quote| quote.open));
    for mark in marks.chain(syntax.documents.iter().map(|style| style.open)) {
        table[usize::from(mark.as_bytes()[0])] = true;
    }
    table[usize::from(b'\n')] = syntax.documents.is_some();
    let mut add = |bytes: &[u8]| bytes.iter().for_each(|byte| table[usize::from(*byte)] = true);
    match stop {
        Stop::End => {}
        Stop::Mark(mark) => add(&mark.as_bytes()[..1]),
        Stop::Close(open, close) => add(&[open, close]),
    }
    for feature in syntax.features {
        add(features::begins_with(*feature));
    }
    table
}
