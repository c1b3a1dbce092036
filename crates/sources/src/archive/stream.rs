//! A compressed tar archive. It can only be read from its start, so that all that is needed is taken from it in one go.

use std::collections::{HashMap, HashSet};
use std::ffi::OsStr;
use std::fs::Metadata;
use std::io::{self, Read};
use std::os::unix::ffi::OsStrExt;
use std::path::{Component, Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Mutex, PoisonError, RwLock};

use tideline_core::internal::tree::{ContentId, TreeError, TreeErrorKind};

use super::tar::{Head, Member, read_stream};
use crate::blob::Blob;
use crate::compression::Compression;
use crate::detect::{HEAD, Packed};
use crate::hashing::{Algorithm, Hasher};
use crate::limits::Limits;
use crate::spool::{Section, Spool};

/// Bytes of contents that are kept because they surely differ from the folder that the archive is compared with.
const MOST_DIFFERING: u64 = 1 << 30;
/// Bytes of contents that go on at a time.
const PIECE: usize = 64 << 10;

/// A compressed tar archive.
pub(super) struct Stream {
    blob: Blob,
    compression: Compression,
    limits: Limits,
    spool: Spool,
    /// The contents that are at hand, by the number of their entry.
    kept: RwLock<HashMap<usize, Result<Section, TreeError>>>,
    /// Held while the archive is read again.
    reading: Mutex<()>,
    passes: AtomicUsize,
}

/// Which contents are kept while an archive is read for the first time.
pub(super) struct Keeping {
    /// So many bytes, whatever they are.
    pub(super) room: u64,
    /// Those that may be archives themselves.
    pub(super) archives: bool,
    /// Those that surely differ from what is in this folder, which the archive is compared with.
    pub(super) beside: Option<PathBuf>,
    /// So many bytes of these.
    differing: u64,
}

impl Keeping {
    pub(super) fn new(room: u64, archives: bool, beside: Option<PathBuf>) -> Self {
        Self { room, archives, beside, differing: MOST_DIFFERING }
    }

    /// Whether contents are kept, by the name of their entry.
    fn keeps(&mut self, name: &[u8], size: u64, may_be_packed: bool) -> bool {
        if size <= self.room {
            self.room -= size;
            return true;
        }
        if self.archives && may_be_packed {
            return true;
        }
        let differs = size <= self.differing && self.differs_in_size(name, size);
        self.differing -= if differs { size } else { 0 };
        differs
    }

    /// Whether the folder has such a file, and it is of another size. All of the archive may be in one more folder.
    fn differs_in_size(&self, name: &[u8], size: u64) -> bool {
        let Some(beside) = &self.beside else { return false };
        let name = Path::new(OsStr::from_bytes(name));
        if name.components().any(|part| !matches!(part, Component::Normal(_) | Component::CurDir)) {
            return false;
        }
        let inner: PathBuf = name.components().filter(|part| *part != Component::CurDir).skip(1).collect();
        let there = [name, &inner].into_iter().filter_map(|path| beside.join(path).symlink_metadata().ok());
        let mut sizes = there.filter(Metadata::is_file).map(|metadata| metadata.len()).peekable();
        sizes.peek().is_some() && sizes.all(|other| other != size)
    }
}

/// What the first reading tells of the contents of an entry.
pub(super) struct Told {
    pub(super) number: usize,
    /// By what its contents are known.
    pub(super) ids: Vec<ContentId>,
    /// Whether it may be an archive or a compressed file itself.
    pub(super) may_be_packed: bool,
}

impl Stream {
    pub(super) fn new(blob: Blob, compression: Compression, limits: Limits) -> io::Result<Self> {
        Ok(Self {
            blob,
            compression,
            limits,
            spool: Spool::new()?,
            kept: RwLock::default(),
            reading: Mutex::new(()),
            passes: AtomicUsize::new(0),
        })
    }

    /// Reads the archive for the first time: `add` is told of every entry. Some contents are kept; of all, hashes are made.
    pub(super) fn first(
        &self,
        algorithms: &[Algorithm],
        mut keeping: Keeping,
        add: &mut dyn FnMut(Head, Result<Told, TreeError>) -> io::Result<()>,
    ) -> io::Result<()> {
        let mut number = 0;
        self.pass(&mut |head, contents| {
            let told = if matches!(head.member, Member::File) {
                if head.metadata.size > self.limits.expanded_size {
                    return Err(io::Error::new(io::ErrorKind::FileTooLarge, self.limits.too_large()));
                }
                let read = self.read_once((number, &head), contents, algorithms, &mut keeping);
                match read {
                    Ok(told) => Ok(told),
                    Err(error) => {
                        // It is told as an entry before the reading ends.
                        add(head, Err(TreeError::from(&error)))?;
                        return Err(error);
                    }
                }
            } else {
                Ok(Told { number, ids: Vec::new(), may_be_packed: false })
            };
            number += 1;
            add(head, told)
        })
    }

    fn read_once(
        &self,
        (number, entry): (usize, &Head),
        contents: &mut dyn Read,
        algorithms: &[Algorithm],
        keeping: &mut Keeping,
    ) -> io::Result<Told> {
        let size = entry.metadata.size;
        let mut head = Vec::new();
        contents.take(HEAD as u64).read_to_end(&mut head)?;
        // What a compressed file holds is told once it is opened.
        let may_be_packed = Packed::may_be(&head);
        let mut hashing = Hashing {
            inner: head.as_slice().chain(contents),
            hashers: algorithms.iter().map(|&algorithm| (algorithm, Hasher::new(algorithm, size))).collect(),
            count: 0,
        };
        if keeping.keeps(&entry.name, size, may_be_packed) {
            let section = self.spool.add(&mut hashing)?;
            self.kept.write().unwrap_or_else(PoisonError::into_inner).insert(number, Ok(section));
        } else {
            let mut piece = vec![0; PIECE];
            while hashing.read(&mut piece)? > 0 {}
        }
        if hashing.count != size {
            return Err(io::Error::new(io::ErrorKind::UnexpectedEof, "it is cut off"));
        }
        let ids = hashing.hashers.into_iter().map(|(algorithm, hasher)| algorithm.id(hasher.finish())).collect();
        Ok(Told { number, ids, may_be_packed })
    }

    fn pass(&self, take: &mut dyn FnMut(Head, &mut dyn Read) -> io::Result<()>) -> io::Result<()> {
        self.passes.fetch_add(1, Ordering::Relaxed);
        read_stream(self.compression.unpacked_meanwhile(&self.blob, &self.limits)?, take)
    }

    /// How many times the archive was read.
    #[cfg(test)]
    pub(super) fn passes(&self) -> usize {
        self.passes.load(Ordering::Relaxed)
    }

    /// Takes the contents of some entries from the archive, or of all.
    pub(super) fn fetch(&self, wanted: Option<&HashSet<usize>>) {
        let _reading = self.reading.lock().unwrap_or_else(PoisonError::into_inner);
        let is_kept = |number: &usize| self.kept.read().unwrap_or_else(PoisonError::into_inner).contains_key(number);
        if wanted.is_some_and(|wanted| wanted.iter().all(is_kept)) {
            return;
        }
        let (mut number, mut left) = (0, self.limits.expanded_size);
        let mut missing = wanted.map(|wanted| wanted.iter().filter(|number| !is_kept(number)).count());
        let read = self.pass(&mut |head, contents| {
            let this = number;
            number += 1;
            let is_wanted = wanted.is_none_or(|wanted| wanted.contains(&this));
            if !is_wanted || !matches!(head.member, Member::File) || is_kept(&this) {
                return Ok(());
            }
            let section = if head.metadata.size > left {
                Err(TreeError::new(TreeErrorKind::TooLarge, self.limits.too_large()))
            } else {
                left -= head.metadata.size;
                self.spool.add(contents).map_err(|error| TreeError::from(&error))
            };
            self.kept.write().unwrap_or_else(PoisonError::into_inner).insert(this, section);
            if let Some(missing) = &mut missing {
                *missing -= 1;
                if *missing == 0 {
                    // The rest need not be unpacked.
                    return Err(io::Error::other("done"));
                }
            }
            Ok(())
        });
        // What was not found is told when it is asked for.
        drop(read);
    }

    /// The contents of an entry. Where they were not named before, those of all entries are taken.
    pub(super) fn contents(&self, number: usize) -> Result<Blob, TreeError> {
        let kept = || self.kept.read().unwrap_or_else(PoisonError::into_inner).get(&number).cloned();
        if kept().is_none() {
            self.fetch(None);
        }
        match kept() {
            Some(section) => Ok(self.spool.blob(section?)),
            None if self.blob.was_changed() => Err(changed()),
            None => Err(TreeError::new(TreeErrorKind::Damaged, "the archive could not be read up to it again")),
        }
    }
}

pub(super) fn changed() -> TreeError {
    TreeError::new(TreeErrorKind::Other, "the archive was changed while it was read")
}

/// Hashes what is read.
struct Hashing<R> {
    inner: R,
    hashers: Vec<(Algorithm, Hasher)>,
    count: u64,
}

impl<R: Read> Read for Hashing<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let count = self.inner.read(buffer)?;
        self.hashers.iter_mut().for_each(|(_, hasher)| hasher.update(&buffer[..count]));
        self.count += count as u64;
        Ok(count)
    }
}
