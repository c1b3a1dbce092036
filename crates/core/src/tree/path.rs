//! Paths in a tree.

use std::borrow::Borrow;
use std::cmp::Ordering;
use std::fmt;
use std::ops::Deref;

/// Bytes of two paths that are compared at once: deep paths begin alike.
const STRETCH: usize = 64;

/// A path in a tree, from its root: names separated by `/`, in bytes. The root itself is the empty path.
#[derive(Clone, Default, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct TreePath(Vec<u8>);

impl TreePath {
    /// The root of a tree.
    pub const ROOT: Self = Self(Vec::new());

    /// The path of a name in this folder.
    pub fn join(&self, name: &[u8]) -> Self {
        if self.0.is_empty() { Self(name.to_vec()) } else { Self([&self.0, &b"/"[..], name].concat()) }
    }

    /// The folder that it is in, and its name there.
    pub fn split(&self) -> (&[u8], &[u8]) {
        match memchr::memrchr(b'/', &self.0) {
            Some(at) => (&self.0[..at], &self.0[at + 1..]),
            None => (b"", &self.0),
        }
    }

    /// The folder that it is in; the root is in itself.
    pub fn parent(&self) -> Self {
        Self(self.split().0.to_vec())
    }

    /// The folders above it, the nearest first, without the root.
    pub fn folders_above(&self) -> impl Iterator<Item = &[u8]> {
        memchr::memrchr_iter(b'/', &self.0).map(|at| &self.0[..at])
    }

    /// Its name in its folder.
    pub fn name(&self) -> &[u8] {
        self.split().1
    }

    /// Whether it is the root.
    pub fn is_root(&self) -> bool {
        self.0.is_empty()
    }

    /// Whether it is a folder's path, or of something in that folder at any depth.
    pub fn is_within(&self, folder: &[u8]) -> bool {
        self.0.strip_prefix(folder).is_some_and(|rest| matches!(rest.first(), None | Some(b'/')))
    }

    /// Its bytes.
    pub fn as_bytes(&self) -> &[u8] {
        &self.0
    }

    /// As text, for a reader; bytes that are no text are replaced.
    pub fn to_text(&self) -> String {
        String::from_utf8_lossy(&self.0).into_owned()
    }
}

/// The order of paths, folder by folder: a folder comes before what is in it, and all of that before what comes after the folder.
pub fn by_path(one: &[u8], other: &[u8]) -> Ordering {
    let alike = one.chunks(STRETCH).zip(other.chunks(STRETCH)).take_while(|(one, other)| one == other).count();
    let from = (alike * STRETCH).min(one.len()).min(other.len());
    let rank = |&byte: &u8| if byte == b'/' { 0 } else { byte };
    one[from..].iter().map(rank).cmp(other[from..].iter().map(rank))
}

impl Deref for TreePath {
    type Target = [u8];

    fn deref(&self) -> &[u8] {
        &self.0
    }
}

impl AsRef<[u8]> for TreePath {
    fn as_ref(&self) -> &[u8] {
        &self.0
    }
}

impl Borrow<[u8]> for TreePath {
    fn borrow(&self) -> &[u8] {
        &self.0
    }
}

impl From<&[u8]> for TreePath {
    fn from(path: &[u8]) -> Self {
        Self(path.to_vec())
    }
}

impl From<Vec<u8>> for TreePath {
    fn from(path: Vec<u8>) -> Self {
        Self(path)
    }
}

impl From<&str> for TreePath {
    fn from(path: &str) -> Self {
        Self(path.as_bytes().to_vec())
    }
}

impl fmt::Debug for TreePath {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:?}", String::from_utf8_lossy(&self.0))
    }
}
