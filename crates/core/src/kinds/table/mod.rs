//! Tables: rows compared by key, cell by cell.
//!
//! A text becomes a [`Table`]: the places of its rows, whose cells are read when they are asked for. Columns are paired by name, rows by key, or
//! in their order by similarity; only rows that are not written alike are looked at cell by cell.

mod cells;
mod columns;
mod contents;
mod delimited;
mod found;
mod keys;
mod matching;
mod read;
mod runs;

pub use contents::{Cell, Table};
pub use found::{LAYOUT, ROW_ORDER};
pub(crate) use keys::key_of_three;
pub(super) use read::{compare_both, is_plain_table};
pub use read::{is_delimited_name, read_table};
