//! What the rules masked of one line.

use std::ops::Range;
use std::sync::Arc;

/// A part of a line that is masked.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MaskedSpan {
    /// Its bytes, from the start of the line; empty where a line end is missing.
    pub range: Range<usize>,
    /// The index of the rule in [`FileRules::rules`](super::FileRules::rules).
    pub rule: usize,
    /// What stands for it when lines are compared.
    pub stands_for: StandsFor,
}

/// What stands for masked text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum StandsFor {
    /// The same for every text.
    Fixed(&'static [u8]),
    /// A name.
    Name(Arc<[u8]>),
}

impl StandsFor {
    /// Nothing does.
    pub const NOTHING: Self = Self::Fixed(b"");

    /// Its bytes.
    pub fn bytes(&self) -> &[u8] {
        match self {
            Self::Fixed(bytes) => bytes,
            Self::Name(name) => name,
        }
    }
}

/// What of a line is masked.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct LineMask {
    /// The parts, in order.
    pub spans: Vec<MaskedSpan>,
    /// The rule by which the whole line is excluded.
    pub gone: Option<usize>,
    /// The same with the ignoring rules alone.
    pub gone_ignored: Option<usize>,
}
