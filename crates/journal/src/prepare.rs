//! What is done before any file of the person's is changed: backups are made, and what is new is made beside its place.

use std::io;
use std::path::Path;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::mpsc::channel;
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;

use rayon::prelude::*;
use tideline_core::internal::plan::{BackupPlace, Contents, Extended, FileAttributes, Plan, Step};
use tideline_core::internal::tree::Progress as Watched;

use crate::error::{CHANGED, DAMAGED, Failure, doing};
use crate::files::{At, Bytes, Created, FileSystem, Found, NewAttributes};
use crate::jobs::Jobs;
use crate::pack::Pack;
use crate::record::{BackupRecord, Entry, ExtendedText, Known, NewState, OldState, Place, Site, hex};
use crate::roots::name_of;
use crate::session::{PACK, Session};

/// Backups up to this size are packed into one file.
const PACKED_UPTO: u64 = 1 << 20;
/// From so many jobs on, the first half is on its way to the disk while the second is made.
const MANY: usize = 1000;
/// The attribute in which capabilities are kept; contents that are new must not have those of the old.
const CAPABILITIES: &[u8] = b"security.capability";

type Done = Result<(), Failure>;

impl<F: FileSystem> Session<'_, F> {
    /// Makes backups and what is new; jobs that cannot be done are marked as lost.
    pub(crate) fn prepare(&self, jobs: &mut Jobs<'_>, plan: &Plan, watched: &Watched) -> Done {
        self.make_folders(jobs);
        self.tell_names_apart(jobs)?;
        let pack = Mutex::new(Pack::default());
        let entries = std::mem::take(&mut jobs.entries);
        let half = entries.len() / 2;
        let (done, so_many) = (AtomicUsize::new(0), entries.len() >= MANY);
        let (sender, receiver) = channel::<Arc<F::Folder>>();
        let results: Vec<Result<Entry, Failure>> = thread::scope(|scope| {
            scope.spawn(move || {
                if let Ok(folder) = receiver.recv() {
                    // What fails here fails again when all is flushed.
                    let _ = self.files.flush_whole(&folder);
                }
            });
            let work = |index: usize| {
                let mut entry = entries[index].clone();
                if !jobs.is_wanted(index) {
                    return Ok(entry);
                }
                if self.stop.count() > 0 {
                    return Err(Failure::Stopped);
                }
                self.back_up(&mut entry, index, jobs, &pack)?;
                self.make_new(&mut entry, &entries, index, jobs, plan)?;
                watched.add(if let NewState::File(new) = &entry.will { new.size } else { 0 });
                if so_many
                    && done.fetch_add(1, Ordering::Relaxed) == half
                    && let Ok(folder) = self.roots.folder(&Place::new(entry.place.root, ""))
                {
                    // Without a listener nothing is lost.
                    let _ = sender.send(folder);
                }
                Ok(entry)
            };
            let results = (0..entries.len()).into_par_iter().map(work).collect();
            drop(sender);
            results
        });
        jobs.entries = entries;
        doing(
            "backed up",
            pack.into_inner().unwrap_or_else(PoisonError::into_inner).write(self.files, &self.folder.folder),
        )?;
        let mut lost = Vec::new();
        for (index, result) in results.into_iter().enumerate() {
            match result {
                Ok(entry) => jobs.entries[index] = entry,
                Err(Failure::Stopped) => return Err(Failure::Stopped),
                Err(failure) => lost.push((index, failure.reason())),
            }
        }
        for (index, reason) in lost {
            jobs.lose(index, reason);
        }
        self.share(jobs);
        jobs.pair_up();
        self.clear_half_made(jobs);
        self.flush_prepared(jobs)
    }

    /// What was begun in a new folder and is left out must not come with the folder.
    fn clear_half_made(&self, jobs: &mut Jobs<'_>) {
        for index in (0..jobs.entries.len()).rev() {
            let Site::Within(top) = jobs.entries[index].site else { continue };
            if jobs.is_wanted(index) || !jobs.is_wanted(top) {
                continue;
            }
            if let Err(failure) = doing("cleared of what was left out", self.clear_left_out(&jobs.entries, index)) {
                jobs.lose(top, failure.reason());
            }
        }
    }

    /// New folders, those above before those within: files are written into them.
    fn make_folders(&self, jobs: &mut Jobs<'_>) {
        for index in 0..jobs.entries.len() {
            let mode = match &mut jobs.entries[index].will {
                NewState::Folder(folder) if folder.made => {
                    if let (None, Step::MakeFolder { like: Some(like), .. }) = (&folder.extended, jobs.jobs[index].step)
                    {
                        folder.extended =
                            self.extended_of(like).map(|list| list.iter().map(ExtendedText::of).collect());
                    }
                    folder.mode
                }
                _ => continue,
            };
            let lost_above = matches!(jobs.entries[index].site, Site::Within(top) if !jobs.is_wanted(top));
            if lost_above {
                jobs.jobs[index].lost = Some(None);
            }
            if jobs.is_wanted(index) {
                let site = self.temporary(&jobs.entries, index);
                // Until it has its own permissions, no other user gets in.
                if let Err(failure) = doing("made", self.make_folder(&site, mode.is_some())) {
                    jobs.jobs[index].lost = Some(Some(failure.reason()));
                }
            }
        }
        for index in 0..jobs.entries.len() {
            if matches!(jobs.entries[index].site, Site::Within(top) if !jobs.is_wanted(top)) {
                jobs.jobs[index].lost = Some(None);
            }
        }
    }

    /// The extended attributes of a folder that is copied; none where it has none, or they cannot be read.
    fn extended_of(&self, like: &Path) -> Option<Vec<Extended>> {
        let place = self.roots.place(like)?;
        let folder = self.roots.folder(&place).ok()?;
        self.files.folder_extended(&folder).ok().filter(|list| !list.is_empty())
    }

    /// Of new names that are one name on the target's file system, the first is taken.
    fn tell_names_apart(&self, jobs: &mut Jobs<'_>) -> Done {
        for group in jobs.alike() {
            let first = group[0];
            let folder = self.temporary(&jobs.entries, first).folder();
            let Ok(open) = self.roots.folder(&folder) else { continue };
            // A name of our own, looked for as it is and as another spelling of it.
            let mut probe = self.token.name(first);
            probe.push("-caf\u{e9}");
            let other = |name: &str| match name_of(&jobs.entries[first].place).to_string_lossy() {
                spelled
                    if group.iter().all(|&index| {
                        name_of(&jobs.entries[index].place).to_string_lossy().to_lowercase() == spelled.to_lowercase()
                    }) =>
                {
                    name.to_uppercase().replace('\u{c9}', "\u{e9}")
                }
                _ => name.replace('\u{e9}', "e\u{301}"),
            };
            let other = other(&probe.to_string_lossy());
            let at = At::new(&*open, &probe);
            doing("made", self.files.create(at, Bytes::These(b""), &NewAttributes::default()))?;
            let found = self.files.find(At::new(&*open, &other));
            doing("removed", self.files.remove(at))?;
            if matches!(found, Ok(Found::Nothing) | Err(_)) {
                continue;
            }
            let name = name_of(&jobs.entries[first].place).to_string_lossy().into_owned();
            for &index in &group[1..] {
                let reason = format!("is the same name as {name} on this file system");
                jobs.lose(index, reason);
            }
        }
        Ok(())
    }

    /// Makes the backup of what is there, and sees that it is what the plan expects.
    fn back_up(&self, entry: &mut Entry, index: usize, jobs: &Jobs<'_>, pack: &Mutex<Pack>) -> Done {
        let only_renamed = jobs.jobs[index].renames;
        let Some(metadata) = jobs.jobs[index].metadata else { return Ok(()) };
        match &mut entry.was {
            OldState::Nothing | OldState::Link { .. } => Ok(()),
            OldState::Folder(known) => {
                let folder = doing("opened", self.roots.folder(&entry.place))?;
                // What may not be read of a folder cannot be put back.
                let extended = self.files.folder_extended(&folder).unwrap_or_default();
                *known = Known::of(&metadata, &extended);
                Ok(())
            }
            OldState::File(old) => {
                let folder = doing("opened", self.roots.folder(&entry.place.folder()))?;
                let at = At::new(&*folder, name_of(&entry.place));
                let most = if only_renamed { 0 } else { PACKED_UPTO };
                let read = doing("read", self.files.read(at, most))?;
                let is_expected = jobs.jobs[index].expected.is_none_or(|print| print == read.print);
                if !read.metadata.is_unchanged(&metadata) || !is_expected {
                    return Err(Failure::changed(CHANGED));
                }
                old.hash = hex(&read.print.hash);
                old.known.extended = Known::of(&metadata, &read.extended).extended;
                if only_renamed || old.same_as.is_some() {
                    return Ok(());
                }
                old.backup = Some(match read.bytes {
                    Some(bytes) => {
                        let mut pack = pack.lock().unwrap_or_else(PoisonError::into_inner);
                        let start = pack.add(&bytes, self.files, &self.folder.folder);
                        BackupRecord::Packed(doing("backed up", start)?)
                    }
                    None => {
                        let name = format!("backup-{index}");
                        let wanted =
                            NewAttributes { mode: Some(0o600), extended: Some(&[]), ..NewAttributes::default() };
                        let to = At::new(&self.folder.folder, &name);
                        let copy = self.files.create(to, Bytes::File(at, Some(metadata.stamp)), &wanted);
                        if doing("backed up", copy)?.print != read.print {
                            return Err(Failure::changed(CHANGED));
                        }
                        BackupRecord::Alone(name)
                    }
                });
                Ok(())
            }
        }
    }

    /// Makes the new file or link beside its place.
    fn make_new(&self, entry: &mut Entry, entries: &[Entry], index: usize, jobs: &Jobs<'_>, plan: &Plan) -> Done {
        let job = &jobs.jobs[index];
        let moved;
        let (contents, attributes) = match job.step {
            Step::Write { contents, attributes, .. } => (contents, attributes),
            Step::Move { contents, attributes, from, .. } if entry.will != NewState::Nothing && !job.renames => {
                // A move that a rename cannot do is a copy, and the removal of the old file in the same step.
                let seen = entry.with.and_then(|from| jobs.jobs[from].metadata).map(|metadata| metadata.stamp);
                moved = Contents::CopyOf(from.clone(), seen);
                (contents.as_ref().unwrap_or(&moved), attributes)
            }
            _ => return Ok(()),
        };
        let replaced = match &entry.was {
            OldState::File(old) => Some(old.known.clone()),
            // A file that moves with other contents keeps what it has.
            _ => entry.with.and_then(|from| jobs.jobs[from].metadata).map(|metadata| Known::of(&metadata, &[])),
        };
        let extended = self.wanted_extended(entry, entries, contents, attributes, replaced.as_ref())?;
        let wanted = NewAttributes {
            mode: attributes.mode.or(replaced.as_ref().map(|known| known.mode)),
            // What moves as it is keeps its time.
            modified: attributes.modified.or(match (job.step, &replaced) {
                (Step::Move { contents: None, .. }, Some(known)) => known.modified,
                _ => None,
            }),
            owner: attributes.owner.or(replaced.as_ref().map(|known| known.owner)),
            extended: extended.as_deref(),
        };
        let site = self.temporary(entries, index);
        let folder = doing("opened", self.roots.folder(&site.folder()))?;
        let at = At::new(&*folder, name_of(&site));
        if let Contents::Link(target) = contents {
            doing("made", self.files.make_link(at, target, &wanted))?;
            return Ok(());
        }
        let Some(created) = self.made(at, contents, &wanted, plan)? else { return Ok(()) };
        if let OldState::File(old) = &entry.was
            && old.known.identity != created.metadata.identity
            && job.metadata.is_some_and(|metadata| metadata.names > 1)
        {
            let others = job.metadata.map_or(0, |metadata| metadata.names - 1);
            let (names, keep) = if others == 1 { ("name", "keeps") } else { ("names", "keep") };
            self.note(&entry.place, format!("has {others} other {names}, which {keep} the old contents"));
        }
        for dropped in &created.dropped {
            self.note(&entry.place, dropped.to_string());
        }
        if let NewState::File(new) = &mut entry.will {
            if !new.hash.is_empty() && new.print() != created.print {
                return Err(Failure::changed(if matches!(contents, Contents::Backup(..)) { DAMAGED } else { CHANGED }));
            }
            (new.size, new.hash) = (created.print.size, hex(&created.print.hash));
            let metadata = created.metadata;
            (new.identity, new.mode, new.modified) =
                (Some(metadata.identity), Some(metadata.mode), metadata.stamp.modified);
        }
        Ok(())
    }

    /// The extended attributes that a new file gets: those that are asked for, those of the file that it replaces or that moves, and
    /// otherwise, of a copy, those of what is copied.
    fn wanted_extended(
        &self,
        entry: &Entry,
        entries: &[Entry],
        contents: &Contents,
        attributes: &FileAttributes,
        replaced: Option<&Known>,
    ) -> Result<Option<Vec<Extended>>, Failure> {
        if let Some(extended) = &attributes.extended {
            return Ok(Some(extended.clone()));
        }
        let Some(known) = replaced else { return Ok(None) };
        let mut extended = match (&entry.was, entry.with) {
            (OldState::Nothing, Some(from)) => {
                let place = &entries[from].place;
                let folder = doing("opened", self.roots.folder(&place.folder()))?;
                doing("read", self.files.extended(At::new(&*folder, name_of(place))))?
            }
            _ => known.extended(),
        };
        let all = extended.len();
        if !matches!(contents, Contents::Backup(..)) {
            extended.retain(|one| one.name != CAPABILITIES);
        }
        if extended.len() < all {
            self.note(&entry.place, crate::files::Dropped::Capabilities.to_string());
        }
        Ok(Some(extended))
    }

    /// Makes a file; nothing where it is to be a second name of another.
    fn made(
        &self,
        at: At<'_, F::Folder>,
        contents: &Contents,
        wanted: &NewAttributes<'_>,
        plan: &Plan,
    ) -> Result<Option<Created>, Failure> {
        let created = match contents {
            Contents::Bytes(bytes) => self.files.create(at, Bytes::These(bytes), wanted),
            Contents::CopyOf(path, seen) => match self.source(path) {
                Ok((folder, place)) => {
                    let from = At::new(&*folder, name_of(&place));
                    match self.files.create(at, Bytes::File(from, *seen), wanted) {
                        // The last name of the path may be a link too.
                        Err(_) if plan.follows_links && !self.is_there(at) => {
                            self.files.create(at, Bytes::Path(path, *seen), wanted)
                        }
                        created => created,
                    }
                }
                Err(_) if plan.follows_links => self.files.create(at, Bytes::Path(path, *seen), wanted),
                Err(error) => Err(error),
            },
            Contents::Backup(BackupPlace { file, range }, print) => {
                let (folder, place) = doing("put back from its backup", self.source(file))?;
                let from = At::new(&*folder, name_of(&place));
                match range {
                    Some(range) => {
                        let bytes = doing("put back from its backup", self.files.read_range(from, *range))?;
                        if tideline_core::internal::plan::Fingerprint::of(&bytes) != *print {
                            return Err(Failure::changed(DAMAGED));
                        }
                        self.files.create(at, Bytes::These(&bytes), wanted)
                    }
                    None => self.files.create(at, Bytes::File(from, None), wanted),
                }
            }
            Contents::Taken(path, print) => {
                let (folder, place) = doing("opened", self.source(path))?;
                let from = At::new(&*folder, name_of(&place));
                match self.taken(from, at, wanted, *print) {
                    // It was made on another file system.
                    Err(error) if error.kind() == io::ErrorKind::CrossesDevices => {
                        self.files.create(at, Bytes::File(from, None), wanted)
                    }
                    taken => taken,
                }
            }
            Contents::SameAs(_) | Contents::Link(_) => return Ok(None),
        };
        doing("written", created).map(Some)
    }

    fn is_there(&self, at: At<'_, F::Folder>) -> bool {
        matches!(self.files.find(at), Ok(found) if found != Found::Nothing)
    }

    /// A file that was made for the plan becomes the new one. It is as it will be before anybody can see it.
    fn taken(
        &self,
        from: At<'_, F::Folder>,
        at: At<'_, F::Folder>,
        wanted: &NewAttributes<'_>,
        print: tideline_core::internal::plan::Fingerprint,
    ) -> io::Result<Created> {
        // What was made in private becomes a file like any new one.
        let mode = wanted.mode.or(Some(0o644));
        let dropped = self.files.set_file(from, &NewAttributes { mode, ..*wanted })?;
        self.files.rename_new(from, at)?;
        match self.files.find(at)? {
            Found::File(metadata) => Ok(Created { print, metadata, dropped }),
            _ => Err(io::Error::other("it is not a file any more")),
        }
    }

    /// A file that is read, through the roots of the plan.
    fn source(&self, path: &Path) -> io::Result<(Arc<F::Folder>, Place)> {
        match self.roots.place(path).filter(|place| !place.path.as_os_str().is_empty()) {
            Some(place) => Ok((self.roots.folder(&place.folder())?, place)),
            None => {
                let folder = self.files.open_root(path.parent().unwrap_or(Path::new("/")))?;
                Ok((Arc::new(folder), Place::new(0, path.file_name().unwrap_or_default())))
            }
        }
    }

    /// Gives files their second names, and backups to the entries that share them.
    fn share(&self, jobs: &mut Jobs<'_>) {
        for index in 0..jobs.entries.len() {
            if let OldState::File(old) = &jobs.entries[index].was
                && let Some(first) = old.same_as
                && let OldState::File(shared) = &jobs.entries[first].was
            {
                let backup = shared.backup.clone();
                if backup.is_none() && jobs.is_wanted(index) {
                    // The first was left out, or is only renamed.
                    jobs.jobs[index].lost = Some(Some("has another name that could not be backed up".to_owned()));
                }
                if let OldState::File(old) = &mut jobs.entries[index].was {
                    old.backup = backup;
                }
            }
            let Step::Write { contents: Contents::SameAs(first), .. } = jobs.jobs[index].step else { continue };
            if !jobs.is_wanted(index) {
                continue;
            }
            let place = self.roots.place(first);
            let first = place.and_then(|place| jobs.entries.binary_search_by(|entry| entry.place.cmp(&place)).ok());
            let Some(first) = first.filter(|&first| jobs.is_wanted(first)) else {
                jobs.jobs[index].lost = Some(Some("is another name of a file that is left out".to_owned()));
                continue;
            };
            let (from, to) = (self.temporary(&jobs.entries, first), self.temporary(&jobs.entries, index));
            if let Err(failure) = doing("given a second name", self.add_name(&from, &to)) {
                jobs.jobs[index].lost = Some(Some(failure.reason()));
            }
            jobs.entries[index].will = jobs.entries[first].will.clone();
        }
    }

    fn add_name(&self, from: &Place, to: &Place) -> io::Result<()> {
        let folders = (self.roots.folder(&from.folder())?, self.roots.folder(&to.folder())?);
        self.files.add_name(At::new(&*folders.0, name_of(from)), At::new(&*folders.1, name_of(to)))
    }

    /// Flushes backups, new files and new folders.
    fn flush_prepared(&self, jobs: &Jobs<'_>) -> Done {
        let mut backups: Vec<&str> = Vec::new();
        let mut is_packed = false;
        let (mut files, mut folders) = (Vec::new(), Vec::new());
        for (index, entry) in jobs.entries.iter().enumerate().filter(|(index, _)| jobs.is_wanted(*index)) {
            if let OldState::File(old) = &entry.was {
                match &old.backup {
                    Some(BackupRecord::Packed(_)) => is_packed = true,
                    Some(BackupRecord::Alone(name)) => backups.push(name),
                    None => {}
                }
            }
            match &entry.will {
                NewState::File(_) if entry.site != Site::None => files.push(self.temporary(&jobs.entries, index)),
                NewState::Folder(folder) if folder.made => folders.push(self.temporary(&jobs.entries, index)),
                _ => {}
            }
        }
        backups.extend(is_packed.then_some(PACK));
        let backups: Vec<At<'_, F::Folder>> = backups.iter().map(|name| At::new(&self.folder.folder, *name)).collect();
        doing("flushed", self.files.flush_files(&backups))?;
        doing("flushed", self.files.flush_folders(&[&self.folder.folder]))?;
        doing("flushed", self.flush(&files, &folders))
    }
}
