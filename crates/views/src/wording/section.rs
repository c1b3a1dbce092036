//! Sections, in words.

use tideline_core::internal::kinds::text::sections::SectionName;

/// Letters of a section's name that are shown.
const LONGEST: usize = 72;

/// The name of a section: its heading and, behind it, the block inside it.
pub(crate) fn section_in_words(name: &SectionName, plain: bool) -> String {
    let (mark, dots) = if plain { (">", "...") } else { ("›", "…") };
    // A heading that goes on in the next line is not told to its end.
    let whole = |text: &str| if text.ends_with('(') { format!("{text}{dots})") } else { text.to_owned() };
    let mut words = whole(&name.title);
    if let Some(block) = &name.block {
        words = format!("{words} {mark} {}", whole(block));
    }
    match words.char_indices().nth(LONGEST) {
        Some((end, _)) => format!("{}{dots}", words[..end].trim_end()),
        None => words,
    }
}
