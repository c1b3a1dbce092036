//! What a file holds: text, or bytes. This is the one place that decides it.

use super::ContentOptions;
use super::options::Reading;
use crate::internal::model::Kind;
use crate::internal::text::encoding::{Decoded, DecodedPair, decode, decode_as_text, decode_pair, decode_pair_as_text};

/// The contents of one file, read as what they are.
#[derive(Clone, Debug)]
pub enum Read<'b> {
    /// Text, in UTF-8.
    Text(std::borrow::Cow<'b, [u8]>),
    /// Anything else.
    Bytes(&'b [u8]),
}

/// Reads a file that only one side has, or that is looked at by itself.
pub fn read<'b>(path: &[u8], bytes: &'b [u8], is_before: bool, options: &ContentOptions) -> Read<'b> {
    let Reading { encodings, kind } = options.reading_of(path);
    let wanted = if is_before { encodings.0 } else { encodings.1 };
    let decoded = match kind {
        Some(Kind::Bytes) => Decoded::Bytes,
        Some(Kind::Text) => decode_as_text(bytes, wanted),
        None => decode(bytes, wanted),
    };
    match decoded {
        Decoded::Text { text, .. } => Read::Text(text),
        Decoded::Bytes => Read::Bytes(bytes),
    }
}

/// Reads both sides of a pair as text; `None` when one of them is not text or is not to be read as text.
pub(super) fn read_texts<'b>(
    path: &[u8],
    bytes: (&'b [u8], &'b [u8]),
    options: &ContentOptions,
) -> Option<DecodedPair<'b>> {
    let Reading { encodings, kind } = options.reading_of(path);
    match kind {
        Some(Kind::Bytes) => None,
        Some(Kind::Text) => decode_pair_as_text(bytes, encodings),
        None => decode_pair(bytes, encodings),
    }
}
