//! The alignment: always right, smallest within its bounds, the same from either side.

use proptest::prelude::*;
use tideline_core::internal::align::{Bounds, Edit, WalkBounds, align, align_masked};
use tideline_core::internal::kinds::text::{Grain, TextOptions, compare_masked, detail};
use tideline_core::internal::model::Row;
use tideline_core::internal::rules::MaskedText;

use crate::rules::file_rules;
use crate::support::{bytes, carry_out, edited_pair, lines, size, smallest_size, text};

/// A walk that soon tries windows, and larger ones.
const SMALL: WalkBounds =
    WalkBounds { solid: 2, varied: 1, closing: 3, differences: 2, steps: 20, window: 8, sampled: 2, beside: 6 };

/// Every way the alignment can go about its work.
fn strategies() -> [(&'static str, Bounds); 6] {
    [
        ("default", Bounds::default()),
        ("shortest", Bounds::shortest()),
        ("walked", Bounds::default().walk_from(0)),
        ("walked by small windows", Bounds::default().walk_from(0).walk_within(SMALL)),
        ("hurried", Bounds::default().search(2).step(2)),
        ("shallow", Bounds::default().search(2).step(2).depth(1).slide(1)),
    ]
}

fn check(before: &[u8], after: &[u8]) -> Result<(), TestCaseError> {
    for (name, bounds) in strategies() {
        let edits = align(before, after, &bounds);
        prop_assert_eq!(carry_out(before, after, &edits), after, "{} turns before into after", name);
        let mirrored: Vec<_> = align(after, before, &bounds).into_iter().map(Edit::mirrored).collect();
        prop_assert_eq!(&edits, &mirrored, "{} is the same from either side", name);
        well_formed(before, after, &edits)?;
    }
    Ok(())
}

/// Spans are whole lines with the right numbers, in order, with equal lines between them.
fn well_formed(before: &[u8], after: &[u8], edits: &[Edit]) -> Result<(), TestCaseError> {
    for edit in edits {
        for (text, span) in [(before, &edit.before), (after, &edit.after)] {
            prop_assert_eq!(lines(&text[..span.bytes.start]).len(), span.lines.start);
            prop_assert_eq!(lines(&text[..span.bytes.end]).len(), span.lines.end);
        }
        prop_assert!(!edit.before.is_empty() || !edit.after.is_empty());
    }
    for pair in edits.windows(2) {
        let gap = pair[1].before.lines.start - pair[0].before.lines.end;
        prop_assert!(gap > 0, "neighbouring edits are one edit");
        prop_assert_eq!(gap, pair[1].after.lines.start - pair[0].after.lines.end);
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(600))]

    #[test]
    fn any_bytes_are_turned_into_any_others(before in bytes(), after in bytes()) {
        check(&before, &after)?;
    }

    #[test]
    fn repetitive_texts_are_aligned(before in text(), after in text()) {
        check(&before, &after)?;
    }

    #[test]
    fn edited_copies_are_aligned((before, after) in edited_pair()) {
        check(&before, &after)?;
    }

    #[test]
    fn the_script_is_the_smallest(before in text(), after in text()) {
        for bounds in [Bounds::default(), Bounds::shortest()] {
            prop_assert_eq!(size(&align(&before, &after, &bounds)), smallest_size(&before, &after));
        }
    }
}

fn only_edit(before: &str, after: &str) -> Edit {
    let edits = align(before.as_bytes(), after.as_bytes(), &Bounds::default());
    assert_eq!(edits.len(), 1, "{edits:?}");
    edits[0].clone()
}

#[test]
fn an_added_function_is_shown_from_its_first_line_to_the_blank_line_after_it() {
    let one = "fn one() {\n    1\n}\n\n";
    let two = "fn two() {\n    2\n}\n\n";
    let three = "fn three() {\n    3\n}\n";
    let edit = only_edit(&[one, three].concat(), &[one, two, three].concat());
    assert_eq!(edit.after.lines, 4..8);
}

#[test]
fn an_added_block_of_an_indented_language_begins_at_its_head() {
    let before = "def a():\n    if x:\n        go()\n    if z:\n        go()\n";
    let after = "def a():\n    if x:\n        go()\n    if y:\n        go()\n    if z:\n        go()\n";
    assert_eq!(only_edit(before, after).after.lines, 3..5);
}

#[test]
fn a_missing_final_line_end_is_a_difference_of_the_last_line() {
    let edit = only_edit("a\nb", "a\nb\n");
    assert_eq!((edit.before.lines, edit.after.lines), (1..2, 1..2));
}

#[test]
fn the_worst_inputs_end() {
    let count = 20_000;
    let same = "tide\n".repeat(count);
    let rising: String = (0..count).map(|n| format!("{n}\n")).collect();
    let falling: String = (0..count).rev().map(|n| format!("{n}\n")).collect();
    let alternating = "ebb\nflow\n".repeat(count / 2);
    let other = "flow\nflow\nebb\n".repeat(count / 3);
    for (before, after) in [(&same, &alternating), (&rising, &falling), (&alternating, &other), (&other, &same)] {
        let edits = align(before.as_bytes(), after.as_bytes(), &Bounds::default());
        assert_eq!(carry_out(before.as_bytes(), after.as_bytes(), &edits), after.as_bytes());
    }
}

#[test]
fn a_large_text_with_scattered_edits_has_just_these() {
    let before: String = (0..200_000).map(|n| format!("reading {n} at gauge {}\n", n % 17)).collect();
    let mut after: Vec<_> = before.lines().map(|line| format!("{line}\n")).collect();
    for at in (1000..200_000).step_by(9973) {
        after[at] = "battery low\n".to_owned();
    }
    after.remove(150_001);
    let after = after.concat();
    let edits = align(before.as_bytes(), after.as_bytes(), &Bounds::default());
    assert_eq!(size(&edits), 2 * 20 + 1);
    assert_eq!(carry_out(before.as_bytes(), after.as_bytes(), &edits), after.as_bytes());
}

#[test]
fn blocks_that_can_slide_together_become_one() {
    let before = "one\n\ntwo\n";
    let after = "one\n\nnew head\n----\n\nnew text\n\ntwo\n";
    assert_eq!(only_edit(before, after).after.lines, 2..7);
}

#[test]
fn equal_lines_at_either_end_are_cut_off_before_anything_else() {
    let block: String = (0..50_000).map(|n| format!("level {n}\n")).collect();
    let edit = only_edit(&format!("{block}old\n{block}"), &format!("{block}new\nnewer\n{block}"));
    assert_eq!((edit.before.lines, edit.after.lines), (50_000..50_001, 50_000..50_002));
}

#[test]
fn large_texts_keep_to_two_hundredths_of_the_smallest_script() {
    // A text of few different lines with many edits, so that bounds and fixed points come into play.
    let lines: Vec<String> = (0..6000).map(|n| format!("{}\n", (n * n + n / 7) % 900)).collect();
    let mut changed = lines.clone();
    for at in (0..5900).step_by(13) {
        match at % 3 {
            0 => changed[at] = format!("edited {at}\n"),
            1 => changed.swap(at, at + 40),
            _ => changed[at].clone_from(&lines[at + 1]),
        }
    }
    let (before, after) = (lines.concat().into_bytes(), changed.concat().into_bytes());
    let smallest = size(&align(&before, &after, &Bounds::shortest()));
    for (name, bounds) in strategies() {
        let edits = align(&before, &after, &bounds);
        assert_eq!(carry_out(&before, &after, &edits), after, "{name}");
        if !["hurried", "shallow"].contains(&name) {
            assert!(size(&edits) * 100 <= smallest * 102, "{name}: {} is more than {smallest}", size(&edits));
        }
    }
}

proptest! {
    #[test]
    fn lines_that_are_held_stand_in_one_row_or_match(
        (before, after) in prop_oneof![edited_pair(), (text(), text())],
        at in (any::<prop::sample::Index>(), any::<prop::sample::Index>()),
        case in any::<bool>(),
    ) {
        let (lines_b, lines_a) = (lines(&before).len(), lines(&after).len());
        prop_assume!(lines_b > 0 && lines_a > 0);
        let hold = (at.0.index(lines_b), at.1.index(lines_a));
        let rules = if case { file_rules("case", "", "x.txt") } else { file_rules("", "", "x.txt") };
        let b = MaskedText::new(&before[..], &rules).holding(vec![hold]);
        let a = MaskedText::new(&after[..], &rules);
        let edits = align_masked(&b, &a, &Bounds::default()).edits;
        prop_assert_eq!(carry_out(&before, &after, &edits), after.clone());
        let mirrored: Vec<Edit> = align_masked(&a, &b, &Bounds::default()).edits.into_iter().map(Edit::mirrored).collect();
        prop_assert_eq!(&edits, &mirrored);
        let found = compare_masked(&b, &a, &TextOptions::default());
        let place = found.places.iter().find(|place| place.before.lines.contains(&hold.0) || place.after.lines.contains(&hold.1));
        let Some(place) = place else { return Ok(()) };
        let detail = detail((&b, &place.before), (&a, &place.after), &Grain::Line);
        let (line_b, line_a) = (hold.0.wrapping_sub(place.before.lines.start), hold.1.wrapping_sub(place.after.lines.start));
        let is_one_row = detail.rows.iter().any(|row| matches!(row, Row::Edited { before, after, .. } | Row::Equal { before, after } if *before == line_b && *after == line_a));
        prop_assert!(is_one_row, "{:?} in {:?}: {:?}", hold, place, detail.rows);
    }
}
