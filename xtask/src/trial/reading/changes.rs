//! What is measured of one pair of files.

use std::ops::Range;

use tideline_core::internal::kinds::text::sections::Sections;
use tideline_core::internal::kinds::text::{Detail, Grain, TextOptions, compare, detail};
use tideline_core::internal::model::{Form, Place, Row, TextComparison, Weight};
use tideline_core::internal::rules::MaskedText;

use super::figures::Figures;
use super::marks::{begin_alike, is_narrowed_apart, letters, likeness, mark_count, marked_share};

/// Lines beyond this are not weighed against each other.
const MOST_WEIGHED: usize = 40_000;

/// A place, and the lines in it that found no partner.
struct Seen<'t> {
    place: Place,
    form: Form,
    gone: Vec<&'t [u8]>,
    new: Vec<&'t [u8]>,
    /// Gone lines that are like a new one with no pair between them: they could be paired.
    pairable: usize,
}

/// Measures a pair of files.
pub(super) fn measure(name: &str, (before, after): (&[u8], &[u8]), figures: &mut Figures) {
    let comparison = compare(before, after, &TextOptions::default());
    let texts = (MaskedText::unmasked(before), MaskedText::unmasked(after));
    figures.changes += comparison.changes.len();
    let seen: Vec<Seen<'_>> = comparison
        .places
        .iter()
        .map(|place| {
            let found = detail((&texts.0, &place.before), (&texts.1, &place.after), &Grain::Word);
            let form = comparison.changes[place.change].form;
            if form != Form::Moved {
                pairs(&found, figures);
            }
            let alone = |gone: bool| -> Vec<&[u8]> {
                let line = |row: &Row| match row {
                    Row::Gone { before, words, .. } if gone && words.is_empty() => Some(found.before.get(*before)),
                    Row::New { after, words, .. } if !gone && words.is_empty() => Some(found.after.get(*after)),
                    _ => None,
                };
                found.rows.iter().filter_map(line).collect()
            };
            let pairable = if form == Form::Edited { pairable(&found) } else { 0 };
            Seen { place: place.clone(), form, gone: alone(true), new: alone(false), pairable }
        })
        .collect();
    missed(&seen, before, figures);
    headings(&comparison, figures);
    moves(&comparison, figures);
    sections(name, (before, after), &comparison, figures);
}

/// The pairs of lines in a change.
fn pairs(found: &Detail<'_>, figures: &mut Figures) {
    let is_rest = |row: &Row| match row {
        Row::Gone { words, .. } | Row::New { words, .. } => !words.is_empty(),
        Row::Edited { .. } | Row::Equal { .. } | Row::Hidden { .. } => false,
    };
    for (at, row) in found.rows.iter().enumerate() {
        let Row::Edited { before, after, words, .. } = row else { continue };
        if found.rows.get(at + 1).is_some_and(is_rest) {
            // A line that was broken into several is like all of them together.
            continue;
        }
        let (b, a) = (found.before.get(*before), found.after.get(*after));
        figures.pairs += 1;
        let marks = mark_count(&words.before) + mark_count(&words.after);
        figures.many_marks += usize::from(marks >= 5);
        figures.marked += marked_share(words, (b, a));
        figures.unrelated += usize::from(likeness(b, a) < 0.35 && !begin_alike(b, a));
        let (narrow, wide) = is_narrowed_apart(words, (b, a));
        figures.replaced_words += narrow + wide;
        figures.wide_words += wide;
        figures.indented += usize::from(b.trim_ascii() == a.trim_ascii());
    }
}

/// How many gone lines are like a new one between the same pairs.
fn pairable(found: &Detail<'_>) -> usize {
    let is_pair = |row: &Row| matches!(row, Row::Edited { .. } | Row::Equal { .. } | Row::Hidden { .. });
    let between = |rows: &[Row]| {
        let alone = |gone: bool| -> Vec<&[u8]> {
            let line = |row: &Row| match row {
                Row::Gone { before, words, .. } if gone && words.is_empty() => Some(found.before.get(*before)),
                Row::New { after, words, .. } if !gone && words.is_empty() => Some(found.after.get(*after)),
                _ => None,
            };
            rows.iter().filter_map(line).collect()
        };
        let (gone, new) = (alone(true), alone(false));
        if gone.len() * new.len() > MOST_WEIGHED {
            return 0;
        }
        let is_like = |line: &&&[u8]| letters(line) >= 4 && new.iter().any(|other| likeness(line, other) > 0.75);
        gone.iter().filter(is_like).count()
    };
    found.rows.split(is_pair).map(between).sum()
}

/// True pairs that were missed: in two neighbours, and inside a change.
fn missed(seen: &[Seen<'_>], before: &[u8], figures: &mut Figures) {
    let is_missed = |gone: &[&[u8]], new: &[&[u8]], least: f64| {
        gone.len() * new.len() <= MOST_WEIGHED
            && gone.iter().any(|b| new.iter().any(|a| letters(b) >= 4 && likeness(b, a) > least))
    };
    for two in seen.windows(2) {
        let between = two[1].place.before.lines.start - two[0].place.before.lines.end;
        if between > 2 || two.iter().any(|place| place.form == Form::Moved) {
            continue;
        }
        figures.neighbours += 1;
        let is_apart = is_missed(&two[0].gone, &two[1].new, 0.7) || is_missed(&two[1].gone, &two[0].new, 0.7);
        figures.parted += usize::from(is_apart);
        let between = &before[two[0].place.before.bytes.end..two[1].place.before.bytes.start];
        figures.parted_by_nothing += usize::from(is_apart && letters(between) == 0);
    }
    for place in seen.iter().filter(|place| place.form == Form::Edited) {
        if place.gone.len() * place.new.len() <= MOST_WEIGHED {
            let missed = place.gone.iter().filter(|line| is_missed(&[line], &place.new, 0.75));
            figures.unpaired += missed.count();
            figures.pairable += place.pairable;
        }
    }
}

/// Changes that stand one equal line behind another.
fn headings(comparison: &TextComparison, figures: &mut Figures) {
    let between = |two: &[Place]| two[1].before.lines.start - two[0].before.lines.end;
    figures.one_line_apart += comparison.places.windows(2).filter(|two| between(two) == 1).count();
}

/// Moved blocks, those that stand near another that went the same way, and short ones.
fn moves(comparison: &TextComparison, figures: &mut Figures) {
    let shift = |before: &Range<usize>, after: &Range<usize>| after.start as isize - before.start as isize;
    let moved: Vec<_> = comparison.of(Weight::Counted).filter(|change| change.form == Form::Moved).collect();
    let mut moved: Vec<_> = moved.iter().map(|change| (&change.before.lines, &change.after.lines)).collect();
    moved.sort_by_key(|(before, _)| before.start);
    figures.moved += moved.len();
    let is_crumb = |one: usize, other: usize| {
        let ((b, a), (next_b, next_a)) = (moved[one], moved[other]);
        shift(b, a) == shift(next_b, next_a) && next_b.start - b.end <= 6
    };
    for at in 0..moved.len() {
        let with_last = at > 0 && is_crumb(at - 1, at);
        let with_next = at + 1 < moved.len() && is_crumb(at, at + 1);
        figures.crumbs += usize::from(with_last || with_next);
        figures.short_moves += usize::from(moved[at].0.len() <= 3);
    }
}

/// The names of the sections that changes are headed by.
fn sections(name: &str, texts: (&[u8], &[u8]), comparison: &TextComparison, figures: &mut Figures) {
    let (before, after) = (Sections::new(name, texts.0, usize::MAX), Sections::new(name, texts.1, usize::MAX));
    let language = tideline_core::internal::text::file_type::FileType::of(name).map_or("other", |known| known.name);
    for change in &comparison.changes {
        let found =
            if change.after.is_empty() { before.of(&change.before.bytes) } else { after.of(&change.after.bytes) };
        let counts = figures.sections.entry(language).or_default();
        counts.0 += 1;
        let Some(found) = found else { continue };
        counts.1 += 1;
        const FLOW: [&str; 7] = ["if", "for", "while", "switch", "catch", "return", "with"];
        let word: String = found.title.chars().take_while(|letter| letter.is_alphanumeric()).collect();
        counts.2 += usize::from(FLOW.contains(&word.as_str()));
    }
}
