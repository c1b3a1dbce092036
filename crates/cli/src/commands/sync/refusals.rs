//! What a sync does not do, and what would allow it where that can ever be meant.

use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, Result, bail};

use tideline_core::internal::tree::{MemoryTree, Tree};
use tideline_sources::{Argument, Side, SideOptions, is_archive, resolve_both};

use crate::commands::progress::with_progress;
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
    /// Whether what is carried from is no folder, but an archive or a revision.
    pub(super) is_from_elsewhere: bool,
}

impl Roots {
    /// The roots that were named, if one can be made like the other.
    pub(super) fn checked(from: &Path, into: &Path, remove_many: bool) -> Result<Self> {
        let shown = (from.display(), into.display());
        if Argument::is_revision(into) {
            bail!("cannot sync into {}: a revision is never written to; INTO is a folder", shown.1);
        }
        if is_elsewhere(from) {
            return Self::from_elsewhere(from, into);
        }
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
        Ok(Self { from: full, into: into_full, makes_into, is_from_elsewhere: false })
    }

    /// The roots where an archive or a revision is carried from.
    fn from_elsewhere(from: &Path, into: &Path) -> Result<Self> {
        let shown = into.display();
        if into.exists() && !into.is_dir() {
            bail!("cannot sync: INTO, {shown}, is a file; an archive or a revision is carried into a folder");
        }
        let makes_into = into.symlink_metadata().is_err();
        let into_full = if makes_into {
            in_full(into)?
        } else {
            into.canonicalize().with_context(|| format!("cannot sync into {shown}"))?
        };
        if into_full.parent().is_none() {
            bail!("cannot sync: INTO, {shown}, is the root of a file system; name a folder in it");
        }
        if from.canonicalize().is_ok_and(|from| from.starts_with(&into_full)) {
            bail!("cannot sync from {} into {shown}: FROM is inside INTO", from.display());
        }
        Ok(Self { from: from.to_path_buf(), into: into_full, makes_into, is_from_elsewhere: true })
    }

    /// Both trees, into and from, and what there is to say of the latter. One that is to be made holds nothing yet.
    pub(super) fn trees(&self, options: &SideOptions) -> Result<(Box<dyn Tree>, OpenedTree)> {
        let nothing = || Box::new(MemoryTree::new()) as Box<dyn Tree>;
        let tree = |side: Side| match side {
            Side::Tree(tree) => Ok(tree),
            Side::File(_) => bail!("cannot look into {}: it is a file", self.from.display()),
        };
        let (into, from) = if Argument::is_revision(&self.from) && !self.makes_into {
            // The folder may be the one that the repository is checked out into.
            let (from, into) = with_progress(|progress| {
                resolve_both((&self.from, &self.into), &options.clone().progress(Arc::clone(progress)))
            })?;
            (tree(into.side)?, from)
        } else {
            let into = if self.makes_into { nothing() } else { tree(open_tree(&self.into, options)?.side)? };
            (into, open_tree(&self.from, options)?)
        };
        if from.inventory.is_some() {
            bail!("cannot sync from {}: an inventory holds no contents", self.from.display());
        }
        let (label, about) = (from.label, from.about);
        Ok((into, OpenedTree { tree: tree(from.side)?, label, about }))
    }

    /// The paths as bytes: from, into.
    pub(super) fn as_bytes(&self) -> (&[u8], &[u8]) {
        (self.from.as_os_str().as_encoded_bytes(), self.into.as_os_str().as_encoded_bytes())
    }
}

/// The tree that is carried from.
pub(super) struct OpenedTree {
    pub(super) tree: Box<dyn Tree>,
    pub(super) label: Option<String>,
    pub(super) about: Option<String>,
}

/// Whether a path stands for what is no folder on the disk, but can be carried from.
fn is_elsewhere(from: &Path) -> bool {
    from.as_os_str() == "-" || Argument::is_revision(from) || from.exists() && !from.is_dir() && is_archive(from)
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
