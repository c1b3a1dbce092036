//! A tree in memory, for tests and for what is not on a disk.

use std::collections::BTreeMap;
use std::io::Cursor;

use super::{
    ContentId, Contents, Entry, EntryMetadata, EntryType, Listing, Opened, Tree, TreeError, TreeErrorKind, TreePath,
};

/// A tree whose entries are held in memory.
#[derive(Clone, Debug, Default)]
pub struct MemoryTree {
    entries: BTreeMap<TreePath, Held>,
}

#[derive(Clone, Debug)]
enum Held {
    Folder,
    File {
        bytes: Vec<u8>,
        mode: Option<u32>,
    },
    /// Contents that are known by an identity alone.
    Known {
        size: u64,
        id: ContentId,
    },
    Link {
        target: Vec<u8>,
    },
    Unreadable,
}

impl MemoryTree {
    /// An empty tree.
    pub fn new() -> Self {
        Self::default()
    }

    /// Adds a file and the folders above it.
    pub fn file(self, path: &str, bytes: impl Into<Vec<u8>>) -> Self {
        self.with(path, Held::File { bytes: bytes.into(), mode: None })
    }

    /// Adds a file with permission bits.
    pub fn file_with_mode(self, path: &str, bytes: impl Into<Vec<u8>>, mode: u32) -> Self {
        self.with(path, Held::File { bytes: bytes.into(), mode: Some(mode) })
    }

    /// Adds an empty folder.
    pub fn folder(self, path: &str) -> Self {
        self.with(path, Held::Folder)
    }

    /// Adds a link.
    pub fn link(self, path: &str, target: &str) -> Self {
        self.with(path, Held::Link { target: target.as_bytes().to_vec() })
    }

    /// Adds a file that cannot be read.
    pub fn unreadable(self, path: &str) -> Self {
        self.with(path, Held::Unreadable)
    }

    /// Adds a file whose contents are elsewhere, and known by their identity only.
    pub fn known(self, path: &str, size: u64, id: ContentId) -> Self {
        self.with(path, Held::Known { size, id })
    }

    fn with(mut self, path: &str, held: Held) -> Self {
        let path = TreePath::from(path);
        let mut folder = path.parent();
        while !folder.is_root() {
            let above = folder.parent();
            self.entries.entry(folder).or_insert(Held::Folder);
            folder = above;
        }
        self.entries.insert(path, held);
        self
    }

    fn bytes(&self, path: &TreePath) -> Result<(&[u8], Option<u32>), TreeError> {
        match self.entries.get(path) {
            Some(Held::File { bytes, mode }) => Ok((bytes, *mode)),
            Some(Held::Known { .. }) => Err(TreeError::new(TreeErrorKind::Offline, "its contents are elsewhere")),
            Some(Held::Unreadable) => Err(TreeError::new(TreeErrorKind::Denied, "permission denied")),
            _ => Err(TreeError::new(TreeErrorKind::Missing, "there is no such file")),
        }
    }
}

impl Tree for MemoryTree {
    fn list(&self, folder: &TreePath) -> Result<Listing, TreeError> {
        let inside = self.entries.iter().filter(|(path, _)| path.split().0 == folder.as_bytes() && !path.is_root());
        let entry = |(path, held): (&TreePath, &Held)| Entry {
            name: path.name().to_vec(),
            metadata: match held {
                Held::Known { size, .. } => Some(EntryMetadata { size: *size, ..EntryMetadata::default() }),
                _ => None,
            },
            entry_type: match held {
                Held::Folder => EntryType::Folder,
                Held::File { .. } | Held::Known { .. } | Held::Unreadable => EntryType::File,
                Held::Link { .. } => EntryType::Link,
            },
            packed: false,
        };
        Ok(Listing { entries: inside.map(entry).collect(), ..Listing::default() })
    }

    fn metadata(&self, path: &TreePath) -> Result<EntryMetadata, TreeError> {
        let (bytes, mode) = self.bytes(path)?;
        Ok(EntryMetadata { size: bytes.len() as u64, mode, ..EntryMetadata::default() })
    }

    fn open(&self, path: &TreePath) -> Result<Opened, TreeError> {
        let (bytes, _) = self.bytes(path)?;
        Ok(Opened { metadata: self.metadata(path)?, reader: Box::new(Cursor::new(bytes.to_vec())) })
    }

    fn identity(&self, path: &TreePath) -> Option<ContentId> {
        match self.entries.get(path) {
            Some(Held::Known { id, .. }) => Some(id.clone()),
            _ => None,
        }
    }

    fn contents(&self, path: &TreePath) -> Result<Contents, TreeError> {
        Ok(Box::new(self.bytes(path)?.0.to_vec()))
    }

    fn link_target(&self, path: &TreePath) -> Result<Vec<u8>, TreeError> {
        match self.entries.get(path) {
            Some(Held::Link { target }) => Ok(target.clone()),
            _ => Err(TreeError::new(TreeErrorKind::Other, "not a link")),
        }
    }
}
