//! Inside a change: lines that belong together, and words that differ.

use proptest::prelude::*;
use regex::bytes::Regex;
use tideline_core::internal::align::pairs::pair_lines;
use tideline_core::internal::align::words::{align_words, align_words_within};
use tideline_core::internal::align::{Bounds, LineBounds, PairBounds};
use tideline_core::internal::model::{Row, Segment};
use tideline_core::internal::text::words::Grain;

use crate::support::{bytes, lines, text};

fn grains() -> [Grain; 4] {
    [Grain::Line, Grain::Word, Grain::Letter, Grain::Pattern(Regex::new("[a-z]+ ").unwrap())]
}

fn joined(line: &[u8], parts: &[Segment], changed: Option<bool>) -> Vec<u8> {
    let wanted = parts.iter().filter(|part| changed.is_none_or(|changed| part.differs.is_some() == changed));
    wanted.flat_map(|part| line[part.bytes.clone()].to_vec()).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(600))]

    #[test]
    fn words_add_up_to_the_line_and_the_equal_ones_agree(before in bytes(), after in bytes()) {
        for grain in grains() {
            let words = align_words(&before, &after, &grain);
            prop_assert_eq!(joined(&before, &words.before, None), &before[..]);
            prop_assert_eq!(joined(&after, &words.after, None), &after[..]);
            prop_assert_eq!(
                joined(&before, &words.before, Some(false)),
                joined(&after, &words.after, Some(false))
            );
            let mirrored = align_words(&after, &before, &grain);
            prop_assert_eq!((words.before, words.after), (mirrored.after, mirrored.before));
        }
    }

    #[test]
    fn a_line_that_is_walked_through_adds_up_too(pieces in prop::collection::vec(piece(), 0..60), edits in prop::collection::vec((0..60_usize, piece()), 0..8)) {
        let before = pieces.concat();
        let mut edited = pieces;
        for (at, piece) in edits {
            let at = at.min(edited.len());
            if piece.len() % 2 == 0 && at < edited.len() { edited[at] = piece } else { edited.insert(at, piece) }
        }
        let after = edited.concat();
        let (before, after) = (before.as_bytes(), after.as_bytes());
        let bounds = Bounds::default().long_line(8).line_windows(16, 64).large_island(40);
        let tight = bounds.line_within(LineBounds { solid: 4, varied: 1, look_back: 3, piece: 5 });
        for (grain, bounds) in grains().iter().flat_map(|grain| [(grain, bounds), (grain, tight)]) {
            let words = align_words_within(before, after, grain, &bounds);
            prop_assert_eq!(joined(before, &words.before, None), before);
            prop_assert_eq!(joined(after, &words.after, None), after);
            prop_assert_eq!(joined(before, &words.before, Some(false)), joined(after, &words.after, Some(false)));
            let mirrored = align_words_within(after, before, grain, &bounds);
            prop_assert_eq!((words.before, words.after), (mirrored.after, mirrored.before));
        }
    }

    #[test]
    fn every_line_of_a_change_is_in_one_row_and_rows_mirror(before in text(), after in text()) {
        let (b, a) = (lines(&before), lines(&after));
        let tight = PairBounds { pairs: 4, lines: 5, related: 8, first: 3, looked_at: 4, across: 4, broken: 3 };
        for bounds in [PairBounds::default(), tight] {
            let rows = pair_lines(&b, &a, |_| false, &bounds);
            let of_before: Vec<_> = rows.iter().filter_map(before_line).collect();
            let of_after: Vec<_> = rows.iter().filter_map(after_line).collect();
            prop_assert_eq!(of_before, (0..b.len()).collect::<Vec<_>>());
            prop_assert_eq!(of_after, (0..a.len()).collect::<Vec<_>>());
            let pairs = |rows: &[Row]| rows.iter().filter(|row| matches!(row, Row::Edited { .. })).count();
            prop_assert_eq!(pairs(&rows), pairs(&pair_lines(&a, &b, |_| false, &bounds)));
        }
    }
}

fn piece() -> impl Strategy<Value = String> {
    prop::sample::select(vec![
        "level",
        "0.5",
        ",",
        ";",
        " ",
        "quay: ",
        "\"mouth\",",
        "潮位",
        "é",
        "1,2,3,4,",
        "{\"a\": 1}, ",
        "\n",
    ])
    .prop_map(str::to_owned)
}

#[test]
fn a_very_long_line_is_marked_only_where_it_differs() {
    let record = |at: usize| format!("{{\"gauge\":{at},\"level\":{}}},", (at * 7919) % 1000);
    let before: String = (0..40_000).map(record).collect();
    let after = before.replacen("{\"gauge\":15000,", "{\"gauge\":15000,\"checked\":true,", 1).replacen(
        "\"gauge\":30000",
        "\"gauge\":30000.5",
        1,
    );
    let (gone, new) = changed(&before, &after, &Grain::Word);
    assert_eq!(gone, ["30000"]);
    assert_eq!(new.concat(), "\"checked\":true,30000.5");
    // Without any separator.
    let blob: String = (0..60_000_u32).map(|at| format!("{:08x}", at.wrapping_mul(2_654_435_761))).collect();
    let edited = format!("{}zz{}", &blob[..100_001], &blob[100_001..300_000].replace("0f", "f0")) + &blob[300_000..];
    let words = align_words(blob.as_bytes(), edited.as_bytes(), &Grain::Word);
    let marked: usize = words.after.iter().filter(|part| part.differs.is_some()).map(|part| part.bytes.len()).sum();
    assert!(marked < edited.len() / 2, "{marked} of {} bytes are marked", edited.len());
}

pub(crate) fn before_line(row: &Row) -> Option<usize> {
    match row {
        Row::Gone { before, .. } | Row::Edited { before, .. } | Row::Equal { before, .. } => Some(*before),
        Row::Hidden { before, .. } => *before,
        Row::New { .. } => None,
    }
}

pub(crate) fn after_line(row: &Row) -> Option<usize> {
    match row {
        Row::New { after, .. } | Row::Edited { after, .. } | Row::Equal { after, .. } => Some(*after),
        Row::Hidden { after, .. } => *after,
        Row::Gone { .. } => None,
    }
}

/// The changed parts of two lines, as text.
fn changed(before: &str, after: &str, grain: &Grain) -> (Vec<String>, Vec<String>) {
    let words = align_words(before.as_bytes(), after.as_bytes(), grain);
    let texts = |line: &str, parts: &[Segment]| {
        parts
            .iter()
            .filter(|part| part.differs.is_some())
            .map(|part| line[part.bytes.clone()].to_owned())
            .collect::<Vec<_>>()
    };
    (texts(before, &words.before), texts(after, &words.after))
}

#[test]
fn a_lost_comma_is_all_that_is_marked() {
    assert_eq!(changed("    \"ebb\",\n", "    \"ebb\"\n", &Grain::Word), (vec![",".into()], vec![]));
}

#[test]
fn words_beside_each_other_are_one_mark() {
    let (gone, new) = changed("the quick fox ran\n", "the slow hare ran\n", &Grain::Word);
    assert_eq!((gone, new), (vec!["quick fox".into()], vec!["slow hare".into()]));
}

#[test]
fn more_indentation_marks_only_what_is_more() {
    assert_eq!(changed("  go()\n", "      go()\n", &Grain::Word), (vec![], vec!["    ".into()]));
}

#[test]
fn a_comment_sign_taken_away_leaves_the_indentation_unmarked() {
    let (gone, new) = changed("    # go()\n", "      go()\n", &Grain::Word);
    assert_eq!((gone, new), (vec!["#".into()], vec![" ".into()]));
}

#[test]
fn long_words_that_are_mostly_equal_are_marked_where_they_differ() {
    let (gone, new) = changed(
        &format!("{}u{}\n", "x".repeat(40), "y".repeat(9)),
        &format!("{}n{}\n", "x".repeat(40), "y".repeat(9)),
        &Grain::Word,
    );
    assert_eq!((gone, new), (vec!["u".into()], vec!["n".into()]));
}

#[test]
fn letters_show_the_letter() {
    let (gone, new) = changed("harbour_mouth\n", "harbour_month\n", &Grain::Letter);
    assert_eq!((gone, new), (vec!["u".into()], vec!["n".into()]));
}

#[test]
fn a_different_line_end_is_marked() {
    assert_eq!(changed("a\r\n", "a\n", &Grain::Word), (vec!["\r".into()], vec![]));
}

#[test]
fn lines_find_their_partner_among_new_ones() {
    let before = lines(b"let level = read(gauge);\n");
    let after = lines(b"// The mean of three readings.\nlet level = mean(read(gauge));\nlog(level);\n");
    let rows = pair_lines(&before, &after, |_| false, &PairBounds::default());
    assert!(matches!(
        rows[..],
        [Row::New { after: 0, .. }, Row::Edited { before: 0, after: 1, .. }, Row::New { after: 2, .. }]
    ));
}

#[test]
fn large_changes_are_still_paired() {
    let before: Vec<String> = (0..600).map(|n| format!("level {n} metres\n")).collect();
    let after: Vec<String> = (0..601).map(|n| format!("level {}  metres\n", n + 5000)).collect();
    let slices = |lines: &'_ [String]| lines.iter().map(|line| line.as_bytes().to_vec()).collect::<Vec<_>>();
    let (before, after) = (slices(&before), slices(&after));
    let rows = pair_lines(
        &before.iter().map(Vec::as_slice).collect::<Vec<_>>(),
        &after.iter().map(Vec::as_slice).collect::<Vec<_>>(),
        |_| false,
        &PairBounds::default(),
    );
    assert_eq!(rows.iter().filter(|row| matches!(row, Row::Edited { .. })).count(), 600);
}

proptest! {
    #[test]
    fn two_lines_that_differ_always_get_marks(before in bytes(), after in bytes(), letters in any::<bool>()) {
        prop_assume!(before != after);
        let words = align_words(&before, &after, if letters { &Grain::Letter } else { &Grain::Word });
        prop_assert!(words.before.iter().chain(&words.after).any(|part| part.differs.is_some()));
    }
}
