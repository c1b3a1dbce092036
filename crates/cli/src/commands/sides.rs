//! Two opened files.

use std::path::PathBuf;

use anyhow::{Context, Result};
use tideline_sources::Content;

use crate::settings::Names;

/// Two opened files.
pub(super) struct Sides {
    pub(super) before: Content,
    pub(super) after: Content,
    pub(super) names: Names,
    /// As they were named.
    pub(super) paths: (PathBuf, PathBuf),
}

impl Sides {
    /// Fails when a side was changed while it was read: what was told of it may never have been so.
    ///
    /// # Errors
    /// When it was.
    pub(super) fn check(&self) -> Result<()> {
        for (content, path) in [(&self.before, &self.paths.0), (&self.after, &self.paths.1)] {
            content.check().with_context(|| format!("cannot tell what is in {}", path.display()))?;
        }
        Ok(())
    }

    /// The name by which rules, sections and syntax know the file.
    pub(super) fn type_name(&self) -> &str {
        if self.names.name.is_empty() { &self.names.labels.after } else { &self.names.name }
    }
}
