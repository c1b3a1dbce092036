//! Opens what a side of a comparison may be.

mod beneath;
mod file;
mod folder;
mod mapped;
mod mode;
mod side;

pub use beneath::OpenFolders;
#[cfg(unix)]
pub use beneath::{open_beneath, open_file, open_root};
pub use file::{Content, OpenError, Origin, open};
pub use folder::{FolderTree, Own};
pub use side::{Side, SideOptions, resolve};
