//! What a patch can carry as lines.

/// Whether contents can stand in a patch as lines. A patch is made of bytes, whatever they are written in; with a NUL in them, readers
/// of patches do not take them for text.
pub fn is_patch_text(bytes: &[u8]) -> bool {
    memchr::memchr(0, bytes).is_none()
}
