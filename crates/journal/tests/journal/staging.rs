//! Files that are made before there is a plan for them.

use std::fs;
use std::io::Write;
use std::path::Path;

use tideline_core::internal::plan::{Contents, ExpectedState, Plan, Step};
use tideline_core::internal::tree::Progress;
use tideline_journal::{Journal, Policy, RealFiles, Request};

#[test]
fn what_was_staged_comes_into_its_place_and_can_be_undone() {
    // On one file system a file is taken, from another it is copied.
    let elsewhere = Path::new("/dev/shm").is_dir().then(|| tempfile::tempdir_in("/dev/shm").unwrap());
    let here = tempfile::tempdir().unwrap();
    for state in [Some(&here), elsewhere.as_ref()].into_iter().flatten() {
        let folder = tempfile::tempdir().unwrap();
        let root = folder.path().canonicalize().unwrap();
        fs::write(root.join("page"), "old\n").unwrap();
        let journal = Journal::new(state.path().join("journal"), RealFiles);
        let staging = journal.staging().unwrap();
        let write = |name: &str, expected: ExpectedState| {
            let mut file = staging.begin(&name.replace('/', " ")).unwrap();
            file.write_all(b"a long ").unwrap();
            file.write_all(b"report\n").unwrap();
            Step::write(root.join(name), expected, file.finish().unwrap())
        };
        let steps = vec![
            Step::new_folder(root.join("new")),
            write("new/page", ExpectedState::Nothing),
            write("page", ExpectedState::Anything),
        ];
        let plan = Plan { roots: vec![root.clone()], ..Plan::of(steps) };
        let watched = Progress::default();
        let request = Request { command: "report", policy: Policy::AllOrNothing, watched: &watched };
        journal.carry_out(&plan, &request).unwrap();
        for name in ["new/page", "page"] {
            assert_eq!(fs::read_to_string(root.join(name)).unwrap(), "a long report\n");
        }
        if state.path() == here.path() {
            for step in &plan.steps {
                if let Step::Write { contents: Contents::Taken(path, _), .. } = step {
                    assert!(!path.exists(), "nothing stays in the journal");
                }
            }
        }
        let run = journal.last_run().unwrap().unwrap();
        assert_eq!(journal.undo(run, "undo", false).unwrap().in_the_way, []);
        assert_eq!(fs::read_to_string(root.join("page")).unwrap(), "old\n");
        assert!(!root.join("new").exists());
    }
}

#[test]
fn what_a_killed_command_staged_is_cleared_away_a_day_later() {
    let folder = tempfile::tempdir().unwrap();
    let journal = Journal::new(folder.path().join("journal"), RealFiles);
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
