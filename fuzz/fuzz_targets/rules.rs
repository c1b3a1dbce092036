//! Whatever is written as a rule, it is one or an error; and whatever it is, a text is compared under it.

#![no_main]

use libfuzzer_sys::fuzz_target;
use tideline_core::internal::kinds::text::{TextOptions, compare_masked};
use tideline_core::internal::rules::{Effect, MaskedText, Rule, Rules, What, split_list};

fuzz_target!(|input: (&str, &[u8], &[u8])| {
    let (written, before, after) = input;
    let what: Vec<(String, What)> = split_list(written)
        .into_iter()
        .filter_map(|part| What::parse(part, []).ok().map(|what| (part.to_owned(), what)))
        .collect();
    let rules = Rules::new(vec![Rule::new("fuzzed", Effect::Mute, what)]).file_rules(b"a.txt");
    let (before, after) = (MaskedText::new(before, &rules), MaskedText::new(after, &rules));
    let one = compare_masked(&before, &after, &TextOptions::default());
    let other = compare_masked(&after, &before, &TextOptions::default());
    assert_eq!(one.differs(), other.differs());
});
