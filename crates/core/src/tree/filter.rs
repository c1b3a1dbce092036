//! Which entries of a tree are looked at.

use crate::internal::rules::{FilePatternError, FilePatterns};

/// Chooses entries by [`FilePatterns`] and depth.
#[derive(Clone, Debug, Default)]
pub struct Filter {
    include: Option<FilePatterns>,
    exclude: Option<FilePatterns>,
    /// Folders at this depth are not entered; the root is at depth 0.
    depth: Option<usize>,
}

impl Filter {
    /// Looks only at what fits one of these patterns (all, without patterns).
    ///
    /// # Errors
    /// When a pattern is malformed.
    pub fn include(mut self, patterns: &[String]) -> Result<Self, FilePatternError> {
        self.include = set(patterns)?;
        Ok(self)
    }

    /// Does not look at what fits one of these patterns.
    ///
    /// # Errors
    /// When a pattern is malformed.
    pub fn exclude(mut self, patterns: &[String]) -> Result<Self, FilePatternError> {
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
        if let Some(set) = &self.include {
            set.note(path);
        }
        !self.leaves_out(path) && self.include.as_ref().is_none_or(|set| set.fit(path))
    }

    /// Whether an entry is excluded; of a folder, with all that is in it.
    pub(super) fn leaves_out(&self, path: &[u8]) -> bool {
        if let Some(set) = &self.exclude {
            set.note(path);
        }
        self.exclude.as_ref().is_some_and(|set| set.fit(path))
    }

    /// The patterns that fitted nothing so far: those that include, and those that exclude.
    pub fn unfitted(&self) -> (Vec<&str>, Vec<&str>) {
        fn of(set: Option<&FilePatterns>) -> Vec<&str> {
            set.map(|set| set.unfitted().collect()).unwrap_or_default()
        }
        (of(self.include.as_ref()), of(self.exclude.as_ref()))
    }

    /// Whether every entry is looked at.
    pub(super) fn takes_all(&self) -> bool {
        self.include.is_none() && self.exclude.is_none() && self.depth.is_none()
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

fn set(patterns: &[String]) -> Result<Option<FilePatterns>, FilePatternError> {
    if patterns.is_empty() { Ok(None) } else { FilePatterns::new(patterns).map(Some) }
}
