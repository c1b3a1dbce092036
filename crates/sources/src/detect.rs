//! What a file is by what it holds: an archive, a compressed file, an inventory, or a file like any other.

use std::io::{self, Read};

use zip::read::Config;
use zip::unstable::read::ZipIterable;

use crate::blob::Blob;
use crate::compression::Compression;
use crate::inventory::is_inventory;
use crate::limits::Limits;

/// What a file is by what it holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Packed {
    /// A zip archive.
    Zip,
    /// A document that is a zip archive inside.
    Document,
    /// A tar archive, and how it is compressed.
    Tar(Option<Compression>),
    /// One compressed file.
    Compressed(Compression),
    /// An inventory of a tree.
    Inventory,
}

/// Bytes at the head of a file that tell what it is: the first header of a tar archive.
pub(crate) const HEAD: usize = 512;
/// Entries of an archive that are looked at for the main part of a document.
const MOST_LOOKED_AT: usize = 10_000;
/// Where a tar header has the checksum of itself.
const CHECKSUM: std::ops::Range<usize> = 148..156;

impl Packed {
    /// What a file is; nothing where it is like any other.
    pub(crate) fn of(blob: &Blob) -> io::Result<Option<Self>> {
        let head = blob.head(HEAD)?;
        let found = Self::of_head(
            &head,
            || blob.head(1 << 20),
            |compression| {
                let mut inside = Vec::new();
                let unpacked = compression.unpacked(blob, &Limits::default());
                // What is damaged is told when all of it is read.
                let _ = unpacked.map(|reader| reader.take(HEAD as u64).read_to_end(&mut inside));
                inside
            },
        );
        // Not every writer puts first what tells a document.
        if found == Some(Self::Zip) && has_main_part(blob) {
            return Ok(Some(Self::Document));
        }
        Ok(found)
    }

    /// What a file is that begins so. More of its head, and what is in a compressed one, are asked for where they tell.
    pub(crate) fn of_head(
        head: &[u8],
        more: impl FnOnce() -> io::Result<Vec<u8>>,
        unpacked: impl FnOnce(Compression) -> Vec<u8>,
    ) -> Option<Self> {
        if head.starts_with(b"PK\x03\x04") {
            return Some(if is_document(head) { Self::Document } else { Self::Zip });
        }
        if head.starts_with(b"PK\x05\x06") {
            return Some(Self::Zip);
        }
        if let Some(compression) = Compression::of(head) {
            let inside = unpacked(compression);
            return Some(if is_tar(&inside) { Self::Tar(Some(compression)) } else { Self::Compressed(compression) });
        }
        if is_tar(head) {
            return Some(Self::Tar(None));
        }
        (head.starts_with(b"{\"record\":\"inventory\"") && more().is_ok_and(|head| is_inventory(&head)))
            .then_some(Self::Inventory)
    }

    /// Whether a file that begins so may be packed. What a compressed one holds, and the rest of an inventory's head, are not
    /// looked at.
    pub(crate) fn may_be(head: &[u8]) -> bool {
        Self::of_head(head, || Ok(head.to_vec()), |_| Vec::new()).is_some()
    }

    /// Whether it is looked into as a folder.
    pub(crate) fn is_archive(self) -> bool {
        matches!(self, Self::Zip | Self::Document | Self::Tar(_))
    }
}

/// Whether a zip archive is a document, by what comes first in it (ISO/IEC 26300-3, 3.3; ECMA-376-2, 7.3.7).
fn is_document(head: &[u8]) -> bool {
    let name = |name: &[u8]| head.get(30..30 + name.len()) == Some(name);
    name(b"mimetype") || name(b"[Content_Types].xml")
}

/// Whether the directory of a zip archive names the main part of an office document.
fn has_main_part(blob: &Blob) -> bool {
    const MAIN_PARTS: [&[u8]; 4] =
        [b"word/document.xml", b"xl/workbook.xml", b"xl/workbook.bin", b"ppt/presentation.xml"];
    let Ok(mut archive) = ZipIterable::try_new(io::BufReader::new(blob.reader()), Config::default()) else {
        return false;
    };
    let Ok(files) = archive.files() else { return false };
    let mut has_types = false;
    let mut has_main = false;
    for entry in files.flatten().take(MOST_LOOKED_AT) {
        has_types |= entry.name_raw() == b"[Content_Types].xml";
        has_main |= MAIN_PARTS.contains(&entry.name_raw());
    }
    has_types && has_main
}

/// Whether bytes begin with a header of a tar archive: its checksum is right (POSIX.1-2017, pax, "ustar interchange format").
fn is_tar(head: &[u8]) -> bool {
    let Some(header) = head.get(..HEAD) else { return false };
    if header[0] == 0 {
        return false;
    }
    let told = &header[CHECKSUM];
    let digits = String::from_utf8_lossy(told);
    let Ok(told) = u32::from_str_radix(digits.trim_matches([' ', '\0']), 8) else { return false };
    let blank = |at: usize, byte: u8| if CHECKSUM.contains(&at) { b' ' } else { byte };
    let sum: u32 = header.iter().enumerate().map(|(at, &byte)| u32::from(blank(at, byte))).sum();
    sum == told
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(head: &[u8]) -> Option<Packed> {
        Packed::of_head(head, || Ok(head.to_vec()), |_| Vec::new())
    }

    /// A header of a tar archive without its magic, as the oldest programs write it.
    fn old_tar(name: &str) -> Vec<u8> {
        let mut header = tar::Header::new_old();
        header.set_path(name).unwrap();
        header.set_size(3);
        header.set_cksum();
        header.as_bytes().to_vec()
    }

    #[test]
    fn archives_are_known_by_how_they_begin_and_nothing_else_is() {
        assert_eq!(of(&old_tar("levels.csv")), Some(Packed::Tar(None)));
        assert_eq!(of(b"PK\x05\x06\0\0"), Some(Packed::Zip), "an empty one");
        assert_eq!(of(b"\x1f\x8b\x08\0"), Some(Packed::Compressed(Compression::Gzip)));
        assert_eq!(of(b"BZh91AY&SY"), Some(Packed::Compressed(Compression::Bzip2)));
        let mut damaged = old_tar("levels.csv");
        damaged[0] ^= 1;
        for head in [&damaged[..], &[0; 512], b"PK is how it begins", b"BZh is a word", b"{\"record\":1}\n", b""] {
            assert_eq!(of(head), None, "{:?}", String::from_utf8_lossy(&head[..head.len().min(20)]));
        }
    }

    #[test]
    fn what_is_compressed_is_an_archive_where_it_holds_one() {
        let inside = |_| old_tar("levels.csv");
        let found = Packed::of_head(b"\x28\xb5\x2f\xfd", || Ok(Vec::new()), inside);
        assert_eq!(found, Some(Packed::Tar(Some(Compression::Zstd))));
    }

    #[test]
    fn documents_are_told_from_other_zip_archives_by_their_first_entry() {
        let zip = |name: &str| {
            let mut head = b"PK\x03\x04".to_vec();
            head.resize(30, 0);
            head.extend_from_slice(name.as_bytes());
            head
        };
        assert_eq!(of(&zip("mimetypeapplication/")), Some(Packed::Document));
        assert_eq!(of(&zip("[Content_Types].xml")), Some(Packed::Document));
        assert_eq!(of(&zip("levels.csv")), Some(Packed::Zip));
    }
}
