//! What an alignment finds: the edits that turn one text into the other.

use crate::internal::model::Span;
use crate::internal::rules::{Account, Verdict};

/// Two stretches of whole lines that differ; one of them may be empty. All between two edits is equal.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edit {
    /// Where before.
    pub before: Span,
    /// Where after.
    pub after: Span,
    /// Whether the difference counts.
    pub verdict: Verdict,
}

impl Edit {
    /// An edit that counts.
    pub fn counted(before: Span, after: Span) -> Self {
        Self { before, after, verdict: Verdict::Counted }
    }

    /// The same edit with the sides exchanged.
    pub fn mirrored(self) -> Self {
        Self { before: self.after, after: self.before, verdict: self.verdict }
    }
}

/// What differs between two texts.
#[derive(Clone, Debug, Default)]
pub struct Alignment {
    /// The edits that turn one text into the other, in order. Edits with different verdicts may touch.
    pub edits: Vec<Edit>,
    /// What the rules masked.
    pub account: Account,
}
