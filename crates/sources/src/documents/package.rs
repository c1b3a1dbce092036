//! The parts of a document that is a zip archive inside.

use std::collections::BTreeMap;
use std::io::{Cursor, Read};

use tideline_core::internal::kinds::document::LeftOutPart;
use zip::ZipArchive;
use zip::read::ZipFile;

/// A part of more bytes is not read.
const LARGEST_PART: u64 = 256 << 20;
/// All parts together.
const LARGEST: u64 = 1 << 30;
/// A part this small may have grown by any ratio.
const SMALL: u64 = 16 << 20;
/// How many times as large a part may become.
const STEEPEST: u64 = 1_000;
/// Parts of a document.
const MOST_PARTS: usize = 100_000;

/// A document that is a zip archive inside.
pub(super) struct Package<'b> {
    archive: ZipArchive<Cursor<&'b [u8]>>,
}

impl<'b> Package<'b> {
    /// Opens a document.
    pub(super) fn open(bytes: &'b [u8]) -> Result<Self, String> {
        let archive =
            ZipArchive::new(Cursor::new(bytes)).map_err(|error| format!("its directory cannot be read ({error})"))?;
        if archive.len() > MOST_PARTS {
            return Err(format!("it has more than {MOST_PARTS} parts"));
        }
        Ok(Self { archive })
    }

    /// Whether there is a part.
    pub(super) fn has(&mut self, name: &str) -> bool {
        self.archive.index_for_name(name).is_some()
    }

    /// The names of all parts.
    pub(super) fn names(&self) -> Vec<String> {
        self.archive.file_names().flatten().map(std::borrow::Cow::into_owned).collect()
    }

    /// The contents of a part.
    pub(super) fn part(&mut self, name: &str) -> Result<Vec<u8>, String> {
        let damaged = |error: &dyn std::fmt::Display| format!("{name} in it cannot be read ({error})");
        let part = self.archive.by_name(name).map_err(|error| damaged(&error))?;
        let (packed, size) = (part.compressed_size(), part.size());
        check(size, packed).map_err(|why| format!("{name} in it {why}"))?;
        let mut bytes = Vec::new();
        part.take(LARGEST_PART + 1).read_to_end(&mut bytes).map_err(|error| damaged(&error))?;
        check(bytes.len() as u64, packed).map_err(|why| format!("{name} in it {why}"))?;
        Ok(bytes)
    }

    /// The contents of a part as text.
    pub(super) fn text(&mut self, name: &str) -> Result<String, String> {
        let bytes = self.part(name)?;
        let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&bytes);
        String::from_utf8(bytes.to_vec()).map_err(|_| format!("{name} in it is not text in UTF-8"))
    }

    /// Fails where the parts unpack to more than is read.
    pub(super) fn check_sizes(&mut self) -> Result<(), String> {
        let mut all = 0;
        for at in 0..self.archive.len() {
            let part = self.archive.by_index_raw(at).map_err(|error| format!("it is damaged ({error})"))?;
            let name = named(&part);
            check(part.size(), part.compressed_size()).map_err(|why| format!("{name} in it {why}"))?;
            all += part.size();
        }
        if all > LARGEST { Err(format!("it unpacks to more than {} MB", LARGEST >> 20)) } else { Ok(()) }
    }

    /// The parts that are not read, by what they are: `of` names them, or nothing where a part is read.
    pub(super) fn left_out(&mut self, of: impl Fn(&str) -> Option<&'static str>) -> Result<Vec<LeftOutPart>, String> {
        let mut parts: BTreeMap<&'static str, BTreeMap<String, (u32, u64)>> = BTreeMap::new();
        for at in 0..self.archive.len() {
            let part = self.archive.by_index_raw(at).map_err(|error| format!("it is damaged ({error})"))?;
            let name = named(&part);
            if let Some(what) = of(&name).filter(|_| !part.is_dir()) {
                parts.entry(what).or_default().insert(name, (part.crc32(), part.size()));
            }
        }
        let hashed = |(name, parts): (&'static str, BTreeMap<String, (u32, u64)>)| {
            let mut hasher = blake3::Hasher::new();
            for (name, (checksum, size)) in parts {
                hasher.update(name.as_bytes()).update(&[0]);
                hasher.update(&checksum.to_le_bytes()).update(&size.to_le_bytes());
            }
            LeftOutPart { name: name.to_owned(), hash: *hasher.finalize().as_bytes() }
        };
        Ok(parts.into_iter().map(hashed).collect())
    }
}

/// The name of a part; as its bytes say, where they are not text.
fn named<R: Read + ?Sized>(part: &ZipFile<'_, R>) -> String {
    String::from_utf8_lossy(part.name_raw()).into_owned()
}

fn check(size: u64, packed: u64) -> Result<(), String> {
    if size > LARGEST_PART {
        return Err(format!("unpacks to more than {} MB", LARGEST_PART >> 20));
    }
    if size > SMALL && size / packed.max(1) > STEEPEST {
        return Err(format!("unpacks to more than {STEEPEST} times its size"));
    }
    Ok(())
}
