//! What does not count: white space by its degrees, patterns, case; the alignment under rules, and its account.

use proptest::prelude::*;
use std::sync::Arc;
use tideline_core::internal::align::{Bounds, PairBounds, align_masked};
use tideline_core::internal::kinds::text::{Grain, TextOptions, compare_masked, detail, detail_within};
use tideline_core::internal::kinds::{self, Comparison, ContentOptions};
use tideline_core::internal::model::{Row, TextComparison, Weight};
use tideline_core::internal::rules::{Effect, FileRules, MaskedText, Rule, Rules, Verdict, What, split_list};

use crate::support::{lines, smallest_size, text};

/// A rule for each part of a list, named as it is written.
pub(crate) fn rules(ignore: &str, mute: &str) -> Rules {
    let of = |list: &str, effect: Effect| -> Vec<Rule> {
        let parts = split_list(list).into_iter();
        parts.map(|part| Rule::new(part, effect, vec![(part.to_owned(), What::parse(part, []).unwrap())])).collect()
    };
    Rules::new([of(ignore, Effect::Ignore), of(mute, Effect::Mute)].concat())
}

pub(crate) fn file_rules(ignore: &str, mute: &str, name: &str) -> Arc<FileRules> {
    rules(ignore, mute).file_rules(name.as_bytes())
}

fn compared(before: &str, after: &str, file_rules: &Arc<FileRules>) -> TextComparison {
    compare_masked(
        &MaskedText::new(before.as_bytes(), file_rules),
        &MaskedText::new(after.as_bytes(), file_rules),
        &TextOptions::default(),
    )
}

/// Whether two texts are equal under one ignoring rule; both ways give the same answer.
fn equal(rule: &str, before: &str, after: &str) -> bool {
    let file_rules = file_rules(rule, "", "x.txt");
    let there = compared(before, after, &file_rules);
    assert_eq!(there.differs(), compared(after, before, &file_rules).differs(), "{rule}: {before:?} and {after:?}");
    assert!(there.changes.iter().all(|change| change.weight == Weight::Counted), "nothing is muted");
    !there.differs()
}

/// Texts before and after.
type Pairs = &'static [(&'static str, &'static str)];

/// The table of the documentation and more: a rule, what is equal under it, and what is not.
const WHITE_SPACE: [(&str, Pairs, Pairs); 8] = [
    (
        "leading-space",
        &[("  a", "a"), ("\t a b", "a b"), ("   \n", "\n"), ("\u{3000}a", "a")],
        &[("a ", "a"), ("a b", "ab"), ("a  b", "a b"), ("a\n\nb", "a\nb"), ("  a\n", "a")],
    ),
    (
        "trailing-space",
        &[("a ", "a"), ("a\t \nb", "a\nb"), ("a \r\n", "a\r\n"), ("a\u{a0}", "a")],
        &[(" a", "a"), ("a  b", "a b"), ("a\r\n", "a\n"), ("a\n \n", "a\n")],
    ),
    ("edge-space", &[(" a ", "a"), ("\ta", "a  "), (" \n", "\n")], &[("a  b", "a b"), ("a b", "ab"), ("a\n\n", "a\n")]),
    (
        "space-amount",
        &[("a  b", "a b"), ("  a", " a"), ("a\tb", "a   b"), ("a \t", "a "), ("   \n", "\t\n")],
        &[("a b", "ab"), (" a", "a"), ("a ", "a"), (" \n", "\n"), ("a\n\nb", "a\nb")],
    ),
    (
        "space",
        &[("a b", "ab"), (" a", "a"), ("i f(x)", "if( x )"), ("a\u{2003}b", "ab")],
        &[("ab", "a"), ("a\nb", "ab"), ("a\n\nb", "a\nb")],
    ),
    (
        "blank-lines",
        &[("a\n\nb", "a\nb"), ("a\n \t\n\nb\n", "a\nb\n"), ("\n\na", "a"), ("a\n\n", "a\n")],
        &[("a ", "a"), ("a\nb", "ab")],
    ),
    (
        "line-ends",
        &[("a\r\nb\r\n", "a\nb\n"), ("a\r\n\r\n", "a\n\n")],
        &[("a ", "a"), ("a\rb", "ab"), ("a\n", "a"), ("a\r\n", "a")],
    ),
    (
        "final-newline",
        &[("a\n", "a"), ("a\r\nb\r\n", "a\r\nb"), ("\n", "")],
        &[("a\n\n", "a"), ("a\r\nb\n", "a\nb\n"), ("a ", "a")],
    ),
];

#[test]
fn each_degree_of_white_space_does_what_its_name_says() {
    for (rule, same, different) in WHITE_SPACE {
        for (before, after) in same {
            assert!(
                equal(rule, before, after) || (rule == "final-newline" && before == &"\n"),
                "{rule}: {before:?} is {after:?}"
            );
        }
        for (before, after) in different {
            assert!(!equal(rule, before, after), "{rule}: {before:?} is not {after:?}");
        }
    }
}

#[test]
fn the_other_rules_do_what_their_names_say() {
    assert!(!equal("case", "ı", "i"), "a letter of its own");
    let same = [
        ("case", "Ebbe ÜBER Straße ΣΑΣ", "ebbe über STRASSE σας"),
        ("case", "Stra\u{1e9e}e", "straße"),
        ("blank-lines", "a\n\u{a0}\u{2003}\nb", "a\nb"),
        ("trailing-punctuation", "a = 1;\nb,\n", "a = 1\nb\n"),
        ("trailing-punctuation", "commit\n;\n", "commit\n"),
        ("trailing-punctuation", "a; \n", "a \n"),
        ("timestamps", "06:07:08.100 low\n", "18:27:38.250 low\n"),
        ("numbers", "x = 4.50\n", "x = -7\n"),
        ("uuids", "id 123e4567-e89b-42d3-a456-426614174000\n", "id 00000000-e89b-42d3-a456-426614174000\n"),
        ("hex-addresses", "at 0x7ffe12ab\n", "at 0x12ab\n"),
        ("chars:1-3+6-7", "abcdefghi\n", "xyzdeuvhi\n"),
        ("chars:1-3", "äöüd\n", "abcd\n"),
        ("/id=\\d+/", "a id=1 b\n", "a id=22 b\n"),
        ("/^#.*$/", "a\n# one\n# two\nb\n", "a\nb\n"),
        ("/(?s)BEGIN.*?END/", "a\nBEGIN\nx\nEND\nb\n", "a\nBEGIN y END\nb\n"),
    ];
    for (rule, before, after) in same {
        assert!(equal(rule, before, after), "{rule}: {before:?} is {after:?}");
    }
    let different = [
        ("case", "a", "b"),
        ("trailing-punctuation", "a;;\n", "a\n"),
        ("trailing-punctuation", "a.\n", "a\n"),
        ("trailing-punctuation", "a;b\n", "ab\n"),
        ("numbers", "x1\n", "x2\n"),
        ("chars:1-3", "abcd\n", "abcx\n"),
        ("/a.*b/", "a\nb\n", "a\nc\nb\n"),
    ];
    for (rule, before, after) in different {
        assert!(!equal(rule, before, after), "{rule}: {before:?} is not {after:?}");
    }
}

/// The parts that differ in the only two lines of a comparison, with `~` for muted ones.
fn parts(before: &str, after: &str, file_rules: &Arc<FileRules>, grain: &Grain) -> (Vec<String>, Vec<String>) {
    let (b, a) = (MaskedText::new(before.as_bytes(), file_rules), MaskedText::new(after.as_bytes(), file_rules));
    let comparison = compare_masked(&b, &a, &TextOptions::default());
    let change = &comparison.changes[0];
    let rows = detail((&b, &change.before), (&a, &change.after), grain).rows;
    let Row::Edited { words, .. } = &rows[0] else { panic!("two lines that belong together: {rows:?}") };
    let told = |line: &str, parts: &[tideline_core::internal::model::Segment]| {
        let all: String = parts.iter().map(|part| &line[part.bytes.clone()]).collect();
        assert_eq!(all, line, "the parts add up to the line");
        let differing = parts.iter().filter_map(|part| {
            let sign = if part.differs? == Weight::Muted { "~" } else { "" };
            Some(format!("{sign}{}", &line[part.bytes.clone()]))
        });
        differing.collect()
    };
    (told(before, &words.before), told(after, &words.after))
}

#[test]
fn counted_and_muted_words_of_one_line_are_told_apart() {
    let strings = |parts: &[&str]| parts.iter().map(ToString::to_string).collect::<Vec<_>>();
    let clock = file_rules("", "timestamps", "x.log");
    let found = parts("06:07:08 level 4.20 ok\n", "18:27:38 level 4.30 ok\n", &clock, &Grain::Word);
    assert_eq!(found, (strings(&["~06:07:08", "4.20"]), strings(&["~18:27:38", "4.30"])));
    let ignored = file_rules("timestamps", "", "x.log");
    let found = parts("06:07:08 level 4.20 ok\n", "18:27:38 level 4.30 ok\n", &ignored, &Grain::Word);
    assert_eq!(found, (strings(&["4.20"]), strings(&["4.30"])));
    let both = file_rules("", "case,space-amount", "x.txt");
    let found = parts("Low  Tide one\n", "low tide two\n", &both, &Grain::Word);
    assert_eq!(found, (strings(&["~L", "~  T", "one"]), strings(&["~l", "~ t", "two"])));
    let remark = file_rules("", "comments", "x.py");
    let found = parts("x = 1  # old\n", "x = 2  # new\n", &remark, &Grain::Letter);
    assert_eq!(found, (strings(&["1", "~  # old"]), strings(&["2", "~  # new"])));
    let found = parts("x = 1  # old\n", "x = 1  # new\n", &remark, &Grain::Word);
    assert_eq!(found, (strings(&["~  # old"]), strings(&["~  # new"])));
}

#[test]
fn a_change_is_muted_when_only_muted_text_differs() {
    let file_rules = file_rules("/[0-9]$/", "timestamps,comments", "x.py");
    let before = "06:00:00 a 1\n06:00:01 b\n# one\nsame\n06:00:02 c\n";
    let after = "07:00:00 a 2\n07:00:01 b\nsame\n06:00:02 d\n";
    let found = compared(before, after, &file_rules);
    let told: Vec<_> =
        found.changes.iter().map(|change| (change.number, change.weight, change.before.lines.clone())).collect();
    assert_eq!(told, [(1, Weight::Muted, 0..3), (2, Weight::Counted, 4..5)]);
    assert_eq!(found.account.by_rule(Effect::Mute), [("timestamps", 2), ("comments", 1)]);
    assert_eq!(found.account.total(Effect::Ignore), 0, "a line with a muted difference is put down to the muting rule");
    let (b, a) = (MaskedText::new(before.as_bytes(), &file_rules), MaskedText::new(after.as_bytes(), &file_rules));
    let hidden = compare_masked(&b, &a, &TextOptions::default().counted_only(true));
    assert_eq!(hidden.changes.len(), 1);
    assert_eq!(hidden.changes[0].number, 1, "only counted changes are numbered while muted ones are hidden");
    assert_eq!(hidden.hidden.len(), 1);
    assert_eq!(hidden.account, found.account, "what is hidden is accounted for");
}

#[test]
fn a_commented_out_page_is_a_difference_and_a_comment_in_it_is_none() {
    let file_rules = file_rules("comments", "", "x.html");
    let page = "<p>one</p>\n<p>two</p>\n";
    assert!(compared(page, "<!--\n<p>one</p>\n-->\n<p>two</p>\n", &file_rules).differs());
    let found = compared(page, "<p>one</p>\n<!-- a\n\n remark -->\n<p>two</p>\n", &file_rules);
    assert!(!found.differs());
    assert_eq!(found.account.by_rule(Effect::Ignore), [("comments", 3)]);
}

#[test]
fn the_first_rule_that_explains_a_line_gets_it() {
    let file_rules = file_rules("space,timestamps", "", "x.log");
    let found = compared("06:00:00 a b\n06:00:00 c\n", "07:00:00 ab\n07:00:00 c\n", &file_rules);
    assert_eq!(found.account.by_rule(Effect::Ignore), [("space", 1), ("timestamps", 1)]);
}

/// Lines of few different kinds, many of them with noise in front.
fn noisy() -> impl Strategy<Value = String> {
    let line = (0..4_u8, prop::sample::select(vec!["a", "b", "c", "  d"]));
    prop::collection::vec(line, 0..20).prop_map(|lines| {
        let noise = |kind| match kind {
            0 => "",
            1 => "#1 ",
            2 => "#22 ",
            _ => "#333",
        };
        lines.into_iter().map(|(kind, text)| format!("{}{text}\n", noise(kind))).collect()
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    /// The alignment under a rule is as small as the exact one of the texts without what the rule puts aside.
    #[test]
    fn alignment_under_a_rule_is_the_shortest_of_what_counts(before in noisy(), after in noisy()) {
        let pattern = regex::Regex::new("#[0-9]+").unwrap();
        let bare = |text: &str| pattern.replace_all(text, "").into_owned();
        let (bare_before, bare_after) = (bare(&before), bare(&after));
        for (ignore, mute) in [("/#[0-9]+/", ""), ("", "/#[0-9]+/")] {
            let file_rules = file_rules(ignore, mute, "x.txt");
            let (b, a) = (MaskedText::new(before.as_bytes(), &file_rules), MaskedText::new(after.as_bytes(), &file_rules));
            let found = align_masked(&b, &a, &Bounds::default());
            let counted = found.edits.iter().filter(|edit| edit.verdict == Verdict::Counted);
            let size: usize = counted.map(|edit| edit.before.lines.len() + edit.after.lines.len()).sum();
            prop_assert_eq!(size, smallest_size(bare_before.as_bytes(), bare_after.as_bytes()));
            // Everything outside the edits is equal, byte for byte.
            let mut at = (0, 0);
            for edit in &found.edits {
                prop_assert_eq!(&before[at.0..edit.before.bytes.start], &after[at.1..edit.after.bytes.start]);
                at = (edit.before.bytes.end, edit.after.bytes.end);
            }
            prop_assert_eq!(&before[at.0..], &after[at.1..]);
            // Lines that do not count are put down to the one rule, each once.
            let aside = found.edits.iter().filter(|edit| edit.verdict != Verdict::Counted);
            let lines: usize = aside.map(|edit| edit.before.lines.len().max(edit.after.lines.len())).sum();
            let effect = if mute.is_empty() { Effect::Ignore } else { Effect::Mute };
            prop_assert_eq!(found.account.total(effect), lines);
        }
    }

    /// On texts with as many lines on both sides, line by line, what counts and what was masked are all the lines that differ.
    #[test]
    fn the_account_adds_up_to_what_differs_without_rules(lines in prop::collection::vec((0..9_u8, 0..5_u8, 0..2_u8), 1..40)) {
        let side = |which: u8| -> String {
            let line = |(at, (clock, level, comment)): (usize, &(u8, u8, u8))| {
                let (clock, level) = if which == 0 { (0, 0) } else { (*clock / 5, *level / 4) };
                format!("06:00:0{clock} line {at} level {level} // {}\n", which * comment)
            };
            lines.iter().enumerate().map(line).collect()
        };
        let (before, after) = (side(0), side(1));
        let differing = before.lines().zip(after.lines()).filter(|(one, other)| one != other).count();
        for (ignore, mute) in [("timestamps,comments", ""), ("timestamps", "comments"), ("", "comments,timestamps")] {
            let found = compared(&before, &after, &file_rules(ignore, mute, "x.c"));
            let put_aside = found.account.total(Effect::Ignore) + found.account.total(Effect::Mute);
            prop_assert_eq!(found.differing_lines() + put_aside, differing);
        }
    }

    /// Whatever the rules, the comparison rebuilds the text after, and every line stands in one row.
    #[test]
    fn nothing_is_lost_under_rules(before in text(), after in text(), which in 0..6_usize) {
        let (ignore, mute) = [
            ("space", ""), ("", "blank-lines,edge-space"), ("case,final-newline", "/a/"), ("/(?s)a.*?b/", "line-ends"),
            ("chars:1-2", "space-amount"), ("comments", "trailing-space"),
        ][which];
        let file_rules = file_rules(ignore, mute, "x.lua");
        let (b, a) = (MaskedText::new(&before[..], &file_rules), MaskedText::new(&after[..], &file_rules));
        let found = compare_masked(&b, &a, &TextOptions::default());
        let mut spans: Vec<_> = found.places.iter().map(|place| (&place.before, &place.after)).collect();
        spans.extend(found.hidden.iter().map(|aside| (&aside.before, &aside.after)));
        spans.sort_by_key(|(one, other)| (one.bytes.start, other.bytes.start, one.bytes.end));
        let mut rebuilt = Vec::new();
        let mut at = 0;
        for (one, other) in spans {
            rebuilt.extend(&before[at..one.bytes.start]);
            prop_assert_eq!(rebuilt.len(), other.bytes.start);
            rebuilt.extend(&after[other.bytes.clone()]);
            at = one.bytes.end;
            let tight = PairBounds { pairs: 4, lines: 5, related: 8, first: 3, looked_at: 4, across: 4, broken: 3 };
            for bounds in [Bounds::default(), Bounds::default().inside(3), Bounds::default().pairs_within(tight)] {
                let rows = detail_within(((&b, one), (&a, other)), &Grain::Word, &bounds).rows;
                let of_before: Vec<_> = rows.iter().filter_map(crate::words_and_pairs::before_line).collect();
                let of_after: Vec<_> = rows.iter().filter_map(crate::words_and_pairs::after_line).collect();
                prop_assert_eq!(of_before, (0..one.lines.len()).collect::<Vec<_>>());
                prop_assert_eq!(of_after, (0..other.lines.len()).collect::<Vec<_>>());
            }
        }
        rebuilt.extend(&before[at..]);
        prop_assert_eq!(&rebuilt, &after);
        prop_assert_eq!(lines(&rebuilt).len(), lines(&after).len());
    }

    /// Large texts are walked through under rules too, with the same result.
    #[test]
    fn walking_gives_what_counts_too(seed in 0..40_u32) {
        let line = |n: u32, clock: u32| format!("06:{:02}:{:02} reading {}\n", clock % 60, n % 60, n * 7919 % 5003);
        let before: String = (0..1200).map(|n| line(n, 0)).collect();
        let edit = |n: u32| match n {
            n if n == 100 + seed => "new line\n".to_owned(),
            n if n == 700 - seed => String::new(),
            n if n % 3 == 0 => line(n, 1),
            n => line(n, 0),
        };
        let after: String = (0..1200).map(edit).collect();
        let file_rules = file_rules("", "timestamps", "x.log");
        let (b, a) = (MaskedText::new(before.as_bytes(), &file_rules), MaskedText::new(after.as_bytes(), &file_rules));
        let (whole, walked) = (align_masked(&b, &a, &Bounds::default()), align_masked(&b, &a, &Bounds::default().walk_from(0)));
        prop_assert_eq!(whole.edits, walked.edits);
        prop_assert_eq!(whole.account, walked.account);
    }

    /// Also where a comment begins or ends on one side alone, so that equal lines are not read alike.
    #[test]
    fn walking_knows_which_equal_lines_are_comments(opens in 0..300_usize, length in 1..300_usize, edited in 0..600_usize, mute in any::<bool>()) {
        let line = |n: usize| if n % 7 == 3 { format!("level({n}); // reading {n}\n") } else { format!("level({n});\n") };
        let before: String = (0..600).map(line).collect();
        let after: String = (0..600)
            .map(|n| match n {
                n if n == opens => format!("/* {}", line(n)),
                n if n == opens + length => format!("{} */\n", line(n).trim_end()),
                n if n == edited => format!("edited({n}); // reading {n}\n"),
                n => line(n),
            })
            .collect();
        let rules = if mute { file_rules("", "comments", "x.c") } else { file_rules("comments", "", "x.c") };
        let (b, a) = (MaskedText::new(before.as_bytes(), &rules), MaskedText::new(after.as_bytes(), &rules));
        let (whole, walked) = (align_masked(&b, &a, &Bounds::default()), align_masked(&b, &a, &Bounds::default().walk_from(0)));
        let told = |alignment: &tideline_core::internal::align::Alignment| -> (usize, usize) {
            let of = |verdict: Verdict| alignment.edits.iter().filter(move |edit| edit.verdict == verdict);
            let lines = |edit: &tideline_core::internal::align::Edit| edit.before.lines.len() + edit.after.lines.len();
            (of(Verdict::Counted).map(lines).sum(), of(Verdict::Ignored).chain(of(Verdict::Muted)).map(lines).sum())
        };
        prop_assert_eq!(told(&whole), told(&walked));
        prop_assert_eq!(whole.account, walked.account);
        prop_assert_eq!(crate::support::carry_out(before.as_bytes(), after.as_bytes(), &walked.edits), after.as_bytes());
    }
}

/// The table of examples in the documentation: rule, before, after, and whether they are equal.
#[test]
fn the_documented_examples_of_white_space_hold() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/rules.md");
    let text = std::fs::read_to_string(path).unwrap();
    let plain = |cell: &str| {
        let cell = cell.trim().trim_matches('`');
        cell.replace('·', " ").replace('→', "\t").replace('␍', "\r").replace('↵', "\n")
    };
    let mut rows = 0;
    for row in text.lines().filter(|row| row.ends_with("| equal |") || row.ends_with("| different |")) {
        let cells: Vec<&str> = row.split('|').collect();
        let (name, texts) =
            if cells.len() == 7 { (plain(cells[2]), &cells[3..]) } else { ("x.txt".to_owned(), &cells[2..]) };
        let found = crate::line_breaks::equal(&plain(cells[1]), &name, &plain(texts[0]), &plain(texts[1]));
        assert_eq!(found, texts[2].trim() == "equal", "{row}");
        rows += 1;
    }
    assert!(rows > 20, "the table is there");
}

/// The table of values in the documentation: a rule, and a text in which what it puts aside is marked.
#[test]
fn the_documented_examples_of_values_hold() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/rules.md");
    let text = std::fs::read_to_string(path).unwrap();
    let section = text.split("## Values, by example").nth(1).unwrap().split("\n## ").next().unwrap();
    let mut rows = 0;
    for row in section.lines().filter(|row| row.starts_with("| `")) {
        let cells: Vec<&str> = row.split(" | ").collect();
        let rule = cells[0].trim_matches(['|', ' ', '`']);
        let marked = cells[1].trim_end_matches(" |");
        let marked =
            marked.strip_prefix("``").map_or_else(|| marked.trim_matches('`'), |rest| rest.trim_end_matches("``"));
        let file_rules = file_rules(rule, "", "x.txt");
        let line = marked.replace(['‹', '›'], "");
        let mask = MaskedText::new(line.as_bytes(), &file_rules).mask_of(0..line.len());
        let mut told = String::new();
        let mut at = 0;
        for span in &mask.spans {
            told += &line[at..span.range.start];
            told += &format!("‹{}›", &line[span.range.clone()]);
            at = span.range.end;
        }
        told += &line[at..];
        assert_eq!(told, marked, "{rule}");
        rows += 1;
    }
    assert!(rows > 30, "the table is there");
}

#[test]
fn the_documentation_names_every_language() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/rules.md");
    let text = std::fs::read_to_string(path).unwrap();
    for syntax in &tideline_core::internal::rules::languages::SYNTAXES {
        assert!(text.contains(syntax.name), "{}", syntax.name);
    }
}

/// The changes of two texts under one rule: their weights, and the parts of their first lines that differ and count.
fn renamed(effect: Effect, rule: &str, before: &str, after: &str) -> (Vec<Weight>, usize) {
    let rules = match effect {
        Effect::Ignore => rules(rule, ""),
        Effect::Mute => rules("", rule),
    };
    let options = ContentOptions::default().rules(rules);
    let comparison = kinds::compare(b"x.txt", (before.as_bytes(), after.as_bytes()), &options);
    let Comparison::Text(texts) = comparison else { panic!("both are text") };
    (texts.found.changes.iter().map(|change| change.weight).collect(), texts.found.differing_lines())
}

#[test]
fn a_rename_holds_for_whole_words_and_in_one_direction() {
    let rule = "renamed:gauge=sensor";
    for (before, after, counted) in [
        ("read the gauge\n", "read the sensor\n", 0),
        ("gauge, gauge.\n", "sensor, sensor.\n", 0),
        ("gauge\n", "gauge\n", 0),
        ("gauge and sensor\n", "sensor and sensor\n", 0),
        ("sensor\n", "gauge\n", 1),
        ("gauges\n", "sensors\n", 1),
        ("my_gauge\n", "my_sensor\n", 1),
        ("the gauge reads 1\n", "the sensor reads 2\n", 1),
        ("a gauge\nb\nc gauge\n", "a sensor\nb\nc gauges\n", 1),
    ] {
        let (weights, lines) = renamed(Effect::Ignore, rule, before, after);
        assert_eq!((weights.len(), lines), (counted, counted), "{before:?} and {after:?}");
        let (weights, lines) = renamed(Effect::Mute, rule, before, after);
        let weighing = weights.iter().filter(|weight| **weight == Weight::Counted).count();
        assert_eq!((weighing, lines), (counted, counted), "muted: {before:?} and {after:?}");
    }
    assert_eq!(renamed(Effect::Mute, rule, "gauge\n", "sensor\n").0, [Weight::Muted]);
}

#[test]
fn names_of_a_rename_may_hold_any_letters() {
    let none = |rule: &str, before: &str, after: &str| renamed(Effect::Ignore, rule, before, after).0.is_empty();
    assert!(none("renamed:edition 7=edition 8", "the edition 7 of\n", "the edition 8 of\n"));
    assert!(!none("renamed:edition 7=edition 8", "the edition 70 of\n", "the edition 80 of\n"));
    assert!(none(r"renamed:a\=b=c\,d", "if a=b then\n", "if c,d then\n"));
    assert!(none("renamed:höhe=level", "die höhe ist\n", "die level ist\n"));
    assert!(none("renamed:kit=kit-7", "the kit is\n", "the kit-7 is\n"));
    for wrong in ["renamed:", "renamed:a", "renamed:a=", "renamed:=b", "renamed:a=a", "renamed:a=b=c"] {
        assert!(What::parse(wrong, []).unwrap_err().to_string().contains("is no rename"), "{wrong}");
    }
    assert_eq!(split_list(r"case,renamed:a\,b=c,space"), ["case", r"renamed:a\,b=c", "space"]);
}
