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

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> Vec<(String, Algorithm, usize)> {
        let listed = read_list(text.as_bytes()).unwrap().into_iter();
        listed.map(|one| (String::from_utf8(one.path).unwrap(), one.algorithm, one.hash.len())).collect()
    }

    #[test]
    fn the_forms_of_the_trade_are_read() {
        let (md5, sha) = ("0".repeat(32), "AB".repeat(32));
        let text = format!("# made today\n{md5}  levels.csv\r\n{sha} *notes.txt\n\n\\{sha}  two\\nlines\\\\end\n");
        let wanted = [
            ("levels.csv".to_owned(), Algorithm::Md5, 16),
            ("notes.txt".to_owned(), Algorithm::Sha256, 32),
            ("two\nlines\\end".to_owned(), Algorithm::Sha256, 32),
        ];
        assert_eq!(read(&text), wanted);
        let tagged = format!("SHA512 (a (1).txt) = {}\nSHA-256 (b) = {sha}\n", "0".repeat(128));
        let wanted = [("a (1).txt".to_owned(), Algorithm::Sha512, 64), ("b".to_owned(), Algorithm::Sha256, 32)];
        assert_eq!(read(&tagged), wanted);
    }

    #[test]
    fn a_text_of_another_form_is_no_list_and_the_line_is_known() {
        let sha = "0".repeat(64);
        for (text, line) in [
            ("one\ntwo\n".to_owned(), 1),
            (String::new(), 1),
            (format!("{sha}  a\n{sha}\n"), 2),
            (format!("{sha}  a\n{}  b\n", "0".repeat(63)), 2),
            (format!("{sha}  a\n{sha}x b\n"), 2),
            (format!("{}  a\n", "g".repeat(64)), 1),
        ] {
            assert_eq!(read_list(text.as_bytes()), Err(line), "{text}");
        }
    }
}
