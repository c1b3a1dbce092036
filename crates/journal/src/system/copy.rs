//! Reading and copying files, with a hash of what they hold.

use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom, Write};
use std::os::unix::fs::MetadataExt;

use tideline_core::internal::plan::{Fingerprint, Stamp};

use super::stat::{regular, stamp};

/// Files up to this size are copied by reading them whole; larger ones block by block, unless the system lets the copy share
/// what the original holds.
const WHOLE: u64 = 256 << 10;
/// Bytes copied at a time.
const BLOCK: usize = 1 << 20;

pub(super) fn changed_meanwhile() -> io::Error {
    io::Error::other("it was changed while it was read")
}

/// Reads an open file to its end, and keeps its bytes if there are at most so many.
pub(super) fn read(file: &mut File, size: u64, most: u64) -> io::Result<(Fingerprint, Option<Vec<u8>>)> {
    if size <= most {
        let mut bytes = Vec::new();
        let room = usize::try_from(size).unwrap_or(usize::MAX).saturating_add(1);
        bytes.try_reserve_exact(room)?;
        // One call reads most files whole; who calls looks at the size again.
        file.take(room as u64).read_to_end(&mut bytes)?;
        return Ok((Fingerprint::of(&bytes), Some(bytes)));
    }
    Ok((hashed(file)?, None))
}

/// The fingerprint of what an open file holds from where it stands.
fn hashed(file: &mut File) -> io::Result<Fingerprint> {
    let mut hasher = blake3::Hasher::new();
    let size = io::copy(file, &mut hasher)?;
    Ok(Fingerprint { size, hash: *hasher.finalize().as_bytes() })
}

/// Copies a file that is what it was when it was seen, and says what the copy holds. Holes stay holes.
pub(super) fn copy(source: &mut File, seen: Option<&Stamp>, to: &mut File) -> io::Result<Fingerprint> {
    regular(source)?;
    let metadata = source.metadata()?;
    let began = stamp(&metadata);
    let changed = || io::Error::other("what is copied was changed since the plan was made");
    if seen.is_some_and(|seen| began != *seen) {
        return Err(changed());
    }
    let print = if metadata.len() <= WHOLE {
        let mut bytes = Vec::with_capacity(usize::try_from(metadata.len()).unwrap_or(0) + 1);
        source.read_to_end(&mut bytes)?;
        to.write_all(&bytes)?;
        Fingerprint::of(&bytes)
    } else if clone_range(source, to) {
        hashed(to)?
    } else if metadata.blocks().saturating_mul(512) < metadata.len() {
        copy_with_holes(source, to, metadata.len())?
    } else {
        copy_all(source, to)?
    };
    if print.size != began.size || stamp(&source.metadata()?) != began {
        return Err(if seen.is_some() { changed() } else { changed_meanwhile() });
    }
    Ok(print)
}

/// Lets a new file share what another holds, where the file system can.
#[cfg(target_os = "linux")]
fn clone_range(from: &File, to: &File) -> bool {
    rustix::fs::ioctl_ficlone(to, from).is_ok()
}

#[cfg(not(target_os = "linux"))]
fn clone_range(_: &File, _: &File) -> bool {
    false
}

fn copy_all(source: &mut File, to: &mut File) -> io::Result<Fingerprint> {
    let mut hasher = blake3::Hasher::new();
    let mut block = vec![0; BLOCK];
    let mut size = 0;
    loop {
        let read = match source.read(&mut block) {
            Ok(0) => break,
            Ok(read) => read,
            Err(error) if error.kind() == io::ErrorKind::Interrupted => continue,
            Err(error) => return Err(error),
        };
        hasher.update(&block[..read]);
        to.write_all(&block[..read])?;
        size += read as u64;
    }
    Ok(Fingerprint { size, hash: *hasher.finalize().as_bytes() })
}

/// Copies only the stretches that hold data; the rest reads as zeros in both.
#[cfg(target_os = "linux")]
fn copy_with_holes(source: &mut File, to: &mut File, size: u64) -> io::Result<Fingerprint> {
    use rustix::io::Errno;
    let mut hasher = blake3::Hasher::new();
    let zeros = vec![0_u8; BLOCK];
    let mut at = 0;
    while at < size {
        let start = match rustix::fs::seek(&*source, rustix::fs::SeekFrom::Data(at)) {
            Err(Errno::NXIO) => size,
            Err(Errno::INVAL) if at == 0 => {
                source.seek(SeekFrom::Start(0))?;
                return copy_all(source, to);
            }
            found => found?.min(size),
        };
        let mut hole = start - at;
        while hole > 0 {
            let part = hole.min(BLOCK as u64);
            hasher.update(&zeros[..usize::try_from(part).unwrap_or(BLOCK)]);
            hole -= part;
        }
        at = start;
        if at == size {
            break;
        }
        let end = rustix::fs::seek(&*source, rustix::fs::SeekFrom::Hole(at))?.min(size);
        source.seek(SeekFrom::Start(at))?;
        to.seek(SeekFrom::Start(at))?;
        let mut data = Read::by_ref(source).take(end - at);
        let mut block = vec![0; BLOCK];
        loop {
            let read = data.read(&mut block)?;
            if read == 0 {
                break;
            }
            hasher.update(&block[..read]);
            to.write_all(&block[..read])?;
            at += read as u64;
        }
        if at < end {
            return Err(changed_meanwhile());
        }
    }
    to.set_len(size)?;
    Ok(Fingerprint { size, hash: *hasher.finalize().as_bytes() })
}

#[cfg(not(target_os = "linux"))]
fn copy_with_holes(source: &mut File, to: &mut File, _: u64) -> io::Result<Fingerprint> {
    copy_all(source, to)
}
