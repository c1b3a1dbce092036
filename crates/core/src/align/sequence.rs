//! What is aligned: items that are equal when their numbers are.

/// An item that is still to be matched: its number, and where it stands in its sequence.
#[derive(Clone, Copy, Debug)]
pub(super) struct Item {
    pub(super) id: u32,
    pub(super) at: u32,
}
