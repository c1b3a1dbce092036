//! What an argument is, found out by a look at it, before it is opened as a whole.

use std::fs::{self, File};
use std::io::{self, ErrorKind};
use std::path::{Path, PathBuf};

use crate::argument::Argument;
use crate::blob::Blob;
use crate::detect::{HEAD, Packed};
use crate::file::{Content, OpenError, Origin, open};

/// Whether what a file holds is looked into.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum LookInto {
    /// Archives, compressed files and inventories are; documents that are archives inside are not.
    #[default]
    Archives,
    /// Documents that are archives inside are too.
    Documents,
    /// Nothing is: files are compared as they are.
    Nothing,
}

/// What an argument turned out to be, before it is opened as a whole.
pub(crate) enum Probed {
    Folder(PathBuf),
    File(PathBuf),
    /// An archive, a compressed file or an inventory.
    Packed(Blob, Packed),
    /// What came through a pipe.
    Piped(Content),
    Revision {
        revision: Option<String>,
        path: Option<String>,
    },
}

/// Whether what was found is a tree; not known yet of a revision with a path.
pub(crate) fn is_tree(probed: &Probed) -> Option<bool> {
    match probed {
        Probed::Folder(_) => Some(true),
        Probed::Packed(_, packed) => Some(packed.is_archive() || *packed == Packed::Inventory),
        Probed::File(_) | Probed::Piped(_) => Some(false),
        Probed::Revision { path, .. } => path.is_none().then_some(true),
    }
}

/// Finds out what an argument is.
pub(crate) fn probe(argument: &Path, look_into: LookInto) -> Result<Probed, OpenError> {
    let path = match Argument::of(argument) {
        Argument::StandardInput => return piped(argument, look_into),
        Argument::Revision { revision, path } => return Ok(Probed::Revision { revision, path }),
        Argument::Path(path) => path,
    };
    let failed = |error: io::Error| OpenError::of(&path, error);
    match fs::metadata(&path) {
        Ok(metadata) if metadata.is_dir() => return Ok(Probed::Folder(path)),
        // A link to nothing is told apart from nothing at all.
        Err(error) if error.kind() == ErrorKind::NotFound && path.symlink_metadata().is_err() => {
            return Err(OpenError::Missing { path });
        }
        Ok(metadata) if metadata.is_file() => {}
        _ => return piped(argument, look_into),
    }
    if look_into != LookInto::Nothing {
        let blob = Blob::of_file(File::open(&path).map_err(failed)?).map_err(failed)?;
        if let Some(packed) = wanted(Packed::of(&blob).map_err(failed)?, look_into) {
            return Ok(Probed::Packed(blob, packed));
        }
    }
    Ok(Probed::File(path))
}

/// What comes through a pipe: it is read as a whole, to find out what it is.
fn piped(argument: &Path, look_into: LookInto) -> Result<Probed, OpenError> {
    let content = open(&Origin::of(argument))?;
    let head = &content[..content.len().min(HEAD)];
    let may_be_packed = Packed::may_be(head) || head.starts_with(b"{");
    if look_into == LookInto::Nothing || !may_be_packed {
        return Ok(Probed::Piped(content));
    }
    let blob = Blob::of_contents(Box::new(content));
    let failed = |error: io::Error| OpenError::of(argument, error);
    match wanted(Packed::of(&blob).map_err(failed)?, look_into) {
        Some(packed) => Ok(Probed::Packed(blob, packed)),
        None => Ok(Probed::Piped(Content::of(blob.contents().map_err(failed)?, None))),
    }
}

fn wanted(packed: Option<Packed>, look_into: LookInto) -> Option<Packed> {
    packed.filter(|packed| *packed != Packed::Document || look_into == LookInto::Documents)
}

/// Whether a file is one that is looked into as a tree.
pub fn is_archive(path: &Path) -> bool {
    packed_at(path).is_some_and(|packed| packed.is_archive() || packed == Packed::Inventory)
}

/// Whether a file is one that is looked into, as a tree or as what is compressed in it.
pub fn is_packed(path: &Path) -> bool {
    packed_at(path).is_some()
}

fn packed_at(path: &Path) -> Option<Packed> {
    File::open(path).and_then(Blob::of_file).and_then(|blob| Packed::of(&blob)).ok()?
}
