//! Contents that are not text, as several programs write them into patches: deflated (RFC 1951, in the wrapper of RFC 1950), in
//! lines of base 85; whole, or as instructions that make them out of the other side.

use std::io::{self, Read, Write};

use flate2::Compression;
use flate2::read::ZlibDecoder;
use flate2::write::ZlibEncoder;

use super::model::BinaryContents;
use super::reader::{PatchError, Reader, without_end};

const DIGITS: &[u8; 85] = b"0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz!#$%&()*+-;<=>?@^_`{|}~";
/// So many bytes are written in one line.
const LINE: usize = 52;
/// What is deflated may be so large: more is refused, whatever its head says.
const LARGEST: usize = 1 << 30;

/// Reads the contents of one side, below the line that announces them; none where no contents are announced.
pub(super) fn read(reader: &mut Reader<'_>) -> Result<Option<BinaryContents>, PatchError> {
    let head = reader.peek().map(without_end).unwrap_or_default();
    let number = |rest: &[u8]| std::str::from_utf8(rest).ok().and_then(|text| text.parse::<usize>().ok());
    let (size, is_whole) = match (head.strip_prefix(b"literal "), head.strip_prefix(b"delta ")) {
        (Some(rest), _) => (number(rest), true),
        (_, Some(rest)) => (number(rest), false),
        (None, None) => return Ok(None),
    };
    let size = size.filter(|size| *size <= LARGEST);
    let size =
        size.ok_or_else(|| reader.error("the size of contents that are not text was expected, as in `literal 120`"))?;
    reader.next();
    let mut packed = Vec::new();
    while let Some(line) = reader.peek().map(without_end).filter(|line| !line.is_empty()) {
        let bytes = decoded(line);
        packed.extend(bytes.ok_or_else(|| reader.error("a line of base 85 was expected"))?);
        reader.next();
    }
    let mut bytes = Vec::new();
    let most = size as u64 + 1;
    let inflated = ZlibDecoder::new(&packed[..]).take(most).read_to_end(&mut bytes);
    if inflated.is_err() || bytes.len() != size {
        return Err(reader.error(format!("the contents above are damaged or cut off: {size} bytes were expected")));
    }
    // The blank line that ends them.
    if reader.peek().is_some() {
        reader.next();
    }
    Ok(Some(if is_whole { BinaryContents::Whole(bytes) } else { BinaryContents::Delta(bytes) }))
}

/// The bytes of a line: a letter for their number, then five digits for each four of them.
fn decoded(line: &[u8]) -> Option<Vec<u8>> {
    let (&count, digits) = line.split_first()?;
    let count = match count {
        b'A'..=b'Z' => usize::from(count - b'A') + 1,
        b'a'..=b'z' => usize::from(count - b'a') + 27,
        _ => return None,
    };
    if digits.len() != count.div_ceil(4) * 5 {
        return None;
    }
    let mut bytes = Vec::with_capacity(count + 3);
    for group in digits.chunks(5) {
        let digit = |value: u64, byte: &u8| Some(value * 85 + DIGITS.iter().position(|digit| digit == byte)? as u64);
        let value = group.iter().try_fold(0, digit)?;
        bytes.extend(u32::try_from(value).ok()?.to_be_bytes());
    }
    bytes.truncate(count);
    Some(bytes)
}

/// Writes the contents of one side, with the blank line that ends them.
pub(super) fn write(contents: &BinaryContents, out: &mut impl Write) -> io::Result<()> {
    let (word, bytes) = match contents {
        BinaryContents::Whole(bytes) => ("literal", bytes),
        BinaryContents::Delta(bytes) => ("delta", bytes),
    };
    writeln!(out, "{word} {}", bytes.len())?;
    let mut encoder = ZlibEncoder::new(Vec::new(), Compression::default());
    encoder.write_all(bytes)?;
    for line in encoder.finish()?.chunks(LINE) {
        let count = line.len() as u8;
        out.write_all(&[if count <= 26 { b'A' + count - 1 } else { b'a' + count - 27 }])?;
        for group in line.chunks(4) {
            let mut four = [0; 4];
            four[..group.len()].copy_from_slice(group);
            let mut value = u32::from_be_bytes(four);
            let mut digits = [0; 5];
            for digit in digits.iter_mut().rev() {
                *digit = DIGITS[(value % 85) as usize];
                value /= 85;
            }
            out.write_all(&digits)?;
        }
        out.write_all(b"\n")?;
    }
    out.write_all(b"\n")
}

impl BinaryContents {
    /// The contents, made out of those of the other side where need be; none when they do not belong together.
    pub fn of(&self, other: &[u8]) -> Option<Vec<u8>> {
        match self {
            Self::Whole(bytes) => Some(bytes.clone()),
            Self::Delta(delta) => made(delta, other),
        }
    }
}

/// Carries instructions out: sizes of both sides, then pieces to copy from the other side and pieces to insert.
fn made(delta: &[u8], source: &[u8]) -> Option<Vec<u8>> {
    let mut rest = delta;
    let (from, to) = (size(&mut rest)?, size(&mut rest)?);
    if from != source.len() || to > LARGEST {
        return None;
    }
    let mut bytes = Vec::new();
    while let Some((&code, tail)) = rest.split_first() {
        rest = tail;
        if code & 0x80 == 0 {
            let piece = rest.get(..usize::from(code)).filter(|piece| !piece.is_empty())?;
            bytes.extend_from_slice(piece);
            rest = &rest[piece.len()..];
            continue;
        }
        let mut number = |bits: std::ops::Range<u8>| {
            let first = bits.start;
            bits.filter(|bit| code & (1 << bit) != 0).try_fold(0, |value, bit| {
                let (&byte, tail) = rest.split_first()?;
                rest = tail;
                Some(value | usize::from(byte) << (8 * (bit - first)))
            })
        };
        let (start, length) = (number(0..4)?, number(4..7)?);
        let length = if length == 0 { 0x1_0000 } else { length };
        bytes.extend_from_slice(source.get(start..start.checked_add(length)?)?);
        if bytes.len() > to {
            return None;
        }
    }
    (bytes.len() == to).then_some(bytes)
}

/// A size in groups of seven bits, the lowest first.
fn size(rest: &mut &[u8]) -> Option<usize> {
    let mut value = 0_usize;
    for shift in (0..usize::BITS).step_by(7) {
        let (&byte, tail) = rest.split_first()?;
        *rest = tail;
        value |= usize::from(byte & 0x7f).checked_shl(shift)?;
        if byte & 0x80 == 0 {
            return Some(value);
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn contents_come_back_out_of_their_lines() {
        for length in [0, 1, 3, 4, 26, 52, 53, 1_000] {
            let bytes: Vec<u8> = (0..length).map(|n: usize| (n * 7 % 251) as u8).collect();
            let mut text = Vec::new();
            let contents = BinaryContents::Whole(bytes);
            write(&contents, &mut text).unwrap();
            let text = bytes::Bytes::from(text);
            let read = read(&mut Reader::new(&text, 0)).unwrap();
            assert_eq!(read, Some(contents));
        }
    }

    #[test]
    fn instructions_copy_and_insert() {
        // Eleven bytes to seven: four from the third on, then three new ones.
        let delta = [11, 7, 0x91, 2, 4, 3, b'n', b'e', b'w'];
        assert_eq!(made(&delta, b"tide gauges"), Some(b"de gnew".to_vec()));
        assert_eq!(made(&delta, b"other"), None);
        assert_eq!(made(&delta[..5], b"tide gauges"), None);
    }
}
