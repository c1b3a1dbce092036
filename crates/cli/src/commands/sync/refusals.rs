//! What a sync does not do, and what would allow it where that can ever be meant.

use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};

use tideline_core::internal::tree::{MemoryTree, Tree};

use crate::args::FilesArgs;
use crate::commands::resolve::open_tree;
use crate::commands::writing::in_full;

/// Whether two paths lead to one folder, as where it is mounted twice.
fn is_same(one: &Path, other: &Path) -> bool {
    let identity = |path: &Path| path.metadata().map(|metadata| (metadata.dev(), metadata.ino())).ok();
    identity(one).is_some_and(|found| identity(other) == Some(found))
}

/// The roots of both trees, in full.
pub(super) struct Roots {
    pub(super) from: PathBuf,
    pub(super) into: PathBuf,
    /// Whether the folder that is carried into has to be made.
    pub(super) makes_into: bool,
}

impl Roots {
    /// The roots that were named, if one can be made like the other.
    pub(super) fn checked(from: &Path, into: &Path, remove_many: bool) -> Result<Self> {
        let shown = (from.display(), into.display());
        if from.symlink_metadata().is_err() {
            bail!("cannot sync: FROM, {}, is not there; check the spelling of the path", shown.0);
        }
        for (name, path) in [("FROM", from), ("INTO", into)] {
            if path.exists() && !path.is_dir() {
                bail!(
                    "cannot sync: {name}, {}, is a file, and `sync` is about folders; `take` carries changes between files",
                    path.display()
                );
            }
        }
        let full = from.canonicalize().with_context(|| format!("cannot sync from {}", shown.0))?;
        let makes_into = into.symlink_metadata().is_err();
        let into_full = if makes_into {
            in_full(into)?
        } else {
            into.canonicalize().with_context(|| format!("cannot sync into {}", shown.1))?
        };
        if full == into_full || !makes_into && is_same(&full, &into_full) {
            bail!("cannot sync: FROM, {}, and INTO, {}, are the same folder", shown.0, shown.1);
        }
        if into_full.parent().is_none() {
            bail!("cannot sync: INTO, {}, is the root of a file system; name a folder in it", shown.1);
        }
        if full.starts_with(&into_full) || into_full.starts_with(&full) {
            let (inner, outer) = if full.starts_with(&into_full) { ("FROM", "INTO") } else { ("INTO", "FROM") };
            bail!("cannot sync from {} into {}: {inner} is inside {outer}", shown.0, shown.1);
        }
        let mut entries = full.read_dir().with_context(|| format!("cannot sync from {}", shown.0))?;
        if entries.next().is_none() && !remove_many {
            bail!(
                "cannot sync: FROM, {}, is empty, as a folder is whose disk is missing; with --mirror --remove-many, INTO, {}, is emptied all the same",
                shown.0,
                into_full.display()
            );
        }
        Ok(Self { from: full, into: into_full, makes_into })
    }

    /// Both trees, into and from. One that is to be made holds nothing yet.
    pub(super) fn trees(&self, files: &FilesArgs) -> Result<(Box<dyn Tree>, Box<dyn Tree>)> {
        let into: Box<dyn Tree> =
            if self.makes_into { Box::new(MemoryTree::new()) } else { open_tree(&self.into, files)? };
        Ok((into, open_tree(&self.from, files)?))
    }

    /// The paths as bytes: from, into.
    pub(super) fn as_bytes(&self) -> (&[u8], &[u8]) {
        (self.from.as_os_str().as_encoded_bytes(), self.into.as_os_str().as_encoded_bytes())
    }
}

/// How much a plan removes of what is there.
pub(super) struct Removals {
    /// Files and links that it removes.
    pub(super) files: usize,
    /// Those of INTO that were looked at.
    pub(super) looked_at: usize,
    /// All of INTO.
    pub(super) all: usize,
}

impl Removals {
    /// Refuses to remove more than half of what was looked at, or of all that is there.
    pub(super) fn refuse_many(&self, into: &Path) -> Result<()> {
        let Self { files, looked_at, all } = *self;
        let many_of = |there: usize| files * 2 > there;
        if !many_of(looked_at) && !many_of(all) {
            return Ok(());
        }
        let there = if many_of(looked_at) { looked_at } else { all };
        let which = if there < all { " that were looked at" } else { "" };
        bail!(
            "refused to remove {files} of the {there} files in INTO, {}{which}, which is more than half; if that is meant, --remove-many allows it",
            into.display()
        )
    }
}
