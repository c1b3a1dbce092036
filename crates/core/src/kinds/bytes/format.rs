//! The format of a file by the bytes that it begins with.

use file_format::FileFormat;

/// Formats are told by the beginning of a file: so many bytes of it are looked at.
const BEGINNING: usize = 64 << 10;

/// The name of the format of some contents; nothing where their beginning does not tell it.
pub fn format_of(bytes: &[u8]) -> Option<String> {
    let format = FileFormat::from_bytes(&bytes[..bytes.len().min(BEGINNING)]);
    let is_known = !matches!(format, FileFormat::ArbitraryBinaryData | FileFormat::PlainText | FileFormat::Empty);
    is_known.then(|| match format.short_name() {
        Some(short) => format!("{} ({short})", format.name()),
        None => format.name().to_owned(),
    })
}
