//! The cases of the table of comments, each both ways: what the comments say can change under `comments`, and what stands outside of them cannot.

use tideline_core::internal::align::work;
use tideline_core::internal::kinds::text::{TextOptions, compare_masked};
use tideline_core::internal::rules::{MaskedText, comments, languages::SYNTAXES, languages::Syntax};

use crate::comment_table::{all, read};
use crate::rules::file_rules;

#[test]
fn every_language_has_ten_cases_and_more() {
    for syntax in &SYNTAXES {
        let of = |name: &str| Syntax::of(name).is_some_and(|found| found.name == syntax.name);
        let count: usize = all().filter(|(name, _)| of(name)).map(|(_, cases)| cases.len()).sum();
        assert!(count >= 10, "{} has {count}", syntax.name);
    }
}

#[test]
fn comments_are_told_from_text_in_every_language() {
    let mut wrong = Vec::new();
    for (name, cases) in all() {
        let syntax = Syntax::of(name).unwrap_or_else(|| panic!("{name} is known"));
        for case in *cases {
            let (text, wanted) = read(case);
            let found = comments(text.as_bytes(), syntax);
            if found != wanted {
                let told: Vec<&str> = found.iter().map(|range| &text[range.clone()]).collect();
                wrong.push(format!("{name}: {text:?} has the comments {told:?}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{} cases\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
fn what_comments_say_does_not_count_and_all_else_does() {
    for (name, cases) in all() {
        let rules = file_rules("comments", "", name);
        let differs = |one: &str, other: &str| {
            let masked = |text: &str| MaskedText::new(text.as_bytes().to_vec(), &rules);
            compare_masked(&masked(one), &masked(other), &TextOptions::default()).differs()
        };
        for case in *cases {
            let (text, found) = read(case);
            let mut outside = text.clone();
            for range in found.iter().rev() {
                let said = text[range.clone()].replace("one", "two");
                outside.replace_range(range.clone(), &said);
            }
            assert!(!differs(&text, &outside), "{name}: {text:?} and {outside:?}");
            for (at, _) in text.match_indices("none").filter(|(at, _)| !found.iter().any(|range| range.contains(at))) {
                let mut other = text.clone();
                other.replace_range(at..at + 4, "nine");
                assert!(differs(&text, &other), "{name}: {text:?} and {other:?}");
            }
        }
    }
}

#[test]
fn the_work_keeps_step_with_the_text_in_every_language() {
    const HOSTILE: [&str; 30] = [
        "<a b={", "${\"", "\"${", "#{\"", "((\n", "((", "$((", "${'", "<<A\n", "<<\"", "a: |", ": a", "[[", "/[", "/",
        "r", "@\"", ";", "\\begin{", "\\url{", "%w[", "~s(", "{|", "(*", "<!--", "<a ", "$a$", "'", "`", "R\"(",
    ];
    for syntax in &SYNTAXES {
        for token in HOSTILE {
            let steps = |count: usize| work::counted(|| comments(token.repeat(count).as_bytes(), syntax)).1;
            let (few, many) = (steps(2000), steps(8000));
            assert!(many <= 6 * few + 200_000, "{} {token:?}: {few} steps, then {many}", syntax.name);
        }
    }
}
