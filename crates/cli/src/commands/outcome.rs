//! How a command ends.

use std::process::ExitCode;

use tideline_core::internal::model::Status;

/// What a command found or did, as the exit status tells it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Outcome {
    /// Nothing that counts differs, or all was done.
    Same,
    /// Something differs.
    Different,
    /// Something could not be read; what it was has been said.
    Trouble,
}

impl Outcome {
    /// What the status of two files comes to.
    pub(crate) fn of(status: Status) -> Self {
        match status {
            Status::Same | Status::Muted => Self::Same,
            _ => Self::Different,
        }
    }
}

impl From<Outcome> for ExitCode {
    fn from(outcome: Outcome) -> Self {
        match outcome {
            Outcome::Same => Self::SUCCESS,
            Outcome::Different => Self::from(1),
            Outcome::Trouble => Self::from(2),
        }
    }
}
