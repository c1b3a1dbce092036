//! Patterns for the names and paths of files.

use globset::{Glob, GlobSet, GlobSetBuilder};

/// A set of patterns. One without `/` fits a name in any folder; one with `/` fits a path from the root. A pattern that
/// fits a folder fits all in it.
#[derive(Clone, Debug)]
pub struct FilePatterns {
    set: GlobSet,
    patterns: Vec<String>,
}

/// A pattern that cannot be used.
#[derive(Debug, thiserror::Error)]
#[error("cannot use the pattern {pattern}: {reason}")]
pub struct FilePatternError {
    pattern: String,
    reason: String,
}

impl FilePatterns {
    /// Reads patterns.
    ///
    /// # Errors
    /// When one is malformed.
    pub fn new(patterns: &[String]) -> Result<Self, FilePatternError> {
        let wrong = |pattern: &str, error: &globset::Error| FilePatternError {
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
        let set = set.build().map_err(|error| wrong(&patterns.join(", "), &error))?;
        Ok(Self { set, patterns: patterns.to_vec() })
    }

    /// Whether a pattern fits the path or a folder above it.
    pub fn fit(&self, path: &[u8]) -> bool {
        let ends = memchr::memchr_iter(b'/', path).chain([path.len()]);
        ends.map(|end| &path[..end]).any(|part| self.set.is_match(&*String::from_utf8_lossy(part)))
    }

    /// The patterns as they were written.
    pub fn patterns(&self) -> &[String] {
        &self.patterns
    }
}
