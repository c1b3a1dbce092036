//! Values that differ from run to run: time stamps, numbers, identifiers, addresses.
//!
//! Most are told by a regular expression, which is only tried on lines that pass a cheaper test.

use std::cell::OnceCell;
use std::ops::Range;

use regex::bytes::Regex;

use crate::internal::text::bytes::is_letter_or_digit;

/// A kind of value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Value {
    /// A date with a time, or a time of day with seconds, in the usual ways of writing them.
    Timestamp,
    /// A number: digits with a point, an exponent and a sign where it has them.
    Number,
    /// An identifier of RFC 9562: 8, 4, 4, 4 and 12 hexadecimal digits.
    Uuid,
    /// An address: `0x` with four hexadecimal digits and more, and the ways in which debuggers and memory maps write them.
    HexAddress,
}

const TIMESTAMP: &str = r"(?xi)
    \d{4}[-/.]\d{2}[-/.]\d{2} [T\x20_] \d{2}:\d{2} (:\d{2}([.,]\d{1,9})?)? (\x20?(Z|UTC|[+-]\d{2}:?\d{2}))?
  | \d{8}T\d{4,6} (\.\d{1,9})? Z?
  | ((Mon|Tue|Wed|Thu|Fri|Sat|Sun),?\x20)? \d{1,2}[/\x20-](Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)[/\x20-]\d{4}
        [:\x20]\d{2}:\d{2}(:\d{2})? (\x20([+-]\d{4}|GMT|UTC|Z))?
  | ((Mon|Tue|Wed|Thu|Fri|Sat|Sun)\x20)? (Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)\x20{1,2}\d{1,2}
        (,?\x20\d{4})? \x20\d{2}:\d{2}(:\d{2}([.,]\d{1,9})?)? (\x20([A-Z]{3,4}\x20)?\d{4})?
  | \d{1,2}[./-]\d{1,2}[./-]\d{4} ,?[T\x20]\d{2}:\d{2}(:\d{2}([.,]\d{1,9})?)? (\x20?[AP]M)?
  | \d{1,2}:\d{2}:\d{2} ([.,]\d{1,9})? (\x20?[AP]M|Z|[+-]\d{2}:?\d{2})?
  | \[\x20*\d{1,7}\.\d{6}\]";
const UUID: &str = r"(?x)
    [0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}
  | [0-9a-fA-F]{32}";
const HEX_ADDRESS: &str = r"(?x)
    0[xX][0-9a-fA-F]{4,16}
  | [0-9a-fA-F]{8}`[0-9a-fA-F]{8}
  | 0000[0-9a-fA-F]{12}
  | ^[0-9a-f]{8,16}-[0-9a-f]{8,16}\x20[r-][w-][x-][ps-]\x20";

thread_local! {
    /// A regex of each kind for every thread: one that is shared hands out its working memory, line by line, at a cost.
    static COMPILED: [OnceCell<Regex>; 3] = const { [const { OnceCell::new() }; 3] };
}

impl Value {
    /// Works with the regular expression of a kind; numbers have none.
    fn with_regex<T>(self, work: impl FnOnce(&Regex) -> T) -> T {
        let (slot, pattern) = match self {
            Self::Timestamp | Self::Number => (0, TIMESTAMP),
            Self::Uuid => (1, UUID),
            Self::HexAddress => (2, HEX_ADDRESS),
        };
        COMPILED.with(|compiled| {
            work(compiled[slot].get_or_init(|| {
                let built = regex::bytes::RegexBuilder::new(pattern).unicode(false).build();
                built.unwrap_or_else(|error| unreachable!("a fixed pattern: {error}"))
            }))
        })
    }

    /// Where such values stand in a line, in order.
    pub(super) fn find(self, line: &[u8], found: &mut Vec<Range<usize>>) {
        if self == Self::Number {
            return numbers(line, found);
        }
        let mut from = 0;
        // The next place that a cheaper test does not rule out; the search is confined to its neighbourhood.
        while let Some(place) = self.possible(line, from) {
            let hit = self.with_regex(|regex| regex.find_at(&line[..place.end], place.start.max(from)));
            match hit {
                None => from = place.end.max(from + 1),
                Some(hit) => {
                    from = hit.end();
                    found.extend(self.bounded(line, hit.range()));
                }
            }
        }
    }

    /// What of a match is such a value: it is none in the middle of a word, of a longer number, or of a name with hyphens.
    fn bounded(self, line: &[u8], range: Range<usize>) -> Option<Range<usize>> {
        let before = range.start.checked_sub(1).map(|at| line[at]);
        let after = line.get(range.end).copied();
        let behind = line.get(range.end + 1).copied();
        let is_word = |byte: Option<u8>| byte.is_some_and(|byte| is_letter_or_digit(byte) || byte == b'_');
        let is_joined = |byte: Option<u8>| byte.is_some_and(is_letter_or_digit);
        let found = &line[range.clone()];
        let is_map = self == Self::HexAddress && found.ends_with(b" ");
        let fits = match self {
            Self::Number => true,
            Self::Timestamp => {
                let is_clock = found.get(..3).is_some_and(|head| head.contains(&b':'));
                // A clock by itself is none inside an address, a ratio or a name.
                let is_inside = before.is_some_and(|byte| b":.-/@#".contains(&byte))
                    || after.is_some_and(|byte| b":./-@".contains(&byte)) && is_joined(behind)
                    || is_joined(after);
                let stands = !is_clock || !is_inside && is_time_of_day(found);
                !is_word(before) && !after.is_some_and(|byte| byte.is_ascii_digit()) && stands
            }
            Self::Uuid => {
                let hyphens = found.contains(&b'-');
                let goes_on = |byte: Option<u8>, next: Option<u8>| byte == Some(b'-') && is_joined(next);
                let before_that = range.start.checked_sub(2).map(|at| line[at]);
                !is_joined(before)
                    && !is_joined(after)
                    && !goes_on(before, before_that)
                    && !goes_on(after, behind)
                    && (hyphens || before != Some(b'_') && after != Some(b'_'))
            }
            Self::HexAddress => !is_word(before) && (is_map || !is_word(after)),
        };
        // Of a line of a memory map, its two addresses: its rights follow.
        let end = if is_map { range.end - " r-xp ".len() } else { range.end };
        fits.then_some(range.start..end)
    }

    /// The neighbourhood of the next place from `from` on where such a value may stand, by a test that costs little.
    fn possible(self, line: &[u8], from: usize) -> Option<Range<usize>> {
        // No time stamp has more letters than this before or behind its first colon (or `T`, or bracket).
        const BEFORE: usize = 30;
        const BEHIND: usize = 44;
        let digit = |at: usize| line.get(at).is_some_and(u8::is_ascii_digit);
        let whole = |is: bool| is.then_some(from..line.len());
        let rest = line.get(from..)?;
        match self {
            Self::Timestamp => {
                let mut places = memchr::memchr3_iter(b':', b'T', b']', rest).map(|at| from + at);
                let at = places.find(|&at| match line[at] {
                    b':' => at > 0 && digit(at - 1) && digit(at + 1),
                    b'T' => at >= 8 && digit(at - 1) && digit(at + 1),
                    _ => at >= 8 && digit(at - 1),
                })?;
                Some(at.saturating_sub(BEFORE).max(from)..(at + BEHIND).min(line.len()))
            }
            // Numbers are looked for in their own way.
            Self::Number => None,
            Self::Uuid => whole(rest.len() >= 32),
            Self::HexAddress => whole(rest.len() >= 6),
        }
    }
}

/// Whether hours, minutes and seconds are no more than a day has.
fn is_time_of_day(text: &[u8]) -> bool {
    let mut parts = text.split(|byte| !byte.is_ascii_digit()).take(3);
    [24, 59, 60].iter().all(|most| {
        let part = parts.next().unwrap_or_default();
        std::str::from_utf8(part).ok().and_then(|part| part.parse::<u32>().ok()).is_some_and(|number| number <= *most)
    })
}

/// The numbers of a line: with sign, point and exponent, hexadecimal and binary ones, in the digits of any script. Digits behind a letter belong
/// to a name.
fn numbers(line: &[u8], found: &mut Vec<Range<usize>>) {
    let mut at = 0;
    while at < line.len() {
        if line[at].is_ascii() && !line[at].is_ascii_digit() {
            at += 1;
            continue;
        }
        let (is_digit, length) = digit(&line[at..]);
        if !is_digit {
            at += length;
            continue;
        }
        let start = start_of_number(line, at);
        let end = end_of_number(line, at);
        let belongs_to_name = behind_letter(line, at);
        if !belongs_to_name {
            found.push(start..end);
        }
        at = end;
        if belongs_to_name {
            // What goes on behind a point is a part of a version.
            while at + 1 < line.len() && line[at] == b'.' && digit(&line[at + 1..]).0 {
                at = end_of_digits(line, at + 1);
            }
        }
    }
}

/// Whether a text begins with a digit of any script, and how long its first character is.
fn digit(text: &[u8]) -> (bool, usize) {
    /// Where the digits 0 of the scripts stand.
    const ZEROS: [u32; 14] =
        [0x660, 0x6f0, 0x966, 0x9e6, 0xa66, 0xae6, 0xb66, 0xbe6, 0xc66, 0xce6, 0xd66, 0xe50, 0xed0, 0xff10];
    if text[0].is_ascii() {
        return (text[0].is_ascii_digit(), 1);
    }
    let head = &text[..text.len().min(4)];
    let Some(c) = head.utf8_chunks().next().and_then(|chunk| chunk.valid().chars().next()) else { return (false, 1) };
    (ZEROS.iter().any(|zero| (*zero..zero + 10).contains(&u32::from(c))), c.len_utf8())
}

/// The character that ends at a place, if it is UTF-8.
fn character_before(line: &[u8], at: usize) -> Option<char> {
    let start = (at.saturating_sub(4)..at).rev().find(|&start| line[start] & 0b1100_0000 != 0b1000_0000)?;
    std::str::from_utf8(&line[start..at]).ok()?.chars().next()
}

fn behind_letter(line: &[u8], at: usize) -> bool {
    character_before(line, at).is_some_and(|c| c.is_alphanumeric() || c == '_')
}

/// Where a number starts whose first digit stands here: with a point and a sign before it. Behind a word or a bracket, a sign is an operator.
fn start_of_number(line: &[u8], at: usize) -> usize {
    let point = at > 0 && line[at - 1] == b'.' && !behind_letter(line, at - 1) && !line[..at - 1].ends_with(b".");
    let start = at - usize::from(point);
    let sign = match character_before(line, start) {
        Some('+' | '-') => 1,
        Some('\u{2212}') => 3,
        _ => 0,
    };
    let is_operator = |c: char| c.is_alphanumeric() || matches!(c, '_' | ')' | ']');
    if sign > 0 && character_before(line, start - sign).is_some_and(is_operator) { start } else { start - sign }
}

fn end_of_digits(line: &[u8], mut at: usize) -> usize {
    while at < line.len() {
        let (is_digit, length) = digit(&line[at..]);
        if !is_digit {
            break;
        }
        at += length;
    }
    at
}

fn end_of_number(line: &[u8], at: usize) -> usize {
    let radix = |letters: &[u8], is_digit: fn(&u8) -> bool| {
        let prefixed = line[at] == b'0' && line.get(at + 1).is_some_and(|letter| letters.contains(letter));
        let digits = line.get(at + 2..)?.iter().take_while(|byte| is_digit(byte)).count();
        let end = at + 2 + digits;
        (prefixed && digits > 0 && !line.get(end).is_some_and(u8::is_ascii_alphanumeric)).then_some(end)
    };
    if let Some(end) = radix(b"xX", u8::is_ascii_hexdigit).or_else(|| radix(b"bB", |byte| matches!(byte, b'0' | b'1')))
    {
        return end;
    }
    let mut end = end_of_digits(line, at);
    while end + 1 < line.len() && line[end] == b'.' && digit(&line[end + 1..]).0 {
        end = end_of_digits(line, end + 1);
    }
    // A point at the end belongs to a number where no sentence can end.
    if line.get(end) == Some(&b'.') && line.get(end + 1).is_some_and(|next| b",;)]}*/+-".contains(next)) {
        end += 1;
    }
    let exponent = line.get(end).is_some_and(|letter| matches!(letter, b'e' | b'E'));
    let sign = usize::from(line.get(end + 1).is_some_and(|sign| matches!(sign, b'+' | b'-')));
    let digits =
        line.get(end + 1 + sign..).map_or(0, |rest| rest.iter().take_while(|byte| byte.is_ascii_digit()).count());
    if exponent && digits > 0 { end + 1 + sign + digits } else { end }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn found(value: Value, line: &str) -> Vec<&str> {
        let mut ranges = Vec::new();
        value.find(line.as_bytes(), &mut ranges);
        ranges.into_iter().map(|range| &line[range]).collect()
    }

    #[test]
    fn time_stamps_are_known_in_the_usual_ways_of_writing_them() {
        for stamp in [
            "2031-04-05T06:07:08Z",
            "2031-04-05 06:07:08,123",
            "2031-04-05 06:07:08.123456 +02:00",
            "2031/04/05 06:07",
            "20310405T060708Z",
            "05/Apr/2031:06:07:08 +0000",
            "Sat, 05 Apr 2031 06:07:08 GMT",
            "Apr  5 06:07:08",
            "Sat Apr 5 06:07:08 2031",
            "Sat Apr  5 06:07:08 CEST 2031",
            "05.04.2031 06:07",
            "4/5/2031 06:07:08 PM",
            "06:07:08.123",
            "[   12.345678]",
        ] {
            assert_eq!(found(Value::Timestamp, &format!("a {stamp} b")), [stamp]);
            assert_eq!(found(Value::Timestamp, stamp), [stamp]);
        }
        for other in [
            "2031-04-05",
            "06:07",
            "a:b:c",
            "10.20.3000",
            "1:22:33-a",
            "00:11:22:33:44:55",
            "fe80::10:20:30:40",
            "16:90:99",
            "192.168.0.1:8080",
            "1:2:3",
            "x06:07:08",
            "[1.5]",
        ] {
            assert!(found(Value::Timestamp, other).is_empty(), "{other}");
        }
    }

    #[test]
    fn numbers_are_told_from_names_and_operators() {
        assert_eq!(found(Value::Number, "x1 = -4.50e3 + 7px, a-2, v1.2.3, .5"), ["-4.50e3", "7", "2", ".5"]);
    }

    #[test]
    fn identifiers_and_addresses() {
        let uuid = "123e4567-e89b-42d3-a456-426614174000";
        assert_eq!(found(Value::Uuid, &format!("id={uuid};")), [uuid]);
        assert!(found(Value::Uuid, &format!("{uuid}0")).is_empty());
        assert_eq!(found(Value::HexAddress, "at 0x7ffe12ab, Gauge@1b6d3586 a@fade"), ["0x7ffe12ab"]);
    }
}
