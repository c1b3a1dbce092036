//! What an alignment finds: the edits that turn one text into the other.

use crate::model::Span;
use crate::rules::{Account, Standing};

/// Two stretches of whole lines that differ; one of them may be empty. All between two edits is equal.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edit {
    /// Where before.
    pub before: Span,
    /// Where after.
    pub after: Span,
    /// Whether the difference counts.
    pub standing: Standing,
}

impl Edit {
    /// An edit that counts.
    pub fn counted(before: Span, after: Span) -> Self {
        Self { before, after, standing: Standing::Counted }
    }

    /// The same edit with the sides exchanged.
    pub fn mirrored(self) -> Self {
        Self { before: self.after, after: self.before, standing: self.standing }
    }
}

/// What differs between two texts.
#[derive(Clone, Debug, Default)]
pub struct Alignment {
    /// The edits that turn one text into the other, in order. Edits of different standing may touch.
    pub edits: Vec<Edit>,
    /// What the rules put aside.
    pub account: Account,
}
