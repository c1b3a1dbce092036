//! What carrying out, putting back and finishing share: the open roots of a run, and the few ways in which a name changes. Each of
//! them looks at what it did, and takes it back when that is not what the plan saw.

use std::io;
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};
use std::time::SystemTime;

use rayon::prelude::*;
use tideline_core::internal::plan::Fingerprint;

use crate::error::{CHANGED, DAMAGED, Failure, GONE, NOT_EMPTY, Note, doing};
use crate::files::{At, Bytes, FileMetadata, FileSystem, Found, NewAttributes};
use crate::names::{LATER, Token};
use crate::policy::Stop;
use crate::record::{BackupRecord, Entry, Known, NewFile, NewState, OldFile, OldState, PathText, Place, Site};
use crate::roots::{Roots, is_absent, name_of};
use crate::store::RunFolder;

/// From so many files on, their file systems are flushed as a whole.
const MANY: usize = 32;

/// The file that holds all small backups.
pub(crate) const PACK: &str = "backups";

/// A run at work.
pub(crate) struct Session<'s, F: FileSystem> {
    pub(crate) files: &'s F,
    pub(crate) roots: Roots<'s, F>,
    pub(crate) token: Token,
    pub(crate) folder: &'s RunFolder<F>,
    pub(crate) folder_path: PathBuf,
    pub(crate) stop: &'s Stop,
    pub(crate) notes: Mutex<Vec<Note>>,
}

type Done = Result<(), Failure>;

impl<F: FileSystem> Session<'_, F> {
    pub(crate) fn note(&self, place: &Place, text: impl Into<String>) {
        let note = Note::of(&self.roots.full(place), text);
        self.notes.lock().unwrap_or_else(PoisonError::into_inner).push(note);
    }

    /// What stands at a place; nothing does where its folder is not there.
    pub(crate) fn find(&self, place: &Place) -> io::Result<Found> {
        match self.roots.find(place) {
            Err(error) if is_absent(&error) => Ok(Found::Nothing),
            found => found,
        }
    }

    fn look(&self, place: &Place) -> Result<Found, Failure> {
        doing("looked at", self.find(place))
    }

    /// Calls the file system for two places.
    fn both(
        &self,
        one: &Place,
        other: &Place,
        call: impl Fn(At<'_, F::Folder>, At<'_, F::Folder>) -> io::Result<()>,
    ) -> io::Result<()> {
        let folders = (self.roots.folder(&one.folder())?, self.roots.folder(&other.folder())?);
        call(At::new(&*folders.0, name_of(one)), At::new(&*folders.1, name_of(other)))
    }

    pub(crate) fn rename_new(&self, from: &Place, to: &Place) -> io::Result<()> {
        self.both(from, to, |from, to| self.files.rename_new(from, to))
    }

    pub(crate) fn remove(&self, place: &Place) -> io::Result<()> {
        let folder = self.roots.folder(&place.folder())?;
        self.files.remove(At::new(&*folder, name_of(place)))
    }

    /// Removes what was found at a place, if no program changed it since.
    pub(crate) fn remove_unchanged(&self, place: &Place, found: &Found) -> Result<bool, Failure> {
        let folder = doing("opened", self.roots.folder(&place.folder()))?;
        doing("removed", self.files.remove_unchanged(At::new(&*folder, name_of(place)), found))
    }

    pub(crate) fn remove_folder(&self, place: &Place) -> io::Result<()> {
        let folder = self.roots.folder(&place.folder())?;
        self.files.remove_folder(At::new(&*folder, name_of(place)))?;
        self.roots.forget(place);
        Ok(())
    }

    pub(crate) fn make_folder(&self, place: &Place, private: bool) -> io::Result<()> {
        let folder = self.roots.folder(&place.folder())?;
        self.files.make_folder(At::new(&*folder, name_of(place)), private)
    }

    pub(crate) fn fingerprint(&self, place: &Place) -> io::Result<Fingerprint> {
        let folder = self.roots.folder(&place.folder())?;
        Ok(self.files.read(At::new(&*folder, name_of(place)), 0)?.print)
    }

    /// Where the temporary file of an entry is.
    pub(crate) fn temporary(&self, entries: &[Entry], index: usize) -> Place {
        let entry = &entries[index];
        match &entry.site {
            Site::None => entry.place.clone(),
            Site::Beside => entry.place.beside(&self.token.name(index)),
            Site::Above(folder) => Place::new(entry.place.root, folder.path().join(self.token.name(index))),
            Site::Within(top) => {
                let below = entries[*top].place.below(&entry.place).and_then(tideline_core::internal::plan::path_of);
                let top = self.temporary(entries, *top);
                Place::new(top.root, top.path.join(below.unwrap_or_default()))
            }
        }
    }

    /// Whether a file is the old one of an entry, as it was when it was backed up.
    pub(crate) fn is_old_file(&self, place: &Place, metadata: &FileMetadata, old: &OldFile) -> io::Result<bool> {
        if metadata.stamp.size != old.size {
            return Ok(false);
        }
        let known = (old.known.identity, old.known.modified, old.known.mode, old.known.owner);
        let same = known == (metadata.identity, metadata.stamp.modified, metadata.mode, metadata.owner);
        if same && is_conclusive(metadata) {
            return Ok(true);
        }
        Ok(self.fingerprint(place)? == old.print())
    }

    /// Whether a file is the one that an entry writes.
    pub(crate) fn is_new_file(&self, place: &Place, metadata: &FileMetadata, new: &NewFile) -> io::Result<bool> {
        if metadata.stamp.size != new.size {
            return Ok(false);
        }
        let same = new.identity == Some(metadata.identity) && new.modified == metadata.stamp.modified;
        if same && is_conclusive(metadata) {
            return Ok(true);
        }
        Ok(self.fingerprint(place)? == new.print())
    }

    /// Whether what stands at a place is what an entry found there.
    pub(crate) fn is_old(&self, place: &Place, found: &Found, was: &OldState) -> io::Result<bool> {
        Ok(match (was, found) {
            (OldState::Nothing, Found::Nothing) | (OldState::Folder(_), Found::Folder(_)) => true,
            (OldState::Link { target, .. }, Found::Link(_, to)) => target.path() == *to,
            (OldState::File(old), Found::File(metadata)) => self.is_old_file(place, metadata, old)?,
            _ => false,
        })
    }

    /// Whether what stands at a place is what an entry puts there.
    pub(crate) fn is_new(&self, place: &Place, found: &Found, will: &NewState) -> io::Result<bool> {
        Ok(match (will, found) {
            (NewState::Nothing, Found::Nothing) | (NewState::Folder(_), Found::Folder(_)) => true,
            (NewState::Link { target }, Found::Link(_, to)) => target.path() == *to,
            (NewState::File(new), Found::File(metadata)) => self.is_new_file(place, metadata, new)?,
            _ => false,
        })
    }

    /// What is there is the very thing that was seen, and no program wrote to it.
    fn is_as_seen(&self, place: &Place, found: &Found, was: &OldState) -> io::Result<bool> {
        // One that was put back from its backup is another file with the same contents.
        let same_attributes =
            |metadata: &FileMetadata, known: &Known| (metadata.mode, metadata.owner) == (known.mode, known.owner);
        match (was, found) {
            (OldState::File(old), Found::File(metadata)) => {
                Ok(same_attributes(metadata, &old.known) && self.is_old_file(place, metadata, old)?)
            }
            (OldState::Folder(_), Found::Folder(_)) => {
                let folder = self.roots.folder(place)?;
                self.roots.forget(place);
                Ok(self.files.list(&folder)?.is_empty())
            }
            _ => self.is_old(place, found, was),
        }
    }

    /// Puts what was prepared where nothing stands.
    pub(crate) fn put_new(&self, entries: &[Entry], index: usize) -> Done {
        let (from, to) = (self.temporary(entries, index), &entries[index].place);
        match self.rename_new(&from, to) {
            Err(error) if error.kind() == io::ErrorKind::AlreadyExists => return Err(self.stands_there(to)),
            renamed => doing("written", renamed)?,
        }
        if matches!(entries[index].will, NewState::Folder(_)) {
            self.roots.forget(&from);
        }
        Ok(())
    }

    /// Why nothing can be put at a place.
    pub(crate) fn stands_there(&self, place: &Place) -> Failure {
        crate::jobs::alias_of(place, &self.roots, self.files)
            .map_or_else(|| Failure::changed("exists already"), |other| crate::jobs::is_alias(&other))
    }

    /// Exchanges what stands at two places. Where the system cannot do this in one step, a second name takes part.
    pub(crate) fn exchange(&self, entries: &[Entry], index: usize) -> io::Result<()> {
        let (temporary, entry) = (&self.temporary(entries, index), &entries[index]);
        let place = &entry.place;
        let exchanged = self.exchange_names(temporary, place, index);
        if matches!(entry.was, OldState::Folder(_)) || matches!(entry.will, NewState::Folder(_)) {
            self.roots.forget(temporary);
            self.roots.forget(place);
        }
        exchanged
    }

    fn exchange_names(&self, temporary: &Place, place: &Place, index: usize) -> io::Result<()> {
        match self.both(temporary, place, |one, other| self.files.exchange(one, other)) {
            Err(error) if error.kind() == io::ErrorKind::Unsupported => {}
            exchanged => return exchanged,
        }
        let second = place.beside(&self.token.second_name(index));
        if self.both(place, &second, |one, other| self.files.add_name(one, other)).is_ok() {
            self.both(temporary, place, |one, other| self.files.rename(one, other))?;
        } else {
            self.rename_new(place, &second)?;
            if let Err(error) = self.rename_new(temporary, place) {
                self.rename_new(&second, place)?;
                return Err(error);
            }
        }
        self.rename_new(&second, temporary)
    }

    /// Ends an exchange in several steps that was cut off between them.
    pub(crate) fn resolve_exchange(&self, temporary: &Place, place: &Place, index: usize) -> io::Result<()> {
        let second = place.beside(&self.token.second_name(index));
        let found = self.find(&second)?;
        if found == Found::Nothing {
            return Ok(());
        }
        let there = self.find(place)?;
        if there == Found::Nothing {
            return self.rename_new(&second, place);
        }
        if there.metadata().map(|metadata| metadata.identity) == found.metadata().map(|metadata| metadata.identity) {
            return self.remove(&second);
        }
        if self.find(temporary)? == Found::Nothing { self.rename_new(&second, temporary) } else { Ok(()) }
    }

    /// Puts what was prepared in the place of what is there, which comes to stand at the temporary place. When that is not what was
    /// seen, it goes back; and what another program put there meanwhile stays.
    pub(crate) fn replace(&self, entries: &[Entry], index: usize) -> Done {
        let (temporary, entry) = (self.temporary(entries, index), &entries[index]);
        let place = &entry.place;
        let exchange = || match self.exchange(entries, index) {
            Err(error) if error.kind() == io::ErrorKind::NotFound => Err(Failure::changed(GONE)),
            exchanged => doing("replaced", exchanged),
        };
        exchange()?;
        let out = self.look(&temporary).ok();
        if out.is_some_and(|out| self.is_as_seen(&temporary, &out, &entry.was).unwrap_or(false)) {
            return Ok(());
        }
        exchange().map_err(Failure::stuck)?;
        let back = self.look(&temporary).map_err(Failure::stuck)?;
        if !doing("looked at", self.is_new(&temporary, &back, &entry.will)).map_err(Failure::stuck)? {
            // Somebody replaced what was new: theirs is the latest, and stays. What was there before that is kept.
            exchange().map_err(Failure::stuck)?;
            self.keep_later(&temporary, place, index).map_err(Failure::stuck)?;
        }
        Err(Failure::changed(if matches!(entry.was, OldState::Folder(_)) { NOT_EMPTY } else { CHANGED }))
    }

    /// Takes what is there away, to the temporary place.
    pub(crate) fn set_aside(&self, entries: &[Entry], index: usize) -> Done {
        let (temporary, entry) = (self.temporary(entries, index), &entries[index]);
        match self.rename_new(&entry.place, &temporary) {
            Err(error) if error.kind() == io::ErrorKind::NotFound => return Err(Failure::changed(GONE)),
            renamed => doing("removed", renamed)?,
        }
        let out = self.look(&temporary).ok();
        if out.is_some_and(|out| self.is_as_seen(&temporary, &out, &entry.was).unwrap_or(false)) {
            return Ok(());
        }
        match self.rename_new(&temporary, &entry.place) {
            Err(error) if error.kind() == io::ErrorKind::AlreadyExists => {
                self.keep_later(&temporary, &entry.place, index).map_err(Failure::stuck)?;
            }
            renamed => doing("put back", renamed).map_err(Failure::stuck)?,
        }
        Err(Failure::changed(CHANGED))
    }

    /// Renames a file to where nothing stands.
    pub(crate) fn rename_file(&self, from: &Entry, to: &Place) -> Done {
        match self.rename_new(&from.place, to) {
            Err(error) if error.kind() == io::ErrorKind::NotFound => return Err(Failure::changed(GONE)),
            Err(error) if error.kind() == io::ErrorKind::AlreadyExists => return Err(self.stands_there(to)),
            renamed => doing("moved", renamed)?,
        }
        let moved = self.look(to).ok();
        if moved.is_some_and(|moved| self.is_as_seen(to, &moved, &from.was).unwrap_or(false)) {
            return Ok(());
        }
        match self.rename_new(to, &from.place) {
            // Where something new stands already, both are there, and nothing is lost.
            Err(error) if error.kind() == io::ErrorKind::AlreadyExists => {}
            renamed => doing("put back", renamed).map_err(Failure::stuck)?,
        }
        Err(Failure::changed(CHANGED))
    }

    /// Keeps a version that another program wrote during the run, and takes it from the temporary place.
    pub(crate) fn keep_later(&self, temporary: &Place, place: &Place, index: usize) -> Done {
        match self.look(temporary)? {
            Found::Nothing => Ok(()),
            Found::File(_) => {
                let folder = doing("opened", self.roots.folder(&temporary.folder()))?;
                let from = At::new(&*folder, name_of(temporary));
                let names = (0..100).map(|count| match count {
                    0 => format!("{LATER}{index}"),
                    count => format!("{LATER}{index}-{count}"),
                });
                for name in names {
                    let at = At::new(&self.folder.folder, &name);
                    let found = doing("looked at", self.files.find(from))?;
                    let wanted = NewAttributes { mode: Some(0o600), extended: Some(&[]), ..NewAttributes::default() };
                    match self.files.create(at, Bytes::File(from, None), &wanted) {
                        Err(error) if error.kind() == io::ErrorKind::AlreadyExists => continue,
                        made => doing("kept", made)?,
                    };
                    doing("kept", self.files.flush_files(&[at]))?;
                    doing("kept", self.files.flush_folders(&[&self.folder.folder]))?;
                    let kept = self.folder_path.join(&name);
                    self.note(
                        place,
                        format!("was written to by another program; that version is kept in {}", kept.display()),
                    );
                    if doing("removed", self.files.remove_unchanged(from, &found))? {
                        return Ok(());
                    }
                }
                Err(Failure::changed("was written to by another program again and again"))
            }
            Found::Link(_, target) => {
                self.note(place, format!("was made a link to {} by another program, and is not", target.display()));
                doing("removed", self.remove(temporary))
            }
            // A folder with all that is in it, or a device, gets a name of its own.
            Found::Folder(_) | Found::Other => {
                let mut name = name_of(place).to_owned();
                name.push(format!(".kept-{index}"));
                self.roots.forget(temporary);
                self.note(place, format!("what another program put there is kept as {}", name.display()));
                doing("kept", self.rename_new(temporary, &place.beside(&name)))
            }
        }
    }

    /// Makes the old file or link of an entry anew at its temporary place, from its backup, which is checked. It comes there only when it is
    /// whole.
    pub(crate) fn restore(&self, entries: &[Entry], index: usize) -> Done {
        let temporary = self.temporary(entries, index);
        self.clear_draft(entries, index)?;
        let draft = temporary.beside(&self.token.restored_name(index));
        let folder = doing("opened", self.roots.folder(&draft.folder()))?;
        self.restore_at(At::new(&*folder, name_of(&draft)), &entries[index])?;
        doing("put back", self.rename_new(&draft, &temporary))
    }

    /// Removes what was cut off while it was made from a backup.
    pub(crate) fn clear_draft(&self, entries: &[Entry], index: usize) -> Done {
        let draft = self.temporary(entries, index).beside(&self.token.restored_name(index));
        match self.remove(&draft) {
            Err(error) if is_absent(&error) => Ok(()),
            removed => doing("removed", removed),
        }
    }

    fn restore_at(&self, at: At<'_, F::Folder>, entry: &Entry) -> Done {
        match &entry.was {
            OldState::File(old) => {
                let extended = old.known.extended();
                let wanted = NewAttributes {
                    mode: Some(old.known.mode),
                    modified: old.known.modified,
                    owner: Some(old.known.owner),
                    extended: Some(&extended),
                };
                self.make_from_backup(old, at, &wanted)
            }
            OldState::Link { target, known } => {
                let wanted =
                    NewAttributes { modified: known.modified, owner: Some(known.owner), ..NewAttributes::default() };
                doing("put back", self.files.make_link(at, &target.path(), &wanted)).map(|_| ())
            }
            OldState::Nothing | OldState::Folder(_) => Ok(()),
        }
    }

    fn make_from_backup(&self, old: &OldFile, at: At<'_, F::Folder>, wanted: &NewAttributes<'_>) -> Done {
        let made = match &old.backup {
            None => return Err(Failure::changed("has no backup")),
            Some(BackupRecord::Packed(start)) => {
                let bytes = self.files.read_range(At::new(&self.folder.folder, PACK), (*start, old.size));
                let bytes = doing("put back from its backup", bytes)?;
                if Fingerprint::of(&bytes) != old.print() {
                    return Err(Failure::changed(DAMAGED));
                }
                self.files.create(at, Bytes::These(&bytes), wanted)
            }
            Some(BackupRecord::Alone(name)) => {
                let from = At::new(&self.folder.folder, name);
                self.files.create(at, Bytes::File(from, None), wanted)
            }
        };
        let made = doing("put back", made)?;
        if made.print != old.print() {
            doing("removed", self.files.remove(at))?;
            return Err(Failure::changed(DAMAGED));
        }
        doing("flushed", self.files.flush_files(&[at]))
    }

    /// Flushes files and folders; many of them by flushing the file systems that they are on.
    pub(crate) fn flush(&self, files: &[Place], folders: &[Place]) -> io::Result<()> {
        if files.len() + folders.len() >= MANY && self.flush_file_systems(files, folders)? {
            return Ok(());
        }
        if files.len() > 1 {
            files.par_iter().for_each(|place| {
                if let Ok(folder) = self.roots.folder(&place.folder()) {
                    self.files.start_flush(At::new(&*folder, name_of(place)));
                }
            });
        }
        files.par_iter().try_for_each(|place| {
            let folder = self.roots.folder(&place.folder())?;
            self.files.flush_files(&[At::new(&*folder, name_of(place))])
        })?;
        folders.iter().try_for_each(|place| match self.roots.folder(place) {
            // It went with what was in it.
            Err(error) if is_absent(&error) => Ok(()),
            folder => self.files.flush_folders(&[&*folder?]),
        })
    }

    /// Flushes the file systems that places are on; whether that could be done.
    fn flush_file_systems(&self, files: &[Place], folders: &[Place]) -> io::Result<bool> {
        let mut places: Vec<Place> = files.iter().map(Place::folder).chain(folders.iter().cloned()).collect();
        places.sort_unstable();
        places.dedup();
        let mut flushed = Vec::new();
        for place in places {
            let Ok(folder) = self.roots.folder(&place) else { continue };
            let device = self.files.metadata(&folder)?.identity.0;
            if !flushed.contains(&device) {
                if !self.files.flush_whole(&folder)? {
                    return Ok(false);
                }
                flushed.push(device);
            }
        }
        Ok(true)
    }

    /// Gives a folder what is wanted, and notes what it could not be given.
    pub(crate) fn set_folder(&self, place: &Place, wanted: &NewAttributes<'_>) -> Done {
        let folder = doing("opened", self.roots.folder(place))?;
        for dropped in doing("given its attributes", self.files.set_folder(&folder, wanted))? {
            self.note(place, dropped.to_string());
        }
        Ok(())
    }
}

/// Whether the times of a file tell it apart from what is written to it now.
fn is_conclusive(metadata: &FileMetadata) -> bool {
    metadata.stamp.is_conclusive(SystemTime::now()) || metadata.stamp.changed.is_none()
}

impl Site {
    pub(crate) fn above(folder: &Path) -> Self {
        Self::Above(PathText::of(folder))
    }
}
