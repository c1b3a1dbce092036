//! What the other crates of Tideline are built on. It changes whenever they need it to: programs use the crate's root instead.
//!
//! | module | what it holds |
//! |---|---|
//! | [`text`] | bytes, lines, words, encodings and types of files |
//! | [`rules`] | what does not count: ignored or muted text, and the account of it |
//! | [`align`] | from two texts to the stretches that differ |
//! | [`model`] | the comparison as plain values |
//! | [`kinds`] | what contents mean: how a file of each kind is compared |
//! | [`tree`] | what differs between two trees of files |
//! | [`patch`] | patches: read, placed and written |
//! | [`merge`] | chosen changes of two texts, carried into one of them |
//! | [`plan`] | the steps of a writing command, as values |

#[path = "align/mod.rs"]
pub mod align;
#[path = "kinds/mod.rs"]
pub mod kinds;
#[path = "merge/mod.rs"]
pub mod merge;
#[path = "model/mod.rs"]
pub mod model;
#[path = "patch/mod.rs"]
pub mod patch;
#[path = "plan/mod.rs"]
pub mod plan;
#[path = "rules/mod.rs"]
pub mod rules;
#[path = "text/mod.rs"]
pub mod text;
#[path = "tree/mod.rs"]
pub mod tree;
