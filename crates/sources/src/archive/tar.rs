//! The entries of a tar archive, one after the other.

use std::io::{self, Read, Seek};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{Duration, SystemTime};

use tar::{Archive, Entries, Entry, EntryType as Flag};
use tideline_core::internal::tree::EntryMetadata;

use crate::limits::WHOLE_SECONDS;

/// Bytes that the headers of one entry may have: names and attributes of any length are in them.
const MOST_OF_A_HEADER: u64 = 4 << 20;

/// What an entry stands for.
pub(super) enum Member {
    File,
    Folder,
    Link(Vec<u8>),
    /// Another name of a file that came before.
    SameAs(Vec<u8>),
    Special(&'static str),
    /// A file whose contents are in a form that is not read.
    Unknown(&'static str),
}

/// The header of an entry.
pub(super) struct Head {
    pub(super) name: Vec<u8>,
    pub(super) member: Member,
    pub(super) metadata: EntryMetadata,
    /// Where its contents begin.
    pub(super) start: u64,
    /// Whether its contents stand there as they are, and not with holes left out.
    pub(super) is_plain: bool,
}

/// What to do with the contents of the entries, in order. An error ends the reading.
pub(super) type Take<'t> = &'t mut dyn FnMut(Head, &mut dyn Read) -> io::Result<()>;

/// Reads all entries from a stream.
pub(super) fn read_stream(stream: impl Read, take: Take<'_>) -> io::Result<()> {
    let budget = Arc::new(AtomicU64::new(0));
    let mut archive = Archive::new(Metered { inner: stream, budget: Arc::clone(&budget) });
    each(archive.entries()?, &budget, true, take)
}

/// Reads all entries, passing over their contents.
pub(super) fn read_seekable(file: impl Read + Seek, take: Take<'_>) -> io::Result<()> {
    let budget = Arc::new(AtomicU64::new(0));
    let mut archive = Archive::new(Metered { inner: file, budget: Arc::clone(&budget) });
    each(archive.entries_with_seek()?, &budget, false, take)
}

fn each<R: Read>(mut entries: Entries<'_, R>, budget: &AtomicU64, is_stream: bool, take: Take<'_>) -> io::Result<()> {
    loop {
        budget.store(MOST_OF_A_HEADER, Ordering::Relaxed);
        let Some(entry) = entries.next() else { return Ok(()) };
        let mut entry = entry.map_err(|error| in_words(&error))?;
        budget.store(u64::MAX, Ordering::Relaxed);
        let Some(head) = head_of(&mut entry)? else { continue };
        take(head, &mut entry)?;
        if is_stream {
            // What is left of it must not count as a header.
            io::copy(&mut entry, &mut io::sink())?;
        }
    }
}

fn head_of<R: Read>(entry: &mut Entry<'_, R>) -> io::Result<Option<Head>> {
    let mut time = None;
    let mut sparse_name = None;
    let mut is_sparse = false;
    if let Some(extensions) = entry.pax_extensions()? {
        for extension in extensions.flatten() {
            match extension.key_bytes() {
                b"mtime" => time = extension.value().ok().and_then(time_of),
                b"GNU.sparse.name" => sparse_name = Some(extension.value_bytes().to_vec()),
                key => is_sparse |= key.starts_with(b"GNU.sparse."),
            }
        }
    }
    let (name, flag) = (sparse_name.unwrap_or_else(|| entry.path_bytes().into_owned()), entry.header().entry_type());
    let target = || entry.link_name_bytes().map(std::borrow::Cow::into_owned).unwrap_or_default();
    let member = match flag {
        _ if is_sparse => Member::Unknown("it is a sparse file in a form that is not read"),
        Flag::Regular if name.ends_with(b"/") => Member::Folder,
        Flag::Regular | Flag::Continuous | Flag::GNUSparse => Member::File,
        Flag::Directory => Member::Folder,
        Flag::Symlink => Member::Link(target()),
        Flag::Link => Member::SameAs(target()),
        Flag::Char | Flag::Block => Member::Special("device"),
        Flag::Fifo => Member::Special("named pipe"),
        // What holds for all that follows, and what describes the volume, are no entries.
        Flag::XGlobalHeader => return Ok(None),
        other if matches!(other.as_byte(), b'V' | b'M' | b'N') => return Ok(None),
        _ => Member::Unknown("it is of a type that is not known"),
    };
    let header = entry.header();
    let whole = || SystemTime::UNIX_EPOCH.checked_add(Duration::from_secs(header.mtime().ok()?));
    let (modified, time_step) = match time {
        Some((time, step)) => (Some(time), step),
        None => (whole(), WHOLE_SECONDS),
    };
    let metadata = EntryMetadata {
        size: if matches!(member, Member::File) { entry.size() } else { 0 },
        modified,
        mode: header.mode().ok().map(|mode| mode & 0o7777),
        time_step,
        ..EntryMetadata::default()
    };
    let is_plain = flag != Flag::GNUSparse;
    Ok(Some(Head { name, member, metadata, start: entry.raw_file_position(), is_plain }))
}

/// A time as extended headers have it: decimal seconds since 1970, and how exact they are.
fn time_of(text: &str) -> Option<(SystemTime, Duration)> {
    let (seconds, fraction) = text.split_once('.').unwrap_or((text, ""));
    let is_before = seconds.starts_with('-');
    let seconds: u64 = seconds.trim_start_matches('-').parse().ok()?;
    let nanos: u32 = format!("{:0<9.9}", fraction).parse().ok()?;
    let since = Duration::new(seconds, nanos);
    let time =
        if is_before { SystemTime::UNIX_EPOCH.checked_sub(since) } else { SystemTime::UNIX_EPOCH.checked_add(since) };
    Some((time?, if fraction.is_empty() { WHOLE_SECONDS } else { Duration::ZERO }))
}

fn in_words(error: &io::Error) -> io::Error {
    let text = error.to_string();
    let reason = match error.kind() {
        io::ErrorKind::FileTooLarge => text,
        io::ErrorKind::UnexpectedEof => "it is cut off".to_owned(),
        _ if text.contains("unexpected EOF") || text.contains("failed to read entire block") => {
            return io::Error::new(io::ErrorKind::UnexpectedEof, "it is cut off");
        }
        _ if text.starts_with("its ") => text,
        _ => format!("it is damaged: {text}"),
    };
    io::Error::new(error.kind(), reason)
}

/// Reads no more than is left.
struct Metered<R> {
    inner: R,
    budget: Arc<AtomicU64>,
}

impl<R: Read> Read for Metered<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let left = self.budget.load(Ordering::Relaxed);
        if left == 0 {
            let reason = format!("the header of an entry is larger than {MOST_OF_A_HEADER} bytes");
            return Err(io::Error::new(io::ErrorKind::FileTooLarge, reason));
        }
        let most = buffer.len().min(usize::try_from(left).unwrap_or(usize::MAX));
        let count = self.inner.read(&mut buffer[..most])?;
        if left != u64::MAX {
            self.budget.store(left - count as u64, Ordering::Relaxed);
        }
        Ok(count)
    }
}

impl<R: Seek> Seek for Metered<R> {
    fn seek(&mut self, to: io::SeekFrom) -> io::Result<u64> {
        self.inner.seek(to)
    }
}
