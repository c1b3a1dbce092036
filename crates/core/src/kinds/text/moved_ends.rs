//! The two ends of a block that moved: what of it is not the same at the other end.

use super::inside::{Detail, detail};
use crate::internal::model::{Change, Place, Row, Segment, Span, Weight, Words};
use crate::internal::rules::MaskedText;
use crate::internal::text::lines::Lines;
use crate::internal::text::words::Grain;

/// Looks inside a change at one of its places. At an end of a block that moved, the lines are held against those at its other end: where they
/// differ, the rows have words.
pub fn detail_of_place<'t>(
    (before, after): (&'t MaskedText<'_>, &'t MaskedText<'_>),
    (change, place): (&Change, &Place),
    grain: &Grain,
) -> Detail<'t> {
    if change.edited == 0 && !change.reindented {
        return detail((before, &place.before), (after, &place.after), grain);
    }
    let mut whole = detail((before, &change.before), (after, &change.after), grain);
    let is_leaving = place.after.is_empty();
    let all = |line: &[u8]| if is_blank(line) { Vec::new() } else { vec![Segment::changed(0..line.len())] };
    let row = |row: Row| match row {
        Row::Gone { before, weight, .. } if is_leaving => {
            Some(Row::Gone { before, words: all(whole.before.get(before)), weight })
        }
        Row::New { after, weight, .. } if !is_leaving => {
            Some(Row::New { after, words: all(whole.after.get(after)), weight })
        }
        Row::Equal { before, after } => Some((before, after, Words::default())).map(|pair| end_of(pair, is_leaving)),
        Row::Edited { before, after, words, .. } => Some(end_of((before, after, words), is_leaving)),
        Row::Hidden { before: Some(before), .. } if is_leaving => {
            Some(Row::Hidden { before: Some(before), after: None })
        }
        Row::Hidden { after: Some(after), .. } if !is_leaving => Some(Row::Hidden { before: None, after: Some(after) }),
        Row::Gone { .. } | Row::New { .. } | Row::Hidden { .. } => None,
    };
    whole.rows = std::mem::take(&mut whole.rows).into_iter().filter_map(row).collect();
    let nothing = Lines::of(b"");
    if is_leaving { Detail { after: nothing, ..whole } } else { Detail { before: nothing, ..whole } }
}

/// Whether a line is blank: such a line may stand above a block that moved at one end and below it at the other.
fn is_blank(line: &[u8]) -> bool {
    line.trim_ascii().is_empty()
}

/// The row of two lines of a block that moved, at one of its ends.
fn end_of((before, after, words): (usize, usize, Words), is_leaving: bool) -> Row {
    let weight = Weight::Counted;
    if is_leaving {
        Row::Gone { before, words: words.before, weight }
    } else {
        Row::New { after, words: words.after, weight }
    }
}

/// How many lines of the two ends of a block that moved are not the same but for the white space at their ends, and whether that differs.
pub(super) fn edited_inside(before: (&MaskedText<'_>, &Span), after: (&MaskedText<'_>, &Span)) -> (usize, bool) {
    if before.0.text()[before.1.bytes.clone()] == after.0.text()[after.1.bytes.clone()] {
        return (0, false);
    }
    let found = detail(before, after, &Grain::Line);
    let (mut edited, mut reindented) = (0, false);
    for row in &found.rows {
        match row {
            Row::Edited { before, after, .. }
                if found.before.get(*before).trim_ascii() == found.after.get(*after).trim_ascii() =>
            {
                reindented = true;
            }
            Row::Gone { before, .. } if is_blank(found.before.get(*before)) => {}
            Row::New { after, .. } if is_blank(found.after.get(*after)) => {}
            Row::Edited { .. } | Row::Gone { .. } | Row::New { .. } => edited += 1,
            Row::Equal { .. } | Row::Hidden { .. } => {}
        }
    }
    (edited, reindented)
}
