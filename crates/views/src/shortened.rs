//! Texts that are cut in the middle, so that a row fits its width.

use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

/// A part is not cut to less than this.
const LEAST: usize = 12;
/// A longer part has a name or a sentence in it, and not a number alone.
const LONG: usize = 30;

/// A text of no more columns than there are: what stands in its middle is left out.
pub(crate) fn shortened(text: &str, width: usize, plain: bool) -> String {
    if text.width() <= width {
        return text.to_owned();
    }
    let gap = if plain { "..." } else { "…" };
    let left = width.saturating_sub(gap.width());
    // The end of a path tells more than its start.
    let (head, tail) = (left / 2, left - left / 2);
    let fitting = |letters: &mut dyn Iterator<Item = char>, width: usize| -> String {
        let mut used = 0;
        let fits = |letter: &char| {
            used += letter.width().unwrap_or(0);
            used <= width
        };
        letters.take_while(fits).collect()
    };
    let start = fitting(&mut text.chars(), head);
    let end: String = fitting(&mut text.chars().rev(), tail).chars().rev().collect();
    format!("{start}{gap}{end}")
}

/// Some parts as one text of no more columns than there are: the longest parts with names in them are cut, and then the last ones left out. A
/// number is never cut.
pub(crate) fn joined(parts: &[String], width: usize, plain: bool) -> String {
    const BETWEEN: &str = ", ";
    let has_a_name = |part: &String| part.contains('/') || part.width() > LONG;
    let mut parts: Vec<(String, bool)> = parts.iter().map(|part| (part.clone(), has_a_name(part))).collect();
    let text = |parts: &[(String, bool)]| parts.iter().map(|(part, _)| part.as_str()).collect::<Vec<_>>().join(BETWEEN);
    loop {
        let excess = text(&parts).width().saturating_sub(width);
        if excess == 0 {
            return text(&parts);
        }
        let named = parts.iter_mut().filter(|(part, has_a_name)| *has_a_name && part.width() > LEAST);
        let Some((longest, _)) = named.max_by_key(|(part, _)| part.width()) else { break };
        *longest = shortened(longest, longest.width().saturating_sub(excess).max(LEAST), plain);
    }
    let gap = if plain { "..." } else { "…" };
    while parts.len() > 1 {
        parts.pop();
        let left = format!("{}{BETWEEN}{gap}", text(&parts));
        if left.width() <= width {
            return left;
        }
    }
    shortened(&text(&parts), width, plain)
}

#[cfg(test)]
mod tests {
    use unicode_width::UnicodeWidthStr;

    use super::{joined, shortened};

    #[test]
    fn what_is_cut_fits_and_keeps_both_ends() {
        assert_eq!(shortened("stations/harbour-mouth.toml", 13, false), "statio…h.toml");
        assert_eq!(shortened("stations/harbour-mouth.toml", 13, true), "stati....toml");
        let parts = ["from scripts/of/the/old/station/check_levels.py".to_owned(), "2 changes".to_owned()];
        let text = joined(&parts, 40, false);
        assert!(text.ends_with("levels.py, 2 changes") && text.starts_with("from scripts"), "{text}");
        assert_eq!(text.width(), 40);
        assert!(joined(&["水位".repeat(20)], 11, false).width() <= 11);
        let numbers = ["109 changed", "1,262 changes", "1,470 ○ 2,554 ●"].map(str::to_owned);
        assert_eq!(joined(&numbers, 30, false), "109 changed, 1,262 changes, …");
    }
}
