//! Comments of every language: in order, apart from each other, inside the text; and what a rule masks of a line is inside the line.

#![no_main]

use libfuzzer_sys::fuzz_target;
use tideline_core::internal::rules::languages::Syntax;
use tideline_core::internal::rules::{Effect, MaskedText, Rule, Rules, What, comments};
use tideline_core::internal::text::lines::Lines;

const NAMES: [&str; 12] =
    ["a.rs", "a.py", "a.sh", "a.rb", "a.pl", "a.js", "a.html", "a.sql", "a.yaml", "a.lua", "a.hs", "a.ps1"];

fuzz_target!(|input: (u8, &[u8])| {
    let (language, text) = input;
    let name = NAMES[usize::from(language) % NAMES.len()];
    let Some(syntax) = Syntax::of(name) else { return };
    let mut end = 0;
    for found in comments(text, syntax) {
        assert!(end <= found.start && found.start <= found.end && found.end <= text.len());
        end = found.end;
    }
    let what = What::parse("comments", []).expect("it is built in");
    let rule = Rule::new("comments", Effect::Ignore, vec![("comments".to_owned(), what)]);
    let rules = Rules::new(vec![rule]).file_rules(name.as_bytes());
    let masked = MaskedText::new(text, &rules);
    let lines = Lines::of(text);
    for line in 0..lines.len() {
        let range = lines.start(line)..lines.start(line + 1);
        let mask = masked.mask_of(range.clone());
        assert!(mask.spans.iter().all(|span| span.range.end <= range.len()));
    }
});
