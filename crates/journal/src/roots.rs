//! The open roots of a run, and the folders beneath them.

use std::cell::Cell;
use std::collections::BTreeMap;
use std::ffi::OsStr;
use std::io;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};

use tideline_sources::OpenFolders;

use crate::files::{At, FileSystem, Found, Identity};
use crate::record::Place;

/// A root and the folders beneath it.
struct Root<F: FileSystem> {
    path: PathBuf,
    identity: Identity,
    folders: OpenFolders<F::Folder>,
}

/// The open roots of a run.
pub(crate) struct Roots<'s, F: FileSystem> {
    files: &'s F,
    roots: Vec<Root<F>>,
    /// What each folder was when it was opened first; opened again, it must be the same.
    seen: Mutex<BTreeMap<Place, Identity>>,
}

impl<'s, F: FileSystem> Roots<'s, F> {
    pub(crate) fn new(files: &'s F) -> Self {
        Self { files, roots: Vec::new(), seen: Mutex::default() }
    }

    /// Opens a root, and gives it a number.
    pub(crate) fn add(&mut self, path: &Path) -> io::Result<usize> {
        let folder = self.files.open_root(path)?;
        let identity = self.files.metadata(&folder)?.identity;
        self.roots.push(Root { path: path.to_path_buf(), identity, folders: OpenFolders::new(folder) });
        Ok(self.roots.len() - 1)
    }

    pub(crate) fn identities(&self) -> impl Iterator<Item = (&Path, Identity)> {
        self.roots.iter().map(|root| (root.path.as_path(), root.identity))
    }

    /// The root that is nearest above a path, and the path from there.
    pub(crate) fn place(&self, path: &Path) -> Option<Place> {
        let below = self.roots.iter().enumerate().filter(|(_, root)| path.starts_with(&root.path));
        let (number, root) = below.max_by_key(|(_, root)| root.path.as_os_str().len())?;
        Some(Place::new(number, path.strip_prefix(&root.path).ok()?))
    }

    /// The path in full.
    pub(crate) fn full(&self, place: &Place) -> PathBuf {
        let root = &self.roots[place.root].path;
        if place.path.as_os_str().is_empty() { root.clone() } else { root.join(&place.path) }
    }

    /// A folder, which must still be the one that it was when it was opened first.
    pub(crate) fn folder(&self, place: &Place) -> io::Result<Arc<F::Folder>> {
        let root = &self.roots[place.root];
        let opened = Cell::new(false);
        let folder = root.folders.folder(&place.path, |above, rest| {
            opened.set(true);
            self.files.open_beneath(above, rest)
        })?;
        if opened.get() {
            let identity = self.files.metadata(&folder)?.identity;
            let mut seen = self.seen.lock().unwrap_or_else(PoisonError::into_inner);
            if *seen.entry(place.clone()).or_insert(identity) != identity {
                drop(seen);
                root.folders.forget(&place.path);
                return Err(io::Error::other("its folder is another one now"));
            }
        }
        Ok(folder)
    }

    /// What stands at a place; a root is itself.
    pub(crate) fn find(&self, place: &Place) -> io::Result<Found> {
        let folder = self.folder(&place.folder())?;
        if place.path.as_os_str().is_empty() {
            return self.files.metadata(&folder).map(Found::Folder);
        }
        self.files.find(At::new(&*folder, name_of(place)))
    }

    /// Forgets a folder that came or went, and all beneath it.
    pub(crate) fn forget(&self, place: &Place) {
        self.roots[place.root].folders.forget(&place.path);
        let mut seen = self.seen.lock().unwrap_or_else(PoisonError::into_inner);
        let below: Vec<Place> = seen
            .range(place..)
            .take_while(|(known, _)| place.contains(known))
            .map(|(known, _)| known.clone())
            .collect();
        for known in below {
            seen.remove(&known);
        }
    }
}

/// Whether there is nothing because its folder is not there, or is no folder, or a link stands on the way.
pub(crate) fn is_absent(error: &io::Error) -> bool {
    let is_link = error.raw_os_error() == Some(rustix::io::Errno::LOOP.raw_os_error());
    is_link || matches!(error.kind(), io::ErrorKind::NotFound | io::ErrorKind::NotADirectory)
}

/// The name of a place in its folder.
pub(crate) fn name_of(place: &Place) -> &OsStr {
    place.path.file_name().unwrap_or_default()
}
