//! Three texts merged: by the definition, by an independent reference, and by example.

use std::sync::Arc;

use proptest::prelude::*;
use proptest::test_runner::{RngAlgorithm, TestRng, TestRunner};
use tideline_core::internal::merge::{
    Clash, Endings, Insertions, Joining, LineEnds, Marks, MergeOptions, MergedValue, RegionOutcome, Resolution,
    TextMerge, Three, marked_conflicts, merge_texts,
};
use tideline_core::internal::rules::{Effect, FileRules, Rule, Rules, What};

use crate::merge_reference::{Allowed, allowed};
use crate::support::text;

fn merge<'t>(base: &'t [u8], mine: &'t [u8], theirs: &'t [u8]) -> TextMerge<'t> {
    merge_as(base, mine, theirs, &MergeOptions::default())
}

fn merge_as<'t>(base: &'t [u8], mine: &'t [u8], theirs: &'t [u8], options: &MergeOptions) -> TextMerge<'t> {
    merge_texts(Three::new(base.into(), mine.into(), theirs.into()), &Arc::default(), options)
}

/// The rules that ignore something.
fn ignoring(what: &str) -> Arc<FileRules> {
    let parsed = What::parse(what, []).unwrap();
    Rules::new(vec![Rule::new(what, Effect::Ignore, vec![(what.to_owned(), parsed)])]).file_rules(b"levels.txt")
}

fn merged(base: &str, mine: &str, theirs: &str) -> Option<String> {
    let merge = merge(base.as_bytes(), mine.as_bytes(), theirs.as_bytes());
    merge.merged().map(|text| String::from_utf8(text).unwrap())
}

fn marked(merge: &TextMerge<'_>) -> String {
    let labels = Three::new("spring".to_owned(), "mine".to_owned(), "theirs".to_owned());
    String::from_utf8(merge.marked(&Marks { labels, base_text: true })).unwrap()
}

/// What must hold of any merge: its regions part all three texts in order, and each is what it is said to be.
fn check(merge: &TextMerge<'_>) -> Result<(), TestCaseError> {
    let texts = merge.texts.as_ref().map(|masked| masked.text());
    let (mut base, mut mine, mut theirs) = (0, 0, 0);
    for region in &merge.regions {
        let between = &texts.base[base..region.base.bytes.start];
        prop_assert_eq!(between, &texts.mine[mine..region.mine.bytes.start]);
        prop_assert_eq!(between, &texts.theirs[theirs..region.theirs.bytes.start]);
        let lines = merge.lines_of(region);
        match &region.outcome {
            RegionOutcome::Mine => prop_assert!(lines.theirs == lines.base && lines.mine != lines.base),
            RegionOutcome::Theirs => prop_assert!(lines.mine == lines.base && lines.theirs != lines.base),
            RegionOutcome::Alike => prop_assert!(lines.mine == lines.theirs),
            RegionOutcome::Joined(..) => {}
            RegionOutcome::Conflict(_) => prop_assert!(lines.mine != lines.theirs),
        }
        for (span, text) in [(&region.base, texts.base), (&region.mine, texts.mine), (&region.theirs, texts.theirs)] {
            let count = |text: &[u8]| text.iter().filter(|byte| **byte == b'\n').count();
            prop_assert_eq!(count(&text[..span.bytes.start]), span.lines.start);
            prop_assert_eq!(count(&text[span.bytes.clone()]), span.lines.len());
        }
        (base, mine, theirs) = (region.base.bytes.end, region.mine.bytes.end, region.theirs.bytes.end);
    }
    prop_assert_eq!(&texts.base[base..], &texts.mine[mine..]);
    prop_assert_eq!(&texts.base[base..], &texts.theirs[theirs..]);
    Ok(())
}

/// What becomes of a merge when mine and theirs change places.
fn mirrored(outcome: &RegionOutcome) -> RegionOutcome {
    match outcome {
        RegionOutcome::Mine => RegionOutcome::Theirs,
        RegionOutcome::Theirs => RegionOutcome::Mine,
        other => other.clone(),
    }
}

/// Lines of one letter each.
fn lettered(letters: &[u8]) -> Vec<u8> {
    letters.iter().flat_map(|letter| [*letter, b'\n']).collect()
}

/// A short text and two that came of it.
fn triple() -> impl Strategy<Value = (Vec<u8>, Vec<u8>, Vec<u8>)> {
    let letter = || prop::sample::select(vec![b'a', b'b', b'c', b'd']);
    let edit = (any::<prop::sample::Index>(), 0..3_u8, letter());
    let edits = || prop::collection::vec(edit.clone(), 0..3);
    (prop::collection::vec(letter(), 0..6), edits(), edits()).prop_map(|(base, ours, others)| {
        let edited = |edits: Vec<(prop::sample::Index, u8, u8)>| {
            let mut text = base.clone();
            for (at, what, letter) in edits {
                let at = at.index(text.len() + 1);
                match what {
                    0 => text.insert(at, letter),
                    1 if at < text.len() => drop(text.remove(at)),
                    _ if at < text.len() => text[at] = letter,
                    _ => {}
                }
            }
            text
        };
        (base.clone(), edited(ours), edited(others))
    })
}

/// Whether a merge is one that the reference allows.
fn agrees_with_the_reference(base: &[u8], mine: &[u8], theirs: &[u8]) -> Result<(), TestCaseError> {
    let texts = (lettered(base), lettered(mine), lettered(theirs));
    let merge = merge(&texts.0, &texts.1, &texts.2);
    check(&merge)?;
    let Allowed { merged, may_clash } = allowed(base, mine, theirs);
    match merge.merged() {
        Some(text) => {
            let letters: Vec<u8> = text.into_iter().filter(|byte| *byte != b'\n').collect();
            prop_assert!(merged.contains(&letters), "merged to {letters:?}, and only {merged:?} are right");
        }
        None => prop_assert!(may_clash, "a conflict where no two changes touch"),
    }
    Ok(())
}

#[test]
fn a_label_stays_in_the_line_of_its_mark() {
    let labels = Three::new("spring\n".to_owned(), "the\r\nkeeper".to_owned(), "\u{1b}office".to_owned());
    let marked = merge(b"a\n", b"b\n", b"c\n").marked(&Marks { labels, base_text: true });
    assert_eq!(
        String::from_utf8(marked.clone()).unwrap(),
        "<<<<<<< the  keeper\nb\n||||||| spring \na\n=======\nc\n>>>>>>>  office\n"
    );
    assert_eq!(marked_conflicts(&marked).len(), 1);
}

#[test]
fn the_slow_reference_allows_every_merge() {
    let cases = std::env::var("TIDELINE_TRIAL_CASES").ok().and_then(|count| count.parse().ok()).unwrap_or(2_000);
    let config = ProptestConfig { cases, failure_persistence: None, ..ProptestConfig::default() };
    let seed = std::process::id().to_le_bytes().repeat(8);
    let mut runner = TestRunner::new_with_rng(config, TestRng::from_seed(RngAlgorithm::ChaCha, &seed));
    runner.run(&triple(), |(base, mine, theirs)| agrees_with_the_reference(&base, &mine, &theirs)).unwrap();
    println!("{cases} random triples: 0 wrong");
}

/// Where an edit stands, and what it does.
#[derive(Clone, Debug)]
struct Known {
    at: usize,
    what: u8,
    is_mine: bool,
}

/// Edits that keep away from each other.
fn known_edits() -> impl Strategy<Value = (usize, Vec<Known>)> {
    let known = (2..9_usize, 0..3_u8, any::<bool>());
    prop::collection::vec(known, 0..20).prop_map(|steps| {
        let mut at = 0;
        let mut edits = Vec::new();
        for (step, what, is_mine) in steps {
            at += step;
            edits.push(Known { at, what, is_mine });
        }
        (at + 5, edits)
    })
}

/// A text with some edits; its lines are all different, but for the blank ones.
fn with(count: usize, edits: &[&Known]) -> Vec<u8> {
    let mut text = Vec::new();
    for at in 0..count {
        let line = if at % 4 == 3 { "\n".to_owned() } else { format!("line {at}\n") };
        match edits.iter().find(|edit| edit.at == at).map(|edit| edit.what) {
            None => text.extend(line.bytes()),
            Some(0) => text.extend(format!("new at {at}\n{line}").bytes()),
            Some(1) => {}
            Some(_) => text.extend(format!("edited at {at}\n").bytes()),
        }
    }
    text
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn regions_part_any_three_texts(base in text(), mine in text(), theirs in text()) {
        let found = merge(&base, &mine, &theirs);
        check(&found)?;
        // Whoever resolves all conflicts leaves no mark behind.
        prop_assert!(marked_conflicts(&found.resolved(|_| Resolution::MineThenTheirs)).is_empty());
    }

    #[test]
    fn a_side_that_changed_nothing_leaves_the_other(base in text(), side in text()) {
        prop_assert_eq!(merge(&base, &base, &side).merged(), Some(side.clone()));
        prop_assert_eq!(merge(&base, &side, &base).merged(), Some(side.clone()));
        prop_assert_eq!(merge(&base, &side, &side).merged(), Some(side));
    }

    #[test]
    fn mirrored_texts_merge_to_mirrored_results(base in text(), mine in text(), theirs in text()) {
        let (one, other) = (merge(&base, &mine, &theirs), merge(&base, &theirs, &mine));
        prop_assert_eq!(one.regions.len(), other.regions.len());
        for (one, other) in one.regions.iter().zip(&other.regions) {
            prop_assert_eq!(&mirrored(&one.outcome), &other.outcome);
            prop_assert_eq!((&one.base, &one.mine, &one.theirs), (&other.base, &other.theirs, &other.mine));
        }
        prop_assert_eq!(one.merged(), other.merged());
    }

    #[test]
    fn edits_that_keep_away_from_each_other_all_come_through((count, edits) in known_edits()) {
        let of = |is_mine: Option<bool>| {
            let wanted: Vec<&Known> = edits.iter().filter(|edit| is_mine.is_none_or(|mine| edit.is_mine == mine)).collect();
            with(count, &wanted)
        };
        let none = with(count, &[]);
        let found = merge(&none, &of(Some(true)), &of(Some(false))).merged();
        prop_assert_eq!(found, Some(of(None)));
    }

    #[test]
    fn a_conflict_resolved_for_one_side_holds_all_of_that_side((base, mine, theirs) in triple()) {
        let texts = (lettered(&base), lettered(&mine), lettered(&theirs));
        let found = merge(&texts.0, &texts.1, &texts.2);
        // Where nothing of theirs stands apart from the conflicts, the result is mine.
        prop_assume!(found.regions.iter().all(|region| region.is_conflict() || region.outcome == RegionOutcome::Alike));
        prop_assert_eq!(&found.resolved(|_| Resolution::Mine), &texts.1);
        prop_assert_eq!(&found.resolved(|_| Resolution::Theirs), &texts.2);
        prop_assert_eq!(marked_conflicts(&found.marked(&Marks::default())).len(), found.conflicts().count());
    }
}

#[test]
fn the_same_edit_on_both_sides_is_taken_once() {
    // One line more of a run of equal lines, wherever it is told to stand.
    let base = "top\nmid\nx\nx\nx\nbar\nquay\n";
    let (mine, theirs) = ("top\nmid\nx\nx\nx\nx\nbar\nQUAY\n", "TOP\nmid\nx\nx\nx\nx\nbar\nquay\n");
    assert_eq!(merged(base, mine, theirs).as_deref(), Some("TOP\nmid\nx\nx\nx\nx\nbar\nQUAY\n"));
    // Both removed one of them.
    let (mine, theirs) = ("top\nmid\nx\nx\nbar\nQUAY\n", "TOP\nmid\nx\nx\nbar\nquay\n");
    assert_eq!(merged(base, mine, theirs).as_deref(), Some("TOP\nmid\nx\nx\nbar\nQUAY\n"));
    // Each has another part of a block that repeats beside it.
    let base = "a\n\nb\n\nc\n";
    assert_eq!(merged(base, "a\n\nb\n\nb\n\nc\n", "a\n\nb\n\nb\n\nC\n"), None);
}

#[test]
fn edits_slide_apart_where_they_can() {
    // The blank line that mine adds can stand above or below the block; theirs edits the line below.
    let base = "a\n\nb\nc\n";
    assert_eq!(merged(base, "a\n\n\nb\nc\n", "a\n\nB\nc\n").as_deref(), Some("a\n\n\nB\nc\n"));
    assert_eq!(merged(base, "a\n\n\nb\nc\n", "A\n\nb\nc\n").as_deref(), Some("A\n\n\nb\nc\n"));
}

#[test]
fn a_conflict_is_cut_to_the_lines_that_clash() {
    let base = "head\none\ntail\n";
    let mine = "head\nfirst shared line of both\nmine\nlast shared line of both\ntail\n";
    let theirs = "head\nfirst shared line of both\ntheirs\nlast shared line of both\ntail\n";
    let found = merge(base.as_bytes(), mine.as_bytes(), theirs.as_bytes());
    assert_eq!(
        marked(&found),
        "head\nfirst shared line of both\n<<<<<<< mine\nmine\n||||||| spring\none\n=======\ntheirs\n>>>>>>> theirs\nlast shared line of both\ntail\n"
    );
    // Two that clash with enough between them are two conflicts.
    let between = "a line that both put in the same place\n";
    let (mine, theirs) = (format!("m1\n{between}m2\n"), format!("t1\n{between}t2\n"));
    let found = merge(b"old\n", mine.as_bytes(), theirs.as_bytes());
    assert_eq!(found.conflicts().count(), 2);
    assert_eq!(found.resolved(|_| Resolution::Theirs), theirs.as_bytes());
    // A lone bracket between them does not part them.
    let found = merge(b"old\n", b"m1\n}\nm2\n", b"t1\n}\nt2\n");
    assert_eq!(found.conflicts().count(), 1);
}

#[test]
fn lines_inserted_at_one_place_are_joined_when_told() {
    let base = "use a;\n\nfn main() {}\n";
    let mine = "use a;\nuse b;\nuse c;\n\nfn main() {}\n";
    let theirs = "use a;\nuse b;\nuse d;\n\nfn main() {}\n";
    assert_eq!(merged(base, mine, theirs), None);
    let joined = |order| {
        let options = MergeOptions::default().both_insertions(Some(order));
        let found = merge_as(base.as_bytes(), mine.as_bytes(), theirs.as_bytes(), &options);
        String::from_utf8(found.merged().unwrap()).unwrap()
    };
    assert_eq!(joined(Insertions::MineFirst), "use a;\nuse b;\nuse c;\nuse d;\n\nfn main() {}\n");
    assert_eq!(joined(Insertions::TheirsFirst), "use a;\nuse b;\nuse d;\nuse c;\n\nfn main() {}\n");
    // Two edits of one line are no insertions.
    let options = MergeOptions::default().both_insertions(Some(Insertions::MineFirst));
    assert_eq!(merge_as(b"60\n", b"30\n", b"90\n", &options).merged(), None);
}

#[test]
fn words_merge_when_told() {
    let (base, mine, theirs) = (b"every 60 s in mm\nend\n", b"every 30 s in mm\nend\n", b"every 60 s in cm\nend\n");
    assert_eq!(merge(base, mine, theirs).merged(), None);
    let options = MergeOptions::default().by_words(true);
    let found = merge_as(base, mine, theirs, &options);
    assert_eq!(found.merged().as_deref(), Some(&b"every 30 s in cm\nend\n"[..]));
    assert!(matches!(found.regions[0].outcome, RegionOutcome::Joined(_, Joining::Words)));
    // Of lines side by side, the ones that clash stay a conflict.
    let found = merge_as(b"a 1 b\nc 1 d\n", b"a 2 b\nc 2 d\n", b"x 1 b\nc 3 d\n", &options);
    assert_eq!(marked(&found), "x 2 b\n<<<<<<< mine\nc 2 d\n||||||| spring\nc 1 d\n=======\nc 3 d\n>>>>>>> theirs\n");
}

#[test]
fn what_rules_ignore_is_never_a_conflict() {
    let rules = ignoring("space");
    let options = MergeOptions::default();
    let of = |base: &'static str, mine: &'static str, theirs: &'static str| {
        merge_texts(Three::new(base, mine, theirs).map(|text| text.as_bytes().into()), &rules, &options)
    };
    // Theirs only indents what mine edits: the text of mine stays, and what was dropped is counted.
    let found = of("a = 1\nb\n", "a = 2\nb\n", "  a = 1\nb\n");
    assert_eq!((found.merged().as_deref(), found.dropped()), (Some(&b"a = 2\nb\n"[..]), 1));
    // Mine only indents what theirs edits: both are in.
    let found = of("a = 1\nb\n", "  a = 1\nb\n", "a = 2\nb\n");
    assert_eq!((found.merged().as_deref(), found.dropped()), (Some(&b"  a = 2\nb\n"[..]), 0));
    // Both edit it alike but for white space.
    let found = of("a = 1\nb\n", "a = 2\nb\n", "a=2\nb\n");
    assert_eq!((found.merged().as_deref(), found.dropped()), (Some(&b"a = 2\nb\n"[..]), 1));
    // What theirs alone indents is taken as it is.
    let found = of("a = 1\nb\n", "a = 1\nb\n", "a  =  1\nb\n");
    assert_eq!((found.merged().as_deref(), found.dropped()), (Some(&b"a  =  1\nb\n"[..]), 0));
    // What differs in more is a conflict all the same.
    assert_eq!(of("a = 1\nb\n", "a = 2\nb\n", "a = 3\nb\n").merged(), None);
}

const BLOCK: &str = "def mean_level(readings):\n    total = sum(readings)\n    return total / len(readings)\n\n";
const OTHER: &str = "def highest_level(readings):\n    best = max(readings)\n    return best\n\n";
const THIRD: &str = "def lowest_level(readings):\n    worst = min(readings)\n    return worst\n\n";

#[test]
fn what_one_side_edits_follows_a_block_that_the_other_moved() {
    let base = [BLOCK, OTHER, THIRD].concat();
    let moved = [OTHER, THIRD, BLOCK].concat();
    let edit = |text: &str| text.replace("total / len", "total / max(1, len");
    for (mine, theirs, by_mine) in [(moved.clone(), edit(&base), true), (edit(&base), moved.clone(), false)] {
        let found = merge(base.as_bytes(), mine.as_bytes(), theirs.as_bytes());
        assert_eq!(found.merged().map(|text| String::from_utf8(text).unwrap()), Some(edit(&moved)));
        assert_eq!((found.moved.len(), found.moved[0].moved_by_mine), (1, by_mine));
    }
    // It is indented anew at its new place, and the edit with it.
    let indent = |text: &str| {
        text.lines()
            .map(|line| if line.is_empty() { "\n".to_owned() } else { format!("    {line}\n") })
            .collect::<String>()
    };
    let inside = [OTHER, "class Levels:\n", &indent(BLOCK), THIRD].concat();
    let expected = [OTHER, "class Levels:\n", &indent(&edit(BLOCK)), THIRD].concat();
    assert_eq!(merged(&base, &inside, &edit(&base)), Some(expected));
}

#[test]
fn a_block_that_both_moved_is_not_doubled() {
    let last =
        "if __name__ == \"__main__\":\n    print(mean_level([1.2, 1.4]))\n    print(highest_level([1.2, 1.4]))\n\n";
    let base = [BLOCK, OTHER, THIRD, last, "END = 1\n"].concat();
    let mine = [OTHER, THIRD, BLOCK, last, "END = 1\n"].concat();
    let theirs = [OTHER, THIRD, last, "END = 1\n", BLOCK].concat();
    let found = merge(base.as_bytes(), mine.as_bytes(), theirs.as_bytes());
    let clashes: Vec<_> = found
        .regions
        .iter()
        .map(|region| &region.outcome)
        .filter(|one| matches!(one, RegionOutcome::Conflict(_)))
        .collect();
    assert_eq!(clashes, [&RegionOutcome::Conflict(Clash::MovedApart); 2]);
    assert_eq!(found.resolved(|_| Resolution::Mine), mine.as_bytes());
    assert_eq!(found.resolved(|_| Resolution::Theirs), theirs.as_bytes());
    // Moved here and removed there.
    let theirs = [OTHER, THIRD, last, "END = 1\n"].concat();
    let found = merge(base.as_bytes(), mine.as_bytes(), theirs.as_bytes());
    assert!(found.regions.iter().any(|region| region.outcome == RegionOutcome::Conflict(Clash::MovedAndRemoved)));
    // Both to the same place.
    assert_eq!(merged(&base, &mine, &mine), Some(mine.clone()));
}

#[test]
fn line_ends_and_the_final_one_are_values_of_their_own() {
    let crlf = |text: &str| text.replace('\n', "\r\n");
    let base = "one\ntwo\nthree\n";
    assert_eq!(merged(base, &crlf(base), "one\n2\nthree\n"), Some(crlf("one\n2\nthree\n")));
    assert_eq!(merged(&crlf(base), base, &crlf("one\n2\nthree\n")), Some("one\n2\nthree\n".to_owned()));
    assert_eq!(merged(&crlf(base), &crlf(base), &crlf("one\n2\nthree\n")), Some(crlf("one\n2\nthree\n")));
    assert_eq!(merged("one\ntwo\nthree", "one\ntwo\nthree\n", "1\ntwo\nthree"), Some("1\ntwo\nthree\n".to_owned()));
    assert_eq!(merged(base, "one\ntwo\nthree", "1\ntwo\nthree\n"), Some("1\ntwo\nthree".to_owned()));
    assert_eq!(merged("a\nb", "a\nb", "a\nb\nc"), Some("a\nb\nc".to_owned()));
    // Mixed line ends belong to their lines.
    assert_eq!(merged("a\r\nb\nc\n", "a\r\nb\nC\n", "A\r\nb\nc\n"), Some("A\r\nb\nC\n".to_owned()));
    let Endings { line_ends, .. } = merge(b"", b"a\r\n", b"b\n").endings;
    assert_eq!(line_ends, Some(MergedValue::Conflict(Some(LineEnds::CrLf), Some(LineEnds::Lf))));
}

#[test]
fn marks_are_longer_than_any_line_that_looks_like_one() {
    let base = "<<<<<<< kept\nx\n========\n";
    let found = merge(base.as_bytes(), b"<<<<<<< kept\ny\n========\n", b"<<<<<<< kept\nz\n========\n");
    let text = marked(&found);
    assert!(text.contains("\n<<<<<<<<< mine\ny\n||||||||| spring\nx\n=========\nz\n>>>>>>>>> theirs\n"), "{text}");
    assert_eq!(marked_conflicts(text.as_bytes()).len(), 1);
    // A mark at the end of a file that ends without a line end is a whole line.
    let found = merge(b"a", b"b", b"c");
    assert_eq!(marked(&found), "<<<<<<< mine\nb\n||||||| spring\na\n=======\nc\n>>>>>>> theirs\n");
    assert_eq!(found.resolved(|_| Resolution::Mine), b"b");
}
