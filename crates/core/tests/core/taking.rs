//! Carrying chosen changes across.

use bytes::Bytes;
use proptest::prelude::*;
use std::sync::Arc;
use tideline_core::internal::kinds::text::{TextOptions, compare_masked};
use tideline_core::internal::merge::{Pick, Selection, TakeInto, parse_numbers, take};
use tideline_core::internal::model::TextComparison;
use tideline_core::internal::patch::{Hunk, HunkLine, HunkPlacement, LineRole, PlaceOptions, place};
use tideline_core::internal::rules::{FileRules, MaskedText};
use tideline_core::internal::text::encoding::{Decoded, decode};

use crate::support::{bytes, edited_pair, lines, text};

/// What comes of taking changes into the text before.
fn taken(before: &[u8], after: &[u8], into: TakeInto, mask: u64) -> (Vec<u8>, TextComparison, Vec<Pick>) {
    let file_rules = Arc::<FileRules>::default();
    let (b, a) = (MaskedText::new(before, &file_rules), MaskedText::new(after, &file_rules));
    let comparison = compare_masked(&b, &a, &TextOptions::default());
    let pick = |index: usize| if mask >> (index % 64) & 1 == 1 { Pick::Take } else { Pick::Leave };
    let picks: Vec<Pick> = (0..comparison.changes.len()).map(pick).collect();
    (take((&b, &a), &comparison, into, &picks), comparison, picks)
}

/// The chosen changes as hunks without context, placed by the placer of patches. Nothing where that cannot tell whether they are
/// in already: new lines that stand beside lines like them.
fn by_hunks(before: &[u8], after: &[u8], comparison: &TextComparison, picks: &[Pick]) -> Option<Vec<u8>> {
    let (b, a) = (lines(before), lines(after));
    let mut shift = 0_isize;
    let mut hunks = Vec::new();
    for place in comparison.places.iter().filter(|place| picks[place.change] == Pick::Take) {
        let (old, new) = (place.before.lines.clone(), place.after.lines.clone());
        let line = |role: LineRole, line: &[u8]| HunkLine { role, text: Bytes::copy_from_slice(line) };
        let gone = old.clone().map(|at| line(LineRole::Gone, b[at]));
        let come = new.clone().map(|at| line(LineRole::New, a[at]));
        hunks.push(Hunk {
            before: old.start,
            after: usize::try_from(old.start as isize + shift).unwrap(),
            lines: gone.chain(come).collect(),
            line: 1,
        });
        shift += new.len() as isize - old.len() as isize;
    }
    let placement = place(before, &hunks, &PlaceOptions::default());
    let is_placed = placement.fits.iter().all(|fit| matches!(fit, HunkPlacement::Placed(_)));
    is_placed.then_some(placement.text)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn any_subset_equals_applying_those_hunks((before, after) in edited_pair(), mask in any::<u64>()) {
        let (found, comparison, picks) = taken(&before, &after, TakeInto::Before, mask);
        let placed = by_hunks(&before, &after, &comparison, &picks);
        prop_assume!(placed.is_some());
        prop_assert_eq!(Some(found), placed);
    }

    #[test]
    fn all_of_them_make_one_text_the_other(before in text(), after in text()) {
        prop_assert_eq!(&taken(&before, &after, TakeInto::Before, u64::MAX).0, &after);
        prop_assert_eq!(&taken(&before, &after, TakeInto::After, u64::MAX).0, &before);
        prop_assert_eq!(&taken(&before, &after, TakeInto::Before, 0).0, &before);
        prop_assert_eq!(&taken(&before, &after, TakeInto::After, 0).0, &after);
    }

    /// What goes into the one side by some changes goes into the other by the rest.
    #[test]
    fn some_into_one_side_are_the_others_into_the_other((before, after) in edited_pair(), mask in any::<u64>()) {
        let (forth, ..) = taken(&before, &after, TakeInto::Before, mask);
        let (back, ..) = taken(&before, &after, TakeInto::After, !mask);
        prop_assert_eq!(forth, back);
    }

    #[test]
    fn any_bytes_can_be_taken(before in bytes(), after in bytes(), mask in any::<u64>()) {
        prop_assert_eq!(&taken(&before, &after, TakeInto::Before, u64::MAX).0, &after);
        taken(&before, &after, TakeInto::After, mask);
    }

    /// All lines of both sides, one by one, are all changes.
    #[test]
    fn all_lines_are_all_changes((before, after) in edited_pair()) {
        let file_rules = Arc::<FileRules>::default();
        let (b, a) = (MaskedText::new(&before[..], &file_rules), MaskedText::new(&after[..], &file_rules));
        let options = TextOptions::default();
        let comparison = compare_masked(&b, &a, &options);
        prop_assume!(!comparison.changes.is_empty());
        let moved = comparison.changes.iter().any(|change| change.form == tideline_core::internal::model::Form::Moved);
        prop_assume!(!moved);
        let all = |text: &[u8]| if text.is_empty() { vec![] } else { vec![1..=lines(text).len()] };
        let in_a_change = |is_before: bool| comparison.changes.iter().any(|change| {
            !(if is_before { &change.before } else { &change.after }).is_empty()
        });
        let selection = Selection {
            before: if in_a_change(true) { all(&before) } else { vec![] },
            after: if in_a_change(false) { all(&after) } else { vec![] },
            ..Selection::default()
        };
        let Ok(picks) = selection.picks((&b, &a), &comparison) else { return Ok(()) };
        prop_assert_eq!(take((&b, &a), &comparison, TakeInto::Before, &picks), after);
    }

    #[test]
    fn what_was_decoded_is_encoded_back(text in "[a-zäé✓\r\n]{0,40}", marked in any::<bool>()) {
        let utf16: Vec<u8> = marked.then_some(0xfeff).into_iter().chain(text.encode_utf16()).flat_map(u16::to_le_bytes).collect();
        let utf8 = [if marked { "\u{feff}" } else { "" }, &text].concat().into_bytes();
        for bytes in [utf16, utf8] {
            if let Decoded::Text { text, written } = decode(&bytes, None) {
                prop_assert_eq!(written.encoded(&text), Some(bytes.clone()));
            }
        }
    }
}

fn picks_of(selection: &Selection, before: &[u8], after: &[u8]) -> Result<Vec<u8>, String> {
    let file_rules = Arc::<FileRules>::default();
    let (b, a) = (MaskedText::new(before, &file_rules), MaskedText::new(after, &file_rules));
    let comparison = compare_masked(&b, &a, &TextOptions::default());
    let picks = selection.picks((&b, &a), &comparison).map_err(|error| error.to_string())?;
    Ok(take((&b, &a), &comparison, TakeInto::Before, &picks))
}

#[test]
fn single_lines_of_a_change_are_taken() {
    let (before, after) = (b"one\nthe level at the quay is low 1\nthe level at the quay is low 2\nthe level at the quay is low 3\nfour\n", b"one\nthe level at the quay is high 1\nthe level at the quay is high 2\nthe level at the quay is high 3\nfour\nfive\n");
    let lines = |after: Vec<_>, before: Vec<_>| Selection { after, before, ..Selection::default() };
    assert_eq!(
        picks_of(&lines(vec![3..=3], vec![]), before, after).unwrap(),
        b"one\nthe level at the quay is low 1\nthe level at the quay is high 2\nthe level at the quay is low 3\nfour\n",
        "a line of the other side takes the place of its partner"
    );
    assert_eq!(picks_of(&lines(vec![], vec![3..=4]), before, after).unwrap(), b"one\nthe level at the quay is low 1\nthe level at the quay is high 2\nthe level at the quay is high 3\nfour\n");
    assert_eq!(
        picks_of(&lines(vec![6..=6], vec![2..=2]), before, after).unwrap(),
        b"one\nthe level at the quay is high 1\nthe level at the quay is low 2\nthe level at the quay is low 3\nfour\nfive\n"
    );
    assert!(
        picks_of(&lines(vec![1..=1], vec![]), before, after)
            .unwrap_err()
            .contains("line 1 of the side after is in no change")
    );
    assert!(picks_of(&lines(vec![0..=0], vec![]), before, after).is_err());
}

#[test]
fn numbers_are_read_and_checked() {
    assert_eq!(parse_numbers("2,5-7"), Some(vec![2..=2, 5..=7]));
    for wrong in ["", "0", "7-5", "a", "1,", "-3", "1-"] {
        assert_eq!(parse_numbers(wrong), None, "{wrong}");
    }
    let selection = |changes: Vec<_>, all_but: Vec<_>| Selection { changes, all_but, ..Selection::default() };
    let (before, after) = (b"1\nsame\n2\nsame too\n3\n", b"a\nsame\nb\nsame too\nc\n");
    assert_eq!(picks_of(&selection(vec![1..=2], vec![]), before, after).unwrap(), b"a\nsame\nb\nsame too\n3\n");
    assert_eq!(picks_of(&selection(vec![], vec![2..=2]), before, after).unwrap(), b"a\nsame\n2\nsame too\nc\n");
    let error = picks_of(&selection(vec![3..=4], vec![]), before, after).unwrap_err();
    assert_eq!(error, "there is no change 4: they are numbered from 1 to 3");
    assert_eq!(
        picks_of(&selection(vec![1..=1], vec![]), b"x\n", b"x\n").unwrap_err(),
        "there is no change 1: there are none"
    );
}

#[test]
fn what_is_carried_gets_the_line_ends_of_its_new_place_where_they_do_not_count() {
    let file_rules = super::rules::file_rules("line-ends", "", "x");
    let (before, after) = (b"one\r\ntwo\r\nthree\r\n".as_slice(), b"one\n2\nthree\nfour".as_slice());
    let (b, a) = (MaskedText::new(before, &file_rules), MaskedText::new(after, &file_rules));
    let comparison = compare_masked(&b, &a, &TextOptions::default());
    let picks = vec![Pick::Take; comparison.changes.len()];
    assert_eq!(take((&b, &a), &comparison, TakeInto::Before, &picks), b"one\r\n2\r\nthree\r\nfour");
    let first = [Pick::Take, Pick::Leave];
    assert_eq!(take((&b, &a), &comparison, TakeInto::Before, &first), b"one\r\n2\r\nthree\r\n");
    // A last line without its end gets one when something comes after it.
    let clear = Arc::<FileRules>::default();
    let (b, a) = (MaskedText::new(b"x\nlast", &clear), MaskedText::new(b"x\nlast\nmore\n", &clear));
    let comparison = compare_masked(&b, &a, &TextOptions::default());
    let edited = [Pick::Lines(b"lines\n".to_vec())];
    assert_eq!(take((&b, &a), &comparison, TakeInto::Before, &edited), b"x\nlines\n");
}
