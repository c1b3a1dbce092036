//! How tables and data are compared, as plain values.

use std::sync::Arc;

use super::number::Tolerance;
use super::scratch::Scratch;
use crate::internal::rules::NamePattern;

/// How tables and data are compared. Unchanging once built.
#[derive(Clone, Debug, Default)]
pub struct KindOptions {
    pub(super) key: Vec<String>,
    pub(super) has_no_header: Option<bool>,
    pub(super) delimiter: Option<u8>,
    pub(super) cells_as_text: Option<bool>,
    pub(super) row_order_counts: Option<bool>,
    pub(super) comments_count: Option<bool>,
    pub(super) tolerance: Option<Tolerance>,
    pub(super) column_tolerances: Vec<(NamePattern, Tolerance)>,
    pub(super) scratch: Option<Arc<dyn Scratch>>,
    pub(super) rows_in_memory: Option<usize>,
}

impl KindOptions {
    /// By which columns rows are matched, or by which members records of data are. Default: what is found.
    pub fn key(mut self, key: Vec<String>) -> Self {
        self.key = key;
        self
    }

    /// Whether the first row of a table is a row like others. Default: it names the columns.
    pub fn no_header(mut self, has_no_header: Option<bool>) -> Self {
        self.has_no_header = has_no_header;
        self
    }

    /// What stands between two cells. Default: what is found.
    pub fn delimiter(mut self, delimiter: Option<u8>) -> Self {
        self.delimiter = delimiter;
        self
    }

    /// Whether cells are always text. Default: numbers and dates are compared by value.
    pub fn cells_as_text(mut self, cells_as_text: Option<bool>) -> Self {
        self.cells_as_text = cells_as_text;
        self
    }

    /// Whether the order of rows counts. Default: it does not.
    pub fn row_order_counts(mut self, counts: Option<bool>) -> Self {
        self.row_order_counts = counts;
        self
    }

    /// Whether comments of YAML and TOML count. Default: they do not.
    pub fn comments_count(mut self, counts: Option<bool>) -> Self {
        self.comments_count = counts;
        self
    }

    /// How near numbers are equal. Default: they are equal in value only.
    pub fn tolerance(mut self, tolerance: Option<Tolerance>) -> Self {
        self.tolerance = tolerance;
        self
    }

    /// The same for some columns.
    pub fn column_tolerances(mut self, tolerances: Vec<(NamePattern, Tolerance)>) -> Self {
        self.column_tolerances = tolerances;
        self
    }

    /// Where keys are sorted that do not fit into memory. Default: nowhere, they are held whatever their number.
    pub fn scratch(mut self, scratch: Option<Arc<dyn Scratch>>) -> Self {
        self.scratch = scratch;
        self
    }

    /// Keys of more rows of both sides are sorted on the disk. Default: 64 million.
    pub fn rows_in_memory(mut self, rows: usize) -> Self {
        self.rows_in_memory = Some(rows);
        self
    }

    /// How near colours are equal, from 0 to 100; a share is of that.
    pub(super) fn colour_tolerance(&self) -> Option<f32> {
        self.tolerance.as_ref().map(Tolerance::of_hundred)
    }

    /// How near numbers of a column are equal.
    pub(super) fn tolerance_of(&self, column: &str) -> Option<&Tolerance> {
        let own = self.column_tolerances.iter().find(|(name, _)| name.fits(column)).map(|(_, tolerance)| tolerance);
        own.or(self.tolerance.as_ref())
    }

    /// The same, with what is said here and not there taken from `other`.
    pub(super) fn over(&self, other: &Self) -> Self {
        let first = |one: &[String], other: &[String]| if one.is_empty() { other.to_vec() } else { one.to_vec() };
        let mut column_tolerances = self.column_tolerances.clone();
        column_tolerances.extend(other.column_tolerances.iter().cloned());
        Self {
            key: first(&self.key, &other.key),
            has_no_header: self.has_no_header.or(other.has_no_header),
            delimiter: self.delimiter.or(other.delimiter),
            cells_as_text: self.cells_as_text.or(other.cells_as_text),
            row_order_counts: self.row_order_counts.or(other.row_order_counts),
            comments_count: self.comments_count.or(other.comments_count),
            tolerance: self.tolerance.clone().or_else(|| other.tolerance.clone()),
            column_tolerances,
            scratch: self.scratch.clone().or_else(|| other.scratch.clone()),
            rows_in_memory: self.rows_in_memory.or(other.rows_in_memory),
        }
    }
}
