//! Three trees merged, in memory: what comes of every path, and the steps that write it.

use std::collections::{BTreeMap, BTreeSet};

use proptest::prelude::*;
use tideline_core::internal::merge::{
    Beside, Marks, MergeSteps, Prefer, Source, StepContents, Three, Together, TreeClash, TreeMerge, TreeMergeOptions,
    merge_trees,
};
use tideline_core::internal::model::Status;
use tideline_core::internal::plan::Item;
use tideline_core::internal::tree::{self, Attributes, MemoryTree, Progress, Tree, TreeOptions, TreePath};

/// What a tree holds: its files by path.
type Files = BTreeMap<String, String>;

fn tree_of(files: &Files) -> MemoryTree {
    files.iter().fold(MemoryTree::new(), |tree, (path, text)| tree.file(path, text.as_bytes()))
}

fn labels() -> Three<String> {
    Three::new("base".to_owned(), "mine".to_owned(), "theirs".to_owned())
}

fn options(prefer: Option<Prefer>) -> TreeMergeOptions {
    let marks = Marks { labels: labels(), base_text: false };
    TreeMergeOptions { marks, prefer, keeps_results: true, ..TreeMergeOptions::default() }
}

fn merged(trees: Three<&dyn Tree>, prefer: Option<Prefer>) -> TreeMerge {
    let compared = TreeOptions::default().counts(false).attributes(Attributes { mode: true, ..Attributes::default() });
    let progress = Progress::default();
    let compare = |side: &dyn Tree| tree::compare(trees.base, side, &compared, &progress);
    let (mine, theirs) = (compare(trees.mine), compare(trees.theirs));
    merge_trees(trees, (&mine, &theirs), &options(prefer), &progress)
}

/// Carries steps out on what mine holds.
fn carried_out(steps: &MergeSteps, mine: &Files, trees: Three<&dyn Tree>) -> Files {
    let read = |tree: &dyn Tree, path: &TreePath| {
        String::from_utf8((*tree.contents(path).unwrap()).as_ref().to_vec()).unwrap()
    };
    let mut files = mine.clone();
    let paths: BTreeSet<&TreePath> = steps.plan.steps.iter().map(|step| &step.path).collect();
    assert_eq!(paths.len(), steps.plan.steps.len(), "no two steps are about one path");
    // What goes leaves before what comes.
    for step in &steps.plan.steps {
        if step.will == Item::Nothing && !matches!(step.was, Item::Folder { .. }) {
            assert!(files.remove(&step.path.to_text()).is_some(), "{:?} was there", step.path);
        }
        if let Some(from) = &step.moved_from {
            let text = files.remove(&from.to_text()).expect("what is moved is there");
            files.insert(step.path.to_text(), text);
        }
    }
    for step in steps.plan.steps.iter().filter(|step| step.moved_from.is_none()) {
        let Some(contents) = steps.contents.get(&step.path).filter(|_| matches!(step.will, Item::File { .. })) else {
            continue;
        };
        let text = match contents {
            StepContents::Mine(path) => read(trees.mine, path),
            StepContents::Theirs(path) => read(trees.theirs, path),
            StepContents::Bytes(bytes) => String::from_utf8(bytes.clone()).unwrap(),
        };
        if step.was == Item::Nothing {
            assert!(!files.contains_key(&step.path.to_text()), "nothing stands at {:?}", step.path);
        }
        files.insert(step.path.to_text(), text);
    }
    files
}

/// Merges three sets of files into mine, and carries that out.
fn result(base: &Files, mine: &Files, theirs: &Files, prefer: Option<Prefer>) -> (TreeMerge, Files) {
    let (base, of_mine, theirs) = (tree_of(base), tree_of(mine), tree_of(theirs));
    let trees = Three::<&dyn Tree>::new(&base, &of_mine, &theirs);
    let merge = merged(trees, prefer);
    let files = carried_out(&merge.steps_into_mine(trees, &labels()), mine, trees);
    // A new folder gets the same.
    let nothing = MemoryTree::new();
    let all = tree::compare(&nothing, &of_mine, &TreeOptions::default().counts(false), &Progress::default());
    let fresh = carried_out(&merge.steps_into_new(trees, &all, &labels()), &Files::new(), trees);
    assert_eq!(fresh, files, "into mine and into a new folder comes the same");
    (merge, files)
}

fn files(of: &[(&str, &str)]) -> Files {
    of.iter().map(|(path, text)| ((*path).to_owned(), (*text).to_owned())).collect()
}

/// A file that is known again where it moves.
fn long(name: &str) -> String {
    format!("{name}: this file is long enough\nto be known again\nwhere it moves\n")
}

#[test]
fn what_one_side_did_is_done_and_what_both_did_is_done_once() {
    let base = files(&[("a", "a\n"), ("b", "b\n"), ("c", &long("c")), ("d/e", "e\n")]);
    let mine = files(&[("a", "A\n"), ("b", "b\n"), ("moved", &long("c")), ("new", "same\n")]);
    let theirs = files(&[("a", "a\n"), ("b", "B\n"), ("c", &long("c")), ("new", "same\n"), ("other", "o\n")]);
    let (merge, found) = result(&base, &mine, &theirs, None);
    assert_eq!(found, files(&[("a", "A\n"), ("b", "B\n"), ("moved", &long("c")), ("new", "same\n"), ("other", "o\n")]));
    assert!(!merge.has_conflicts());
    let told = |path: &str| merge.entries.iter().find(|entry| entry.path.to_text() == path).unwrap();
    assert_eq!((told("a").together, told("new").together), (Together::OneSided, Together::Alike));
    assert_eq!((told("c").mine.status, told("c").theirs.status), (Status::Moved, Status::Same));
    assert_eq!(told("d/e").together, Together::Alike, "both removed it");
}

#[test]
fn an_edit_follows_a_file_that_the_other_side_moved() {
    let base = files(&[("old/name", &long("x"))]);
    let moved = files(&[("new/place", &long("x"))]);
    let edited = files(&[("old/name", &long("x").replace("again", "once more"))]);
    for (mine, theirs) in [(&moved, &edited), (&edited, &moved)] {
        let (merge, found) = result(&base, mine, theirs, None);
        assert_eq!(found, files(&[("new/place", &long("x").replace("again", "once more"))]));
        assert_eq!(merge.entries.len(), 1);
        assert_eq!(merge.entries[0].together, Together::Apart);
    }
}

#[test]
fn every_way_to_clash_is_told_and_loses_nothing() {
    type Held<'h> = &'h [(&'h str, &'h str)];
    let cases: [(Held<'_>, Held<'_>, Held<'_>, &str); 6] = [
        (&[("f", "1\n")], &[("f", "2\n")], &[("f", "3\n")], "Lines"),
        (&[("f", "1\n")], &[("f", "2\n")], &[], "ChangedAndRemoved"),
        (&[("f", "1\n")], &[], &[("f", "3\n")], "ChangedAndRemoved"),
        (&[], &[("f", "2\n")], &[("f", "3\n")], "BothAdded"),
        (&[], &[("f", "2\n")], &[("f/g", "3\n")], "FileAgainstFolder"),
        (&[("f", "\0")], &[("f", "\0a")], &[("f", "\0b")], "NotText"),
    ];
    for (base, mine, theirs, clash) in cases {
        let (merge, found) = result(&files(base), &files(mine), &files(theirs), None);
        let clashes: Vec<String> =
            merge.entries.iter().flat_map(|entry| &entry.clashes).map(|clash| format!("{clash:?}")).collect();
        assert!(clashes.iter().any(|told| told.starts_with(clash)), "{clash}: {clashes:?}");
        let all: String = found.values().cloned().collect();
        for (_, text) in mine.iter().chain(theirs) {
            assert!(all.contains(text), "{clash}: {text:?} is in {found:?}");
        }
    }
}

#[test]
fn files_that_both_moved_and_names_that_both_want_are_conflicts() {
    let base = files(&[("a", &long("a")), ("b", &long("b"))]);
    let (merge, found) = result(
        &base,
        &files(&[("x", &long("a")), ("b", &long("b"))]),
        &files(&[("y", &long("a")), ("b", &long("b"))]),
        None,
    );
    assert_eq!(merge.entries[0].clashes, [TreeClash::MovedApart("x".into(), "y".into())]);
    assert_eq!(found, files(&[("x", &long("a")), ("b", &long("b"))]), "that of mine stays");
    let (merge, found) = result(
        &base,
        &files(&[("c", &long("a")), ("b", &long("b"))]),
        &files(&[("a", &long("a")), ("c", &long("b"))]),
        None,
    );
    assert_eq!(merge.count(Together::Conflict), 2);
    assert_eq!(found["c"], long("a"));
    assert_eq!(found["c.theirs.conflict"], long("b"));
}

#[test]
fn a_side_that_is_preferred_decides_conflicts_and_nothing_else() {
    let base = files(&[("both", "1\n2\n3\n4\n5\n"), ("gone", "g\n"), ("bin", "\0")]);
    let mine = files(&[("both", "m\n2\n3\n4\nmine\n"), ("gone", "edited\n"), ("bin", "\0m"), ("added", "m\n")]);
    let theirs = files(&[("both", "1\n2\n3\n4\ntheirs\n"), ("bin", "\0t"), ("added", "t\n")]);
    let (merge, found) = result(&base, &mine, &theirs, Some(Prefer::Theirs));
    assert!(!merge.has_conflicts());
    assert_eq!(found, files(&[("both", "m\n2\n3\n4\ntheirs\n"), ("bin", "\0t"), ("added", "t\n")]));
    let (_, found) = result(&base, &mine, &theirs, Some(Prefer::Mine));
    assert_eq!(found, mine, "all that theirs did clashes");
}

#[test]
fn permissions_are_merged_as_a_value() {
    let tree = |mode: u32, text: &str| MemoryTree::new().file_with_mode("run", text.as_bytes(), mode);
    let (base, mine, theirs) = (tree(0o644, "a\n"), tree(0o644, "b\n"), tree(0o755, "a\n"));
    let merge = merged(Three::new(&base, &mine, &theirs), None);
    let entry = &merge.entries[0];
    assert_eq!((entry.together, &entry.plan.source, entry.plan.mode), (Together::Apart, &Source::Mine, Some(0o755)));
    let clash = merged(Three::new(&base, &tree(0o600, "a\n"), &theirs), None);
    assert_eq!(clash.entries[0].together, Together::Conflict);
    assert_eq!(clash.entries[0].plan.beside, Beside::Nothing);
}

#[test]
fn what_cannot_be_read_is_a_conflict_that_nobody_decides() {
    let (base, mine) = (MemoryTree::new().file("f", "1\n"), MemoryTree::new().file("f", "2\n"));
    let theirs = MemoryTree::new().unreadable("f");
    for prefer in [None, Some(Prefer::Theirs)] {
        let merge = merged(Three::new(&base, &mine, &theirs), prefer);
        assert!(matches!(&merge.entries[0].clashes[..], [TreeClash::Unreadable(_)]), "{:?}", merge.entries);
        assert!(merge.has_conflicts() && !merge.entries[0].changes_mine());
        assert_eq!(merge.unreadable().count(), 1);
    }
}

/// Small trees with few names and few contents, so that sides meet often.
fn some_files() -> impl Strategy<Value = Files> {
    let name = prop::sample::select(vec!["a", "b", "c", "d/e", "d/f", "g/h/i"]);
    let text = prop::sample::select(vec!["one\n", "two\n", "one\ntwo\nthree\n", "one\n2\nthree\n", "\0bytes"]);
    prop::collection::btree_map(name.prop_map(str::to_owned), text.prop_map(str::to_owned), 0..6)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn a_side_that_did_nothing_leaves_the_other(base in some_files(), side in some_files()) {
        prop_assert_eq!(result(&base, &base, &side, None).1, side.clone());
        prop_assert_eq!(result(&base, &side, &base, None).1, side.clone());
        let (merge, found) = result(&base, &side, &side, None);
        prop_assert_eq!(found, side);
        prop_assert!(!merge.has_conflicts());
    }

    #[test]
    fn mirrored_trees_have_mirrored_conflicts(base in some_files(), mine in some_files(), theirs in some_files()) {
        let (one, found) = result(&base, &mine, &theirs, None);
        let (other, mirrored) = result(&base, &theirs, &mine, None);
        prop_assert_eq!(one.has_conflicts(), other.has_conflicts());
        prop_assert_eq!(one.entries.len(), other.entries.len());
        if !one.has_conflicts() {
            prop_assert_eq!(found, mirrored);
        }
    }

    #[test]
    fn whatever_clashes_every_step_can_be_taken(base in some_files(), mine in some_files(), theirs in some_files()) {
        for prefer in [None, Some(Prefer::Mine), Some(Prefer::Theirs)] {
            // The steps are carried out with a look at what stands there.
            let (merge, found) = result(&base, &mine, &theirs, prefer);
            // What mine alone has, or changed, and theirs left alone, is there as it is.
            let is_plain = merge.entries.iter().all(|entry| {
                entry.clashes.is_empty() && ![entry.mine.status, entry.theirs.status].contains(&Status::Moved)
            });
            for (path, text) in &mine {
                if is_plain && theirs.get(path) == base.get(path) {
                    prop_assert!(found.values().any(|found| found == text), "{} is lost", path);
                }
            }
        }
    }
}
