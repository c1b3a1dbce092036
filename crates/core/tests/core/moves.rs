//! Blocks that went elsewhere.

use proptest::prelude::*;
use tideline_core::internal::align::Bounds;
use tideline_core::internal::kinds::text::{Grain, TextOptions, compare, detail};
use tideline_core::internal::model::{Change, Form, Row, Span, TextComparison};
use tideline_core::internal::rules::MaskedText;

use crate::support::{bytes, edited_pair, lines, text};

fn compared(before: &str, after: &str) -> TextComparison {
    compare(before.as_bytes(), after.as_bytes(), &TextOptions::default())
}

fn paragraph(topic: &str) -> String {
    format!("{topic} begins here\nand {topic} goes on\n\nwith a last word on {topic}\n")
}

#[test]
fn a_block_that_went_elsewhere_is_one_change_with_two_ends() {
    let [a, b, c, d] = ["ebb", "flow", "slack", "storm"].map(paragraph);
    let comparison = compared(&[&a[..], &b, &c, &d].concat(), &[&a[..], &c, &d, &b].concat());
    assert_eq!(comparison.changes.len(), 1, "{comparison:#?}");
    let change = &comparison.changes[0];
    assert_eq!((change.form, change.number), (Form::Moved, 1));
    assert_eq!((change.before.lines.clone(), change.after.lines.clone()), (4..8, 12..16));
    let places: Vec<_> =
        comparison.places.iter().map(|place| (place.before.lines.len(), place.after.lines.len())).collect();
    assert_eq!(places, [(4, 0), (0, 4)]);
}

#[test]
fn the_blank_line_that_parts_a_block_from_its_neighbour_goes_with_it() {
    let block = |topic: &str| format!("{topic} begins here\nand {topic} goes on\nup to the end of {topic}\n");
    let [a, b, c] = ["ebb", "flow", "slack"].map(block);
    // At the end of the text it stands above the block, elsewhere below.
    let comparison = compared(&[&a[..], &b, &c].join("\n"), &[&b[..], &c, &a].join("\n"));
    let found: Vec<_> = comparison
        .changes
        .iter()
        .map(|change| (change.form, change.before.lines.clone(), change.after.lines.clone(), change.edited))
        .collect();
    assert_eq!(found, [(Form::Moved, 0..4, 7..11, 0)]);
    // A blank line more is a change of its own.
    let forms: Vec<Form> = compared(&format!("{a}\n{b}\n{c}"), &format!("{b}\n{c}\n\n{a}"))
        .changes
        .iter()
        .map(|change| change.form)
        .collect();
    assert_eq!(forms, [Form::Moved, Form::Gone, Form::New]);
}

#[test]
fn beyond_its_bound_a_block_that_moved_is_gone_and_new() {
    let [a, b, c, d] = ["ebb", "flow", "slack", "storm"].map(paragraph);
    let (before, after) = ([&a[..], &b, &c, &d].concat(), [&a[..], &c, &d, &b].concat());
    let forms = |lines| {
        let options = TextOptions::default().bounds(Bounds::default().moves(lines));
        let comparison = compare(before.as_bytes(), after.as_bytes(), &options);
        comparison.changes.iter().map(|change| change.form).collect::<Vec<_>>()
    };
    assert_eq!(forms(4), [Form::Moved]);
    assert_eq!(forms(3), [Form::Gone, Form::New]);
}

#[test]
fn what_stays_of_an_edit_is_a_change_of_its_own() {
    let [a, b, c] = ["ebb", "flow", "slack"].map(paragraph);
    let before = format!("{a}old line of the report\n{b}{c}");
    let after = format!("{a}new line of the report\n{c}{b}");
    let forms: Vec<_> = compared(&before, &after).changes.iter().map(|change| change.form).collect();
    assert_eq!(forms, [Form::Edited, Form::Moved]);
}

#[test]
fn braces_and_single_words_do_not_move() {
    let comparison = compared("}\n\none\ntwo\nthree\n", "one\ntwo\nthree\n}\n\n");
    assert!(comparison.changes.iter().all(|change| change.form != Form::Moved));
}

#[test]
fn a_rewritten_passage_is_one_change_although_its_blank_lines_match() {
    let before = "start\nold one\nold two\nold three\n\nold four\nold five\n}\nold six\nold seven\nend\n";
    let after = "start\nfirst\nsecond\nthird\n\nfourth\nfifth\n}\nsixth\nseventh\nend\n";
    let comparison = compared(before, after);
    assert_eq!(comparison.changes.len(), 1, "{comparison:#?}");
    assert_eq!((comparison.changes[0].equal, comparison.differing_lines()), (2, 7));
    let apart = compared("a = 1\n\nb = 1\n", "a = 2\n\nb = 2\n");
    assert_eq!(apart.changes.len(), 2, "single lines with a blank line between them stay apart");
    let added = compared("x\n\ny\n", "x\none\ntwo\nthree\nfour\n\nfive\nsix\nseven\neight\ny\n");
    assert_eq!(added.changes.iter().filter(|change| change.form == Form::New).count(), 2, "{added:#?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn places_turn_before_into_after((before, after) in edited_pair()) {
        check(&before, &after)?;
    }

    #[test]
    fn the_inside_of_a_change_mirrors(before in text(), after in text()) {
        let whole = |text: &[u8]| Span { lines: 0..lines(text).len(), bytes: 0..text.len() };
        let (b, a) = (whole(&before), whole(&after));
        let masked = (MaskedText::unmasked(&before), MaskedText::unmasked(&after));
        let there = detail((&masked.0, &b), (&masked.1, &a), &Grain::Word).rows;
        let back = detail((&masked.1, &a), (&masked.0, &b), &Grain::Word).rows;
        let equal = |rows: &[Row], mirrored: bool| -> Vec<(usize, usize)> {
            rows.iter()
                .filter_map(|row| match *row {
                    Row::Equal { before, after } if mirrored => Some((after, before)),
                    Row::Equal { before, after } => Some((before, after)),
                    _ => None,
                })
                .collect()
        };
        prop_assert_eq!(equal(&there, false), equal(&back, true));
        let (b, a) = (lines(&before), lines(&after));
        prop_assert!(equal(&there, false).into_iter().all(|(x, y)| b[x] == a[y]), "equal rows are equal");
    }

    #[test]
    fn places_turn_any_bytes_into_any_others(before in bytes(), after in bytes()) {
        check(&before, &after)?;
    }
}

fn check(before: &[u8], after: &[u8]) -> Result<(), TestCaseError> {
    let comparison = compare(before, after, &TextOptions::default());
    let mut rebuilt: Vec<u8> = Vec::new();
    let mut at = 0;
    for place in &comparison.places {
        rebuilt.extend(&before[at..place.before.bytes.start]);
        prop_assert_eq!(rebuilt.len(), place.after.bytes.start);
        rebuilt.extend(&after[place.after.bytes.clone()]);
        at = place.before.bytes.end;
        prop_assert_eq!(lines(&after[..place.after.bytes.end]).len(), place.after.lines.end);
    }
    rebuilt.extend(&before[at..]);
    prop_assert_eq!(rebuilt, after);
    for (index, change) in comparison.changes.iter().enumerate() {
        prop_assert_eq!(change.number, index + 1);
        let ends = comparison.places.iter().filter(|place| place.change == index).count();
        prop_assert_eq!(ends, if change.form == Form::Moved { 2 } else { 1 });
        if change.form == Form::Moved {
            // The blank lines that go with a block may stand above it at one end and below it at the other.
            let (from, to) = (&before[change.before.bytes.clone()], &after[change.after.bytes.clone()]);
            prop_assert_eq!(from.trim_ascii(), to.trim_ascii());
            prop_assert_eq!(lines(from).len(), lines(to).len());
        }
    }
    Ok(())
}

#[test]
fn a_function_that_moved_past_its_neighbours_keeps_its_own_first_line() {
    let function = |name: &str, lines: usize| {
        let body: String = (0..lines).map(|line| format!("    {name}_{line} = x + {line}\n")).collect();
        format!("@cached\ndef {name}(x):\n{body}    return {name}_0\n")
    };
    let all = [function("alpha", 4), function("beta", 5), function("gamma", 6), function("delta", 4)];
    let file = |order: [usize; 4]| format!("import x\n\n\n{}", order.map(|at| all[at].clone()).join("\n\n"));
    let before = file([0, 1, 2, 3]);
    for order in [[1, 2, 3, 0], [3, 0, 1, 2], [2, 0, 1, 3], [0, 2, 1, 3], [1, 2, 0, 3]] {
        let after = file(order);
        let found = compare(before.as_bytes(), after.as_bytes(), &TextOptions::default());
        let moved: Vec<&Change> = found.changes.iter().filter(|change| change.form == Form::Moved).collect();
        let [change] = moved[..] else { panic!("{order:?}: {:?}", found.changes) };
        let (from, to) = (&before[change.before.bytes.clone()], &after[change.after.bytes.clone()]);
        assert_eq!(from.trim_matches('\n'), to.trim_matches('\n'));
        assert_eq!(from.len(), to.len(), "the blank lines beside it go with it");
        assert!(from.trim_start_matches('\n').starts_with("@cached\ndef "), "{order:?}: {from}");
    }
}
