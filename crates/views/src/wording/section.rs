//! Sections, in words.

use tideline_core::internal::kinds::text::sections::{SectionChange, SectionName};
use tideline_core::internal::model::Form;

use super::plural;

/// Letters of a section's name that are shown.
const LONGEST: usize = 72;

/// How a change stands to the section that names it.
pub(crate) fn section_relation(name: &SectionName) -> &'static str {
    if name.is_above { "above" } else { "in" }
}

/// The name of a section: its heading and, behind it, the block inside it. Of data, the keys around it stand before it.
pub(crate) fn section_in_words(name: &SectionName, plain: bool) -> String {
    let (mark, dots) = if plain { (">", "...") } else { ("›", "…") };
    // A heading that goes on in the next line is not told to its end.
    let whole = |text: &str| if text.ends_with('(') { format!("{text}{dots})") } else { text.to_owned() };
    let mut parts: Vec<String> = name.outer.clone();
    parts.push(whole(&name.title));
    parts.extend(name.block.iter().map(|block| whole(block)));
    let length = |parts: &[String]| parts.iter().map(|part| part.chars().count() + 3).sum::<usize>();
    // The keys farthest out are left out first.
    let first = name
        .outer
        .len()
        .min((0..=name.outer.len()).find(|first| length(&parts[*first..]) <= LONGEST).unwrap_or(usize::MAX));
    let mut words = parts[first..].join(&format!(" {mark} "));
    if first > 0 {
        words = format!("{dots} {mark} {words}");
    }
    match words.char_indices().nth(LONGEST) {
        Some((end, _)) => format!("{}{dots}", words[..end].trim_end()),
        None => words,
    }
}

/// The headings that a section is in, and its own.
pub(crate) fn section_path(path: &[String], plain: bool) -> String {
    path.join(if plain { " > " } else { " › " })
}

/// What became of a section.
pub(crate) fn section_says(change: &SectionChange) -> String {
    match change.form {
        Form::Gone => "gone".to_owned(),
        Form::New => "new".to_owned(),
        Form::Edited => plural(change.changes, "change"),
        Form::Moved if change.changes > 0 => format!("moved, {}", plural(change.changes, "change")),
        Form::Moved => "moved".to_owned(),
    }
}

/// Where a section is.
pub(crate) fn section_lines(change: &SectionChange, to: &str) -> String {
    let lines = |range: &std::ops::Range<usize>| match range.len() {
        1 => format!("{}", range.start + 1),
        _ => format!("{}{to}{}", range.start + 1, range.end),
    };
    match (&change.before, &change.after) {
        (Some(before), Some(after)) if before != after => format!("lines {}, now {}", lines(before), lines(after)),
        (Some(range), _) | (None, Some(range)) => format!("lines {}", lines(range)),
        (None, None) => String::new(),
    }
}

/// How many sections there are of each form, in words.
pub fn sections_in_words<'c>(changes: impl Iterator<Item = &'c SectionChange>) -> String {
    let mut counts =
        [(Form::Edited, "edited", 0), (Form::New, "new", 0), (Form::Gone, "gone", 0), (Form::Moved, "moved", 0)];
    for change in changes {
        if let Some(count) = counts.iter_mut().find(|(form, ..)| *form == change.form) {
            count.2 += 1;
        }
    }
    let told: Vec<String> = counts
        .iter()
        .filter(|(.., count)| *count > 0)
        .map(|(_, word, count)| format!("{} {word}", super::grouped(*count)))
        .collect();
    if told.is_empty() { "none differs".to_owned() } else { told.join(", ") }
}
