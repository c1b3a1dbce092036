//! A file that is looked at.

use super::state::{FileState, Leave};
use crate::review::compared::Opened;
use crate::review::draft::{Draft, Side};

/// A file that is looked at, with what is edited in it.
pub(in crate::review) struct Looked<'l> {
    pub(in crate::review) opened: &'l mut Opened,
    pub(in crate::review) draft: &'l mut Draft,
    pub(in crate::review) state: &'l mut FileState,
    /// Where it is among the files that differ.
    pub(in crate::review) among: Option<(usize, usize)>,
    /// Whether something that counts differs, as of the last comparison.
    pub(in crate::review) differs: &'l mut bool,
}

impl Looked<'_> {
    /// What a side is called.
    pub(super) fn label(&self, side: Side) -> &str {
        if side.is_after() { &self.opened.labels.after } else { &self.opened.labels.before }
    }
}

/// What comes of an event.
pub(super) enum Then {
    Stay,
    /// Both sides are compared anew.
    Compare,
    /// The editor is opened.
    Editor,
    Leave(Leave),
}
