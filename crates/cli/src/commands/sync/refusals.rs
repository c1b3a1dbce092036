//! What a sync does not do, and what would allow it where that can ever be meant.

use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};

use crate::commands::writing::in_full;

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
            bail!("cannot sync from {}: there is no such folder; check the spelling of the path", shown.0);
        }
        for path in [from, into] {
            if path.exists() && !path.is_dir() {
                bail!(
                    "cannot sync {}: it is a file, and `sync` is about folders; `take` carries changes between files",
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
        if full == into_full {
            bail!("cannot sync {} into {}: they are the same folder", shown.0, shown.1);
        }
        if into_full.parent().is_none() {
            bail!("cannot sync into {}: it is the root of a file system; name a folder in it", shown.1);
        }
        if full.starts_with(&into_full) || into_full.starts_with(&full) {
            let (inner, outer) = if full.starts_with(&into_full) { (shown.0, shown.1) } else { (shown.1, shown.0) };
            bail!("cannot sync {} into {}: {inner} is inside {outer}", from.display(), into.display());
        }
        let mut entries = full.read_dir().with_context(|| format!("cannot sync from {}", shown.0))?;
        if entries.next().is_none() && !remove_many {
            bail!(
                "cannot sync from {}: it is empty, as a folder is whose disk is missing; with --mirror --remove-many, {} is emptied all the same",
                shown.0,
                shown.1
            );
        }
        Ok(Self { from: full, into: into_full, makes_into })
    }

    /// The paths as bytes: from, into.
    pub(super) fn as_bytes(&self) -> (&[u8], &[u8]) {
        (self.from.as_os_str().as_encoded_bytes(), self.into.as_os_str().as_encoded_bytes())
    }
}

/// Refuses to remove more than half of what is there, unless that is allowed.
pub(super) fn refuse_many_removals(removals: usize, there: usize, allowed: bool, into: &Path) -> Result<()> {
    if removals * 2 > there && !allowed {
        bail!(
            "refused to remove {removals} of the {there} files in {}, which is more than half; if that is meant, --remove-many allows it",
            into.display()
        );
    }
    Ok(())
}
