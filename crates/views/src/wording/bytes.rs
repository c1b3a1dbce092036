//! Two contents that are not text, in words.

use tideline_core::internal::text::bytes::common_prefix;

use super::grouped;

/// How large both are, and where they first differ.
pub(crate) fn bytes_lines(before: &[u8], after: &[u8]) -> [String; 2] {
    let size = |bytes: &[u8]| grouped(bytes.len());
    let sizes = if before.len() == after.len() {
        format!("{} bytes on both sides", size(before))
    } else {
        format!("{} bytes, now {}", size(before), size(after))
    };
    let at = common_prefix(before, after);
    let byte = |bytes: &[u8]| bytes.get(at).map_or_else(|| "the end".to_owned(), |byte| format!("{byte:#04x}"));
    let (b, a) = (byte(before), byte(after));
    [sizes, format!("first difference at offset {} ({at:#x}): {b}, now {a}", grouped(at))]
}
