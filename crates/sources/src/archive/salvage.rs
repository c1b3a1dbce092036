//! A zip archive without its directory, as one that is cut off: each entry has a header of its own before its contents, which tells
//! all but permissions and links.

use std::io::Read;

use flate2::Crc;
use flate2::read::DeflateDecoder;
use tideline_core::internal::tree::{EntryMetadata, EntryType, TreeError, TreeErrorKind};

use super::stored::{Place, Stored};
use super::zip::{LOCAL_HEADER, SIGNATURE, dos_time};
use crate::blob::Blob;
use crate::index::{Index, Node};
use crate::limits::{Limits, TWO_SECONDS};

/// The flag that says that sizes and checksum stand behind the contents.
const SIZES_FOLLOW: u16 = 1 << 3;
/// The flag of what is encrypted.
const ENCRYPTED: u16 = 1;
/// In the place of a size that has to stand elsewhere.
const ELSEWHERE: u32 = u32::MAX;
/// Bytes unpacked at a time.
const PIECE: usize = 64 << 10;

/// Lists what stands before the cut, and says why that may not be all.
///
/// # Errors
/// Why its directory could not be read, where nothing stands there.
pub(super) fn entries(
    blob: &Blob,
    limits: &Limits,
    why: TreeError,
) -> Result<(Index<Stored>, Option<TreeError>), TreeError> {
    let mut index = Index::default();
    let mut at = 0;
    let mut unpacked = 0;
    while index.entries() < limits.entries && unpacked <= limits.expanded_size {
        let Some((next, size)) = entry(blob, at, limits, &mut index) else { break };
        at = next;
        unpacked += size;
    }
    if index.entries() == 0 {
        return Err(why);
    }
    let reason = "its directory cannot be read; what stands before the cut is told, without permissions and links";
    Ok((index, Some(TreeError::new(TreeErrorKind::Damaged, reason))))
}

/// Adds the entry whose header stands at a place; where the next one begins, and the size of this one. Nothing where there is none.
fn entry(blob: &Blob, at: u64, limits: &Limits, index: &mut Index<Stored>) -> Option<(u64, u64)> {
    let header = blob.part(at, LOCAL_HEADER as u64).head(LOCAL_HEADER).ok()?;
    if header.len() < LOCAL_HEADER || !header.starts_with(SIGNATURE) {
        return None;
    }
    let short = |at: usize| u16::from_le_bytes([header[at], header[at + 1]]);
    let long = |at: usize| u32::from_le_bytes([header[at], header[at + 1], header[at + 2], header[at + 3]]);
    let (flags, method) = (short(6), short(8));
    let name_at = at + LOCAL_HEADER as u64;
    let name = blob.part(name_at, u64::from(short(26))).head(usize::from(short(26))).ok()?;
    let start = name_at + u64::from(short(26)) + u64::from(short(28));
    let (packed, size, checksum) = match (flags & SIZES_FOLLOW != 0, method) {
        (false, _) if long(18) != ELSEWHERE && long(22) != ELSEWHERE => {
            (u64::from(long(18)), u64::from(long(22)), long(14))
        }
        (true, 8) => measured(&blob.part(start, u64::MAX), limits)?,
        // Where it ends is not known without the directory.
        _ => return None,
    };
    let place = Place { header: at, packed, size, method, checksum };
    let is_folder = name.ends_with(b"/");
    let bad = |reason: &str| Stored::Bad(TreeError::new(TreeErrorKind::Other, reason));
    let held = match method {
        _ if is_folder => Stored::Nothing,
        _ if flags & ENCRYPTED != 0 => bad("it is encrypted"),
        0 | 8 | 12 | 93 | 95 if !limits.is_bomb(packed, size) => Stored::Zip(place),
        0 | 8 | 12 | 93 | 95 => bad(&limits.too_steep()),
        _ => bad(&format!("it is packed with method {method}, which is not known")),
    };
    let metadata = EntryMetadata {
        size,
        modified: dos_time(short(12), short(10)),
        time_step: TWO_SECONDS,
        ..EntryMetadata::default()
    };
    let entry_type = if is_folder { EntryType::Folder } else { EntryType::File };
    index.add(&name, Node { entry_type, metadata: Some(metadata), target: None, held, packed: false });
    let end = start.checked_add(packed)?;
    // Sizes that follow may have a signature before them.
    let behind = if flags & SIZES_FOLLOW == 0 {
        0
    } else if blob.part(end, 4).head(4).ok()? == b"PK\x07\x08" {
        16
    } else {
        12
    };
    Some((end + behind, size))
}

/// Unpacks contents to find where they end: how long they are packed and unpacked, and their checksum.
fn measured(blob: &Blob, limits: &Limits) -> Option<(u64, u64, u32)> {
    let mut decoder = DeflateDecoder::new(blob.reader());
    let (mut crc, mut piece) = (Crc::new(), vec![0; PIECE]);
    loop {
        let count = decoder.read(&mut piece).ok()?;
        if count == 0 {
            return Some((decoder.total_in(), decoder.total_out(), crc.sum()));
        }
        crc.update(&piece[..count]);
        let (taken, given) = (decoder.total_in(), decoder.total_out());
        if given > limits.expanded_size || limits.is_bomb(taken, given) {
            return None;
        }
    }
}
