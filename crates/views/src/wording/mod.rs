//! What views say in words, whatever they are drawn on.

pub(crate) mod account;
pub(crate) mod change;
pub(crate) mod document;
pub(crate) mod edit;
pub(crate) mod encodings;
pub(crate) mod merge;
mod numbers;
mod placement;
pub(crate) mod reading;
pub(crate) mod section;
pub(crate) mod sync;
pub(crate) mod tree;
mod units;

pub(crate) use numbers::grouped;
pub use numbers::{bytes_in_words, plural};
pub(crate) use placement::misfit_words;
pub(crate) use units::unit_in_words;
