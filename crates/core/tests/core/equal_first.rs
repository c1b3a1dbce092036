//! Under rules, lines that are equal in full stay together, and no more is left to count than without them.

use proptest::prelude::*;
use tideline_core::internal::align::{Alignment, Bounds, Edit, align, align_masked};
use tideline_core::internal::rules::{MaskedText, Verdict};

use crate::rules::file_rules;
use crate::support::{carry_out, smallest_size};

/// Lines of which many are alike without their numbers.
fn table(rows: std::ops::Range<usize>) -> Vec<String> {
    rows.flat_map(|row| [format!("case {row}:\n"), format!("  return {};\n", row * 7), "  break;\n".to_owned()])
        .collect()
}

fn under_muted_numbers(before: &str, after: &str, bounds: &Bounds) -> Alignment {
    let rules = file_rules("", "numbers", "x.c");
    let masked = |text: &str| MaskedText::new(text.as_bytes().to_vec(), &rules);
    align_masked(&masked(before).before(), &masked(after), bounds)
}

/// The lines that count on both sides.
fn counted(alignment: &Alignment) -> usize {
    let counted = alignment.edits.iter().filter(|edit| edit.verdict == Verdict::Counted);
    counted.map(|edit| edit.before.lines.len() + edit.after.lines.len()).sum()
}

#[test]
fn what_goes_from_a_table_is_told_where_it_went() {
    let before = table(0..20);
    let mut after = before.clone();
    after.drain(13..16);
    after.insert(30, "extra();\n".to_owned());
    let (before, after) = (before.concat(), after.concat());
    let found = under_muted_numbers(&before, &after, &Bounds::default());
    assert_eq!(found.edits, align(before.as_bytes(), after.as_bytes(), &Bounds::default()), "nothing is muted");
    assert_eq!(found.edits.len(), 2);
}

#[test]
fn a_large_table_is_read_alike() {
    // Beyond the size from which texts are walked through, with what repeats only here and there.
    let prose = |from: usize| (from..from + 3000).map(|at| format!("reading {at} of the gauge\n")).collect::<String>();
    let before = [prose(0), table(0..900).concat(), prose(5000)].concat();
    let mut middle = table(0..900);
    middle.drain(900..903);
    middle.insert(1500, "extra();\n".to_owned());
    let after = [prose(0), middle.concat(), prose(5000)].concat();
    for (before, after) in [(&before, &after), (&after, &before)] {
        let found = under_muted_numbers(before, after, &Bounds::default().walk_from(0));
        let verdicts: Vec<_> = found.edits.iter().map(|edit| edit.verdict).collect();
        assert_eq!(verdicts, [Verdict::Counted; 2]);
        assert_eq!(counted(&found), 4);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    /// The shortest script under the rules stays the shortest; where that of the bytes is as short, it is the one.
    #[test]
    fn equal_lines_stay_together(
        rows in 4..14_usize,
        gone in (0..40_usize, 0..5_usize),
        new in (0..40_usize, 0..3_usize),
        renumbered in prop::collection::vec(0..40_usize, 0..4),
    ) {
        let before = table(0..rows);
        let mut after = before.clone();
        for at in renumbered {
            let at = at % after.len();
            after[at] = after[at].replace('1', "90").replace('2', "91");
        }
        let from = gone.0 % after.len();
        let to = (from + gone.1).min(after.len());
        after.drain(from..to);
        for at in 0..new.1 {
            after.insert((new.0 + at) % (after.len() + 1), format!("extra({at});\n"));
        }
        let (before, after) = (before.concat(), after.concat());
        let found = under_muted_numbers(&before, &after, &Bounds::shortest());
        prop_assert_eq!(carry_out(before.as_bytes(), after.as_bytes(), &found.edits), after.as_bytes());

        let masked = |text: &str| text.replace(|c: char| c.is_ascii_digit(), "");
        let (masked_before, masked_after) = (masked(&before), masked(&after));
        let least = smallest_size(masked_before.as_bytes(), masked_after.as_bytes());
        prop_assert_eq!(counted(&found), least, "no more is left to count than the shortest script leaves");

        let of_bytes = smallest_size(before.as_bytes(), after.as_bytes());
        let muted = found.edits.iter().filter(|edit| edit.verdict != Verdict::Counted).count();
        prop_assert!(of_bytes > least || muted == 0, "nothing is muted that need not be");

        let mirrored = under_muted_numbers(&after, &before, &Bounds::shortest());
        prop_assert_eq!(mirrored.edits.into_iter().map(Edit::mirrored).collect::<Vec<_>>(), found.edits);
    }
}
