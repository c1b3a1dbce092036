//! Opens what a side of a comparison may be.

mod archive;
mod argument;
mod beneath;
mod blob;
mod compressed;
mod compression;
mod converter;
mod detect;
mod documents;
mod file;
mod folder;
mod hashing;
mod index;
pub mod inventory;
mod limits;
mod mapped;
mod mode;
mod nested;
mod probe;
mod revision;
mod side;
mod spool;

pub use argument::Argument;
pub use beneath::OpenFolders;
#[cfg(unix)]
pub use beneath::{open_beneath, open_file, open_root};
pub use converter::{Converter, ConverterLimits, Converters};
pub use documents::Documents;
pub use file::{Content, OpenError, Origin, open};
pub use folder::{FolderTree, Own};
pub use hashing::Algorithm;
pub use limits::Limits;
pub use probe::{LookInto, is_archive, is_packed};
pub use revision::{Allowed, RevisionError};
pub use side::{OpenedSide, Side, SideOptions, resolve, resolve_both};
