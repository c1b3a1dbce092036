//! What views say in words, whatever they are drawn on.

pub(crate) mod account;
pub(crate) mod bytes;
pub(crate) mod change;
mod misfit;
mod numbers;
pub(crate) mod tree;

pub(crate) use misfit::misfit_words;
pub use numbers::{bytes_in_words, plural};
pub(crate) use numbers::{counted, grouped};
