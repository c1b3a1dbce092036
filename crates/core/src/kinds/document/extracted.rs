//! What is taken out of a document, and who does that.

use std::fmt::Debug;

use super::places::Places;
use crate::internal::model::Kind;

/// How files of certain names are to be read, where that was said.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ReadAs {
    /// By the text that a reader of a page sees.
    VisibleText,
}

/// Reads documents: lent by whoever knows their formats.
pub trait ReadDocuments: Debug + Send + Sync {
    /// What is in a document, or why it cannot be read; nothing where the contents are none. They are told by their contents, whatever the path
    /// says, but for what is asked for by name.
    fn read(&self, path: &[u8], bytes: &[u8], asked: Option<ReadAs>) -> Option<Result<Extracted, String>>;

    /// Whether contents may be a document: a look at their beginning, without reading them.
    fn may_read(&self, path: &[u8], bytes: &[u8], asked: Option<ReadAs>) -> bool;
}

/// What was taken out of a document.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Extracted {
    /// What it is, for a reader: `office text (DOCX)`.
    pub what: String,
    /// What was taken out.
    pub contents: ExtractedContents,
    /// What was not.
    pub left_out: Vec<LeftOutPart>,
}

/// What was taken out of a document.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ExtractedContents {
    /// Lines of text, in UTF-8; the name says in which language their headings are.
    Text {
        /// The text.
        text: Vec<u8>,
        /// Where its lines are.
        places: Places,
        /// The name of a file of such text.
        type_name: &'static str,
    },
    /// Sheets of cells.
    Sheets(Vec<Sheet>),
    /// What a program wrote, as a file of another kind.
    Converted {
        /// What it wrote.
        text: Vec<u8>,
        /// What that is.
        kind: Kind,
    },
}

/// A sheet, as text with commas between cells: a line for each row.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Sheet {
    /// Its name.
    pub name: String,
    /// The row of its first line in the sheet, from 0.
    pub first_row: usize,
    /// The column of its first cell in the sheet, from 0.
    pub first_column: usize,
    /// Whether its first row names the columns.
    pub has_header: bool,
    /// The cells.
    pub text: Vec<u8>,
}

/// Something in a document that is not compared.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LeftOutPart {
    /// What it is: `pictures`.
    pub name: String,
    /// By what it is known again.
    pub hash: [u8; 32],
}

/// What two documents are, beside the text that was taken out of them.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ExtractedPair {
    /// What they are.
    pub what: (String, String),
    /// Where their lines are.
    pub places: (Places, Places),
    /// What is in them and was not compared.
    pub left_out: Vec<String>,
    /// What of it differs.
    pub differing: Vec<String>,
}

impl ExtractedPair {
    /// What two documents are.
    pub(super) fn of(before: &Extracted, after: &Extracted, places: (Places, Places)) -> Self {
        let mut left_out: Vec<String> = Vec::new();
        let mut differing = Vec::new();
        for part in before.left_out.iter().chain(&after.left_out) {
            if left_out.contains(&part.name) {
                continue;
            }
            left_out.push(part.name.clone());
            let of =
                |side: &Extracted| side.left_out.iter().find(|other| other.name == part.name).map(|other| other.hash);
            if of(before) != of(after) {
                differing.push(part.name.clone());
            }
        }
        Self { what: (before.what.clone(), after.what.clone()), places, left_out, differing }
    }
}
