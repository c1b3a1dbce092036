//! What holds of merges however texts are written: line ends, encodings, rules, words, moved blocks, marks.

use std::sync::Arc;

use proptest::prelude::*;
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::merge::{
    FileMerge, Marks, MergeOptions, Prefer, Resolution, TextMerge, Three, ValueConflict, WholeMerge, marked_conflicts,
    merge_files, merge_texts, merge_words,
};
use tideline_core::internal::rules::{Effect, FileRules, Rule, Rules, What};
use tideline_core::{Merged, Options};

use crate::merge_reference::allowed;
use crate::support::text;

fn merge<'t>(base: &'t [u8], mine: &'t [u8], theirs: &'t [u8]) -> TextMerge<'t> {
    merge_under(&Arc::default(), base, mine, theirs)
}

fn merge_under<'t>(rules: &Arc<FileRules>, base: &'t [u8], mine: &'t [u8], theirs: &'t [u8]) -> TextMerge<'t> {
    merge_texts(Three::new(base.into(), mine.into(), theirs.into()), rules, &MergeOptions::default())
}

fn rules(what: &str) -> Rules {
    let parsed = What::parse(what, []).unwrap();
    Rules::new(vec![Rule::new(what, Effect::Ignore, vec![(what.to_owned(), parsed)])])
}

/// A text of numbered lines, and two that came of it by edits of single lines.
fn edited() -> impl Strategy<Value = (String, String, String)> {
    let edits = || prop::collection::vec((0..30_usize, 0..3_u8), 0..8);
    (edits(), edits()).prop_map(|(mine, theirs)| {
        let lines: Vec<String> = (0..30).map(|at| format!("reading {at} of the gauge\n")).collect();
        let with = |edits: Vec<(usize, u8)>, who: &str| {
            let line = |(at, line): (usize, &String)| match edits.iter().find(|edit| edit.0 == at) {
                Some((_, 0)) => String::new(),
                Some((_, 1)) => format!("{line}added by {who} at {at}\n"),
                Some(_) => format!("reading {at} by {who}\n"),
                None => line.clone(),
            };
            lines.iter().enumerate().map(line).collect::<String>()
        };
        (lines.concat(), with(mine, "mine"), with(theirs, "theirs"))
    })
}

/// A text in another encoding.
fn wide(text: &str) -> Vec<u8> {
    format!("\u{feff}{text}").encode_utf16().flat_map(u16::to_le_bytes).collect()
}

/// A result that is read as text.
fn written(merge: &FileMerge<'_>) -> Option<Vec<u8>> {
    let FileMerge::Text(text) = merge else { panic!("all three are text") };
    text.encoded(&text.merge.marked(&Marks::default()))
}

fn files<'b>(versions: Three<&'b [u8]>) -> FileMerge<'b> {
    merge_files(b"gauge.txt", versions, &ContentOptions::default(), &MergeOptions::default())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn line_ends_do_not_change_what_comes_of_a_merge((base, mine, theirs) in edited()) {
        let crlf = |text: &str| text.replace('\n', "\r\n");
        let plain = merge(base.as_bytes(), mine.as_bytes(), theirs.as_bytes());
        let (b, m, t) = (crlf(&base), crlf(&mine), crlf(&theirs));
        let ended = merge(b.as_bytes(), m.as_bytes(), t.as_bytes());
        prop_assert_eq!(&plain.regions, &ended.regions);
        let marked = String::from_utf8(plain.marked(&Marks::default())).unwrap();
        prop_assert_eq!(crlf(&marked), String::from_utf8(ended.marked(&Marks::default())).unwrap());
        // One side turned all line ends, the other edited: both come through.
        let turned = merge(base.as_bytes(), b.as_bytes(), theirs.as_bytes());
        prop_assert_eq!(turned.merged(), Some(t.into_bytes()));
    }

    #[test]
    fn a_side_that_was_written_in_another_encoding_merges_like_any((base, mine, theirs) in edited()) {
        let plain = files(Three::new(base.as_bytes(), mine.as_bytes(), theirs.as_bytes()));
        let recoded = wide(&mine);
        let found = files(Three::new(base.as_bytes(), &recoded, theirs.as_bytes()));
        let expected = String::from_utf8(written(&plain).unwrap()).unwrap();
        prop_assert_eq!(written(&found), Some(wide(&expected)), "that of mine wins: it alone changed it");
    }

    #[test]
    fn white_space_that_one_side_changed_is_never_a_conflict((base, mine, _) in edited(), shift in 1..4_usize) {
        let indented: String = base.lines().map(|line| format!("{}{line}\n", " ".repeat(shift))).collect();
        let rules = rules("space").file_rules(b"gauge.txt");
        let found = merge_under(&rules, base.as_bytes(), mine.as_bytes(), indented.as_bytes());
        prop_assert!(found.merged().is_some());
        let bare = |text: &[u8]| text.iter().copied().filter(|byte| *byte != b' ').collect::<Vec<u8>>();
        prop_assert_eq!(bare(&found.merged().unwrap()), bare(mine.as_bytes()));
        let other = merge_under(&rules, base.as_bytes(), indented.as_bytes(), mine.as_bytes());
        prop_assert_eq!(bare(&other.merged().unwrap()), bare(mine.as_bytes()));
    }

    #[test]
    fn words_merge_as_the_reference_allows(base in "[ab ]{0,5}", mine in "[ab ]{0,5}", theirs in "[ab ]{0,5}") {
        // Letters apart from each other are words of their own.
        let spread = |text: &str| text.chars().flat_map(|letter| [letter, '.']).collect::<String>();
        let (base, mine, theirs) = (spread(&base), spread(&mine), spread(&theirs));
        let lines = Three::new(base.as_bytes(), mine.as_bytes(), theirs.as_bytes());
        if let Some(merged) = merge_words(lines) {
            let allowed = allowed(lines.base, lines.mine, lines.theirs);
            prop_assert!(allowed.merged.contains(&merged) || lines.mine == lines.theirs, "{:?}", String::from_utf8(merged));
        }
    }

    #[test]
    fn marks_hold_both_sides_and_can_be_resolved_by_hand(base in text(), mine in text(), theirs in text()) {
        // Line ends have a law of their own.
        let [base, mine, theirs] = [base, mine, theirs].map(|text| {
            text.into_iter().map(|byte| if byte == b'\r' { b'c' } else { byte }).collect::<Vec<u8>>()
        });
        let found = merge(&base, &mine, &theirs);
        let marks = Marks { labels: Three::new("b".into(), "m".into(), "t".into()), base_text: true };
        let marked = found.marked(&marks);
        let conflicts = marked_conflicts(&marked);
        prop_assert_eq!(conflicts.len(), found.conflicts().count());
        for conflict in &conflicts {
            prop_assert_eq!((&*conflict.mine, &*conflict.theirs), ("m", "t"));
        }
        // What stands above the middle mark is mine; whoever keeps that resolves for mine.
        let mut kept = Vec::new();
        let (mut inside, mut keeps) = (false, true);
        for line in marked.split_inclusive(|byte| *byte == b'\n') {
            match line {
                b"<<<<<<< m\n" => (inside, keeps) = (true, true),
                b"||||||| b\n" if inside => keeps = false,
                b">>>>>>> t\n" if inside => (inside, keeps) = (false, true),
                line if keeps => kept.extend_from_slice(line),
                _ => {}
            }
        }
        let resolved = found.resolved(|_| Resolution::Mine);
        // A mark at the end keeps the line end that a side may lack.
        prop_assert!(kept == resolved || kept.strip_suffix(b"\n") == Some(&resolved[..]), "{kept:?} {resolved:?}");
        prop_assert_eq!(found.decided(&marks, |_| Some(Resolution::Theirs)), found.resolved(|_| Resolution::Theirs));
    }

    #[test]
    fn edits_follow_blocks_and_no_line_is_lost_or_doubled(
        order in Just((0..6_usize).collect::<Vec<_>>()).prop_shuffle(),
        edits in prop::collection::vec(0..6_usize, 0..4),
    ) {
        let block = |number: usize, edited: bool| {
            let inner = if edited { "a line that was edited here" } else { "a line in the middle of it" };
            format!("block {number} begins with this line\n    {inner} {number}\n    and ends with line {number} of it\n\n")
        };
        let all = |numbers: &[usize], edits: &[usize]| {
            numbers.iter().map(|number| block(*number, edits.contains(number))).collect::<String>()
        };
        let base = all(&[0, 1, 2, 3, 4, 5], &[]);
        let (mine, theirs) = (all(&order, &[]), all(&[0, 1, 2, 3, 4, 5], &edits));
        let found = merge(base.as_bytes(), mine.as_bytes(), theirs.as_bytes());
        if let Some(merged) = found.merged() {
            prop_assert_eq!(String::from_utf8(merged).unwrap(), all(&order, &edits));
        }
        let mirrored = merge(base.as_bytes(), theirs.as_bytes(), mine.as_bytes());
        prop_assert_eq!(mirrored.merged(), found.merged());
    }
}

#[test]
fn what_is_written_in_two_other_encodings_is_a_conflict_of_values() {
    let text = "Höhe über dem Pegel\n";
    let latin: Vec<u8> = text.chars().map(|letter| letter as u8).collect();
    let wide = wide(text);
    let FileMerge::Text(found) = files(Three::new(text.as_bytes(), &latin, &wide)) else { panic!("text") };
    assert!(matches!(&found.value_conflicts()[..], [ValueConflict::Encoding(mine, _)] if mine == "windows-1252"));
    assert_eq!((found.conflicts(), found.merge.conflicts().count()), (1, 0));
    assert_eq!(found.encoded(&found.merge.marked(&Marks::default())), Some(latin.clone()));
    let preferred = MergeOptions::default().prefer(Some(Prefer::Theirs));
    let versions = Three::new(text.as_bytes(), &latin[..], &wide[..]);
    let FileMerge::Text(found) = merge_files(b"a.txt", versions, &ContentOptions::default(), &preferred) else {
        panic!("text")
    };
    assert_eq!(found.encoded(&found.merge.marked(&Marks::default())), Some(wide));
}

#[test]
fn letters_that_an_encoding_lacks_are_not_lost_silently() {
    let latin = b"H\xf6he\nx\n";
    let theirs = "Höhe\n水位\n".as_bytes();
    let FileMerge::Text(found) = files(Three::new(latin, b"H\xf6he\nx\ny\n", theirs)) else { panic!("text") };
    // Theirs became UTF-8, so that wins, and has all letters.
    assert!(found.encoded(&found.merge.marked(&Marks::default())).is_some());
    let kept = found.written_in();
    assert_eq!(kept.name(), "UTF-8");
}

#[test]
fn files_that_are_not_text_are_taken_whole() {
    for (base, mine, theirs, expected) in [
        (&b"\0a"[..], &b"\0a"[..], &b"\0b"[..], WholeMerge::Theirs),
        (b"\0a", b"\0b", b"\0a", WholeMerge::Mine),
        (b"\0a", b"\0b", b"\0b", WholeMerge::Alike),
        (b"\0a", b"\0b", b"\0c", WholeMerge::Conflict),
        (b"text\n", b"\0b", b"text 2\n", WholeMerge::Conflict),
    ] {
        assert!(matches!(files(Three::new(base, mine, theirs)), FileMerge::Whole(found) if found == expected));
    }
}

#[test]
fn other_programs_merge_through_the_facade() {
    let labels = ["base", "mine", "theirs"];
    let merge = |versions: [&[u8]; 3]| tideline_core::merge("a.txt", versions, labels, &Options::new());
    assert_eq!(merge([b"1\n\n2\n", b"one\n\n2\n", b"1\n\ntwo\n"]), Merged::Clean(b"one\n\ntwo\n".to_vec()));
    let marked = b"<<<<<<< mine\none\n||||||| base\n1\n=======\neins\n>>>>>>> theirs\n".to_vec();
    assert_eq!(merge([b"1\n", b"one\n", b"eins\n"]), Merged::Conflicts(marked, 1));
    assert_eq!(merge([b"\0", b"\0a", b"\0b"]), Merged::NotText);
    let options = Options::new().ignore("space").unwrap();
    let spaced = tideline_core::merge("a.txt", [b"a b\n", b"a  b\n", b"a c\n"], labels, &options);
    assert!(matches!(spaced, Merged::Clean(_)), "{spaced:?}");
}
