//! The files of a target as they are and as they will be.

use std::collections::HashMap;
use std::path::{Path, PathBuf};

use bytes::Bytes;
use rayon::prelude::*;

use super::{Found, TargetError, TargetFiles};
use crate::internal::plan::{ExpectedState, Fingerprint};

/// What will stand at a path.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Now {
    /// Nothing.
    #[default]
    Nothing,
    /// A file with these contents, which snapshots share.
    File(Bytes),
    /// A link that points there.
    Link(Bytes),
}

/// A path where something else will stand than does.
#[derive(Clone, Debug)]
pub struct FileChange {
    /// The path below the target.
    pub path: PathBuf,
    /// What stands there, as a plan expects it.
    pub was: ExpectedState,
    /// What will stand there.
    pub now: Now,
    /// The permission bits that it is to have, if they change.
    pub mode: Option<u32>,
    /// Where the file was, if it moves here as it stands there.
    pub moved_from: Option<PathBuf>,
}

/// One file.
#[derive(Clone, Debug, Default)]
pub(super) struct FileState {
    was: Original,
    pub(super) now: Now,
    /// The permission bits that it has, and those that it is to have if others.
    pub(super) has_mode: Option<u32>,
    pub(super) mode: Option<u32>,
    pub(super) moved_from: Option<PathBuf>,
}

/// What stood at a path, and by what its contents are known again.
#[derive(Clone, Debug, Default)]
enum Original {
    #[default]
    Nothing,
    File(ExpectedState, Fingerprint),
    Link(PathBuf),
    Folder,
}

impl FileState {
    pub(super) fn of(found: Found) -> Self {
        match found {
            Found::Nothing => Self::default(),
            Found::Folder => Self { was: Original::Folder, ..Self::default() },
            Found::File { bytes, mode, expected, print } => Self {
                was: Original::File(expected, print),
                now: Now::File(bytes.into()),
                has_mode: mode,
                ..Self::default()
            },
            Found::Link(to) => {
                let now = Now::Link(to.as_os_str().as_encoded_bytes().to_vec().into());
                Self { was: Original::Link(to), now, ..Self::default() }
            }
        }
    }

    /// Whether a folder stands there and nothing comes in its place yet.
    pub(super) fn is_folder(&self) -> bool {
        matches!(self.was, Original::Folder) && self.now == Now::Nothing
    }

    fn changes(&self) -> bool {
        let same = match (&self.was, &self.now) {
            (Original::Nothing | Original::Folder, Now::Nothing) => true,
            (Original::File(_, print), Now::File(bytes)) => {
                print.size == bytes.len() as u64 && *print == Fingerprint::of(bytes)
            }
            (Original::Link(to), Now::Link(will)) => to.as_os_str().as_encoded_bytes() == &will[..],
            _ => false,
        };
        !same || self.mode.is_some_and(|mode| Some(mode) != self.has_mode) && self.now != Now::Nothing
    }
}

/// All files that were looked at.
pub(super) struct State<'f> {
    files: &'f dyn TargetFiles,
    known: HashMap<PathBuf, FileState>,
}

impl<'f> State<'f> {
    pub(super) fn new(files: &'f dyn TargetFiles) -> Self {
        Self { files, known: HashMap::new() }
    }

    pub(super) fn files(&self) -> &'f dyn TargetFiles {
        self.files
    }

    /// A file that has been looked at.
    pub(super) fn known(&self, path: &Path) -> Option<&FileState> {
        self.known.get(path)
    }

    /// Whether something stands at a path now.
    pub(super) fn has_file(&self, path: &Path) -> bool {
        let known = self.known.get(path).map(|file| file.now != Now::Nothing);
        known.unwrap_or_else(|| self.files.has_file(path.as_os_str().as_encoded_bytes()))
    }

    /// A file as it is now.
    pub(super) fn file(&mut self, path: &Path) -> Result<&mut FileState, TargetError> {
        if self.known(path).is_none() {
            // Where a file was removed, a folder may stand from now on.
            let in_place_of_file = path.ancestors().skip(1).any(|above| {
                self.known
                    .get(above)
                    .is_some_and(|file| matches!(file.was, Original::File(..)) && file.now == Now::Nothing)
            });
            let found = if in_place_of_file { Found::Nothing } else { self.files.look(path)? };
            self.adopt(path, found);
        }
        Ok(self.known.entry(path.to_path_buf()).or_default())
    }

    /// Takes a file in that has been looked at; one that is known already stays as it is.
    pub(super) fn adopt(&mut self, path: &Path, found: Found) {
        self.known.entry(path.to_path_buf()).or_insert_with(|| FileState::of(found));
    }

    /// How files are now, to be restored when a patch cannot be applied.
    pub(super) fn snapshot<'p>(&self, paths: impl Iterator<Item = &'p PathBuf>) -> Vec<(PathBuf, Option<FileState>)> {
        paths.map(|path| (path.clone(), self.known.get(path).cloned())).collect()
    }

    pub(super) fn restore(&mut self, files: Vec<(PathBuf, Option<FileState>)>) {
        for (path, file) in files {
            match file {
                Some(file) => self.known.insert(path, file),
                None => self.known.remove(&path),
            };
        }
    }

    /// The one file that was looked at and is there afterwards, if it is the only one.
    pub(super) fn only(&self) -> Option<(&Now, Option<u32>)> {
        let mut there = self.known.values().filter(|file| file.now != Now::Nothing);
        let file = there.next()?;
        there.next().is_none().then_some((&file.now, file.mode))
    }

    /// What is to be written, in the order of the paths. A file that leaves its place so that another can come from there is one change.
    pub(super) fn changes(mut self) -> Vec<FileChange> {
        let leaves = |path: &Path| {
            self.known.get(path).is_some_and(|file| file.now == Now::Nothing && matches!(file.was, Original::File(..)))
        };
        let mut moved = std::collections::HashSet::new();
        let mut paths: Vec<&PathBuf> =
            self.known.par_iter().filter(|(_, file)| file.changes()).map(|(path, _)| path).collect();
        paths.par_sort_by(|one, other| one.as_os_str().cmp(other.as_os_str()));
        let mut changes = Vec::with_capacity(paths.len());
        for path in paths {
            let file = &self.known[path];
            let is_new = matches!((&file.was, &file.now), (Original::Nothing, Now::File(_)));
            let from = file.moved_from.clone().filter(|from| is_new && leaves(from) && moved.insert(from.clone()));
            let was = match &file.was {
                Original::Nothing => ExpectedState::Nothing,
                Original::Folder => ExpectedState::Folder,
                Original::File(expected, _) => expected.clone(),
                Original::Link(to) => ExpectedState::Link(to.clone()),
            };
            changes.push(FileChange { path: path.clone(), was, now: Now::Nothing, mode: file.mode, moved_from: from });
        }
        // A move says what stood where the file was; and contents that stay are not written again.
        for change in &mut changes {
            let Some(origin) = change.moved_from.as_ref().and_then(|from| self.known.get(from)) else { continue };
            if let Original::File(expected, _) = &origin.was {
                change.was = expected.clone();
            }
        }
        for change in &mut changes {
            change.now = self.known.get_mut(&change.path).map(|file| std::mem::take(&mut file.now)).unwrap_or_default();
        }
        changes.retain(|change| !(change.now == Now::Nothing && moved.contains(&change.path)));
        changes
    }
}
