//! Trees: what a folder, an archive or a revision holds, and what differs between two of them.
//!
//! A [`Tree`] lists the entries of a folder and opens files; [`compare`] walks two of them side by side, folder by folder,
//! and keeps only what differs. Equal files cost their reading and nothing else.

mod blocks;
mod blocks_read;
mod both_trees;
mod by_name;
mod compare;
mod contents;
mod entry;
mod error;
mod filter;
mod inspect;
mod memory;
mod moves;
mod options;
mod pair;
mod path;
mod progress;
mod side;
mod similarity;
mod walk;

pub use compare::{PairSink, compare, compare_into, prepare};
pub use contents::{PairTexts, pair_texts};
pub use entry::{ContentId, Entry, EntryMetadata, EntryType, Listing, Remark};
pub use error::{TreeError, TreeErrorKind};
pub use filter::Filter;
pub use inspect::Inspect;
pub use memory::MemoryTree;
pub use options::{Attributes, TreeOptions, Trust};
pub use pair::{Attribute, LeftOut, Note, Pair, TreeComparison};
pub use path::{TreePath, by_path};
pub use progress::Progress;
pub use side::{Contents, FileContents, Opened, Tree};
