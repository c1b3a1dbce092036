//! Cutting a line into the units that are compared inside it.

use std::ops::Range;

use regex::bytes::Regex;
use unicode_segmentation::UnicodeSegmentation;

/// What a line is cut into.
#[derive(Clone, Debug, Default)]
pub enum Grain {
    /// Nothing: a line is one unit.
    Line,
    /// Words (by Unicode), numbers, identifiers, escapes such as `\n`, single punctuation marks and runs of white space.
    #[default]
    Word,
    /// Letters as a reader counts them: extended grapheme clusters (Unicode Standard Annex 29).
    Letter,
    /// What a regular expression matches, and what lies between the matches.
    Pattern(Regex),
}

/// The units of a line as byte ranges. They add up to the line, whatever bytes it holds; a byte that is not UTF-8 is a
/// unit of its own, and so is the carriage return or line feed that ends a line.
pub fn cut(line: &[u8], grain: &Grain) -> Vec<Range<usize>> {
    let ended = line.len() - line_end_len(line);
    let mut units = match grain {
        Grain::Line => std::iter::once(0..ended).filter(|unit| !unit.is_empty()).collect(),
        Grain::Word if line.is_ascii() => ascii_words(&line[..ended]),
        Grain::Word => unicode_words(&line[..ended]),
        Grain::Letter => letters(&line[..ended]),
        Grain::Pattern(pattern) => matches(&line[..ended], pattern),
    };
    units.extend((ended..line.len()).map(|at| at..at + 1));
    units
}

/// The length of the line end: 2 for CR LF, 1 for LF, 0 for none.
pub fn line_end_len(line: &[u8]) -> usize {
    if line.ends_with(b"\r\n") { 2 } else { usize::from(line.ends_with(b"\n")) }
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Class {
    Word,
    Space,
    Other,
}

fn class_of_byte(byte: u8) -> Class {
    match byte {
        b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' | b'_' => Class::Word,
        b' ' | b'\t' => Class::Space,
        _ => Class::Other,
    }
}

fn ascii_words(line: &[u8]) -> Vec<Range<usize>> {
    let mut units = Vec::with_capacity(line.len() / 3 + 1);
    let mut start = 0;
    while start < line.len() {
        let class = class_of_byte(line[start]);
        let mut end = start + escape_len(&line[start..]).max(1);
        let mut is_number = line[start].is_ascii_digit();
        if class != Class::Other {
            while end < line.len() && (class_of_byte(line[end]) == class || is_number && decimal_point(line, end)) {
                is_number &= line[end].is_ascii_digit() || line[end] == b'.';
                end += 1;
            }
        }
        units.push(start..end);
        start = end;
    }
    units
}

/// Whether the byte at `at` is a point inside a number (or a version, or an address), given that one stands before it.
fn decimal_point(line: &[u8], at: usize) -> bool {
    line[at] == b'.' && line.get(at + 1).is_some_and(u8::is_ascii_digit)
}

/// The length of an escape at the start of a text: a backslash and what it stands before. 0 where there is none.
fn escape_len(text: &[u8]) -> usize {
    const HEX: usize = 2;
    const UNICODE: usize = 4;
    let digits =
        |from: usize, most: usize| text[from..].iter().take(most).take_while(|byte| byte.is_ascii_hexdigit()).count();
    match text {
        [b'\\', b'x', ..] if digits(2, HEX) == HEX => 2 + HEX,
        [b'\\', b'u', b'{', ..] => {
            let count = digits(3, 2 * UNICODE);
            if text.get(3 + count) == Some(&b'}') { 4 + count } else { 2 }
        }
        [b'\\', b'u', ..] if digits(2, UNICODE) == UNICODE => 2 + UNICODE,
        [b'\\', next, ..] if next.is_ascii_graphic() => 2,
        _ => 0,
    }
}

/// The segments of an identifier as byte ranges: between underscores, before a capital, between letters and digits. They add up to it; underscores
/// are segments too.
pub fn segments(word: &[u8]) -> Vec<Range<usize>> {
    #[derive(PartialEq)]
    enum Class {
        Underscore,
        Digit,
        Capital,
        Letter,
    }
    let class = |byte: u8| match byte {
        b'_' => Class::Underscore,
        b'0'..=b'9' => Class::Digit,
        b'A'..=b'Z' => Class::Capital,
        _ => Class::Letter,
    };
    let mut segments = Vec::new();
    let mut start = 0;
    for at in 1..word.len() {
        let begins = match (class(word[at - 1]), class(word[at])) {
            (Class::Capital, Class::Letter) => false,
            // The last capital of several begins the next word.
            (Class::Capital, Class::Capital) => word.get(at + 1).is_some_and(|next| class(*next) == Class::Letter),
            (last, this) => last != this,
        };
        if begins {
            segments.push(start..at);
            start = at;
        }
    }
    if start < word.len() {
        segments.push(start..word.len());
    }
    segments
}

fn unicode_words(line: &[u8]) -> Vec<Range<usize>> {
    let mut units: Vec<Range<usize>> = Vec::new();
    let mut at = 0;
    for chunk in line.utf8_chunks() {
        let text = chunk.valid();
        let mut run: Option<(Class, usize)> = None;
        let mut is_number = false;
        let mut escaped = 0;
        for (offset, cluster) in text.grapheme_indices(true) {
            if offset < escaped {
                continue;
            }
            let class = class_of_cluster(cluster);
            let is_digit = cluster.len() == 1 && cluster.as_bytes()[0].is_ascii_digit();
            let point = cluster == "." && is_number && decimal_point(text.as_bytes(), offset);
            let goes_on = point || run.is_some_and(|(open, _)| open == class && class != Class::Other);
            is_number = (point || is_digit) && (is_number || !goes_on);
            if goes_on {
                continue;
            }
            if let Some((class, start)) = run.replace((class, offset)) {
                close(&mut units, text, class, start..offset, at);
            }
            escaped = offset + escape_len(&text.as_bytes()[offset..]);
        }
        if let Some((class, start)) = run {
            close(&mut units, text, class, start..text.len(), at);
        }
        at += text.len();
        units.extend((at..at + chunk.invalid().len()).map(|byte| byte..byte + 1));
        at += chunk.invalid().len();
    }
    units
}

/// Adds a run as one unit, or as several where a script writes its words without spaces.
fn close(units: &mut Vec<Range<usize>>, text: &str, class: Class, run: Range<usize>, base: usize) {
    let piece = &text[run.clone()];
    let from = base + run.start;
    if class == Class::Word && !piece.is_ascii() {
        units.extend(piece.split_word_bound_indices().map(|(at, word)| from + at..from + at + word.len()));
    } else {
        units.push(from..base + run.end);
    }
}

fn class_of_cluster(cluster: &str) -> Class {
    match cluster.chars().next() {
        Some(first) if first.is_alphanumeric() || first == '_' => Class::Word,
        Some(first) if first.is_whitespace() && first != '\r' && first != '\n' => Class::Space,
        _ => Class::Other,
    }
}

fn letters(line: &[u8]) -> Vec<Range<usize>> {
    let mut units = Vec::with_capacity(line.len());
    let mut at = 0;
    for chunk in line.utf8_chunks() {
        units.extend(chunk.valid().grapheme_indices(true).map(|(offset, c)| at + offset..at + offset + c.len()));
        at += chunk.valid().len();
        units.extend((at..at + chunk.invalid().len()).map(|byte| byte..byte + 1));
        at += chunk.invalid().len();
    }
    units
}

fn matches(line: &[u8], pattern: &Regex) -> Vec<Range<usize>> {
    let mut units = Vec::new();
    let mut at = 0;
    for found in pattern.find_iter(line).filter(|found| !found.is_empty()) {
        if found.start() > at {
            units.push(at..found.start());
        }
        units.push(found.range());
        at = found.end();
    }
    if at < line.len() {
        units.push(at..line.len());
    }
    units
}

#[cfg(test)]
mod tests {
    use super::*;

    fn words(line: &str) -> Vec<&str> {
        cut(line.as_bytes(), &Grain::Word).into_iter().map(|unit| &line[unit]).collect()
    }

    #[test]
    fn words_numbers_identifiers_and_marks_are_units() {
        assert_eq!(words("offset_mm  = 3.14;\r\n"), ["offset_mm", "  ", "=", " ", "3.14", ";", "\r", "\n"]);
        assert_eq!(words("a.b 1.x 5.3.1"), ["a", ".", "b", " ", "1", ".", "x", " ", "5.3.1"]);
        assert_eq!(words("Ebbe läuft über 2.50"), ["Ebbe", " ", "läuft", " ", "über", " ", "2.50"]);
        assert_eq!(words("e\u{301}tale"), ["e\u{301}tale"]);
        assert_eq!(words("潮位計"), ["潮", "位", "計"]);
        assert_eq!(words("👩‍🔬!"), ["👩‍🔬", "!"]);
        assert_eq!(words(r#"low\nhigh\x41\u{e9}\""#), ["low", r"\n", "high", r"\x41", r"\u{e9}", r#"\""#]);
        assert_eq!(words(r"Höhe\nEbbe"), ["Höhe", r"\n", "Ebbe"]);
    }

    #[test]
    fn an_identifier_has_segments() {
        let of =
            |word: &'static str| segments(word.as_bytes()).into_iter().map(move |at| &word[at]).collect::<Vec<_>>();
        assert_eq!(of("low_water2"), ["low", "_", "water", "2"]);
        assert_eq!(of("readTideHTTPServer"), ["read", "Tide", "HTTP", "Server"]);
        assert_eq!(of("Ebbe"), ["Ebbe"]);
        assert!(segments(b"").is_empty());
    }

    #[test]
    fn letters_are_what_a_reader_counts() {
        assert_eq!(cut("ne\u{301}\n".as_bytes(), &Grain::Letter), [0..1, 1..4, 4..5]);
        assert_eq!(cut(b"a\xffb", &Grain::Letter), [0..1, 1..2, 2..3]);
    }

    #[test]
    fn a_pattern_cuts_where_it_matches() {
        let grain = Grain::Pattern(Regex::new("[^;]+").unwrap());
        assert_eq!(cut(b"a b;c\n", &grain), [0..3, 3..4, 4..5, 5..6]);
    }
}
