//! The two sides as text.

use std::borrow::Cow;

use tideline_core::kinds::ContentOptions;
use tideline_core::text::encoding::TextEncoding;
use tideline_views::json::SideMetadata;

use super::sides::Sides;

/// What a heading says of encodings: nothing when they are the same.
pub(super) fn encoding_note((before, after): (TextEncoding, TextEncoding)) -> Option<String> {
    (before != after).then(|| format!("{}, now {}", before.name(), after.name()))
}

/// Two sides that are text, or not.
pub(super) enum Texts<'s> {
    Text { before: Cow<'s, [u8]>, after: Cow<'s, [u8]>, written: (TextEncoding, TextEncoding) },
    Bytes,
}

impl<'s> Texts<'s> {
    /// Decodes both sides. When one is not text, neither is compared as text.
    pub(super) fn of(sides: &'s Sides, contents: &ContentOptions) -> Self {
        match contents.decoded(sides.type_name().as_bytes(), (&sides.before, &sides.after)) {
            Some((before, after, written)) => Self::Text { before, after, written },
            None => Self::Bytes,
        }
    }

    /// What the heading says of encodings: nothing when they are the same.
    pub(super) fn note(&self) -> Option<String> {
        match self {
            Self::Text { written, .. } => encoding_note(*written),
            Self::Bytes => None,
        }
    }

    /// What is known of each side.
    pub(super) fn metadata(&self, sides: &Sides) -> (SideMetadata, SideMetadata) {
        let written = match self {
            Self::Text { written: (before, after), .. } => [Some(before.name()), Some(after.name())],
            Self::Bytes => [None, None],
        };
        let [before, after] = written;
        let metadata = |content: &tideline_sources::Content, encoding| SideMetadata {
            size: content.len() as u64,
            modified: content.modified(),
            encoding,
        };
        (metadata(&sides.before, before), metadata(&sides.after, after))
    }
}
