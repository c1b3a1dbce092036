//! What contents are written in, and why they could not be read as they should, in words.

use tideline_core::internal::kinds::{Comparison, Unparsed};
use tideline_core::internal::model::Kind;

/// What a heading says of encodings, and of contents that could not be read as their kind: nothing where there is nothing to say.
pub fn encoding_note(comparison: &Comparison<'_>) -> Option<String> {
    let encodings = match comparison {
        Comparison::Text(texts) => Some(texts.encodings),
        Comparison::Table(tables) => Some(tables.encodings),
        Comparison::Data(documents) => Some(documents.encodings),
        Comparison::Sheets(_) | Comparison::Image(_) | Comparison::Bytes(_) => None,
    };
    let told = encodings.filter(|(before, after)| before != after);
    let told = told.map(|(before, after)| format!("{}, now {}", before.name(), after.name()));
    let notes: Vec<String> = told.into_iter().chain(comparison.unparsed().map(unparsed_in_words)).collect();
    (!notes.is_empty()).then(|| notes.join(", "))
}

/// Why contents were compared as text.
pub fn unparsed_in_words(unparsed: &Unparsed) -> String {
    let side = if unparsed.is_before { "before" } else { "after" };
    let Unparsed { kind, place, reason, is_fatal, .. } = unparsed;
    let place = place.map_or_else(String::new, |(line, column)| format!(" at line {line}, column {column}"));
    if *kind == Kind::Image {
        let lead = if *is_fatal { "" } else { "compared byte by byte: " };
        return format!("{lead}{side} cannot be read as an image: {reason}");
    }
    let kind = kind.name();
    let lead = if *is_fatal { "" } else { "compared as text: " };
    format!("{lead}{side} is no {kind}{place}: {reason}")
}
