//! What languages do beyond comments and plain quotes: a step for each.

use super::jsx;
use super::raw_quotes::{
    braced_quote, count, dollar_quote, formatted_quote, hashed_quote, here_string, many_quotes, named_quote, past,
    quasiquote, raw_brackets, swift_quote,
};
use super::scan::{ReadCode, Scan, Stop, closing, is_word};
use crate::internal::rules::syntax::{LanguageFeature, Syntax};
use crate::internal::text::bytes::line_end;

/// The bytes at which a feature may begin.
pub(super) fn begins_with(feature: LanguageFeature) -> &'static [u8] {
    match feature {
        LanguageFeature::Escapes => b"\\",
        LanguageFeature::HashedQuotes => b"r",
        LanguageFeature::HashedBefore => b"#",
        LanguageFeature::NamedQuotes => b"R",
        LanguageFeature::LongBrackets => b"[-",
        LanguageFeature::BracketArguments => b"[#",
        LanguageFeature::Patterns | LanguageFeature::Slashy => b"/$",
        LanguageFeature::DollarQuotes => b"$",
        LanguageFeature::Sigils => b"~",
        LanguageFeature::CharacterSign => b"?",
        LanguageFeature::DollarCharacter => b"$",
        LanguageFeature::RawBrackets => b"rR",
        LanguageFeature::PercentOperators => b"%",
        LanguageFeature::ManyQuotes => b"\"$@",
        LanguageFeature::HereStrings => b"@`$",
        LanguageFeature::Directives => b"#",
        LanguageFeature::Quasiquotes => b"[",
        LanguageFeature::BracedQuotes => b"{",
        LanguageFeature::Digits => b"'",
        LanguageFeature::FormattedQuotes => b"fF",
        LanguageFeature::BackslashInQuotes => b"'",
        LanguageFeature::QuotesInComments => b"(",
        LanguageFeature::Elements => b"<",
        LanguageFeature::Continues | LanguageFeature::DoubledOpening | LanguageFeature::LeadingSettings => b"",
    }
}

/// Steps over what a feature of the language makes of the text that comes next.
pub(super) fn step(scan: &mut Scan<'_>, syntax: &Syntax, read: ReadCode) -> bool {
    syntax.features.iter().any(|feature| {
        begins_with(*feature).contains(&scan.peek(0))
            && match feature {
                LanguageFeature::Escapes => take(scan, |scan| Some(scan.at + 2)),
                LanguageFeature::HashedQuotes => take(scan, hashed_quote),
                LanguageFeature::HashedBefore => swift_quote(scan, syntax, read),
                LanguageFeature::NamedQuotes => take(scan, named_quote),
                LanguageFeature::LongBrackets => long_brackets(scan),
                LanguageFeature::BracketArguments => bracket_arguments(scan),
                LanguageFeature::Patterns => pattern(scan),
                LanguageFeature::Slashy => slashy(scan),
                LanguageFeature::DollarQuotes => take(scan, dollar_quote),
                LanguageFeature::Sigils => sigil(scan, syntax, read),
                LanguageFeature::CharacterSign => take(scan, character_sign),
                LanguageFeature::DollarCharacter => take(scan, dollar_character),
                LanguageFeature::RawBrackets => take(scan, raw_brackets),
                LanguageFeature::PercentOperators => take(scan, percent_operator),
                LanguageFeature::ManyQuotes => many_quotes(scan, syntax, read),
                LanguageFeature::HereStrings => here_string(scan),
                LanguageFeature::Directives => directive(scan),
                LanguageFeature::Quasiquotes => take(scan, quasiquote),
                LanguageFeature::BracedQuotes => take(scan, braced_quote),
                LanguageFeature::Digits => digits(scan),
                LanguageFeature::FormattedQuotes => formatted_quote(scan, syntax, read),
                LanguageFeature::BackslashInQuotes => backslash_in_quotes(scan),
                LanguageFeature::QuotesInComments => quotes_in_comments(scan),
                LanguageFeature::Elements => jsx::element(scan, syntax, read, value_may_stand(scan) == Some(true)),
                LanguageFeature::Continues | LanguageFeature::DoubledOpening | LanguageFeature::LeadingSettings => {
                    false
                }
            }
    })
}

fn take(scan: &mut Scan<'_>, end: impl FnOnce(&Scan<'_>) -> Option<usize>) -> bool {
    let found = end(scan);
    if let Some(end) = found {
        scan.go(end);
    }
    found.is_some()
}

/// Where `[[…]]`, `[=[…]=]` ends that begins at a place.
fn long_bracket(scan: &Scan<'_>, at: usize) -> Option<usize> {
    let level = count(scan, at + 1, b'=');
    if scan.text.get(at) != Some(&b'[') || scan.text.get(at + 1 + level) != Some(&b'[') {
        return None;
    }
    let close = [&b"]"[..], &vec![b'='; level], b"]"].concat();
    Some(past(scan, &close, at + 2 + level))
}

/// Long brackets, which are comments behind `--`: Lua.
fn long_brackets(scan: &mut Scan<'_>) -> bool {
    if scan.ahead("--[") {
        let end = long_bracket(scan, scan.at + 2);
        if let Some(end) = end {
            scan.comment(end);
        }
        return end.is_some();
    }
    take(scan, |scan| long_bracket(scan, scan.at))
}

/// Long brackets, which are comments behind `#`: CMake.
fn bracket_arguments(scan: &mut Scan<'_>) -> bool {
    if scan.ahead("#[") {
        let end = long_bracket(scan, scan.at + 1);
        if let Some(end) = end {
            scan.comment(end);
        }
        return end.is_some();
    }
    take(scan, |scan| long_bracket(scan, scan.at))
}

/// Whether a value may stand here, so that a `/` begins a pattern; `None` where that cannot be told.
pub(super) fn value_may_stand(scan: &Scan<'_>) -> Option<bool> {
    const WORDS: [&[u8]; 20] = [
        b"return", b"typeof", b"case", b"in", b"of", b"if", b"when", b"and", b"or", b"not", b"unless", b"until",
        b"while", b"else", b"do", b"yield", b"await", b"delete", b"void", b"throw",
    ];
    let above = scan.above();
    let word = &above[above.len() - above.iter().rev().take_while(|byte| is_word(**byte)).count()..];
    let before = above[..above.len() - word.len()].last();
    match above.last() {
        None => Some(true),
        // `a++ / b` divides.
        Some(b'+' | b'-') if above.len() > 1 && above[above.len() - 2] == above[above.len() - 1] => None,
        // `a! / b` divides in TypeScript.
        Some(b'!') if above.iter().rev().nth(1).is_some_and(|byte| is_word(*byte) || b")]".contains(byte)) => None,
        // Behind a condition comes a value, behind a call an operator; behind a block a statement, behind an object an operator; and a slash may
        // divide, or end a pattern or a comment.
        Some(b')' | b'}' | b'/') => None,
        Some(byte) if b"(,=:[!&|?{;+-*%<>~^".contains(byte) => Some(true),
        Some(_) if WORDS.contains(&word) && before != Some(&b'.') => Some(true),
        Some(_) => Some(false),
    }
}

/// `/…/` where a value may stand, in a language whose comments begin with a slash. Where that cannot be told, what is left of the line is text;
/// and all that follows, if in one of the two readings something is left open at the end of the line.
fn pattern(scan: &mut Scan<'_>) -> bool {
    let is_comment = scan.peek(0) != b'/' || matches!(scan.peek(1), b'/' | b'*');
    let start = scan.at;
    let stands = value_may_stand(scan);
    let is_stepped = !is_comment && pattern_of(scan, stands, |scan, end| scan.go(end));
    let skipped = &scan.text[start..scan.at];
    let is_open = || {
        let opens = memchr::memmem::rfind(skipped, b"/*");
        let is_in_comment = opens.is_some_and(|at| memchr::memmem::find(&skipped[at + 2..], b"*/").is_none());
        is_in_comment || memchr::memchr_iter(b'`', skipped).count() % 2 == 1
    };
    if is_stepped && stands.is_none() && is_open() {
        scan.rest_is_text();
    }
    is_stepped
}

/// Steps over `/…/` if a value may stand; how, is said by who knows its end. Where it is not known whether one may, what is left of the line
/// is text.
pub(super) fn pattern_of(scan: &mut Scan<'_>, stands: Option<bool>, step: impl FnOnce(&mut Scan<'_>, usize)) -> bool {
    if stands == Some(false) {
        return false;
    }
    match (stands, end_of_pattern(scan)) {
        (Some(true), PatternEnd::At(end)) => step(scan, end),
        // There is no second slash: it divides.
        (_, PatternEnd::None) => return false,
        (_, PatternEnd::At(_) | PatternEnd::Far) => scan.line_is_text(),
    }
    true
}

/// Where a pattern ends.
enum PatternEnd {
    At(usize),
    /// Not in its line.
    None,
    /// Farther than patterns are long.
    Far,
}

/// Where a pattern ends that begins here.
fn end_of_pattern(scan: &Scan<'_>) -> PatternEnd {
    const LONGEST: usize = 4096;
    let mut classes = 0_usize;
    let mut at = scan.at + 1;
    while at < scan.text.len() {
        match scan.text[at] {
            b'\\' => at += 1,
            b'[' => classes += 1,
            b']' => classes = classes.saturating_sub(1),
            b'/' if classes == 0 => return PatternEnd::At(at + 1),
            b'\n' => return PatternEnd::None,
            _ => {}
        }
        at += 1;
        if at > scan.at + LONGEST {
            return PatternEnd::Far;
        }
    }
    PatternEnd::None
}

/// `/…/` and `$/…/$` over lines: Groovy.
fn slashy(scan: &mut Scan<'_>) -> bool {
    if scan.ahead("$/") {
        scan.skip(2);
        loop {
            let Some(at) = scan.find(b"/$", scan.at) else {
                scan.rest_is_text();
                return true;
            };
            let is_escaped = scan.text[..at].ends_with(b"$") && !scan.text[..at].ends_with(b"$$");
            scan.go(at + 2);
            if !is_escaped {
                return true;
            }
        }
    }
    if scan.peek(0) != b'/' || matches!(scan.peek(1), b'/' | b'*') {
        return false;
    }
    match value_may_stand(scan) {
        Some(false) => return false,
        None => scan.line_is_text(),
        Some(true) => {
            let end = scan.end_of_delimited(scan.at, true);
            scan.go(end.unwrap_or(scan.text.len()));
        }
    }
    true
}

/// `~r/…/`, `~S"""…"""`: Elixir.
fn sigil(scan: &mut Scan<'_>, syntax: &Syntax, read: ReadCode) -> bool {
    let letters = scan.rest()[1..].iter().take_while(|byte| byte.is_ascii_alphanumeric()).count();
    let open = scan.peek(1 + letters);
    let first = scan.peek(1);
    if letters == 0 || !first.is_ascii_alphabetic() || !b"/|\"'([{<".contains(&open) {
        return false;
    }
    scan.skip(1 + letters);
    let triple = [open; 3];
    let close: Vec<u8> = if matches!(open, b'"' | b'\'') && scan.rest().starts_with(&triple) {
        triple.to_vec()
    } else {
        vec![closing(open)]
    };
    scan.skip(close.len());
    while !scan.is_at_end() && !scan.rest().starts_with(&close) {
        if first.is_ascii_lowercase() && scan.ahead("#{") {
            scan.skip(2);
            scan.inside(|scan| read(scan, syntax, Stop::Close(b'{', b'}')));
        } else {
            scan.skip(if scan.peek(0) == b'\\' { 2 } else { 1 });
        }
    }
    scan.skip(close.len());
    true
}

/// `?#`, `?\s`: a character in Elixir and Ruby.
fn character_sign(scan: &Scan<'_>) -> Option<usize> {
    let may_stand = !scan.before().is_some_and(|byte| is_word(byte) || matches!(byte, b')' | b']' | b'}'));
    let next = scan.peek(1);
    let length = if next == b'\\' { 3 } else { 2 };
    (may_stand && !next.is_ascii_whitespace() && !is_word(scan.peek(length))).then_some(scan.at + length)
}

/// Steps over a character that begins here.
pub(super) fn step_character(scan: &mut Scan<'_>) -> bool {
    take(scan, character_sign)
}

/// `$%`, `$\n`: a character in Erlang.
fn dollar_character(scan: &Scan<'_>) -> Option<usize> {
    Some(scan.at + if scan.peek(1) == b'\\' { 3 } else { 2 })
}

/// `%in%`, `%#%`: R.
fn percent_operator(scan: &Scan<'_>) -> Option<usize> {
    let end = memchr::memchr2(b'%', b'\n', &scan.rest()[1..])?;
    (scan.peek(1 + end) == b'%').then_some(scan.at + end + 2)
}

/// A line for the compiler, which is no code: the rest of `#include`, `#error`, `#region` and the like.
fn directive(scan: &mut Scan<'_>) -> bool {
    const WORDS: [&[u8]; 7] = [b"include", b"error", b"warning", b"region", b"endregion", b"import", b"pragma"];
    if !scan.starts_line() {
        return false;
    }
    let rest = scan.rest()[1..].trim_ascii_start();
    let word = &rest[..rest.iter().take_while(|byte| is_word(**byte)).count()];
    let is_known = WORDS.contains(&word);
    if word == b"include" || word == b"import" {
        // The name of a file between angle brackets; what follows is code.
        let named = rest[word.len()..].trim_ascii_start();
        let end = memchr::memchr2(b'>', b'\n', named).filter(|_| named.starts_with(b"<"));
        let Some(end) = end else { return false };
        scan.go(scan.text.len() - named.len() + end);
    } else if is_known {
        scan.line_is_text();
    }
    is_known
}

/// The first lines of a `Dockerfile` of the form `# name=value` steer how it is read.
pub(super) fn leading_settings(scan: &mut Scan<'_>) {
    const NAMES: [&[u8]; 3] = [b"syntax", b"escape", b"check"];
    while let Some(line) = scan.text[scan.at..scan.content_end()].trim_ascii_start().strip_prefix(b"#") {
        let Some(name) = line.split(|byte| *byte == b'=').next().filter(|name| name.len() < line.len()) else { return };
        if !NAMES.iter().any(|known| known.eq_ignore_ascii_case(name.trim_ascii())) {
            return;
        }
        scan.go(line_end(scan.text, scan.at));
    }
}

/// `1'000`: a quote inside a number.
fn digits(scan: &mut Scan<'_>) -> bool {
    const LONGEST: usize = 64;
    let before = scan.text[scan.quote_end.min(scan.at)..scan.at].iter().rev().take(LONGEST);
    let number: Vec<u8> = before.take_while(|byte| is_word(**byte) || b"'$".contains(byte)).copied().collect();
    let is_number = number.last().is_some_and(u8::is_ascii_digit)
        && number.first().is_some_and(|byte| *byte != b'\'')
        && is_word(scan.peek(1));
    if is_number {
        scan.skip(1);
    }
    is_number
}

/// A quoted text of SQL with a backslash before a quote: whether it ends there depends on the database, so that what is left of the line is
/// text.
fn backslash_in_quotes(scan: &mut Scan<'_>) -> bool {
    let close = memchr::memchr2(b'\'', b'\n', &scan.rest()[1..]).map(|at| scan.at + 1 + at);
    let is_doubtful = close.is_some_and(|close| scan.text[close] == b'\'' && scan.text[close - 1] == b'\\');
    if is_doubtful {
        scan.line_is_text();
    }
    is_doubtful
}

/// `(* … *)` with quoted text in it, in which nothing ends a comment: OCaml.
fn quotes_in_comments(scan: &mut Scan<'_>) -> bool {
    if !scan.ahead("(*") || scan.ahead("(*)") {
        return false;
    }
    let mut at = scan.at + 2;
    let mut depth = 1;
    while depth > 0 && at < scan.text.len() {
        let rest = &scan.text[at..];
        if rest.starts_with(b"(*") {
            (depth, at) = (depth + 1, at + 2);
        } else if rest.starts_with(b"*)") {
            (depth, at) = (depth - 1, at + 2);
        } else if rest.starts_with(b"'\"'") {
            at += 3;
        } else if rest[0] == b'"' {
            at = scan.end_of_delimited(at, true).unwrap_or(scan.text.len());
        } else if rest[0] == b'{'
            && let Some(end) = braced_quote(&Scan::at(scan.text, at))
        {
            at = end;
        } else {
            at += 1;
        }
    }
    scan.comment(at);
    true
}
