//! The only part of Tideline that writes people's files.
//!
//! A [`Journal`] carries out a [`Plan`](tideline_core::plan::Plan): it checks that everything is still as it was when the plan was made, copies
//! what will be overwritten or removed, writes what is new to files beside their targets, flushes all of that, and only then puts the
//! files in place, one rename after the other. Every run is recorded; it can be undone, and undoing is a run of its own. A run
//! that was cut off is found again by what stands in the places of its files: it can be undone or finished.

mod carry;
mod files;
mod record;
mod undo;

pub use carry::{Journal, JournalError, Settled};
pub use files::{FileSystem, Found, RealFiles, stamp};
pub use record::{Entry, PathText, Progress, RunRecord, Was, Will};
pub use undo::Pruned;
