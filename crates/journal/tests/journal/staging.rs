//! Files that are made before there is a plan for them.

use std::fs;
use std::io::Write;
use std::path::Path;

use tideline_core::plan::{Contents, Plan, Standing, Step};
use tideline_journal::{Journal, RealFiles};

use crate::support::Case;

fn staged(journal: &Journal, case: &Case) -> Plan {
    let staging = journal.staging().unwrap();
    let write = |name: &str, expected: Standing| {
        let mut file = staging.begin(&name.replace('/', " ")).unwrap();
        file.write_all(b"a long ").unwrap();
        file.write_all(b"report\n").unwrap();
        let contents = file.finish().unwrap();
        Step::Write { path: case.path(name), expected, contents, mode: None, modified: None }
    };
    let plan = Plan {
        steps: vec![
            Step::new_folder(case.path("new")),
            write("new/page", Standing::Nothing),
            write("script", Standing::Anything),
        ],
    };
    journal.carry_out(&plan, "report").unwrap();
    plan
}

#[test]
fn what_was_staged_comes_into_its_place_and_can_be_undone() {
    let case = Case::new();
    let before = case.contained();
    // On one file system a file is taken, from another it is copied.
    let elsewhere = Path::new("/dev/shm").is_dir().then(|| tempfile::tempdir_in("/dev/shm").unwrap());
    let journals = [
        Some(case.journal()),
        elsewhere.as_ref().map(|folder| Journal::new(folder.path().join("journal"), Box::new(RealFiles))),
    ];
    for journal in journals.into_iter().flatten() {
        let plan = staged(&journal, &case);
        for name in ["new/page", "script"] {
            assert_eq!(fs::read_to_string(case.path(name)).unwrap(), "a long report\n");
        }
        assert_eq!(case.contained()[&case.path("script")].2, 0o755, "the permissions stay");
        for step in &plan.steps {
            if let Step::Write { contents: Contents::Taken(path, _), .. } = step {
                assert!(!path.exists(), "nothing stays in the journal");
            }
        }
        let run = journal.last_run().unwrap().unwrap().run;
        journal.undo(run, "undo", false).unwrap();
        assert_eq!(case.contained(), before);
    }
}

#[test]
fn what_a_killed_command_staged_is_cleared_away_a_day_later() {
    let case = Case::new();
    let journal = case.journal();
    let staging = journal.staging().unwrap();
    let [old, young] = ["staged-old", "staged-young"].map(|name| staging.folder().with_file_name(name));
    for folder in [&old, &young] {
        fs::create_dir(folder).unwrap();
        fs::write(folder.join("page"), "left behind").unwrap();
    }
    let long_ago = std::time::SystemTime::now() - std::time::Duration::from_secs(25 * 60 * 60);
    fs::File::open(&old).unwrap().set_modified(long_ago).unwrap();
    drop(journal.staging().unwrap());
    assert!(!old.exists());
    assert!(young.exists() && staging.folder().exists());
}
