//! The reading of comments against a second, slow one, with signs of comments and quotes put into random places.

use std::sync::LazyLock;

use proptest::prelude::*;
use tideline_core::internal::rules::{comments, languages::Syntax};

use crate::comment_table::{all, read};
use crate::slow_reading::{NAMES, Read, SlowReader, disagreement};

/// What is put into texts: signs of comments, quotes and brackets of all the languages.
const MARKERS: [&str; 24] = [
    "//", "/*", "*/", "#", "--", "\"", "'", "`", "\"\"\"", "'''", "\\", "\n", "\r\n", "$", "{", "}", "/", "(", ")",
    "r#\"", "\"#", "R\"(", "@\"", "<!--",
];

/// The cases of a language, which both readings know.
fn cases(name: &str) -> Vec<&'static str> {
    // Languages that share most of their grammar share their cases.
    let names = match name {
        "a.ts" => ["a.js", "a.ts"],
        "a.cpp" => ["a.c", "a.cpp"],
        name => [name; 2],
    };
    all().filter(|(other, _)| names.contains(other)).flat_map(|(_, cases)| cases.iter().copied()).collect()
}

#[test]
fn both_readings_know_the_cases() {
    for name in NAMES {
        let slow = SlowReader::of(name).unwrap();
        let (mut all, mut told) = (0, 0);
        for case in cases(name) {
            let (text, wanted) = read(case);
            let second = slow.read(text.as_bytes());
            let found = disagreement(text.as_bytes(), &wanted, &second, false);
            assert_eq!(found, None, "{name}: {text:?} is read {second:?}");
            all += text.len();
            told += second.iter().filter(|read| **read != Read::Unknown).count();
        }
        assert!(2 * told > all, "{name}: of {all} bytes {told} are told");
    }
}

static READERS: LazyLock<Vec<(&str, SlowReader)>> =
    LazyLock::new(|| NAMES.iter().map(|name| (*name, SlowReader::of(name).unwrap())).collect());

#[test]
fn where_comments_may_nest_or_not_the_rest_of_the_line_is_text() {
    let found = |text: &str| -> Vec<String> {
        let ranges = comments(text.as_bytes(), Syntax::of("a.sql").unwrap());
        ranges.into_iter().map(|range| text[range].to_owned()).collect()
    };
    // If it ends at the first mark, a quote is open where the line says `--`.
    assert_eq!(found("/*! a /* b */ \"c\" */ 1 -- d\n-- e\n"), ["-- e"]);
    assert_eq!(found("/* a /* b */ c */ 1 -- d\n-- e\n"), ["/* a /* b */", "-- e"]);
    // And if the quote does not end there, it may go on to the end.
    assert_eq!(found("/*! a /* b */ \"c */ 1 -- d\n-- e\n"), [""; 0]);
    assert_eq!(found("/*!\"\"\" none *\"\"\"/ 1 /* one */\n/r#\"*+ none */ 1 -- one\n-- one\n"), [""; 0]);
    assert_eq!(found("/* a */ 1 -- d\n"), ["/* a */", "-- d"]);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(150))]

    /// Whatever stands where, no text is taken for a comment.
    #[test]
    fn no_text_is_taken_for_a_comment(places in prop::collection::vec((0..4000_usize, 0..MARKERS.len()), 0..4), first in 0..20_usize, count in 1..6_usize) {
        for (name, slow) in READERS.iter() {
            let cases = cases(name);
            let text = (first..first + count).map(|at| read(cases[at % cases.len()]).0);
            let mut text = text.collect::<Vec<_>>().concat();
            for (place, marker) in &places {
                text.insert_str(place % (text.len() + 1), MARKERS[*marker]);
            }
            let found = comments(text.as_bytes(), Syntax::of(name).unwrap());
            let second = slow.read(text.as_bytes());
            let wrong = disagreement(text.as_bytes(), &found, &second, true);
            prop_assert_eq!(wrong, None, "{}: {:?} has the comments {:?}", name, &text, found.iter().map(|range| &text[range.clone()]).collect::<Vec<_>>());
        }
    }
}
