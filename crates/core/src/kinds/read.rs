//! What a file holds: text, or bytes. This is the one place that decides it.

use std::borrow::Cow;

use encoding_rs::Encoding;

use super::ContentOptions;
use super::options::{Reading, WantedKind};
use crate::internal::model::Kind;
use crate::internal::text::encoding::{Decoded, TextEncoding, decode, decode_as_text};

/// The contents of one file, read as what they are.
#[derive(Clone, Debug)]
pub enum Read<'b> {
    /// Text, in UTF-8.
    Text(Cow<'b, [u8]>),
    /// Anything else.
    Bytes(&'b [u8]),
}

/// Reads a file that only one side has, or that is looked at by itself.
pub fn read<'b>(path: &[u8], bytes: &'b [u8], is_before: bool, options: &ContentOptions) -> Read<'b> {
    match read_text(path, bytes, is_before, options) {
        Some((text, _)) => Read::Text(text),
        None => Read::Bytes(bytes),
    }
}

/// The text of a file and what it is written in; nothing where it is not text or is not to be read as text.
pub fn read_text<'b>(
    path: &[u8],
    bytes: &'b [u8],
    is_before: bool,
    options: &ContentOptions,
) -> Option<(Cow<'b, [u8]>, TextEncoding)> {
    let reading = options.reading_of(path);
    match decoded(bytes, if is_before { reading.encodings.0 } else { reading.encodings.1 }, reading.kind) {
        Decoded::Text { text, written } => Some((text, written)),
        Decoded::Bytes => None,
    }
}

/// Decodes a file as what it is to be read as.
fn decoded<'b>(bytes: &'b [u8], wanted: Option<&'static Encoding>, kind: Option<WantedKind>) -> Decoded<'b> {
    match kind {
        Some(WantedKind::As(Kind::Image | Kind::Bytes)) => Decoded::Bytes,
        Some(WantedKind::As(Kind::Text)) => decode_as_text(bytes, wanted),
        Some(WantedKind::As(Kind::Table | Kind::Data) | WantedKind::Auto) | None => decode(bytes, wanted),
    }
}

/// The text of both sides of a pair, and what they are written in.
pub(super) type DecodedPair<'b> = (Cow<'b, [u8]>, Cow<'b, [u8]>, (TextEncoding, TextEncoding));

/// Reads both sides of a pair as text; `None` when one of them is not text or is not to be read as text.
pub(super) fn read_texts<'b>(
    path: &[u8],
    bytes: (&'b [u8], &'b [u8]),
    options: &ContentOptions,
) -> Option<DecodedPair<'b>> {
    let Reading { encodings, kind, .. } = options.reading_of(path);
    match (decoded(bytes.0, encodings.0, kind), decoded(bytes.1, encodings.1, kind)) {
        (Decoded::Text { text: b, written: wb }, Decoded::Text { text: a, written: wa }) => Some((b, a, (wb, wa))),
        _ => None,
    }
}
