//! Two contents of any kind, ready to be drawn.

use tideline_core::internal::kinds::Comparison;

use crate::items::{BytesView, DataView, ImageView, ItemView, SheetsView, TableView};
use crate::view::{FileView, Title};

/// Two contents and what differs between them, ready to be drawn. Every kind of comparison has an arm.
#[derive(Clone, Copy, Debug)]
pub enum PairView<'a> {
    /// Two texts.
    Text(FileView<'a>),
    /// Two tables.
    Table(TableView<'a>),
    /// Two documents.
    Data(DataView<'a>),
    /// Two documents with sheets.
    Sheets(SheetsView<'a>),
    /// Two images.
    Image(ImageView<'a>),
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
                // The headings of what was taken out of a document are written in one way.
                type_name: if texts.extracted.is_some() { "document.md" } else { type_name },
                labels,
                note,
                before: &texts.before,
                after: &texts.after,
                comparison: &texts.found,
                first: (texts.before.first_line(), texts.after.first_line()),
                originals: texts.originals,
                extracted: texts.extracted.as_deref(),
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
            Comparison::Sheets(sheets) => Self::Sheets(SheetsView { title, pair: sheets }),
            Comparison::Image(images) => Self::Image(ImageView { title, pair: images }),
            Comparison::Bytes(bytes) => {
                Self::Bytes(BytesView { title, before: bytes.before, after: bytes.after, comparison: &bytes.found })
            }
        }
    }

    /// What is told change by change; nothing where lines are.
    pub(crate) fn items(&self) -> Option<&dyn ItemView> {
        match self {
            Self::Text(_) => None,
            Self::Table(view) => Some(view),
            Self::Data(view) => Some(view),
            Self::Sheets(view) => Some(view),
            Self::Image(view) => Some(view),
            Self::Bytes(view) => Some(view),
        }
    }
}
