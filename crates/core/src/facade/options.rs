//! How things are compared, for a program that uses this crate.

use std::fmt;

use crate::internal::kinds::ContentOptions;
use crate::internal::kinds::text::TextOptions;
use crate::internal::rules::{Effect, Rule, Rules, What};
use crate::internal::text::encoding::by_name;
use crate::internal::tree::{Attributes, Filter, TreeOptions, Trust};

/// How things are compared. By default everything counts, all entries of trees are looked at, and files that moved are found.
///
/// ```
/// use tideline_core::{Options, Status, compare};
///
/// let options = Options::new().ignore("space")?.mute("/#.*/")?;
/// let comparison = compare("gauge.conf", b"a = 1 # one\n", b"a=1 # two\n", &options);
/// assert_eq!(comparison.status(false), Status::Muted);
/// # Ok::<(), tideline_core::OptionError>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Options {
    rules: Vec<Rule>,
    counted_only: bool,
    encodings: (Option<String>, Option<String>),
    include: Vec<String>,
    exclude: Vec<String>,
    depth: Option<usize>,
    finds_no_moves: bool,
    attributes: Attributes,
    trust: Option<Trust>,
}

/// Why an option cannot be used.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct OptionError {
    /// What is wrong, in words.
    pub reason: String,
}

impl fmt::Display for OptionError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.reason)
    }
}

impl std::error::Error for OptionError {}

fn wrong(error: impl fmt::Display) -> OptionError {
    OptionError { reason: error.to_string() }
}

impl Options {
    /// The defaults.
    pub fn new() -> Self {
        Self::default()
    }

    /// Excludes some text from the comparison: a built-in name such as `space` or `comments`, a `/regular expression/`, or
    /// `chars:1-24`.
    ///
    /// # Errors
    /// When it is none of these, or malformed.
    pub fn ignore(self, what: &str) -> Result<Self, OptionError> {
        self.rule(what, Effect::Ignore)
    }

    /// Mutes some text, named as for [`ignore`](Self::ignore): changes in it are told, and do not count.
    ///
    /// # Errors
    /// When it is no such name, or malformed.
    pub fn mute(self, what: &str) -> Result<Self, OptionError> {
        self.rule(what, Effect::Mute)
    }

    fn rule(mut self, what: &str, effect: Effect) -> Result<Self, OptionError> {
        let parsed = What::parse(what, []).map_err(wrong)?;
        self.rules.push(Rule::new(what, effect, vec![(what.to_owned(), parsed)]));
        Ok(self)
    }

    /// Leaves muted changes out. Default: they are told.
    pub fn counted_only(mut self, counted_only: bool) -> Self {
        self.counted_only = counted_only;
        self
    }

    /// What both sides are written in, by the names of the Encoding Standard. Default: what is found.
    ///
    /// # Errors
    /// When there is no such encoding.
    pub fn encodings(mut self, before: &str, after: &str) -> Result<Self, OptionError> {
        for name in [before, after] {
            by_name(name).ok_or_else(|| wrong(format!("`{name}` is no encoding")))?;
        }
        self.encodings = (Some(before.to_owned()), Some(after.to_owned()));
        Ok(self)
    }

    /// Looks only at entries that fit this pattern, or another one given so. Default: at all.
    ///
    /// # Errors
    /// When the pattern is malformed.
    pub fn include(mut self, pattern: &str) -> Result<Self, OptionError> {
        self.include.push(pattern.to_owned());
        Filter::default().include(&self.include).map_err(wrong)?;
        Ok(self)
    }

    /// Does not look at entries that fit this pattern.
    ///
    /// # Errors
    /// When the pattern is malformed.
    pub fn exclude(mut self, pattern: &str) -> Result<Self, OptionError> {
        self.exclude.push(pattern.to_owned());
        Filter::default().exclude(&self.exclude).map_err(wrong)?;
        Ok(self)
    }

    /// Goes only so many folders deep. Default: as deep as there are any.
    pub fn depth(mut self, folders: Option<usize>) -> Self {
        self.depth = folders;
        self
    }

    /// Whether files that moved are found. Default: they are.
    pub fn moves(mut self, moves: bool) -> Self {
        self.finds_no_moves = !moves;
        self
    }

    /// Which attributes are compared besides contents. Default: none.
    pub fn attributes(mut self, attributes: Attributes) -> Self {
        self.attributes = attributes;
        self
    }

    /// What is believed instead of reading files. Default: nothing.
    pub fn trust(mut self, trust: Option<Trust>) -> Self {
        self.trust = trust;
        self
    }

    /// How contents are compared.
    pub(super) fn contents(&self) -> ContentOptions {
        let encoding = |name: &Option<String>| name.as_deref().and_then(by_name);
        ContentOptions::default()
            .text(TextOptions::default().counted_only(self.counted_only))
            .rules(Rules::new(self.rules.clone()))
            .encodings((encoding(&self.encodings.0), encoding(&self.encodings.1)))
    }

    /// How trees are compared.
    pub(super) fn trees(&self) -> TreeOptions {
        // Patterns were checked as they came.
        let filter = Filter::default().include(&self.include).and_then(|filter| filter.exclude(&self.exclude));
        TreeOptions::default()
            .filter(filter.unwrap_or_default().depth(self.depth))
            .moves(!self.finds_no_moves)
            .attributes(self.attributes)
            .trust(self.trust)
            .contents(self.contents())
    }
}
