//! What texts are written in, in words.

use tideline_core::internal::kinds::Comparison;

/// What a heading says of encodings: nothing when they are the same.
pub fn encoding_note(comparison: &Comparison<'_>) -> Option<String> {
    match comparison {
        Comparison::Text(texts) if texts.encodings.0 != texts.encodings.1 => {
            Some(format!("{}, now {}", texts.encodings.0.name(), texts.encodings.1.name()))
        }
        Comparison::Text(_) | Comparison::Bytes(_) => None,
    }
}
