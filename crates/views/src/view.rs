//! What is shown: a pair of texts or two trees, with what differs between them, and how much of it.

use tideline_core::kinds::text::sections::Language;
use tideline_core::model::{Status, TextComparison, Weight};
use tideline_core::rules::MaskedText;
use tideline_core::tree::TreeComparison;

use crate::wording::grouped;

/// What the two sides are called in every heading.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Labels {
    /// The side before.
    pub before: String,
    /// The side after.
    pub after: String,
}

/// How many changes there are, by weight.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Counts {
    /// Changes that count.
    pub counted: usize,
    /// Changes that do not.
    pub muted: usize,
    /// Lines that differ and count: of each change, those of its longer side.
    pub lines: usize,
}

impl Counts {
    /// Counts the changes of a comparison.
    pub fn of(comparison: &TextComparison) -> Self {
        let muted = comparison.of(Weight::Muted).count();
        let lines = comparison.differing_lines();
        Self { counted: comparison.changes.len() - muted, muted, lines }
    }
}

impl std::fmt::Display for Counts {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let plural = if self.counted == 1 { "" } else { "s" };
        write!(f, "{} change{plural}", grouped(self.counted))?;
        if self.muted > 0 {
            write!(f, " + {} muted", grouped(self.muted))?;
        }
        Ok(())
    }
}

/// One pair of texts and what differs between them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct FileView<'a> {
    /// The name in the heading; empty when the labels say it all.
    pub name: &'a str,
    /// The name that tells the type of the file, for its sections and its syntax.
    pub type_name: &'a str,
    /// What the sides are called.
    pub labels: &'a Labels,
    /// What else the heading says, such as two different encodings.
    pub note: Option<&'a str>,
    /// The text before, under the rules.
    pub before: &'a MaskedText<'a>,
    /// The text after.
    pub after: &'a MaskedText<'a>,
    /// What differs.
    pub comparison: &'a TextComparison,
    /// The indexes of the first lines of both texts; not 0 where only a part of a file is known.
    pub first: (usize, usize),
}

impl FileView<'_> {
    /// The heading of the section that a change begins in.
    pub(crate) fn section(&self, before: usize, after: Option<usize>) -> Option<String> {
        let language = Language::of(self.type_name)?;
        match after {
            Some(after) => language.section(self.after.text(), after),
            None => language.section(self.before.text(), before),
        }
    }
}

/// Two trees and what differs between them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct TreeView<'a> {
    /// What the sides are called.
    pub labels: &'a Labels,
    /// What differs.
    pub comparison: &'a TreeComparison,
    /// The statuses that are shown, when not all that differ are.
    pub only: Option<&'a [Status]>,
    /// What was believed instead of reading contents.
    pub trusted: Option<&'a str>,
    /// Whether muted changes and pairs are left out.
    pub muted_is_hidden: bool,
}

/// Whether code is coloured by its syntax.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Syntax {
    /// For as long as it takes no noticeable time, over all files of a run.
    #[default]
    Auto,
    /// For as long as a minute.
    On,
    /// Not at all.
    Off,
}

/// How many equal lines are shown around a change.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Context {
    /// So many above and below.
    Lines(usize),
    /// All there are.
    All,
}

impl Default for Context {
    fn default() -> Self {
        Self::Lines(3)
    }
}

impl Context {
    /// The number of lines.
    pub fn lines(self) -> usize {
        match self {
            Self::Lines(lines) => lines,
            Self::All => usize::MAX,
        }
    }
}
