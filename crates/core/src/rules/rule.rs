//! A rule, and what it does to the text that it matches.

use serde::{Deserialize, Serialize};

use super::{FilePatterns, What};

/// What becomes of text that a rule matches.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Effect {
    /// It is excluded from the comparison.
    Ignore,
    /// Shown faintly and counted apart.
    Mute,
}

/// Whether a difference counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Verdict {
    /// It does.
    Counted,
    /// Only muted text differs.
    Muted,
    /// Only ignored text differs.
    Ignored,
}

/// A named statement of text that does not count. Unchanging once built.
#[derive(Clone, Debug)]
pub struct Rule {
    name: String,
    effect: Effect,
    what: Vec<(String, What)>,
    files: Option<FilePatterns>,
    origin: String,
}

impl Rule {
    /// A rule for all files. Each part of what it masks comes with the way it was written.
    pub fn new(name: impl Into<String>, effect: Effect, what: Vec<(String, What)>) -> Self {
        Self { name: name.into(), effect, what, files: None, origin: String::new() }
    }

    /// The rule holds for some files only.
    pub fn files(mut self, files: Option<FilePatterns>) -> Self {
        self.files = files;
        self
    }

    /// Where the rule was declared.
    pub fn origin(mut self, origin: impl Into<String>) -> Self {
        self.origin = origin.into();
        self
    }

    /// The same rule with another effect.
    pub fn with_effect(mut self, effect: Effect) -> Self {
        self.effect = effect;
        self
    }

    /// Its name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// What becomes of the text it matches.
    pub fn effect(&self) -> Effect {
        self.effect
    }

    /// Where it was declared.
    pub fn declared(&self) -> &str {
        &self.origin
    }

    /// What it masks, as it was written.
    pub fn written(&self) -> impl Iterator<Item = &str> {
        self.what.iter().map(|(written, _)| written.as_str())
    }

    /// The files it holds for; all, when it names none.
    pub fn file_patterns(&self) -> Option<&[String]> {
        self.files.as_ref().map(FilePatterns::patterns)
    }

    /// Whether it holds for a file.
    pub fn holds_for(&self, path: &[u8]) -> bool {
        self.files.as_ref().is_none_or(|files| files.fit(path))
    }

    pub(super) fn parts(&self) -> impl Iterator<Item = &What> {
        self.what.iter().map(|(_, what)| what)
    }
}
