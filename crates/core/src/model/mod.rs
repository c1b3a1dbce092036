//! The comparison as plain values, for every view and action to read.

use std::ops::Range;

use serde::{Deserialize, Serialize};

/// A stretch of whole lines of one side.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Span {
    /// The lines, counted from 0.
    pub lines: Range<usize>,
    /// The bytes of these lines.
    pub bytes: Range<usize>,
}

impl Span {
    /// Whether it holds no line.
    pub fn is_empty(&self) -> bool {
        self.lines.is_empty()
    }
}

/// What became of a pair of entries on the way from before to after.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Status {
    /// Nothing differs.
    Same,
    /// Only what does not count differs.
    Muted,
    /// Something that counts differs.
    Changed,
    /// Only before has it.
    Gone,
    /// Only after has it.
    New,
    /// It stands elsewhere; its contents may have changed too.
    Moved,
    /// It is of another type: a file became a folder, or a link.
    Retyped,
    /// It could not be read, decoded or parsed.
    Unreadable,
}

/// How a pair is compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Kind {
    /// Line by line.
    Text,
    /// Byte by byte.
    Bytes,
}

/// What happened to a stretch of lines on the way from before to after.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Form {
    /// Only before has the lines.
    Gone,
    /// Only after has the lines.
    New,
    /// Both have lines here, and they differ.
    Edited,
    /// The lines stand elsewhere.
    Moved,
}

/// Whether a change makes the result "different".
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Weight {
    /// It does.
    Counted,
    /// It does not; it is shown faintly and counted apart.
    Muted,
}

/// A stretch of lines that differ.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Change {
    /// Its number in its file, from 1.
    pub number: usize,
    /// What happened.
    pub form: Form,
    /// Whether it counts.
    pub weight: Weight,
    /// Its lines before.
    pub before: Span,
    /// Its lines after.
    pub after: Span,
    /// Lines in it that both sides have: blank lines and lone brackets inside a rewritten passage.
    pub equal: usize,
}

/// One place where a reader of both sides meets a change. Places are in order on both sides; what lies between two of
/// them is equal. Most changes have one; a moved one has two, each empty on one side.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Place {
    /// The index of the change in [`TextComparison::changes`].
    pub change: usize,
    /// What stands here before.
    pub before: Span,
    /// What stands here after.
    pub after: Span,
}

/// What differs between two texts.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct TextComparison {
    /// The changes by number.
    pub changes: Vec<Change>,
    /// Where a reader meets them, in order.
    pub places: Vec<Place>,
}

impl TextComparison {
    /// Whether anything differs that counts.
    pub fn differs(&self) -> bool {
        self.changes.iter().any(|change| change.weight == Weight::Counted)
    }

    /// The lines that differ: of each change, those of its longer side.
    pub fn differing_lines(&self) -> usize {
        let lines = |change: &Change| change.before.lines.len().max(change.after.lines.len()) - change.equal;
        self.changes.iter().map(lines).sum()
    }
}

/// A piece of a line, and whether it differs from its partner on the other side.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Part {
    /// Its bytes, counted from the start of the line.
    pub bytes: Range<usize>,
    /// Whether it differs.
    pub changed: bool,
}

/// The pieces of two lines that belong together. On either side they add up to the line.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Words {
    /// The pieces of the line before.
    pub before: Vec<Part>,
    /// The pieces of the line after.
    pub after: Vec<Part>,
}

/// A row of a change: one line, or two that belong together. Lines are counted from the start of the change.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Row {
    /// A line that only before has.
    Gone {
        /// The line.
        before: usize,
    },
    /// A line that only after has.
    New {
        /// The line.
        after: usize,
    },
    /// A line that both have, inside a rewritten passage.
    Equal {
        /// The line before.
        before: usize,
        /// The line after.
        after: usize,
    },
    /// Two lines that are alike.
    Edited {
        /// The line before.
        before: usize,
        /// The line after.
        after: usize,
        /// What differs in them.
        words: Words,
    },
}
