//! The checksum lists of the trade: a hash and a path a line, as the programs for checksums print them.

use crate::hashing::{Algorithm, from_hex};

/// A line of a checksum list.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Listed {
    pub(crate) path: Vec<u8>,
    pub(crate) algorithm: Algorithm,
    pub(crate) hash: Vec<u8>,
    /// Whether only the length of the hash tells the algorithm.
    pub(crate) by_length: bool,
}

/// The lines of a checksum list; nothing where a line is of another form, with its number.
pub(crate) fn read_list(text: &[u8]) -> Result<Vec<Listed>, usize> {
    let mut listed = Vec::new();
    for (number, line) in text.split(|&byte| byte == b'\n').enumerate() {
        let line = line.strip_suffix(b"\r").unwrap_or(line);
        if line.is_empty() || line.starts_with(b"#") {
            continue;
        }
        listed.push(plain(line).or_else(|| tagged(line)).ok_or(number + 1)?);
    }
    if listed.is_empty() { Err(1) } else { Ok(listed) }
}

/// `HASH  PATH`, or `HASH *PATH`. A `\` before it says that line breaks in the path are written `\n`.
fn plain(line: &[u8]) -> Option<Listed> {
    let (is_escaped, line) = line.strip_prefix(b"\\").map_or((false, line), |rest| (true, rest));
    let space = memchr::memchr(b' ', line)?;
    let path = line[space + 1..].strip_prefix(b" ").or_else(|| line[space + 1..].strip_prefix(b"*"))?;
    let hash = from_hex(&line[..space])?;
    let algorithm = by_length(hash.len())?;
    Some(Listed { path: if is_escaped { unescaped(path) } else { path.to_vec() }, algorithm, hash, by_length: true })
}

/// `ALGORITHM (PATH) = HASH`.
fn tagged(line: &[u8]) -> Option<Listed> {
    let open = memchr::memmem::find(line, b" (")?;
    let close = memchr::memmem::rfind(line, b") = ")?;
    let name: String = String::from_utf8_lossy(&line[..open]).to_lowercase().replace('-', "");
    let algorithm = Algorithm::named(&name)?;
    let hash = from_hex(&line[close + 4..])?;
    let path = line.get(open + 2..close)?.to_vec();
    Some(Listed { path, algorithm, hash, by_length: false })
}

/// The algorithm whose hashes have so many bytes. 32 may also be BLAKE3.
fn by_length(bytes: usize) -> Option<Algorithm> {
    Some(match bytes {
        16 => Algorithm::Md5,
        20 => Algorithm::Sha1,
        32 => Algorithm::Sha256,
        48 => Algorithm::Sha384,
        64 => Algorithm::Sha512,
        _ => return None,
    })
}

fn unescaped(path: &[u8]) -> Vec<u8> {
    let mut plain = Vec::with_capacity(path.len());
    let mut bytes = path.iter();
    while let Some(&byte) = bytes.next() {
        plain.push(match (byte, byte == b'\\') {
            (_, true) => match bytes.next() {
                Some(b'n') => b'\n',
                Some(b'r') => b'\r',
                Some(&other) => other,
                None => b'\\',
            },
            (other, false) => other,
        });
    }
    plain
}
