//! Values of their own in the records, and how they are written.

use std::io::{self, Write};

use base64::Engine;
use base64::prelude::BASE64_STANDARD;
#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The version of the records, said in the first of them.
pub const VERSION: u32 = 3;

/// Text, or bytes that are not UTF-8.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(untagged)]
pub enum TextOrBytes {
    /// UTF-8.
    Text(String),
    /// Anything else.
    Bytes {
        /// The bytes, by RFC 4648.
        base64: String,
        /// The same decoded, where they are text in an encoding that does not give them back.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        text: Option<String>,
    },
}

/// The lines of a change on one side.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct ChangeSide {
    /// The number, from 1, of the first of them; without lines, of the line that would come next.
    pub line: usize,
    /// Where they are in the document that they were taken out of: `page 4, line 12`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub place: Option<String>,
    /// The lines, each with its line end.
    pub lines: Vec<TextOrBytes>,
}

pub(super) fn text(bytes: &[u8]) -> TextOrBytes {
    match std::str::from_utf8(bytes) {
        Ok(text) => TextOrBytes::Text(text.to_owned()),
        Err(_) => TextOrBytes::Bytes { base64: BASE64_STANDARD.encode(bytes), text: None },
    }
}

/// Text with the bytes that it was decoded from.
pub(super) fn decoded(bytes: &[u8], text: &[u8]) -> TextOrBytes {
    let text = Some(String::from_utf8_lossy(text).into_owned());
    TextOrBytes::Bytes { base64: BASE64_STANDARD.encode(bytes), text }
}

pub(super) fn bytes_of(text: &TextOrBytes) -> Vec<u8> {
    match text {
        TextOrBytes::Text(text) => text.clone().into_bytes(),
        TextOrBytes::Bytes { base64, .. } => BASE64_STANDARD.decode(base64).unwrap_or_default(),
    }
}

/// Writes a value that has a form of its own, and its line end.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_value(value: &impl serde::Serialize, out: &mut dyn Write) -> io::Result<()> {
    serde_json::to_writer(&mut *out, value)?;
    out.write_all(b"\n")
}
