//! A folder with files, a plan for them, and a file system that fails where it is told to.

use std::collections::BTreeMap;
use std::fs;
use std::io;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, SystemTime};

use tideline_core::plan::{Contents, Fingerprint, Plan, Standing, Step};
use tideline_journal::{FileSystem, Found, Journal, RealFiles};

/// A folder with some files, and a journal beside it.
pub(crate) struct Case {
    folder: tempfile::TempDir,
}

/// What a folder holds: bytes, permissions and times of files, and folders.
pub(crate) type Contained = BTreeMap<PathBuf, Option<(Vec<u8>, u32, SystemTime)>>;

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
                Step::MakeFolder { path: self.path("new") },
                write("new/file", Standing::Nothing),
                write("script", self.standing("script")),
                Step::Remove { path: self.path("removed"), expected: self.standing("removed") },
            ],
        }
    }

    pub(crate) fn contained(&self) -> Contained {
        let mut found = Contained::new();
        let mut folders = vec![self.root()];
        while let Some(folder) = folders.pop() {
            for entry in fs::read_dir(folder).unwrap().map(Result::unwrap) {
                let (path, facts) = (entry.path(), entry.metadata().unwrap());
                if facts.is_dir() {
                    folders.push(path.clone());
                    found.insert(path, None);
                } else {
                    let file =
                        (fs::read(&path).unwrap(), facts.permissions().mode() & 0o7777, facts.modified().unwrap());
                    found.insert(path, Some(file));
                }
            }
        }
        found
    }

    /// The same without times, which are those of the run where files were written.
    pub(crate) fn contents(&self) -> BTreeMap<PathBuf, Option<(Vec<u8>, u32)>> {
        let bare = |(path, file): (PathBuf, Option<(Vec<u8>, u32, SystemTime)>)| {
            (path, file.map(|(bytes, mode, _)| (bytes, mode)))
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

    fn create(
        &self,
        path: &Path,
        contents: &Contents,
        mode: Option<u32>,
        modified: Option<SystemTime>,
    ) -> io::Result<()> {
        self.step(|| fs::write(path, b"half").unwrap())?;
        RealFiles.create(path, contents, mode, modified)
    }

    fn keep(&self, path: &Path, name: &Path) -> io::Result<()> {
        self.step(|| fs::write(name, b"half").unwrap())?;
        RealFiles.keep(path, name)
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

    fn make_folder(&self, path: &Path) -> io::Result<()> {
        self.step(|| ())?;
        RealFiles.make_folder(path)
    }

    fn remove_folder(&self, path: &Path) -> io::Result<()> {
        self.step(|| ())?;
        RealFiles.remove_folder(path)
    }

    fn flush_folder(&self, path: &Path) -> io::Result<()> {
        self.step(|| ())?;
        RealFiles.flush_folder(path)
    }
}
