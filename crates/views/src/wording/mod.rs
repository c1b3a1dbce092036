//! What views say in words, whatever they are drawn on.

pub(crate) mod account;
pub(crate) mod bytes;
pub(crate) mod change;
pub(crate) mod edit;
pub(crate) mod encodings;
pub(crate) mod merge;
mod numbers;
mod placement;
pub(crate) mod section;
pub(crate) mod sync;
pub(crate) mod tree;

pub(crate) use numbers::grouped;
pub use numbers::{bytes_in_words, plural};
pub(crate) use placement::misfit_words;
