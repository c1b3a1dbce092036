//! Runs, undoing, and what is refused.

use std::fs;
use std::os::unix::fs::symlink;
use std::time::Duration;

use tideline_core::plan::{Contents, Plan, Standing, Step};
use tideline_journal::{JournalError, Progress};

use crate::support::Case;

#[test]
fn a_run_does_what_the_plan_says_and_can_be_undone_in_turn() {
    let case = Case::new();
    let before = case.contained();
    let journal = case.journal();
    let run = journal.carry_out(&case.plan(), "apply x.patch").unwrap().unwrap();
    let after = case.contained();
    assert_eq!(fs::read(case.path("changed")).unwrap(), b"changed as it will be\n");
    assert_eq!(fs::read(case.path("new/file")).unwrap(), b"new/file as it will be\n");
    assert_eq!(after[&case.path("script")].2, 0o755, "the permissions stay");
    assert!(!case.path("removed").exists());
    assert_eq!(after.len(), before.len() + 1, "nothing else is left behind");

    let undoing = journal.undo(run, "undo 1", false).unwrap().unwrap();
    assert_eq!(case.contained(), before, "bytes, permissions and times are back");
    let runs = journal.runs().unwrap();
    let told: Vec<_> = runs.iter().map(|run| (run.run, run.progress, run.undoes, run.undone_by)).collect();
    assert_eq!(told, [(1, Progress::Done, None, Some(2)), (2, Progress::Done, Some(1), None)]);
    assert!(journal.undo(run, "undo", false).unwrap_err().to_string().contains("undone already, by run 2"));

    let touched = journal.run(undoing).unwrap().deeds.touched;
    assert!(
        touched.iter().all(|one| one.path.path().starts_with(case.root())),
        "nothing above is touched: {touched:?}"
    );

    journal.undo(undoing, "undo 2", false).unwrap();
    assert_eq!(case.contained(), after, "the undoing is undone, times included");
    assert_eq!(journal.last_run().unwrap().unwrap().run, run);
}

#[test]
fn what_changed_since_the_plan_is_not_touched() {
    let case = Case::new();
    let plan = case.plan();
    fs::write(case.path("script"), "somebody was here\n").unwrap();
    let before = case.contained();
    let error = case.journal().carry_out(&plan, "test").unwrap_err();
    assert!(error.to_string().contains("script was changed since the plan was made; nothing was written"), "{error}");
    assert_eq!(case.contained(), before);
    assert!(case.journal().runs().unwrap().is_empty());
    fs::remove_file(case.path("script")).unwrap();
    let error = case.journal().carry_out(&plan, "test").unwrap_err();
    assert!(error.to_string().contains("is not there any more"), "{error}");
}

#[test]
fn what_changed_since_a_run_is_put_back_only_by_force() {
    let case = Case::new();
    let before = case.contained();
    let journal = case.journal();
    let run = journal.carry_out(&case.plan(), "test").unwrap().unwrap();
    fs::write(case.path("changed"), "and then this\n").unwrap();
    let now = case.contained();
    let error = journal.undo(run, "undo", false).unwrap_err();
    assert!(matches!(error, JournalError::Refused(_)), "{error}");
    assert!(error.to_string().contains("changed was changed since; --force puts it back all the same"), "{error}");
    assert_eq!(case.contained(), now);
    let forced = journal.undo(run, "undo --force", true).unwrap().unwrap();
    assert_eq!(case.contained(), before);
    journal.undo(forced, "undo", false).unwrap();
    assert_eq!(case.contained(), now, "forcing is a run that can be undone");
}

#[test]
fn links_devices_and_folders_are_no_targets() {
    let case = Case::new();
    symlink(case.path("kept"), case.path("a-link")).unwrap();
    fs::create_dir(case.path("folder")).unwrap();
    let before = case.contained();
    for (name, reason) in [("link", "is a link"), ("folder", "is a folder"), ("kept", "exists already")] {
        let step = Step::Write {
            path: case.path(name),
            expected: Standing::Nothing,
            contents: Contents::Bytes(b"x".to_vec()),
            mode: None,
            modified: None,
        };
        let error = case.journal().carry_out(&Plan { steps: vec![step] }, "test").unwrap_err();
        assert!(error.to_string().contains(reason), "{error}");
        assert_eq!(case.contained(), before);
    }
}

#[test]
fn files_in_new_folders_stay_when_somebody_adds_to_them() {
    let case = Case::new();
    let run = case.journal().carry_out(&case.plan(), "test").unwrap().unwrap();
    fs::write(case.path("new/mine"), "mine\n").unwrap();
    case.journal().undo(run, "undo", false).unwrap();
    assert_eq!(fs::read(case.path("new/mine")).unwrap(), b"mine\n");
    assert!(!case.path("new/file").exists());
}

#[test]
fn old_records_are_dropped_when_asked() {
    let case = Case::new();
    let journal = case.journal();
    for n in 0..5 {
        let step = Step::Write {
            path: case.path("kept"),
            expected: Standing::Anything,
            contents: Contents::Bytes(format!("{n}\n").into_bytes()),
            mode: None,
            modified: None,
        };
        journal.carry_out(&Plan { steps: vec![step] }, "test").unwrap();
    }
    assert_eq!(journal.prune(Some(Duration::from_secs(3600)), 0).unwrap().runs, 0);
    assert_eq!(journal.prune(None, 2).unwrap().runs, 3);
    let left: Vec<_> = journal.runs().unwrap().iter().map(|record| record.run).collect();
    assert_eq!(left, [4, 5]);
    journal.undo(5, "undo", false).unwrap();
    assert_eq!(fs::read(case.path("kept")).unwrap(), b"3\n");
}

#[test]
fn a_copy_that_something_wrote_to_is_not_put_back() {
    let case = Case::new();
    let run = case.journal().carry_out(&case.plan(), "test").unwrap().unwrap();
    let now = case.contained();
    fs::write(case.root().join("../journal/runs/1/copy-0"), "not what was kept\n").unwrap();
    let error = case.journal().undo(run, "undo", false).unwrap_err();
    assert!(error.to_string().contains("is not what was kept"), "{error}");
    assert_eq!(case.contained(), now);
}

/// Extended attributes belong to a file: they come with a copy, stay when it is written anew, and are put back.
#[cfg(target_os = "linux")]
#[test]
fn extended_attributes_are_carried_and_kept() {
    use rustix::fs::{XattrFlags, lgetxattr, lsetxattr};
    let case = Case::new();
    let put = |name: &str, value: &[u8]| lsetxattr(case.path(name), "user.tide", value, XattrFlags::empty());
    if put("kept", b"high").is_err() {
        return eprintln!("this file system has no extended attributes: nothing to see");
    }
    put("changed", b"low").unwrap();
    put("removed-folder", b"ebb").unwrap();
    let value = |name: &str| {
        let mut room = [0; 16];
        let length = lgetxattr(case.path(name), "user.tide", &mut room[..]).unwrap_or(0);
        room[..length].to_vec()
    };
    let run = case.journal().carry_out(&case.great_plan(), "test").unwrap().unwrap();
    assert_eq!(value("was-folder"), b"high", "a copy has those of its source");
    assert_eq!(value("changed"), b"low", "what is written anew keeps its own");
    case.journal().undo(run, "undo", false).unwrap();
    assert_eq!((value("changed"), value("removed-folder")), (b"low".to_vec(), b"ebb".to_vec()));
    assert_eq!(value("linked"), b"", "those of what took its place are gone");
}
