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

impl Outcome {
    /// The exit status that tells it.
    pub(crate) fn status(self) -> u8 {
        match self {
            Self::Same => 0,
            Self::Different => 1,
            Self::Trouble => 2,
        }
    }
}

impl From<Outcome> for ExitCode {
    fn from(outcome: Outcome) -> Self {
        outcome.status().into()
    }
}
