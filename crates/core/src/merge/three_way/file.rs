//! Three versions of a file merged, whatever they hold.

use super::options::MergeOptions;
use super::region::{MergedValue, Three};
use super::text::{TextMerge, merge_texts};
use crate::internal::kinds::{ContentOptions, read_text};
use crate::internal::merge::by_kind::{ByKind, Versions, versions_by_kind};
use crate::internal::text::encoding::TextEncoding;

/// What comes of three versions of a file.
#[derive(Clone, Debug)]
pub enum FileMerge<'b> {
    /// All three are text.
    Text(Box<MergedText<'b>>),
    /// At least one is not text, or not taken for one: such a file is taken as a whole.
    Whole(WholeMerge),
}

/// Three texts, and what they are written in.
#[derive(Clone, Debug)]
pub struct MergedText<'b> {
    /// The texts, and what comes of them.
    pub merge: TextMerge<'b>,
    /// What the result is written in.
    pub encoding: MergedValue<TextEncoding>,
    /// What came in by what the texts mean, if they were merged so.
    pub by_kind: Option<ByKind>,
    /// The side whose bytes the result has, where at most one side changed anything.
    unchanged: Option<&'b [u8]>,
}

/// What becomes of a file that is taken as a whole.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum WholeMerge {
    /// Nobody changed it, or mine alone did.
    Mine,
    /// Theirs alone changed it.
    Theirs,
    /// Both changed it alike.
    Alike,
    /// Both changed it, each in its own way.
    Conflict,
}

impl WholeMerge {
    /// What becomes of three versions.
    pub fn of(versions: Three<&[u8]>) -> Self {
        let Three { base, mine, theirs } = versions;
        if theirs == base {
            Self::Mine
        } else if mine == theirs {
            Self::Alike
        } else if mine == base {
            Self::Theirs
        } else {
            Self::Conflict
        }
    }
}

/// Merges three versions of a file. Rules and how it is read go by its path.
///
/// ```
/// use tideline_core::internal::kinds::ContentOptions;
/// use tideline_core::internal::merge::{FileMerge, MergeOptions, Three, WholeMerge, merge_files};
///
/// let versions: Three<&[u8]> = Three::new(b"a\0", b"b\0", b"a\0");
/// let merge = merge_files(b"chart.bin", versions, &ContentOptions::default(), &MergeOptions::default());
/// assert!(matches!(merge, FileMerge::Whole(WholeMerge::Mine)));
/// ```
pub fn merge_files<'b>(
    path: &[u8],
    versions: Three<&'b [u8]>,
    contents: &ContentOptions,
    options: &MergeOptions,
) -> FileMerge<'b> {
    let whole = WholeMerge::of(versions);
    let Three { base, mine, theirs } = versions;
    let read = |bytes: &'b [u8], is_before| {
        let (text, written) = read_text(path, bytes, is_before, contents)?;
        // Text that could not be written back as it was read is not taken apart.
        written.gives_back(bytes, &text).then_some((text, written))
    };
    let (Some(base), Some(mine_read), Some(theirs_read)) = (read(base, true), read(mine, false), read(theirs, false))
    else {
        return FileMerge::Whole(whole);
    };
    let encoding = MergedValue::of(Three::new(base.1, mine_read.1, theirs_read.1));
    let options = options.clone().within(*contents.text_options().bounds_of_work());
    let by_kind = match whole {
        WholeMerge::Conflict => versions_by_kind(path, (&base.0, &mine_read.0, &theirs_read.0), contents),
        _ => None,
    };
    let (versions, by_kind) = match by_kind {
        Some(Versions { base, mine, theirs, by }) => (Three::new(base.into(), mine.into(), theirs.into()), Some(by)),
        None => (Three::new(base.0, mine_read.0, theirs_read.0), None),
    };
    let merge = merge_texts(versions, &contents.file_rules(path), &options);
    let unchanged = match whole {
        WholeMerge::Mine | WholeMerge::Alike => Some(mine),
        WholeMerge::Theirs => Some(theirs),
        WholeMerge::Conflict => None,
    };
    FileMerge::Text(Box::new(MergedText { merge, encoding, by_kind, unchanged }))
}

impl MergedText<'_> {
    /// How many conflicts there are: in the lines, and in what the file is besides its lines.
    pub fn conflicts(&self) -> usize {
        self.merge.conflicts().count() + self.value_conflicts().len()
    }

    /// What the sides disagree on besides the lines.
    pub fn value_conflicts(&self) -> Vec<ValueConflict> {
        let endings = &self.merge.endings;
        let mut found = Vec::new();
        if let MergedValue::Conflict(mine, theirs) = self.encoding {
            found.push(ValueConflict::Encoding(mine.name(), theirs.name()));
        }
        if let Some(MergedValue::Conflict(Some(mine), Some(theirs))) = endings.line_ends {
            found.push(ValueConflict::LineEnds(mine.name(), theirs.name()));
        }
        if let MergedValue::Conflict(Some(mine), Some(theirs)) = endings.final_newline {
            found.push(ValueConflict::FinalNewline(mine, theirs));
        }
        found
    }

    /// A result of the merge as the file holds it. Nothing where its encoding lacks one of the letters.
    pub fn encoded(&self, text: &[u8]) -> Option<Vec<u8>> {
        match self.unchanged {
            Some(bytes) => Some(bytes.to_vec()),
            None => self.written_in().encoded(text),
        }
    }

    /// What the result is written in.
    pub fn written_in(&self) -> TextEncoding {
        self.encoding.chosen(self.merge.prefer)
    }
}

/// Something that a file is besides its lines, and that the sides disagree on: as mine has it, and as theirs has it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ValueConflict {
    /// What it is written in.
    Encoding(String, String),
    /// How its lines end.
    LineEnds(&'static str, &'static str),
    /// Whether its last line ends.
    FinalNewline(bool, bool),
    /// Its permission bits.
    Mode(u32, u32),
}
