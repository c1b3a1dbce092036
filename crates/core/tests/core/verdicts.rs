//! One verdict, however it is asked for: the comparison, its mirror, a patch of what counts, and more rules.

use proptest::prelude::*;
use proptest::test_runner::RngSeed;
use tideline_core::internal::kinds::text::{TextOptions, compare_masked};
use tideline_core::internal::model::TextComparison;
use tideline_core::internal::patch::counted_text;
use tideline_core::internal::rules::{FileRules, MaskedText};

use crate::rules::file_rules;

const RULES: [&str; 16] = [
    "case",
    "space",
    "space-amount",
    "edge-space",
    "leading-space",
    "trailing-space",
    "blank-lines",
    "line-ends",
    "final-newline",
    "comments",
    "trailing-punctuation",
    "timestamps",
    "numbers",
    "chars:1-2",
    "/x+/",
    "line-breaks",
];

/// Texts of pieces that rules are about, in lines that end in every way.
fn text() -> impl Strategy<Value = String> {
    let piece = prop::sample::select(vec![
        "a", "B", "ß", "ẞ", "ı", " ", "  ", "\t", "\u{a0}", "\u{2003}", "# c", "# ", "x", ";", ",", "06:07:08", "4",
        "12", "\r", "é",
    ]);
    let end = prop::sample::select(vec!["\n", "\n", "\r\n", "\n\n", ""]);
    prop::collection::vec((prop::collection::vec(piece, 0..4), end), 0..6)
        .prop_map(|lines| lines.into_iter().map(|(pieces, end)| pieces.concat() + end).collect())
}

/// A text and one that was made of it.
fn pair() -> impl Strategy<Value = (String, String)> {
    let related = (text(), text(), 0..4_u8).prop_map(|(before, other, how)| {
        let after = match how {
            0 => before.replace(' ', "") + &other,
            1 => before.to_uppercase(),
            2 => before.replace('\n', "\r\n"),
            _ => before.trim_end().to_owned(),
        };
        (before, after)
    });
    prop_oneof![(text(), text()), related]
}

fn some_rules() -> impl Strategy<Value = String> {
    prop::sample::subsequence(RULES.to_vec(), 0..4).prop_map(|rules| rules.join(","))
}

fn compared(before: &str, after: &str, rules: &std::sync::Arc<FileRules>) -> TextComparison {
    compare_masked(
        &MaskedText::new(before.as_bytes(), rules),
        &MaskedText::new(after.as_bytes(), rules),
        &TextOptions::default(),
    )
}

proptest! {
    // The same cases each time; more of them are tried by hand.
    #![proptest_config(ProptestConfig { cases: 1500, rng_seed: RngSeed::Fixed(7), ..ProptestConfig::default() })]

    #[test]
    fn a_text_and_itself_are_equal_and_mirrored_sides_mirror((before, after) in pair(), ignore in some_rules(), mute in some_rules()) {
        let rules = file_rules(&ignore, &mute, "x.py");
        prop_assert!(compared(&before, &before, &rules).changes.is_empty());
        let (there, back) = (compared(&before, &after, &rules), compared(&after, &before, &rules));
        prop_assert_eq!(there.differs(), back.differs());
        prop_assert_eq!(there.differing_lines(), back.differing_lines());
        prop_assert_eq!(there.account.parts(), back.account.parts());
    }

    #[test]
    fn a_further_rule_adds_no_difference((before, after) in pair(), ignore in some_rules(), mute in some_rules(), more in some_rules()) {
        // Characters are counted, and values looked for, in the text as it stands, not in what other rules leave of it.
        let is_altered = [&ignore, &mute].iter().any(|rules| rules.split(',').any(|rule| matches!(rule, "space" | "chars:1-2")));
        let stands_alone = |rule: &&str| *rule != "chars:1-2" && !(is_altered && ["timestamps", "numbers", "/x+/"].contains(rule));
        let more = more.split(',').filter(stands_alone).collect::<Vec<_>>().join(",");
        let few = compared(&before, &after, &file_rules(&ignore, &mute, "x.py"));
        let many = [ignore.as_str(), more.as_str()].iter().filter(|rules| !rules.is_empty()).copied().collect::<Vec<_>>().join(",");
        let many = compared(&before, &after, &file_rules(&many, &mute, "x.py"));
        prop_assert!(few.differs() || !many.differs(), "{:?} under {:?}, {:?} and {:?}", (&before, &after), ignore, mute, more);
    }

    #[test]
    fn what_a_patch_of_what_counts_makes_is_equal_to_after((before, after) in pair(), ignore in some_rules(), mute in some_rules(), counted_only in any::<bool>()) {
        let rules = file_rules(&ignore, &mute, "x.py");
        let (b, a) = (MaskedText::new(before.as_bytes(), &rules), MaskedText::new(after.as_bytes(), &rules));
        let wanted = String::from_utf8(counted_text(&b, &a, counted_only).text).unwrap();
        let left = compared(&wanted, &after, &rules);
        prop_assert!(!left.differs(), "{:?} under {:?}, {:?} makes {:?}, which is not {:?}", before, ignore, mute, wanted, after);
        prop_assert!(wanted != before || !compared(&before, &after, &rules).differs(), "a patch of a difference is not empty");
    }
}

#[test]
fn a_carriage_return_at_the_end_of_a_text_is_no_half_of_a_line_end() {
    let (before, after) = ("  \u{df}Az;\r", "  \u{df}Az;\r\n");
    for more in ["", ",trailing-space", ",edge-space,case"] {
        let rules = file_rules("", &format!("final-newline{more}"), "x.txt");
        assert!(compared(before, after, &rules).differs(), "final-newline{more}");
    }
}
