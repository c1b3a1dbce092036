//! What only some systems have: permission bits, owners, links, extended attributes, files that share what they hold.

use std::fs::{self, File, OpenOptions};
use std::io;
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use tideline_core::plan::{Moment, Stamp};

/// What the system says of a file.
pub fn stamp(facts: &fs::Metadata) -> Stamp {
    Stamp { size: facts.len(), modified: facts.modified().ok().map(Moment::from), changed: changed(facts) }
}

/// Gives a file or a folder permission bits and a time.
pub(crate) fn set(path: &Path, mode: Option<u32>, modified: Option<SystemTime>) -> io::Result<()> {
    if let Some(modified) = modified {
        set_time(path, modified)?;
    }
    mode.map_or(Ok(()), |mode| set_mode(path, mode))
}

#[cfg(unix)]
mod unix {
    use std::os::unix::fs::{MetadataExt, PermissionsExt};

    use super::{File, Moment, OpenOptions, Path, SystemTime, fs, io};

    pub(super) fn changed(facts: &fs::Metadata) -> Option<Moment> {
        u32::try_from(facts.ctime_nsec()).ok().map(|nanos| Moment(facts.ctime(), nanos))
    }

    /// The permission bits of a file.
    pub fn mode(facts: &fs::Metadata) -> Option<u32> {
        Some(facts.permissions().mode() & 0o7777)
    }

    pub(crate) fn owner(facts: &fs::Metadata) -> Option<(u32, u32)> {
        Some((facts.uid(), facts.gid()))
    }

    /// Lets nobody else read a new file before it has its own permission bits.
    pub(crate) fn keep_private(options: &mut OpenOptions) {
        use std::os::unix::fs::OpenOptionsExt;
        options.mode(0o600);
    }

    pub(crate) fn has_one_name(facts: &fs::Metadata) -> bool {
        facts.nlink() == 1
    }

    pub(crate) fn link(target: &Path, path: &Path) -> io::Result<()> {
        std::os::unix::fs::symlink(target, path)
    }

    pub(super) fn set_time(path: &Path, modified: SystemTime) -> io::Result<()> {
        use rustix::fs::{AtFlags, CWD, Timespec, Timestamps, UTIME_OMIT, utimensat};
        let Moment(seconds, nanos) = Moment::from(modified);
        let times = Timestamps {
            last_access: Timespec { tv_sec: 0, tv_nsec: UTIME_OMIT },
            last_modification: Timespec { tv_sec: seconds, tv_nsec: nanos.into() },
        };
        Ok(utimensat(CWD, path, &times, AtFlags::SYMLINK_NOFOLLOW)?)
    }

    pub(super) fn set_mode(path: &Path, mode: u32) -> io::Result<()> {
        fs::set_permissions(path, fs::Permissions::from_mode(mode))
    }

    /// Gives a new file its owner, as far as that is allowed, and its permission bits.
    pub(crate) fn give(file: &File, owner: Option<(u32, u32)>, wanted: Option<u32>) -> io::Result<()> {
        if owner.is_none() && wanted.is_none() {
            return Ok(());
        }
        let facts = file.metadata()?;
        let mut given = facts.permissions().mode() & 0o7777;
        if let Some((user, group)) = owner.filter(|owner| *owner != (facts.uid(), facts.gid())) {
            // Only the system's keeper may give files away; whoever may not keeps what they write.
            let _ = std::os::unix::fs::fchown(file, Some(user), Some(group));
            given = u32::MAX;
        }
        match wanted {
            Some(wanted) if wanted != given => file.set_permissions(fs::Permissions::from_mode(wanted)),
            _ => Ok(()),
        }
    }
}

#[cfg(not(unix))]
mod unix {
    use super::{File, Moment, OpenOptions, Path, SystemTime, fs, io};

    pub(super) fn changed(_: &fs::Metadata) -> Option<Moment> {
        None
    }

    /// The permission bits of a file, which this system does not have.
    pub fn mode(_: &fs::Metadata) -> Option<u32> {
        None
    }

    pub(crate) fn owner(_: &fs::Metadata) -> Option<(u32, u32)> {
        None
    }

    pub(crate) fn keep_private(_: &mut OpenOptions) {}

    pub(crate) fn has_one_name(_: &fs::Metadata) -> bool {
        false
    }

    pub(crate) fn link(_: &Path, _: &Path) -> io::Result<()> {
        Err(io::Error::new(io::ErrorKind::Unsupported, "links are not made on this system"))
    }

    pub(super) fn set_time(path: &Path, modified: SystemTime) -> io::Result<()> {
        File::options().write(true).open(path)?.set_modified(modified)
    }

    pub(super) fn set_mode(_: &Path, _: u32) -> io::Result<()> {
        Ok(())
    }

    pub(crate) fn give(_: &File, _: Option<(u32, u32)>, _: Option<u32>) -> io::Result<()> {
        Ok(())
    }
}

pub use unix::mode;
use unix::{changed, set_mode, set_time};
pub(crate) use unix::{give, has_one_name, keep_private, link, owner};

#[cfg(target_os = "linux")]
mod linux {
    use std::collections::HashSet;
    use std::os::unix::fs::MetadataExt;

    use rustix::io::Errno;

    use super::{File, Path, PathBuf, io};

    /// Carries the extended attributes of a file or folder to another, where both file systems have them. Those that only the
    /// system's keeper may set are left out where they may not be set.
    pub(crate) fn carry_attributes(from: &Path, to: &Path) -> io::Result<()> {
        let Some(names) = filled(|room| rustix::fs::llistxattr(from, room))? else { return Ok(()) };
        for name in names.split(|&byte| byte == 0).filter(|name| !name.is_empty()) {
            let Some(value) = filled(|room| rustix::fs::lgetxattr(from, name, room))? else { continue };
            match rustix::fs::lsetxattr(to, name, &value, rustix::fs::XattrFlags::empty()) {
                Ok(()) | Err(Errno::OPNOTSUPP) => {}
                Err(Errno::PERM | Errno::ACCESS | Errno::INVAL) if !name.starts_with(b"user.") => {}
                Err(error) => return Err(error.into()),
            }
        }
        Ok(())
    }

    /// What a call fills in that says how much room it takes; nothing where the file system has none of it.
    fn filled(call: impl Fn(&mut [u8]) -> rustix::io::Result<usize>) -> io::Result<Option<Vec<u8>>> {
        let mut room = [0_u8; 512];
        match call(&mut room) {
            Ok(length) => return Ok(Some(room[..length].to_vec())),
            Err(Errno::OPNOTSUPP | Errno::NODATA | Errno::NOSYS) => return Ok(None),
            Err(Errno::RANGE) => {}
            Err(error) => return Err(error.into()),
        }
        let mut room = vec![0; 1 << 17];
        let length = call(&mut room)?;
        room.truncate(length);
        Ok(Some(room))
    }

    /// Lets a new file share what another holds, where the file system can.
    pub(crate) fn share(from: &File, to: &File) -> bool {
        rustix::fs::ioctl_ficlone(to, from).is_ok()
    }

    /// Moves a file of ours to where nothing stands, where both are on one file system.
    pub(crate) fn take(from: &Path, to: &Path) -> bool {
        let cwd = rustix::fs::CWD;
        rustix::fs::renameat_with(cwd, from, cwd, to, rustix::fs::RenameFlags::NOREPLACE).is_ok()
    }

    pub(crate) fn flush_file_systems(paths: &[PathBuf]) -> io::Result<bool> {
        let folders: HashSet<&Path> = paths.iter().filter_map(|path| path.parent()).collect();
        let mut flushed = Vec::new();
        for folder in folders {
            let open = File::open(folder)?;
            let device = open.metadata()?.dev();
            if !flushed.contains(&device) {
                rustix::fs::syncfs(open)?;
                flushed.push(device);
            }
        }
        Ok(true)
    }
}

#[cfg(not(target_os = "linux"))]
mod linux {
    use super::{File, Path, PathBuf, io};

    pub(crate) fn carry_attributes(_: &Path, _: &Path) -> io::Result<()> {
        Ok(())
    }

    pub(crate) fn share(_: &File, _: &File) -> bool {
        false
    }

    pub(crate) fn take(from: &Path, to: &Path) -> bool {
        // A second name never takes the place of what is there; the first goes with the folder it is in.
        std::fs::hard_link(from, to).is_ok()
    }

    pub(crate) fn flush_file_systems(_: &[PathBuf]) -> io::Result<bool> {
        Ok(false)
    }
}

pub(crate) use linux::{carry_attributes, flush_file_systems, share, take};
