//! Documents: files whose text or tables are taken out of them by whoever can read them, and compared by all that texts and tables have.

mod compare;
mod extracted;
mod formulas;
mod places;
mod sheet_pair;
mod sheets;

pub(super) use compare::{FromDocuments, compare_documents};
pub use extracted::{Extracted, ExtractedContents, ExtractedPair, LeftOutPart, ReadAs, ReadDocuments, Sheet};
pub use places::{PlaceGroup, Places};
pub use sheet_pair::SheetPair;
pub use sheets::SheetsPair;

/// The cause of a difference that only the packing of a document makes.
pub const PACKING: &str = "packing of the document";
