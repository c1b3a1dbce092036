//! Patterns for names: of columns, and of parts of data.

use globset::{GlobBuilder, GlobMatcher};

/// A pattern for the names of columns, or for paths.
#[derive(Clone, Debug)]
pub struct NamePattern {
    matcher: GlobMatcher,
}

impl NamePattern {
    /// Columns: `*` stands for any letters, `?` for one.
    ///
    /// # Errors
    /// When it is malformed or empty: what is wrong with it.
    pub fn column(name: &str) -> Result<Self, String> {
        if name.is_empty() {
            return Err("name a column, as in `column:updated_*`".to_owned());
        }
        Self::new(name, false)
    }

    /// Paths: `*` stands for one step, `**` for any number of them.
    ///
    /// # Errors
    /// When it is malformed, or no path: what is wrong with it.
    pub fn path(path: &str) -> Result<Self, String> {
        if !path.starts_with('/') && !path.starts_with("**") {
            return Err("a path begins with `/`, as in `path:/meta/*`".to_owned());
        }
        Self::new(path, true)
    }

    fn new(pattern: &str, stops_at_slashes: bool) -> Result<Self, String> {
        let glob = GlobBuilder::new(pattern).literal_separator(stops_at_slashes).backslash_escape(true).build();
        glob.map(|glob| Self { matcher: glob.compile_matcher() }).map_err(|error| error.kind().to_string())
    }

    /// Whether it fits a name.
    pub fn fits(&self, name: &str) -> bool {
        self.matcher.is_match(name)
    }
}
