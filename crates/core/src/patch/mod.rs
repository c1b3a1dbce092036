//! Patches: read, placed and written, from bytes to bytes.
//!
//! [`read_patch`] reads the unified and the context format of POSIX.1-2017 (XCU, the utility of that name), [`place`] finds where
//! the hunks of a file belong, [`write_file_patch`] writes the unified format. [`counted_text`] is what a patch under rules leads to.

pub mod apply;
mod binary;
mod context;
mod counted;
mod headers;
mod model;
mod names;
mod place;
mod placement;
mod read;
mod reader;
mod text;
mod wrapping;
mod write;

pub use counted::{CountedText, counted_text};
pub use model::{Binary, BinaryContents, FilePatch, Hunk, HunkLine, LineRole, Operation, Patch};
pub use names::{Names, folders_to_drop, without_folders};
pub use place::place;
pub use placement::{Doubt, HunkPlacement, LineMismatch, PlaceOptions, Placed, Placement, PlacementFailure};
pub use read::{read_patch, read_shared_patch};
pub use reader::PatchError;
pub use text::is_patch_text;
pub use write::{FileLabel, NO_TIME, PatchOptions, write_extended, write_file_patch, write_hunks, write_part};
