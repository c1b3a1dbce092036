//! Compressed streams: gzip, xz, zstd and bzip2, known by how they begin.

use std::io::{self, Read};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::mpsc::{Receiver, sync_channel};
use std::thread;

use crate::blob::Blob;
use crate::limits::Limits;

/// How a stream is compressed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Compression {
    /// gzip (RFC 1952).
    Gzip,
    /// xz.
    Xz,
    /// Zstandard (RFC 8878).
    Zstd,
    /// bzip2.
    Bzip2,
}

/// The largest window of a Zstandard stream, as a power of two; a larger one would take gigabytes of memory.
const LARGEST_WINDOW: u32 = 31;
/// Memory that an xz stream may need, in bytes.
const MOST_XZ_MEMORY: u64 = 512 << 20;
/// Bytes that go from the thread that unpacks to the one that reads, at a time.
const PIECE: usize = 512 << 10;
/// Pieces that wait between both threads.
const WAITING: usize = 4;

impl Compression {
    /// How bytes that begin so are compressed, if they are.
    pub(crate) fn of(head: &[u8]) -> Option<Self> {
        match head {
            [0x1f, 0x8b, 8, ..] => Some(Self::Gzip),
            [0xfd, b'7', b'z', b'X', b'Z', 0, ..] => Some(Self::Xz),
            [0x28, 0xb5, 0x2f, 0xfd, ..] | [0x50..=0x5f, 0x2a, 0x4d, 0x18, ..] => Some(Self::Zstd),
            [b'B', b'Z', b'h', b'1'..=b'9', 0x31, 0x41, 0x59, 0x26, 0x53, 0x59, ..] => Some(Self::Bzip2),
            // An empty one has no blocks.
            [b'B', b'Z', b'h', b'1'..=b'9', 0x17, 0x72, 0x45, 0x38, 0x50, 0x90, ..] => Some(Self::Bzip2),
            _ => None,
        }
    }

    /// What it is called.
    pub(crate) fn name(self) -> &'static str {
        match self {
            Self::Gzip => "gzip",
            Self::Xz => "xz",
            Self::Zstd => "zstd",
            Self::Bzip2 => "bzip2",
        }
    }

    /// The ends of names that say a file is compressed so, and what they become without it.
    pub(crate) fn name_without(name: &str) -> &str {
        [".gz", ".xz", ".zst", ".bz2", ".bz"].iter().find_map(|end| name.strip_suffix(end)).unwrap_or(name)
    }

    /// What is in a compressed stream, without bounds. Several streams one behind the other are one.
    fn reader(self, packed: impl Read + Send + 'static) -> io::Result<Box<dyn Read + Send>> {
        Ok(match self {
            Self::Gzip => Box::new(flate2::read::MultiGzDecoder::new(io::BufReader::with_capacity(PIECE, packed))),
            Self::Xz => {
                let flags = liblzma::stream::CONCATENATED;
                let stream = liblzma::stream::Stream::new_stream_decoder(MOST_XZ_MEMORY, flags)?;
                Box::new(liblzma::read::XzDecoder::new_stream(packed, stream))
            }
            Self::Zstd => {
                let mut decoder = zstd::stream::read::Decoder::new(packed)?;
                decoder.window_log_max(LARGEST_WINDOW)?;
                Box::new(decoder)
            }
            Self::Bzip2 => Box::new(bzip2::read::MultiBzDecoder::new(packed)),
        })
    }

    /// What is in a compressed stream, as far as the limits allow.
    pub(crate) fn unpacked(self, packed: &Blob, limits: &Limits) -> io::Result<Unpacked> {
        let taken = Arc::new(AtomicU64::new(0));
        let reader = self.reader(Counting { inner: packed.reader(), taken: Arc::clone(&taken) })?;
        Ok(Unpacked { reader, taken, given: 0, limits: *limits, compression: self })
    }

    /// The same, unpacked in a thread of its own. It ends when what it unpacks is no longer wanted.
    pub(crate) fn unpacked_meanwhile(self, packed: &Blob, limits: &Limits) -> io::Result<Pieces> {
        let mut reader = self.unpacked(packed, limits)?;
        let (sender, receiver) = sync_channel(WAITING);
        thread::Builder::new().name("unpack".to_owned()).spawn(move || {
            loop {
                let mut piece = vec![0; PIECE];
                let mut filled = 0;
                let end = loop {
                    match reader.read(&mut piece[filled..]) {
                        Ok(0) => break Some(None),
                        Ok(count) => filled += count,
                        Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
                        Err(error) => break Some(Some(error)),
                    }
                    if filled == piece.len() {
                        break None;
                    }
                };
                piece.truncate(filled);
                if filled > 0 && sender.send(Ok(piece)).is_err() {
                    return;
                }
                match end {
                    None => {}
                    Some(None) => return,
                    Some(Some(error)) => {
                        // Nobody may wait for the reason any more.
                        let _ = sender.send(Err(error));
                        return;
                    }
                }
            }
        })?;
        Ok(Pieces { receiver, piece: Vec::new(), at: 0 })
    }
}

/// Counts what is read.
struct Counting<R> {
    inner: R,
    taken: Arc<AtomicU64>,
}

impl<R: Read> Read for Counting<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let count = self.inner.read(buffer)?;
        self.taken.fetch_add(count as u64, Ordering::Relaxed);
        Ok(count)
    }
}

/// What is in a compressed stream, as far as the limits allow.
pub(crate) struct Unpacked {
    reader: Box<dyn Read + Send>,
    taken: Arc<AtomicU64>,
    given: u64,
    limits: Limits,
    compression: Compression,
}

impl Read for Unpacked {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let count = self.reader.read(buffer).map_err(|error| self.in_words(&error))?;
        self.given += count as u64;
        if self.given > self.limits.expanded_size {
            return Err(io::Error::new(io::ErrorKind::FileTooLarge, self.limits.too_large()));
        }
        if self.limits.is_bomb(self.taken.load(Ordering::Relaxed), self.given) {
            return Err(io::Error::new(io::ErrorKind::FileTooLarge, self.limits.too_steep()));
        }
        Ok(count)
    }
}

impl Unpacked {
    /// Why unpacking failed, in words that say what to do about it.
    fn in_words(&self, error: &io::Error) -> io::Error {
        let name = self.compression.name();
        match error.kind() {
            io::ErrorKind::Interrupted => io::ErrorKind::Interrupted.into(),
            io::ErrorKind::UnexpectedEof => io::Error::new(error.kind(), format!("its {name} stream is cut off")),
            _ if error.to_string().contains("incomplete frame") => {
                io::Error::new(io::ErrorKind::UnexpectedEof, format!("its {name} stream is cut off"))
            }
            _ => io::Error::new(io::ErrorKind::InvalidData, format!("its {name} stream is damaged ({error})")),
        }
    }
}

/// What another thread unpacks.
pub(crate) struct Pieces {
    receiver: Receiver<io::Result<Vec<u8>>>,
    piece: Vec<u8>,
    at: usize,
}

impl Read for Pieces {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if self.at == self.piece.len() {
            match self.receiver.recv() {
                Ok(piece) => (self.piece, self.at) = (piece?, 0),
                Err(_) => return Ok(0),
            }
        }
        let count = buffer.len().min(self.piece.len() - self.at);
        buffer[..count].copy_from_slice(&self.piece[self.at..self.at + count]);
        self.at += count;
        Ok(count)
    }
}
