//! The real file system: owners, permissions, access control lists, several names, holes, folders within folders, and other programs.

use std::collections::BTreeMap;
use std::fs::{self, File};
use std::io::Write;
use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, SystemTime};

use tideline_core::internal::plan::{Contents, ExpectedState, FileAttributes, Fingerprint, Plan, Step};
use tideline_core::internal::tree::Progress;
use tideline_journal::{Journal, JournalError, Outcome, Policy, RealFiles, Request};

/// A target with a journal beside it.
struct Place {
    folder: tempfile::TempDir,
}

type Held = BTreeMap<PathBuf, (char, Vec<u8>, u32, Option<SystemTime>, (u32, u32), Vec<(String, Vec<u8>)>)>;

impl Place {
    fn new() -> Self {
        Self::on(tempfile::tempdir().unwrap())
    }

    fn on(folder: tempfile::TempDir) -> Self {
        fs::create_dir(folder.path().join("target")).unwrap();
        Self { folder }
    }

    fn root(&self) -> PathBuf {
        self.folder.path().canonicalize().unwrap().join("target")
    }

    fn path(&self, name: &str) -> PathBuf {
        self.root().join(name)
    }

    fn write(&self, name: &str, text: &str) {
        fs::create_dir_all(self.path(name).parent().unwrap()).unwrap();
        fs::write(self.path(name), text).unwrap();
    }

    fn read(&self, name: &str) -> String {
        fs::read_to_string(self.path(name)).unwrap()
    }

    fn journal(&self) -> Journal {
        Journal::new(self.folder.path().join("state/tideline"), RealFiles)
    }

    fn expected(&self, name: &str) -> ExpectedState {
        fs::read(self.path(name)).map_or(ExpectedState::Nothing, |bytes| ExpectedState::File(Fingerprint::of(&bytes)))
    }

    fn replace(&self, name: &str, text: &str) -> Step {
        Step::write(self.path(name), self.expected(name), Contents::Bytes(text.into()))
    }

    fn carry(&self, steps: Vec<Step>, policy: Policy) -> Result<Outcome, JournalError> {
        let plan = Plan { roots: vec![self.root()], ..Plan::of(steps) };
        let watched = Progress::default();
        self.journal().carry_out(&plan, &Request { command: "test", policy, watched: &watched })
    }

    fn undo(&self, run: u64) {
        let undone = self.journal().undo(run, "undo", false).unwrap();
        assert_eq!(undone.in_the_way, []);
    }

    fn held(&self) -> Held {
        let mut found = Held::new();
        let mut folders = vec![self.root()];
        while let Some(folder) = folders.pop() {
            for entry in fs::read_dir(folder).unwrap().map(Result::unwrap) {
                let path = entry.path();
                let metadata = path.symlink_metadata().unwrap();
                let (kind, bytes) = if metadata.is_dir() {
                    folders.push(path.clone());
                    ('d', Vec::new())
                } else if metadata.is_symlink() {
                    ('l', fs::read_link(&path).unwrap().into_os_string().into_encoded_bytes())
                } else {
                    ('f', fs::read(&path).unwrap())
                };
                let time = (kind != 'l').then(|| metadata.modified().unwrap());
                let mode = if kind == 'l' { 0 } else { metadata.mode() };
                found
                    .insert(path.clone(), (kind, bytes, mode, time, (metadata.uid(), metadata.gid()), extended(&path)));
            }
        }
        found
    }
}

/// The extended attributes that everybody may set and read.
fn extended(path: &Path) -> Vec<(String, Vec<u8>)> {
    let mut room = vec![0; 4096];
    let length = rustix::fs::llistxattr(path, &mut room).unwrap_or(0);
    let names = room[..length].split(|&byte| byte == 0).filter(|name| !name.is_empty());
    let value = |name: &[u8]| {
        let mut value = vec![0; 4096];
        let length = rustix::fs::lgetxattr(path, name, &mut value).unwrap();
        value.truncate(length);
        (String::from_utf8_lossy(name).into_owned(), value)
    };
    names.map(value).collect()
}

fn is_root() -> bool {
    rustix::process::geteuid().is_root()
}

/// An access control list that lets one more user read.
fn give_list(path: &Path) -> bool {
    // Version 2; then owner, user 65534, group, mask, others: tag, permissions, number.
    let mut list = vec![2, 0, 0, 0];
    for (tag, permissions, number) in
        [(1, 6, u32::MAX), (2, 4, 65534), (4, 4, u32::MAX), (16, 4, u32::MAX), (32, 0, u32::MAX)]
    {
        list.extend(u16::to_le_bytes(tag));
        list.extend(u16::to_le_bytes(permissions));
        list.extend(number.to_le_bytes());
    }
    rustix::fs::lsetxattr(path, "system.posix_acl_access", &list, rustix::fs::XattrFlags::empty()).is_ok()
}

#[test]
fn what_belongs_to_a_file_stays_and_comes_back() {
    let place = Place::new();
    for name in ["listed", "noted", "private"] {
        place.write(name, "old\n");
    }
    give_list(&place.path("listed"));
    let _ = rustix::fs::lsetxattr(place.path("noted"), "user.note", b"x", rustix::fs::XattrFlags::empty());
    fs::set_permissions(place.path("private"), fs::Permissions::from_mode(0o600)).unwrap();
    if is_root() {
        std::os::unix::fs::chown(place.path("private"), Some(1), Some(1)).unwrap();
    }
    place.write("gone/deep/file", "kept\n");
    give_list(&place.path("gone/deep/file"));
    fs::set_permissions(place.path("gone/deep"), fs::Permissions::from_mode(0o710)).unwrap();
    let before = place.held();
    let steps = vec![
        place.replace("listed", "new\n"),
        place.replace("noted", "new\n"),
        place.replace("private", "new\n"),
        Step::Remove { path: place.path("gone/deep/file"), expected: place.expected("gone/deep/file") },
        Step::RemoveFolder { path: place.path("gone/deep") },
        Step::RemoveFolder { path: place.path("gone") },
    ];
    let outcome = place.carry(steps, Policy::AllOrNothing).unwrap();
    assert_eq!(outcome.notes, []);
    let after = place.held();
    for name in ["listed", "noted", "private"] {
        let (old, new) = (&before[&place.path(name)], &after[&place.path(name)]);
        assert_eq!((old.2, old.4, &old.5), (new.2, new.4, &new.5), "{name}");
        assert_eq!(place.read(name), "new\n");
    }
    place.undo(1);
    assert_eq!(place.held(), before);
}

#[test]
fn other_names_of_a_file_keep_what_they_had() {
    let place = Place::new();
    place.write("a", "old\n");
    fs::hard_link(place.path("a"), place.path("b")).unwrap();
    fs::hard_link(place.path("a"), place.folder.path().join("outside")).unwrap();
    let outcome = place.carry(vec![place.replace("a", "new\n")], Policy::AllOrNothing).unwrap();
    assert_eq!(outcome.notes[0].text, "has 2 other names, which keep the old contents");
    assert_eq!((place.read("a"), place.read("b")), ("new\n".into(), "old\n".into()));
    // Two names that are written from one source are names of one file, and two that were one file are so again.
    let place = Place::new();
    place.write("a", "old\n");
    fs::hard_link(place.path("a"), place.path("b")).unwrap();
    let second = Step::write(place.path("b"), place.expected("b"), Contents::SameAs(place.path("a")));
    place.carry(vec![place.replace("a", "new\n"), second], Policy::AllOrNothing).unwrap();
    let number = |name: &str| place.path(name).metadata().unwrap().ino();
    assert_eq!((place.read("b"), number("a")), ("new\n".into(), number("b")));
    place.undo(1);
    assert_eq!((place.read("b"), number("a")), ("old\n".into(), number("b")));
}

#[test]
fn a_move_never_changes_the_file_for_its_other_names() {
    let place = Place::new();
    place.write("letter", "private\n");
    fs::set_permissions(place.path("letter"), fs::Permissions::from_mode(0o600)).unwrap();
    let snapshot = place.folder.path().join("snapshot");
    fs::hard_link(place.path("letter"), &snapshot).unwrap();
    let moves = Step::Move {
        from: place.path("letter"),
        path: place.path("elsewhere"),
        expected: place.expected("letter"),
        contents: None,
        attributes: FileAttributes::of(Some(0o644), None),
    };
    place.carry(vec![moves], Policy::AllOrNothing).unwrap();
    let mode = |path: &Path| path.metadata().unwrap().mode() & 0o777;
    assert_eq!((mode(&snapshot), mode(&place.path("elsewhere"))), (0o600, 0o644));
    assert!(!place.path("letter").exists());
    place.undo(1);
    assert_eq!((mode(&place.path("letter")), place.path("elsewhere").exists()), (0o600, false));
}

#[test]
fn what_a_program_writes_into_the_old_file_during_the_run_is_kept() {
    let place = Place::new();
    place.write("log", "first\n");
    let mut open = File::options().append(true).open(place.path("log")).unwrap();
    // The source of the copy is a pipe that makes the run wait in its middle; without that, the write comes just before.
    let steps = vec![place.replace("log", "new\n")];
    open.write_all(b"second\n").unwrap();
    let refused = place.carry(steps, Policy::AllOrNothing).unwrap_err();
    assert!(refused.to_string().contains("was changed since the plan was made"), "{refused}");
    assert_eq!(place.read("log"), "first\nsecond\n");
    // A backup is a copy: who holds the old file open cannot change it.
    place.carry(vec![place.replace("log", "new\n")], Policy::AllOrNothing).unwrap();
    open.write_all(b"third\n").unwrap();
    place.undo(1);
    assert_eq!(place.read("log"), "first\nsecond\n");
}

#[test]
fn nothing_is_reached_through_links() {
    let place = Place::new();
    let outside = place.folder.path().join("outside");
    fs::create_dir(&outside).unwrap();
    fs::write(outside.join("file"), "precious\n").unwrap();
    place.write("folder/file", "ours\n");
    let steps = |place: &Place| {
        vec![
            Step::Remove { path: place.path("folder/file"), expected: place.expected("folder/file") },
            Step::write(place.path("folder/new"), ExpectedState::Nothing, Contents::Bytes(b"new\n".to_vec())),
        ]
    };
    let planned = steps(&place);
    fs::rename(place.path("folder"), place.path("moved")).unwrap();
    symlink(&outside, place.path("folder")).unwrap();
    for policy in [Policy::AllOrNothing, Policy::WhatCanBe] {
        match place.carry(planned.clone(), policy) {
            Err(error) => assert!(error.to_string().contains("behind a link"), "{error}"),
            Ok(outcome) => assert_eq!((outcome.run, outcome.left_out.len()), (None, 2)),
        }
    }
    assert_eq!(fs::read_dir(&outside).unwrap().count(), 1);
    // Undoing does not go through a link that came later either.
    fs::remove_file(place.path("folder")).unwrap();
    fs::rename(place.path("moved"), place.path("folder")).unwrap();
    place.carry(steps(&place), Policy::AllOrNothing).unwrap();
    fs::rename(place.path("folder"), place.path("moved")).unwrap();
    fs::write(outside.join("new"), "new\n").unwrap();
    symlink(&outside, place.path("folder")).unwrap();
    let undone = place.journal().undo(1, "undo", false).unwrap();
    assert!(!undone.in_the_way.is_empty());
    assert_eq!(fs::read_dir(&outside).unwrap().count(), 2);
}

#[test]
fn holes_stay_holes() {
    let place = Place::new();
    let sparse = place.folder.path().join("sparse");
    let mut file = File::create(&sparse).unwrap();
    file.set_len(64 << 20).unwrap();
    std::io::Seek::seek(&mut file, std::io::SeekFrom::Start(32 << 20)).unwrap();
    file.write_all(b"middle").unwrap();
    drop(file);
    File::create(place.path("old")).unwrap().set_len(48 << 20).unwrap();
    let copy = |name: &str, expected: ExpectedState| {
        Step::write(place.path(name), expected, Contents::CopyOf(sparse.clone(), None))
    };
    place
        .carry(vec![copy("old", ExpectedState::Anything), copy("new", ExpectedState::Nothing)], Policy::AllOrNothing)
        .unwrap();
    let blocks = |path: &Path| path.metadata().unwrap().blocks();
    if blocks(&sparse) < 1000 {
        assert!(blocks(&place.path("new")) < 1000);
        assert!(blocks(&place.folder.path().join("state/tideline/runs/1/backup-1")) < 1000);
    }
    assert_eq!(fs::read(place.path("new")).unwrap(), fs::read(&sparse).unwrap());
    place.undo(1);
    assert_eq!(place.path("old").metadata().unwrap().len(), 48 << 20);
}

#[test]
fn another_disk_than_the_one_of_the_run_is_not_undone() {
    let place = Place::new();
    place.write("kept", "old\n");
    place.carry(vec![place.replace("kept", "new\n")], Policy::AllOrNothing).unwrap();
    fs::rename(place.root(), place.folder.path().join("away")).unwrap();
    fs::create_dir(place.folder.path().join("target")).unwrap();
    let undone = place.journal().undo(1, "undo", false).unwrap();
    assert!(undone.in_the_way[0].reason.contains("is its disk there?"), "{undone:?}");
    assert_eq!(place.held().len(), 0);
    fs::remove_dir(place.root()).unwrap();
    fs::rename(place.folder.path().join("away"), place.root()).unwrap();
    place.undo(1);
    assert_eq!(place.read("kept"), "old\n");
}

#[test]
fn folders_within_folders_as_deep_as_the_disk_goes() {
    let place = Place::new();
    let deep: PathBuf = std::iter::repeat_n("d", 2_000).collect();
    let mut steps: Vec<Step> = deep
        .ancestors()
        .filter(|path| !path.as_os_str().is_empty())
        .map(|path| Step::new_folder(place.root().join(path)))
        .collect();
    steps.push(Step::write(
        place.root().join(&deep).join("file"),
        ExpectedState::Nothing,
        Contents::Bytes(b"deep\n".to_vec()),
    ));
    let outcome = place.carry(steps, Policy::AllOrNothing).unwrap();
    assert_eq!(outcome.run, Some(1));
    place.undo(1);
    assert_eq!(place.held().len(), 0);
}

#[test]
fn what_a_killed_process_left_is_told_from_one_at_work() {
    let place = Place::new();
    place.write("a", "old\n");
    let journal = place.journal().waiting(Duration::from_millis(120), |_| {});
    // Somebody holds the lock: the folder of the journal is there after a first run.
    place.carry(vec![place.replace("a", "new\n")], Policy::AllOrNothing).unwrap();
    let lock = File::options().write(true).open(place.folder.path().join("state/tideline/lock")).unwrap();
    lock.lock().unwrap();
    assert!(journal.is_at_work());
    let told = std::sync::Arc::new(AtomicUsize::new(0));
    let count = told.clone();
    let journal = place.journal().waiting(Duration::from_millis(120), move |holder| {
        assert!(holder.contains("test"), "{holder}");
        count.fetch_add(1, Ordering::SeqCst);
    });
    let error = journal.undo(1, "undo", false).unwrap_err();
    assert!(matches!(error, JournalError::Busy { .. }), "{error}");
    assert_eq!(told.load(Ordering::SeqCst), 1, "it is said once for whom it waits");
    drop(lock);
    place.undo(1);
}

#[test]
fn the_journal_is_readable_by_its_owner_alone_and_old_records_are_not_dropped() {
    let place = Place::new();
    place.write("a", "old\n");
    let old = place.folder.path().join("state/tideline/runs/7");
    fs::create_dir_all(&old).unwrap();
    fs::write(
        old.join("record.json"),
        "{\"version\":2,\"run\":7,\"command\":\"tideline sync a b\",\"begun\":\"2026-01-01T00:00:00Z\"}",
    )
    .unwrap();
    let outcome = place.carry(vec![place.replace("a", "new\n")], Policy::AllOrNothing).unwrap();
    assert_eq!(outcome.run, Some(8));
    let mode = |name: &str| place.folder.path().join("state/tideline").join(name).metadata().unwrap().mode() & 0o777;
    assert_eq!((mode(""), mode("runs/8"), mode("runs/8/backups")), (0o700, 0o700, 0o600));
    assert_eq!(place.journal().runs().unwrap().len(), 2);
    let refused = place.journal().undo(7, "undo", false).unwrap_err();
    assert!(refused.to_string().contains("written by an earlier version"), "{refused}");
    place.journal().prune(None, 0).unwrap();
    assert!(old.exists());
    assert_eq!(place.journal().runs().unwrap().len(), 1);
}

#[test]
fn a_damaged_record_or_backup_is_told() {
    let place = Place::new();
    place.write("a", "old\n");
    place.write("b", "old too\n");
    place.carry(vec![place.replace("a", "new\n"), place.replace("b", "new\n")], Policy::AllOrNothing).unwrap();
    let runs = place.folder.path().join("state/tideline/runs/1");
    let mut backups = fs::read(runs.join("backups")).unwrap();
    let at = backups.windows(7).position(|part| part == b"old too").unwrap();
    backups[at] = b'X';
    fs::write(runs.join("backups"), &backups).unwrap();
    let undone = place.journal().undo(1, "undo", false).unwrap();
    assert_eq!(undone.in_the_way.len(), 1);
    assert!(undone.in_the_way[0].reason.contains("its backup is damaged"), "{undone:?}");
    assert_eq!((place.read("a"), place.read("b")), ("old\n".into(), "new\n".into()), "the others come back");
    let record = fs::read(runs.join("record")).unwrap();
    for cut in [3, record.len() / 2, record.len() - 4] {
        fs::write(runs.join("record"), &record[..record.len() - cut]).unwrap();
        assert!(matches!(place.journal().undo(1, "undo", false), Err(JournalError::Record { .. })));
        assert!(matches!(place.journal().runs().unwrap()[0].state, tideline_journal::RunState::Damaged { .. }));
    }
}
