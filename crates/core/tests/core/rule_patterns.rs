//! The patterns of rules, which are compiled when they are first needed, match what their packages say they do.

use globset::{Glob, GlobSetBuilder};
use proptest::prelude::*;
use regex::bytes::RegexBuilder;
use tideline_core::internal::rules::{FilePatterns, MaskedText, What};

use crate::rules::file_rules;

/// What a list of file patterns says of a path, by matching each in full.
fn fits(pattern: &str, path: &str) -> Option<bool> {
    let bare = pattern.trim_end_matches('/');
    let anchored = match bare.strip_prefix('/') {
        Some(anchored) => anchored.to_owned(),
        None if bare.contains('/') => bare.to_owned(),
        None => format!("**/{bare}"),
    };
    let glob = GlobSetBuilder::new().add(Glob::new(&anchored).ok()?).build().ok()?;
    let ends = path.match_indices('/').map(|(at, _)| at).chain([path.len()]);
    Some(ends.map(|end| &path[..end]).any(|part| glob.is_match(part)))
}

/// Regular expressions of a few letters with everything that a literal start could be mistaken in.
fn regex_text() -> impl Strategy<Value = String> {
    let atom = prop::sample::select(vec![
        "a", "b", "ab", "ba", "A", "k", "ſ", "^", "$", r"\b", ".", r"\w", "[ab]", "[^a]", "(?i)a", "(a|b)", "(ab|aa)",
        "(?:ab)?", "|",
    ]);
    let many = prop::sample::select(vec!["", "", "", "*", "+", "?", "{2}"]);
    prop::collection::vec((atom, many), 1..5)
        .prop_map(|parts| parts.iter().map(|(atom, many)| format!("{atom}{many}")).collect())
}

proptest! {
    #[test]
    fn file_patterns_fit_what_their_globs_match(pattern in r"[ab/*?.{},\[\]\\]{1,8}", path in "[ab/.]{1,8}") {
        let found = FilePatterns::new(std::slice::from_ref(&pattern)).ok().map(|patterns| patterns.fit(path.as_bytes()));
        prop_assert_eq!(found, fits(&pattern, &path), "{} and {}", pattern, path);
    }

    #[test]
    fn a_rule_masks_what_its_pattern_matches(pattern in regex_text(), line in "[abABkKſs ]{0,8}", any_case: bool) {
        let Ok(regex) = RegexBuilder::new(&pattern).case_insensitive(any_case).build() else { return Ok(()) };
        if What::pattern(&pattern).is_err() {
            return Ok(());
        }
        let rules = format!("/{pattern}/{}", if any_case { ",case" } else { "" });
        let file_rules = file_rules(&rules, "", "a.txt");
        // The first text is read while the pattern is not compiled, the second when it may be.
        for text in [&line, &format!("{line}ab")] {
            let mask = MaskedText::new(text.as_bytes(), &file_rules).mask_of(0..text.len());
            let masked: Vec<usize> = mask.spans.iter().flat_map(|span| span.range.clone()).collect();
            let matched: Vec<usize> = regex.find_iter(text.as_bytes()).flat_map(|hit| hit.range()).collect();
            prop_assert_eq!(masked, matched, "{} in {}", pattern, text);
        }
    }
}
