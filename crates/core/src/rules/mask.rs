//! What the rules put aside of one line.

use std::ops::Range;

/// A part of a line that is put aside.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Aside {
    /// Its bytes, from the start of the line; empty where a line end is missing.
    pub range: Range<usize>,
    /// The index of the rule in [`Lens::rules`].
    pub rule: usize,
    /// What stands for it when lines are compared.
    pub stands_for: &'static [u8],
}

/// What of a line is put aside.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Reading {
    /// The parts, in order.
    pub asides: Vec<Aside>,
    /// The rule by which the whole line is as if it were not there.
    pub gone: Option<usize>,
    /// The same with the ignoring rules alone.
    pub gone_ignored: Option<usize>,
}
