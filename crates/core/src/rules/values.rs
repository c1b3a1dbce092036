//! Values that differ from run to run: time stamps, numbers, identifiers, addresses.
//!
//! Each is told by a regular expression, which is only tried on lines that pass a cheaper test.

use std::cell::OnceCell;
use std::ops::Range;

use regex::bytes::Regex;

/// A kind of value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Value {
    /// A date with a time, or a time of day with seconds, in the usual ways of writing them.
    Timestamp,
    /// A number: digits with a point, an exponent and a sign where it has them.
    Number,
    /// An identifier of RFC 9562: 8, 4, 4, 4 and 12 hexadecimal digits.
    Uuid,
    /// An address: `0x` with hexadecimal digits, or six or more of them behind `@`.
    HexAddress,
}

const TIMESTAMP: &str = r"(?x)
    \d{4}[-/.]\d{2}[-/.]\d{2} [T\x20_] \d{2}:\d{2} (:\d{2}([.,]\d{1,9})?)? (\x20?(Z|UTC|[+-]\d{2}:?\d{2}))?
  | \d{8}T\d{4,6} (\.\d{1,9})? Z?
  | ((Mon|Tue|Wed|Thu|Fri|Sat|Sun),?\x20)? \d{1,2}[/\x20-](Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)[/\x20-]\d{4}
        [:\x20]\d{2}:\d{2}(:\d{2})? (\x20([+-]\d{4}|GMT|UTC|Z))?
  | ((Mon|Tue|Wed|Thu|Fri|Sat|Sun)\x20)? (Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)\x20{1,2}\d{1,2}
        (,?\x20\d{4})? \x20\d{2}:\d{2}(:\d{2}([.,]\d{1,9})?)? (\x20([A-Z]{3,4}\x20)?\d{4})?
  | \d{1,2}[./-]\d{1,2}[./-]\d{4} ,?[T\x20]\d{2}:\d{2}(:\d{2}([.,]\d{1,9})?)? (\x20?[AP]M)?
  | \d{1,2}:\d{2}:\d{2} ([.,]\d{1,9})? (\x20?[AP]M|Z|[+-]\d{2}:?\d{2})?
  | \[\x20*\d{1,7}\.\d{6}\]";
const NUMBER: &str = r"[+-]?(\d+(\.\d+)*|\.\d+)([eE][+-]?\d+)?";
const UUID: &str = r"[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}";
const HEX_ADDRESS: &str = r"0[xX][0-9a-fA-F]{2,16}|@[0-9a-fA-F]{6,16}";

thread_local! {
    /// A regex of each kind for every thread: one that is shared hands out its working memory, line by line, at a cost.
    static COMPILED: [OnceCell<Regex>; 4] = const { [const { OnceCell::new() }; 4] };
}

impl Value {
    fn with_regex<T>(self, work: impl FnOnce(&Regex) -> T) -> T {
        let (slot, pattern) = match self {
            Self::Timestamp => (0, TIMESTAMP),
            Self::Number => (1, NUMBER),
            Self::Uuid => (2, UUID),
            Self::HexAddress => (3, HEX_ADDRESS),
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

    /// What of a match is such a value: it is none in the middle of a word or of a longer number.
    fn bounded(self, line: &[u8], mut range: Range<usize>) -> Option<Range<usize>> {
        let word = |byte: Option<&u8>| byte.is_some_and(|byte| byte.is_ascii_alphanumeric() || *byte == b'_');
        let signed = matches!(line[range.start], b'+' | b'-');
        let before = range.start.checked_sub(1).map(|at| &line[at]);
        if self == Self::Number && signed && (word(before) || matches!(before, Some(b')' | b']'))) {
            // Behind a word it is an operator, or a hyphen.
            range.start += 1;
        } else if word(before) && line[range.start] != b'@' {
            return None;
        }
        let after = line.get(range.end);
        let goes_on = match self {
            Self::Number => false,
            Self::Timestamp => after.is_some_and(u8::is_ascii_digit),
            Self::Uuid | Self::HexAddress => word(after),
        };
        (!goes_on).then_some(range)
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
            Self::Number => whole(rest.iter().any(u8::is_ascii_digit)),
            Self::Uuid => whole(rest.len() >= 36 && memchr::memchr(b'-', rest).is_some()),
            Self::HexAddress => whole(memchr::memchr3(b'x', b'X', b'@', rest).is_some()),
        }
    }
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
        for other in ["2031-04-05", "06:07", "a:b:c", "192.168.0.1:8080", "1:2:3", "x06:07:08", "[1.5]"] {
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
        assert_eq!(found(Value::HexAddress, "at 0x7ffe12ab, Gauge@1b6d3586 a@fade"), ["0x7ffe12ab", "@1b6d3586"]);
    }
}
