//! Encodings: what a file is written in, and its text as UTF-8.

use std::borrow::Cow;

use chardetng::{EncodingDetector, Iso2022JpDetection, Utf8Detection};
use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE};

/// Files up to this size are looked at whole; of larger ones, the first bytes decide.
const LOOKED_AT: usize = 16 << 20;
/// So many bytes of a larger file decide.
const SAMPLE: usize = 1 << 20;

/// What a file is written in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct TextEncoding {
    encoding: &'static Encoding,
    /// Whether a byte order mark says so.
    pub marked: bool,
}

impl TextEncoding {
    /// UTF-8 without a mark.
    pub const UTF8: Self = Self { encoding: UTF_8, marked: false };

    /// Text as it is written in this encoding; nothing where the encoding lacks one of its letters.
    pub fn encoded(&self, text: &[u8]) -> Option<Vec<u8>> {
        if self.encoding == UTF_8 {
            let mark: &[u8] = if self.marked { b"\xef\xbb\xbf" } else { b"" };
            return Some([mark, text].concat());
        }
        let text = std::str::from_utf8(text).ok()?;
        if self.encoding == UTF_16LE || self.encoding == UTF_16BE {
            let bytes = if self.encoding == UTF_16LE { u16::to_le_bytes } else { u16::to_be_bytes };
            let mark = self.marked.then_some(0xfeff_u16);
            return Some(mark.into_iter().chain(text.encode_utf16()).flat_map(bytes).collect());
        }
        let (bytes, _, lacks_some) = self.encoding.encode(text);
        (!lacks_some).then(|| bytes.into_owned())
    }

    /// Whether bytes that were decoded come back when their text is written again.
    pub fn gives_back(&self, bytes: &[u8], text: &[u8]) -> bool {
        // UTF-8 is not turned into anything, and bytes that are not UTF-8 stay as they are.
        self.encoding == UTF_8 || self.encoded(text).as_deref() == Some(bytes)
    }

    /// Its name, as the Encoding Standard gives it, with the mark if it has one.
    pub fn name(&self) -> String {
        let mark = if self.marked { " with mark" } else { "" };
        format!("{}{mark}", self.encoding.name())
    }
}

/// Bytes as a reader of text sees them.
#[derive(Clone, Debug)]
pub enum Decoded<'b> {
    /// Text, in UTF-8 where its encoding could be told; bytes that fit no encoding are left as they are.
    Text {
        /// The text, without a byte order mark.
        text: Cow<'b, [u8]>,
        /// What it was written in.
        written: TextEncoding,
    },
    /// No text: it holds a NUL, and it is not UTF-16.
    Bytes,
}

/// Finds an encoding by one of its names in the Encoding Standard: `utf-8`, `utf-16le`, `latin1`, `shift_jis`, …
pub fn by_name(name: &str) -> Option<&'static Encoding> {
    Encoding::for_label(name.trim().as_bytes())
}

/// Decodes a file: as `wanted` says, else as its byte order mark says, else as UTF-8 if that holds, else as detection finds.
///
/// Detection is by `chardetng`; when what it finds does not fit, the bytes stay as they are. A file is taken for bytes
/// when there is a NUL in what was looked at: all of it up to 16 MiB, the first mebibyte beyond.
pub fn decode<'b>(bytes: &'b [u8], wanted: Option<&'static Encoding>) -> Decoded<'b> {
    let has_nul = |text: &[u8]| memchr::memchr(0, looked_at(text)).is_some();
    let is_marked = Encoding::for_bom(bytes).is_some();
    if wanted.is_none() && !is_marked && has_nul(bytes) {
        return Decoded::Bytes;
    }
    match decode_as_text(bytes, wanted) {
        // Other files begin with the bytes of a mark by chance.
        Decoded::Text { text, .. } if wanted.is_none() && is_marked && has_nul(&text) => Decoded::Bytes,
        decoded => decoded,
    }
}

/// Decodes a file that is to be taken for text, whatever it holds.
pub fn decode_as_text<'b>(bytes: &'b [u8], wanted: Option<&'static Encoding>) -> Decoded<'b> {
    match (wanted, Encoding::for_bom(bytes)) {
        (Some(encoding), _) => text(bytes, encoding, has_mark_of(bytes, encoding)),
        (None, Some((encoding, _))) => text(bytes, encoding, true),
        (None, None) => as_text(bytes),
    }
}

/// What of a file is looked at.
fn looked_at(bytes: &[u8]) -> &[u8] {
    if bytes.len() <= LOOKED_AT { bytes } else { &bytes[..SAMPLE] }
}

/// Decodes text that no mark tells the encoding of.
fn as_text(bytes: &[u8]) -> Decoded<'_> {
    let sample = looked_at(bytes);
    let raw = Decoded::Text { text: Cow::Borrowed(bytes), written: TextEncoding::UTF8 };
    match std::str::from_utf8(sample) {
        Ok(_) => return raw,
        // The sample may end in the middle of a letter.
        Err(error) if sample.len() < bytes.len() && error.valid_up_to() + 4 > sample.len() => return raw,
        Err(_) => {}
    }
    let mut detector = EncodingDetector::new(Iso2022JpDetection::Deny);
    detector.feed(&sample[..sample.len().min(SAMPLE)], true);
    let found = detector.guess(None, Utf8Detection::Deny);
    match text(bytes, found, false) {
        Decoded::Text { written, .. } if written == TextEncoding::UTF8 => raw,
        decoded => decoded,
    }
}

/// The encodings that were asked for, of either side.
pub type WantedEncodings = (Option<&'static Encoding>, Option<&'static Encoding>);

fn has_mark_of(bytes: &[u8], encoding: &'static Encoding) -> bool {
    Encoding::for_bom(bytes).is_some_and(|(found, _)| found == encoding)
}

fn text<'b>(bytes: &'b [u8], encoding: &'static Encoding, marked: bool) -> Decoded<'b> {
    let mark = match Encoding::for_bom(bytes) {
        Some((_, len)) if marked => len,
        _ => 0,
    };
    let body = &bytes[mark..];
    let written = TextEncoding { encoding, marked };
    if encoding == UTF_8 {
        return Decoded::Text { text: Cow::Borrowed(body), written };
    }
    match encoding.decode_without_bom_handling_and_without_replacement(body) {
        // Half a character at the end of UTF-16 is the only loss that would not be reported.
        Some(decoded) if !(utf16(encoding) && body.len() % 2 == 1) => {
            Decoded::Text { text: Cow::Owned(decoded.into_owned().into_bytes()), written }
        }
        _ => Decoded::Text { text: Cow::Borrowed(bytes), written: TextEncoding::UTF8 },
    }
}

fn utf16(encoding: &'static Encoding) -> bool {
    encoding == UTF_16LE || encoding == UTF_16BE
}

#[cfg(test)]
mod tests {
    use super::*;

    fn seen(bytes: &[u8], wanted: Option<&str>) -> (String, String) {
        match decode(bytes, wanted.map(|name| by_name(name).unwrap())) {
            Decoded::Text { text, written } => (String::from_utf8_lossy(&text).into_owned(), written.name()),
            Decoded::Bytes => (String::new(), "bytes".to_owned()),
        }
    }

    #[test]
    fn marks_tell_the_encoding() {
        assert_eq!(seen(b"\xef\xbb\xbfebb\n", None), ("ebb\n".into(), "UTF-8 with mark".into()));
        assert_eq!(seen(b"\xff\xfeh\0\xf6\0\n\0", None), ("hö\n".into(), "UTF-16LE with mark".into()));
        assert_eq!(seen(b"\xfe\xff\0h\0\xf6", None), ("hö".into(), "UTF-16BE with mark".into()));
        // What holds a NUL is no text, whatever it begins with.
        for bytes in [&b"\xef\xbb\xbfab\0\x01"[..], b"\xff\xfeh\0\0\0", b"\xff\xfe\0\xd8\0\xd8\0"] {
            assert_eq!(seen(bytes, None).1, "bytes", "{bytes:?}");
        }
    }

    #[test]
    fn what_is_not_utf8_is_detected() {
        let latin = b"Die Fl\xfcsse f\xfchren bei Ebbe sch\xf6nes, klares Wasser.\n";
        assert_eq!(
            seen(latin, None),
            ("Die Flüsse führen bei Ebbe schönes, klares Wasser.\n".into(), "windows-1252".into())
        );
        assert_eq!(seen(b"plain\n", None).1, "UTF-8");
        assert_eq!(seen(b"a\0b", None).1, "bytes");
    }

    #[test]
    fn a_wanted_encoding_wins_unless_it_does_not_fit() {
        assert_eq!(seen(b"\xe5", Some("koi8-r")).0, "Е");
        assert_eq!(seen(b"h\0i\0", Some("utf-16le")), ("hi".into(), "UTF-16LE".into()));
        assert_eq!(seen(b"h\0i", Some("utf-16le")).1, "UTF-8", "half a character at the end is no UTF-16");
    }
}
