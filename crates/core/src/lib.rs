//! The computation behind Tideline. Bytes and options go in, values come out; there are no files, no clock, no environment and
//! no terminal in here.
//!
//! | module | what it holds |
//! |---|---|
//! | [`text`] | bytes, lines and words |
//! | [`rules`] | what does not count: ignored or muted text, and the account of it |
//! | [`align`] | from two texts to the stretches that differ |
//! | [`model`] | the comparison as plain values |
//! | [`kinds`] | what contents mean: how a file of each kind is compared |
//! | [`tree`] | what differs between two trees of files |
//! | [`patch`] | patches: read, placed and written |
//! | [`merge`] | chosen changes of two texts, carried into one of them |
//! | [`plan`] | the steps of a writing command, as values |
//!
//! ```
//! use tideline_core::kinds::text::{TextOptions, compare};
//! use tideline_core::model::Form;
//!
//! let comparison = compare(b"interval = 60\n", b"interval = 30\n", &TextOptions::default());
//! assert_eq!(comparison.changes[0].form, Form::Edited);
//! ```

pub mod align;
pub mod kinds;
pub mod merge;
pub mod model;
pub mod patch;
pub mod plan;
pub mod rules;
pub mod text;
pub mod tree;
