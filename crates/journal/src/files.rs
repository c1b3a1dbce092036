//! The file system, behind a small trait, so that tests can make any step of it fail.

use std::fs::{self, File, OpenOptions};
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use rayon::prelude::*;
use tideline_core::plan::{Contents, Fingerprint, Moment, Stamp};

use crate::system;
pub use crate::system::{mode, stamp};

/// What stands at a path; links are not followed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Found {
    /// Nothing.
    Nothing,
    /// A file.
    File(FoundFile),
    /// A folder.
    Folder {
        /// Its permission bits, where the system has them.
        mode: Option<u32>,
        /// When it was last changed.
        modified: Option<Moment>,
    },
    /// A link, and where it points.
    Link(PathBuf),
    /// A device, a pipe, a socket.
    Other,
}

/// A file that was found.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct FoundFile {
    /// What the system says of it.
    pub stamp: Stamp,
    /// Its permission bits, where the system has them.
    pub mode: Option<u32>,
    /// The user and the group that own it, by number.
    pub owner: Option<(u32, u32)>,
    /// Whether this is its only name, as far as the system tells.
    pub has_one_name: bool,
}

/// A file or a link that is to be made.
#[derive(Clone, Copy, Debug)]
pub struct Draft<'d> {
    /// What it holds.
    pub contents: &'d Contents,
    /// Its permission bits, if they are not those of any new file.
    pub mode: Option<u32>,
    /// The time of its last change, if it is not now.
    pub modified: Option<SystemTime>,
    /// The user and the group that are to own it, as far as the system allows that.
    pub owner: Option<(u32, u32)>,
    /// A file whose extended attributes it gets.
    pub like: Option<&'d Path>,
}

impl Draft<'_> {
    /// Whether nothing is said of it but its contents.
    fn is_like_any_new(&self) -> bool {
        self.mode.is_none() && self.modified.is_none() && self.owner.is_none() && self.like.is_none()
    }
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
    fn keep(&self, path: &Path, file: &FoundFile, name: &Path) -> io::Result<()>;

    /// Makes a file or a link that must not exist, fills it, and says what it holds. It is on the disk for sure once it is flushed.
    ///
    /// # Errors
    /// Those of the system; and when what is copied is not what it was.
    fn create(&self, path: &Path, draft: &Draft<'_>) -> io::Result<Fingerprint>;

    /// Flushes files to the disk.
    ///
    /// # Errors
    /// Those of the system.
    fn flush_files(&self, paths: &[PathBuf]) -> io::Result<()>;

    /// Sends what was written around a path on its way to the disk, to be ahead of the flushing.
    fn flush_ahead(&self, _: &Path) {}

    /// Puts a file or a folder in its place, in one step; a file may take the place of another.
    ///
    /// # Errors
    /// Those of the system.
    fn rename(&self, from: &Path, to: &Path) -> io::Result<()>;

    /// Removes a file or a link.
    ///
    /// # Errors
    /// Those of the system.
    fn remove(&self, path: &Path) -> io::Result<()>;

    /// Makes a folder, with the extended attributes of another.
    ///
    /// # Errors
    /// Those of the system.
    fn make_folder(&self, path: &Path, like: Option<&Path>) -> io::Result<()>;

    /// Gives a file or a folder permission bits and the time of its last change.
    ///
    /// # Errors
    /// Those of the system.
    fn set(&self, path: &Path, mode: Option<u32>, modified: Option<SystemTime>) -> io::Result<()>;

    /// Removes an empty folder.
    ///
    /// # Errors
    /// Those of the system.
    fn remove_folder(&self, path: &Path) -> io::Result<()>;

    /// Flushes what folders say of their entries to the disk.
    ///
    /// # Errors
    /// Those of the system.
    fn flush_folders(&self, paths: &[PathBuf]) -> io::Result<()>;
}

/// The files of this machine.
#[derive(Clone, Copy, Debug, Default)]
pub struct RealFiles;

/// From so many files on, their file systems are flushed as a whole.
const MANY: usize = 32;
/// Files up to this size are copied by reading them whole; larger ones by the system, which may share what they hold.
const WHOLE: u64 = 256 << 10;

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
            Found::Link(fs::read_link(path)?)
        } else if kind.is_dir() {
            Found::Folder { mode: system::mode(&facts), modified: facts.modified().ok().map(Moment::from) }
        } else if kind.is_file() {
            Found::File(FoundFile {
                stamp: stamp(&facts),
                mode: system::mode(&facts),
                owner: system::owner(&facts),
                has_one_name: system::has_one_name(&facts),
            })
        } else {
            Found::Other
        })
    }

    fn fingerprint(&self, path: &Path) -> io::Result<Fingerprint> {
        let mut hasher = blake3::Hasher::new();
        let size = io::copy(&mut File::open(path)?, &mut hasher)?;
        Ok(Fingerprint { size, hash: *hasher.finalize().as_bytes() })
    }

    fn create(&self, path: &Path, draft: &Draft<'_>) -> io::Result<Fingerprint> {
        if let Contents::Link(target) = draft.contents {
            system::link(target, path)?;
            return Ok(Fingerprint::of(target.as_os_str().as_encoded_bytes()));
        }
        if let Contents::Taken(made, print) = draft.contents {
            // It is as it will be before anybody can see it.
            if !draft.is_like_any_new() {
                dress(&OpenOptions::new().write(true).open(made)?, made, draft)?;
            }
            if system::take(made, path) {
                return Ok(*print);
            }
        }
        let mut options = OpenOptions::new();
        options.write(true).create_new(true);
        if draft.mode.is_some() {
            system::keep_private(&mut options);
        }
        let mut file = options.open(path)?;
        let print = match draft.contents {
            Contents::Bytes(bytes) => {
                file.write_all(bytes)?;
                Fingerprint::of(bytes)
            }
            Contents::CopyOf(other, seen) => self.copy(other, seen.as_ref(), &mut file, path)?,
            Contents::Taken(made, print) => {
                // It was made on another file system.
                if self.copy(made, None, &mut file, path)? != *print {
                    return Err(io::Error::other("what was made for it is not what it was"));
                }
                *print
            }
            Contents::Link(_) => unreachable!("links are made above"),
        };
        dress(&file, path, draft)?;
        Ok(print)
    }

    fn keep(&self, path: &Path, file: &FoundFile, name: &Path) -> io::Result<()> {
        // Files are replaced and never written into, so that the old one can go on living under the other name. One that has
        // more names could be written into by another.
        if file.has_one_name && fs::hard_link(path, name).is_ok() {
            return Ok(());
        }
        let contents = Contents::CopyOf(path.to_path_buf(), None);
        let modified = file.stamp.modified.map(SystemTime::from);
        let draft = Draft { contents: &contents, mode: file.mode, modified, owner: file.owner, like: Some(path) };
        self.create(name, &draft).map(|_| ())
    }

    fn flush_files(&self, paths: &[PathBuf]) -> io::Result<()> {
        if paths.len() >= MANY && system::flush_file_systems(paths)? {
            return Ok(());
        }
        // A file that lives on under another name was never written to, and is on the disk already. Links are on the disk with
        // their folders.
        let files = paths.par_iter().filter(|path| !path.is_symlink());
        files.try_for_each(|path| File::open(path)?.sync_all())
    }

    fn flush_ahead(&self, path: &Path) {
        // What fails here fails again when all is flushed.
        let _ = system::flush_file_systems(&[path.to_path_buf()]);
    }

    fn rename(&self, from: &Path, to: &Path) -> io::Result<()> {
        fs::rename(from, to)
    }

    fn remove(&self, path: &Path) -> io::Result<()> {
        fs::remove_file(path)
    }

    fn make_folder(&self, path: &Path, like: Option<&Path>) -> io::Result<()> {
        fs::create_dir(path)?;
        like.map_or(Ok(()), |like| system::carry_attributes(like, path))
    }

    fn set(&self, path: &Path, mode: Option<u32>, modified: Option<SystemTime>) -> io::Result<()> {
        system::set(path, mode, modified)
    }

    fn remove_folder(&self, path: &Path) -> io::Result<()> {
        fs::remove_dir(path)
    }

    fn flush_folders(&self, paths: &[PathBuf]) -> io::Result<()> {
        // Folders can be flushed only where they can be opened.
        if cfg!(not(unix)) || paths.len() >= MANY && system::flush_file_systems(paths)? {
            return Ok(());
        }
        paths.iter().try_for_each(|path| match File::open(path) {
            // One that may be written into but not read cannot be flushed by itself.
            Err(error) if error.kind() == io::ErrorKind::PermissionDenied => Ok(()),
            opened => opened?.sync_all(),
        })
    }
}

/// Gives a file that is open all that is said of it besides its contents.
fn dress(file: &File, path: &Path, draft: &Draft<'_>) -> io::Result<()> {
    if let Some(like) = draft.like {
        system::carry_attributes(like, path)?;
    }
    system::give(file, draft.owner, draft.mode)?;
    draft.modified.map_or(Ok(()), |modified| file.set_modified(modified))
}

impl RealFiles {
    /// Copies a file that is what it was when it was seen, and says what the copy holds.
    fn copy(self, from: &Path, seen: Option<&Stamp>, to: &mut File, path: &Path) -> io::Result<Fingerprint> {
        let mut source = File::open(from)?;
        let facts = source.metadata()?;
        let is_as_seen = |facts: &fs::Metadata| seen.is_none_or(|seen| stamp(facts) == *seen);
        let changed = || io::Error::other("what is copied was changed since the plan was made");
        if !is_as_seen(&facts) {
            return Err(changed());
        }
        if facts.len() <= WHOLE {
            let mut bytes = Vec::with_capacity(usize::try_from(facts.len()).unwrap_or(0) + 1);
            source.read_to_end(&mut bytes)?;
            to.write_all(&bytes)?;
            return Ok(Fingerprint::of(&bytes));
        }
        if !system::share(&source, to) {
            io::copy(&mut source, to)?;
        }
        if !is_as_seen(&source.metadata()?) {
            return Err(changed());
        }
        self.fingerprint(path)
    }
}
