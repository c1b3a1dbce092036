//! The steps that undo a run that is done.

use std::path::PathBuf;

use tideline_core::internal::plan::{BackupPlace, Contents, ExpectedState, FileAttributes, Step};

use crate::error::{Failure, doing};
use crate::files::{FileSystem, Found};
use crate::record::{BackupRecord, Entry, Known, NewState, OldFile, OldState, Run};
use crate::session::{PACK, Session};

/// Why a path is not put back.
const SINCE: &str = "was changed since";

/// What the steps that undo a run are made from.
pub(crate) struct Back<'b, F: FileSystem> {
    pub(crate) session: &'b Session<'b, F>,
    pub(crate) record: &'b Run,
    pub(crate) backups: PathBuf,
    pub(crate) force: bool,
}

impl<F: FileSystem> Back<'_, F> {
    /// The step that undoes an entry, if there is anything to undo.
    pub(crate) fn step(&self, index: usize) -> Result<Option<Step>, Failure> {
        let entries = &self.record.entries;
        let entry = &entries[index];
        let is_renamed_away = |with: usize| entries[with].will == NewState::Moved;
        let goes = entry.will == NewState::Nothing;
        if goes && (entry.was == OldState::Nothing || entry.with.is_some_and(is_renamed_away)) {
            return Ok(None);
        }
        let found = doing("looked at", self.session.find(&entry.place))?;
        match (&entry.was, &entry.will) {
            (_, NewState::Moved) => self.move_back(entry, &found),
            (OldState::Folder(known), NewState::Folder(wanted)) => match &found {
                Found::Folder(metadata) if self.force || wanted.mode.is_none_or(|mode| mode == metadata.mode) => {
                    let attributes = FileAttributes {
                        mode: wanted.mode.map(|_| known.mode),
                        modified: known.modified,
                        ..FileAttributes::default()
                    };
                    Ok(Some(Step::SetFolder { path: self.path(entry), attributes }))
                }
                Found::Folder(_) => Err(Failure::changed("has other permissions since")),
                _ => Err(Failure::changed("is no folder any more")),
            },
            _ => self.entry_back(entry, &found),
        }
    }

    fn path(&self, entry: &Entry) -> PathBuf {
        self.session.roots.full(&entry.place)
    }

    fn entry_back(&self, entry: &Entry, found: &Found) -> Result<Option<Step>, Failure> {
        let session = self.session;
        let is_new = doing("read", session.is_new(&entry.place, found, &entry.will))?;
        let is_old = doing("read", session.is_old(&entry.place, found, &entry.was))?;
        if is_old && !is_new {
            return Ok(None);
        }
        if is_old
            && let (OldState::File(old), NewState::File(new), Found::File(metadata)) = (&entry.was, &entry.will, found)
        {
            // A file that was rewritten with what it held has its attributes put back.
            let untouched = old.known.identity == metadata.identity && new.identity != Some(metadata.identity);
            if untouched {
                return Ok(None);
            }
        } else if is_old {
            return Ok(None);
        }
        if is_new
            && !self.force
            && let (NewState::File(new), Found::File(metadata)) = (&entry.will, found)
            && new.mode.is_some_and(|mode| mode != metadata.mode)
            && entry.was != OldState::Nothing
        {
            return Err(Failure::changed("has other permissions since"));
        }
        let expected = match (found, is_new) {
            (Found::Nothing, _) if entry.will == NewState::Nothing || self.force => ExpectedState::Nothing,
            (Found::Nothing, _) => return Err(Failure::changed("is not there any more")),
            (Found::Folder(_), true) => ExpectedState::Folder,
            (Found::Link(_, to), true) => ExpectedState::Link(to.clone()),
            (Found::File(_), true) => match &entry.will {
                NewState::File(new) => ExpectedState::File(new.print()),
                _ => ExpectedState::Anything,
            },
            _ if !self.force => return Err(Failure::changed(SINCE)),
            (Found::Link(_, to), _) => ExpectedState::Link(to.clone()),
            (Found::File(_), _) => ExpectedState::Anything,
            (Found::Folder(_) | Found::Other, _) => {
                return Err(Failure::changed("was changed since: something stands there that is not overwritten"));
            }
        };
        Ok(self.step_back(entry, expected))
    }

    /// The step that undoes an entry where something stands.
    fn step_back(&self, entry: &Entry, expected: ExpectedState) -> Option<Step> {
        let path = self.path(entry);
        Some(match &entry.was {
            OldState::Nothing if expected == ExpectedState::Nothing => return None,
            OldState::Nothing if expected == ExpectedState::Folder => Step::RemoveFolder { path },
            OldState::Nothing => Step::Remove { path, expected },
            OldState::Folder(known) => Step::MakeFolder { path, expected, like: None, attributes: attributes(known) },
            OldState::Link { target, known } => {
                Step::Write { path, expected, contents: Contents::Link(target.path()), attributes: attributes(known) }
            }
            OldState::File(old) => {
                Step::Write { path, expected, contents: self.contents(old)?, attributes: attributes(&old.known) }
            }
        })
    }

    fn contents(&self, old: &OldFile) -> Option<Contents> {
        if let Some(first) = old.same_as
            && let Some(entry) = self.record.entries.get(first)
            && matches!(self.step(first), Ok(Some(Step::Write { .. })))
        {
            return Some(Contents::SameAs(self.path(entry)));
        }
        let place = match old.backup.as_ref()? {
            BackupRecord::Packed(start) => {
                BackupPlace { file: self.backups.join(PACK), range: Some((*start, old.size)) }
            }
            BackupRecord::Alone(name) => BackupPlace { file: self.backups.join(name), range: None },
        };
        Some(Contents::Backup(place, old.print()))
    }

    /// The step that renames a file back.
    fn move_back(&self, entry: &Entry, found: &Found) -> Result<Option<Step>, Failure> {
        let Some(from) = entry.with.map(|from| &self.record.entries[from]) else { return Ok(None) };
        let OldState::File(old) = &from.was else { return Ok(None) };
        let Found::File(metadata) = found else {
            let there = doing("looked at", self.session.find(&from.place))?;
            let is_back =
                *found == Found::Nothing && doing("read", self.session.is_old(&from.place, &there, &from.was))?;
            return if is_back { Ok(None) } else { Err(Failure::changed("is not there any more")) };
        };
        if !self.force {
            if !doing("read", self.session.is_old_file(&entry.place, metadata, old))? {
                return Err(Failure::changed(SINCE));
            }
            if metadata.mode != old.known.mode {
                return Err(Failure::changed("has other permissions since"));
            }
        }
        let expected = if self.force { ExpectedState::Anything } else { ExpectedState::File(old.print()) };
        Ok(Some(Step::Move {
            from: self.path(entry),
            path: self.path(from),
            expected,
            contents: None,
            attributes: FileAttributes::default(),
        }))
    }

    /// Folders have the times again that they had, where no other program changed them since.
    pub(crate) fn times(&self) -> Vec<Step> {
        let entries = &self.record.entries;
        let steps = self.record.touched.iter().filter_map(|touched| {
            // What is set of a folder sets its time too.
            if entries.binary_search_by(|entry| entry.place.cmp(&touched.place)).is_ok() {
                return None;
            }
            let folder = self.session.roots.folder(&touched.place).ok()?;
            let now = self.session.files.metadata(&folder).ok()?.stamp.modified;
            let attributes = FileAttributes::of(None, touched.before);
            let path = self.session.roots.full(&touched.place);
            (now == touched.after && touched.before.is_some()).then_some(Step::SetFolder { path, attributes })
        });
        steps.collect()
    }
}

fn attributes(known: &Known) -> FileAttributes {
    FileAttributes {
        mode: Some(known.mode),
        modified: known.modified,
        owner: Some(known.owner),
        extended: Some(known.extended()),
    }
}
