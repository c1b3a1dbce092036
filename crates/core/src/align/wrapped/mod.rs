//! Text that was only wrapped: the same words in the same order, in other lines.
//!
//! A passage that differs is read as one on either side ([`Passage`](crate::internal::rules::passage::Passage)), its words are aligned, and it is
//! cut again where both sides have a line start at the same word. Of the pieces, those whose words are the same were only wrapped.

mod differences;
mod edits;
mod path;
mod pieces;
mod side;

pub(super) use edits::tell_wrapped;
pub(crate) use pieces::{EditedPiece, Piece, State, pieces};
