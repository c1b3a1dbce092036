//! By what contents are known: hashes of the usual algorithms.

use std::fs::{File, Metadata};
use std::io::{self, Read};

use md5::{Digest, Md5};
use sha1::Sha1;
use sha2::{Sha256, Sha384, Sha512};
use tideline_core::internal::tree::ContentId;

use crate::file::changed_meanwhile;
use crate::mapped::Mapped;

/// Bytes that are hashed at a time.
const PIECE: usize = 64 << 10;
/// Files of at least this size are mapped to be hashed: below it, that takes longer than a copy of their bytes.
const MAPPED_FROM: u64 = 1 << 20;

/// An algorithm by which contents are known.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Algorithm {
    /// BLAKE3, with 256 bits.
    Blake3,
    /// MD5 (RFC 1321), in checksum lists only.
    Md5,
    /// SHA-1 (FIPS 180-4), in checksum lists only.
    Sha1,
    /// SHA-256 (FIPS 180-4).
    Sha256,
    /// SHA-384.
    Sha384,
    /// SHA-512.
    Sha512,
    /// The name of an object in a repository: SHA-1 of its type, its size and its contents.
    ObjectSha1,
    /// The same with SHA-256.
    ObjectSha256,
}

impl Algorithm {
    const ALL: [Self; 8] = [
        Self::Blake3,
        Self::Md5,
        Self::Sha1,
        Self::Sha256,
        Self::Sha384,
        Self::Sha512,
        Self::ObjectSha1,
        Self::ObjectSha256,
    ];

    /// What it is called in inventories and identities.
    pub fn name(self) -> &'static str {
        match self {
            Self::Blake3 => "blake3",
            Self::Md5 => "md5",
            Self::Sha1 => "sha1",
            Self::Sha256 => "sha256",
            Self::Sha384 => "sha384",
            Self::Sha512 => "sha512",
            Self::ObjectSha1 => "object-sha1",
            Self::ObjectSha256 => "object-sha256",
        }
    }

    /// The algorithm of a name.
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|algorithm| algorithm.name() == name)
    }

    /// The identity that a hash is.
    pub(crate) fn id(self, hash: Vec<u8>) -> ContentId {
        ContentId { algorithm: self.name(), bytes: hash }
    }
}

/// Hashes contents as they come.
pub(crate) enum Hasher {
    Blake3(Box<blake3::Hasher>),
    Md5(Md5),
    Sha1(Sha1),
    Sha256(Sha256),
    Sha384(Sha384),
    Sha512(Sha512),
}

impl Hasher {
    /// For contents of a size, which the names of objects begin with.
    pub(crate) fn new(algorithm: Algorithm, size: u64) -> Self {
        let mut hasher = match algorithm {
            Algorithm::Blake3 => Self::Blake3(Box::default()),
            Algorithm::Md5 => Self::Md5(Md5::new()),
            Algorithm::Sha1 | Algorithm::ObjectSha1 => Self::Sha1(Sha1::new()),
            Algorithm::Sha256 | Algorithm::ObjectSha256 => Self::Sha256(Sha256::new()),
            Algorithm::Sha384 => Self::Sha384(Sha384::new()),
            Algorithm::Sha512 => Self::Sha512(Sha512::new()),
        };
        if matches!(algorithm, Algorithm::ObjectSha1 | Algorithm::ObjectSha256) {
            hasher.update(format!("blob {size}\0").as_bytes());
        }
        hasher
    }

    pub(crate) fn update(&mut self, bytes: &[u8]) {
        match self {
            Self::Blake3(hasher) => {
                hasher.update(bytes);
            }
            Self::Md5(hasher) => hasher.update(bytes),
            Self::Sha1(hasher) => hasher.update(bytes),
            Self::Sha256(hasher) => hasher.update(bytes),
            Self::Sha384(hasher) => hasher.update(bytes),
            Self::Sha512(hasher) => hasher.update(bytes),
        }
    }

    pub(crate) fn finish(self) -> Vec<u8> {
        match self {
            Self::Blake3(hasher) => hasher.finalize().as_bytes().to_vec(),
            Self::Md5(hasher) => hasher.finalize().to_vec(),
            Self::Sha1(hasher) => hasher.finalize().to_vec(),
            Self::Sha256(hasher) => hasher.finalize().to_vec(),
            Self::Sha384(hasher) => hasher.finalize().to_vec(),
            Self::Sha512(hasher) => hasher.finalize().to_vec(),
        }
    }
}

/// The hashes of contents of a known size, all in one reading.
///
/// # Errors
/// When the contents cannot be read, or are of another size.
pub(crate) fn hashes(algorithms: &[Algorithm], size: u64, contents: &mut dyn Read) -> io::Result<Vec<ContentId>> {
    let mut hashers: Vec<(Algorithm, Hasher)> =
        algorithms.iter().map(|&algorithm| (algorithm, Hasher::new(algorithm, size))).collect();
    let count = each_piece(contents, |piece| hashers.iter_mut().for_each(|(_, hasher)| hasher.update(piece)))?;
    // Files that the system makes up as they are read have no size.
    if count != size && size != 0 {
        return Err(changed_meanwhile());
    }
    Ok(hashers.into_iter().map(|(algorithm, hasher)| algorithm.id(hasher.finish())).collect())
}

/// The same of a file on the disk, and what is known of it. One of some size is mapped: that saves a copy of all its bytes.
pub(crate) fn hashes_of_file(algorithms: &[Algorithm], file: File) -> io::Result<(Metadata, Vec<ContentId>)> {
    let metadata = file.metadata()?;
    let mut file = file;
    if metadata.is_file() && metadata.len() >= MAPPED_FROM {
        match Mapped::new(file, &metadata)? {
            Ok(map) => {
                let hash = |&algorithm: &Algorithm| {
                    let mut hasher = Hasher::new(algorithm, metadata.len());
                    hasher.update(&map);
                    algorithm.id(hasher.finish())
                };
                let ids = algorithms.iter().map(hash).collect();
                return if map.changed() { Err(changed_meanwhile()) } else { Ok((metadata, ids)) };
            }
            Err(unmapped) => file = unmapped,
        }
    }
    let ids = hashes(algorithms, metadata.len(), &mut file)?;
    Ok((metadata, ids))
}

/// Reads contents to their end, piece by piece, and says how many bytes there were.
pub(crate) fn each_piece(contents: &mut dyn Read, mut take: impl FnMut(&[u8])) -> io::Result<u64> {
    thread_local! {
        static PIECES: std::cell::RefCell<Vec<u8>> = std::cell::RefCell::new(vec![0; PIECE]);
    }
    PIECES.with_borrow_mut(|piece| {
        let mut all = 0;
        loop {
            match contents.read(piece) {
                Ok(0) => return Ok(all),
                Ok(count) => {
                    take(&piece[..count]);
                    all += count as u64;
                }
                Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
                Err(error) => return Err(error),
            }
        }
    })
}

/// Bytes as hexadecimal digits.
pub(crate) fn hex(bytes: &[u8]) -> String {
    const DIGITS: [char; 16] = ['0', '1', '2', '3', '4', '5', '6', '7', '8', '9', 'a', 'b', 'c', 'd', 'e', 'f'];
    bytes.iter().flat_map(|byte| [DIGITS[usize::from(byte >> 4)], DIGITS[usize::from(byte & 15)]]).collect()
}

/// The bytes that hexadecimal digits stand for.
pub(crate) fn from_hex(digits: &[u8]) -> Option<Vec<u8>> {
    let value = |digit: u8| char::from(digit).to_digit(16);
    let pair = |pair: &[u8]| Some((value(pair[0])? << 4 | value(*pair.get(1)?)?) as u8);
    digits.chunks(2).map(pair).collect()
}
