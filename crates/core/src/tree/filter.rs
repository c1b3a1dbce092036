//! Which entries of a tree are looked at.

use globset::{Glob, GlobSet, GlobSetBuilder};

/// Chooses entries by patterns. A pattern without `/` fits a name in any folder; one with `/` fits a path from the root. A
/// pattern that fits a folder fits all in it.
#[derive(Clone, Debug, Default)]
pub struct Filter {
    include: Option<GlobSet>,
    exclude: Option<GlobSet>,
    /// Folders at this depth are not entered; the root is at depth 0.
    depth: Option<usize>,
}

/// A pattern that cannot be used.
#[derive(Debug, thiserror::Error)]
#[error("cannot use the pattern {pattern}: {reason}")]
pub struct FilterError {
    pattern: String,
    reason: String,
}

impl Filter {
    /// Looks only at what fits one of these patterns (all, without patterns).
    ///
    /// # Errors
    /// When a pattern is malformed.
    pub fn include(mut self, patterns: &[String]) -> Result<Self, FilterError> {
        self.include = set(patterns)?;
        Ok(self)
    }

    /// Does not look at what fits one of these patterns.
    ///
    /// # Errors
    /// When a pattern is malformed.
    pub fn exclude(mut self, patterns: &[String]) -> Result<Self, FilterError> {
        self.exclude = set(patterns)?;
        Ok(self)
    }

    /// Goes only so many folders deep; with 1, only the entries of the root are looked at.
    pub fn depth(mut self, depth: Option<usize>) -> Self {
        self.depth = depth;
        self
    }

    /// Whether an entry that is not a folder is looked at.
    pub(super) fn takes(&self, path: &[u8]) -> bool {
        !self.leaves_out(path) && self.include.as_ref().is_none_or(|set| fits(set, path))
    }

    /// Whether an entry is excluded; of a folder, with all that is in it.
    pub(super) fn leaves_out(&self, path: &[u8]) -> bool {
        self.exclude.as_ref().is_some_and(|set| fits(set, path))
    }

    /// Whether only some entries are taken, so that a folder alone says nothing.
    pub(super) fn is_selective(&self) -> bool {
        self.include.is_some()
    }

    /// Whether a folder is entered.
    pub(super) fn enters(&self, folder: &[u8]) -> bool {
        let depth = if folder.is_empty() { 0 } else { 1 + memchr::memchr_iter(b'/', folder).count() };
        self.depth.is_none_or(|most| depth < most)
    }
}

/// Whether a pattern fits the path or a folder above it.
fn fits(set: &GlobSet, path: &[u8]) -> bool {
    let ends = memchr::memchr_iter(b'/', path).chain([path.len()]);
    ends.map(|end| &path[..end]).any(|part| set.is_match(&*String::from_utf8_lossy(part)))
}

fn set(patterns: &[String]) -> Result<Option<GlobSet>, FilterError> {
    if patterns.is_empty() {
        return Ok(None);
    }
    let wrong = |pattern: &str, error: &globset::Error| FilterError {
        pattern: pattern.to_owned(),
        reason: error.kind().to_string(),
    };
    let mut set = GlobSetBuilder::new();
    for pattern in patterns {
        let bare = pattern.trim_end_matches('/');
        let anchored = bare
            .strip_prefix('/')
            .map_or_else(|| if bare.contains('/') { bare.to_owned() } else { format!("**/{bare}") }, str::to_owned);
        set.add(Glob::new(&anchored).map_err(|error| wrong(pattern, &error))?);
    }
    set.build().map(Some).map_err(|error| wrong(&patterns.join(", "), &error))
}
