//! The two sides as text.

use std::borrow::Cow;

use tideline_core::text::encoding::{Decoded, Written, decode};
use tideline_views::json::SideFacts;

use super::sides::Sides;
use crate::settings::Encodings;

/// Two sides that are text, or not.
pub(super) enum Texts<'s> {
    Text { before: Cow<'s, [u8]>, after: Cow<'s, [u8]>, written: (Written, Written) },
    Bytes,
}

impl<'s> Texts<'s> {
    /// Decodes both sides. When one is not text, neither is compared as text.
    pub(super) fn of(sides: &'s Sides, wanted: Encodings) -> Self {
        match (decode(&sides.before, wanted.before), decode(&sides.after, wanted.after)) {
            (Decoded::Text { text: before, written: b }, Decoded::Text { text: after, written: a }) => {
                Self::Text { before, after, written: (b, a) }
            }
            _ => Self::Bytes,
        }
    }

    /// What the heading says of encodings: nothing when they are the same.
    pub(super) fn note(&self) -> Option<String> {
        match self {
            Self::Text { written: (before, after), .. } if before != after => {
                Some(format!("{}, now {}", before.name(), after.name()))
            }
            _ => None,
        }
    }

    /// What is known of each side.
    pub(super) fn facts(&self, sides: &Sides) -> (SideFacts, SideFacts) {
        let written = match self {
            Self::Text { written: (before, after), .. } => [Some(before.name()), Some(after.name())],
            Self::Bytes => [None, None],
        };
        let [before, after] = written;
        let facts = |content: &tideline_sources::Content, encoding| SideFacts {
            size: content.len() as u64,
            modified: content.modified(),
            encoding,
        };
        (facts(&sides.before, before), facts(&sides.after, after))
    }
}
