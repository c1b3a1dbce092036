//! The file system, behind a small trait, so that tests can make any step of it fail.

use std::fs::{self, File, OpenOptions};
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use rayon::prelude::*;
use tideline_core::plan::{Contents, Fingerprint, Moment, Stamp};

/// What stands at a path; links are not followed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Found {
    /// Nothing.
    Nothing,
    /// A file.
    File {
        /// What the system says of it.
        stamp: Stamp,
        /// Its permission bits, where the system has them.
        mode: Option<u32>,
    },
    /// A folder.
    Folder,
    /// A link.
    Link,
    /// A device, a pipe, a socket.
    Other,
}

/// What a journal does with files.
pub trait FileSystem: Send + Sync {
    /// What stands at a path.
    ///
    /// # Errors
    /// Those of the system; nothing being there is none.
    fn found(&self, path: &Path) -> io::Result<Found>;

    /// The fingerprint of a file.
    ///
    /// # Errors
    /// Those of the system.
    fn fingerprint(&self, path: &Path) -> io::Result<Fingerprint>;

    /// Keeps what a file holds under another name, which must not exist: the file itself where that is possible, a copy where
    /// it is not.
    ///
    /// # Errors
    /// Those of the system.
    fn keep(&self, path: &Path, name: &Path) -> io::Result<()>;

    /// Makes a file that must not exist, and fills it. It is on the disk for sure once it is flushed.
    ///
    /// # Errors
    /// Those of the system.
    fn create(
        &self,
        path: &Path,
        contents: &Contents,
        mode: Option<u32>,
        modified: Option<SystemTime>,
    ) -> io::Result<()>;

    /// Flushes files to the disk.
    ///
    /// # Errors
    /// Those of the system.
    fn flush_files(&self, paths: &[PathBuf]) -> io::Result<()>;

    /// Puts a file in the place of another, in one step.
    ///
    /// # Errors
    /// Those of the system.
    fn rename(&self, from: &Path, to: &Path) -> io::Result<()>;

    /// Removes a file.
    ///
    /// # Errors
    /// Those of the system.
    fn remove(&self, path: &Path) -> io::Result<()>;

    /// Makes a folder.
    ///
    /// # Errors
    /// Those of the system.
    fn make_folder(&self, path: &Path) -> io::Result<()>;

    /// Removes an empty folder.
    ///
    /// # Errors
    /// Those of the system.
    fn remove_folder(&self, path: &Path) -> io::Result<()>;

    /// Flushes what a folder says of its entries to the disk.
    ///
    /// # Errors
    /// Those of the system.
    fn flush_folder(&self, path: &Path) -> io::Result<()>;
}

/// The files of this machine.
#[derive(Clone, Copy, Debug, Default)]
pub struct RealFiles;

impl FileSystem for RealFiles {
    fn found(&self, path: &Path) -> io::Result<Found> {
        let facts = match path.symlink_metadata() {
            Ok(facts) => facts,
            Err(error) if matches!(error.kind(), io::ErrorKind::NotFound | io::ErrorKind::NotADirectory) => {
                return Ok(Found::Nothing);
            }
            Err(error) => return Err(error),
        };
        let kind = facts.file_type();
        Ok(if kind.is_symlink() {
            Found::Link
        } else if kind.is_dir() {
            Found::Folder
        } else if kind.is_file() {
            Found::File { stamp: stamp(&facts), mode: mode(&facts) }
        } else {
            Found::Other
        })
    }

    fn fingerprint(&self, path: &Path) -> io::Result<Fingerprint> {
        let mut hasher = blake3::Hasher::new();
        let size = io::copy(&mut File::open(path)?, &mut hasher)?;
        Ok(Fingerprint { size, hash: *hasher.finalize().as_bytes() })
    }

    fn create(
        &self,
        path: &Path,
        contents: &Contents,
        mode: Option<u32>,
        modified: Option<SystemTime>,
    ) -> io::Result<()> {
        let mut file = OpenOptions::new().write(true).create_new(true).open(path)?;
        match contents {
            Contents::Bytes(bytes) => file.write_all(bytes)?,
            Contents::CopyOf(other) => {
                io::copy(&mut File::open(other)?, &mut file)?;
            }
        }
        set_mode(&file, mode)?;
        modified.map_or(Ok(()), |modified| file.set_modified(modified))
    }

    fn keep(&self, path: &Path, name: &Path) -> io::Result<()> {
        // Files are replaced and never written into, so that the old one can go on living under the other name. One that has
        // more names could be written into by another.
        if has_one_name(path)? && fs::hard_link(path, name).is_ok() {
            return Ok(());
        }
        let facts = path.symlink_metadata()?;
        self.create(name, &Contents::CopyOf(path.to_path_buf()), mode(&facts), facts.modified().ok())
    }

    fn flush_files(&self, paths: &[PathBuf]) -> io::Result<()> {
        /// From so many files on, their file systems are flushed as a whole.
        const MANY: usize = 32;
        if paths.len() >= MANY && flush_file_systems(paths)? {
            return Ok(());
        }
        // A file that lives on under another name was never written to, and is on the disk already.
        paths.par_iter().try_for_each(|path| File::open(path)?.sync_all())
    }

    fn rename(&self, from: &Path, to: &Path) -> io::Result<()> {
        fs::rename(from, to)
    }

    fn remove(&self, path: &Path) -> io::Result<()> {
        fs::remove_file(path)
    }

    fn make_folder(&self, path: &Path) -> io::Result<()> {
        fs::create_dir(path)
    }

    fn remove_folder(&self, path: &Path) -> io::Result<()> {
        fs::remove_dir(path)
    }

    fn flush_folder(&self, path: &Path) -> io::Result<()> {
        // Folders can be flushed only where they can be opened.
        if cfg!(unix) { File::open(path)?.sync_all() } else { Ok(()) }
    }
}

#[cfg(target_os = "linux")]
fn flush_file_systems(paths: &[PathBuf]) -> io::Result<bool> {
    use std::os::unix::fs::MetadataExt;
    let mut flushed = Vec::new();
    for path in paths {
        let device = path.symlink_metadata()?.dev();
        if !flushed.contains(&device) {
            rustix::fs::syncfs(File::open(path)?)?;
            flushed.push(device);
        }
    }
    Ok(true)
}

#[cfg(not(target_os = "linux"))]
fn flush_file_systems(_: &[PathBuf]) -> io::Result<bool> {
    Ok(false)
}

/// What the system says of a file.
#[cfg(unix)]
pub fn stamp(facts: &fs::Metadata) -> Stamp {
    use std::os::unix::fs::MetadataExt;
    let changed = u32::try_from(facts.ctime_nsec()).ok().map(|nanos| Moment(facts.ctime(), nanos));
    Stamp { size: facts.len(), modified: facts.modified().ok().map(Moment::from), changed }
}

/// What the system says of a file.
#[cfg(not(unix))]
pub fn stamp(facts: &fs::Metadata) -> Stamp {
    Stamp { size: facts.len(), modified: facts.modified().ok().map(Moment::from), changed: None }
}

#[cfg(unix)]
fn has_one_name(path: &Path) -> io::Result<bool> {
    use std::os::unix::fs::MetadataExt;
    Ok(path.symlink_metadata()?.nlink() == 1)
}

#[cfg(not(unix))]
fn has_one_name(_: &Path) -> io::Result<bool> {
    Ok(false)
}

#[cfg(unix)]
fn mode(facts: &fs::Metadata) -> Option<u32> {
    use std::os::unix::fs::PermissionsExt;
    Some(facts.permissions().mode() & 0o7777)
}

#[cfg(not(unix))]
fn mode(_: &fs::Metadata) -> Option<u32> {
    None
}

#[cfg(unix)]
fn set_mode(file: &File, mode: Option<u32>) -> io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    match mode {
        Some(wanted) if mode_of(file)? != wanted => file.set_permissions(fs::Permissions::from_mode(wanted)),
        _ => Ok(()),
    }
}

#[cfg(unix)]
fn mode_of(file: &File) -> io::Result<u32> {
    use std::os::unix::fs::PermissionsExt;
    Ok(file.metadata()?.permissions().mode() & 0o7777)
}

#[cfg(not(unix))]
fn set_mode(_: &File, _: Option<u32>) -> io::Result<()> {
    Ok(())
}
