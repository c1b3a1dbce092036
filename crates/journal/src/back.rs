//! Putting back what a run changed.

use std::collections::HashSet;
use std::io;
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use rayon::prelude::*;
use tideline_core::plan::Contents;

use crate::carry::{Journal, JournalError, Settled, Trouble, doing};
use crate::files::Found;
use crate::place::{Manner, State, Wanted};
use crate::record::{Entry, RunRecord, Was, Will, print_of};

/// What stands at a path that a run changed or was about to change.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Stands {
    AsBefore,
    AsAfter,
    /// Nothing: what was there is gone, and what takes its place, which is of another nature, has not come yet.
    Between,
    Otherwise,
}

impl Journal {
    /// Puts back what a run changed, as far as it came. Files that are neither what was there nor what the run left are touched
    /// only by force.
    pub(crate) fn put_back(&self, record: &RunRecord, folder: &Path, force: bool) -> Result<(), JournalError> {
        let open = |trouble: Trouble| trouble.settled(Settled::Open(record.run));
        let entries = &record.deeds.entries;
        let stands = self.all_stand(entries).map_err(open)?;
        let mut back = Vec::new();
        for (index, (entry, stands)) in entries.iter().zip(stands).enumerate() {
            match stands {
                // What went out of a folder and comes back changes its time.
                Stands::AsBefore if matches!(entry.was, Was::Folder { .. }) => {
                    back.extend(wanted_back(entry, folder, record.run, index));
                }
                Stands::AsBefore => {}
                Stands::Otherwise if !force => return Err(changed_since(record.run, &entry.path.path())),
                Stands::AsAfter | Stands::Between | Stands::Otherwise => {
                    back.extend(wanted_back(entry, folder, record.run, index));
                }
            }
        }
        // New folders must be empty before they can go.
        self.sweep(record);
        self.bring(&back, Manner::Strict).map_err(open)?;
        self.give_times_back(record);
        Ok(())
    }

    /// Clears away what a run made that changed nothing yet.
    pub(crate) fn clear_away(&self, record: &RunRecord) {
        self.sweep(record);
        self.give_times_back(record);
    }

    /// Folders in which something came and went have the time again that they had.
    fn give_times_back(&self, record: &RunRecord) {
        for touched in &record.deeds.touched {
            // A folder that is not there any more has no time to be set.
            let _ = self.files.set(&touched.path.path(), None, Some(SystemTime::from(touched.modified)));
        }
    }

    /// What stands at the path of every entry.
    pub(crate) fn all_stand(&self, entries: &[Entry]) -> Result<Vec<Stands>, Trouble> {
        let stands = |entry: &Entry| {
            let path = entry.path.path();
            doing("look at", &path, self.stands(entry, &path))
        };
        entries.par_iter().map(stands).collect()
    }

    fn stands(&self, entry: &Entry, path: &Path) -> io::Result<Stands> {
        let found = self.files.found(path)?;
        if entry.only_sets() {
            let is_there = matches!(found, Found::Folder { .. });
            return Ok(if is_there { Stands::AsAfter } else { Stands::AsBefore });
        }
        let print = if matches!(found, Found::File(_)) { Some(self.files.fingerprint(path)?) } else { None };
        let is_file = |size: u64, hash: &str| print == Some(print_of(size, hash));
        let is_folder = matches!(found, Found::Folder { .. });
        let is_link = |target: &Path| matches!(&found, Found::Link(to) if to == target);
        let before = match &entry.was {
            Was::Nothing => found == Found::Nothing,
            Was::Folder { .. } => is_folder,
            Was::File { size, hash, .. } | Was::Moved { size, hash, .. } => is_file(*size, hash),
            Was::Link { target } => is_link(&target.path()),
        };
        let after = match &entry.will {
            Will::Nothing => found == Found::Nothing,
            Will::Folder { .. } => is_folder,
            Will::File { size, hash, .. } | Will::Moved { size, hash, .. } => is_file(*size, hash),
            Will::Link { target, .. } => is_link(&target.path()),
        };
        Ok(match (before, after) {
            // A file that was rewritten with what it held stands both ways, and has its time put back.
            (true, true) if matches!(entry.was, Was::File { .. }) => Stands::AsAfter,
            (true, _) => Stands::AsBefore,
            (false, true) => Stands::AsAfter,
            _ if found == Found::Nothing && entry.changes_nature() => Stands::Between,
            (false, false) => Stands::Otherwise,
        })
    }

    /// Removes what was made beside its place and not put there, and new folders that are empty.
    pub(crate) fn sweep(&self, record: &RunRecord) {
        self.sweep_but(&record.deeds.entries, &[]);
    }

    /// The same for entries that are not among others.
    pub(crate) fn sweep_but(&self, entries: &[Entry], kept: &[Entry]) {
        let kept: HashSet<PathBuf> = kept.iter().filter_map(|entry| entry.will.beside()).collect();
        let mut made: Vec<(PathBuf, bool)> = entries
            .iter()
            .filter_map(|entry| Some((entry.will.beside()?, matches!(entry.will, Will::Folder { .. }))))
            .filter(|(beside, _)| !kept.contains(beside))
            .collect();
        made.sort_unstable();
        for (beside, is_folder) in made.into_iter().rev() {
            // What cannot be removed is in nobody's way: it is named as ours.
            drop(if is_folder { self.files.remove_folder(&beside) } else { self.files.remove(&beside) });
        }
    }
}

pub(crate) fn changed_since(run: u64, path: &Path) -> JournalError {
    JournalError::Refused(format!(
        "cannot undo run {run}: {} was changed since; --force puts it back all the same",
        path.display()
    ))
}

/// What is wanted where a run changed something.
fn wanted_back(entry: &Entry, folder: &Path, run: u64, index: usize) -> Option<Wanted> {
    let path = entry.path.path();
    let beside = path.with_file_name(format!(".tideline-{run}-back-{index}.tmp"));
    let will_folder = matches!(entry.will, Will::Folder { .. });
    let obstructed = entry.changes_nature();
    let (state, obstructed) = match &entry.was {
        // It goes when it comes back to where it was.
        Was::Nothing if matches!(entry.will, Will::Moved { .. }) => return None,
        Was::Nothing if will_folder => (State::NoFolder, false),
        Was::Nothing => (State::NoFile, false),
        Was::Folder { copy, mode, modified } => {
            let like = copy.as_ref().map(|copy| folder.join(copy));
            (State::Folder { beside: None, like, mode: *mode, modified: *modified }, obstructed)
        }
        Was::File { copy, mode, modified, owner, .. } => {
            let contents = Contents::CopyOf(folder.join(copy), None);
            (State::Made { contents, beside, mode: *mode, modified: *modified, owner: *owner }, obstructed)
        }
        Was::Link { target } => {
            let contents = Contents::Link(target.path());
            (State::Made { contents, beside, mode: None, modified: None, owner: None }, obstructed)
        }
        Was::Moved { to, mode, modified, .. } => {
            (State::Moved { from: to.path(), mode: *mode, modified: *modified }, false)
        }
    };
    Some(Wanted { path, state, obstructed })
}
