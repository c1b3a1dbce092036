//! What is shown: a pair of texts or two trees, with what differs between them, and how much of it.

use tideline_core::internal::kinds::document::ExtractedPair;
use tideline_core::internal::kinds::text::sections::{SectionChanges, SectionName, Sections, section_changes};
use tideline_core::internal::model::{Change, Span, Status, TextComparison};
use tideline_core::internal::rules::MaskedText;
use tideline_core::internal::tree::TreeComparison;

/// What the two sides are called in every heading.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Labels {
    /// The side before.
    pub before: String,
    /// The side after.
    pub after: String,
    /// What each side is, where its path does not say that: before, after.
    pub about: (Option<String>, Option<String>),
}

impl Labels {
    /// Labels of two sides whose paths say what they are.
    pub fn new(before: impl Into<String>, after: impl Into<String>) -> Self {
        Self { before: before.into(), after: after.into(), about: (None, None) }
    }

    /// What the sides are, a line each.
    pub fn about_lines(&self) -> impl Iterator<Item = &str> {
        self.about.0.iter().chain(&self.about.1).map(String::as_str)
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
    /// The bytes that the texts were decoded from, where these do not give them back.
    pub originals: (Option<&'a [u8]>, Option<&'a [u8]>),
    /// What the documents are that the texts were taken out of.
    pub extracted: Option<&'a ExtractedPair>,
}

impl<'a> FileView<'a> {
    /// What a change holds before and after.
    pub fn contents_of(&self, change: &Change) -> (&'a [u8], &'a [u8]) {
        (&self.before.text()[change.before.bytes.clone()], &self.after.text()[change.after.bytes.clone()])
    }

    /// Which sections differ.
    pub fn section_changes(&self) -> SectionChanges {
        section_changes(self.type_name, (self.before.text(), self.after.text()), self.comparison)
    }

    /// The sections of both texts.
    pub(crate) fn sections(&self) -> BothSections<'a> {
        let of = |text| Sections::new(self.type_name, text, self.comparison.places.len());
        BothSections { before: of(self.before.text()), after: of(self.after.text()) }
    }
}

/// The sections of two texts.
pub(crate) struct BothSections<'a> {
    before: Sections<'a>,
    after: Sections<'a>,
}

impl BothSections<'_> {
    /// The name of the section that a change begins in, whose spans these are.
    pub(crate) fn of(&self, before: &Span, after: &Span) -> Option<SectionName> {
        if after.is_empty() { self.before.of(&before.bytes) } else { self.after.of(&after.bytes) }
    }
}

/// What stands above a pair of contents.
#[derive(Clone, Copy, Debug)]
pub struct Title<'a> {
    /// The name in the heading; empty when the labels say it all.
    pub name: &'a str,
    /// The name that tells the type of the file.
    pub type_name: &'a str,
    /// What the sides are called.
    pub labels: &'a Labels,
    /// What else the heading says.
    pub note: Option<&'a str>,
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
    /// Whether the pairs are in another order than that of their paths.
    pub is_sorted: bool,
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
