//! Patterns for the names and paths of files.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, OnceLock};

use globset::{Glob, GlobSet, GlobSetBuilder};

/// A set of patterns. One without `/` fits a name in any folder; one with `/` fits a path from the root. A pattern that
/// fits a folder fits all in it.
#[derive(Clone, Debug)]
pub struct FilePatterns {
    globs: Arc<[FileGlob]>,
    patterns: Vec<String>,
}

/// Splits a list of patterns at its commas; those in braces and brackets belong to a pattern.
pub fn split_patterns(list: &str) -> Vec<String> {
    let (mut parts, mut part) = (Vec::new(), String::new());
    let (mut depth, mut in_class) = (0_usize, false);
    let mut letters = list.chars();
    while let Some(letter) = letters.next() {
        match letter {
            ',' if depth == 0 && !in_class => {
                parts.push(std::mem::take(&mut part));
                continue;
            }
            '{' if !in_class => depth += 1,
            '}' if !in_class => depth = depth.saturating_sub(1),
            '[' => in_class = true,
            ']' => in_class = false,
            _ => {}
        }
        part.push(letter);
        if letter == '\\' {
            part.extend(letters.next());
        }
    }
    parts.push(part);
    parts.retain(|part| !part.trim().is_empty());
    parts
}

/// One pattern, compiled when a path looks as if it fits.
#[derive(Debug)]
struct FileGlob {
    glob: Glob,
    /// What stands before and behind everything in the pattern that has a meaning of its own.
    ends: (String, String),
    set: OnceLock<GlobSet>,
    /// Whether a path was found that it fits.
    has_fitted: AtomicBool,
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
        let read = |pattern: &String| {
            FileGlob::new(pattern)
                .map_err(|error| FilePatternError { pattern: pattern.clone(), reason: error.kind().to_string() })
        };
        Ok(Self { globs: patterns.iter().map(read).collect::<Result<_, _>>()?, patterns: patterns.to_vec() })
    }

    /// Whether a pattern fits the path or a folder above it.
    pub fn fit(&self, path: &[u8]) -> bool {
        let path = String::from_utf8_lossy(path);
        let mut parts = memchr::memchr_iter(b'/', path.as_bytes()).chain([path.len()]).map(|end| &path[..end]);
        parts.any(|part| self.globs.iter().any(|glob| glob.fits(part)))
    }

    /// Tells of each pattern that fits a path that it does; [`Self::unfitted`] names the others.
    pub fn note(&self, path: &[u8]) {
        let open = || self.globs.iter().filter(|glob| !glob.has_fitted.load(Ordering::Relaxed));
        if open().next().is_none() {
            return;
        }
        let path = String::from_utf8_lossy(path);
        for end in memchr::memchr_iter(b'/', path.as_bytes()).chain([path.len()]) {
            open()
                .filter(|glob| glob.fits(&path[..end]))
                .for_each(|glob| glob.has_fitted.store(true, Ordering::Relaxed));
        }
    }

    /// The patterns that fitted no path of which [`Self::note`] was told.
    pub fn unfitted(&self) -> impl Iterator<Item = &str> {
        let unfitted = |(glob, _): &(&FileGlob, &String)| !glob.has_fitted.load(Ordering::Relaxed);
        self.globs.iter().zip(&self.patterns).filter(unfitted).map(|(_, pattern)| pattern.as_str())
    }

    /// The patterns as they were written.
    pub fn patterns(&self) -> &[String] {
        &self.patterns
    }
}

impl FileGlob {
    fn new(pattern: &str) -> Result<Self, globset::Error> {
        let bare = pattern.trim_end_matches('/');
        let in_any_folder = !bare.contains('/');
        let anchored = bare.strip_prefix('/').unwrap_or(bare);
        let special = |c: char| "*?[]{}\\".contains(c);
        let head = anchored.split(special).next().unwrap_or_default();
        let tail = anchored.rsplit(special).next().unwrap_or_default();
        let read = Self {
            glob: Glob::new(&if in_any_folder { format!("**/{anchored}") } else { anchored.to_owned() })?,
            // `**` stands for no folder too, and then the slash beside it goes as well.
            ends: match in_any_folder {
                true => (String::new(), tail.to_owned()),
                false => (head.trim_end_matches('/').to_owned(), tail.trim_start_matches('/').to_owned()),
            },
            set: OnceLock::new(),
            has_fitted: AtomicBool::new(false),
        };
        // A pattern as long as this might be too large once compiled, which is told while it is read.
        const LONG: usize = 100;
        if pattern.len() > LONG {
            let set = read.compiled()?;
            read.set.get_or_init(|| set);
        }
        Ok(read)
    }

    fn compiled(&self) -> Result<GlobSet, globset::Error> {
        GlobSetBuilder::new().add(self.glob.clone()).build()
    }

    fn fits(&self, path: &str) -> bool {
        let (head, tail) = &self.ends;
        path.starts_with(head.as_str())
            && path.ends_with(tail.as_str())
            && self.set.get_or_init(|| self.compiled().unwrap_or_default()).is_match(path)
    }
}
