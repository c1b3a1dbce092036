//! What a file holds: text, or bytes. This is the one place that decides it.

use super::ContentOptions;
use crate::internal::text::encoding::{Decoded, DecodedPair, decode, decode_pair};

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
    let (wanted, is_bytes) = options.reading_of(path);
    match decode(bytes, if is_before { wanted.0 } else { wanted.1 }) {
        Decoded::Text { text, .. } if !is_bytes => Read::Text(text),
        _ => Read::Bytes(bytes),
    }
}

/// Reads both sides of a pair as text; `None` when one of them is not text or is not to be read as text.
pub(super) fn read_texts<'b>(
    path: &[u8],
    bytes: (&'b [u8], &'b [u8]),
    options: &ContentOptions,
) -> Option<DecodedPair<'b>> {
    let (wanted, is_bytes) = options.reading_of(path);
    if is_bytes { None } else { decode_pair(bytes, wanted) }
}
