//! Bytes that can be read from any place: those of a file, of a part of one, or of contents that are in memory.

use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom};
use std::os::unix::fs::{FileExt, MetadataExt};
use std::sync::Arc;

use tideline_core::internal::tree::Contents;

use crate::file::MAPPED_FROM;
use crate::mapped::PrivateMap;

/// Bytes that can be read from any place. Copies share them.
#[derive(Clone)]
pub(crate) struct Blob {
    source: Arc<Source>,
    start: u64,
    len: u64,
}

enum Source {
    /// A file, and what was known of it when it was opened.
    File(File, Stamp),
    /// A temporary file that nobody else can reach.
    Private(Arc<File>),
    Contents(Contents),
}

#[derive(Clone, Copy, PartialEq, Eq)]
struct Stamp(u64, i64, i64);

impl Stamp {
    fn of(file: &File) -> io::Result<Self> {
        let metadata = file.metadata()?;
        Ok(Self(metadata.len(), metadata.mtime(), metadata.mtime_nsec()))
    }
}

impl Blob {
    /// The bytes of a file that can be read from any place.
    pub(crate) fn of_file(file: File) -> io::Result<Self> {
        let stamp = Stamp::of(&file)?;
        Ok(Self { len: stamp.0, source: Arc::new(Source::File(file, stamp)), start: 0 })
    }

    /// A part of a temporary file that nobody else can reach.
    pub(crate) fn of_private(file: Arc<File>, start: u64, len: u64) -> Self {
        Self { source: Arc::new(Source::Private(file)), start, len }
    }

    pub(crate) fn of_contents(contents: Contents) -> Self {
        let len = (*contents).as_ref().len() as u64;
        Self { source: Arc::new(Source::Contents(contents)), start: 0, len }
    }

    pub(crate) fn len(&self) -> u64 {
        self.len
    }

    /// A part of it; where the bytes end before the part, it ends there too.
    pub(crate) fn part(&self, start: u64, len: u64) -> Self {
        let start = start.min(self.len);
        Self { source: Arc::clone(&self.source), start: self.start + start, len: len.min(self.len - start) }
    }

    /// Reads some bytes from a place, and says how many there were.
    pub(crate) fn read_at(&self, buffer: &mut [u8], at: u64) -> io::Result<usize> {
        let left = usize::try_from(self.len.saturating_sub(at)).unwrap_or(usize::MAX);
        let wanted = buffer.len().min(left);
        if wanted == 0 {
            return Ok(0);
        }
        let from = self.start + at;
        match &*self.source {
            Source::File(file, _) => file.read_at(&mut buffer[..wanted], from),
            Source::Private(file) => file.read_at(&mut buffer[..wanted], from),
            Source::Contents(contents) => {
                let bytes = (**contents).as_ref();
                let from = usize::try_from(from).unwrap_or(usize::MAX).min(bytes.len());
                let there = wanted.min(bytes.len() - from);
                buffer[..there].copy_from_slice(&bytes[from..from + there]);
                Ok(there)
            }
        }
    }

    /// As many of the first bytes as there are and fit.
    pub(crate) fn head(&self, most: usize) -> io::Result<Vec<u8>> {
        let mut head = Vec::new();
        self.reader().take(most as u64).read_to_end(&mut head)?;
        Ok(head)
    }

    /// Whether the file was changed since it was opened.
    pub(crate) fn was_changed(&self) -> bool {
        match &*self.source {
            Source::File(file, stamp) => Stamp::of(file).is_ok_and(|now| now != *stamp),
            Source::Private(_) => false,
            Source::Contents(contents) => contents.check().is_err(),
        }
    }

    /// All of it at once. Much of a private file is mapped, and takes no memory of its size.
    pub(crate) fn contents(&self) -> io::Result<Contents> {
        if let Source::Private(file) = &*self.source
            && self.len >= MAPPED_FROM
        {
            return Ok(Box::new(PrivateMap::new(file, self.start, self.len)?));
        }
        let mut bytes = Vec::new();
        bytes.try_reserve_exact(usize::try_from(self.len).unwrap_or(usize::MAX))?;
        self.reader().read_to_end(&mut bytes)?;
        if bytes.len() as u64 != self.len {
            return Err(io::ErrorKind::UnexpectedEof.into());
        }
        Ok(Box::new(bytes))
    }

    pub(crate) fn reader(&self) -> BlobReader {
        BlobReader { blob: self.clone(), at: 0 }
    }
}

/// Reads bytes from their start.
#[derive(Clone)]
pub(crate) struct BlobReader {
    blob: Blob,
    at: u64,
}

impl Read for BlobReader {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let count = self.blob.read_at(buffer, self.at)?;
        self.at += count as u64;
        Ok(count)
    }
}

impl Seek for BlobReader {
    fn seek(&mut self, to: SeekFrom) -> io::Result<u64> {
        let at = match to {
            SeekFrom::Start(at) => Some(at),
            SeekFrom::End(by) => self.blob.len.checked_add_signed(by),
            SeekFrom::Current(by) => self.at.checked_add_signed(by),
        };
        self.at = at.ok_or(io::ErrorKind::InvalidInput)?;
        Ok(self.at)
    }
}
