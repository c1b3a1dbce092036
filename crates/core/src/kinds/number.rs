//! Numbers by value: exact, however many digits they have.

use std::borrow::Cow;
use std::cmp::Ordering;

/// A decimal number: its digits times a power of ten. Two are equal when they have the same value.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Decimal<'t> {
    negative: bool,
    /// Without zeros at either end; none of zero.
    digits: Cow<'t, [u8]>,
    /// The power of ten of the last digit.
    exponent: i64,
}

impl<'t> Decimal<'t> {
    /// Reads a number as JSON writes it (RFC 8259, section 6): no leading zero, no plus sign, no grouping. Nothing where it is none.
    ///
    /// ```
    /// use tideline_core::internal::kinds::Decimal;
    ///
    /// assert_eq!(Decimal::read(b"1.50"), Decimal::read(b"15e-1"));
    /// assert_ne!(Decimal::read(b"9007199254740993"), Decimal::read(b"9007199254740992"));
    /// assert!(Decimal::read(b"007").is_none());
    /// ```
    pub fn read(literal: &'t [u8]) -> Option<Self> {
        let (negative, rest) = match literal.strip_prefix(b"-") {
            Some(rest) => (true, rest),
            None => (false, literal),
        };
        let whole = digits_at(rest);
        if whole == 0 || whole > 1 && rest[0] == b'0' {
            return None;
        }
        let (mut fraction, mut at) = (0..0, whole);
        if rest.get(at) == Some(&b'.') {
            fraction = at + 1..at + 1 + digits_at(&rest[at + 1..]);
            if fraction.is_empty() {
                return None;
            }
            at = fraction.end;
        }
        let mut exponent = 0_i64;
        if let Some(b'e' | b'E') = rest.get(at) {
            let text = &rest[at + 1..];
            let unsigned = text.strip_prefix(b"-").or_else(|| text.strip_prefix(b"+")).unwrap_or(text);
            let count = digits_at(unsigned);
            if count == 0 || count < unsigned.len() {
                return None;
            }
            // Of an exponent beyond any use, all that matters is that it is that large.
            let size = unsigned.iter().fold(0_i64, |size, digit| {
                size.saturating_mul(10).saturating_add(i64::from(digit - b'0')).min(i64::MAX / 4)
            });
            exponent = if text[0] == b'-' { -size } else { size };
            at = rest.len();
        }
        (at == rest.len()).then(|| Self::of(negative, &rest[..whole], &rest[fraction], exponent))
    }

    fn of(negative: bool, whole: &'t [u8], fraction: &'t [u8], exponent: i64) -> Self {
        let mut digits =
            if fraction.is_empty() { Cow::Borrowed(whole) } else { Cow::Owned([whole, fraction].concat()) };
        let mut exponent = exponent - fraction.len() as i64;
        let end = digits.iter().rposition(|digit| *digit != b'0').map_or(0, |last| last + 1);
        let start = digits[..end].iter().position(|digit| *digit != b'0').unwrap_or(end);
        exponent += (digits.len() - end) as i64;
        digits = match digits {
            Cow::Borrowed(digits) => Cow::Borrowed(&digits[start..end]),
            Cow::Owned(digits) => Cow::Owned(digits[start..end].to_vec()),
        };
        if digits.is_empty() {
            return Self { negative: false, digits, exponent: 0 };
        }
        Self { negative, digits, exponent }
    }

    /// The sign, the digits and the power of ten, for a hash.
    pub(super) fn parts(&self) -> (bool, &[u8], i64) {
        (self.negative, &self.digits, self.exponent)
    }

    /// The value in units of a power of ten, where that fits.
    fn scaled(&self, exponent: i64) -> Option<i128> {
        if self.digits.is_empty() {
            return Some(0);
        }
        let zeros = u32::try_from(self.exponent.checked_sub(exponent)?).ok()?;
        let digits = self
            .digits
            .iter()
            .try_fold(0_i128, |value, digit| value.checked_mul(10)?.checked_add(i128::from(digit - b'0')))?;
        let value = digits.checked_mul(10_i128.checked_pow(zeros)?)?;
        Some(if self.negative { -value } else { value })
    }

    /// The nearest value that a machine counts with.
    fn nearest(&self) -> f64 {
        let sign = if self.negative { "-" } else { "" };
        let digits = if self.digits.is_empty() { "0".into() } else { String::from_utf8_lossy(&self.digits) };
        format!("{sign}{digits}e{}", self.exponent).parse().unwrap_or(f64::NAN)
    }
}

fn digits_at(text: &[u8]) -> usize {
    text.iter().take_while(|byte| byte.is_ascii_digit()).count()
}

/// How far two numbers may be from each other and still be taken as equal.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Tolerance {
    most: Decimal<'static>,
    is_percent: bool,
    written: String,
}

impl Tolerance {
    /// Reads `0.01` or `1%`; nothing where it is neither, or negative.
    pub fn parse(text: &str) -> Option<Self> {
        let number = text.strip_suffix('%').unwrap_or(text);
        let Decimal { negative, digits, exponent } = Decimal::read(number.as_bytes())?;
        let most = Decimal { negative, digits: Cow::Owned(digits.into_owned()), exponent };
        (!negative).then(|| Self { most, is_percent: text.ends_with('%'), written: text.to_owned() })
    }

    /// As it was written.
    pub fn written(&self) -> &str {
        &self.written
    }

    /// As a part of a hundred: what measures from 0 to 100 takes a number and a share alike.
    pub(super) fn of_hundred(&self) -> f32 {
        self.most.nearest() as f32
    }

    /// Whether two numbers are this near: apart by no more than the number, or by no more than that share of the larger one.
    ///
    /// Exact up to 38 digits; beyond that, as near as a machine counts.
    pub fn holds(&self, one: &Decimal<'_>, other: &Decimal<'_>) -> bool {
        self.exactly(one, other).unwrap_or_else(|| {
            let (a, b, most) = (one.nearest(), other.nearest(), self.most.nearest());
            let most = if self.is_percent { most / 100.0 * a.abs().max(b.abs()) } else { most };
            (a - b).abs() <= most
        })
    }

    fn exactly(&self, one: &Decimal<'_>, other: &Decimal<'_>) -> Option<bool> {
        let lowest = |numbers: &[&Decimal<'_>]| numbers.iter().map(|number| number.exponent).min();
        if self.is_percent {
            let unit = lowest(&[one, other])?;
            let (a, b) = (one.scaled(unit)?, other.scaled(unit)?);
            let share = self.most.exponent.min(0);
            let apart = a.checked_sub(b)?.checked_abs()?.checked_mul(100)?;
            let apart = apart.checked_mul(10_i128.checked_pow(u32::try_from(-share).ok()?)?)?;
            let most = self.most.scaled(share)?.checked_mul(a.checked_abs()?.max(b.checked_abs()?))?;
            return Some(apart.cmp(&most) != Ordering::Greater);
        }
        let unit = lowest(&[one, other, &self.most])?;
        let apart = one.scaled(unit)?.checked_sub(other.scaled(unit)?)?.checked_abs()?;
        Some(apart <= self.most.scaled(unit)?)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn number(text: &str) -> Decimal<'_> {
        Decimal::read(text.as_bytes()).unwrap_or_else(|| panic!("{text} is a number"))
    }

    #[test]
    fn equal_values_are_equal_however_they_are_written() {
        for (one, other) in [("60", "6e1"), ("0", "-0.00"), ("1.50", "1.5"), ("100E-2", "1"), ("-0.1e1", "-1")] {
            assert_eq!(number(one), number(other), "{one} and {other}");
        }
        assert_ne!(number("18446744073709551617"), number("18446744073709551616"));
        assert_ne!(number("1e400"), number("1e401"));
    }

    #[test]
    fn what_is_no_number_of_json_is_none() {
        for text in ["", "-", "01", "+1", "1.", ".5", "1e", "1e+", "1,000", "0x1f", "1 ", "NaN", "1e5x"] {
            assert!(Decimal::read(text.as_bytes()).is_none(), "{text:?}");
        }
    }

    #[test]
    fn a_tolerance_holds_exactly_at_its_edge() {
        let holds = |tolerance: &str, one: &str, other: &str| {
            Tolerance::parse(tolerance).unwrap().holds(&number(one), &number(other))
        };
        assert!(holds("0.01", "0.30", "0.31"));
        assert!(!holds("0.01", "0.30", "0.3100001"));
        assert!(holds("1%", "100", "99"));
        assert!(!holds("1%", "100", "98.9"));
        assert!(holds("0", "1.0", "1"));
        assert!(holds("10%", "1e300", "0.95e300"), "beyond what is exact");
        assert!(Tolerance::parse("-1").is_none() && Tolerance::parse("1 %").is_none());
    }
}
