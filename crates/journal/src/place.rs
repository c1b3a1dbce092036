//! Putting what was prepared in its place, whichever way: forth when a plan is carried out, back when that failed.

use std::collections::HashSet;
use std::io;
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use rayon::prelude::*;
use tideline_core::plan::{Contents, Moment};

use crate::carry::{Journal, Noted, Trouble, doing};
use crate::files::{Draft, Found};

/// What is to stand at a path.
#[derive(Debug)]
pub(crate) struct Wanted {
    pub(crate) path: PathBuf,
    pub(crate) state: State,
    /// Whether something of another nature stands in its way: a folder in that of a file, or a file in that of a folder.
    pub(crate) obstructed: bool,
}

/// How something comes to stand at a path.
#[derive(Debug)]
pub(crate) enum State {
    /// Nothing: a file or a link goes.
    NoFile,
    /// Nothing: a folder goes, if it is empty.
    NoFolder,
    /// A folder: what stands beside it, or one that is there, or a new one with the extended attributes of another.
    Folder { beside: Option<PathBuf>, like: Option<PathBuf>, mode: Option<u32>, modified: Option<Moment> },
    /// What was prepared beside it.
    Prepared { beside: PathBuf },
    /// A file or a link that is made now, beside its place.
    Made { contents: Contents, beside: PathBuf, mode: Option<u32>, modified: Option<Moment>, owner: Option<(u32, u32)> },
    /// A file that stands elsewhere.
    Moved { from: PathBuf, mode: Option<u32>, modified: Option<Moment> },
}

/// How trouble is met.
#[derive(Clone, Copy)]
pub(crate) enum Manner<'m> {
    /// The first ends it.
    Strict,
    /// The same, and what was cut off is gone on with: some of it is done already.
    Resumed,
    /// It is noted, and the rest is done.
    Tolerant(&'m Noted),
}

impl Manner<'_> {
    fn is_resumed(self) -> bool {
        matches!(self, Self::Resumed)
    }

    /// Notes trouble, or passes it on.
    pub(crate) fn meet(self, result: Result<(), Trouble>) -> Result<(), Trouble> {
        match (self, result) {
            (Self::Tolerant(noted), Err(trouble)) => {
                noted.note(trouble.left_out());
                Ok(())
            }
            (_, result) => result,
        }
    }
}

/// Whether something is put in its place by itself, and does not come with its folder.
pub(crate) fn comes_alone(beside: &Path, path: &Path) -> bool {
    beside.parent() == path.parent()
}

impl Journal {
    /// Makes everything stand as it is wanted: folders come first, once nothing is in their way, then files, then
    /// what is not wanted goes, and at last folders get their times.
    pub(crate) fn bring(&self, wanted: &[Wanted], manner: Manner<'_>) -> Result<(), Trouble> {
        let mut sorted: Vec<&Wanted> = wanted.iter().collect();
        sorted.par_sort_unstable_by(|one, other| one.path.as_os_str().cmp(other.path.as_os_str()));
        let (blocked, free): (Vec<&Wanted>, Vec<&Wanted>) = {
            let obstructed: Vec<&Path> =
                sorted.iter().filter(|item| item.obstructed).map(|item| item.path.as_path()).collect();
            let is_blocked = |item: &&Wanted| obstructed.iter().any(|path| item.path.starts_with(path));
            sorted.iter().copied().partition(|item| !obstructed.is_empty() && is_blocked(item))
        };
        self.bring_folders(&free, manner)?;
        let early = self.clear_all(&sorted, manner)?;
        self.bring_folders(&blocked, manner)?;
        self.make(&sorted)?;
        let later = sorted.par_iter().filter(|item| !early.contains(item.path.as_path()));
        later.try_for_each(|item| manner.meet(self.bring_file(item, manner)))?;
        let removed = sorted.par_iter().filter(|item| matches!(item.state, State::NoFile));
        removed.try_for_each(|item| manner.meet(self.remove(&item.path)))?;
        for item in sorted.iter().rev().filter(|item| matches!(item.state, State::NoFolder)) {
            manner.meet(self.remove_folder(&item.path, manner))?;
        }
        for item in sorted.iter().rev() {
            if let State::Folder { mode, modified, .. } = &item.state
                && (mode.is_some() || modified.is_some())
            {
                manner.meet(self.set_folder(&item.path, *mode, *modified))?;
            }
        }
        manner.meet(self.flush_around(&sorted))
    }

    /// In the order of paths, a folder comes before what is in it.
    fn bring_folders(&self, sorted: &[&Wanted], manner: Manner<'_>) -> Result<(), Trouble> {
        sorted.iter().try_for_each(|item| match &item.state {
            State::Folder { beside, like, .. } => {
                manner.meet(self.bring_folder(&item.path, beside.as_deref(), like.as_deref(), manner))
            }
            _ => Ok(()),
        })
    }

    /// Sets a folder; where it did not come, what stands there is left as it is.
    fn set_folder(&self, path: &Path, mode: Option<u32>, modified: Option<Moment>) -> Result<(), Trouble> {
        match doing("look at", path, self.files.found(path))? {
            Found::Folder { .. } => {
                match self.files.set(path, mode, modified.map(SystemTime::from)) {
                    // In a folder that somebody else owns files can be written, but its time cannot be set.
                    Err(error) if mode.is_none() && error.kind() == io::ErrorKind::PermissionDenied => Ok(()),
                    set => doing("set the permissions and times of", path, set),
                }
            }
            _ => Ok(()),
        }
    }

    /// Takes away all that stands in the way; what moves out of it goes first, and is named.
    fn clear_all<'w>(&self, sorted: &[&'w Wanted], manner: Manner<'_>) -> Result<HashSet<&'w Path>, Trouble> {
        let mut early = HashSet::new();
        for item in sorted.iter().filter(|item| item.obstructed) {
            for other in sorted {
                if matches!(&other.state, State::Moved { from, .. } if from.starts_with(&item.path)) {
                    manner.meet(self.bring_file(other, manner))?;
                    early.insert(other.path.as_path());
                }
            }
            manner.meet(self.clear(item, sorted))?;
        }
        Ok(early)
    }

    /// Takes away what stands in the way.
    fn clear(&self, item: &Wanted, all: &[&Wanted]) -> Result<(), Trouble> {
        let path = &item.path;
        let found = doing("look at", path, self.files.found(path))?;
        match (&item.state, found) {
            (State::Folder { .. }, Found::File(_) | Found::Link(_)) => doing("remove", path, self.files.remove(path)),
            (State::Prepared { .. } | State::Made { .. }, Found::Folder { .. }) => {
                let inside: Vec<&&Wanted> =
                    all.iter().filter(|other| other.path != *path && other.path.starts_with(path)).collect();
                for file in inside.iter().filter(|other| matches!(other.state, State::NoFile)) {
                    self.remove(&file.path)?;
                }
                for folder in inside.iter().rev().filter(|other| matches!(other.state, State::NoFolder)) {
                    self.remove_folder(&folder.path, Manner::Strict)?;
                }
                doing("remove the folder", path, self.files.remove_folder(path))
            }
            _ => Ok(()),
        }
    }

    fn bring_folder(
        &self,
        path: &Path,
        beside: Option<&Path>,
        like: Option<&Path>,
        manner: Manner<'_>,
    ) -> Result<(), Trouble> {
        let renamed = match beside {
            Some(beside) if comes_alone(beside, path) => self.files.rename(beside, path),
            Some(_) => return Ok(()),
            None if doing("look at", path, self.files.found(path))? == Found::Nothing => {
                self.files.make_folder(path, like)
            }
            None => return Ok(()),
        };
        match renamed {
            Err(error) if manner.is_resumed() && error.kind() == io::ErrorKind::NotFound => Ok(()),
            renamed => doing("make the folder", path, renamed),
        }
    }

    /// Makes the files that are made only now.
    fn make(&self, wanted: &[&Wanted]) -> Result<(), Trouble> {
        let made = |item: &&Wanted| -> Result<Option<PathBuf>, Trouble> {
            let State::Made { contents, beside, mode, modified, owner } = &item.state else { return Ok(None) };
            // Of an earlier try.
            let _ = self.files.remove(beside);
            let like = if let Contents::CopyOf(other, _) = contents { Some(other.as_path()) } else { None };
            let draft = Draft { contents, mode: *mode, modified: modified.map(SystemTime::from), owner: *owner, like };
            doing("write", &item.path, self.files.create(beside, &draft))?;
            Ok(Some(beside.clone()))
        };
        let made: Vec<PathBuf> =
            wanted.par_iter().map(made).collect::<Result<Vec<_>, _>>()?.into_iter().flatten().collect();
        match made.first() {
            Some(first) => doing("flush", first, self.files.flush_files(&made)),
            None => Ok(()),
        }
    }

    fn bring_file(&self, item: &Wanted, manner: Manner<'_>) -> Result<(), Trouble> {
        let path = &item.path;
        let renamed = match &item.state {
            State::Prepared { beside } if !comes_alone(beside, path) => return Ok(()),
            State::Prepared { beside } | State::Made { beside, .. } => self.files.rename(beside, path),
            State::Moved { from, mode, modified } => {
                // Moving takes the place of whatever is there.
                if doing("look at", path, self.files.found(path))? == Found::Nothing {
                    doing("move", from, self.files.rename(from, path))?;
                } else if !manner.is_resumed() {
                    return doing("move", from, Err(io::Error::from(io::ErrorKind::AlreadyExists)));
                }
                if mode.is_none() && modified.is_none() {
                    return Ok(());
                }
                self.files.set(path, *mode, modified.map(SystemTime::from))
            }
            _ => return Ok(()),
        };
        match renamed {
            // Of a run that was cut off, some are in place already.
            Err(error) if manner.is_resumed() && error.kind() == io::ErrorKind::NotFound => Ok(()),
            renamed => doing("write", path, renamed),
        }
    }

    fn remove(&self, path: &Path) -> Result<(), Trouble> {
        match doing("look at", path, self.files.found(path))? {
            Found::Nothing => Ok(()),
            _ => doing("remove", path, self.files.remove(path)),
        }
    }

    fn remove_folder(&self, path: &Path, manner: Manner<'_>) -> Result<(), Trouble> {
        match self.files.remove_folder(path) {
            Err(error) if matches!(error.kind(), io::ErrorKind::NotFound | io::ErrorKind::NotADirectory) => Ok(()),
            // Somebody has put something into it; it stays, which is told where what is left out is told.
            Err(error)
                if error.kind() == io::ErrorKind::DirectoryNotEmpty && !matches!(manner, Manner::Tolerant(_)) =>
            {
                Ok(())
            }
            removed => doing("remove the folder", path, removed),
        }
    }

    /// Flushes the folders in which something came or went.
    fn flush_around(&self, wanted: &[&Wanted]) -> Result<(), Trouble> {
        let alone = wanted.iter().filter(|item| match &item.state {
            State::Prepared { beside } | State::Folder { beside: Some(beside), .. } => comes_alone(beside, &item.path),
            _ => true,
        });
        let mut folders: HashSet<&Path> = alone.clone().filter_map(|item| item.path.parent()).collect();
        folders.extend(alone.filter_map(|item| match &item.state {
            State::Moved { from, .. } => from.parent(),
            _ => None,
        }));
        let mut there = Vec::with_capacity(folders.len());
        for folder in folders {
            if matches!(doing("look at", folder, self.files.found(folder))?, Found::Folder { .. }) {
                there.push(folder.to_path_buf());
            }
        }
        there.sort_unstable();
        match there.first() {
            Some(first) => doing("flush", first, self.files.flush_folders(&there)),
            None => Ok(()),
        }
    }
}
