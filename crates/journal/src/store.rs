//! The folder of the journal: the lock, the runs and their records.
//!
//! `open/N` is a run that is not ended, `runs/N` one that is; a run ends when its folder is renamed from the one to the other. What is
//! dropped is renamed first, so that a record is there whole or not at all.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::ffi::{OsStr, OsString};
use std::io;
use std::path::PathBuf;
use std::thread;
use std::time::{Duration, Instant};

use serde::{Deserialize, Serialize};

use crate::error::JournalError;
use crate::files::{At, Bytes, FileSystem, Found, Lock, NewAttributes};
use crate::format;
use crate::journal::Journal;
use crate::names::{LATER, Token};
use crate::record::{Run, RunRecord};

const RECORD: &str = "record";
const DRAFT: &str = "record.new";
const LOCK: &str = "lock";
/// How folders are named that are being dropped.
const DROPPED: &str = "dropped-";
/// The record of earlier versions.
const OLD_RECORD: &str = "record.json";
/// How often a run that waits looks again.
const LOOK_AGAIN: Duration = Duration::from_millis(50);
/// Bytes that hold the head of most records.
pub(crate) const HEAD: u64 = 4096;

/// The open folders of a journal.
pub(crate) struct Store<'j, F: FileSystem> {
    journal: &'j Journal<F>,
    pub(crate) root: F::Folder,
    pub(crate) open: F::Folder,
    pub(crate) runs: F::Folder,
}

/// The open folder of a run.
pub(crate) struct RunFolder<F: FileSystem> {
    pub(crate) run: u64,
    pub(crate) folder: F::Folder,
    pub(crate) is_open: bool,
}

/// A run in a list of all.
#[derive(Clone, Debug, Serialize)]
pub struct Listed {
    /// Its number.
    #[serde(rename = "number")]
    pub run: u64,
    /// What is known of it.
    #[serde(flatten)]
    pub state: RunState,
    /// The run that undid it.
    pub undone_by: Option<u64>,
    /// A run that undid a part of it.
    pub undone_in_part_by: Option<u64>,
}

/// What is known of a run.
#[derive(Clone, Debug, Serialize)]
#[serde(tag = "state", rename_all = "snake_case")]
pub enum RunState {
    /// It ended.
    Done(RunRecord),
    /// It was cut off, or could not be ended.
    Open(RunRecord),
    /// It is at work now.
    AtWork(RunRecord),
    /// An earlier version of the program wrote it.
    Old {
        /// What was typed.
        command: String,
        /// When it began.
        begun: String,
    },
    /// Its record cannot be read.
    Damaged {
        /// Why not.
        reason: String,
        /// Whether it did not end.
        is_open: bool,
    },
}

impl RunState {
    /// The record, if it can be read.
    pub fn record(&self) -> Option<&RunRecord> {
        match self {
            Self::Done(record) | Self::Open(record) | Self::AtWork(record) => Some(record),
            Self::Old { .. } | Self::Damaged { .. } => None,
        }
    }
}

#[derive(Deserialize)]
struct OldRecord {
    #[serde(default)]
    command: String,
    #[serde(default)]
    begun: String,
}

impl<F: FileSystem> Journal<F> {
    /// The folders of the journal, which are made if they are missing.
    pub(crate) fn store(&self) -> Result<Store<'_, F>, JournalError> {
        let opened = || -> io::Result<Store<'_, F>> {
            let root = self.files.open_private(&self.path)?;
            let mut folders = Vec::with_capacity(2);
            for name in ["open", "runs"] {
                match self.files.make_folder(At::new(&root, name), true) {
                    Err(error) if error.kind() == io::ErrorKind::AlreadyExists => {}
                    made => made?,
                }
                folders.push(self.files.open_beneath(&root, name.as_ref())?);
            }
            let (Some(runs), Some(open)) = (folders.pop(), folders.pop()) else { unreachable!("both were opened") };
            Ok(Store { journal: self, root, open, runs })
        };
        opened().map_err(|error| self.unusable(error))
    }

    /// The folders of the journal, if there is one.
    pub(crate) fn existing_store(&self) -> Result<Option<Store<'_, F>>, JournalError> {
        match self.files.open_root(&self.path) {
            Err(error) if matches!(error.kind(), io::ErrorKind::NotFound | io::ErrorKind::NotADirectory) => Ok(None),
            _ => self.store().map(Some),
        }
    }

    pub(crate) fn unusable(&self, error: io::Error) -> JournalError {
        JournalError::Journal { path: self.path.clone(), error }
    }
}

impl<F: FileSystem> Store<'_, F> {
    pub(crate) fn files(&self) -> &F {
        &self.journal.files
    }

    fn failed(&self, error: io::Error) -> JournalError {
        self.journal.unusable(error)
    }

    /// Waits for the lock. It says once for whom it waits, and not longer than the journal is told to.
    pub(crate) fn lock(&self, command: &str) -> Result<Box<dyn Lock>, JournalError> {
        let at = At::new(&self.root, LOCK);
        let began = Instant::now();
        let mut told = false;
        loop {
            if let Some(mut lock) = self.files().lock(at).map_err(|error| self.failed(error))? {
                lock.sign(&format!("process {}: {command}", std::process::id()));
                self.clear_dropped();
                return Ok(lock);
            }
            if self.journal.stop.count() > 0 || began.elapsed() >= self.journal.patience {
                let seconds = began.elapsed().as_secs();
                return Err(JournalError::Busy { holder: self.holder(), seconds });
            }
            if !told {
                (self.journal.on_wait)(&self.holder());
                told = true;
            }
            thread::sleep(LOOK_AGAIN);
        }
    }

    /// Whether a run is at work.
    pub(crate) fn is_at_work(&self) -> bool {
        matches!(self.files().lock(At::new(&self.root, LOCK)), Ok(None))
    }

    fn holder(&self) -> String {
        let read = self.files().read(At::new(&self.root, LOCK), HEAD).ok().and_then(|read| read.bytes);
        let text = String::from_utf8_lossy(&read.unwrap_or_default()).into_owned();
        if text.is_empty() { "an unknown process".to_owned() } else { text }
    }

    /// A new run, with a folder of its own.
    pub(crate) fn new_run(&self) -> Result<RunFolder<F>, JournalError> {
        let mut run = self.tally()?.last + 1;
        loop {
            let name = OsString::from(run.to_string());
            let taken = self.files().find(At::new(&self.runs, &name)).map_err(|error| self.failed(error))?;
            if taken == Found::Nothing {
                match self.files().make_folder(At::new(&self.open, &name), true) {
                    Ok(()) => break,
                    Err(error) if error.kind() == io::ErrorKind::AlreadyExists => {}
                    Err(error) => return Err(self.failed(error)),
                }
            }
            run += 1;
        }
        self.folder(run)?.ok_or(JournalError::NoRun(run))
    }

    /// The folder of a run.
    pub(crate) fn folder(&self, run: u64) -> Result<Option<RunFolder<F>>, JournalError> {
        let name = run.to_string();
        for (above, is_open) in [(&self.open, true), (&self.runs, false)] {
            match self.files().open_beneath(above, name.as_ref()) {
                Ok(folder) => return Ok(Some(RunFolder { run, folder, is_open })),
                Err(error) if error.kind() == io::ErrorKind::NotFound => {}
                Err(error) => return Err(self.failed(error)),
            }
        }
        Ok(None)
    }

    /// The path of the folder of a run.
    pub(crate) fn path_of(&self, folder: &RunFolder<F>) -> PathBuf {
        self.journal.path.join(if folder.is_open { "open" } else { "runs" }).join(folder.run.to_string())
    }

    /// Writes a record whole.
    pub(crate) fn write(&self, folder: &RunFolder<F>, run: &Run) -> io::Result<()> {
        let (draft, record) = (At::new(&folder.folder, DRAFT), At::new(&folder.folder, RECORD));
        if self.files().find(draft)? != Found::Nothing {
            self.files().remove(draft)?;
        }
        let wanted = NewAttributes { mode: Some(0o600), ..NewAttributes::default() };
        self.files().create(draft, Bytes::These(&format::written(run)), &wanted)?;
        self.files().flush_files(&[draft])?;
        self.files().rename(draft, record)?;
        self.files().flush_folders(&[&folder.folder, &self.open])
    }

    /// Reads a record.
    pub(crate) fn read(&self, folder: &RunFolder<F>) -> Result<Run, JournalError> {
        let at = At::new(&folder.folder, RECORD);
        let bytes = self.files().read(at, u64::MAX).map(|read| read.bytes.unwrap_or_default());
        let run = bytes.map_err(|error| error.to_string()).and_then(|bytes| format::read(&bytes));
        run.map_err(|reason| self.unreadable(folder, &reason))
    }

    fn unreadable(&self, folder: &RunFolder<F>, reason: &str) -> JournalError {
        let path = self.path_of(folder);
        match self.files().find(At::new(&folder.folder, OLD_RECORD)) {
            Ok(Found::File(_)) => JournalError::Refused(format!(
                "run {} was written by an earlier version of Tideline, which undoes it; its backups are in {}",
                folder.run,
                path.display()
            )),
            _ => JournalError::Record { run: folder.run, path, reason: reason.to_owned() },
        }
    }

    /// The head of a record, without reading the rest.
    fn head(&self, folder: &RunFolder<F>) -> Result<RunRecord, String> {
        let at = At::new(&folder.folder, RECORD);
        let size = match self.files().find(at) {
            Ok(Found::File(metadata)) => metadata.stamp.size,
            Ok(_) => return Err("it is missing".to_owned()),
            Err(error) => return Err(error.to_string()),
        };
        let range =
            |start: u64, length: u64| self.files().read_range(at, (start, length)).map_err(|error| error.to_string());
        let end = size.min(format::CHECKSUM);
        if !format::ends_whole(&range(size - end, end)?) {
            return Err("its end is missing".to_owned());
        }
        let mut length = size.min(HEAD);
        loop {
            match format::read_head(&range(0, length)?) {
                Some(head) => return head,
                None if length == size => return Err("it is damaged".to_owned()),
                None => length = (length * 4).min(size),
            }
        }
    }

    /// The run that undid another, all of it.
    pub(crate) fn undone_by(&self, run: u64) -> Result<Option<u64>, JournalError> {
        let newer = self.numbers(&self.runs)?.into_iter().rev().take_while(|number| *number > run);
        let mut states = Vec::new();
        for number in newer {
            states.extend(self.state(number, false)?.map(|state| (number, state)));
        }
        Ok(undone(states.iter().map(|(run, state)| (*run, state))).whole.get(&run).copied())
    }

    /// The runs that did not end, the oldest first, from one listing.
    pub(crate) fn open_numbers(&self) -> Result<Vec<u64>, JournalError> {
        self.numbers(&self.open)
    }

    pub(crate) fn numbers(&self, folder: &F::Folder) -> Result<Vec<u64>, JournalError> {
        let names = self.files().list(folder).map_err(|error| self.failed(error))?;
        let mut numbers: Vec<u64> = names.iter().filter_map(|name| name.to_str()?.parse().ok()).collect();
        numbers.sort_unstable();
        Ok(numbers)
    }

    /// The last runs that ended, the newest first.
    pub(crate) fn last_numbers(&self, most: usize) -> Result<Vec<u64>, JournalError> {
        Ok(self.numbers(&self.runs)?.into_iter().rev().take(most).collect())
    }

    /// What is known of one run.
    pub(crate) fn state(&self, run: u64, at_work: bool) -> Result<Option<RunState>, JournalError> {
        let Some(folder) = self.folder(run)? else { return Ok(None) };
        Ok(Some(match self.head(&folder) {
            Ok(record) if !folder.is_open => RunState::Done(record),
            Ok(record) if at_work => RunState::AtWork(record),
            Ok(record) => RunState::Open(record),
            Err(reason) => match self.files().read(At::new(&folder.folder, OLD_RECORD), 1 << 20) {
                Ok(read) => {
                    let old: OldRecord = serde_json::from_slice(&read.bytes.unwrap_or_default())
                        .unwrap_or(OldRecord { command: String::new(), begun: String::new() });
                    RunState::Old { command: old.command, begun: old.begun }
                }
                // A run that was cut off before its record was there changed nothing.
                Err(_) if folder.is_open && reason == "it is missing" => return Ok(None),
                Err(_) => RunState::Damaged { reason, is_open: folder.is_open },
            },
        }))
    }

    /// All runs, the oldest first.
    pub(crate) fn list(&self) -> Result<Vec<Listed>, JournalError> {
        let at_work = self.is_at_work();
        let mut numbers = self.numbers(&self.runs)?;
        numbers.extend(self.open_numbers()?);
        numbers.sort_unstable();
        numbers.dedup();
        let mut states = BTreeMap::new();
        for run in numbers {
            if let Some(state) = self.state(run, at_work)? {
                states.insert(run, state);
            }
        }
        let undone = undone(states.iter().rev().map(|(run, state)| (*run, state)));
        let listed = states.into_iter().map(|(run, state)| Listed {
            run,
            state,
            undone_by: undone.whole.get(&run).copied(),
            undone_in_part_by: undone.in_part.get(&run).copied(),
        });
        Ok(listed.collect())
    }

    /// The last run that is in force and does not undo another, reading no more records than needed.
    pub(crate) fn last_in_force(&self) -> Result<Option<u64>, JournalError> {
        let mut numbers = self.numbers(&self.runs)?;
        let mut newer: Vec<(u64, RunState)> = Vec::new();
        while let Some(run) = numbers.pop() {
            let Some(state) = self.state(run, false)? else { continue };
            match &state {
                RunState::Damaged { reason, .. } => {
                    return Err(JournalError::Refused(format!(
                        "the record of run {run}, the last, cannot be read ({reason}); name the run that is to be undone: `tideline runs` lists them"
                    )));
                }
                RunState::Old { .. } => {
                    return Err(JournalError::Refused(format!(
                        "run {run}, the last, was written by an earlier version of Tideline, which undoes it; name another run to undo that: `tideline runs` lists them"
                    )));
                }
                _ => {}
            }
            let undoes = state.record().is_some_and(|record| record.undoes.is_some());
            newer.push((run, state));
            let undone = undone(newer.iter().map(|(run, state)| (*run, state)));
            if !undoes && !undone.whole.contains_key(&run) {
                return Ok(Some(run));
            }
        }
        Ok(None)
    }

    /// The tokens of all runs that are known.
    pub(crate) fn tokens(&self) -> Result<HashSet<Token>, JournalError> {
        let mut numbers = self.numbers(&self.runs)?;
        numbers.extend(self.open_numbers()?);
        let states = numbers.into_iter().filter_map(|run| self.state(run, false).ok().flatten());
        Ok(states.filter_map(|state| Some(state.record()?.token.clone())).collect())
    }

    /// Drops the record of a run, whole.
    pub(crate) fn drop_run(&self, run: u64) -> io::Result<()> {
        let name = OsString::from(run.to_string());
        let token = Token::random()?.name(0);
        let mut dropped = OsString::from(DROPPED);
        dropped.push(token);
        let to = At::new(&self.root, &dropped);
        match self.files().rename_new(At::new(&self.runs, &name), to) {
            Err(error) if error.kind() == io::ErrorKind::NotFound => {
                self.files().rename_new(At::new(&self.open, &name), to)?;
            }
            renamed => renamed?,
        }
        self.clear_folder(&dropped)
    }

    /// Whether versions of files are kept with a run that other programs wrote meanwhile.
    pub(crate) fn keeps_versions(&self, folder: &RunFolder<F>) -> bool {
        let is_version = |name: &OsString| name.to_string_lossy().starts_with(LATER);
        // What cannot be listed is not dropped.
        self.files().list(&folder.folder).map_or(true, |names| names.iter().any(is_version))
    }

    /// Removes what is left of records that were dropped.
    fn clear_dropped(&self) {
        for name in self.files().list(&self.root).unwrap_or_default() {
            if name.to_string_lossy().starts_with(DROPPED) {
                // What cannot be removed is tried again the next time.
                let _ = self.clear_folder(&name);
            }
        }
    }

    fn clear_folder(&self, name: &OsStr) -> io::Result<()> {
        let folder = self.files().open_beneath(&self.root, name.as_ref())?;
        for inside in self.files().list(&folder)? {
            self.files().remove(At::new(&folder, &inside))?;
        }
        self.files().remove_folder(At::new(&self.root, name))
    }
}

/// Which runs are undone, and by which.
struct Undone {
    whole: HashMap<u64, u64>,
    in_part: HashMap<u64, u64>,
}

/// An undoing that is itself undone undoes nothing. The runs come the newest first.
fn undone<'s>(runs: impl Iterator<Item = (u64, &'s RunState)>) -> Undone {
    let mut found = Undone { whole: HashMap::new(), in_part: HashMap::new() };
    for (run, state) in runs {
        let RunState::Done(record) = state else { continue };
        if let Some(other) = record.undoes.filter(|_| !found.whole.contains_key(&run)) {
            let kind = if record.whole { &mut found.whole } else { &mut found.in_part };
            kind.entry(other).or_insert(run);
        }
    }
    found
}
