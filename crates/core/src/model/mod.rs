//! The comparison as plain values, for every view and action to read.

pub mod data;
pub mod image;
pub mod ranges;
pub mod table;

use std::ops::Range;

use serde::{Deserialize, Serialize};

use crate::internal::rules::{Account, Effect};

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

impl Status {
    /// Every status, in the order of a summary.
    pub const ALL: [Self; 8] =
        [Self::Same, Self::Muted, Self::Changed, Self::New, Self::Gone, Self::Moved, Self::Retyped, Self::Unreadable];

    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            Self::Same => "same",
            Self::Muted => "muted",
            Self::Changed => "changed",
            Self::Gone => "gone",
            Self::New => "new",
            Self::Moved => "moved",
            Self::Retyped => "retyped",
            Self::Unreadable => "unreadable",
        }
    }
}

/// How a pair is compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Kind {
    /// Line by line.
    Text,
    /// Row by row and cell by cell.
    Table,
    /// Node by node, by what the document means.
    Data,
    /// Pixel by pixel.
    Image,
    /// Byte by byte.
    Bytes,
}

impl Kind {
    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            Self::Text => "text",
            Self::Table => "table",
            Self::Data => "data",
            Self::Image => "image",
            Self::Bytes => "bytes",
        }
    }
}

/// How much differs in a pair.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Extent {
    /// Changes that count.
    pub counted: usize,
    /// Changes that are muted.
    pub muted: usize,
    /// How much differs and counts, in units; of a gone or new file, all of it.
    pub size: usize,
    /// What the size is counted in.
    pub unit: Unit,
    /// Of changes that count, what is gone, in units.
    pub gone: usize,
    /// Of changes that count, what is new, in units.
    pub new: usize,
}

/// What an extent is counted in.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub enum Unit {
    /// Lines of text.
    Lines,
    /// Rows of a table.
    Rows,
    /// Values of a document.
    Nodes,
    /// Bytes.
    Bytes,
    /// Pixels.
    Pixels,
    /// Cells of sheets.
    Cells,
    /// Paragraphs of documents.
    Paragraphs,
    /// Nothing: only that something differs is known.
    #[default]
    None,
}

/// Where a change is, in what it is a change of.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Address {
    /// Lines of both sides, counted from 0; where one side has none, the place between lines.
    Lines {
        /// Lines before.
        before: Range<usize>,
        /// Lines after.
        after: Range<usize>,
    },
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

impl Form {
    /// The same with the sides exchanged.
    pub(crate) fn mirrored(self) -> Self {
        match self {
            Self::Gone => Self::New,
            Self::New => Self::Gone,
            Self::Edited | Self::Moved => self,
        }
    }

    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            Self::Gone => "gone",
            Self::New => "new",
            Self::Edited => "edited",
            Self::Moved => "moved",
        }
    }
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
    /// Of a moved block, the lines that are not the same at its other end but for white space; of two that belong together, one.
    pub edited: usize,
    /// Whether lines of a moved block differ in the white space at their ends.
    pub reindented: bool,
}

impl Change {
    /// Where it is.
    pub fn address(&self) -> Address {
        Address::Lines { before: self.before.lines.clone(), after: self.after.lines.clone() }
    }
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

/// A stretch whose two sides are shown as equal text: they differ only in what is ignored, or in what is muted while that
/// is hidden.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct HiddenStretch {
    /// What stands here before.
    pub before: Span,
    /// What stands here after.
    pub after: Span,
}

/// An end of a block of lines that moved to another file, or came from one. In its own file it is a part of a change: lines that are gone,
/// or new.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct MovedBlock {
    /// Gone where the block left, new where it came to.
    pub form: Form,
    /// Its lines in this file, counted from 0.
    pub lines: Range<usize>,
    /// The path of the other file.
    pub path: Vec<u8>,
    /// Its lines there.
    pub other: Range<usize>,
    /// The lines in this file that are not the same there, and which pieces of them differ.
    pub differing: Vec<(usize, Vec<Segment>)>,
}

impl MovedBlock {
    /// Whether a line of one side is in it.
    pub fn holds(&self, form: Form, line: usize) -> bool {
        self.form == form && self.lines.contains(&line)
    }
}

/// What differs between two texts.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct TextComparison {
    /// The changes by number.
    pub changes: Vec<Change>,
    /// Where a reader meets them, in order.
    pub places: Vec<Place>,
    /// Stretches that differ only in what is not shown as different; in order, and none of them in a place.
    pub hidden: Vec<HiddenStretch>,
    /// Blocks of gone lines that stand in another file of the tree, then those of new lines that come from one; each in order.
    pub moved_blocks: Vec<MovedBlock>,
    /// Whether muted text is among the stretches that are not shown as different.
    pub muted_is_hidden: bool,
    /// What the rules masked.
    pub account: Account,
}

impl TextComparison {
    /// Tells which blocks stand in other files of a tree.
    pub fn tell_moved_blocks(&mut self, blocks: &[MovedBlock]) {
        self.moved_blocks = blocks.to_vec();
        self.moved_blocks.sort_by_key(|block| (block.form != Form::Gone, block.lines.start));
    }

    /// The block that holds a line of one side and stands in another file.
    pub fn moved_block(&self, form: Form, line: usize) -> Option<&MovedBlock> {
        let place = (form != Form::Gone, line);
        let upto = self.moved_blocks.partition_point(|block| (block.form != Form::Gone, block.lines.start) <= place);
        self.moved_blocks[..upto].last().filter(|block| block.holds(form, line))
    }

    /// Whether anything differs that counts.
    pub fn differs(&self) -> bool {
        self.changes.iter().any(|change| change.weight == Weight::Counted)
    }

    /// What became of a pair of texts that are not equal, byte for byte; what they are written in may differ too, which counts.
    pub fn status(&self, written_differs: bool) -> Status {
        if self.differs() || written_differs || self.account.is_empty() {
            Status::Changed
        } else if self.account.total(Effect::Mute) > 0 {
            Status::Muted
        } else {
            Status::Same
        }
    }

    /// The lines that differ and count: of each change, those of its longer side.
    pub fn differing_lines(&self) -> usize {
        let lines = |change: &Change| change.before.lines.len().max(change.after.lines.len()) - change.equal;
        self.of(Weight::Counted).map(lines).sum()
    }

    /// How much differs.
    pub fn extent(&self) -> Extent {
        let muted = self.of(Weight::Muted).count();
        let lines = |side: fn(&Change) -> &Span| -> usize {
            self.of(Weight::Counted).map(|change| side(change).lines.len().saturating_sub(change.equal)).sum()
        };
        Extent {
            counted: self.changes.len() - muted,
            muted,
            size: self.differing_lines(),
            unit: Unit::Lines,
            gone: lines(|change| &change.before),
            new: lines(|change| &change.after),
        }
    }

    /// Whether muted changes are among the changes, and not hidden.
    pub fn has_muted(&self) -> bool {
        self.of(Weight::Muted).next().is_some()
    }

    /// Whether muted text is shown: in muted changes, or in lines of a change that counts.
    pub fn shows_muted(&self) -> bool {
        self.has_muted() || self.account.total(Effect::Mute) > 0 && !self.muted_is_hidden
    }

    /// The changes of a weight.
    pub fn of(&self, weight: Weight) -> impl Iterator<Item = &Change> {
        self.changes.iter().filter(move |change| change.weight == weight)
    }
}

/// A piece of a line, and whether it differs from its partner on the other side.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Segment {
    /// Its bytes, counted from the start of the line.
    pub bytes: Range<usize>,
    /// Whether it differs, and with what weight.
    pub differs: Option<Weight>,
}

impl Segment {
    /// A piece that both sides have.
    pub fn equal(bytes: Range<usize>) -> Self {
        Self { bytes, differs: None }
    }

    /// A piece that differs and counts.
    pub fn changed(bytes: Range<usize>) -> Self {
        Self { bytes, differs: Some(Weight::Counted) }
    }
}

/// The pieces of two lines that belong together. On either side they add up to the line.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Words {
    /// The pieces of the line before.
    pub before: Vec<Segment>,
    /// The pieces of the line after.
    pub after: Vec<Segment>,
}

/// A row of a change: one line, or two that belong together. Lines are counted from the start of the change.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Row {
    /// A line that only before has.
    Gone {
        /// The line.
        before: usize,
        /// The pieces of it that differ, where not all of it does; else none.
        words: Vec<Segment>,
        /// Whether it counts.
        weight: Weight,
    },
    /// A line that only after has.
    New {
        /// The line.
        after: usize,
        /// The pieces of it that differ, where not all of it does; else none.
        words: Vec<Segment>,
        /// Whether it counts.
        weight: Weight,
    },
    /// A line that both have, inside a rewritten passage; under rules that ignore, each side may have its own.
    Equal {
        /// The line before.
        before: usize,
        /// The line after.
        after: usize,
    },
    /// A line that one side has and that is ignored.
    Hidden {
        /// The line before, if it is there.
        before: Option<usize>,
        /// The line after, if it is there.
        after: Option<usize>,
    },
    /// Two lines that are alike.
    Edited {
        /// The line before.
        before: usize,
        /// The line after.
        after: usize,
        /// What differs in them.
        words: Words,
        /// Whether anything of it counts.
        weight: Weight,
    },
}

impl Row {
    /// The same row with the sides exchanged.
    pub(crate) fn mirrored(self) -> Self {
        match self {
            Self::Gone { before, words, weight } => Self::New { after: before, words, weight },
            Self::New { after, words, weight } => Self::Gone { before: after, words, weight },
            Self::Equal { before, after } => Self::Equal { before: after, after: before },
            Self::Hidden { before, after } => Self::Hidden { before: after, after: before },
            Self::Edited { before, after, words, weight } => Self::Edited {
                before: after,
                after: before,
                words: Words { before: words.after, after: words.before },
                weight,
            },
        }
    }
}
