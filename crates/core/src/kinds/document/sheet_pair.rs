//! A sheet of two documents.

use std::sync::Arc;

use crate::internal::kinds::table::Table;
use crate::internal::model::Form;
use crate::internal::model::table::TableComparison;

/// A sheet of two documents.
#[derive(Clone, Debug)]
pub struct SheetPair {
    /// Its name.
    pub name: String,
    /// Whether only one side has it: gone or new.
    pub form: Option<Form>,
    /// The sheet before; of a new one, one without rows.
    pub before: Arc<Table<'static>>,
    /// The sheet after.
    pub after: Arc<Table<'static>>,
    /// Where the first cell of each is in its sheet: row and column, from 0.
    pub origins: ((usize, usize), (usize, usize)),
    /// What differs. Numbers go on from sheet to sheet.
    pub found: TableComparison,
}
