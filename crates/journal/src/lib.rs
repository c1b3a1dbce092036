//! The only part of Tideline that writes people's files.
//!
//! A [`Journal`] carries out a [`Plan`](tideline_core::plan::Plan): it checks that everything is still as it was when the plan was made, keeps
//! what will be overwritten or removed (`entries`, `prepare`), makes what is new beside its place, new folders filled already, flushes all
//! of that, and only then puts it in place, one rename after the other (`place`). A plan is carried out whole or not at all, or as
//! far as it can be, as its command wants. Every run is recorded; it can be undone, and undoing is a run of its own. A run
//! that was cut off is found again by what stands in the places of its files: it can be undone or finished.

mod back;
mod carry;
mod entries;
mod files;
mod place;
mod prepare;
mod record;
mod staging;
mod system;
mod undo;

pub use carry::{Carried, Journal, JournalError, LeftOut, Settled};
pub use files::{Draft, FileSystem, Found, FoundFile, RealFiles, mode, stamp};
pub use record::{Deeds, Entry, PathText, Progress, RunRecord, Touched, Was, Will};
pub use staging::{Staged, Staging};
pub use undo::Pruned;
