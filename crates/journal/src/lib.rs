//! The only part of Tideline that writes people's files.
//!
//! A [`Journal`] carries out a [`Plan`](tideline_core::internal::plan::Plan). It opens the roots of the plan once and reaches everything beneath
//! them through handles (`session`); checks what is there (`jobs`); backs up what will be overwritten or removed, and makes what is new
//! beside its place (`prepare`); and then puts it in place, by renames that look at what they took away (`place`). Every run is
//! recorded (`record`, `format`, `store`). What failed or was cut off is put back or finished by looking (`recover`); a run that is done
//! is undone by another (`undo`). The page `docs/decisions/journal.md` says what holds, and what no file system can.

#[cfg(not(unix))]
compile_error!("files are written through the handles of a Unix system; see docs/decisions/journal.md");

mod back;
mod carry;
mod end;
mod error;
mod files;
mod format;
mod forward;
mod jobs;
mod journal;
mod names;
mod pack;
mod place;
mod policy;
mod prepare;
mod record;
mod recover;
mod roots;
mod session;
mod staging;
mod store;
mod system;
mod tally;
mod undo;

pub use error::{Aftermath, JournalError, LeftOut, Note};
pub use files::{
    At, Bytes, Created, Dropped, FileMetadata, FileSystem, Found, Identity, Lock, NewAttributes, ReadFile,
};
pub use journal::Journal;
pub use policy::{Outcome, Policy, Request, Stop};
pub use record::{
    BackupRecord, Entry, ExtendedText, Known, NewFile, NewFolder, NewState, OldFile, OldState, PathText, Place,
    Progress, RootRecord, Run, RunRecord, Site, Touched,
};
pub use staging::{Staged, Staging};
pub use store::{Listed, RunState};
pub use system::{RealFiles, mode, stamp};
pub use undo::{Finished, Pruned, Undone};
