//! Every step of a run fails once, in every way; nothing is ever lost.

use std::fs;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use tideline_journal::{JournalError, Progress, Settled};

use crate::support::{Case, Fault, Faulty, differences};

const NONE: [String; 0] = [];

/// How many writing steps the whole run takes.
fn steps() -> usize {
    let case = Case::new();
    let steps = Arc::new(AtomicUsize::new(0));
    let counting = Faulty { at: usize::MAX, fault: Fault::Error, steps: Arc::clone(&steps) };
    case.journal_on(Box::new(counting)).carry_out(&case.great_plan(), "test").unwrap();
    steps.load(Ordering::SeqCst)
}

fn faulty(at: usize, fault: Fault) -> Box<Faulty> {
    Box::new(Faulty { at, fault, steps: Arc::new(AtomicUsize::new(0)) })
}

#[test]
fn a_step_that_fails_leaves_everything_as_it_was() {
    for at in 0..steps() {
        let case = Case::new();
        let before = case.contained();
        let result = case.journal_on(faulty(at, Fault::Error)).carry_out(&case.great_plan(), "test");
        match result {
            Err(JournalError::Failed { settled: Settled::AsBefore, .. }) => {}
            Err(JournalError::Failed { settled: Settled::Open(run), .. }) => {
                assert_eq!(at + 1, steps(), "only the last step, the record of the end, leaves a run behind");
                case.journal().undo(run, "undo", false).unwrap();
            }
            other => panic!("step {at}: {other:?}"),
        }
        assert!(case.journal().open_runs().unwrap().is_empty(), "step {at}");
        assert_eq!(differences(&case.contained(), &before), NONE, "step {at}");
    }
}

#[test]
fn a_disk_that_fails_for_good_leaves_a_run_that_can_be_undone() {
    for at in 0..steps() {
        let case = Case::new();
        let before = case.contained();
        let error =
            case.journal_on(faulty(at, Fault::ErrorsFromThen)).carry_out(&case.great_plan(), "test").unwrap_err();
        if let JournalError::Failed { settled: Settled::Open(run), .. } = error {
            case.journal().undo(run, "undo", false).unwrap();
        }
        assert!(case.journal().open_runs().unwrap().is_empty());
        let mut after = case.contained();
        // A folder whose time cannot be set keeps the one it has.
        after.extend(before.get_key_value(&case.root()).map(|(root, time)| (root.clone(), time.clone())));
        // What was written beside its place and could not be swept away is named as ours, and is no file of anybody's.
        after.retain(|path, _| !path.iter().any(|name| name.to_string_lossy().starts_with(".tideline-")));
        assert_eq!(differences(&after, &before), NONE, "step {at}");
    }
}

#[test]
fn a_run_that_was_cut_off_can_be_undone_or_finished() {
    let wanted = {
        let case = Case::new();
        case.journal().carry_out(&case.great_plan(), "test").unwrap();
        case.contents()
    };
    let (mut undone, mut finished) = (0, 0);
    for at in 0..steps() {
        for finish in [false, true] {
            let case = Case::new();
            let (before, plan) = (case.contained(), case.great_plan());
            let journal = case.journal_on(faulty(at, Fault::End));
            let ended = catch_unwind(AssertUnwindSafe(|| journal.carry_out(&plan, "test")));
            assert!(ended.is_err(), "step {at} ends the program");
            drop(journal);
            let open = case.journal().open_runs().unwrap();
            let [record] = &open[..] else {
                // Cut off before the record was there, when nothing was touched; or after the record of the end.
                for done in case.journal().runs().unwrap() {
                    case.journal().undo(done.run, "undo", false).unwrap();
                }
                assert_eq!(differences(&case.contained(), &before), NONE, "step {at}");
                continue;
            };
            if finish && record.progress == Progress::Placing {
                case.journal().finish(record.run).unwrap();
                assert_eq!(differences(&case.contents(), &wanted), NONE, "step {at}");
                assert!(case.journal().open_runs().unwrap().is_empty());
                // What was finished is undone like any other run.
                case.journal().undo(record.run, "undo", false).unwrap();
                finished += 1;
            } else {
                case.journal().undo(record.run, "undo", false).unwrap();
                undone += 1;
            }
            assert_eq!(differences(&case.contained(), &before), NONE, "step {at}");
        }
    }
    assert!(undone > 5 && finished > 5, "{undone} undone, {finished} finished");
}

#[test]
fn an_undoing_that_was_cut_off_can_be_undone_or_finished_too() {
    for at in 0..90 {
        let case = Case::new();
        let before = case.contained();
        let run = case.journal().carry_out(&case.great_plan(), "test").unwrap().unwrap();
        let after = case.contents();
        let journal = case.journal_on(faulty(at, Fault::End));
        if catch_unwind(AssertUnwindSafe(|| journal.undo(run, "undo", false))).is_ok() {
            assert_eq!(case.contained(), before);
            return;
        }
        drop(journal);
        for open in case.journal().open_runs().unwrap() {
            case.journal().undo(open.run, "undo", false).unwrap();
        }
        let now = case.contents();
        let whole = now == after || case.contained() == before;
        assert!(whole, "step {at}: {:#?}", differences(&case.contained(), &before));
    }
    panic!("an undoing has no more than ninety steps");
}

#[test]
fn what_can_be_done_is_done_and_the_rest_is_named() {
    let watched = tideline_core::tree::Progress::default();
    let (mut partly, mut not_at_all) = (0, 0);
    for fault in [Fault::Error, Fault::ErrorsFromThen] {
        for at in 0..steps() {
            let case = Case::new();
            let before = case.contained();
            let result = case.journal_on(faulty(at, fault)).carry_out_what_can_be(&case.great_plan(), "test", &watched);
            match result {
                Ok(carried) => {
                    assert!(!carried.left_out.is_empty(), "step {at} left something out");
                    if let Some(run) = carried.run {
                        case.journal().undo(run, "undo", false).unwrap();
                        partly += 1;
                    }
                }
                Err(JournalError::Failed { settled: Settled::Open(run), .. }) => {
                    case.journal().undo(run, "undo", false).unwrap();
                }
                Err(JournalError::Failed { settled: Settled::AsBefore, .. }) => not_at_all += 1,
                other => panic!("step {at}: {other:?}"),
            }
            assert!(case.journal().open_runs().unwrap().is_empty(), "step {at}");
            let mut after = case.contained();
            if fault == Fault::ErrorsFromThen {
                after.extend(before.get_key_value(&case.root()).map(|(root, time)| (root.clone(), time.clone())));
            }
            after.retain(|path, _| !path.iter().any(|name| name.to_string_lossy().starts_with(".tideline-")));
            assert_eq!(differences(&after, &before), NONE, "step {at}, {fault:?}");
        }
    }
    assert!(partly > 20 && not_at_all > 5, "{partly} partly, {not_at_all} not at all");
}

#[test]
fn a_step_that_is_not_as_planned_is_left_out_with_what_depends_on_it() {
    let case = Case::new();
    let plan = case.great_plan();
    fs::write(case.path("script"), "somebody else\n").unwrap();
    fs::create_dir(case.path("new")).unwrap();
    fs::write(case.path("new/file"), "mine\n").unwrap();
    let watched = tideline_core::tree::Progress::default();
    let carried = case.journal().carry_out_what_can_be(&plan, "test", &watched).unwrap();
    let told: Vec<_> = carried.left_out.iter().map(|one| (one.path.clone(), one.reason.as_str())).collect();
    assert_eq!(
        told,
        [(case.path("new"), "is a folder"), (case.path("script"), "was changed since the plan was made")],
        "what goes into the folder is not told again"
    );
    assert_eq!(fs::read(case.path("new/file")).unwrap(), b"mine\n");
    assert_eq!(fs::read(case.path("script")).unwrap(), b"somebody else\n");
    assert_eq!(fs::read(case.path("changed")).unwrap(), b"changed as it will be\n");
}
