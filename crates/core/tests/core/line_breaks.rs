//! Text that was only wrapped: the same words in the same order, in other lines.

use proptest::prelude::*;
use std::sync::Arc;
use tideline_core::internal::align::{Bounds, align_masked, work};
use tideline_core::internal::kinds::text::{Grain, TextOptions, compare_masked, detail};
use tideline_core::internal::model::{Row, TextComparison, Weight};
use tideline_core::internal::patch::counted_text;
use tideline_core::internal::rules::{Effect, FileRules, MaskedText};

use crate::rules::file_rules;
use crate::support::carry_out;

fn under(file_rules: &Arc<FileRules>, before: &str, after: &str) -> TextComparison {
    compare_masked(
        &MaskedText::new(before.as_bytes(), file_rules),
        &MaskedText::new(after.as_bytes(), file_rules),
        &TextOptions::default(),
    )
}

/// Whether two texts in a file of this name are equal when breaks are ignored; both ways give the same answer.
pub(crate) fn equal(rules: &str, name: &str, before: &str, after: &str) -> bool {
    let file_rules = file_rules(rules, "", name);
    let there = under(&file_rules, before, after).differs();
    assert_eq!(there, under(&file_rules, after, before).differs(), "{before:?} and {after:?}");
    !there
}

#[test]
fn the_same_words_in_other_lines_are_the_same_text() {
    let same = [
        ("x.md", "the tide\nis low today\n", "the tide is\nlow\ntoday\n"),
        ("x.md", "- an item that\n  goes on\n- another\n", "- an item\n  that goes on\n- another\n"),
        ("x.md", "  one two\n  three\n", "one\n    two three\n"),
        ("x.sql", "SELECT a, b FROM t;\n", "SELECT\n  a,\n  b\nFROM t;\n"),
        ("x.sql", "f(a, b)\n", "f(\n  a,\n  b\n)\n"),
        ("x.html", "<a href=\"x\" id=\"y\"><b>t</b></a>\n", "<a\n  href=\"x\"\n  id=\"y\">\n  <b>t</b>\n</a>\n"),
        ("x.rs", "// one two\n// three\nf();\n", "// one\n// two three\nf();\n"),
        ("x.rs", "/// one two three\n", "/// one\n/// two\n/// three\n"),
        ("x.rs", "/*\n * one two\n * three\n */\n", "/*\n * one\n * two three\n */\n"),
        ("x.txt", "> one two\n> three\n", "> one\n> two three\n"),
        ("x.txt", "潮位は低い\n今日\n", "潮位は\n低い今日\n"),
        ("x.txt", "one  two\nthree\n", "one\ntwo\tthree\n"),
    ];
    for (name, before, after) in same {
        assert!(equal("line-breaks", name, before, after), "{before:?} is {after:?}");
    }
}

#[test]
fn other_words_paragraphs_signs_and_spaces_count() {
    let different = [
        ("x.md", "the tide\nis low\n", "the tide is\nhigh\n"),
        ("x.md", "one two\n\nthree\n", "one\ntwo\nthree\n"),
        ("x.md", "one two\nthree\n", "one\ntwothree\n"),
        ("x.md", "- one\n- two three\n", "- one two\n  three\n"),
        ("x.md", "a -\nb c\n", "a +\nb\nc\n"),
        ("x.md", "1. one\n2. two\n", "1. one 2.\n   two\n"),
        ("x.js", "x = a - - b\n+ 1\n", "x = a --\nb + 1\n"),
        ("x.js", "x = a -\n- b\n", "x = a -- b\n"),
        ("x.rs", "// one\n// two();\nthree\n", "// one\ntwo();\nthree\n"),
        ("x.rs", "// one two\nthree();\n", "// one\ntwo three();\n"),
        ("x.rs", "one(); // two\nthree();\nfour();\n", "one(); // two three();\nfour();\n"),
        ("x.py", "one = 1 # two\nthree = 3\n", "one = 1 # two three = 3\n"),
        ("x.txt", "one two\r\nthree\r\nfour\r\n", "one\ntwo three\nfour\n"),
        ("x.txt", "one two\nthree\n", "one\ntwo three"),
        ("x.txt", "f (a)\nb\n", "f(a) b\n"),
        ("x.txt", "one\n\u{1e}\ntwo three\n", "one\n\ntwo\nthree\n"),
    ];
    for (name, before, after) in different {
        assert!(!equal("line-breaks", name, before, after), "{before:?} is not {after:?}");
    }
}

#[test]
fn other_rules_hold_inside() {
    let same = [
        ("line-breaks,case", "x.txt", "One TWO\nthree\n", "one\ntwo Three\n"),
        ("line-breaks,line-ends", "x.txt", "one two\r\nthree\r\n", "one\ntwo three\n"),
        ("line-breaks,final-newline", "x.txt", "one two\nthree\n", "one\ntwo three"),
        ("line-breaks,blank-lines", "x.txt", "one two\n\nthree\n", "one\ntwo three\n"),
        ("line-breaks,space", "x.txt", "one two\nthree\n", "onetwo\nth ree\n"),
        ("line-breaks,numbers", "x.txt", "level 4 of\n7 gauges\n", "level 5\nof 9 gauges\n"),
        ("line-breaks,comments", "x.sql", "SELECT a, -- first\n b\n", "SELECT a,\n-- other\nb\n"),
        ("line-breaks,renamed:gauge=sensor", "x.txt", "the gauge is\nhere\n", "the\nsensor is here\n"),
    ];
    for (rules, name, before, after) in same {
        assert!(equal(rules, name, before, after), "{rules}: {before:?} is {after:?}");
    }
    let back = file_rules("line-breaks,renamed:gauge=sensor", "", "x.txt");
    let text = |text: &'static str| MaskedText::new(text.as_bytes(), &back);
    let renamed_back =
        compare_masked(&text("the sensor is\nhere\n").before(), &text("the\ngauge is here\n"), &TextOptions::default());
    assert!(renamed_back.differs());
}

#[test]
fn where_words_differ_only_they_are_marked_and_the_rest_is_told_apart() {
    let before = "the float was replaced in the\nspring and the well was not\nflushed\nby then at all\n";
    let after = "the float was replaced\nin the autumn and the well was\nnot flushed by then\nat all\n";
    let muted = file_rules("", "line-breaks", "x.txt");
    let (b, a) = (MaskedText::new(before.as_bytes(), &muted), MaskedText::new(after.as_bytes(), &muted));
    let found = compare_masked(&b, &a, &TextOptions::default());
    assert_eq!(found.changes.len(), 1);
    let change = &found.changes[0];
    let detail = detail((&b, &change.before), (&a, &change.after), &Grain::Word);
    let counted: Vec<&Row> = detail
        .rows
        .iter()
        .filter(|row| {
            matches!(
                row,
                Row::Edited { weight: Weight::Counted, .. }
                    | Row::Gone { weight: Weight::Counted, .. }
                    | Row::New { weight: Weight::Counted, .. }
            )
        })
        .collect();
    let [Row::Edited { before: 1, after: 1, words, .. }] = counted[..] else { panic!("{:?}", detail.rows) };
    let marked = |parts: &[tideline_core::internal::model::Segment], line: &[u8]| -> Vec<String> {
        let differs = parts.iter().filter(|part| part.differs == Some(Weight::Counted));
        differs.map(|part| String::from_utf8_lossy(&line[part.bytes.clone()]).into_owned()).collect()
    };
    assert_eq!(marked(&words.before, detail.before.get(1)), ["spring"]);
    assert_eq!(marked(&words.after, detail.after.get(1)), ["autumn"]);
    assert_eq!(found.account.by_rule(Effect::Mute), [("line-breaks", 3)]);
    assert_eq!(found.differing_lines(), 1);
}

#[test]
fn a_patch_of_what_counts_keeps_the_breaks_of_before() {
    let before = b"the float was replaced in the\nspring and the well was not\nflushed\n";
    let after = b"the float was replaced\nin the late autumn and the well\nwas not flushed\n";
    let rules = file_rules("line-breaks", "", "x.txt");
    let wanted = counted_text(&MaskedText::new(&before[..], &rules), &MaskedText::new(&after[..], &rules), true);
    let expected = "the float was replaced in the\nlate autumn and the well was not\nflushed\n";
    assert_eq!(String::from_utf8(wanted.text).unwrap(), expected);
}

/// A text, and the same words with a few of them changed and broken elsewhere.
fn wrapped() -> impl Strategy<Value = (String, String)> {
    let word = prop::sample::select(vec!["low", "tide", "the", "a", "b", "(", ")", ",", "-", "x.y", "ü"]);
    let gap = || prop::sample::select(vec![" ", "\n", "\n", "  ", "\n  ", " \n", "\n\n", "\n// "]);
    let unit = (word, gap(), gap(), 0..20_u8);
    prop::collection::vec(unit, 1..40).prop_map(|units| {
        let (mut before, mut after) = (String::new(), String::new());
        for (word, gap_before, gap_after, change) in units {
            before += word;
            before += gap_before;
            match change {
                0 => {}
                1 => after += "new",
                _ => after += word,
            }
            after += if change < 6 { gap_before } else { gap_after };
        }
        (before + "\n", after + "\n")
    })
}

proptest! {
    #[test]
    fn the_edits_still_turn_before_into_after((before, after) in wrapped(), mute in any::<bool>()) {
        let rules = if mute { file_rules("", "line-breaks", "x.rs") } else { file_rules("line-breaks", "", "x.rs") };
        let (b, a) = (MaskedText::new(before.as_bytes(), &rules), MaskedText::new(after.as_bytes(), &rules));
        let there = align_masked(&b, &a, &Bounds::default());
        prop_assert_eq!(carry_out(before.as_bytes(), after.as_bytes(), &there.edits), after.as_bytes());
        let back = align_masked(&a, &b, &Bounds::default());
        let mirrored: Vec<_> = back.edits.into_iter().map(tideline_core::internal::align::Edit::mirrored).collect();
        prop_assert_eq!(there.edits, mirrored);
    }

    #[test]
    fn every_line_is_in_one_row((before, after) in wrapped(), rules in prop::sample::select(vec!["line-breaks", "line-breaks,case", "line-breaks,space"])) {
        let rules = file_rules(rules, "", "x.txt");
        let (b, a) = (MaskedText::new(before.as_bytes(), &rules), MaskedText::new(after.as_bytes(), &rules));
        let found = compare_masked(&b, &a, &TextOptions::default());
        for change in &found.changes {
            let detail = detail((&b, &change.before), (&a, &change.after), &Grain::Word);
            let (mut lines_b, mut lines_a) = (Vec::new(), Vec::new());
            for row in &detail.rows {
                let (b, a) = match row {
                    Row::Gone { before, .. } => (Some(*before), None),
                    Row::New { after, .. } => (None, Some(*after)),
                    Row::Equal { before, after } | Row::Edited { before, after, .. } => (Some(*before), Some(*after)),
                    Row::Hidden { before, after } => (*before, *after),
                };
                lines_b.extend(b);
                lines_a.extend(a);
            }
            prop_assert!(lines_b.iter().copied().eq(0..change.before.lines.len()), "{:?}", detail.rows);
            prop_assert!(lines_a.iter().copied().eq(0..change.after.lines.len()), "{:?}", detail.rows);
        }
    }

    #[test]
    fn what_a_patch_makes_is_equal_to_after((before, after) in wrapped(), rule in prop::sample::select(vec!["line-breaks", "line-breaks,case", "line-breaks,blank-lines"])) {
        let rules = file_rules(rule, "", "x.txt");
        let (b, a) = (MaskedText::new(before.as_bytes(), &rules), MaskedText::new(after.as_bytes(), &rules));
        let wanted = String::from_utf8(counted_text(&b, &a, true).text).unwrap();
        prop_assert!(!under(&rules, &wanted, &after).differs(), "{:?} makes {:?}, which is not {:?}", before, wanted, after);
    }
}

#[test]
fn the_work_keeps_step_with_the_text() {
    let rules = file_rules("line-breaks", "", "x.sql");
    let steps = |words: usize| {
        let before: String = (0..words).map(|word| format!("w{} ", word % 97)).collect();
        let after: String = (0..words).map(|word| format!("w{}\n", word % 89)).collect();
        let text = |text: &str| MaskedText::new(text.as_bytes().to_vec(), &rules);
        work::counted(|| compare_masked(&text(&before), &text(&after), &TextOptions::default())).1
    };
    assert!(steps(40_000) <= 3 * steps(20_000) + 100_000, "{} for {}", steps(40_000), steps(20_000));
}
