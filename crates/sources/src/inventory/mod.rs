//! Inventories: the paths, sizes, times and hashes of a tree, to compare with later or elsewhere; and the checksum lists of the trade.

mod format;
mod known;
mod list;
mod read;
mod tree;
mod write;

use std::io::BufReader;

use tideline_core::internal::tree::TreeError;

use crate::blob::Blob;
pub(crate) use format::is_inventory;
#[cfg(feature = "schema")]
pub use format::schema;
pub use format::{Head, Known, Record, Rules, Text, Total, VERSION};
pub use known::InventoryHead;
pub use tree::InventoryTree;
pub use write::{InventoryWriter, Listed};

/// A checksum list is read up to this size; a larger file is a text like any other.
const LARGEST_LIST: u64 = 256 << 20;

/// Reads an inventory.
pub(crate) fn read(blob: &Blob) -> Result<InventoryTree, TreeError> {
    read::read(BufReader::new(blob.reader()))
}

/// Reads a checksum list; nothing where a file is not one.
pub(crate) fn read_checksums(blob: &Blob) -> Option<InventoryTree> {
    if blob.len() > LARGEST_LIST {
        return None;
    }
    let contents = blob.contents().ok()?;
    list::read_list((*contents).as_ref()).ok().map(read::tree_of_list)
}
