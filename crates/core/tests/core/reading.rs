//! What a reader meets: passages kept whole, true pairs, tight marks, blocks that moved and were edited.

use std::sync::Arc;

use proptest::prelude::*;
use tideline_core::internal::align::words::align_words;
use tideline_core::internal::kinds::text::{
    Detail, Grain, TextOptions, compare, compare_masked, detail, detail_of_place,
};
use tideline_core::internal::model::{Form, Place, Row, Segment, Span, TextComparison};
use tideline_core::internal::rules::{FileRules, MaskedText};
use tideline_core::internal::text::lines::Lines;

use crate::rules::file_rules;
use crate::support::{edited_pair, text};
use crate::words_and_pairs::{after_line, before_line};

fn compared(before: &str, after: &str) -> TextComparison {
    compare(before.as_bytes(), after.as_bytes(), &TextOptions::default())
}

/// A line with what is marked of it in brackets.
fn marked(line: &[u8], parts: &[Segment]) -> String {
    let part = |part: &Segment| {
        let text = String::from_utf8_lossy(&line[part.bytes.clone()]).into_owned();
        if part.differs.is_some() { format!("[{text}]") } else { text }
    };
    let text = if parts.is_empty() {
        String::from_utf8_lossy(line).into_owned()
    } else {
        parts.iter().map(part).collect::<String>()
    };
    text.trim_end().to_owned()
}

/// The rows of a change, one text each: `o` gone, `*` new, `=` equal, `%` a pair.
fn rows(found: &Detail<'_>) -> Vec<String> {
    let (b, a) = (&found.before, &found.after);
    let row = |row: &Row| match row {
        Row::Gone { before, words, .. } => format!("o {}", marked(b.get(*before), words)),
        Row::New { after, words, .. } => format!("* {}", marked(a.get(*after), words)),
        Row::Equal { before, .. } => format!("= {}", marked(b.get(*before), &[])),
        Row::Hidden { .. } => "hidden".to_owned(),
        Row::Edited { before, after, words, .. } => {
            format!(
                "% {} -> {}",
                marked(b.get(*before), &words.before),
                marked(a.get(*after), &words.after).trim_start_matches(' ')
            )
        }
    };
    found.rows.iter().map(row).collect()
}

/// The rows of all places of two texts.
fn read(before: &str, after: &str) -> Vec<Vec<String>> {
    read_under(&Arc::default(), before, after)
}

/// The same under rules.
fn read_under(rules: &Arc<FileRules>, before: &str, after: &str) -> Vec<Vec<String>> {
    let texts = (MaskedText::new(before.as_bytes(), rules), MaskedText::new(after.as_bytes(), rules));
    let comparison = compare_masked(&texts.0, &texts.1, &TextOptions::default());
    let place = |place: &Place| {
        rows(&detail_of_place((&texts.0, &texts.1), (&comparison.changes[place.change], place), &Grain::Word))
    };
    comparison.places.iter().map(place).collect()
}

#[test]
fn a_lone_bracket_does_not_part_a_line_from_what_became_of_it() {
    let before = "start\n    return level_of(gauge)\n}\nend\n";
    let after = "start\n}\n    return level_of(gauge, now)\nend\n";
    let read = read(before, after);
    assert_eq!(read.len(), 1, "{read:#?}");
    assert!(
        read[0].iter().any(|row| row == "%     return level_of(gauge) -> return level_of(gauge[, now])"),
        "{read:#?}"
    );
    // What is told of the change agrees with its rows.
    let comparison = compared(before, after);
    let equal = read[0].iter().filter(|row| row.starts_with('=')).count();
    assert_eq!((comparison.changes[0].equal, equal), (0, 0));
}

#[test]
fn a_sentence_that_both_sides_have_parts_two_changes() {
    let read = read("a = 1\nthe level of the harbour gauge\nb = 1\n", "a = 2\nthe level of the harbour gauge\nb = 2\n");
    assert_eq!(read, [["% a = [1] -> a = [2]"], ["% b = [1] -> b = [2]"]]);
}

#[test]
fn lines_that_went_past_a_sentence_moved() {
    let before = "struct Gauge {\n    /// The level or the last one that was read.\n    level: LevelOrLast,\n\n    /// Where the gauge stands.\n    place: Place,\n}\n";
    let after = "struct Gauge {\n    /// Where the gauge stands.\n    place: Place,\n\n    /// The level or the last one that was read.\n    level: LevelOrLast,\n}\n";
    let comparison = compared(before, after);
    let all = read(before, after).concat();
    assert!(!all.iter().any(|row| row.starts_with('=')), "{all:#?}");
    assert!(comparison.changes.iter().any(|change| change.form == Form::Moved), "{comparison:#?}");
}

#[test]
fn a_line_that_was_only_indented_beats_any_other_pair() {
    let before = "if late:\n    report(level)\n    report(level, late)\n";
    let after = "for x in y:\n    report(levels)\n    if late:\n        report(level)\n        report(level, late)\n";
    let all = read(before, after).concat();
    for line in ["report(level)", "report(level, late)"] {
        assert!(all.contains(&format!("%     {line} -> [    ]{line}")), "{all:#?}");
    }
}

#[test]
fn lines_that_set_other_names_do_not_belong_together() {
    let pairs =
        |before: &str, after: &str| read(before, after).concat().iter().filter(|row| row.starts_with('%')).count();
    assert_eq!(pairs("    datum = 10\n", "    x = [140, 250, 360]\n"), 0, "nothing in common");
    assert_eq!(pairs("datum = 10\n", "datum = read_from(station, settings)\n"), 1, "the same name");
    assert_eq!(
        pairs("levels = [\n    low,\n    high\n]\n", "levels = [\n    low,\n    high,\n    mean,\n]\n"),
        1,
        "but for a comma"
    );
    assert_eq!(pairs("level 100\n", "LEVEL 100\n"), 1, "but for case");
}

#[test]
fn a_line_is_found_again_two_changes_further_on() {
    let before = "start\nlevel = read(gauge, harbour)\n}\n)\nend\n";
    let after = "start\nfirst thing\n}\nsecond word\n)\nlevel = read(gauge, estuary)\nend\n";
    let all = read(before, after).concat();
    let pair = "% level = read(gauge, [harbour]) -> level = read(gauge, [estuary])";
    assert!(all.iter().any(|row| row == pair), "{all:#?}");
}

#[test]
fn a_line_that_was_indented_is_one_pair_though_it_stands_elsewhere_too() {
    let before = "    try:\n        read(level)\n            return level\n    except Lost:\n        # the last one holds\n        return level\n";
    let after = "    if kept:\n        try:\n            read(level)\n                return level\n        except Lost:\n            # the last one holds\n            return level\n";
    let all = read(before, after).concat();
    assert!(!all.iter().any(|row| row.starts_with('o')), "{all:#?}");
    assert!(all.contains(&"%         return level -> [    ]return level".to_owned()), "{all:#?}");
}

#[test]
fn a_line_that_stands_in_another_change_is_not_paired_with_one_that_is_hardly_alike() {
    let between = "the level of the harbour gauge\nthe tables of the year\nthe tides of the month\n";
    let before = format!("use tide::logs;\n{between}end\n");
    let after = format!("use tide::gauges;\n{between}use tide::logs;\nend\n");
    assert_eq!(read(&before, &after)[0], ["o use tide::logs;", "* use tide::gauges;"]);
    // Without the other one it was edited.
    let after = format!("use tide::gauges;\n{between}end\n");
    assert_eq!(read(&before, &after)[0], ["% use tide::[logs]; -> use tide::[gauges];"]);
    // A name that was counted anew stands in its new form elsewhere too.
    let before = format!("const level_key_8 = 1;\n{between}const level_key_9 = 1;\nend\n");
    let after = format!("const level_key_9 = 1;\n{between}const level_key_10 = 1;\nend\n");
    assert_eq!(read(&before, &after)[0], ["% const level_key_[8] = 1; -> const level_key_[9] = 1;"]);
}

#[test]
fn a_line_that_stands_elsewhere_as_it_is_did_not_become_another() {
    let before = "alpha\nimport tide_tables\nbeta one\ngamma\n";
    let after = "alpha\nbeta two\nimport tide_levels\nimport tide_tables\ngamma\n";
    let all = read(before, after).concat();
    assert!(!all.iter().any(|row| row.contains("tide_[tables]")), "{all:#?}");
}

#[test]
fn identifiers_are_marked_at_their_own_segments() {
    let words = |before: &str, after: &str| {
        let words = align_words(before.as_bytes(), after.as_bytes(), &Grain::Word);
        (marked(before.as_bytes(), &words.before), marked(after.as_bytes(), &words.after))
    };
    for (before, after, marked_before, marked_after) in [
        ("low_water(x)", "high_water(x)", "[low]_water(x)", "[high]_water(x)"),
        ("readTideLevel()", "readTideGauge()", "readTide[Level]()", "readTide[Gauge]()"),
        ("gauge1 = x", "gauge2 = x", "gauge[1] = x", "gauge[2] = x"),
        ("level", "level_mm", "level", "level[_mm]"),
        ("ebb", "flow", "[ebb]", "[flow]"),
        ("mean_low", "peak_high", "[mean_low]", "[peak_high]"),
        // An escape is one unit.
        (r#"say("low\nwater")"#, r#"say("low\twater")"#, r#"say("low[\n]water")"#, r#"say("low[\t]water")"#),
        // Nothing but marks between two marks.
        ("the level, gauge, late", "the flow; ebb, late", "the [level, gauge], late", "the [flow; ebb], late"),
        // Hardly anything equal.
        (
            "wind from north is strong",
            "tide at quay is low now",
            "[wind from north is strong]",
            "[tide at quay is low now]",
        ),
        // Readings are read one by one.
        ("06:00 2.41 140 7", "06:05 2.52 141 8", "06:[00 2.41 140 7]", "06:[05 2.52 141 8]"),
    ] {
        assert_eq!(words(before, after), (marked_before.to_owned(), marked_after.to_owned()));
    }
}

#[test]
fn many_marks_become_few_unless_they_are_numbers() {
    let count = |before: &str, after: &str| {
        let words = align_words(before.as_bytes(), after.as_bytes(), &Grain::Word);
        words.before.iter().chain(&words.after).filter(|part| part.differs.is_some()).count()
    };
    let before = "call(alpha one, beta two, gamma three, delta four, omega five)\n";
    let after = "call(alpha uno, beta due, gamma tre, delta quattro, omega cinque)\n";
    assert!(count(before, after) <= 4, "{}", count(before, after));
    let numbers = |a: &str| format!("low {a}1 and mean {a}2 and high {a}3 and top {a}4\n");
    assert_eq!(count(&numbers("1"), &numbers("2")), 8);
}

#[test]
fn a_line_that_was_broken_is_held_against_its_parts() {
    let one = "x\n    total = level_of(gauge, offset, datum)\ny\n";
    let several = "x\n    total = level_of(\n        gauge,\n        offset + 1,\n        datum\n    )\ny\n";
    let expected = [
        "%     total = level_of(gauge, offset, datum) -> total = level_of(",
        "*         gauge,",
        "*         offset[ + 1],",
        "*         datum",
        "*     )",
    ];
    assert_eq!(read(one, several), [expected]);
    // The same where some of it does not count: that is not in the way of the words, and no difference that counts.
    let (one, several) = (one.replace("datum)", "datum) # 2031-03-01"), several.replace("    )", "    ) # 2031-09-01"));
    let under = read_under(&file_rules("comments,space-amount", "", "x.py"), &one, &several);
    assert_eq!(under[0][1..4], expected[1..4]);
    assert_eq!(under[0][4], "*     ) # 2031-09-01");
    let plain = read(&one, &several).concat();
    assert_eq!(plain[0], "%     total = level_of(gauge, offset, datum) # 2031-[03]-01 -> total = level_of(");
    assert_eq!(plain[4], "*     ) # 2031-[09]-01");
    let joined = read(&several, &one).concat();
    assert_eq!(joined[0], "%     total = level_of( -> total = level_of(gauge, offset, datum) # 2031-[03]-01");
    assert_eq!(joined[2], "o         offset[ + 1],");
}

/// A function of some lines, indented by so many blanks.
fn function(name: &str, indent: usize) -> String {
    let body: String = (0..6).map(|line| format!("    {name}_{line} = read({name}, {line})\n")).collect();
    let text = format!("def {name}(gauge):\n{body}    return {name}_0\n");
    text.lines().map(|line| format!("{}{line}\n", " ".repeat(indent))).collect()
}

#[test]
fn a_block_that_moved_and_was_edited_is_one_move() {
    let [ebb, flow, slack] = ["ebb", "flow", "slack"].map(|name| function(name, 0));
    let before = format!("{ebb}\n{flow}\n{slack}\n{flow}").replacen(&flow, "", 1);
    let edited = ebb.replace("ebb_3 = read(ebb, 3)", "ebb_3 = read_again(ebb, 33)");
    let after = format!("{slack}\n{flow}\n{edited}");
    let comparison = compared(&before, &after);
    let moved: Vec<_> = comparison.changes.iter().filter(|change| change.form == Form::Moved).collect();
    let [change] = moved[..] else { panic!("{:#?}", comparison.changes) };
    assert_eq!((change.edited, change.reindented), (1, false), "{change:?}");
    assert!(change.before.lines.len() >= 8, "{change:?}");
    let words: Vec<String> = read(&before, &after).concat().into_iter().filter(|row| row.contains("ebb_3")).collect();
    assert_eq!(words, ["o     ebb_3 = read(ebb, [3])", "*     ebb_3 = read[_again](ebb, [33])"]);
}

#[test]
fn a_block_moves_although_it_is_indented_differently() {
    let [ebb, flow, slack] = ["ebb", "flow", "slack"].map(|name| function(name, 0));
    let before = format!("{ebb}\n{flow}\n{slack}");
    let after = format!("{flow}\n{slack}\nclass Gauge:\n{}", function("ebb", 4));
    let comparison = compared(&before, &after);
    let moved: Vec<_> = comparison.changes.iter().filter(|change| change.form == Form::Moved).collect();
    let [change] = moved[..] else { panic!("{:#?}", comparison.changes) };
    assert_eq!((change.edited, change.reindented), (0, true));
}

#[test]
fn imports_put_in_order_moved_and_boilerplate_did_not() {
    let moved = |before: &str, after: &str| {
        compared(before, after).changes.iter().filter(|change| change.form == Form::Moved).count()
    };
    let (one, two) = ("from tables import read_levels_of\n", "from clocks import set_station_clock\n");
    let rest = "import os\n\nprint('the levels of the harbour')\nprint('the tables of the harbour')\n";
    assert_eq!(moved(&format!("{one}{rest}{two}"), &format!("{rest}{two}{one}")), 1);
    // The same line stands in the text once more: it tells nothing.
    let again = format!("{rest}{one}");
    assert_eq!(moved(&format!("{one}{again}{two}"), &format!("{again}{two}{one}")), 0);
    // Two lines of some function, in the middle of another.
    let before = "def a():\n    first_of_a = 1\n    level = gauge.read(now)\n    return level\n\ndef b():\n    first_of_b = 2\n    last_of_b = 3\n";
    let after = "def a():\n    first_of_a = 1\n\ndef b():\n    first_of_b = 2\n    level = gauge.read(now)\n    return level\n    last_of_b = 3\n";
    assert_eq!(moved(before, after), 0, "no whole unit");
    // A list that is numbered anew did not move.
    let list = |first: usize| {
        (first..first + 6)
            .map(|at| format!("#: stations/gauge_settings.py:{at}\nmsgid \"{at}x\"\n"))
            .collect::<String>()
    };
    let after = list(12).replace("13x", "1x").replace("12x", "0x");
    assert_eq!(moved(&list(10), &after), 0);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn every_line_of_a_place_is_in_one_row_in_order((before, after) in prop_oneof![edited_pair(), (text(), text())]) {
        let comparison = compare(&before, &after, &TextOptions::default());
        let texts = (MaskedText::unmasked(&before), MaskedText::unmasked(&after));
        for place in &comparison.places {
            let change = &comparison.changes[place.change];
            let found = detail_of_place((&texts.0, &texts.1), (change, place), &Grain::Word);
            let lines = |line: fn(&Row) -> Option<usize>| found.rows.iter().filter_map(line).collect::<Vec<_>>();
            let of_before = lines(before_line);
            let of_after = lines(after_line);
            prop_assert_eq!(of_before, (0..place.before.lines.len()).collect::<Vec<_>>());
            prop_assert_eq!(of_after, (0..place.after.lines.len()).collect::<Vec<_>>());
            if change.form != Form::Moved {
                // The rows are the same whatever is marked inside of them.
                let by_lines = detail((&texts.0, &place.before), (&texts.1, &place.after), &Grain::Line).rows;
                let kinds = |rows: &[Row]| rows.iter().map(std::mem::discriminant).collect::<Vec<_>>();
                prop_assert_eq!(kinds(&by_lines), kinds(&found.rows));
            }
        }
    }

    #[test]
    fn the_ends_of_a_moved_block_have_the_same_lines((before, after) in edited_pair()) {
        let comparison = compare(&before, &after, &TextOptions::default());
        for change in comparison.changes.iter().filter(|change| change.form == Form::Moved) {
            let lines = |text, span: &Span| -> Vec<Vec<u8>> {
                let text: &[u8] = text;
                Lines::of(&text[span.bytes.clone()]).iter().map(|line| line.trim_ascii().to_vec()).collect()
            };
            let (one, other) = (lines(&before, &change.before), lines(&after, &change.after));
            prop_assert_eq!((one.first(), one.last()), (other.first(), other.last()));
            prop_assert_eq!(one == other, change.edited == 0);
        }
    }
}
