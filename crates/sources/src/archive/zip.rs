//! The entries of a zip archive (PKWARE, ".ZIP File Format Specification", version 6.3.10), and the contents of one.

use std::io::{self, Read, Seek};
use std::time::{Duration, SystemTime};

use flate2::Crc;
use jiff::civil::DateTime;
use jiff::tz::TimeZone;
use tideline_core::internal::tree::{EntryMetadata, EntryType, TreeError, TreeErrorKind};
use zip::System;
use zip::read::{Config, ZipFileEntry};
use zip::unstable::read::ZipIterable;

use crate::blob::Blob;
use crate::index::{Index, Node};
use crate::limits::{Limits, TWO_SECONDS, WHOLE_SECONDS};

use super::stored::{Place, Stored};

/// Bytes of the header before contents, without its name and extra fields.
pub(super) const LOCAL_HEADER: usize = 30;
/// How it begins.
pub(super) const SIGNATURE: &[u8] = b"PK\x03\x04";
/// Bytes of the header of an entry in the directory, without its name and extra fields.
const CENTRAL_HEADER: usize = 46;
/// The extra field with times in whole seconds since 1970.
const EXTENDED_TIMESTAMP: u16 = 0x5455;
/// The targets of links are read up to this size.
const LONGEST_TARGET: u64 = 64 << 10;

/// Reads the directory of an archive. What of it could not be read is told too.
pub(super) fn read(blob: &Blob, limits: &Limits) -> Result<(Index<Stored>, Option<TreeError>), TreeError> {
    let damaged = |error: zip::result::ZipError| {
        TreeError::new(TreeErrorKind::Damaged, format!("its directory cannot be read, as when it is cut off ({error})"))
    };
    let mut archive = ZipIterable::try_new(io::BufReader::new(blob.reader()), Config::default()).map_err(damaged)?;
    let mut index = Index::default();
    let mut expanded = 0;
    for entry in archive.files().map_err(damaged)? {
        if index.entries() >= limits.entries {
            return Ok((index, Some(TreeError::new(TreeErrorKind::TooLarge, limits.too_many()))));
        }
        match entry {
            Ok(entry) => add(&entry, blob, limits, &mut expanded, &mut index),
            Err(error) => return Ok((index, Some(damaged(error)))),
        }
    }
    Ok((index, None))
}

fn add(entry: &ZipFileEntry<'_>, blob: &Blob, limits: &Limits, expanded: &mut u64, index: &mut Index<Stored>) {
    let name = match std::str::from_utf8(entry.name_raw()) {
        Ok(_) => entry.name_raw().to_vec(),
        Err(_) => entry.name().map_or_else(|_| entry.name_raw().to_vec(), |name| name.as_bytes().to_vec()),
    };
    let mode = (entry.system() == System::Unix).then(|| entry.external_attributes() >> 16).filter(|mode| *mode != 0);
    let file_type = mode.map_or(0, |mode| mode & 0o170_000);
    let entry_type = match file_type {
        _ if name.ends_with(b"/") => EntryType::Folder,
        0o120_000 => EntryType::Link,
        0o040_000 => EntryType::Folder,
        0o010_000 => EntryType::Special("named pipe"),
        0o020_000 | 0o060_000 => EntryType::Special("device"),
        0o140_000 => EntryType::Special("socket"),
        _ => EntryType::File,
    };
    let central = Central::read(entry.central_header_start(), blob).unwrap_or_default();
    let (modified, time_step) = modified(entry, central.modified);
    let metadata = EntryMetadata {
        size: if entry_type == EntryType::File { entry.size() } else { 0 },
        modified,
        mode: mode.map(|mode| mode & 0o7777),
        time_step,
        ..EntryMetadata::default()
    };
    let place = Place {
        header: entry.header_start(),
        packed: entry.compressed_size(),
        size: entry.size(),
        method: central.method,
        checksum: entry.crc32(),
    };
    let bad = |kind, reason: String| Stored::Bad(TreeError::new(kind, reason));
    *expanded = expanded.saturating_add(entry.size());
    let held = match entry_type {
        EntryType::Folder | EntryType::Special(_) => Stored::Nothing,
        _ if entry.encrypted() => bad(TreeErrorKind::Other, "it is encrypted".to_owned()),
        _ if !matches!(place.method, 0 | 8 | 12 | 93 | 95) => {
            bad(TreeErrorKind::Other, format!("it is packed with method {}, which is not known", place.method))
        }
        _ if *expanded > limits.expanded_size => bad(TreeErrorKind::TooLarge, limits.too_large_in_all()),
        _ if limits.is_bomb(place.packed, place.size) => bad(TreeErrorKind::TooLarge, limits.too_steep()),
        _ => Stored::Zip(place.clone()),
    };
    let mut node = Node { entry_type, metadata: Some(metadata), target: None, held, packed: false };
    if entry_type == EntryType::Link
        && let Stored::Zip(place) = &node.held
    {
        let mut target = Vec::new();
        let read = place.open(blob).and_then(|reader| reader.take(LONGEST_TARGET).read_to_end(&mut target));
        match read {
            Ok(_) => node.target = Some(target),
            Err(error) => node.held = Stored::Bad(TreeError::from(&error)),
        }
    }
    index.add(&name, node);
}

/// When an entry was last changed, and how exact that is: to the second where it says so, else by the local clock to two.
fn modified(entry: &ZipFileEntry<'_>, told: Option<i32>) -> (Option<SystemTime>, Duration) {
    if let Some(seconds) = told {
        let since = Duration::from_secs(u64::from(seconds.unsigned_abs()));
        let time = if seconds < 0 { SystemTime::UNIX_EPOCH - since } else { SystemTime::UNIX_EPOCH + since };
        return (Some(time), WHOLE_SECONDS);
    }
    (entry.last_modified().and_then(|time| dos_time(time.datepart(), time.timepart())), TWO_SECONDS)
}

/// The time that two numbers stand for in the form of the archive's first system, by the local clock.
pub(super) fn dos_time(date: u16, time: u16) -> Option<SystemTime> {
    let part = |number: u16, from: u16, bits: u16| i8::try_from(number >> from & ((1 << bits) - 1)).unwrap_or_default();
    let year = i16::try_from(1980 + (date >> 9)).ok()?;
    let seconds = 2 * part(time, 0, 5);
    let local =
        DateTime::new(year, part(date, 5, 4), part(date, 0, 5), part(time, 11, 5), part(time, 5, 6), seconds, 0);
    Some(SystemTime::from(local.ok()?.to_zoned(TimeZone::system()).ok()?.timestamp()))
}

/// What the directory says of an entry and the package does not tell.
struct Central {
    /// How the contents are packed.
    method: u16,
    /// When it was last changed, in seconds since 1970, where an extra field says that.
    modified: Option<i32>,
}

impl Default for Central {
    fn default() -> Self {
        Self { method: u16::MAX, modified: None }
    }
}

impl Central {
    fn read(header: u64, blob: &Blob) -> Option<Self> {
        let mut fixed = [0; CENTRAL_HEADER];
        read_exactly(blob, &mut fixed, header).ok()?;
        let short = |at: usize| u16::from_le_bytes([fixed[at], fixed[at + 1]]);
        let mut extra = vec![0; usize::from(short(30))];
        read_exactly(blob, &mut extra, header + CENTRAL_HEADER as u64 + u64::from(short(28))).ok()?;
        Some(Self { method: short(10), modified: extended_timestamp(&extra) })
    }
}

/// The time of the last change in the extra fields of an entry.
fn extended_timestamp(mut fields: &[u8]) -> Option<i32> {
    while let [a, b, c, d, rest @ ..] = fields {
        let (id, size) = (u16::from_le_bytes([*a, *b]), usize::from(u16::from_le_bytes([*c, *d])));
        let field = rest.get(..size)?;
        if id == EXTENDED_TIMESTAMP && field.first().is_some_and(|flags| flags & 1 == 1) {
            return Some(i32::from_le_bytes(field.get(1..5)?.try_into().ok()?));
        }
        fields = &rest[size..];
    }
    None
}

fn read_exactly(blob: &Blob, buffer: &mut [u8], at: u64) -> io::Result<()> {
    let mut reader = blob.reader();
    reader.seek(io::SeekFrom::Start(at))?;
    reader.read_exact(buffer)
}

impl Place {
    /// Unpacks the contents.
    pub(super) fn open(&self, blob: &Blob) -> io::Result<Box<dyn Read + Send>> {
        let damaged = |reason: &str| io::Error::new(io::ErrorKind::InvalidData, reason);
        let mut header = [0; LOCAL_HEADER];
        read_exactly(blob, &mut header, self.header)
            .map_err(|_| io::Error::new(io::ErrorKind::UnexpectedEof, "the archive is cut off before it"))?;
        if !header.starts_with(SIGNATURE) {
            return Err(damaged("the archive is damaged: its header is not where the directory says"));
        }
        let short = |at: usize| u64::from(u16::from_le_bytes([header[at], header[at + 1]]));
        let start = self.header.checked_add(LOCAL_HEADER as u64 + short(26) + short(28));
        let packed = blob.part(start.ok_or_else(|| damaged("the archive is damaged"))?, self.packed);
        if packed.len() < self.packed {
            return Err(io::Error::new(io::ErrorKind::UnexpectedEof, "the archive is cut off within it"));
        }
        let packed = packed.reader();
        let reader: Box<dyn Read + Send> = match self.method {
            0 => Box::new(packed),
            8 => Box::new(flate2::read::DeflateDecoder::new(packed)),
            12 => Box::new(bzip2::read::BzDecoder::new(packed)),
            93 => Box::new(zstd::stream::read::Decoder::new(packed)?),
            95 => Box::new(liblzma::read::XzDecoder::new(packed)),
            _ => return Err(io::ErrorKind::Unsupported.into()),
        };
        Ok(Box::new(Checked { inner: reader, left: self.size, crc: Crc::new(), wanted: self.checksum, is_done: false }))
    }
}

/// Contents that must have the size and the checksum that the directory says.
struct Checked {
    inner: Box<dyn Read + Send>,
    left: u64,
    crc: Crc,
    wanted: u32,
    is_done: bool,
}

impl Read for Checked {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if self.is_done || buffer.is_empty() {
            return Ok(0);
        }
        let damaged = |reason: &str| io::Error::new(io::ErrorKind::InvalidData, format!("it is damaged: {reason}"));
        let count = self.inner.read(buffer).map_err(|error| damaged(&error.to_string()))?;
        if count as u64 > self.left {
            return Err(damaged("it unpacks to more than the archive says"));
        }
        self.left -= count as u64;
        self.crc.update(&buffer[..count]);
        if count == 0 {
            self.is_done = true;
            if self.left > 0 {
                return Err(damaged("it unpacks to less than the archive says"));
            }
            if self.crc.sum() != self.wanted {
                return Err(damaged("its checksum is wrong"));
            }
        }
        Ok(count)
    }
}
