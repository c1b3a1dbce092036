//! A side of a comparison of trees: a folder, or whatever else holds named entries.

use std::io::Read;

use super::entry::{ContentId, EntryMetadata, EntryType, Listing, Remark};
use super::error::TreeError;
use super::path::TreePath;

/// The bytes of a file, however they are held.
pub type Contents = Box<dyn FileContents>;

/// Bytes that may belong to a file that others write into.
pub trait FileContents: AsRef<[u8]> + Send + Sync {
    /// Fails when the file was changed while its bytes were used.
    ///
    /// # Errors
    /// When it was changed.
    fn check(&self) -> Result<(), TreeError> {
        Ok(())
    }
}

impl FileContents for Vec<u8> {}

/// Something that holds named entries in folders. Paths are relative to its root.
///
/// A comparison calls a tree from several threads at once, and asks for the entries of a folder once, before it asks for anything in it.
/// Readers that are open live as long as they are used, several at a time. A tree that holds a handle which only one thread may use
/// guards it with a lock of its own.
pub trait Tree: Send + Sync {
    /// Lists a folder, in any order.
    ///
    /// # Errors
    /// When the folder cannot be read.
    fn list(&self, folder: &TreePath) -> Result<Listing, TreeError>;

    /// What is known of an entry without reading it.
    ///
    /// # Errors
    /// When the entry cannot be looked at.
    fn metadata(&self, path: &TreePath) -> Result<EntryMetadata, TreeError>;

    /// Opens a file to be read from its start.
    ///
    /// # Errors
    /// When the file cannot be opened.
    fn open(&self, path: &TreePath) -> Result<Opened, TreeError>;

    /// By what the contents of a file are known without reading them, if the tree keeps such a thing: two files with equal identities
    /// of one algorithm are the same, with different ones they are not. A file that cannot be opened still has its identity.
    fn identity(&self, _path: &TreePath) -> Option<ContentId> {
        None
    }

    /// How many entries that are no folders are in a folder, at any depth, where the tree keeps an identity of the folder with all that
    /// is in it.
    fn entries_in(&self, _folder: &TreePath) -> Option<usize> {
        None
    }

    /// Whether a folder can be in the tree although nothing is in it. Default: yes.
    fn holds_empty_folders(&self) -> bool {
        true
    }

    /// By what the contents of a file would be known in an algorithm of another tree; they may be read for that. Nothing where the
    /// tree does not know the algorithm.
    fn identify(&self, _path: &TreePath, _algorithm: &str) -> Option<Result<ContentId, TreeError>> {
        None
    }

    /// The same in several algorithms at once, and what was known of the file then.
    fn identify_all(
        &self,
        path: &TreePath,
        algorithms: &[&str],
    ) -> Option<Result<(EntryMetadata, Vec<ContentId>), TreeError>> {
        let ids: Option<Result<Vec<ContentId>, TreeError>> =
            algorithms.iter().map(|algorithm| self.identify(path, algorithm)).collect();
        Some(ids?.and_then(|ids| Ok((self.metadata(path)?, ids))))
    }

    /// Whether the tree reads what is asked for in one go, and is told with [`Tree::prepare`] what that will be.
    fn reads_ahead(&self) -> bool {
        false
    }

    /// Reads the contents of some files that will be asked for. What cannot be read says so when it is asked for.
    fn prepare(&self, _paths: &[&TreePath]) {}

    /// What there is to know of the tree, once all of it was looked at.
    fn remarks(&self) -> Vec<Remark> {
        Vec::new()
    }

    /// The whole contents of a file.
    ///
    /// # Errors
    /// When the file cannot be opened or read.
    fn contents(&self, path: &TreePath) -> Result<Contents, TreeError> {
        let mut opened = self.open(path)?;
        let mut bytes = Vec::with_capacity(usize::try_from(opened.metadata.size).unwrap_or(0));
        opened.reader.read_to_end(&mut bytes).map_err(|error| TreeError::from(&error))?;
        Ok(Box::new(bytes))
    }

    /// Whether a file may be an archive or a compressed file, where that is known without opening it.
    fn may_be_packed(&self, _path: &TreePath) -> Option<bool> {
        None
    }

    /// Opens what is looked into, an archive or a compressed file, as the file that it is.
    ///
    /// # Errors
    /// When it cannot be opened.
    fn open_packed(&self, path: &TreePath) -> Result<Opened, TreeError> {
        self.open(path)
    }

    /// Where a link points.
    ///
    /// # Errors
    /// When the entry is no link or cannot be read.
    fn link_target(&self, path: &TreePath) -> Result<Vec<u8>, TreeError>;

    /// Whether the tree would leave out an entry at a path, were there one: its ignore files name it, or a folder above it.
    fn leaves_out(&self, _path: &TreePath, _entry_type: EntryType) -> bool {
        false
    }
}

/// A file that is open to be read.
pub struct Opened {
    /// What is known of it.
    pub metadata: EntryMetadata,
    /// Reads it from its start.
    pub reader: Box<dyn Read + Send>,
}
