//! Planning to make one tree like another.

use std::collections::BTreeSet;
use std::path::Path;
use std::time::{Duration, SystemTime};

use proptest::prelude::*;
use tideline_core::internal::plan::{
    Contents, ExpectedState, Moment, Reason, Side, Stamp, Step, SyncMode, SyncOptions, SyncPlan, Verb, plan_sync,
};
use tideline_core::internal::tree::{MemoryTree, Progress, TreeOptions, TreePath, compare};

fn planned(into: &MemoryTree, from: &MemoryTree, options: &SyncOptions) -> SyncPlan {
    let comparison = compare(into, from, &TreeOptions::default().counts(false), &Progress::default());
    plan_sync(&comparison, (into, from), options)
}

/// Each step as a verb and a path.
fn told(plan: &SyncPlan) -> Vec<String> {
    plan.steps.iter().map(|step| format!("{:?} {}", step.verb(), String::from_utf8_lossy(&step.path))).collect()
}

fn undecided(plan: &SyncPlan) -> Vec<(String, Reason)> {
    let text = |path: &[u8]| String::from_utf8_lossy(path).into_owned();
    plan.undecided.iter().map(|one| (text(&one.path), one.reason.clone())).collect()
}

fn mirror() -> SyncOptions {
    SyncOptions::default().mirror(true)
}

#[test]
fn new_and_changed_files_are_copied_into_folders_that_are_made() {
    let into = MemoryTree::new().file("same", "1").file("changed", "old");
    let from =
        MemoryTree::new().file("same", "1").file("changed", "new!").file("a/b/new", "x").link("l", "same").folder("e");
    let plan = planned(&into, &from, &SyncOptions::default());
    assert_eq!(
        told(&plan),
        ["MakeFolder a", "MakeFolder a/b", "Copy a/b/new", "Replace changed", "MakeFolder e", "Copy l"]
    );
    assert_eq!((plan.left.same, plan.total(Verb::Copy), plan.total(Verb::Replace)), (1, (2, 1), (1, 4)));
    assert!(told(&planned(&from, &from, &mirror())).is_empty());
}

#[test]
fn what_only_one_tree_has_goes_only_when_it_mirrors() {
    let into = MemoryTree::new().file("gone", "a").file("f/g", "b").file("f/h/i", "c").file("keep", "d");
    let from = MemoryTree::new().file("keep", "d");
    let plan = planned(&into, &from, &SyncOptions::default());
    assert_eq!((told(&plan), plan.left.extra), (vec![], 3));
    let plan = planned(&into, &from, &mirror());
    assert_eq!(told(&plan), ["RemoveFolder f", "Remove f/g", "RemoveFolder f/h", "Remove f/h/i", "Remove gone"]);
}

#[test]
fn a_file_that_moved_is_moved_only_where_it_is_the_same_and_into_mirrors() {
    let text = "one\ntwo\nthree\nfour\nfive\n";
    let into = MemoryTree::new().file("old/a", text).file("old/b", text.replace("one", "eins"));
    let from = MemoryTree::new().file("new/a", text).file("new/b", text.replace("one", "uno"));
    let plan = planned(&into, &from, &mirror());
    assert_eq!(told(&plan), ["MakeFolder new", "Move new/a", "Copy new/b", "RemoveFolder old", "Remove old/b"]);
    let plain = planned(&into, &from, &SyncOptions::default());
    assert_eq!(
        (told(&plain), plain.left.extra),
        (vec!["MakeFolder new".into(), "Copy new/a".into(), "Copy new/b".into()], 2)
    );
    let steps = plan.steps_below(Path::new("/into"), Path::new("/from")).steps;
    let is_move = |step: &Step| matches!(step, Step::Move { from, path, .. } if from == Path::new("/into/old/a") && path == Path::new("/into/new/a"));
    assert!(steps.iter().any(is_move));
    let is_copy = |step: &Step| matches!(step, Step::Write { path, contents: Contents::CopyOf(from, Some(_)), .. } if from == Path::new("/from/new/b") && path == Path::new("/into/new/b"));
    assert!(steps.iter().any(is_copy));
    assert!(steps.iter().any(|step| matches!(step, Step::Remove { path, .. } if path == Path::new("/into/old/b"))));
}

#[test]
fn what_becomes_something_else_is_replaced_but_no_folder_goes_unasked() {
    let into = MemoryTree::new().file("x", "file").file("y/in", "1").file("y/deep/in", "2").link("z", "x");
    let from = MemoryTree::new().file("x/in", "file").file("y", "file").file("z", "file");
    let plan = planned(&into, &from, &SyncOptions::default());
    assert_eq!(told(&plan), ["MakeFolder x", "Copy x/in", "Replace z"]);
    assert_eq!(undecided(&plan), [("y".to_owned(), Reason::FolderInPlace)]);
    let plan = planned(&into, &from, &mirror());
    assert_eq!(
        told(&plan),
        [
            "MakeFolder x",
            "Copy x/in",
            "Replace y",
            "RemoveFolder y/deep",
            "Remove y/deep/in",
            "Remove y/in",
            "Replace z"
        ]
    );
    let steps = plan.steps_below(Path::new("/i"), Path::new("/f")).steps;
    let in_place_of_a_folder = |step: &Step| matches!(step, Step::Write { path, expected: ExpectedState::Folder, .. } if path == Path::new("/i/y"));
    assert!(steps.iter().any(in_place_of_a_folder));
}

#[test]
fn both_ways_removes_and_copies_nothing_that_one_side_lacks() {
    let into = MemoryTree::new().file("both", "1").file("here", "2");
    let from = MemoryTree::new().file("both", "3").file("there", "4");
    let plan = planned(&into, &from, &SyncOptions::default().mode(SyncMode::BothWays));
    assert!(told(&plan).is_empty());
    let paths: Vec<String> = undecided(&plan).into_iter().map(|(path, _)| path).collect();
    assert_eq!(paths, ["both", "here", "there"], "trees without times tell nothing of what is newer");
    assert!(plan.steps.iter().all(|step| step.side == Side::Into));
}

#[test]
fn an_unreadable_pair_is_trouble_and_the_rest_goes_on() {
    let into = MemoryTree::new().file("shut", "1").file("open", "2");
    let from = MemoryTree::new().unreadable("shut").file("open", "3!");
    let plan = planned(&into, &from, &mirror());
    assert_eq!(told(&plan), ["Replace open"]);
    assert!(plan.undecided.iter().all(|one| one.is_trouble && one.path == TreePath::from("shut")));
    assert!(matches!(plan.undecided[0].reason, Reason::Unreadable(Some(Side::From), _)));
}

fn random_tree() -> impl Strategy<Value = MemoryTree> {
    let path = prop::sample::select(vec!["a", "b", "c/d", "c/e", "f/g/h", "f/g/i", "j"]);
    let text = (0..4_usize).prop_map(|count| "line\n".repeat(count));
    prop::collection::btree_map(path, (text, 0..6_u8), 0..7).prop_map(|entries| {
        entries.into_iter().fold(MemoryTree::new(), |tree, (path, (text, entry_type))| match entry_type {
            0 => tree.link(path, "nowhere"),
            1 => tree.folder(path),
            _ => tree.file(path, text),
        })
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    /// No path is written twice, every folder stands before what comes into it, and nothing is removed without being asked for.
    #[test]
    fn plans_hold_together(into in random_tree(), from in random_tree(), mirrors in any::<bool>()) {
        let plan = planned(&into, &from, &SyncOptions::default().mirror(mirrors));
        let mut seen = BTreeSet::new();
        for step in &plan.steps {
            prop_assert!(seen.insert(step.path.clone()), "{} twice", String::from_utf8_lossy(&step.path));
            let removes = matches!(step.verb(), Verb::Remove | Verb::RemoveFolder);
            prop_assert!(mirrors || !removes);
        }
        let mut sorted = plan.steps.clone();
        sorted.sort_by(|one, other| one.path.cmp(&other.path));
        prop_assert_eq!(&sorted, &plan.steps);
    }

    /// Moments go there and back, before 1970 too.
    #[test]
    fn moments_are_kept(seconds in -10_000_000_000_i64..10_000_000_000, nanos in 0..1_000_000_000_u32) {
        let moment = Moment(seconds, nanos);
        prop_assert_eq!(Moment::from(SystemTime::from(moment)), moment);
    }
}

#[test]
fn a_stamp_is_believed_only_when_a_later_change_would_show() {
    let read = SystemTime::UNIX_EPOCH + Duration::from_secs(1000);
    let stamp = |before: Duration| {
        let moment = Some(Moment::from(read - before));
        Stamp { size: 1, modified: moment, changed: moment }
    };
    assert!(stamp(Duration::from_secs(1)).is_conclusive(read));
    assert!(
        !stamp(Duration::from_millis(10)).is_conclusive(read),
        "another change within one step of the clock would not show"
    );
    assert!(!Stamp { changed: None, ..stamp(Duration::from_secs(1)) }.is_conclusive(read));
}
