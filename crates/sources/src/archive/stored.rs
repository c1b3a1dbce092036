//! Where the contents of the entries of an archive are.

use std::sync::Arc;

use tideline_core::internal::tree::{ContentId, TreeError, TreePath};

/// Where the contents of an entry are.
#[derive(Clone, Debug, Default)]
pub(super) enum Stored {
    /// It has none.
    #[default]
    Nothing,
    /// In the archive as they are.
    Part { start: u64, size: u64 },
    /// In memory: a small file whose holes the archive leaves out.
    Whole(Arc<Vec<u8>>),
    /// In a zip archive.
    Zip(Place),
    /// In a stream, which has told by what they are known.
    Stream { number: usize, ids: Vec<ContentId>, may_be_packed: bool },
    /// Under another name.
    SameAs(TreePath),
    /// They cannot be read.
    Bad(TreeError),
}

/// Where the contents of an entry are, and how they are packed.
#[derive(Clone, Debug)]
pub(super) struct Place {
    pub(super) header: u64,
    pub(super) packed: u64,
    pub(super) size: u64,
    pub(super) method: u16,
    pub(super) checksum: u32,
}
