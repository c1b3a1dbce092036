//! Documents that text was taken out of, in words.

use std::ops::Range;

use tideline_core::internal::kinds::document::{ExtractedPair, Places};

use super::grouped;

/// What two documents are, and what of them was not compared.
pub fn document_line(extracted: &ExtractedPair) -> String {
    let (before, after) = &extracted.what;
    let what = if before == after { before.clone() } else { format!("{before}, now {after}") };
    let same = |part: &&String| !extracted.differing.contains(part);
    let others: Vec<&str> = extracted.left_out.iter().filter(same).map(String::as_str).collect();
    let others = if others.is_empty() { String::new() } else { format!("; not compared: {}", others.join(", ")) };
    if extracted.differing.is_empty() {
        return format!("{what}{others}");
    }
    format!("{what}{others}; not compared, but different: {}", extracted.differing.join(", "))
}

/// Where some lines are in a document; nothing where it tells no places.
pub(crate) fn place_in_document(places: &Places, lines: &Range<usize>, to: &str) -> Option<String> {
    let one = |(name, unit, number): (&str, &str, usize)| {
        let place = format!("{unit} {}", grouped(number));
        if name.is_empty() { place } else { format!("{name}, {place}") }
    };
    let first = places.of(lines.start)?;
    if lines.len() < 2 {
        return Some(one(first));
    }
    let last = places.of(lines.end - 1)?;
    if first.0 == last.0 && first.1 == last.1 && last.2 >= first.2 {
        let place = format!("{}s {}{to}{}", first.1, grouped(first.2), grouped(last.2));
        return Some(if first.0.is_empty() { place } else { format!("{}, {place}", first.0) });
    }
    Some(format!("{} to {}", one(first), one(last)))
}
