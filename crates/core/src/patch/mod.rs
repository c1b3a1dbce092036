//! Patches in the unified format of POSIX.1-2017 (XCU, the utility of that name).

mod counted;
mod write;

pub use counted::{CarriedOut, carried_out};
pub use write::{FileLabel, PatchOptions, write_file_patch};
