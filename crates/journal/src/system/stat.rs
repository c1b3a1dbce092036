//! What the system says of files, in our own types.

use std::fs::{self, File};
use std::io;
use std::os::unix::fs::{MetadataExt, PermissionsExt};

use rustix::fs::{FileType, Stat};
use tideline_core::internal::plan::{Moment, Stamp};

use crate::files::{FileMetadata, Identity};

/// What the system says of an open file, which must be a regular one.
pub(super) fn regular(file: &File) -> io::Result<FileMetadata> {
    let found = rustix::fs::fstat(file)?;
    match FileType::from_raw_mode(found.st_mode) {
        FileType::RegularFile => Ok(metadata_of(&found)),
        _ => Err(io::Error::other("it is not a file")),
    }
}

#[expect(clippy::unnecessary_cast, reason = "the types of these fields differ between systems")]
pub(super) fn metadata_of(found: &Stat) -> FileMetadata {
    let moment = |seconds: i64, nanos: u64| Some(Moment(seconds, u32::try_from(nanos).unwrap_or(0)));
    FileMetadata {
        identity: Identity(found.st_dev as u64, found.st_ino as u64),
        stamp: Stamp {
            size: found.st_size as u64,
            modified: moment(found.st_mtime as i64, found.st_mtime_nsec as u64),
            changed: moment(found.st_ctime as i64, found.st_ctime_nsec as u64),
        },
        mode: found.st_mode as u32 & 0o7777,
        owner: (found.st_uid, found.st_gid),
        names: found.st_nlink as u64,
    }
}

/// What the system says of a file.
pub fn stamp(metadata: &fs::Metadata) -> Stamp {
    Stamp {
        size: metadata.len(),
        modified: metadata.modified().ok().map(Moment::from),
        changed: u32::try_from(metadata.ctime_nsec()).ok().map(|nanos| Moment(metadata.ctime(), nanos)),
    }
}

/// The permission bits of a file.
pub fn mode(metadata: &fs::Metadata) -> Option<u32> {
    Some(metadata.permissions().mode() & 0o7777)
}
