//! Carrying out a plan.

use std::fs::{self, File};
use std::io;
use std::path::{Path, PathBuf};
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::SystemTime;

use jiff::Timestamp;
use tideline_core::plan::{Moment, Plan};
use tideline_core::tree::Progress as Watched;

use crate::entries::Job;
use crate::files::FileSystem;
use crate::place::{Manner, State, Wanted};
use crate::record::{Deeds, Entry, Progress, RunRecord, VERSION, Was, Will};

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

/// A step that was left out of a run, and why.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LeftOut {
    /// The path that it was about.
    pub path: PathBuf,
    /// Why it was left out.
    pub reason: String,
}

impl LeftOut {
    pub(crate) fn new(path: &Path, error: &JournalError) -> Self {
        let reason = match error {
            JournalError::Changed { reason, .. } => reason.clone(),
            JournalError::Failed { doing, error, .. } => format!("cannot {doing} it: {error}"),
            other => other.to_string(),
        };
        Self { path: path.to_path_buf(), reason }
    }
}

/// What is left out of a run, noted from wherever it is found.
#[derive(Debug, Default)]
pub(crate) struct Noted(Mutex<Vec<LeftOut>>);

impl Noted {
    pub(crate) fn note(&self, left_out: LeftOut) {
        self.list().push(left_out);
    }

    fn is_empty(&self) -> bool {
        self.list().is_empty()
    }

    fn list(&self) -> MutexGuard<'_, Vec<LeftOut>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

/// What came of carrying out what can be.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Carried {
    /// The number of the run, if there was anything to do.
    pub run: Option<u64>,
    /// What was left out.
    pub left_out: Vec<LeftOut>,
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

    pub(crate) fn left_out(self) -> LeftOut {
        LeftOut { path: self.path, reason: format!("cannot {} it: {}", self.doing, self.error) }
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

    /// Carries a plan out, all of it or nothing, and gives its run a number; a plan without steps is none.
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

    /// Carries out what can be of a plan: a step that is not as it was planned, or that the system refuses, is left out, and the
    /// rest is done.
    ///
    /// # Errors
    /// When the journal cannot be used, or when it can neither go on nor put back what it did.
    pub fn carry_out_what_can_be(
        &self,
        plan: &Plan,
        command: &str,
        watched: &Watched,
    ) -> Result<Carried, JournalError> {
        if plan.steps.is_empty() {
            return Ok(Carried::default());
        }
        let _lock = self.lock()?;
        let noted = Noted::default();
        let order = Order { plan, command, undoes: None, noted: Some(&noted), watched };
        let run = self.carry_order(&order)?;
        let mut left_out = std::mem::take(&mut *noted.list());
        left_out.sort_by(|one, other| one.path.cmp(&other.path));
        Ok(Carried { run, left_out })
    }

    pub(crate) fn carry(&self, plan: &Plan, command: &str, undoes: Option<u64>) -> Result<u64, JournalError> {
        let order = Order { plan, command, undoes, noted: None, watched: &Watched::default() };
        Ok(self.carry_order(&order)?.unwrap_or_default())
    }

    fn carry_order(&self, order: &Order<'_>) -> Result<Option<u64>, JournalError> {
        let (run, folder) = self.new_run()?;
        let result = self.carry_in(order, run, &folder);
        if let Err(JournalError::Changed { .. } | JournalError::Failed { settled: Settled::AsBefore, .. }) | Ok(false) =
            &result
        {
            // Nothing came of it; what is left of the record says nothing.
            let _ = fs::remove_dir_all(&folder);
        }
        let done = result?;
        self.keep_small(run);
        Ok(done.then_some(run))
    }

    /// Carries a plan out in the folder of its run; whether anything came of it.
    fn carry_in(&self, order: &Order<'_>, run: u64, folder: &Path) -> Result<bool, JournalError> {
        let mut jobs = self.jobs(order.plan, run, order.noted)?;
        if jobs.is_empty() {
            return Ok(false);
        }
        let mut record = RunRecord::begun(order, run, &jobs);
        record.deeds.touched = self.touched(&record.deeds.entries);
        let recorded = self.write_deeds(folder, &record.deeds).and_then(|()| self.write_record(folder, &record));
        let prepared = recorded.and_then(|()| self.prepare(&mut jobs, folder, order)).and_then(|()| {
            let swept = std::mem::take(&mut record.deeds.entries);
            record.hold(&jobs);
            // What was begun and left out is not left lying about.
            if record.deeds.entries.len() < swept.len() {
                self.sweep_but(&swept, &record.deeds.entries);
            }
            self.write_deeds(folder, &record.deeds)
        });
        if let Err(trouble) = prepared {
            self.clear_away(&record);
            return Err(trouble.settled(Settled::AsBefore));
        }
        if record.deeds.entries.is_empty() {
            self.clear_away(&record);
            return Ok(false);
        }
        record.progress = Progress::Placing;
        let placed =
            self.write_record(folder, &record).and_then(|()| self.bring(&forth(&record.deeds.entries), order.manner()));
        if let Err(trouble) = placed {
            let settled = match self.put_back(&record, folder, false) {
                Ok(()) => Settled::AsBefore,
                Err(_) => Settled::Open(run),
            };
            return Err(trouble.settled(settled));
        }
        if order.noted.is_some_and(|noted| !noted.is_empty()) {
            self.sweep(&record);
        }
        record.progress = Progress::Done;
        record.ended = Some(Moment::from(SystemTime::now()));
        self.write_record(folder, &record).map_err(|trouble| trouble.settled(Settled::Open(run)))?;
        Ok(true)
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

/// A plan and how it is carried out.
pub(crate) struct Order<'o> {
    plan: &'o Plan,
    command: &'o str,
    undoes: Option<u64>,
    /// Where what is left out is noted; without it, the first trouble ends the run.
    noted: Option<&'o Noted>,
    pub(crate) watched: &'o Watched,
}

impl<'o> Order<'o> {
    /// How trouble is met.
    pub(crate) fn manner(&self) -> Manner<'o> {
        self.noted.map_or(Manner::Strict, Manner::Tolerant)
    }
}

impl RunRecord {
    /// The record of a run that begins now.
    fn begun(order: &Order<'_>, run: u64, jobs: &[Job<'_>]) -> Self {
        let mut record = Self {
            version: VERSION,
            run,
            command: order.command.to_owned(),
            begun: Timestamp::now().to_string(),
            ended: None,
            progress: Progress::Preparing,
            undoes: order.undoes,
            undone_by: None,
            paths: 0,
            kept: 0,
            deeds: Deeds::default(),
        };
        record.hold(jobs);
        record
    }

    /// Takes over what jobs do.
    fn hold(&mut self, jobs: &[Job<'_>]) {
        self.deeds.entries = jobs.iter().flat_map(|job| job.entries.iter().cloned()).collect();
        self.paths = self.deeds.entries.iter().filter(|entry| !entry.only_sets()).count();
        self.kept = self.deeds.entries.iter().map(Entry::kept).sum();
    }
}

/// What is wanted when a plan is carried out.
pub(crate) fn forth(entries: &[Entry]) -> Vec<Wanted> {
    let wanted = entries.iter().filter_map(|entry| {
        let path = entry.path.path();
        let was_folder = matches!(entry.was, Was::Folder { .. });
        let (state, obstructed) = match &entry.will {
            // It goes when it comes elsewhere.
            Will::Nothing if matches!(entry.was, Was::Moved { .. }) => return None,
            Will::Nothing if was_folder => (State::NoFolder, false),
            Will::Nothing => (State::NoFile, false),
            Will::Folder { beside, mode, modified } => {
                let beside = beside.as_ref().map(|beside| beside.path());
                (State::Folder { beside, like: None, mode: *mode, modified: *modified }, entry.changes_nature())
            }
            Will::File { beside, .. } | Will::Link { beside, .. } => {
                (State::Prepared { beside: beside.path() }, entry.changes_nature())
            }
            Will::Moved { from, mode, modified, .. } => {
                (State::Moved { from: from.path(), mode: *mode, modified: *modified }, false)
            }
        };
        Some(Wanted { path, state, obstructed })
    });
    wanted.collect()
}
