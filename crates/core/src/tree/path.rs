//! Paths in a tree: bytes, their parts separated by `/`.

/// A path made of a folder and a name in it.
pub fn join(folder: &[u8], name: &[u8]) -> Vec<u8> {
    if folder.is_empty() { name.to_vec() } else { [folder, b"/", name].concat() }
}

/// The folder and the name of a path.
pub fn split(path: &[u8]) -> (&[u8], &[u8]) {
    match memchr::memrchr(b'/', path) {
        Some(at) => (&path[..at], &path[at + 1..]),
        None => (b"", path),
    }
}
