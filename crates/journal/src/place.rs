//! Putting what was prepared in its place, a step at a time, in an order in which each finds its folder.

use std::sync::Mutex;

use rayon::prelude::*;

use crate::error::{Failure, NOT_EMPTY, doing};
use crate::files::{FileSystem, Found, NewAttributes};
use crate::jobs::Jobs;
use crate::record::{Entry, NewState, OldState, Place, Site};
use crate::session::Session;

type Done = Result<(), Failure>;

/// The kinds of entries, in the order in which they are done.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Phase {
    /// A new folder comes, in the place of nothing or of a file.
    FolderComes,
    /// A file is renamed.
    Move,
    /// A file or a link comes, in the place of nothing or of another.
    FileComes,
    /// A file or a link goes.
    FileGoes,
    /// A folder goes, or a file comes in its place.
    FolderGoes,
    /// Only attributes of a folder are set.
    Sets,
    /// It is done with another entry.
    WithOther,
}

impl Phase {
    /// When an entry is done.
    pub(crate) fn of(entries: &[Entry], index: usize) -> Self {
        let entry = &entries[index];
        let comes_with_folder = matches!(entry.site, Site::Within(_));
        match (&entry.was, &entry.will) {
            _ if entry.only_sets() => Self::Sets,
            _ if comes_with_folder && entry.with.is_none() => Self::WithOther,
            (_, NewState::Moved) => Self::Move,
            (_, NewState::Nothing) if entry.with.is_some() => Self::WithOther,
            (_, NewState::Folder(_)) => Self::FolderComes,
            (OldState::Folder(_), _) => Self::FolderGoes,
            (_, NewState::Nothing) => Self::FileGoes,
            (_, NewState::File(_) | NewState::Link { .. }) => Self::FileComes,
        }
    }

    /// All but those that need nothing done by themselves.
    pub(crate) const ALL: [Self; 6] =
        [Self::FolderComes, Self::Move, Self::FileComes, Self::FileGoes, Self::FolderGoes, Self::Sets];

    /// Whether the entries of a phase are done one after the other, the deepest first.
    pub(crate) fn is_ordered(self) -> bool {
        matches!(self, Self::FolderGoes | Self::Sets)
    }
}

impl<F: FileSystem> Session<'_, F> {
    /// Puts everything in its place. What cannot be done is marked as lost; unless that is `tolerated`, the first such ends it, and is
    /// returned with the number of its entry.
    pub(crate) fn place(&self, jobs: &mut Jobs<'_>, tolerated: bool) -> Result<(), (Option<usize>, Failure)> {
        let mut by_phase: Vec<Vec<usize>> = vec![Vec::new(); Phase::ALL.len()];
        for index in 0..jobs.entries.len() {
            if let Some(phase) = Phase::ALL.iter().position(|phase| *phase == Phase::of(&jobs.entries, index)) {
                by_phase[phase].push(index);
            }
        }
        for (phase, indices) in Phase::ALL.into_iter().zip(by_phase) {
            let failures: Mutex<Vec<(usize, Failure)>> = Mutex::default();
            let work = |index: usize| -> Result<(), (Option<usize>, Failure)> {
                if !jobs.is_wanted(index) {
                    return Ok(());
                }
                let done = if self.stop.count() > 0 { Err(Failure::Stopped) } else { self.put(jobs, index, phase) };
                match done {
                    Err(failure @ (Failure::Stopped | Failure::Stuck(_))) => Err((Some(index), failure)),
                    Err(failure) if tolerated => {
                        failures.lock().unwrap_or_else(std::sync::PoisonError::into_inner).push((index, failure));
                        Ok(())
                    }
                    done => done.map_err(|failure| (Some(index), failure)),
                }
            };
            let done = if phase.is_ordered() {
                indices.iter().rev().try_for_each(|&index| work(index))
            } else {
                indices.par_iter().try_for_each(|&index| work(index))
            };
            let failures = failures.into_inner().unwrap_or_else(std::sync::PoisonError::into_inner);
            for (index, failure) in failures {
                jobs.lose(index, failure.reason());
            }
            done?;
        }
        Ok(())
    }

    fn put(&self, jobs: &Jobs<'_>, index: usize, phase: Phase) -> Done {
        let entries = &jobs.entries;
        let entry = &entries[index];
        match phase {
            Phase::Move => match entry.with {
                Some(from) => self.rename_file(&entries[from], &entry.place),
                None => Ok(()),
            },
            Phase::FolderComes | Phase::FileComes => {
                let within = matches!(entry.site, Site::Within(_));
                match entry.was {
                    // It came with its folder.
                    OldState::Nothing if within => {}
                    OldState::Nothing => self.put_new(entries, index)?,
                    _ => self.replace(entries, index)?,
                }
                let Some(from) = entry.with else { return Ok(()) };
                // The second half of a move with other contents; when it fails, the first is taken back.
                self.set_aside(entries, from).map_err(|failure| match self.take_back(entries, index) {
                    Ok(()) => failure,
                    Err(_) => failure.stuck(),
                })
            }
            Phase::FileGoes => self.set_aside(entries, index),
            Phase::FolderGoes => {
                self.clear_waiting(entries, index);
                if entry.will == NewState::Nothing {
                    self.remove_empty(&entry.place)
                } else {
                    self.replace(entries, index)
                }
            }
            // Folders get their attributes at the very end.
            Phase::Sets | Phase::WithOther => Ok(()),
        }
    }

    /// Takes back what was put where nothing stood.
    pub(crate) fn take_back(&self, entries: &[Entry], index: usize) -> Done {
        let (temporary, entry) = (self.temporary(entries, index), &entries[index]);
        if matches!(entry.site, Site::Within(_)) {
            return Ok(());
        }
        doing("taken back", self.rename_new(&entry.place, &temporary))?;
        let found = doing("looked at", self.find(&temporary))?;
        if self.is_new(&temporary, &found, &entry.will).unwrap_or(false) {
            return Ok(());
        }
        // Somebody changed it since: it stays.
        doing("put back", self.rename_new(&temporary, &entry.place))?;
        Err(Failure::changed("was changed since"))
    }

    fn remove_empty(&self, place: &Place) -> Done {
        match self.remove_folder(place) {
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => Err(Failure::changed(crate::error::GONE)),
            Err(error) if error.kind() == std::io::ErrorKind::DirectoryNotEmpty => Err(Failure::changed(NOT_EMPTY)),
            removed => doing("removed", removed),
        }
    }

    /// Old files that wait in a folder that goes, because they cannot wait elsewhere, go now.
    pub(crate) fn clear_waiting(&self, entries: &[Entry], folder: usize) {
        let place = &entries[folder].place;
        for index in folder + 1..entries.len() {
            let entry = &entries[index];
            if !place.contains(&entry.place) {
                break;
            }
            let waits = entry.site == Site::Beside && entry.place.folder() == *place && entry.will == NewState::Nothing;
            if waits {
                // What cannot go keeps the folder from going, which is told.
                let _ = self.clear_old(entries, index);
            }
        }
    }

    /// Gives a folder the attributes that the run gives it.
    pub(crate) fn set_as_wanted(&self, entry: &Entry) -> Done {
        let NewState::Folder(folder) = &entry.will else { return Ok(()) };
        let extended = folder.extended();
        let wanted = NewAttributes {
            mode: folder.mode,
            modified: folder.modified,
            owner: folder.owner,
            extended: extended.as_deref(),
        };
        self.set_folder(&entry.place, &wanted)
    }

    /// Folders that were made, or are set, get their attributes, the deepest first. What they cannot be given is told.
    pub(crate) fn set_folders(&self, entries: &mut [Entry]) {
        for entry in entries.iter_mut().rev() {
            if let Err(failure) = self.set_as_wanted(entry) {
                self.note(&entry.place, failure.reason());
                if let NewState::Folder(folder) = &mut entry.will {
                    (folder.mode, folder.owner) = (None, None);
                }
            }
        }
    }

    /// Removes the old file of an entry that is done from its temporary place, after a last look: a version that another program wrote
    /// meanwhile is kept. Whether one was.
    pub(crate) fn clear_old(&self, entries: &[Entry], index: usize) -> Result<bool, Failure> {
        let (temporary, entry) = (self.temporary(entries, index), &entries[index]);
        let found = doing("looked at", self.find(&temporary))?;
        match (&found, &entry.was) {
            (Found::Nothing, _) => Ok(false),
            (Found::Folder(_), OldState::Folder(_)) => match self.remove_folder(&temporary) {
                Err(error) if error.kind() == std::io::ErrorKind::DirectoryNotEmpty => {
                    self.keep_later(&temporary, &entry.place, index).map(|()| true)
                }
                removed => doing("removed", removed).map(|()| false),
            },
            // Where another program put the new contents in place, what was prepared waits still.
            _ if (self.is_old(&temporary, &found, &entry.was).unwrap_or(false)
                || self.is_new(&temporary, &found, &entry.will).unwrap_or(false))
                && self.remove_unchanged(&temporary, &found)? =>
            {
                Ok(false)
            }
            _ => self.keep_later(&temporary, &entry.place, index).map(|()| true),
        }
    }
}

impl Jobs<'_> {
    /// Leaves out an entry, and with a folder all that would be in it.
    pub(crate) fn lose(&mut self, index: usize, reason: String) {
        self.jobs[index].lost = Some(Some(reason));
        if let Some(other) = self.entries[index].with {
            self.jobs[other].lost.get_or_insert(None);
        }
        for other in self.below(index) {
            if matches!(self.entries[other].site, Site::Within(_)) {
                self.jobs[other].lost.get_or_insert(None);
            }
        }
    }

    /// The entries below the path of another; none where that is no new folder.
    pub(crate) fn below(&self, index: usize) -> std::ops::Range<usize> {
        let place = &self.entries[index].place;
        if !matches!(self.entries[index].will, NewState::Folder(_)) {
            return 0..0;
        }
        let count = self.entries[index + 1..].iter().take_while(|entry| place.contains(&entry.place)).count();
        index + 1..index + 1 + count
    }
}
