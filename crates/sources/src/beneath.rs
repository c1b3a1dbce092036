//! Folders beneath a root, reached through open handles. Nothing is looked up by a path twice: a folder is opened beneath its
//! parent, or beneath the root in one call, and links on the way are never followed.

use std::collections::HashMap;
use std::ffi::OsStr;
use std::io;
use std::path::{Path, PathBuf};
use std::sync::{Arc, PoisonError, RwLock};

/// Folders kept open for one root. A deep or wide tree has more; those are opened again when they are needed.
const MOST_OPEN: usize = 96;
/// Bytes of a path that are given to the system at once; it takes 4,096 at most.
const SPAN: usize = 2048;

/// Handles of folders beneath a root, opened when they are needed and a bounded number at a time.
#[derive(Debug)]
pub struct OpenFolders<H> {
    root: Arc<H>,
    open: RwLock<HashMap<PathBuf, Arc<H>>>,
}

impl<H> OpenFolders<H> {
    /// The folders beneath an open one.
    pub fn new(root: H) -> Self {
        Self { root: Arc::new(root), open: RwLock::default() }
    }

    /// The root.
    pub fn root(&self) -> &Arc<H> {
        &self.root
    }

    /// The folder at a relative path. `open` opens a path beneath a folder, without following links.
    ///
    /// # Errors
    /// Those of `open`.
    pub fn folder(&self, path: &Path, open: impl Fn(&H, &Path) -> io::Result<H>) -> io::Result<Arc<H>> {
        if path.as_os_str().is_empty() {
            return Ok(Arc::clone(&self.root));
        }
        if let Some(folder) = self.known(path) {
            return Ok(folder);
        }
        let mut folder = Arc::clone(&self.root);
        let mut opened = 0;
        let bytes = path.as_os_str().as_encoded_bytes();
        for end in spans(bytes) {
            let above = prefix(path, end);
            folder = match self.known(above) {
                Some(known) => known,
                None => {
                    let rest = above.strip_prefix(prefix(path, opened)).unwrap_or(above);
                    let found = Arc::new(open(&folder, rest)?);
                    self.keep(above, &found);
                    found
                }
            };
            opened = end;
        }
        Ok(folder)
    }

    /// Forgets the handle of a folder that was renamed or removed, and of all beneath it.
    pub fn forget(&self, path: &Path) {
        let path = path.as_os_str().as_encoded_bytes();
        // Deep paths are compared as bytes, and not name by name.
        self.open.write().unwrap_or_else(PoisonError::into_inner).retain(|known, _| {
            let rest = known.as_os_str().as_encoded_bytes().strip_prefix(path);
            !rest.is_some_and(|rest| rest.is_empty() || path.is_empty() || rest[0] == b'/')
        });
    }

    fn known(&self, path: &Path) -> Option<Arc<H>> {
        self.open.read().unwrap_or_else(PoisonError::into_inner).get(path).cloned()
    }

    fn keep(&self, path: &Path, folder: &Arc<H>) {
        let mut open = self.open.write().unwrap_or_else(PoisonError::into_inner);
        if open.len() >= MOST_OPEN {
            open.clear();
        }
        open.insert(path.to_path_buf(), Arc::clone(folder));
    }
}

/// Where a path is cut so that each stretch is short enough for the system; the same for all paths that begin alike.
fn spans(path: &[u8]) -> Vec<usize> {
    let mut ends = Vec::new();
    let mut start = 0;
    while path.len() - start > SPAN {
        let Some(slash) = path[start..start + SPAN].iter().rposition(|&byte| byte == b'/').filter(|&at| at > 0) else {
            break;
        };
        ends.push(start + slash);
        start += slash + 1;
    }
    ends.push(path.len());
    ends
}

#[cfg(unix)]
fn prefix(path: &Path, end: usize) -> &Path {
    use std::os::unix::ffi::OsStrExt;
    Path::new(OsStr::from_bytes(&path.as_os_str().as_encoded_bytes()[..end]))
}

#[cfg(not(unix))]
fn prefix(path: &Path, end: usize) -> &Path {
    path.ancestors().find(|above| above.as_os_str().len() <= end).unwrap_or(path)
}

#[cfg(unix)]
pub use unix::{open_beneath, open_file, open_root};

#[cfg(unix)]
mod unix {
    use std::os::fd::{AsFd, OwnedFd};

    use rustix::fs::{CWD, Mode, OFlags, openat};
    use rustix::io::Errno;

    use super::{OsStr, Path, io};

    /// How folders are opened: to be listed and flushed, or, where that is not allowed, only to reach what is in them.
    const FOLDER: OFlags = OFlags::RDONLY.union(OFlags::DIRECTORY).union(OFlags::CLOEXEC).union(OFlags::NOFOLLOW);

    /// Opens a folder by its path; links in the path are followed.
    ///
    /// # Errors
    /// Those of the system.
    pub fn open_root(path: &Path) -> io::Result<OwnedFd> {
        with_fallback(FOLDER.difference(OFlags::NOFOLLOW), |flags| openat(CWD, path, flags, Mode::empty()))
    }

    /// Opens a folder beneath another; a link on the way is an error.
    ///
    /// # Errors
    /// Those of the system; `NotADirectory` or `FilesystemLoop` when a link stands on the way.
    pub fn open_beneath(folder: impl AsFd, path: &Path) -> io::Result<OwnedFd> {
        with_fallback(FOLDER, |flags| beneath(folder.as_fd(), path, flags))
    }

    /// Opens a file in a folder to be read; a link is an error, and a pipe does not block.
    ///
    /// # Errors
    /// Those of the system.
    pub fn open_file(folder: impl AsFd, name: &OsStr) -> io::Result<std::fs::File> {
        let flags = OFlags::RDONLY | OFlags::CLOEXEC | OFlags::NOFOLLOW | OFlags::NONBLOCK;
        Ok(openat(folder, name, flags, Mode::empty())?.into())
    }

    /// A folder that may be entered but not read is opened as a mere place.
    fn with_fallback<T>(flags: OFlags, open: impl Fn(OFlags) -> rustix::io::Result<T>) -> io::Result<T> {
        match open(flags) {
            #[cfg(target_os = "linux")]
            Err(Errno::ACCESS) => Ok(open(flags.difference(OFlags::RDONLY) | OFlags::PATH)?),
            opened => Ok(opened?),
        }
    }

    #[cfg(target_os = "linux")]
    fn beneath(folder: std::os::fd::BorrowedFd<'_>, path: &Path, flags: OFlags) -> rustix::io::Result<OwnedFd> {
        use rustix::fs::{ResolveFlags, openat2};
        let resolve = ResolveFlags::BENEATH | ResolveFlags::NO_SYMLINKS | ResolveFlags::NO_MAGICLINKS;
        match openat2(folder, path, flags, Mode::empty(), resolve) {
            // Kernels before 5.6, and sandboxes that do not know the call.
            Err(Errno::NOSYS | Errno::PERM) => step_by_step(folder, path, flags),
            opened => opened,
        }
    }

    #[cfg(not(target_os = "linux"))]
    fn beneath(folder: std::os::fd::BorrowedFd<'_>, path: &Path, flags: OFlags) -> rustix::io::Result<OwnedFd> {
        step_by_step(folder, path, flags)
    }

    fn step_by_step(folder: std::os::fd::BorrowedFd<'_>, path: &Path, flags: OFlags) -> rustix::io::Result<OwnedFd> {
        let mut open: Option<OwnedFd> = None;
        for part in path.components() {
            let std::path::Component::Normal(name) = part else { return Err(Errno::INVAL) };
            let above = open.as_ref().map_or(folder, AsFd::as_fd);
            open = Some(openat(above, name, flags, Mode::empty())?);
        }
        open.ok_or(Errno::INVAL)
    }

    #[cfg(test)]
    mod tests {
        use super::*;

        #[test]
        fn both_ways_of_opening_refuse_links_and_what_leads_out() {
            let folder = tempfile::tempdir().unwrap();
            std::fs::create_dir_all(folder.path().join("root/a/b")).unwrap();
            std::fs::create_dir(folder.path().join("outside")).unwrap();
            std::os::unix::fs::symlink("../../outside", folder.path().join("root/a/link")).unwrap();
            let root = open_root(&folder.path().join("root")).unwrap();
            for open in [beneath, step_by_step] {
                let opened = |path: &str| open(root.as_fd(), Path::new(path), FOLDER);
                assert!(opened("a/b").is_ok());
                for path in ["a/link", "a/link/x", "../outside", "a/../../outside", "/"] {
                    assert!(opened(path).is_err(), "{path}");
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use std::sync::atomic::{AtomicUsize, Ordering};

    use super::*;

    /// A handle that counts how many of its kind are open.
    struct Counted<'c>(&'c AtomicUsize, usize);

    impl Drop for Counted<'_> {
        fn drop(&mut self) {
            self.0.fetch_sub(1, Ordering::Relaxed);
        }
    }

    #[test]
    fn a_deep_path_is_reached_in_short_stretches_and_few_handles_stay_open() {
        let open = AtomicUsize::new(0);
        let make = |depth: usize| {
            open.fetch_add(1, Ordering::Relaxed);
            Counted(&open, depth)
        };
        let folders = OpenFolders::new(make(0));
        let deep: PathBuf = std::iter::repeat_n("name", 3_000).collect();
        let calls = AtomicUsize::new(0);
        let paths: Vec<&Path> = deep.ancestors().step_by(7).collect();
        for path in paths.iter().chain(paths.iter().rev()) {
            let folder = folders.folder(path, |above, rest| {
                calls.fetch_add(1, Ordering::Relaxed);
                assert!(rest.as_os_str().len() <= SPAN);
                Ok(make(above.1 + rest.components().count()))
            });
            assert_eq!(folder.unwrap().1, path.components().count());
        }
        assert!(open.load(Ordering::Relaxed) <= MOST_OPEN + 1);
        // Each costs little more than one call, although the deepest is seven stretches away.
        assert!(calls.load(Ordering::Relaxed) < 8 * paths.len(), "{calls:?} calls for {} paths", paths.len());
    }
}
