//! A revision of a repository as a tree, and the working folder that it is compared with.
//!
//! All is asked of the system's own program, in its modes for scripts. Nothing in the repository is written.

mod error;
mod objects;
mod program;
mod repository;
mod tree;
mod working;

pub use error::RevisionError;
pub use program::Allowed;
pub(crate) use repository::Repository;
pub(crate) use tree::RevisionTree;
pub(crate) use working::{WorkingTree, not_checked_out};
