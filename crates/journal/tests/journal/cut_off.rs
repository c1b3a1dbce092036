//! Every call of a run fails, ends the program, or loses the power, once each; then the run is undone, finished, or both.

use tideline_journal::{Aftermath, JournalError, Policy};

use crate::cases::{alone, carried, great_plan, journal, target};
use crate::model::{Fault, Memory};

/// How many calls the whole run takes.
fn calls(policy: Policy) -> usize {
    let memory = target();
    let plan = great_plan(&memory);
    memory.expect(None, &[]);
    let outcome = carried(&memory, &plan, policy).unwrap().unwrap();
    assert_eq!((outcome.run, outcome.left_out.len()), (Some(1), 0));
    memory.calls()
}

fn after() -> Memory {
    let memory = target();
    carried(&memory, &great_plan(&memory), Policy::AllOrNothing).unwrap().unwrap();
    memory
}

/// Undoes what is open, and all that is done, until nothing is left to be undone.
fn undo_everything(memory: &Memory) {
    memory.expect(None, &[]);
    for _ in 0..4 {
        let open = alone(|| journal(memory).open_runs()).unwrap().unwrap();
        let run = match open.last() {
            Some((run, _)) => Some(*run),
            None => alone(|| journal(memory).last_run()).unwrap().unwrap(),
        };
        let Some(run) = run else { return };
        let undone = alone(|| journal(memory).undo(run, "undo", false)).unwrap().unwrap();
        assert_eq!(undone.in_the_way, [], "{:?}", memory.contents().keys());
    }
    panic!("there is always one more run");
}

#[test]
fn a_whole_run_does_all_and_its_undo_brings_all_back() {
    let memory = target();
    let before = memory.held();
    let wanted = after().contents();
    carried(&memory, &great_plan(&memory), Policy::AllOrNothing).unwrap().unwrap();
    assert_eq!(memory.contents(), wanted);
    assert!(!memory.has_temporary());
    let undone = alone(|| journal(&memory).undo(1, "undo", false)).unwrap().unwrap();
    assert_eq!((undone.by, undone.in_the_way), (Some(2), vec![]));
    assert_eq!(memory.held(), before);
    // An undoing can be undone in turn.
    alone(|| journal(&memory).undo(2, "undo", false)).unwrap().unwrap();
    assert_eq!(memory.contents(), wanted);
    assert_eq!(memory.broken_law(), None);
}

#[test]
fn a_call_that_fails_leaves_everything_as_it_was() {
    let wanted = after().contents();
    for fault in [Fault::Error, Fault::ErrorsFromThen] {
        for at in 0..calls(Policy::AllOrNothing) {
            let memory = target();
            let (before, plan) = (memory.held(), great_plan(&memory));
            memory.expect(Some((at, fault)), &[]);
            let result = carried(&memory, &plan, Policy::AllOrNothing).unwrap();
            memory.expect(None, &[]);
            match result {
                // A call that only makes something better, that is tried again, or that comes after all was done.
                Ok(outcome) => {
                    let all = memory.contents() == wanted || !outcome.notes.is_empty();
                    assert!(outcome.run == Some(1) && all, "call {at}");
                }
                Err(JournalError::Failed { aftermath: Aftermath::AsBefore, .. }) if fault == Fault::Error => {
                    let open = alone(|| journal(&memory).open_runs()).unwrap().unwrap();
                    assert!(open.is_empty(), "call {at}");
                }
                Err(_) => {}
            }
            undo_everything(&memory);
            let mut now = memory.held();
            // A folder whose time could not be set keeps the one it has.
            for (path, (_, _, time)) in &mut now {
                *time = before.get(path).map_or(*time, |(_, _, before)| *before);
            }
            assert_eq!(now, before, "call {at}, {fault:?}");
            assert_eq!(memory.broken_law(), None, "call {at}, {fault:?}");
        }
    }
}

#[test]
fn a_run_that_is_cut_off_can_be_undone_or_finished() {
    let wanted = after().contents();
    let (mut undone, mut finished) = (0, 0);
    for at in 0..calls(Policy::AllOrNothing) {
        for finish in [false, true] {
            let memory = target();
            let (before, plan) = (memory.held(), great_plan(&memory));
            memory.expect(Some((at, Fault::End)), &[]);
            assert!(carried(&memory, &plan, Policy::AllOrNothing).is_none(), "call {at} ends the program");
            memory.expect(None, &[]);
            let result =
                if finish { alone(|| journal(&memory).finish(1)).unwrap() } else { Err(JournalError::NoRun(1)) };
            if let Ok(done) = result {
                assert_eq!(done.in_the_way, [], "call {at}");
                assert_eq!(memory.contents(), wanted, "call {at}");
                assert!(!memory.has_temporary(), "call {at}");
                finished += 1;
            } else {
                undone += 1;
            }
            undo_everything(&memory);
            assert_eq!(memory.held(), before, "call {at}");
            assert_eq!(memory.broken_law(), None);
        }
    }
    assert!(undone > 50 && finished > 50, "{undone} undone, {finished} finished");
}

#[test]
fn undoing_and_finishing_can_be_cut_off_and_mixed() {
    let wanted = after().contents();
    let all = calls(Policy::AllOrNothing);
    for at in (0..all).step_by(13) {
        for (first, second) in [(false, false), (false, true), (true, false), (true, true)] {
            let (mut before, mut then) = (None, 0);
            loop {
                let memory = target();
                before.get_or_insert_with(|| memory.held());
                let plan = great_plan(&memory);
                memory.expect(Some((at, Fault::End)), &[]);
                carried(&memory, &plan, Policy::AllOrNothing);
                let recover = |finish: bool| match finish {
                    false => alone(|| journal(&memory).undo(1, "undo", false).map(|undone| undone.in_the_way)),
                    true => alone(|| journal(&memory).finish(1).map(|finished| finished.in_the_way)),
                };
                memory.expect(Some((then, Fault::End)), &[]);
                let cut_off = recover(first).is_none();
                memory.expect(None, &[]);
                if let Some(Ok(in_the_way)) = recover(second) {
                    assert_eq!(in_the_way, [], "call {at}, then {then}, {first} {second}");
                    if second {
                        assert_eq!(memory.contents(), wanted, "call {at}, then {then}, {first} {second}");
                    }
                }
                undo_everything(&memory);
                assert_eq!(Some(memory.held()), before, "call {at}, then {then}, {first} {second}");
                assert_eq!(memory.broken_law(), None);
                if !cut_off {
                    break;
                }
                then += 17;
            }
        }
    }
}

#[test]
fn an_undoing_of_a_run_that_is_done_can_be_cut_off() {
    let mut at = 0;
    loop {
        let memory = target();
        let before = memory.held();
        carried(&memory, &great_plan(&memory), Policy::AllOrNothing).unwrap().unwrap();
        memory.expect(Some((at, Fault::End)), &[]);
        let cut_off = alone(|| journal(&memory).undo(1, "undo", false)).is_none();
        undo_everything(&memory);
        assert_eq!(memory.held(), before, "call {at}");
        assert_eq!(memory.broken_law(), None);
        if !cut_off {
            assert!(at > 50);
            return;
        }
        at += 1;
    }
}

#[test]
fn a_loss_of_power_leaves_a_run_that_can_be_undone() {
    for at in 0..calls(Policy::AllOrNothing) {
        for choice in [0, 5] {
            let memory = target();
            let (before, plan) = (memory.contents(), great_plan(&memory));
            memory.expect(Some((at, Fault::PowerLoss(choice))), &[]);
            carried(&memory, &plan, Policy::AllOrNothing);
            undo_everything(&memory);
            let mut now = memory.contents();
            now.retain(|path, _| !path.to_string_lossy().contains(".tideline-"));
            assert_eq!(now, before, "call {at}, choice {choice}");
            assert_eq!(memory.broken_law(), None, "call {at}, choice {choice}");
        }
    }
}

#[test]
fn what_can_be_done_is_done_and_the_rest_is_named() {
    let (mut partly, mut not_at_all) = (0, 0);
    for at in 0..calls(Policy::WhatCanBe) {
        let memory = target();
        let (before, plan) = (memory.contents(), great_plan(&memory));
        memory.expect(Some((at, Fault::Error)), &[]);
        if let Ok(outcome) = carried(&memory, &plan, Policy::WhatCanBe).unwrap() {
            partly += usize::from(!outcome.left_out.is_empty());
        } else {
            not_at_all += 1;
        }
        undo_everything(&memory);
        assert_eq!(memory.contents(), before, "call {at}");
        assert!(!memory.has_temporary(), "call {at}");
        assert_eq!(memory.broken_law(), None);
    }
    assert!(partly > 20 && not_at_all > 5, "{partly} partly, {not_at_all} not at all");
}
