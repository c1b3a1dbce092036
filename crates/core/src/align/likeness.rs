//! How alike two lines are.
//!
//! The measure is the share of letter pairs that two lines have in common (L. R. Dice, "Measures of the Amount of Ecologic Association
//! Between Species", Ecology 26, 1945), white space and case left out. Lines that set the same name are taken to be more alike, lines that set different names less.

use std::ops::Range;

use unicode_normalization::UnicodeNormalization;

use crate::internal::text::bytes::is_letter_or_digit;
use crate::internal::text::lines::hash_line;

/// So much is added when two lines set the same name, and taken off when they set different ones.
const SAME_KEY: f32 = 0.15;
/// So much is added when two lines begin with the same word.
const SAME_WORD: f32 = 0.05;
/// A line with more letters weighs no more for that.
const MOST_LETTERS: usize = 40;
/// A name that is set has no more bytes.
const LONGEST_KEY: usize = 60;

/// How two lines compare.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Likeness {
    /// They are the same, byte for byte.
    Same,
    /// They differ in white space alone, in how their letters are put together, or in a comma at the end.
    Bare,
    /// They are alike to a degree, from 0 to 1.
    Part(f32),
}

impl Likeness {
    /// How alike they are, from 0 to 1.
    pub(crate) fn degree(self) -> f32 {
        match self {
            Self::Same | Self::Bare => 1.0,
            Self::Part(part) => part,
        }
    }
}

/// What of a line is compared.
pub(crate) struct Profile {
    whole: u64,
    bare: u64,
    /// The pairs of neighbouring letters, white space left out, sorted.
    pairs: Vec<u16>,
    /// How much the line weighs: its letters, up to a bound.
    weight: f32,
    /// The name that it sets.
    key: Option<u64>,
    /// The word that it begins with.
    word: Option<u64>,
    /// How far it is indented, in bytes.
    indent: usize,
    letters: usize,
    /// Whether both texts have the line, once each.
    is_in_both: bool,
}

impl Profile {
    /// The profile of a line, of which so many bytes at either end are looked at.
    pub(crate) fn of(line: &[u8], looked_at: usize) -> Self {
        let is_looked_at_whole = line.len() <= 2 * looked_at;
        let mut kept = if is_looked_at_whole {
            letters(line)
        } else {
            [letters(&line[..looked_at]), letters(&line[line.len() - looked_at..])].concat()
        };
        if kept.len() > 1 && kept.last() == Some(&b',') {
            kept.pop();
        }
        let mut pairs: Vec<u16> = kept
            .windows(2)
            .map(|pair| u16::from_be_bytes([pair[0], pair[1]].map(|byte| byte.to_ascii_lowercase())))
            .collect();
        // A line of one letter has no pair; the letter alone stands for it.
        if let [only] = kept[..] {
            pairs.push(u16::from(only));
        }
        pairs.sort_unstable();
        let trimmed = line.trim_ascii_start();
        let word = first_word(trimmed);
        let whole = hash_line(line);
        Self {
            whole,
            bare: if is_looked_at_whole { hash_line(&kept) } else { whole },
            pairs,
            weight: if kept.is_empty() { 0.5 } else { kept.len().min(MOST_LETTERS) as f32 },
            key: key(trimmed).map(|key| hash_line(&trimmed[key])),
            word: (!word.is_empty()).then(|| hash_line(&trimmed[word])),
            indent: line.len() - trimmed.len(),
            letters: kept.iter().filter(|byte| is_letter_or_digit(**byte)).count(),
            is_in_both: false,
        }
    }

    /// The same, of a line that both texts may have once each.
    pub(crate) fn in_both(mut self, is_in_both: bool) -> Self {
        self.is_in_both = is_in_both;
        self
    }

    /// Whether both texts have the line, once each.
    pub(crate) fn is_in_both(&self) -> bool {
        self.is_in_both
    }

    /// What of the line is the same in lines that are equal.
    pub(crate) fn whole(&self) -> u64 {
        self.whole
    }

    /// How many letters and digits it has.
    pub(crate) fn letters(&self) -> usize {
        self.letters
    }

    /// How alike it is to another.
    pub(crate) fn likeness(&self, other: &Self) -> Likeness {
        if self.whole == other.whole {
            return Likeness::Same;
        }
        if self.bare == other.bare {
            return Likeness::Bare;
        }
        let nudge = match (self.key, other.key) {
            (Some(one), Some(two)) if one == two => SAME_KEY,
            (Some(_), Some(_)) => -SAME_KEY,
            _ if self.word.is_some() && self.word == other.word => SAME_WORD,
            _ => 0.0,
        };
        Likeness::Part((shared(&self.pairs, &other.pairs) + nudge).clamp(0.0, 0.99))
    }

    /// How much of it another line holds too, from 0 to 1; all of a line that says nothing.
    pub(crate) fn contained(&self, other: &Self) -> f32 {
        if self.letters == 0 { 1.0 } else { common(&self.pairs, &other.pairs) as f32 / self.pairs.len() as f32 }
    }

    /// Whether another line sets the same name, or is indented alike and sets no other.
    pub(crate) fn is_in_place_of(&self, other: &Self) -> bool {
        match (self.key, other.key) {
            (Some(one), Some(two)) => one == two,
            _ => self.indent == other.indent && self.indent > 0,
        }
    }

    /// What a pair of it and another weighs, for how alike they are.
    pub(crate) fn weight(&self, other: &Self, likeness: Likeness) -> f32 {
        let letters = f32::midpoint(self.weight, other.weight);
        match likeness {
            Likeness::Same => 2.0 * letters,
            Likeness::Bare => 1.9 * letters,
            Likeness::Part(part) => part * letters,
        }
    }
}

/// A text without white space. What a reader cannot tell apart is the same: letters put together in another way, kinds of spaces.
fn letters(text: &[u8]) -> Vec<u8> {
    match std::str::from_utf8(text) {
        Ok(letters) if !text.is_ascii() => {
            let shown: String = letters.nfc().filter(|letter| !letter.is_whitespace()).collect();
            shown.into_bytes()
        }
        _ => text.iter().copied().filter(|byte| !byte.is_ascii_whitespace()).collect(),
    }
}

/// Twice the common pairs over all pairs: 0 for nothing in common, 1 for the same pairs.
fn shared(one: &[u16], other: &[u16]) -> f32 {
    let all = one.len() + other.len();
    if all == 0 { 0.0 } else { 2.0 * common(one, other) as f32 / all as f32 }
}

/// How many pairs two lines have in common.
fn common(one: &[u16], other: &[u16]) -> usize {
    let (mut x, mut y, mut common) = (0, 0, 0_usize);
    while x < one.len() && y < other.len() {
        match one[x].cmp(&other[y]) {
            std::cmp::Ordering::Less => x += 1,
            std::cmp::Ordering::Greater => y += 1,
            std::cmp::Ordering::Equal => (x, y, common) = (x + 1, y + 1, common + 1),
        }
    }
    common
}

/// The word at the start of a text.
fn first_word(text: &[u8]) -> Range<usize> {
    0..text.iter().take_while(|byte| is_letter_or_digit(**byte) || **byte == b'_').count()
}

/// The name that a line sets: what stands before its first `=` or `:`, if that is words alone.
fn key(text: &[u8]) -> Option<Range<usize>> {
    let is_of_name = |byte: &u8| is_letter_or_digit(*byte) || b"_-.$@\"' \t[]".contains(byte);
    let end = text.iter().take(LONGEST_KEY).take_while(|byte| is_of_name(byte)).count();
    let next = text.get(end + 1);
    let sets = match text.get(end) {
        Some(b'=') => !matches!(next, Some(b'=' | b'>' | b'~')),
        Some(b':') => !matches!(next, Some(b':' | b'/')),
        _ => false,
    };
    let key = text[..end].trim_ascii_end().len();
    (sets && text[..key].iter().any(|byte| is_letter_or_digit(*byte))).then_some(0..key)
}
