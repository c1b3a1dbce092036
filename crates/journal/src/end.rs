//! The end of a run, when everything is in its place or everything is put back.

use rayon::prelude::*;

use crate::error::{Failure, LeftOut, doing, reason_of};
use crate::files::{FileSystem, Found, NewAttributes};
use crate::record::{Entry, NewState, OldState, Place, Progress, Run, Site};
use crate::session::Session;
use crate::store::{RunFolder, Store};

impl<F: FileSystem> Session<'_, F> {
    /// Removes what was there before from its temporary places. Versions that another program wrote meanwhile are kept, and noted in the
    /// entries. Whether all went.
    pub(crate) fn clear_all_old(&self, run: &mut Run) -> bool {
        let left_out = |entry: &Entry| (&entry.was, &entry.will) == (&OldState::Nothing, &NewState::Nothing);
        let waits = |entry: &Entry| {
            !matches!(entry.site, Site::None | Site::Within(_)) && entry.was != OldState::Nothing && !entry.only_sets()
        };
        let entries = &run.entries;
        let mut all = true;
        // What was prepared and is left out does not stay beside its place.
        for index in (0..entries.len()).rev().filter(|&index| left_out(&entries[index])) {
            all &= self.clear_with_care(entries, index).is_ok();
        }
        let cleared: Vec<(usize, Result<bool, Failure>)> = (0..entries.len())
            .into_par_iter()
            .filter(|&index| waits(&entries[index]))
            .map(|index| (index, self.clear_old(entries, index)))
            .collect();
        for (index, cleared) in cleared {
            match cleared {
                Ok(true) => {
                    if let OldState::File(old) = &mut run.entries[index].was {
                        old.later = true;
                    }
                }
                Ok(false) => {}
                Err(failure) => {
                    all = false;
                    let place = run.entries[index].place.clone();
                    self.note(&place, format!("was written, and its old version {}", failure.reason()));
                }
            }
        }
        all
    }

    /// Removes what was prepared for an entry that was left out. For a moment it may have stood in its place, where others could
    /// reach it: what they did is kept.
    pub(crate) fn clear_with_care(&self, entries: &[Entry], index: usize) -> Result<(), Failure> {
        let entry = &entries[index];
        if entry.site == Site::None {
            return Ok(());
        }
        let temporary = self.temporary(entries, index);
        let found = doing("looked at", self.find(&temporary))?;
        let will = entry.prepared.as_ref().unwrap_or(&entry.will);
        match (&found, will) {
            (Found::Nothing, _) => return Ok(()),
            (Found::Folder(_), _) => match self.remove_folder(&temporary) {
                Err(error) if error.kind() == std::io::ErrorKind::DirectoryNotEmpty => {}
                removed => return doing("removed", removed),
            },
            // It was cut off while it was made, and never stood anywhere else.
            (Found::File(_), NewState::File(new)) if new.identity.is_none() => {
                return doing("removed", self.remove(&temporary));
            }
            _ => {
                if doing("read", self.is_new(&temporary, &found, will))? && self.remove_unchanged(&temporary, &found)? {
                    return Ok(());
                }
            }
        }
        self.keep_later(&temporary, &entry.place, index)
    }

    /// Removes what was begun for an entry that is left out, and that no other program could reach yet.
    pub(crate) fn clear_left_out(&self, entries: &[Entry], index: usize) -> std::io::Result<()> {
        if entries[index].site == Site::None {
            return Ok(());
        }
        let temporary = self.temporary(entries, index);
        match self.find(&temporary)? {
            Found::Nothing => Ok(()),
            Found::Folder(_) => self.remove_folder(&temporary),
            _ => self.remove(&temporary),
        }
    }

    /// Ends a run of which everything is in its place: what was there before goes, folders get their attributes, and the record says that
    /// it is done.
    pub(crate) fn end(&self, store: &Store<'_, F>, folder: &RunFolder<F>, run: &mut Run) -> std::io::Result<()> {
        let cleared = self.clear_all_old(run);
        self.set_folders(&mut run.entries);
        // One flush is enough: until the record says that it is done, the run can be put back from its backups.
        let folders: Vec<Place> = run.touched.iter().map(|touched| touched.place.clone()).collect();
        self.flush(&[], &folders)?;
        for touched in &mut run.touched {
            let Ok(open) = self.roots.folder(&touched.place) else { continue };
            let is_set = |entry: &Entry| entry.only_sets() && entry.place == touched.place;
            if let Some(mode) = touched.unlocked.filter(|_| !run.entries.iter().any(is_set)) {
                let wanted = NewAttributes { mode: Some(mode), ..NewAttributes::default() };
                // It was opened up by its owner, who can close it again.
                let _ = self.files.set_folder(&open, &wanted);
            }
            touched.after = self.files.metadata(&open).ok().and_then(|metadata| metadata.stamp.modified);
        }
        run.head.progress = Progress::Done;
        store.write(folder, run)?;
        // What could not be cleared is tried again by the next run.
        if cleared { store.close(run.head.run, run.head.bytes) } else { Ok(()) }
    }

    /// Puts everything back, and clears away what was prepared. Every path that could not be put back is named.
    pub(crate) fn put_back(&self, store: &Store<'_, F>, folder: &RunFolder<F>, run: &mut Run) -> Vec<LeftOut> {
        let mut left = self.roll_back(run);
        if !left.is_empty() {
            return left;
        }
        // From here on the run can no longer be finished, and the record says so.
        if !run.head.progress.is_as_before() {
            run.head.progress = Progress::PutBack;
            if let Err(error) = store.write(folder, run) {
                let reason = format!("could not be recorded: {}", reason_of(&error));
                return vec![LeftOut { path: self.folder_path.clone(), reason }];
            }
        }
        left.extend(self.clear_prepared(run));
        left
    }
}
