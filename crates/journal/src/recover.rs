//! Putting back a run that did not end, and what finishing it (`forward`) shares with that: in the same process after a failure, or much later after it was cut off. What
//! is to be done is told by looking, so that either can be cut off too, and begun again, and mixed with the other.

use rayon::prelude::*;

use crate::error::{Failure, LeftOut, doing};
use crate::files::{At, FileSystem, Found, NewAttributes};
use crate::place::Phase;
use crate::record::{Entry, Known, NewState, OldState, Place, Progress, Run, Site};
use crate::session::Session;

pub(crate) type Done = Result<(), Failure>;

/// The order of folders within others: what goes goes from the bottom up, and what comes back comes from the top down.
#[derive(Clone, Copy)]
pub(crate) enum Order {
    TopDown,
    BottomUp,
}

/// How a path stands in the way of undoing or finishing.
pub(crate) const SINCE: &str = "was changed since";

impl<F: FileSystem> Session<'_, F> {
    /// Puts back what a run changed, as far as it came. Every path that could not be put back is named; the others are put back.
    pub(crate) fn roll_back(&self, run: &Run) -> Vec<LeftOut> {
        let entries = &run.entries;
        let mut left = Vec::new();
        if !run.head.progress.is_as_before() {
            self.unlock(run);
            left.extend(self.resolve_exchanges(entries));
            for phase in Phase::ALL.into_iter().rev() {
                left.extend(self.in_phase(entries, phase, Order::TopDown, |index| self.back(entries, index, phase)));
            }
            left.extend(self.attributes_back(entries));
        }
        left.sort();
        left
    }

    /// Clears away what was prepared, once everything is put back.
    pub(crate) fn clear_prepared(&self, run: &Run) -> Vec<LeftOut> {
        self.clear_drafts(&run.entries);
        let left = self.clear_new(&run.entries, run.head.progress == Progress::Preparing);
        self.times_back(run);
        left
    }

    /// Removes what was cut off while it was made from backups.
    pub(crate) fn clear_drafts(&self, entries: &[Entry]) {
        let kept = |entry: &Entry| matches!(entry.was, OldState::File(_) | OldState::Link { .. });
        (0..entries.len()).into_par_iter().filter(|&index| kept(&entries[index])).for_each(|index| {
            // What cannot go has a name that tells it as ours.
            let _ = self.clear_draft(entries, index);
        });
    }

    pub(crate) fn told(&self, entry: &Entry, done: Done) -> Option<LeftOut> {
        done.err().map(|failure| LeftOut { path: self.roots.full(&entry.place), reason: failure.reason() })
    }

    pub(crate) fn in_phase(
        &self,
        entries: &[Entry],
        phase: Phase,
        order: Order,
        work: impl Fn(usize) -> Done + Sync,
    ) -> Vec<LeftOut> {
        let indices: Vec<usize> = (0..entries.len()).filter(|&index| Phase::of(entries, index) == phase).collect();
        let work = |&index: &usize| {
            let done = if self.stop.count() > 1 { Err(Failure::Stopped) } else { work(index) };
            self.told(&entries[index], done)
        };
        match order {
            _ if !phase.is_ordered() => indices.par_iter().filter_map(work).collect(),
            Order::TopDown => indices.iter().filter_map(work).collect(),
            Order::BottomUp => indices.iter().rev().filter_map(work).collect(),
        }
    }

    pub(crate) fn resolve_exchanges(&self, entries: &[Entry]) -> Vec<LeftOut> {
        let settle = |(index, entry): (usize, &Entry)| {
            let replaces =
                entry.was != OldState::Nothing && entry.will != NewState::Nothing && entry.site == Site::Beside;
            if !replaces {
                return None;
            }
            let aftermath = self.resolve_exchange(&self.temporary(entries, index), &entry.place, index);
            self.told(entry, doing("put back", aftermath))
        };
        entries.par_iter().enumerate().filter_map(settle).collect()
    }

    /// Puts one entry back.
    fn back(&self, entries: &[Entry], index: usize, phase: Phase) -> Done {
        let entry = &entries[index];
        let found = doing("looked at", self.find(&entry.place))?;
        let is_old = doing("read", self.is_old(&entry.place, &found, &entry.was))?;
        match phase {
            Phase::Sets | Phase::WithOther => Ok(()),
            Phase::Move => self.back_moved(entries, index, &found),
            Phase::FolderGoes if entry.will == NewState::Nothing => match found {
                Found::Folder(_) => Ok(()),
                Found::Nothing => self.folder_back(entry),
                _ => Err(Failure::changed(SINCE)),
            },
            Phase::FolderComes if entry.was == OldState::Nothing => match found {
                Found::Nothing => Ok(()),
                Found::Folder(_) => self.take_folder_back(entries, index),
                _ => Err(Failure::changed(SINCE)),
            },
            Phase::FolderComes | Phase::FileComes | Phase::FolderGoes => {
                let from = entry.with.filter(|_| phase == Phase::FileComes);
                if let Some(from) = from {
                    self.back_gone(entries, from)?;
                }
                if matches!(entry.site, Site::Within(_)) {
                    return Ok(());
                }
                self.back_come(entries, index, &found, is_old)
            }
            Phase::FileGoes => self.back_gone(entries, index),
        }
    }

    /// Something came: it goes, and what it replaced comes back.
    fn back_come(&self, entries: &[Entry], index: usize, found: &Found, is_old: bool) -> Done {
        let entry = &entries[index];
        let is_new = doing("read", self.is_new(&entry.place, found, &entry.will))?;
        if entry.was == OldState::Nothing {
            return match (found, is_new) {
                (Found::Nothing, _) => Ok(()),
                (_, true) => self.take_back(entries, index),
                _ => Err(Failure::changed(SINCE)),
            };
        }
        if is_old && !(is_new && self.is_the_new_one(entry, found)) {
            return Ok(());
        }
        let temporary = self.temporary(entries, index);
        let waiting = doing("looked at", self.find(&temporary))?;
        let holds_old = waiting != Found::Nothing && !doing("read", self.is_the_prepared(&temporary, &waiting, entry))?;
        match found {
            Found::Nothing if holds_old => doing("put back", self.rename_new(&temporary, &entry.place)),
            Found::Nothing if matches!(entry.was, OldState::Folder(_)) => self.folder_back(entry),
            Found::Nothing => {
                self.make_room(entries, index, &waiting)?;
                self.restore(entries, index)?;
                doing("put back", self.rename_new(&temporary, &entry.place))
            }
            _ if !is_new => Err(Failure::changed(SINCE)),
            Found::Folder(_) if !matches!(entry.was, OldState::Folder(_)) && !self.holds_only_known(entries, index) => {
                Err(Failure::changed("holds something that the run did not put there"))
            }
            _ => {
                if !holds_old {
                    self.make_room(entries, index, &waiting)?;
                    match entry.was {
                        OldState::Folder(_) => doing("made", self.make_folder(&temporary, true))?,
                        _ => self.restore(entries, index)?,
                    }
                }
                doing("put back", self.exchange(entries, index))?;
                let out = doing("looked at", self.find(&temporary))?;
                if doing("read", self.is_new(&temporary, &out, &entry.will))? {
                    return Ok(());
                }
                doing("put back", self.exchange(entries, index))?;
                Err(Failure::changed(SINCE))
            }
        }
    }

    /// Whether what is there is the very file that the run made, where it holds what the old one held too.
    fn is_the_new_one(&self, entry: &Entry, found: &Found) -> bool {
        match (&entry.will, &entry.was, found) {
            (NewState::File(new), OldState::File(old), Found::File(metadata)) => {
                new.identity == Some(metadata.identity) || old.known.identity != metadata.identity
            }
            _ => false,
        }
    }

    /// Whether what waits at a temporary place is what the run made, and not what was there before.
    fn is_the_prepared(&self, place: &Place, found: &Found, entry: &Entry) -> std::io::Result<bool> {
        if let (NewState::File(new), Found::File(metadata)) = (&entry.will, found)
            && new.identity == Some(metadata.identity)
        {
            return Ok(true);
        }
        match (&entry.was, found) {
            (OldState::File(old), Found::File(metadata)) if old.known.identity == metadata.identity => Ok(false),
            _ => Ok(self.is_new(place, found, &entry.will)? && !self.is_old(place, found, &entry.was)?),
        }
    }

    /// Clears a temporary place of what the run made.
    fn make_room(&self, entries: &[Entry], index: usize, waiting: &Found) -> Done {
        let temporary = self.temporary(entries, index);
        match waiting {
            Found::Nothing => Ok(()),
            Found::Folder(_) => doing("removed", self.remove_folder(&temporary)),
            found if self.remove_unchanged(&temporary, found)? => Ok(()),
            _ => self.keep_later(&temporary, &entries[index].place, index),
        }
    }

    /// A file went: it comes back, as it is where it waits, or else from its backup.
    fn back_gone(&self, entries: &[Entry], index: usize) -> Done {
        let entry = &entries[index];
        match doing("looked at", self.find(&entry.place))? {
            Found::Nothing => {}
            found if self.is_old(&entry.place, &found, &entry.was).unwrap_or(false) => return Ok(()),
            _ => return Err(Failure::changed(SINCE)),
        }
        let temporary = self.temporary(entries, index);
        if doing("looked at", self.find(&temporary))? == Found::Nothing {
            self.restore(entries, index)?;
        }
        doing("put back", self.rename_new(&temporary, &entry.place))
    }

    fn back_moved(&self, entries: &[Entry], index: usize, found: &Found) -> Done {
        let Some(from) = entries[index].with else { return Ok(()) };
        if *found == Found::Nothing {
            let there = doing("looked at", self.find(&entries[from].place))?;
            return if doing("read", self.is_old(&entries[from].place, &there, &entries[from].was))? {
                Ok(())
            } else {
                Err(Failure::changed("is not there any more"))
            };
        }
        if !doing("read", self.is_old(&entries[index].place, found, &entries[from].was))? {
            return Err(Failure::changed(SINCE));
        }
        match self.rename_new(&entries[index].place, &entries[from].place) {
            Err(error) if error.kind() == std::io::ErrorKind::AlreadyExists => {
                // Both may be there because another program put one back.
                let there = doing("looked at", self.find(&entries[from].place))?;
                if self.is_old(&entries[from].place, &there, &entries[from].was).unwrap_or(false) {
                    Err(Failure::changed("stands at its old place too"))
                } else {
                    Err(Failure::Changed(format!(
                        "cannot go back to {}: something else stands there",
                        self.roots.full(&entries[from].place).display()
                    )))
                }
            }
            renamed => doing("moved back", renamed),
        }
    }

    /// A folder that went is made again. The folders above it come first.
    fn folder_back(&self, entry: &Entry) -> Done {
        let mut missing = vec![entry.place.clone()];
        while let Some(above) = missing.last().map(Place::folder) {
            if above.path.as_os_str().is_empty() || doing("looked at", self.find(&above))? != Found::Nothing {
                break;
            }
            missing.push(above);
        }
        for place in missing.iter().rev() {
            doing("made", self.make_folder(place, true))?;
        }
        Ok(())
    }

    /// A folder that the run made goes back to where it was prepared, if it holds nothing else; otherwise what the run put into it
    /// goes, and the rest stays.
    fn take_folder_back(&self, entries: &[Entry], index: usize) -> Done {
        let place = &entries[index].place;
        if self.holds_only_known(entries, index) {
            let temporary = self.temporary(entries, index);
            doing("taken back", self.rename_new(place, &temporary))?;
            self.roots.forget(place);
            return Ok(());
        }
        let inside = within(entries, index);
        for entry in inside.iter().rev() {
            let found = doing("looked at", self.find(&entry.place))?;
            match found {
                Found::Nothing => {}
                // One that holds something else stays.
                Found::Folder(_) => drop(self.remove_folder(&entry.place)),
                // One that another program changes at this moment stays.
                _ if doing("read", self.is_new(&entry.place, &found, &entry.will))? => {
                    self.remove_unchanged(&entry.place, &found)?;
                }
                _ => {}
            }
        }
        match self.remove_folder(place) {
            Err(error) if error.kind() == std::io::ErrorKind::DirectoryNotEmpty => {
                Err(Failure::changed("holds something that the run did not put there"))
            }
            removed => doing("removed", removed),
        }
    }

    /// Whether a folder that the run made holds nothing but what the run put there, unchanged.
    fn holds_only_known(&self, entries: &[Entry], index: usize) -> bool {
        let inside = within(entries, index);
        let known = |place: &Place| inside.binary_search_by(|entry| entry.place.cmp(place)).ok().map(|at| inside[at]);
        let folders = std::iter::once(&entries[index]).chain(inside.iter().copied());
        for folder in folders.filter(|entry| matches!(entry.will, NewState::Folder(_))) {
            let Ok(open) = self.roots.folder(&folder.place) else { return false };
            let Ok(names) = self.files.list(&open) else { return false };
            for name in names {
                let place = Place::new(folder.place.root, folder.place.path.join(&name));
                let Some(entry) = known(&place) else { return false };
                let Ok(found) = self.files.find(At::new(&*open, &name)) else { return false };
                if entry.will != NewState::Moved && !self.is_new(&place, &found, &entry.will).unwrap_or(false) {
                    return false;
                }
            }
        }
        true
    }

    /// Removes what was prepared and is not in its place. Of a run that changed nothing yet, it may be half written.
    fn clear_new(&self, entries: &[Entry], unfinished: bool) -> Vec<LeftOut> {
        let mut left = Vec::new();
        for (index, entry) in entries.iter().enumerate().rev() {
            if entry.site == Site::None {
                continue;
            }
            let cleared = if unfinished {
                doing("removed", self.clear_left_out(entries, index))
            } else if (&entry.was, &entry.will) == (&OldState::Nothing, &NewState::Nothing) {
                self.clear_with_care(entries, index)
            } else {
                self.clear_put_back(entries, index)
            };
            left.extend(self.told(entry, cleared));
        }
        left
    }

    /// Removes what was prepared for an entry, once what was there before is back.
    fn clear_put_back(&self, entries: &[Entry], index: usize) -> Done {
        let (temporary, entry) = (self.temporary(entries, index), &entries[index]);
        let found = doing("looked at", self.find(&temporary))?;
        match &found {
            Found::Nothing => return Ok(()),
            Found::Folder(_) => match self.remove_folder(&temporary) {
                Err(error) if error.kind() == std::io::ErrorKind::DirectoryNotEmpty => {}
                removed => return doing("removed", removed),
            },
            _ => {
                let known = self.is_new(&temporary, &found, &entry.will).unwrap_or(false)
                    || self.is_old(&temporary, &found, &entry.was).unwrap_or(false);
                if known && self.remove_unchanged(&temporary, &found)? {
                    return Ok(());
                }
            }
        }
        self.keep_later(&temporary, &entry.place, index)
    }

    /// Folders that are there again, or whose attributes were set, get their attributes back.
    fn attributes_back(&self, entries: &[Entry]) -> Vec<LeftOut> {
        let folders = entries.iter().rev().filter_map(|entry| match &entry.was {
            OldState::Folder(known) => Some((entry, known)),
            _ => None,
        });
        let back = |(entry, known): (&Entry, &Known)| {
            let extended = known.extended();
            let wanted = NewAttributes {
                mode: Some(known.mode),
                modified: known.modified,
                owner: Some(known.owner),
                extended: Some(&extended),
            };
            self.told(entry, self.set_folder(&entry.place, &wanted))
        };
        folders.filter_map(back).collect()
    }

    /// Folders that may not be written into are opened up for their owner while something in them comes or goes.
    pub(crate) fn unlock(&self, run: &Run) {
        let made =
            run.entries.iter().filter(|entry| matches!(entry.will, NewState::Folder(_))).map(|entry| &entry.place);
        for place in run.touched.iter().map(|touched| &touched.place).chain(made) {
            let Ok(folder) = self.roots.folder(place) else { continue };
            if let Ok(metadata) = self.files.metadata(&folder)
                && metadata.mode & 0o300 != 0o300
            {
                // Where it cannot be done, what is in the folder is told.
                let _ = self.files.set_folder(
                    &folder,
                    &NewAttributes { mode: Some(metadata.mode | 0o700), ..NewAttributes::default() },
                );
            }
        }
    }

    /// Folders in which something came and went have the times and permissions again that they had.
    pub(crate) fn times_back(&self, run: &Run) {
        let folders: Vec<Place> = run.touched.iter().map(|touched| touched.place.clone()).collect();
        // What cannot be flushed or set was told with what it is about, or is no more than a time.
        let _ = self.flush(&[], &folders);
        for touched in run.touched.iter().rev() {
            let Ok(folder) = self.roots.folder(&touched.place) else { continue };
            let wanted = NewAttributes { mode: touched.unlocked, modified: touched.before, ..NewAttributes::default() };
            let _ = self.files.set_folder(&folder, &wanted);
        }
    }

    /// Whether anything that a run left, or found, is still in the folder of an entry: something that tells it from another folder.
    pub(crate) fn has_evidence(&self, run: &Run, folder: &Place) -> bool {
        run.entries.iter().filter(|entry| entry.place.folder() == *folder).any(|entry| {
            let Ok(found) = self.find(&entry.place) else { return false };
            found != Found::Nothing
                && (self.is_new(&entry.place, &found, &entry.will).unwrap_or(false)
                    || self.is_old(&entry.place, &found, &entry.was).unwrap_or(false))
        }) || run.entries.iter().filter(|entry| entry.place.folder() == *folder).any(|entry| {
            matches!(&entry.will, NewState::Moved) && self.find(&entry.place).is_ok_and(|found| found != Found::Nothing)
        })
    }
}

/// The entries below a folder that the run makes.
fn within(entries: &[Entry], index: usize) -> Vec<&Entry> {
    let place = &entries[index].place;
    entries[index + 1..].iter().take_while(|entry| place.contains(&entry.place)).collect()
}
