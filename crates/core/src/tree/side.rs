//! A side of a comparison of trees: a folder, or whatever else holds named entries.

use std::io::Read;

use super::entry::{EntryMetadata, EntryType, Listing};

/// The bytes of a file, however they are held.
pub type Contents = Box<dyn FileContents>;

/// Bytes that may belong to a file that others write into.
pub trait FileContents: AsRef<[u8]> + Send + Sync {
    /// Fails when the file was changed while its bytes were used.
    ///
    /// # Errors
    /// When it was changed.
    fn check(&self) -> Result<(), Problem> {
        Ok(())
    }
}

impl FileContents for Vec<u8> {}

/// Something that holds named entries in folders. Paths are relative to its root, their parts separated by `/`; the root
/// itself is the empty path.
pub trait Tree: Sync {
    /// Lists a folder, in any order.
    ///
    /// # Errors
    /// When the folder cannot be read.
    fn list(&self, folder: &[u8]) -> Result<Listing, Problem>;

    /// What is known of an entry without reading it.
    ///
    /// # Errors
    /// When the entry cannot be looked at.
    fn facts(&self, path: &[u8]) -> Result<EntryMetadata, Problem>;

    /// Opens a file to be read from its start.
    ///
    /// # Errors
    /// When the file cannot be opened.
    fn open(&self, path: &[u8]) -> Result<Opened, Problem>;

    /// The whole contents of a file.
    ///
    /// # Errors
    /// When the file cannot be opened or read.
    fn contents(&self, path: &[u8]) -> Result<Contents, Problem> {
        let mut opened = self.open(path)?;
        let mut bytes = Vec::with_capacity(usize::try_from(opened.facts.size).unwrap_or(0));
        opened.reader.read_to_end(&mut bytes).map_err(|error| Problem::new(error.to_string()))?;
        Ok(Box::new(bytes))
    }

    /// Where a link points.
    ///
    /// # Errors
    /// When the entry is no link or cannot be read.
    fn link_target(&self, path: &[u8]) -> Result<Vec<u8>, Problem>;

    /// Whether the tree would leave out an entry at a path, were there one: its ignore files name it, or a folder above it.
    fn leaves_out(&self, _path: &[u8], _nature: EntryType) -> bool {
        false
    }
}

/// A file that is open to be read.
pub struct Opened {
    /// What is known of it.
    pub facts: EntryMetadata,
    /// Reads it from its start.
    pub reader: Box<dyn Read + Send>,
}

/// Why something could not be read, in words.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{reason}")]
pub struct Problem {
    reason: String,
}

impl Problem {
    /// A problem with its reason.
    pub fn new(reason: impl Into<String>) -> Self {
        Self { reason: reason.into() }
    }
}
