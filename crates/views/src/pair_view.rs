//! Two contents of any kind, ready to be drawn.

use tideline_core::internal::kinds::Comparison;

use crate::items::{DataView, TableView};
use crate::view::{BytesView, FileView, Title};

/// Two contents and what differs between them, ready to be drawn. Every kind of comparison has an arm.
#[derive(Clone, Copy, Debug)]
pub enum PairView<'a> {
    /// Two texts.
    Text(FileView<'a>),
    /// Two tables.
    Table(TableView<'a>),
    /// Two documents.
    Data(DataView<'a>),
    /// Two contents that are compared byte by byte.
    Bytes(BytesView<'a>),
}

impl<'a> PairView<'a> {
    /// A comparison under a title.
    pub fn new(comparison: &'a Comparison<'a>, title: Title<'a>) -> Self {
        let Title { name, type_name, labels, note } = title;
        match comparison {
            Comparison::Text(texts) => Self::Text(FileView {
                name,
                type_name,
                labels,
                note,
                before: &texts.before,
                after: &texts.after,
                comparison: &texts.found,
                first: (texts.before.first_line(), texts.after.first_line()),
                originals: texts.originals,
            }),
            Comparison::Table(tables) => Self::Table(TableView {
                title,
                before: &tables.before,
                after: &tables.after,
                comparison: &tables.found,
            }),
            Comparison::Data(documents) => Self::Data(DataView {
                title,
                before: &documents.before,
                after: &documents.after,
                comparison: &documents.found,
            }),
            Comparison::Bytes(bytes) => {
                Self::Bytes(BytesView { name, labels, before: bytes.before, after: bytes.after })
            }
        }
    }
}
