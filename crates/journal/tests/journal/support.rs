//! A folder with files, a plan for them, and a file system that fails where it is told to.

use std::collections::BTreeMap;
use std::fs;
use std::io;
use std::os::unix::fs::{PermissionsExt, symlink};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, SystemTime};

use tideline_core::plan::{Contents, Fingerprint, Plan, Standing, Step};
use tideline_journal::{Draft, FileSystem, Found, FoundFile, Journal, RealFiles};

/// A folder with some files, and a journal beside it.
pub(crate) struct Case {
    folder: tempfile::TempDir,
}

/// What a folder holds: files, folders and links, with what they hold, permissions, and times but for links.
pub(crate) type Contained = BTreeMap<PathBuf, (Nature, String, u32, Option<SystemTime>)>;

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Nature {
    File,
    Folder,
    Link,
}

impl Case {
    pub(crate) fn new() -> Self {
        let case = Self { folder: tempfile::tempdir().unwrap() };
        fs::create_dir(case.root()).unwrap();
        for (index, (name, mode)) in
            [("changed", 0o644), ("script", 0o755), ("removed", 0o600), ("kept", 0o644)].iter().enumerate()
        {
            let path = case.path(name);
            fs::write(&path, format!("{name} as it was\n")).unwrap();
            fs::set_permissions(&path, fs::Permissions::from_mode(*mode)).unwrap();
            let time = SystemTime::UNIX_EPOCH + Duration::new(1_900_000_000 + index as u64, 123_456_789);
            fs::File::options().append(true).open(&path).unwrap().set_modified(time).unwrap();
        }
        for folder in ["was-folder/deep", "removed-folder/empty"] {
            fs::create_dir_all(case.path(folder)).unwrap();
        }
        for name in ["was-file", "was-folder/inside", "was-folder/deep/down", "removed-folder/inside", "here", "linked"]
        {
            fs::write(case.path(name), format!("{name} as it was\n")).unwrap();
        }
        fs::set_permissions(case.path("removed-folder"), fs::Permissions::from_mode(0o750)).unwrap();
        symlink("kept", case.path("link")).unwrap();
        for folder in ["was-folder/deep", "was-folder", "removed-folder/empty", "removed-folder"] {
            let time = SystemTime::UNIX_EPOCH + Duration::new(1_800_000_000, 5);
            fs::File::open(case.path(folder)).unwrap().set_modified(time).unwrap();
        }
        // A file with two names could be written into by the other one.
        fs::hard_link(case.path("linked"), case.folder.path().join("other name")).unwrap();
        case
    }

    pub(crate) fn root(&self) -> PathBuf {
        self.folder.path().join("files")
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.root().join(name)
    }

    pub(crate) fn journal(&self) -> Journal {
        self.journal_on(Box::new(RealFiles))
    }

    pub(crate) fn journal_on(&self, files: Box<dyn FileSystem>) -> Journal {
        Journal::new(self.folder.path().join("journal"), files)
    }

    fn standing(&self, name: &str) -> Standing {
        Standing::File(Fingerprint::of(&fs::read(self.path(name)).unwrap()))
    }

    /// Two files are replaced, one is removed, one is made in a new folder.
    pub(crate) fn plan(&self) -> Plan {
        let write = |name: &str, expected: Standing| Step::Write {
            path: self.path(name),
            expected,
            contents: Contents::Bytes(format!("{name} as it will be\n").into_bytes()),
            mode: None,
            modified: None,
        };
        Plan {
            steps: vec![
                write("changed", self.standing("changed")),
                Step::new_folder(self.path("new")),
                write("new/file", Standing::Nothing),
                write("script", self.standing("script")),
                Step::Remove { path: self.path("removed"), expected: self.standing("removed") },
            ],
        }
    }

    /// A plan with every kind of step: files and folders in each other's places, moves, links, folders that go and come.
    pub(crate) fn great_plan(&self) -> Plan {
        let path = |name: &str| self.path(name);
        let write = |name: &str, expected: Standing, contents: Contents| {
            let modified = Some(SystemTime::UNIX_EPOCH + Duration::new(1_700_000_000, 7));
            Step::Write { path: path(name), expected, contents, mode: Some(0o640), modified }
        };
        let copy = || Contents::CopyOf(path("kept"), None);
        let folder = |name: &str, expected: Standing| Step::MakeFolder {
            path: path(name),
            expected,
            like: Some(path("was-folder")),
            mode: Some(0o700),
            modified: Some(SystemTime::UNIX_EPOCH + Duration::new(1_600_000_000, 9)),
        };
        let removed = |name: &str| Step::Remove { path: path(name), expected: self.standing(name) };
        let more = vec![
            folder("was-file", self.standing("was-file")),
            folder("was-file/deeper", Standing::Nothing),
            write("was-file/deeper/file", Standing::Nothing, copy()),
            removed("was-folder/inside"),
            removed("was-folder/deep/down"),
            Step::RemoveFolder { path: path("was-folder/deep") },
            write("was-folder", Standing::Folder, copy()),
            Step::Move {
                from: path("here"),
                path: path("was-file/there"),
                expected: self.standing("here"),
                mode: Some(0o600),
                modified: None,
            },
            write("link", Standing::Link("kept".into()), Contents::Link("changed".into())),
            write("new/link", Standing::Nothing, Contents::Link("nowhere".into())),
            write("linked", self.standing("linked"), copy()),
            removed("removed-folder/inside"),
            Step::RemoveFolder { path: path("removed-folder/empty") },
            Step::RemoveFolder { path: path("removed-folder") },
        ];
        Plan { steps: self.plan().steps.into_iter().chain(more).collect() }
    }

    pub(crate) fn contained(&self) -> Contained {
        let mut found = Contained::new();
        let root_time = self.root().metadata().unwrap().modified().unwrap();
        found.insert(self.root(), (Nature::Folder, String::new(), 0, Some(root_time)));
        let mut folders = vec![self.root()];
        while let Some(folder) = folders.pop() {
            for entry in fs::read_dir(folder).unwrap().map(Result::unwrap) {
                let path = entry.path();
                let facts = path.symlink_metadata().unwrap();
                let (mode, time) = (facts.permissions().mode() & 0o7777, facts.modified().unwrap());
                let holds = if facts.is_dir() {
                    folders.push(path.clone());
                    (Nature::Folder, String::new(), mode, Some(time))
                } else if facts.is_symlink() {
                    let target = fs::read_link(&path).unwrap().display().to_string();
                    (Nature::Link, target, mode, None)
                } else {
                    (Nature::File, fs::read_to_string(&path).unwrap(), mode, Some(time))
                };
                found.insert(path, holds);
            }
        }
        found
    }

    /// The same without times, which are those of the run where files were written; by the path below the folder.
    pub(crate) fn contents(&self) -> Contained {
        let root = self.root();
        let bare = |(path, (nature, bytes, mode, _)): (PathBuf, (Nature, String, u32, Option<SystemTime>))| {
            (path.strip_prefix(&root).unwrap().to_path_buf(), (nature, bytes, mode, None))
        };
        self.contained().into_iter().map(bare).collect()
    }
}

/// What happens at the chosen step.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Fault {
    /// The step fails, as on a full disk.
    Error,
    /// The step and all that follow fail.
    ErrorsFromThen,
    /// The program ends in the middle of the step.
    End,
}

/// Fails at one step.
pub(crate) struct Faulty {
    pub(crate) at: usize,
    pub(crate) fault: Fault,
    pub(crate) steps: Arc<AtomicUsize>,
}

impl Faulty {
    fn step(&self, half: impl FnOnce()) -> io::Result<()> {
        let step = self.steps.fetch_add(1, Ordering::SeqCst);
        match self.fault {
            Fault::Error if step == self.at => Err(io::Error::from(io::ErrorKind::StorageFull)),
            Fault::ErrorsFromThen if step >= self.at => Err(io::Error::from(io::ErrorKind::PermissionDenied)),
            Fault::End if step == self.at => {
                half();
                std::panic::panic_any("the program ends here");
            }
            _ => Ok(()),
        }
    }
}

impl FileSystem for Faulty {
    fn found(&self, path: &Path) -> io::Result<Found> {
        RealFiles.found(path)
    }

    fn fingerprint(&self, path: &Path) -> io::Result<Fingerprint> {
        RealFiles.fingerprint(path)
    }

    fn create(&self, path: &Path, draft: &Draft<'_>) -> io::Result<Fingerprint> {
        self.step(|| fs::write(path, b"half").unwrap())?;
        RealFiles.create(path, draft)
    }

    fn keep(&self, path: &Path, file: &FoundFile, name: &Path) -> io::Result<()> {
        self.step(|| fs::write(name, b"half").unwrap())?;
        RealFiles.keep(path, file, name)
    }

    fn flush_files(&self, paths: &[PathBuf]) -> io::Result<()> {
        self.step(|| ())?;
        RealFiles.flush_files(paths)
    }

    fn rename(&self, from: &Path, to: &Path) -> io::Result<()> {
        self.step(|| ())?;
        RealFiles.rename(from, to)
    }

    fn remove(&self, path: &Path) -> io::Result<()> {
        self.step(|| ())?;
        RealFiles.remove(path)
    }

    fn make_folder(&self, path: &Path, like: Option<&Path>) -> io::Result<()> {
        self.step(|| ())?;
        RealFiles.make_folder(path, like)
    }

    fn set(&self, path: &Path, mode: Option<u32>, modified: Option<SystemTime>) -> io::Result<()> {
        self.step(|| ())?;
        RealFiles.set(path, mode, modified)
    }

    fn remove_folder(&self, path: &Path) -> io::Result<()> {
        self.step(|| ())?;
        RealFiles.remove_folder(path)
    }

    fn flush_folders(&self, paths: &[PathBuf]) -> io::Result<()> {
        self.step(|| ())?;
        RealFiles.flush_folders(paths)
    }
}

/// What is not the same in two folders, line by line.
pub(crate) fn differences(one: &Contained, other: &Contained) -> Vec<String> {
    let paths: std::collections::BTreeSet<_> = one.keys().chain(other.keys()).collect();
    let differing = paths.into_iter().filter(|path| one.get(*path) != other.get(*path));
    differing.map(|path| format!("{}: {:?}, not {:?}", path.display(), one.get(path), other.get(path))).collect()
}
