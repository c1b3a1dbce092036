//! What can go wrong, and what is told of it.

use std::io;
use std::path::{Path, PathBuf};

/// What became of a run that failed while files were being put in place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Aftermath {
    /// Everything is as it was before.
    AsBefore,
    /// Some files are changed; the run with this number can be undone or finished.
    Open(u64),
}

/// Why a run was not carried out.
#[derive(Debug, thiserror::Error)]
pub enum JournalError {
    /// The journal itself cannot be used.
    #[error("cannot use the journal {}: {error}", path.display())]
    Journal {
        /// Its file or folder.
        path: PathBuf,
        /// The system's reason.
        error: io::Error,
    },
    /// A record cannot be read.
    #[error("cannot read the record of run {run} in {}: {reason}", path.display())]
    Record {
        /// The run.
        run: u64,
        /// Its folder.
        path: PathBuf,
        /// Why not.
        reason: String,
    },
    /// There is no such run.
    #[error("there is no run {0}; `tideline runs` lists them")]
    NoRun(u64),
    /// Another process uses the journal.
    #[error(
        "another run is still at work ({holder}), and {seconds} seconds were waited for it; nothing was written. Try again when it has ended, or end it"
    )]
    Busy {
        /// Who it is.
        holder: String,
        /// How long was waited.
        seconds: u64,
    },
    /// Something is not as it was when the plan was made.
    #[error("{} {reason}; nothing was written", path.display())]
    Changed {
        /// Where.
        path: PathBuf,
        /// What is not as it was.
        reason: String,
    },
    /// A step failed after the run had begun.
    #[error("{} {reason}; {}", path.display(), told(*aftermath))]
    Failed {
        /// Where.
        path: PathBuf,
        /// What failed.
        reason: String,
        /// What became of what was done already.
        aftermath: Aftermath,
    },
    /// Somebody asked to stop.
    #[error("interrupted; {}", told(*aftermath))]
    Interrupted {
        /// What became of what was done already.
        aftermath: Aftermath,
    },
    /// It is refused.
    #[error("{0}")]
    Refused(String),
}

fn told(aftermath: Aftermath) -> String {
    match aftermath {
        Aftermath::AsBefore => "everything is as it was before".to_owned(),
        Aftermath::Open(run) => format!(
            "run {run} is open: `tideline undo {run}` puts back what was changed, `tideline runs finish {run}` does the rest"
        ),
    }
}

/// A path that was left out of a run, and why.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct LeftOut {
    /// The path, in full.
    pub path: PathBuf,
    /// Why it was left out.
    pub reason: String,
}

/// Something about a path that was written, which the person should know.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Note {
    /// The path, in full; none when it is about the journal.
    pub path: Option<PathBuf>,
    /// What it is.
    pub text: String,
}

impl Note {
    pub(crate) fn of(path: &Path, text: impl Into<String>) -> Self {
        Self { path: Some(path.to_path_buf()), text: text.into() }
    }
}

/// Why one path could not be done.
#[derive(Debug)]
pub(crate) enum Failure {
    /// It is not as it was when the plan was made.
    Changed(String),
    /// The system refused.
    System(&'static str, io::Error),
    /// A step stands half done, and could not be taken back.
    Stuck(String),
    /// Somebody asked to stop.
    Stopped,
}

impl Failure {
    pub(crate) fn changed(reason: &str) -> Self {
        Self::Changed(reason.to_owned())
    }

    /// A failure in the middle of a step that could not be taken back.
    pub(crate) fn stuck(self) -> Self {
        Self::Stuck(self.reason())
    }

    /// The reason, as it is told after the path.
    pub(crate) fn reason(&self) -> String {
        match self {
            Self::Changed(reason) | Self::Stuck(reason) => reason.clone(),
            Self::System(doing, error) => format!("could not be {doing}: {}", reason_of(error)),
            Self::Stopped => "was not done: interrupted".to_owned(),
        }
    }
}

/// The system's reason without the number it has for it.
pub(crate) fn reason_of(error: &io::Error) -> String {
    let text = error.to_string();
    text.split(" (os error").next().unwrap_or(&text).to_owned()
}

/// Adds to an error what was being done: a participle that fits "could not be".
pub(crate) fn doing<T>(doing: &'static str, result: io::Result<T>) -> Result<T, Failure> {
    result.map_err(|error| Failure::System(doing, error))
}

/// Reasons that are told after a path.
pub(crate) const GONE: &str = "is not there any more: it was removed since the plan was made";
pub(crate) const CHANGED: &str = "was changed since the plan was made";
pub(crate) const NOT_EMPTY: &str = "holds something that the plan does not know";
pub(crate) const DAMAGED: &str = "could not be put back: its backup is damaged";
