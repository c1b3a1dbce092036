//! What patches come wrapped in: compressed with gzip (RFC 1952), in UTF-16, behind a byte order mark, in a mail whose lines are
//! quoted-printable (RFC 2045, section 6.7).

use std::io::Read;

use bytes::Bytes;
use flate2::read::MultiGzDecoder;
use quoted_printable::ParseMode;

use super::reader::PatchError;
use crate::internal::text::bytes::line_end;

/// A compressed patch may hold so many bytes, and no more.
const LARGEST: u64 = 1 << 30;
/// In so many bytes at its beginning, a mail says how its text is encoded.
const HEADERS: usize = 1 << 16;

/// The patch as it was before it was wrapped; one that is not wrapped shares the memory of `bytes`.
pub(super) fn unwrapped(bytes: &Bytes) -> Result<Bytes, PatchError> {
    let error = |reason: String| PatchError { line: 1, reason };
    let mut bytes = bytes.clone();
    if bytes.starts_with(&[0x1f, 0x8b]) {
        let mut text = Vec::new();
        MultiGzDecoder::new(&bytes[..])
            .take(LARGEST + 1)
            .read_to_end(&mut text)
            .map_err(|problem| error(format!("it is compressed with gzip, and damaged or cut off: {problem}")))?;
        if text.len() as u64 > LARGEST {
            return Err(error("it is compressed with gzip, and holds more than 1 GiB".to_owned()));
        }
        bytes = Bytes::from(text);
    }
    if bytes.starts_with(&[0xff, 0xfe]) || bytes.starts_with(&[0xfe, 0xff]) {
        let (text, _, damaged) = encoding_rs::UTF_8.decode(&bytes);
        if damaged {
            return Err(error("it begins as UTF-16 does, and is not valid UTF-16".to_owned()));
        }
        return Ok(Bytes::from(text.into_owned().into_bytes()));
    }
    if bytes.starts_with(b"\xef\xbb\xbf") {
        bytes = bytes.slice(3..);
    }
    match quoted_printable_body(&bytes) {
        Some(body) => {
            let text = quoted_printable::decode(&bytes[body..], ParseMode::Robust)
                .map_err(|problem| error(format!("its text is not valid quoted-printable: {problem}")))?;
            // The headers stay, so that lines keep their numbers as far as soft line breaks allow.
            Ok(Bytes::from([&bytes[..body], &text].concat()))
        }
        None => Ok(bytes),
    }
}

/// Where the body of a mail begins whose headers say that it is quoted-printable. The headers end at the first blank line.
fn quoted_printable_body(bytes: &[u8]) -> Option<usize> {
    let head = &bytes[..bytes.len().min(HEADERS)];
    let mut at = 0;
    let mut is_quoted = false;
    while at < head.len() {
        let end = line_end(head, at);
        let line = head[at..end].trim_ascii();
        if line.is_empty() {
            return is_quoted.then_some(end);
        }
        if line.starts_with(b"--- ") || line.starts_with(b"diff ") {
            return None;
        }
        let line = line.to_ascii_lowercase();
        let value = line.strip_prefix(b"content-transfer-encoding:").map(<[u8]>::trim_ascii);
        is_quoted |= value == Some(&b"quoted-printable"[..]);
        at = end;
    }
    None
}
