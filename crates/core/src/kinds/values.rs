//! Single values (a cell, a scalar): how two differ under the rules of text, and by what they mean.

use std::sync::Arc;

use jiff::Timestamp;
use jiff::civil;

use super::number::{Decimal, Tolerance};
use super::text::{TextOptions, compare_masked};
use crate::internal::align::words::align_words;
use crate::internal::model::{Weight, Words};
use crate::internal::rules::{Effect, FileRules, MaskedText};
use crate::internal::text::words::Grain;

/// The cause of a difference that only the way of writing a number makes.
pub const NUMBER_SPELLING: &str = "number spelling";
/// The cause of a difference that only the way of writing a date makes.
pub const DATE_SPELLING: &str = "date spelling";

/// How two values that are not the same bytes differ.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Difference {
    /// In something that counts.
    Counted,
    /// In something that does not: what it is put down to, and with which effect.
    Aside(Effect, String),
}

impl Difference {
    /// The weight of a change that shows it; nothing where it is ignored.
    pub(super) fn weight(&self) -> Option<Weight> {
        match self {
            Self::Counted => Some(Weight::Counted),
            Self::Aside(Effect::Mute, _) => Some(Weight::Muted),
            Self::Aside(Effect::Ignore, _) => None,
        }
    }

    /// What it is put down to.
    pub(super) fn cause(&self) -> Option<&str> {
        match self {
            Self::Counted => None,
            Self::Aside(_, cause) => Some(cause),
        }
    }
}

/// The rules of text that hold on either side.
pub(super) type BothRules<'r> = (&'r Arc<FileRules>, &'r Arc<FileRules>);

/// How two values differ under the rules of text.
pub(super) fn under_rules(before: &[u8], after: &[u8], rules: BothRules<'_>) -> Difference {
    if rules.0.reads_no_text() {
        return Difference::Counted;
    }
    let before = MaskedText::new(before, rules.0).before();
    let after = MaskedText::new(after, rules.1);
    let found = compare_masked(&before, &after, &TextOptions::default());
    if found.differs() {
        return Difference::Counted;
    }
    for effect in [Effect::Mute, Effect::Ignore] {
        if let Some((rule, _)) = found.account.by_rule(effect).first() {
            return Difference::Aside(effect, (*rule).to_owned());
        }
    }
    Difference::Counted
}

/// How two numbers differ: not in value, or by no more than is tolerated. Nothing where they differ by more.
pub(super) fn of_numbers(one: &Decimal<'_>, other: &Decimal<'_>, tolerance: Option<&Tolerance>) -> Option<Difference> {
    if one == other {
        return Some(Difference::Aside(Effect::Mute, NUMBER_SPELLING.to_owned()));
    }
    let tolerance = tolerance.filter(|tolerance| tolerance.holds(one, other))?;
    Some(Difference::Aside(Effect::Mute, format!("tolerance {}", tolerance.written())))
}

/// A date, with or without a time, as ISO 8601 and RFC 3339 write it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Date {
    /// A day.
    Day(civil::Date),
    /// A time of a day, somewhere.
    Local(civil::DateTime),
    /// A moment.
    Moment(Timestamp),
}

impl Date {
    /// Reads a date; nothing where it is none, or not written in full with dashes and colons.
    pub(super) fn read(text: &[u8]) -> Option<Self> {
        let is_dated =
            text.len() >= 10 && text[4] == b'-' && text[7] == b'-' && text[..4].iter().all(u8::is_ascii_digit);
        if !is_dated || text.len() > 40 {
            return None;
        }
        let text = std::str::from_utf8(text).ok()?;
        if text.len() == 10 {
            return text.parse().ok().map(Self::Day);
        }
        if text.contains('[') || !text[11..].contains(':') {
            return None;
        }
        let has_offset = text.ends_with(['Z', 'z']) || text[11..].contains(['+', '-']);
        if has_offset { text.parse().ok().map(Self::Moment) } else { text.parse().ok().map(Self::Local) }
    }
}

/// The letters that differ in two values; in a number, the digits.
pub fn value_words(before: &[u8], after: &[u8], grain: &Grain) -> Words {
    align_words(before, after, grain)
}
