//! Trees in memory: statuses, moves, filters, and what is counted.

use std::ops::ControlFlow;

use proptest::prelude::*;
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{
    Attributes, ContentId, Filter, MemoryTree, Pair, PairSink, Progress, TreeComparison, TreeOptions, TreePath, Trust,
    by_path, compare, compare_into,
};

fn compared(before: &MemoryTree, after: &MemoryTree, options: &TreeOptions) -> TreeComparison {
    compare(before, after, options, &Progress::default())
}

/// Each pair that was kept: its path, its status, and the path it came from.
fn told(comparison: &TreeComparison) -> Vec<(String, Status, Option<String>)> {
    let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
    let pairs = comparison.pairs.iter();
    pairs.map(|pair| (text(&pair.path), pair.status, pair.moved_from.as_deref().map(text))).collect()
}

fn prose(seed: usize) -> String {
    (0..30).map(|n| format!("line {n} of the text on {}\n", n * seed)).collect()
}

#[test]
fn every_status_is_told_in_path_order() {
    let before = MemoryTree::new()
        .file("same", "same\n")
        .file("edited", "one\ntwo\nthree\n")
        .file("old/gone", "gone\n")
        .file("here", prose(3))
        .file("type", "file\n")
        .link("link", "one")
        .unreadable("locked")
        .folder("empty");
    let after = MemoryTree::new()
        .file("same", "same\n")
        .file("edited", "one\n2\nthree\n")
        .file("there", prose(3))
        .file("type/inside", "now a folder\n")
        .link("link", "other")
        .file("locked", "open\n")
        .file("new", "new\n");
    let comparison = compared(&before, &after, &TreeOptions::default());
    let expected = [
        ("edited", Status::Changed, None),
        ("empty", Status::Gone, None),
        ("link", Status::Changed, None),
        ("locked", Status::Unreadable, None),
        ("new", Status::New, None),
        ("old", Status::Gone, None),
        ("old/gone", Status::Gone, None),
        ("there", Status::Moved, Some("here".to_owned())),
        ("type", Status::Retyped, None),
        ("type/inside", Status::New, None),
    ];
    let expected = expected.map(|(path, status, from)| (path.to_owned(), status, from));
    assert_eq!(told(&comparison), expected);
    assert_eq!((comparison.files(), comparison.count(Status::Same)), (9, 1));
    assert_eq!((comparison.folders, comparison.changes), ((2, 0), 1));
    let edited = &comparison.pairs[0];
    assert_eq!((edited.extent.counted, edited.extent.size), (1, 1));
}

#[test]
fn alike_files_are_moved_and_unlike_ones_are_not() {
    let before = MemoryTree::new().file("a/report", prose(7)).file("b/poem", prose(11)).file("c", "short\n");
    let after = MemoryTree::new()
        .file("z/report", prose(7).replace("line 5 of", "the fifth line of"))
        .file("z/poem", (0..30).map(|n| format!("quite another text, line {n}\n")).collect::<String>())
        .file("d", "short, but not the same\n");
    let comparison = compared(&before, &after, &TreeOptions::default());
    let moved: Vec<_> = told(&comparison).into_iter().filter(|(_, status, _)| *status == Status::Moved).collect();
    assert_eq!(moved, [("z/report".to_owned(), Status::Moved, Some("a/report".to_owned()))]);
    assert_eq!(comparison.pairs.iter().find(|pair| pair.status == Status::Moved).unwrap().extent.counted, 1);
    let without = compared(&before, &after, &TreeOptions::default().moves(false));
    assert_eq!(without.count(Status::Moved), 0);
    assert_eq!(without.count(Status::Gone), 3);
}

#[test]
fn equal_contents_prefer_the_same_name_and_names_that_differ_in_case_are_one_file() {
    let before = MemoryTree::new().file("x/a.txt", "content\n").file("README", "read me\n");
    let after =
        MemoryTree::new().file("y/0.txt", "content\n").file("y/a.txt", "content\n").file("Readme", "read me!\n");
    let moves: Vec<_> = told(&compared(&before, &after, &TreeOptions::default()))
        .into_iter()
        .filter_map(|(path, _, from)| Some((from?, path)))
        .collect();
    assert_eq!(moves, [("README".into(), "Readme".into()), ("x/a.txt".into(), "y/a.txt".into())]);
}

#[test]
fn filters_choose_by_name_path_and_depth_and_count_what_they_leave_out() {
    let before =
        MemoryTree::new().file("a.log", "1\n").file("s/a.toml", "1\n").file("s/b.log", "1\n").file("s/t/c.toml", "1\n");
    let after =
        MemoryTree::new().file("a.log", "2\n").file("s/a.toml", "2\n").file("s/b.log", "2\n").file("s/t/c.toml", "2\n");
    let paths = |filter: Filter| {
        let comparison = compared(&before, &after, &TreeOptions::default().filter(filter));
        let left = (comparison.left_out.by_pattern, comparison.left_out.too_deep);
        (told(&comparison).into_iter().map(|(path, ..)| path).collect::<Vec<_>>().join(" "), left)
    };
    let patterns = |patterns: &[&str]| patterns.iter().map(|&pattern| pattern.to_owned()).collect::<Vec<_>>();
    let include = |given: &[&str]| Filter::default().include(&patterns(given)).unwrap();
    let exclude = |given: &[&str]| Filter::default().exclude(&patterns(given)).unwrap();
    assert_eq!(paths(include(&["*.toml"])), ("s/a.toml s/t/c.toml".into(), (2, 0)));
    assert_eq!(paths(include(&["s/*.toml", "/a.log"])).0, "a.log s/a.toml s/t/c.toml");
    assert_eq!(paths(exclude(&["*.log"])), ("s/a.toml s/t/c.toml".into(), (2, 0)));
    assert_eq!(paths(exclude(&["s/t/"])).0, "a.log s/a.toml s/b.log");
    assert_eq!(paths(Filter::default().depth(Some(1))), ("a.log".into(), (0, 1)));
    assert!(Filter::default().include(&patterns(&["[x"])).is_err());
}

#[test]
fn attributes_and_trust_are_compared_when_asked_for() {
    let before = MemoryTree::new().file_with_mode("run", "x\n", 0o644).file("size", "ab\n");
    let after = MemoryTree::new().file_with_mode("run", "x\n", 0o755).file("size", "cd\n");
    let paths = |options: TreeOptions| {
        told(&compared(&before, &after, &options)).into_iter().map(|(path, ..)| path).collect::<Vec<_>>()
    };
    assert_eq!(paths(TreeOptions::default()), ["size"]);
    let attributes = Attributes { mode: true, time: false };
    assert_eq!(paths(TreeOptions::default().attributes(attributes)), ["run", "size"]);
    let trusting = compared(&before, &after, &TreeOptions::default().trust(Some(Trust::Size)));
    assert_eq!((trusting.pairs.len(), trusting.left_out.unread), (0, 2));
}

fn tree() -> impl Strategy<Value = Vec<(String, String)>> {
    let path = prop::sample::select(vec!["a", "b", "c/d", "c/e", "c/f/g", "h/i", "b.txt", "c.d"]);
    let text = prop::sample::select(vec!["", "one\n", "two\n", "one\ntwo\n", "one\ntwo\nthree\nfour\nfive\nsix\n"]);
    prop::collection::btree_map(path, text, 0..8)
        .prop_map(|files| files.into_iter().map(|(path, text)| (path.to_owned(), text.to_owned())).collect())
}

fn planted(files: &[(String, String)]) -> MemoryTree {
    files.iter().fold(MemoryTree::new(), |tree, (path, text)| tree.file(path, text.as_str()))
}

/// All that a comparison told, and when.
#[derive(Default)]
struct Recorded {
    provisional: Vec<(TreePath, Status)>,
    known: Vec<Pair>,
    /// How many pairs were met before the first was known.
    met_before_the_first: Option<usize>,
    /// After so many pairs it has had enough.
    most: Option<usize>,
}

impl PairSink for Recorded {
    fn provisional(&mut self, pair: &Pair) {
        self.provisional.push((pair.path.clone(), pair.status));
    }

    fn pair(&mut self, pair: Pair, _: Vec<u8>) -> ControlFlow<()> {
        self.met_before_the_first.get_or_insert(self.provisional.len());
        self.known.push(pair);
        if self.most == Some(self.known.len()) { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
    }
}

/// Two trees of many folders, in each of which a file differs.
fn many_folders() -> [MemoryTree; 2] {
    ["before", "after"]
        .map(|side| (0..600).fold(MemoryTree::new(), |tree, folder| tree.file(&format!("{folder:03}/a/b/level"), side)))
}

#[test]
fn without_moves_pairs_are_known_while_the_walk_goes_on() {
    let [before, after] = many_folders();
    let run = |moves: bool, most: Option<usize>| {
        let mut sink = Recorded { most, ..Recorded::default() };
        let options = TreeOptions::default().moves(moves);
        compare_into((&before, &after), &options, &Progress::default(), None, &mut sink);
        sink
    };
    let (at_once, with_moves) = (run(false, None), run(true, None));
    assert_eq!(at_once.known, with_moves.known);
    assert_eq!(with_moves.met_before_the_first, Some(600), "what moved is known at the end");
    assert!(at_once.met_before_the_first < Some(600), "{:?}", at_once.met_before_the_first);
    let enough = run(false, Some(3));
    assert_eq!(enough.known.len(), 3);
    assert!(enough.provisional.len() < 600, "the walk ends where the sink has had enough");
}

#[test]
fn what_the_walk_says_first_is_provisional() {
    let before = MemoryTree::new().file("old", prose(3)).file("level", "1.2\n");
    let after = MemoryTree::new().file("new", prose(3)).file("level", "1.4\n");
    let mut sink = Recorded::default();
    compare_into((&before, &after), &TreeOptions::default(), &Progress::default(), None, &mut sink);
    let met: Vec<_> = sink.provisional.iter().map(|(path, status)| (path.to_text(), *status)).collect();
    let expected = [("level", Status::Changed), ("new", Status::New), ("old", Status::Gone)];
    assert_eq!(met, expected.map(|(path, status)| (path.to_owned(), status)));
    assert_eq!(sink.known.len(), 2);
    assert_eq!((sink.known[1].status, sink.known[1].path_before()), (Status::Moved, &"old".into()));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn pairs_come_in_path_order_and_each_was_met_before(before in tree(), after in tree(), moves in any::<bool>()) {
        let (before, after) = (planted(&before), planted(&after));
        let options = TreeOptions::default().moves(moves).only(Some(Status::ALL.to_vec()));
        let mut sink = Recorded::default();
        let totals = compare_into((&before, &after), &options, &Progress::default(), None, &mut sink);
        let whole = compared(&before, &after, &options);
        prop_assert_eq!(&sink.known, &whole.pairs);
        prop_assert_eq!(&totals.counts, &whole.counts);
        prop_assert!(sink.known.is_sorted_by(|one, other| by_path(&one.path, &other.path).is_le()));
        for pair in &sink.known {
            let was_met = sink.provisional.iter().any(|(path, _)| *path == pair.path);
            prop_assert!(was_met, "{:?} came from nowhere", pair.path);
        }
    }

    #[test]
    fn every_file_is_counted_once_and_swapping_mirrors(before in tree(), after in tree()) {
        let (one, other) = (planted(&before), planted(&after));
        let there = compared(&one, &other, &TreeOptions::default());
        let back = compared(&other, &one, &TreeOptions::default());
        let paths: std::collections::BTreeSet<_> = before.iter().chain(&after).map(|(path, _)| path).collect();
        prop_assert_eq!(there.files() + there.count(Status::Moved), paths.len());
        prop_assert_eq!(there.count(Status::Gone), back.count(Status::New));
        prop_assert_eq!(there.count(Status::Changed), back.count(Status::Changed));
        prop_assert_eq!(there.count(Status::Moved), back.count(Status::Moved));
        prop_assert_eq!(there.differs(), before != after);
        let order: Vec<_> = told(&there).into_iter().map(|(path, ..)| path.replace('/', "\0")).collect();
        prop_assert!(order.is_sorted());
    }
}

#[test]
fn what_is_known_by_its_identity_is_compared_without_reading() {
    let id = |algorithm, byte: u8| ContentId { algorithm, bytes: vec![byte] };
    let before = MemoryTree::new()
        .known("same", 10, id("blake3", 1))
        .known("other", 10, id("blake3", 2))
        .known("unlike", 10, id("blake3", 3))
        .known("gone", 7, id("blake3", 4));
    let after = MemoryTree::new().known("same", 10, id("blake3", 1)).known("other", 10, id("blake3", 9)).known(
        "unlike",
        10,
        id("sha256", 3),
    );
    let options =
        TreeOptions::default().only(Some(vec![Status::Same, Status::Changed, Status::Gone, Status::Unreadable]));
    let found = compare(&before, &after, &options, &Progress::default());
    let told: Vec<_> =
        found.pairs.iter().map(|pair| (String::from_utf8_lossy(&pair.path).into_owned(), pair.status)).collect();
    let told: Vec<_> = told.iter().map(|(path, status)| (path.as_str(), *status)).collect();
    // Identities of two algorithms say nothing about each other: such a file has to be read, and cannot be.
    let expected =
        [("gone", Status::Gone), ("other", Status::Changed), ("same", Status::Same), ("unlike", Status::Unreadable)];
    assert_eq!(told, expected);
    // What the listing told is not asked for again.
    assert_eq!(found.pairs[0].before.map(|known| known.size), Some(7));
}

#[test]
fn a_licence_at_the_head_of_every_file_does_not_make_two_of_them_alike() {
    let licence: String =
        (0..20).map(|line| format!("# You may use this kit under clause {line} of its licence.\n")).collect();
    let file = |topic: &str| -> String {
        let body = (0..8).map(|line| format!("{topic}_{line} = read({topic}, {line})\n")).collect::<String>();
        format!("{licence}{body}")
    };
    let kept = ["quay", "mouth", "pool", "reach", "light"];
    let tree = |others: &[(&str, String)]| {
        let tree = kept.iter().fold(MemoryTree::new(), |tree, name| tree.file(&format!("{name}.py"), file(name)));
        others.iter().fold(tree, |tree, (path, text)| tree.file(path, text.clone()))
    };
    let moved = |before: &[(&str, String)], after: &[(&str, String)]| -> Vec<String> {
        let comparison = compared(&tree(before), &tree(after), &TreeOptions::default());
        let told = told(&comparison).into_iter();
        told.filter(|(_, status, _)| *status == Status::Moved).map(|(path, ..)| path).collect()
    };
    assert_eq!(moved(&[("ebb.py", file("ebb"))], &[("storm.py", file("storm"))]), Vec::<String>::new());
    let edited = file("ebb").replace("ebb_3", "ebb_three");
    assert_eq!(moved(&[("ebb.py", file("ebb"))], &[("tide.py", edited)]), ["tide.py"]);
}
