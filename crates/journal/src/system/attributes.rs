//! Owners, permissions, times, extended attributes and access control lists.

use std::io;
use std::os::fd::AsFd;

use rustix::fs::{Gid, Mode, Timespec, Timestamps, UTIME_OMIT, Uid, XattrFlags, fchmod, fchown, fstat, futimens};
use rustix::io::Errno;
use tideline_core::internal::plan::{Extended, Moment};

use crate::files::{Dropped, NewAttributes};

/// The attribute in which capabilities are kept.
const CAPABILITIES: &[u8] = b"security.capability";
/// Acting as the owner, and as the group.
const ACT_AS: (u32, u32) = (0o4000, 0o2000);

/// Gives an open file or folder what is wanted. What is copied carries its extended attributes along, but no capabilities; and the
/// permission to act as its owner only where that is the owner of the copy.
pub(super) fn apply_attributes(
    file: impl AsFd,
    wanted: &NewAttributes<'_>,
    source_owner: Option<(u32, u32)>,
    source_extended: Option<Vec<Extended>>,
) -> io::Result<Vec<Dropped>> {
    let file = file.as_fd();
    let mut dropped = Vec::new();
    let mut found = fstat(file)?;
    // What may change permission bits without being asked to.
    let mut is_other = false;
    if let Some((user, group)) = wanted.owner {
        // Apart from each other: whoever may not give a file away may still give it one of their groups.
        if group != found.st_gid && fchown(file, None, Some(Gid::from_raw(group))).is_err() {
            dropped.push(Dropped::Group);
        }
        if user != found.st_uid && fchown(file, Some(Uid::from_raw(user)), None).is_err() {
            dropped.push(Dropped::Owner);
        }
        if (user, group) != (found.st_uid, found.st_gid) {
            found = fstat(file)?;
        }
    }
    match (wanted.extended, source_extended) {
        (Some(exactly), _) => match replace_extended(file, exactly)? {
            Replaced::AsTheyWere => {}
            Replaced::All => is_other = true,
            Replaced::Some => {
                is_other = true;
                dropped.push(Dropped::Extended);
            }
        },
        (None, Some(mut inherited)) => {
            let all = inherited.len();
            inherited.retain(|one| one.name != CAPABILITIES);
            if inherited.len() < all {
                dropped.push(Dropped::Capabilities);
            }
            // What a copy gets from its source may be left behind where the file system does not have it.
            is_other |= !inherited.is_empty();
            for one in &inherited {
                let _ = rustix::fs::fsetxattr(file, &*one.name, &one.value, XattrFlags::empty());
            }
        }
        (None, None) => {}
    }
    if let Some(mut mode) = wanted.mode {
        if let Some((user, group)) = source_owner.or(wanted.owner) {
            let lost = (mode & ACT_AS.0 != 0 && user != found.st_uid, mode & ACT_AS.1 != 0 && group != found.st_gid);
            mode &= !((u32::from(lost.0) * ACT_AS.0) | (u32::from(lost.1) * ACT_AS.1));
            if lost.0 || lost.1 {
                dropped.push(Dropped::ActAs);
            }
        }
        if is_other {
            found = fstat(file)?;
        }
        let now = found.st_mode & 0o7777;
        if mode != now {
            #[expect(clippy::useless_conversion, reason = "the type of modes differs between systems")]
            match fchmod(file, Mode::from_raw_mode(mode.try_into().unwrap_or_default())) {
                Ok(()) => {}
                Err(Errno::PERM | Errno::ACCESS | Errno::INVAL | Errno::OPNOTSUPP | Errno::NOSYS) => {
                    dropped.push(Dropped::Mode);
                }
                Err(error) => return Err(error.into()),
            }
        }
    }
    if !timed(file, wanted.modified) {
        dropped.push(Dropped::Time);
    }
    Ok(dropped)
}

pub(super) fn set_times(file: impl AsFd, modified: Moment) -> rustix::io::Result<()> {
    futimens(file, &times(modified))
}

pub(super) fn times(Moment(seconds, nanos): Moment) -> Timestamps {
    Timestamps {
        last_access: Timespec { tv_sec: 0, tv_nsec: UTIME_OMIT },
        last_modification: Timespec { tv_sec: seconds, tv_nsec: nanos.into() },
    }
}

/// The extended attributes of an open file, in the order of their names; none where the file system has none.
pub(super) fn extended(file: impl AsFd) -> io::Result<Vec<Extended>> {
    let file = file.as_fd();
    let Some(names) = filled(|room| rustix::fs::flistxattr(file, room))? else { return Ok(Vec::new()) };
    let mut found = Vec::new();
    for name in names.split(|&byte| byte == 0).filter(|name| !name.is_empty()) {
        if let Some(value) = filled(|room| rustix::fs::fgetxattr(file, name, room))? {
            found.push(Extended { name: name.to_vec(), value });
        }
    }
    found.sort_unstable();
    Ok(found)
}

/// What came of replacing extended attributes.
enum Replaced {
    AsTheyWere,
    All,
    Some,
}

/// Makes the extended attributes of an open file exactly these.
fn replace_extended(file: std::os::fd::BorrowedFd<'_>, exactly: &[Extended]) -> io::Result<Replaced> {
    let there = extended(file)?;
    if there == exactly {
        return Ok(Replaced::AsTheyWere);
    }
    let mut all = true;
    for one in there.iter().filter(|one| exactly.iter().all(|wanted| wanted.name != one.name)) {
        // What the system itself puts on every file cannot be taken away.
        let removed = rustix::fs::fremovexattr(file, &*one.name).is_ok();
        all &= removed || one.name.starts_with(b"security.");
    }
    for one in exactly.iter().filter(|one| !there.contains(one)) {
        all &= rustix::fs::fsetxattr(file, &*one.name, &one.value, XattrFlags::empty()).is_ok();
    }
    Ok(if all { Replaced::All } else { Replaced::Some })
}

/// What a call fills in that says how much room it takes; nothing where the file system has none of it.
fn filled(call: impl Fn(&mut [u8]) -> rustix::io::Result<usize>) -> io::Result<Option<Vec<u8>>> {
    let mut room = [0_u8; 512];
    match call(&mut room) {
        Ok(length) => return Ok(Some(room[..length].to_vec())),
        Err(Errno::OPNOTSUPP | Errno::NODATA | Errno::NOSYS | Errno::BADF | Errno::PERM | Errno::ACCESS) => {
            return Ok(None);
        }
        Err(Errno::RANGE) => {}
        Err(error) => return Err(error.into()),
    }
    let mut room = vec![0; 1 << 17];
    let length = call(&mut room)?;
    room.truncate(length);
    Ok(Some(room))
}

/// Gives an open file or folder a time; whether the system let it.
pub(super) fn timed(file: impl AsFd, modified: Option<Moment>) -> bool {
    modified.is_none_or(|modified| set_times(file, modified).is_ok())
}
