//! Carrying out a plan.

use std::fs::{self, File};
use std::io;
use std::path::{Path, PathBuf};

use jiff::Timestamp;
use rayon::prelude::*;
use tideline_core::plan::{Contents, Fingerprint, Plan, Standing, Step};

use crate::files::{FileSystem, Found};
use crate::record::{Entry, PathText, Progress, RunRecord, VERSION, Was, Will, hex, is};

/// Records of runs take at most this much room; the oldest are dropped beyond it, but never the last.
pub(crate) const MOST_BYTES: u64 = 2 << 30;

/// Where runs are recorded, and by what files are reached.
pub struct Journal {
    pub(crate) folder: PathBuf,
    pub(crate) files: Box<dyn FileSystem>,
}

/// What became of a run that failed while files were being put in place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Settled {
    /// Everything is as it was before.
    AsBefore,
    /// Some files are changed; the run with this number can be undone or finished.
    Open(u64),
}

/// Why a run was not carried out.
#[derive(Debug, thiserror::Error)]
pub enum JournalError {
    /// The journal itself cannot be used.
    #[error("cannot use the journal {}: {error}", path.display())]
    Journal {
        /// Its file or folder.
        path: PathBuf,
        /// The system's reason.
        error: io::Error,
    },
    /// A record cannot be read.
    #[error("cannot read the record {}: {reason}", path.display())]
    Record {
        /// The record.
        path: PathBuf,
        /// Why not.
        reason: String,
    },
    /// There is no such run.
    #[error("there is no run {0}; `tideline runs` lists them")]
    NoRun(u64),
    /// Something is not as it was when the plan was made.
    #[error("{} {reason}; nothing was written", path.display())]
    Changed {
        /// Where.
        path: PathBuf,
        /// What is not as it was.
        reason: String,
    },
    /// The system refused a step.
    #[error("cannot {doing} {}: {error}; {}", path.display(), match settled { Settled::AsBefore => "everything is as it was before".to_owned(), Settled::Open(run) => format!("run {run} is open: `tideline undo {run}` puts back what was changed") })]
    Failed {
        /// What was being done.
        doing: &'static str,
        /// To which path.
        path: PathBuf,
        /// The system's reason.
        error: io::Error,
        /// What became of what was done already.
        settled: Settled,
    },
    /// A run cannot be undone, or finished.
    #[error("{0}")]
    Refused(String),
}

/// A step that failed.
pub(crate) struct Trouble {
    pub(crate) doing: &'static str,
    pub(crate) path: PathBuf,
    pub(crate) error: io::Error,
}

impl Trouble {
    pub(crate) fn settled(self, settled: Settled) -> JournalError {
        JournalError::Failed { doing: self.doing, path: self.path, error: self.error, settled }
    }
}

pub(crate) fn doing<T>(doing: &'static str, path: &Path, result: io::Result<T>) -> Result<T, Trouble> {
    result.map_err(|error| Trouble { doing, path: path.to_path_buf(), error })
}

impl Journal {
    /// The journal in a folder, which is made when it is needed.
    pub fn new(folder: PathBuf, files: Box<dyn FileSystem>) -> Self {
        Self { folder, files }
    }

    /// Carries a plan out, and gives its run a number; a plan without steps is none.
    ///
    /// # Errors
    /// When something is not as it was when the plan was made (then nothing is written), or when the system refuses a step
    /// (then everything is put back, or the run stays open).
    pub fn carry_out(&self, plan: &Plan, command: &str) -> Result<Option<u64>, JournalError> {
        if plan.steps.is_empty() {
            return Ok(None);
        }
        let _lock = self.lock()?;
        self.carry(plan, command, None).map(Some)
    }

    pub(crate) fn carry(&self, plan: &Plan, command: &str, undoes: Option<u64>) -> Result<u64, JournalError> {
        let (run, folder) = self.new_run()?;
        let result = self.carry_in(plan, command, undoes, run, &folder);
        if let Err(JournalError::Changed { .. } | JournalError::Failed { settled: Settled::AsBefore, .. }) = &result {
            // Nothing came of it; what is left of the record says nothing.
            let _ = fs::remove_dir_all(&folder);
        }
        result?;
        self.keep_small(run);
        Ok(run)
    }

    fn carry_in(
        &self,
        plan: &Plan,
        command: &str,
        undoes: Option<u64>,
        run: u64,
        folder: &Path,
    ) -> Result<u64, JournalError> {
        let entries = self.entries(plan, run)?;
        let mut record = RunRecord {
            version: VERSION,
            run,
            command: command.to_owned(),
            begun: Timestamp::now().to_string(),
            progress: Progress::Preparing,
            undoes,
            undone_by: None,
            paths: entries.len(),
            kept: entries.iter().map(Entry::kept).sum(),
            entries,
        };
        let recorded = self.write_entries(folder, &record.entries).and_then(|()| self.write_record(folder, &record));
        let prepared = recorded.and_then(|()| self.prepare(plan, &record, folder));
        if let Err(trouble) = prepared {
            self.sweep(&record);
            return Err(trouble.settled(Settled::AsBefore));
        }
        record.progress = Progress::Placing;
        let placed = self.write_record(folder, &record).and_then(|()| self.put_in_place(&record, false));
        if let Err(trouble) = placed {
            let settled = match self.put_back(&record, folder, false) {
                Ok(()) => Settled::AsBefore,
                Err(_) => Settled::Open(run),
            };
            return Err(trouble.settled(settled));
        }
        record.progress = Progress::Done;
        self.write_record(folder, &record).map_err(|trouble| trouble.settled(Settled::Open(run)))?;
        Ok(run)
    }

    /// What a plan does, path by path, checked against what is there.
    fn entries(&self, plan: &Plan, run: u64) -> Result<Vec<Entry>, JournalError> {
        let entry = |(index, step): (usize, &Step)| -> Result<Entry, JournalError> {
            let path = step.path();
            let failed = |trouble: Trouble| trouble.settled(Settled::AsBefore);
            let found = doing("look at", path, self.files.found(path)).map_err(failed)?;
            let was = self.was(step, found, index)?;
            let will = match step {
                Step::MakeFolder { .. } => Will::Folder,
                Step::Remove { .. } | Step::RemoveFolder { .. } => Will::Nothing,
                Step::Write { contents, .. } => {
                    let print = match contents {
                        Contents::Bytes(bytes) => Fingerprint::of(bytes),
                        Contents::CopyOf(other) => {
                            doing("read", other, self.files.fingerprint(other)).map_err(failed)?
                        }
                    };
                    let beside = path.with_file_name(format!(".tideline-{run}-{index}.tmp"));
                    Will::File { beside: PathText::of(&beside), size: print.size, hash: hex(&print.hash) }
                }
            };
            Ok(Entry { path: PathText::of(path), was, will })
        };
        plan.steps.par_iter().enumerate().map(entry).collect()
    }

    /// What is there, if it is what the plan expects.
    fn was(&self, step: &Step, found: Found, index: usize) -> Result<Was, JournalError> {
        let path = step.path();
        let changed = |reason: &str| JournalError::Changed { path: path.to_path_buf(), reason: reason.to_owned() };
        let (expected, removes_folder) = match step {
            Step::MakeFolder { .. } => (Standing::Nothing, false),
            Step::RemoveFolder { .. } => (Standing::Anything, true),
            Step::Write { expected, .. } | Step::Remove { expected, .. } => (*expected, false),
        };
        match found {
            Found::Link => Err(changed("is a link, and links are not written through")),
            Found::Other => Err(changed("is a device or a pipe, and not a file")),
            Found::Folder if removes_folder => Ok(Was::Folder),
            Found::Folder => Err(changed("is a folder")),
            _ if removes_folder => Err(changed("is no folder any more")),
            Found::Nothing if matches!(expected, Standing::File(_) | Standing::Seen(..)) => {
                Err(changed("is not there any more: it was removed since the plan was made"))
            }
            Found::Nothing => Ok(Was::Nothing),
            Found::File { .. } if expected == Standing::Nothing => Err(changed("exists already")),
            Found::File { stamp, mode } => {
                let print = match expected {
                    Standing::Seen(seen, Some(print)) if seen == stamp => print,
                    _ => doing("read", path, self.files.fingerprint(path))
                        .map_err(|trouble| trouble.settled(Settled::AsBefore))?,
                };
                let is_expected = match expected {
                    Standing::File(wanted) | Standing::Seen(_, Some(wanted)) => wanted == print,
                    Standing::Seen(seen, None) => seen == stamp,
                    Standing::Nothing | Standing::Anything => true,
                };
                if !is_expected {
                    return Err(changed("was changed since the plan was made"));
                }
                let (copy, hash) = (format!("copy-{index}"), hex(&print.hash));
                Ok(Was::File { copy, size: print.size, hash, mode, modified: stamp.modified })
            }
        }
    }

    /// Copies what will be overwritten or removed, and writes what is new beside its place.
    fn prepare(&self, plan: &Plan, record: &RunRecord, folder: &Path) -> Result<(), Trouble> {
        // All copies go into one folder, so that only one at a time can be put there; new files go into many.
        let keep = || {
            record.entries.iter().try_for_each(|entry| match &entry.was {
                Was::File { copy, .. } => {
                    let path = entry.path.path();
                    doing("keep a copy of", &path, self.files.keep(&path, &folder.join(copy)))
                }
                Was::Nothing | Was::Folder => Ok(()),
            })
        };
        // New folders are made first: files are written into them. They are empty until files are put in place.
        for step in &plan.steps {
            if let Step::MakeFolder { path } = step {
                doing("make the folder", path, self.files.make_folder(path))?;
            }
        }
        let write = |(step, entry): (&Step, &Entry)| {
            let (Step::Write { path, contents, mode, modified, .. }, Will::File { beside, .. }) = (step, &entry.will)
            else {
                return Ok(());
            };
            let kept = match &entry.was {
                Was::File { mode, .. } => *mode,
                Was::Nothing | Was::Folder => None,
            };
            doing("write", path, self.files.create(&beside.path(), contents, mode.or(kept), *modified))
        };
        let (kept, created) = rayon::join(keep, || plan.steps.par_iter().zip(&record.entries).try_for_each(write));
        kept.and(created)?;
        let mut written: Vec<PathBuf> = Vec::with_capacity(2 * record.entries.len());
        for entry in &record.entries {
            if let Was::File { copy, .. } = &entry.was {
                written.push(folder.join(copy));
            }
            if let Will::File { beside, .. } = &entry.will {
                written.push(beside.path());
            }
        }
        doing("flush", folder, self.files.flush_files(&written))?;
        doing("flush", folder, self.files.flush_folder(folder))
    }

    /// Puts everything in place that is not yet; also of a run that was cut off.
    pub(crate) fn put_in_place(&self, record: &RunRecord, resumed: bool) -> Result<(), Trouble> {
        // New folders first, files into them, and then what goes: files before the folders they were in.
        for entry in record.entries.iter().filter(|entry| entry.will == Will::Folder) {
            let path = entry.path.path();
            if doing("look at", &path, self.files.found(&path))? == Found::Nothing {
                doing("make the folder", &path, self.files.make_folder(&path))?;
            }
        }
        record.entries.par_iter().try_for_each(|entry| {
            let Will::File { beside, .. } = &entry.will else { return Ok(()) };
            let (path, beside) = (entry.path.path(), beside.path());
            match self.files.rename(&beside, &path) {
                // Of a run that was cut off, some are in place already.
                Err(error) if resumed && error.kind() == io::ErrorKind::NotFound => Ok(()),
                renamed => doing("write", &path, renamed),
            }
        })?;
        for entry in &record.entries {
            let path = entry.path.path();
            match &entry.will {
                Will::File { .. } | Will::Folder => {}
                Will::Nothing if doing("look at", &path, self.files.found(&path))? == Found::Nothing => {}
                Will::Nothing if entry.was == Was::Folder => {
                    // Somebody may have put something into it; then it stays.
                    let _ = self.files.remove_folder(&path);
                }
                Will::Nothing => doing("remove", &path, self.files.remove(&path))?,
            }
        }
        self.flush_folders(record)
    }

    fn flush_folders(&self, record: &RunRecord) -> Result<(), Trouble> {
        let mut folders: Vec<PathBuf> =
            record.entries.iter().filter_map(|entry| entry.path.path().parent().map(Path::to_path_buf)).collect();
        folders.sort();
        folders.dedup();
        for folder in folders {
            if doing("look at", &folder, self.files.found(&folder))? == Found::Folder {
                doing("flush", &folder, self.files.flush_folder(&folder))?;
            }
        }
        Ok(())
    }

    /// Puts back what a run changed, as far as it came. Files that are neither what was there nor what the run left are touched
    /// only by force.
    pub(crate) fn put_back(&self, record: &RunRecord, folder: &Path, force: bool) -> Result<(), JournalError> {
        let open = |trouble: Trouble| trouble.settled(Settled::Open(record.run));
        let mut back = Vec::new();
        for (index, entry) in record.entries.iter().enumerate() {
            let path = entry.path.path();
            match doing("look at", &path, self.stands(entry, &path)).map_err(open)? {
                Stands::AsBefore => {}
                Stands::AsAfter => back.push(index),
                Stands::Otherwise if force => back.push(index),
                Stands::Otherwise => {
                    return Err(JournalError::Refused(format!(
                        "cannot undo run {}: {} was changed since; --force puts it back all the same",
                        record.run,
                        path.display()
                    )));
                }
            }
        }
        // New folders must be empty before they can go.
        self.sweep(record);
        for index in back.into_iter().rev() {
            let entry = &record.entries[index];
            self.put_entry_back(entry, folder, record.run, index).map_err(open)?;
        }
        self.flush_folders(record).map_err(open)
    }

    fn put_entry_back(&self, entry: &Entry, folder: &Path, run: u64, index: usize) -> Result<(), Trouble> {
        let path = entry.path.path();
        match &entry.was {
            Was::Nothing if entry.will == Will::Folder => {
                // Somebody may have put something into it; then it stays.
                let _ = self.files.remove_folder(&path);
                Ok(())
            }
            Was::Nothing => doing("remove", &path, self.files.remove(&path)),
            Was::Folder => doing("make the folder", &path, self.files.make_folder(&path)),
            Was::File { copy, mode, modified, .. } => {
                let beside = path.with_file_name(format!(".tideline-{run}-{index}-back.tmp"));
                let _ = self.files.remove(&beside);
                let contents = Contents::CopyOf(folder.join(copy));
                let created = self.files.create(&beside, &contents, *mode, modified.map(Into::into));
                doing("write", &path, created)?;
                doing("write", &path, self.files.flush_files(std::slice::from_ref(&beside)))?;
                doing("write", &path, self.files.rename(&beside, &path))
            }
        }
    }

    /// What stands at the path of an entry.
    pub(crate) fn stands(&self, entry: &Entry, path: &Path) -> io::Result<Stands> {
        let found = self.files.found(path)?;
        let print = if matches!(found, Found::File { .. }) { Some(self.files.fingerprint(path)?) } else { None };
        let is_file = |size: u64, hash: &str| print.as_ref().is_some_and(|print| is(print, size, hash));
        let before = match &entry.was {
            Was::Nothing => found == Found::Nothing,
            Was::Folder => found == Found::Folder,
            Was::File { size, hash, .. } => is_file(*size, hash),
        };
        let after = match &entry.will {
            Will::Nothing => found == Found::Nothing,
            Will::Folder => found == Found::Folder,
            Will::File { size, hash, .. } => is_file(*size, hash),
        };
        Ok(match (before, after) {
            // A file that was rewritten with what it held stands both ways.
            (true, _) => Stands::AsBefore,
            (false, true) => Stands::AsAfter,
            (false, false) => Stands::Otherwise,
        })
    }

    /// Removes what was written beside its place and not put there, and new folders that are empty.
    pub(crate) fn sweep(&self, record: &RunRecord) {
        for entry in record.entries.iter().rev() {
            match &entry.will {
                // What cannot be removed is in nobody's way: it is named as ours.
                Will::File { beside, .. } => drop(self.files.remove(&beside.path())),
                Will::Folder if record.progress == Progress::Preparing => {
                    drop(self.files.remove_folder(&entry.path.path()));
                }
                Will::Folder | Will::Nothing => {}
            }
        }
    }

    /// Only one run at a time; the lock goes with the file.
    pub(crate) fn lock(&self) -> Result<File, JournalError> {
        let path = self.folder.join("lock");
        let locked = fs::create_dir_all(&self.folder).and_then(|()| {
            let file = File::options().create(true).truncate(false).write(true).open(&path)?;
            file.lock()?;
            Ok(file)
        });
        locked.map_err(|error| JournalError::Journal { path, error })
    }

    fn new_run(&self) -> Result<(u64, PathBuf), JournalError> {
        let last = self.numbers()?.last().copied().unwrap_or(0);
        let folder = self.run_folder(last + 1);
        fs::create_dir_all(&folder).map_err(|error| JournalError::Journal { path: folder.clone(), error })?;
        Ok((last + 1, folder))
    }

    pub(crate) fn run_folder(&self, run: u64) -> PathBuf {
        self.folder.join("runs").join(run.to_string())
    }
}

/// What stands at a path that a run changed or was about to change.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Stands {
    AsBefore,
    AsAfter,
    Otherwise,
}
