//! Opens what a side of a comparison may be.

mod file;
mod folder;

pub use folder::FolderTree;

pub use file::{Content, OpenError, Origin, open};
