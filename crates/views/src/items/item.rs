//! A change of a table or a document as a reader meets it, whatever it is drawn on.

use tideline_core::internal::kinds::text::Grain;
use tideline_core::internal::kinds::value_words;
use tideline_core::internal::model::{Form, Segment, Weight};

/// A change.
#[derive(Clone, Debug)]
pub(crate) struct Item {
    /// Its number in its file, from 1.
    pub(crate) number: usize,
    pub(crate) form: Form,
    pub(crate) weight: Weight,
    /// What mutes it.
    pub(crate) cause: Option<String>,
    /// What it is a change of: the key of a row, the path of a node.
    pub(crate) title: String,
    /// The path that nodes of one branch share.
    pub(crate) group: Option<String>,
    /// Where it is, in words.
    pub(crate) place: String,
    /// How far through the file it is, from 0 to 1.
    pub(crate) share: f64,
    /// The values that differ.
    pub(crate) edits: Vec<ValueEdit>,
    /// What is gone or new as a whole: the values of a row by their columns, or the lines of a branch.
    pub(crate) whole: Whole,
}

/// What is gone or new as a whole.
#[derive(Clone, Debug)]
pub(crate) enum Whole {
    /// Nothing.
    None,
    /// Values by their names.
    Values(Vec<(String, Value)>),
    /// Lines, as they are written.
    Lines(Vec<Vec<u8>>),
}

/// A value.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Value {
    /// There is none.
    Missing,
    /// The value that says there is none.
    Null,
    /// A text, number or whatever is written so.
    Text(Vec<u8>),
}

impl Value {
    /// As bytes that can be shown, and whether they are a word of ours.
    pub(crate) fn shown(&self) -> (&[u8], bool) {
        match self {
            Self::Missing => (b"missing", true),
            Self::Null => (b"null", true),
            Self::Text(text) if text.is_empty() => (b"empty", true),
            Self::Text(text) => (text, false),
        }
    }
}

/// A value that differs.
#[derive(Clone, Debug)]
pub(crate) struct ValueEdit {
    /// The column, or the path.
    pub(crate) name: String,
    /// The index of the column; 0 of a node.
    pub(crate) column: usize,
    pub(crate) before: Value,
    pub(crate) after: Value,
    pub(crate) weight: Weight,
    pub(crate) cause: Option<String>,
}

impl ValueEdit {
    /// The pieces of both values, and which of them differ.
    pub(crate) fn words(&self, grain: &Grain) -> (Vec<Segment>, Vec<Segment>) {
        let ((before, ours), (after, theirs)) = (self.before.shown(), self.after.shown());
        let whole = |text: &[u8]| vec![Segment { bytes: 0..text.len(), differs: Some(self.weight) }];
        if ours || theirs {
            return (whole(before), whole(after));
        }
        let mut words = value_words(before, after, grain);
        // Scattered letters that two values happen to share tell nothing.
        let shared = |parts: &[Segment]| {
            parts.iter().filter(|part| part.differs.is_none()).map(|part| part.bytes.len()).sum::<usize>()
        };
        if shared(&words.before) * 2 < before.len().max(after.len()) {
            return (whole(before), whole(after));
        }
        let weigh = |parts: &mut Vec<Segment>| {
            parts.iter_mut().filter(|part| part.differs.is_some()).for_each(|part| part.differs = Some(self.weight));
        };
        weigh(&mut words.before);
        weigh(&mut words.after);
        (words.before, words.after)
    }
}
