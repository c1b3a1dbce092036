//! The files of this machine.

mod attributes;
mod copy;
mod stat;

use std::ffi::{OsStr, OsString};
use std::fs::{self, File};
use std::io::{self, Seek, SeekFrom, Write};
use std::os::fd::OwnedFd;
use std::os::unix::fs::{DirBuilderExt, FileExt};
use std::path::{Path, PathBuf};

use rustix::fs::{AtFlags, CWD, FileType, FlockOperation, Mode, OFlags, RenameFlags};
use rustix::io::Errno;
use tideline_core::internal::plan::{Extended, Fingerprint};
use tideline_sources::{open_beneath, open_file, open_root};

use crate::files::{At, Bytes, Created, Dropped, FileMetadata, FileSystem, Found, Lock, NewAttributes, ReadFile};
use attributes::apply_attributes;
use stat::{metadata_of, regular};
pub use stat::{mode, stamp};

/// The files of this machine.
#[derive(Clone, Copy, Debug, Default)]
pub struct RealFiles;

type Here<'a> = At<'a, OwnedFd>;

impl FileSystem for RealFiles {
    type Folder = OwnedFd;

    fn open_root(&self, path: &Path) -> io::Result<OwnedFd> {
        #[cfg(target_os = "linux")]
        {
            use rustix::fs::{ResolveFlags, openat2};
            let flags = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::CLOEXEC;
            match openat2(CWD, path, flags, Mode::empty(), ResolveFlags::NO_SYMLINKS) {
                Err(Errno::NOSYS | Errno::PERM) => {}
                Err(Errno::ACCESS) => return open_root(path),
                opened => return Ok(opened?),
            }
        }
        if path.canonicalize()? != path {
            return Err(Errno::LOOP.into());
        }
        open_root(path)
    }

    fn open_private(&self, path: &Path) -> io::Result<OwnedFd> {
        fs::DirBuilder::new().recursive(true).mode(0o700).create(path)?;
        let folder = open_root(path)?;
        let found = rustix::fs::fstat(&folder)?;
        if found.st_uid != rustix::process::geteuid().as_raw() {
            let reason = format!("it belongs to another user (number {})", found.st_uid);
            return Err(io::Error::new(io::ErrorKind::PermissionDenied, reason));
        }
        if found.st_mode & 0o7777 != 0o700 {
            rustix::fs::fchmod(&folder, Mode::RWXU)?;
        }
        Ok(folder)
    }

    fn open_beneath(&self, folder: &OwnedFd, path: &Path) -> io::Result<OwnedFd> {
        open_beneath(folder, path)
    }

    fn metadata(&self, folder: &OwnedFd) -> io::Result<FileMetadata> {
        Ok(metadata_of(&rustix::fs::fstat(folder)?))
    }

    fn find(&self, at: Here<'_>) -> io::Result<Found> {
        let found = match rustix::fs::statat(at.folder, at.name, AtFlags::SYMLINK_NOFOLLOW) {
            Err(Errno::NOENT | Errno::NOTDIR) => return Ok(Found::Nothing),
            found => found?,
        };
        let metadata = metadata_of(&found);
        Ok(match FileType::from_raw_mode(found.st_mode) {
            FileType::RegularFile => Found::File(metadata),
            FileType::Directory => Found::Folder(metadata),
            FileType::Symlink => {
                let target = rustix::fs::readlinkat(at.folder, at.name, Vec::new())?;
                Found::Link(metadata, path_of(target.to_bytes()))
            }
            _ => Found::Other,
        })
    }

    fn list(&self, folder: &OwnedFd) -> io::Result<Vec<OsString>> {
        let mut names = Vec::new();
        for entry in rustix::fs::Dir::read_from(folder)? {
            let entry = entry?;
            if !matches!(entry.file_name().to_bytes(), b"." | b"..") {
                names.push(path_of(entry.file_name().to_bytes()).into_os_string());
            }
        }
        Ok(names)
    }

    fn extended(&self, at: Here<'_>) -> io::Result<Vec<Extended>> {
        attributes::extended(&open_file(at.folder, at.name)?)
    }

    fn folder_extended(&self, folder: &OwnedFd) -> io::Result<Vec<Extended>> {
        attributes::extended(folder)
    }

    fn read(&self, at: Here<'_>, most: u64) -> io::Result<ReadFile> {
        let mut file = open_file(at.folder, at.name)?;
        let metadata = regular(&file)?;
        let (print, bytes) = copy::read(&mut file, metadata.stamp.size, most)?;
        let now = regular(&file)?;
        // A rename meanwhile changes the time of the last change of any kind, and nothing of the contents.
        if !now.is_unchanged(&metadata) || print.size != metadata.stamp.size {
            return Err(copy::changed_meanwhile());
        }
        let extended = attributes::extended(&file)?;
        Ok(ReadFile { print, metadata, bytes, extended })
    }

    fn read_range(&self, at: Here<'_>, (start, length): (u64, u64)) -> io::Result<Vec<u8>> {
        let file = open_file(at.folder, at.name)?;
        let mut bytes = Vec::new();
        let size = usize::try_from(length.min(file.metadata()?.len().saturating_sub(start))).unwrap_or(0);
        bytes.try_reserve_exact(size)?;
        bytes.resize(size, 0);
        file.read_exact_at(&mut bytes, start)?;
        if bytes.len() as u64 == length { Ok(bytes) } else { Err(io::ErrorKind::UnexpectedEof.into()) }
    }

    fn create(&self, at: Here<'_>, bytes: Bytes<'_, OwnedFd>, wanted: &NewAttributes<'_>) -> io::Result<Created> {
        let source = match &bytes {
            Bytes::These(_) => None,
            Bytes::File(from, seen) => Some((open_file(from.folder, from.name)?, seen)),
            Bytes::Path(path, seen) => Some((File::open(path)?, seen)),
        };
        // Until it is as it is wanted, no other user can read it.
        let mode = if wanted.mode.is_some() { 0o600 } else { 0o666 };
        let flags = OFlags::RDWR | OFlags::CREATE | OFlags::EXCL | OFlags::CLOEXEC | OFlags::NOFOLLOW;
        let mut file = File::from(rustix::fs::openat(at.folder, at.name, flags, Mode::from_raw_mode(mode))?);
        let mut source_owner = None;
        let mut source_extended = None;
        let print = match (&bytes, source) {
            (Bytes::These(bytes), _) => {
                file.write_all(bytes)?;
                Fingerprint::of(bytes)
            }
            (_, Some((mut source, seen))) => {
                source_owner = Some(regular(&source)?.owner);
                let print = copy::copy(&mut source, seen.as_ref(), &mut file)?;
                if wanted.extended.is_none() {
                    source_extended = Some(attributes::extended(&source)?);
                }
                print
            }
            (_, None) => unreachable!("every other kind of bytes has a source"),
        };
        let dropped = apply_attributes(&file, wanted, source_owner, source_extended)?;
        let metadata = metadata_of(&rustix::fs::fstat(&file)?);
        Ok(Created { print, metadata, dropped })
    }

    fn append(&self, at: Here<'_>, bytes: &[u8]) -> io::Result<u64> {
        let flags = OFlags::WRONLY | OFlags::CREATE | OFlags::CLOEXEC | OFlags::NOFOLLOW;
        let mut file = File::from(rustix::fs::openat(at.folder, at.name, flags, Mode::from_raw_mode(0o600))?);
        let start = file.seek(SeekFrom::End(0))?;
        file.write_all(bytes)?;
        Ok(start)
    }

    fn make_link(&self, at: Here<'_>, target: &Path, wanted: &NewAttributes<'_>) -> io::Result<FileMetadata> {
        rustix::fs::symlinkat(target, at.folder, at.name)?;
        if let Some((user, group)) = wanted.owner {
            let (user, group) = (rustix::fs::Uid::from_raw(user), rustix::fs::Gid::from_raw(group));
            // Only some may give links away; whoever may not keeps what they make.
            let _ = rustix::fs::chownat(at.folder, at.name, None, Some(group), AtFlags::SYMLINK_NOFOLLOW);
            let _ = rustix::fs::chownat(at.folder, at.name, Some(user), None, AtFlags::SYMLINK_NOFOLLOW);
        }
        if let Some(modified) = wanted.modified {
            let _ = rustix::fs::utimensat(at.folder, at.name, &attributes::times(modified), AtFlags::SYMLINK_NOFOLLOW);
        }
        Ok(metadata_of(&rustix::fs::statat(at.folder, at.name, AtFlags::SYMLINK_NOFOLLOW)?))
    }

    fn make_folder(&self, at: Here<'_>, private: bool) -> io::Result<()> {
        let mode = if private { Mode::RWXU } else { Mode::RWXU | Mode::RWXG | Mode::RWXO };
        Ok(rustix::fs::mkdirat(at.folder, at.name, mode)?)
    }

    fn add_name(&self, from: Here<'_>, to: Here<'_>) -> io::Result<()> {
        Ok(rustix::fs::linkat(from.folder, from.name, to.folder, to.name, AtFlags::empty())?)
    }

    fn set_folder(&self, folder: &OwnedFd, wanted: &NewAttributes<'_>) -> io::Result<Vec<Dropped>> {
        apply_attributes(folder, wanted, None, None)
    }

    fn set_file(&self, at: Here<'_>, wanted: &NewAttributes<'_>) -> io::Result<Vec<Dropped>> {
        let file = open_file(at.folder, at.name)?;
        regular(&file)?;
        apply_attributes(&file, wanted, None, None)
    }

    fn rename(&self, from: Here<'_>, to: Here<'_>) -> io::Result<()> {
        Ok(rustix::fs::renameat(from.folder, from.name, to.folder, to.name)?)
    }

    fn rename_new(&self, from: Here<'_>, to: Here<'_>) -> io::Result<()> {
        match rustix::fs::renameat_with(from.folder, from.name, to.folder, to.name, RenameFlags::NOREPLACE) {
            Err(Errno::INVAL | Errno::NOSYS | Errno::OPNOTSUPP) => self.rename_by_name(from, to),
            renamed => Ok(renamed?),
        }
    }

    fn exchange(&self, one: Here<'_>, other: Here<'_>) -> io::Result<()> {
        match rustix::fs::renameat_with(one.folder, one.name, other.folder, other.name, RenameFlags::EXCHANGE) {
            Err(Errno::INVAL | Errno::NOSYS | Errno::OPNOTSUPP) => Err(io::ErrorKind::Unsupported.into()),
            exchanged => Ok(exchanged?),
        }
    }

    fn remove(&self, at: Here<'_>) -> io::Result<()> {
        Ok(rustix::fs::unlinkat(at.folder, at.name, AtFlags::empty())?)
    }

    fn remove_unchanged(&self, at: Here<'_>, found: &Found) -> io::Result<bool> {
        if !self.find(at)?.is_unchanged(found) {
            return Ok(false);
        }
        self.remove(at).map(|()| true)
    }

    fn remove_folder(&self, at: Here<'_>) -> io::Result<()> {
        Ok(rustix::fs::unlinkat(at.folder, at.name, AtFlags::REMOVEDIR)?)
    }

    fn flush_files(&self, files: &[Here<'_>]) -> io::Result<()> {
        files.iter().try_for_each(|at| match open_file(at.folder, at.name) {
            // A link is on the disk with its folder.
            Err(error) if error.raw_os_error() == Some(Errno::LOOP.raw_os_error()) => Ok(()),
            // What may not be read cannot be flushed by itself.
            Err(error) if error.kind() == io::ErrorKind::PermissionDenied => Ok(rustix::fs::fsync(at.folder)?),
            opened => opened?.sync_all(),
        })
    }

    #[cfg(target_os = "linux")]
    fn start_flush(&self, at: Here<'_>) {
        if let Ok(file) = open_file(at.folder, at.name) {
            // Advice that a file is not needed soon starts writing what of it is not on the disk yet.
            let _ = rustix::fs::fadvise(&file, 0, None, rustix::fs::Advice::DontNeed);
        }
    }

    fn flush_folders(&self, folders: &[&OwnedFd]) -> io::Result<()> {
        folders.iter().try_for_each(|folder| match rustix::fs::fsync(folder) {
            // One that may be written into but not read, and file systems that do not flush folders.
            Err(Errno::BADF | Errno::INVAL | Errno::OPNOTSUPP) => Ok(()),
            flushed => Ok(flushed?),
        })
    }

    #[cfg(target_os = "linux")]
    fn flush_whole(&self, folder: &OwnedFd) -> io::Result<bool> {
        match rustix::fs::syncfs(folder) {
            Err(Errno::BADF | Errno::NOSYS) => Ok(false),
            synced => Ok(synced.map(|()| true)?),
        }
    }

    #[cfg(not(target_os = "linux"))]
    fn flush_whole(&self, _: &OwnedFd) -> io::Result<bool> {
        Ok(false)
    }

    fn lock(&self, at: Here<'_>) -> io::Result<Option<Box<dyn Lock>>> {
        let flags = OFlags::RDWR | OFlags::CREATE | OFlags::CLOEXEC | OFlags::NOFOLLOW;
        let file = rustix::fs::openat(at.folder, at.name, flags, Mode::from_raw_mode(0o600))?;
        match rustix::fs::flock(&file, FlockOperation::NonBlockingLockExclusive) {
            Err(Errno::WOULDBLOCK) => Ok(None),
            Err(error) => Err(error.into()),
            Ok(()) => Ok(Some(Box::new(FileLock(file.into())))),
        }
    }
}

impl RealFiles {
    /// Renames where the system cannot refuse to replace: by a second name, which never replaces; without those, after a look.
    fn rename_by_name(self, from: Here<'_>, to: Here<'_>) -> io::Result<()> {
        if !matches!(self.find(from)?, Found::Folder(_)) {
            match self.add_name(from, to) {
                Ok(()) => return self.remove(from),
                Err(error) if error.kind() == io::ErrorKind::AlreadyExists => return Err(error),
                Err(_) => {}
            }
        }
        match self.find(to)? {
            Found::Nothing => self.rename(from, to),
            _ => Err(io::ErrorKind::AlreadyExists.into()),
        }
    }
}

struct FileLock(File);

impl Lock for FileLock {
    fn sign(&mut self, text: &str) {
        // It is only told to others who wait.
        let _ = self.0.set_len(0).and_then(|()| self.0.write_all_at(text.as_bytes(), 0));
    }
}

fn path_of(bytes: &[u8]) -> PathBuf {
    use std::os::unix::ffi::OsStrExt;
    PathBuf::from(OsStr::from_bytes(bytes))
}
