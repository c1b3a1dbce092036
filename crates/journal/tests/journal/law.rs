//! The law: every byte that ever stood in the target, whoever wrote it, is in the target or in the journal, and nothing outside
//! changed. Random plans, while other programs act between any two calls, and any call may fail, end the program or lose the power.

use std::env;

use proptest::prelude::*;
use tideline_core::internal::plan::{ExpectedState, FileAttributes, Plan, Step};
use tideline_journal::Policy;

use crate::cases::{alone, carried, expected, journal, path, planned, target};
use crate::model::{ACTS, Act, Fault, Memory};

/// One thing that is wanted of a target.
#[derive(Clone, Copy, Debug)]
enum Want {
    Write(u8),
    WriteInNewFolder(u8),
    Remove(u8),
    Move(u8, bool),
    RemoveFolder(bool),
    FileBecomesFolder(u8),
    FolderBecomesFile(bool),
}

const FILES: [&str; 8] = ["a", "b", "c", "d", "f/in", "h/in", "moves", "edits"];

fn steps(memory: &Memory, want: Want) -> Vec<Step> {
    let file = |choice: u8| FILES[usize::from(choice) % FILES.len()];
    let write = |name: &str, expected: ExpectedState| Step::write(path(name), expected, planned(name));
    let remove = |name: &str| Step::Remove { path: path(name), expected: expected(memory, name) };
    let emptied = |name: &str| match name {
        "goes" => vec![remove("goes/one"), remove("goes/deep/two"), Step::RemoveFolder { path: path("goes/deep") }],
        _ => vec![remove("f/in"), remove("f/g/deep"), Step::RemoveFolder { path: path("f/g") }],
    };
    let folder = |goes: bool| if goes { "goes" } else { "f" };
    match want {
        Want::Write(choice) => vec![write(file(choice), expected(memory, file(choice)))],
        Want::WriteInNewFolder(choice) => {
            let name = format!("new/{}", choice % 3);
            vec![Step::new_folder(path("new")), write(&name, ExpectedState::Nothing)]
        }
        Want::Remove(choice) => vec![remove(file(choice))],
        Want::Move(choice, edited) => vec![Step::Move {
            from: path(file(choice)),
            path: path(&format!("h/moved-{}", choice % 3)),
            expected: expected(memory, file(choice)),
            contents: edited.then(|| planned("moved")),
            attributes: FileAttributes::default(),
        }],
        Want::RemoveFolder(goes) => {
            let mut steps = emptied(folder(goes));
            steps.push(Step::RemoveFolder { path: path(folder(goes)) });
            steps
        }
        Want::FileBecomesFolder(choice) => {
            let name = file(choice);
            let made = Step::MakeFolder {
                path: path(name),
                expected: expected(memory, name),
                like: None,
                attributes: FileAttributes::default(),
            };
            vec![made, write(&format!("{name}/inside"), ExpectedState::Nothing)]
        }
        Want::FolderBecomesFile(goes) => {
            let mut steps = emptied(folder(goes));
            steps.push(write(folder(goes), ExpectedState::Folder));
            steps
        }
    }
}

/// A plan of what is wanted, as far as its steps do not meet.
fn plan(memory: &Memory, wants: &[Want]) -> Plan {
    let mut plan = Plan { roots: vec!["/target".into()], ..Plan::default() };
    for want in wants {
        for step in steps(memory, *want) {
            let meets = step.paths().any(|path| plan.steps.iter().flat_map(Step::paths).any(|other| other == path));
            if !meets {
                plan.steps.push(step);
            }
        }
    }
    plan
}

/// What a person does with the journal.
#[derive(Clone, Copy, Debug)]
enum Action {
    Carry(bool),
    Undo(bool),
    Finish,
}

#[derive(Clone, Debug)]
struct Chapter {
    deed: Action,
    wants: Vec<Want>,
    acts: Vec<(usize, Act, u8)>,
    fault: Option<(usize, Fault)>,
}

fn want() -> impl Strategy<Value = Want> {
    prop_oneof![
        3 => any::<u8>().prop_map(Want::Write),
        2 => any::<u8>().prop_map(Want::WriteInNewFolder),
        3 => any::<u8>().prop_map(Want::Remove),
        2 => any::<(u8, bool)>().prop_map(|(choice, edited)| Want::Move(choice, edited)),
        1 => any::<bool>().prop_map(Want::RemoveFolder),
        1 => any::<u8>().prop_map(Want::FileBecomesFolder),
        1 => any::<bool>().prop_map(Want::FolderBecomesFile),
    ]
}

fn chapter() -> impl Strategy<Value = Chapter> {
    let deed = prop_oneof![
        4 => any::<bool>().prop_map(Action::Carry),
        3 => prop::bool::weighted(0.3).prop_map(Action::Undo),
        1 => Just(Action::Finish),
    ];
    let acts = prop::collection::vec((0..220_usize, prop::sample::select(ACTS.to_vec()), any::<u8>()), 0..6);
    let fault = prop_oneof![
        3 => Just(None),
        1 => (0..220_usize).prop_map(|at| Some((at, Fault::Error))),
        1 => (0..220_usize).prop_map(|at| Some((at, Fault::ErrorsFromThen))),
        3 => (0..220_usize).prop_map(|at| Some((at, Fault::End))),
        2 => (0..220_usize, any::<u8>()).prop_map(|(at, choice)| Some((at, Fault::PowerLoss(choice)))),
    ];
    (deed, prop::collection::vec(want(), 1..7), acts, fault).prop_map(|(deed, wants, acts, fault)| Chapter {
        deed,
        wants,
        acts,
        fault,
    })
}

/// Lets one chapter happen; how many calls it took.
fn happen(memory: &Memory, chapter: &Chapter) -> usize {
    memory.expect(None, &[]);
    let plan = plan(memory, &chapter.wants);
    let open = alone(|| journal(memory).open_runs()).unwrap().unwrap_or_default();
    let last =
        open.last().map(|(run, _)| *run).or_else(|| alone(|| journal(memory).last_run()).unwrap().ok().flatten());
    memory.expect(chapter.fault, &chapter.acts);
    // Whatever comes of it, the law holds.
    match (chapter.deed, last) {
        (Action::Carry(tolerant), _) => {
            let policy = if tolerant { Policy::WhatCanBe } else { Policy::AllOrNothing };
            drop(carried(memory, &plan, policy));
        }
        (Action::Undo(force), Some(run)) => drop(alone(|| journal(memory).undo(run, "undo", force))),
        (Action::Finish, Some(run)) => drop(alone(|| journal(memory).finish(run))),
        (_, None) => {}
    }
    memory.calls()
}

fn cases() -> u32 {
    env::var("TIDELINE_TRIAL_CASES").ok().and_then(|cases| cases.parse().ok()).unwrap_or(250)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: cases(), max_shrink_iters: 3000, ..ProptestConfig::default() })]

    #[test]
    fn nothing_is_ever_lost(chapters in prop::collection::vec(chapter(), 1..6)) {
        let memory = target();
        let mut calls = 0;
        for (number, chapter) in chapters.iter().enumerate() {
            calls += happen(&memory, chapter);
            let broken = memory.broken_law();
            prop_assert!(broken.is_none(), "after chapter {number}: {}", broken.unwrap_or_default());
        }
        count(calls);
    }
}

/// Counts the calls of all cases, for who runs many.
fn count(calls: usize) {
    use std::sync::atomic::{AtomicUsize, Ordering};
    static ALL: AtomicUsize = AtomicUsize::new(0);
    let all = ALL.fetch_add(calls, Ordering::Relaxed) + calls;
    if env::var_os("TIDELINE_TRIAL_CASES").is_some() && all / 100_000 > (all - calls) / 100_000 {
        eprintln!("{all} calls");
    }
}

/// For a moment a new folder stands in the place of one that turns out not to be empty, and goes back: what somebody put into it in
/// that moment is kept.
#[test]
fn what_somebody_puts_into_a_folder_that_is_taken_back_is_kept() {
    let becomes = |choice: u8, acts: Vec<(usize, Act, u8)>, tolerant: bool| Chapter {
        deed: Action::Carry(tolerant),
        wants: vec![Want::FileBecomesFolder(choice)],
        acts,
        fault: None,
    };
    for at in 0..80 {
        let memory = target();
        happen(&memory, &becomes(6, Vec::new(), false));
        happen(&memory, &becomes(6, vec![(at, Act::Replace, 208)], true));
        assert_eq!(memory.broken_law(), None, "somebody acts at call {at}");
    }
}
