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
    /// Whether a side can be written to: it is a file, or one can be made there.
    pub(super) fn can_be_written(&self, side: Side) -> bool {
        let origin = if side.is_after() { &self.opened.after } else { &self.opened.before };
        origin.path.is_some()
    }

    /// Why nothing is done to a side that cannot be written to.
    pub(super) fn refusal(&self, side: Side) -> String {
        format!("{} cannot be written to, and stays as it is; S saves it under another name", self.label(side))
    }

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
