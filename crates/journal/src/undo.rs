//! Looking at runs, undoing and finishing them, and dropping old records.

use std::fs;
use std::io::Write;
use std::path::Path;
use std::time::{Duration, SystemTime};

use jiff::Timestamp;
use rayon::prelude::*;
use serde::Serialize;
use serde::de::DeserializeOwned;
use tideline_core::plan::{Contents, Moment, Plan, Standing, Step};

use crate::back::{Stands, changed_since};
use crate::carry::{Journal, JournalError, MOST_BYTES, Settled, Trouble, doing, forth};
use crate::files::Found;
use crate::place::Manner;
use crate::record::{Deeds, Entry, Progress, RunRecord, Was, Will, print_of};

/// The file that says how far a run came.
const RECORD: &str = "record.json";
/// The file that says what a run does.
const DEEDS: &str = "deeds.json";

/// What pruning dropped.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Pruned {
    /// Runs.
    pub runs: usize,
    /// Bytes of copies.
    pub bytes: u64,
}

impl Journal {
    /// The numbers of all runs, in order.
    pub(crate) fn numbers(&self) -> Result<Vec<u64>, JournalError> {
        let path = self.folder.join("runs");
        let entries = match fs::read_dir(&path) {
            Ok(entries) => entries,
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => return Ok(Vec::new()),
            Err(error) => return Err(JournalError::Journal { path, error }),
        };
        let numbers = entries.filter_map(|entry| entry.ok()?.file_name().to_str()?.parse().ok());
        let mut numbers: Vec<u64> = numbers.collect();
        numbers.sort_unstable();
        Ok(numbers)
    }

    /// All runs, the oldest first, without what they do path by path. Records that cannot be read are left out.
    ///
    /// # Errors
    /// When the journal itself cannot be read.
    pub fn runs(&self) -> Result<Vec<RunRecord>, JournalError> {
        Ok(self.numbers()?.into_iter().filter_map(|run| self.read(run, RECORD).ok()).collect())
    }

    /// One run, with all that it does.
    ///
    /// # Errors
    /// When there is none with this number, or its record cannot be read.
    pub fn run(&self, run: u64) -> Result<RunRecord, JournalError> {
        if !self.run_folder(run).is_dir() {
            return Err(JournalError::NoRun(run));
        }
        let record: RunRecord = self.read(run, RECORD)?;
        Ok(RunRecord { deeds: self.read(run, DEEDS)?, ..record })
    }

    fn read<T: DeserializeOwned>(&self, run: u64, name: &str) -> Result<T, JournalError> {
        let path = self.run_folder(run).join(name);
        let wrong = |reason: String| JournalError::Record { path: path.clone(), reason };
        let text = fs::read(&path).map_err(|error| wrong(error.to_string()))?;
        serde_json::from_slice(&text).map_err(|error| wrong(error.to_string()))
    }

    /// The runs that were cut off.
    ///
    /// # Errors
    /// When the journal itself cannot be read.
    pub fn open_runs(&self) -> Result<Vec<RunRecord>, JournalError> {
        Ok(self.runs()?.into_iter().filter(|record| record.progress != Progress::Done).collect())
    }

    /// The last run that is not undone and does not undo another.
    ///
    /// # Errors
    /// When the journal itself cannot be read.
    pub fn last_run(&self) -> Result<Option<RunRecord>, JournalError> {
        let runs = self.runs()?;
        Ok(runs.into_iter().rev().find(|record| record.undone_by.is_none() && record.undoes.is_none()))
    }

    /// Writes how far a run came.
    pub(crate) fn write_record(&self, folder: &Path, record: &RunRecord) -> Result<(), Trouble> {
        self.write(folder, RECORD, &record.head())
    }

    /// Writes what a run does.
    pub(crate) fn write_deeds(&self, folder: &Path, deeds: &Deeds) -> Result<(), Trouble> {
        self.write(folder, DEEDS, deeds)
    }

    fn write(&self, folder: &Path, name: &str, value: &(impl Serialize + ?Sized)) -> Result<(), Trouble> {
        let (path, draft) = (folder.join(name), folder.join(format!("{name}.draft")));
        let write = || -> std::io::Result<()> {
            let mut file = fs::File::create(&draft)?;
            let mut bytes = serde_json::to_vec(value)?;
            bytes.push(b'\n');
            file.write_all(&bytes)?;
            file.sync_all()?;
            fs::rename(&draft, &path)?;
            self.files.flush_folders(&[folder.to_path_buf()])
        };
        doing("record the run in", &path, write())
    }

    /// Undoes a run: puts back bytes, permissions and times. Of a run that is done, this is a run of its own, whose number is
    /// returned; one that was cut off is put back as far as it came.
    ///
    /// # Errors
    /// When something was changed since and `force` is off (then nothing is written), or when the system refuses a step.
    pub fn undo(&self, run: u64, command: &str, force: bool) -> Result<Option<u64>, JournalError> {
        let _lock = self.lock()?;
        let mut record = self.run(run)?;
        let folder = self.run_folder(run);
        if let Some(other) = record.undone_by {
            return Err(JournalError::Refused(format!("run {run} is undone already, by run {other}")));
        }
        if record.progress == Progress::Preparing {
            self.clear_away(&record);
            drop(fs::remove_dir_all(&folder));
            return Ok(None);
        }
        if record.progress == Progress::Placing {
            self.put_back(&record, &folder, force)?;
            drop(fs::remove_dir_all(&folder));
            return Ok(None);
        }
        let plan = self.plan_back(&record, &folder, force)?;
        let by = self.carry(&plan, command, Some(run))?;
        record.undone_by = Some(by);
        let noted = |trouble: Trouble| trouble.settled(Settled::Open(by));
        self.write_record(&folder, &record).map_err(noted)?;
        // Undoing an undoing puts the first run in force again.
        if let Some(first) = record.undoes
            && let Ok(mut first_record) = self.run(first)
        {
            first_record.undone_by = None;
            self.write_record(&self.run_folder(first), &first_record).map_err(noted)?;
        }
        Ok(Some(by))
    }

    /// Finishes a run that was cut off while files were being put in place.
    ///
    /// # Errors
    /// When it is not such a run, when something was changed since, or when the system refuses a step.
    pub fn finish(&self, run: u64) -> Result<(), JournalError> {
        let _lock = self.lock()?;
        let mut record = self.run(run)?;
        match record.progress {
            Progress::Done => return Err(JournalError::Refused(format!("run {run} is done already"))),
            Progress::Preparing => {
                return Err(JournalError::Refused(format!(
                    "run {run} was cut off before it changed anything: `tideline undo {run}` clears it away, and the command can be run again"
                )));
            }
            Progress::Placing => {}
        }
        let open = |trouble: Trouble| trouble.settled(Settled::Open(run));
        let entries = &record.deeds.entries;
        for (entry, stands) in entries.iter().zip(self.all_stand(entries).map_err(open)?) {
            if stands == Stands::Otherwise {
                return Err(JournalError::Refused(format!(
                    "cannot finish run {run}: {} was changed since",
                    entry.path.path().display()
                )));
            }
        }
        self.bring(&forth(entries), Manner::Resumed).map_err(open)?;
        record.ended = Some(Moment::from(SystemTime::now()));
        record.progress = Progress::Done;
        self.write_record(&self.run_folder(run), &record).map_err(open)
    }

    /// The plan that undoes a run that is done.
    fn plan_back(&self, record: &RunRecord, folder: &Path, force: bool) -> Result<Plan, JournalError> {
        let failed = |trouble: Trouble| trouble.settled(Settled::AsBefore);
        let entries = &record.deeds.entries;
        let stands = self.all_stand(entries).map_err(failed)?;
        let steps = entries.par_iter().zip(stands).map(|(entry, stands)| match stands {
            // It was left out, or somebody has put it back already. What went out of a folder and comes back changes its time.
            Stands::AsBefore => Ok(match &entry.was {
                Was::Folder { mode, modified, .. } => {
                    let modified = modified.map(SystemTime::from);
                    Some(Step::SetFolder { path: entry.path.path(), mode: *mode, modified })
                }
                _ => None,
            }),
            Stands::Otherwise if !force => Err(changed_since(record.run, &entry.path.path())),
            Stands::AsAfter => self.step_back(entry, record.run, folder, left_behind(entry)),
            Stands::Between => self.step_back(entry, record.run, folder, Standing::Nothing),
            Stands::Otherwise => {
                let path = entry.path.path();
                let expected = match doing("look at", &path, self.files.found(&path)).map_err(failed)? {
                    Found::Nothing => Standing::Nothing,
                    Found::Link(target) => Standing::Link(target),
                    Found::Folder { .. } => Standing::Folder,
                    Found::File(_) | Found::Other => Standing::Anything,
                };
                self.step_back(entry, record.run, folder, expected)
            }
        });
        let mut steps: Vec<Step> = steps.collect::<Result<Vec<_>, _>>()?.into_iter().flatten().collect();
        for touched in &record.deeds.touched {
            let path = touched.path.path();
            // What others did in the folder since stays told.
            if let Ok(Found::Folder { modified, .. }) = self.files.found(&path)
                && modified <= record.ended
            {
                steps.push(Step::SetFolder { path, mode: None, modified: Some(touched.modified.into()) });
            }
        }
        Ok(Plan { steps })
    }

    /// The step that undoes an entry where something stands.
    fn step_back(
        &self,
        entry: &Entry,
        run: u64,
        folder: &Path,
        expected: Standing,
    ) -> Result<Option<Step>, JournalError> {
        let path = entry.path.path();
        let time = |modified: &Option<Moment>| modified.map(SystemTime::from);
        Ok(Some(match &entry.was {
            // It goes when it comes back to where it was.
            Was::Nothing if matches!(entry.will, Will::Moved { .. }) => return Ok(None),
            Was::Nothing if expected == Standing::Nothing => return Ok(None),
            Was::Nothing if expected == Standing::Folder => Step::RemoveFolder { path },
            Was::Nothing => Step::Remove { path, expected },
            Was::Folder { mode, modified, .. } if entry.only_sets() => {
                Step::SetFolder { path, mode: *mode, modified: time(modified) }
            }
            Was::Folder { copy, mode, modified } => {
                let like = copy.as_ref().map(|copy| folder.join(copy));
                Step::MakeFolder { path, expected, like, mode: *mode, modified: time(modified) }
            }
            Was::Link { target } => {
                let contents = Contents::Link(target.path());
                Step::Write { path, expected, contents, mode: None, modified: None }
            }
            Was::Moved { to, mode, modified, size, hash } => {
                let expected = Standing::File(print_of(*size, hash));
                Step::Move { from: to.path(), path, expected, mode: *mode, modified: time(modified) }
            }
            Was::File { copy, size, hash, mode, modified, .. } => {
                let copy = folder.join(copy);
                let read = doing("read", &copy, self.files.fingerprint(&copy));
                if read.map_err(|trouble| trouble.settled(Settled::AsBefore))? != print_of(*size, hash) {
                    return Err(JournalError::Refused(format!(
                        "cannot undo run {run}: the copy {} is not what was kept; something wrote to it",
                        copy.display()
                    )));
                }
                let contents = Contents::CopyOf(copy, None);
                Step::Write { path, expected, contents, mode: *mode, modified: time(modified) }
            }
        }))
    }

    /// Drops records of runs that are done: those older than `older`, but never the last `keep`.
    ///
    /// # Errors
    /// When the journal itself cannot be read.
    pub fn prune(&self, older: Option<Duration>, keep: usize) -> Result<Pruned, JournalError> {
        let _lock = self.lock()?;
        let runs = self.runs()?;
        let spared = runs.len().saturating_sub(keep);
        let mut pruned = Pruned::default();
        for record in runs.iter().take(spared).filter(|record| record.progress == Progress::Done) {
            let begun = record.begun.parse::<Timestamp>().map_or(SystemTime::UNIX_EPOCH, SystemTime::from);
            let age = SystemTime::now().duration_since(begun).unwrap_or_default();
            if older.is_none_or(|older| age > older) {
                pruned.runs += 1;
                pruned.bytes += self.drop_run(record);
            }
        }
        Ok(pruned)
    }

    /// Drops the oldest records while all of them take too much room.
    pub(crate) fn keep_small(&self, last: u64) {
        let Ok(runs) = self.runs() else { return };
        let mut bytes: u64 = runs.iter().map(|record| record.kept).sum();
        for record in runs.iter().filter(|record| record.progress == Progress::Done && record.run != last) {
            if bytes <= MOST_BYTES {
                return;
            }
            bytes -= self.drop_run(record).min(bytes);
        }
    }

    /// Drops a record, and says how many bytes of copies went with it.
    fn drop_run(&self, record: &RunRecord) -> u64 {
        // What cannot be removed is tried again the next time.
        let _ = fs::remove_dir_all(self.run_folder(record.run));
        record.kept
    }
}

/// What a run left at a path, as a plan expects it.
fn left_behind(entry: &Entry) -> Standing {
    match &entry.will {
        Will::File { size, hash, .. } | Will::Moved { size, hash, .. } => Standing::File(print_of(*size, hash)),
        Will::Link { target, .. } => Standing::Link(target.path()),
        Will::Folder { .. } => Standing::Folder,
        Will::Nothing => Standing::Nothing,
    }
}
