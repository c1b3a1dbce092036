//! The core through its public functions.

mod alignment;
mod house_rules;
mod patches;
mod support;
mod words_and_pairs;
