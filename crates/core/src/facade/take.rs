//! Chosen changes carried from one text into the other.

use std::fmt;

use crate::internal::kinds::Comparison;
use crate::internal::merge::{Pick, TakeInto, take as carry};

/// Why changes cannot be taken.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum TakeError {
    /// The sides are not both text.
    NotText,
    /// There is no change of this number.
    NoChange(usize),
}

impl fmt::Display for TakeError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::NotText => f.write_str("the sides are not both text"),
            Self::NoChange(number) => write!(f, "there is no change {number}"),
        }
    }
}

impl std::error::Error for TakeError {}

/// Carries the changes of these numbers into one of two texts, and gives what comes of it, in UTF-8. The other changes stay as they
/// are in that text.
///
/// ```
/// use tideline_core::{Options, TakeInto, compare, take};
///
/// let (before, after) = (b"one\ntwo\nthree\nfour\n", b"1\ntwo\nthree\n4\n");
/// let comparison = compare("numbers.txt", before, after, &Options::new());
/// assert_eq!(take(&comparison, &[2], TakeInto::Before)?, b"one\ntwo\nthree\n4\n");
/// # Ok::<(), tideline_core::TakeError>(())
/// ```
///
/// # Errors
/// When the sides are not text, or there is no change of a number.
pub fn take(comparison: &Comparison<'_>, numbers: &[usize], into: TakeInto) -> Result<Vec<u8>, TakeError> {
    let Comparison::Text(texts) = comparison else { return Err(TakeError::NotText) };
    let mut picks = vec![Pick::Leave; texts.found.changes.len()];
    for &number in numbers {
        let index = number.checked_sub(1).filter(|&index| index < picks.len()).ok_or(TakeError::NoChange(number))?;
        picks[index] = Pick::Take;
    }
    Ok(carry((&texts.before, &texts.after), &texts.found, into, &picks))
}
