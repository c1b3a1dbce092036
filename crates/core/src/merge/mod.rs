//! Carrying changes between texts.
//!
//! [`take`] carries chosen changes of two texts from one to the other.

mod selection;
mod take;

pub use selection::{Selection, SelectionError, parse_numbers};
pub use take::{Pick, TakeInto, take};
