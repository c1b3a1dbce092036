//! Why something in a tree cannot be read.

use std::io;

/// Why something in a tree cannot be read.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{reason}")]
pub struct TreeError {
    kind: TreeErrorKind,
    reason: String,
}

/// What kind of trouble it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum TreeErrorKind {
    /// There is no such entry.
    Missing,
    /// It may not be read.
    Denied,
    /// What holds it is damaged, or cut off.
    Damaged,
    /// It is larger than a bound allows.
    TooLarge,
    /// What holds it cannot be reached.
    Offline,
    /// Something else.
    Other,
}

impl TreeError {
    /// An error of a kind, with its reason in words.
    pub fn new(kind: TreeErrorKind, reason: impl Into<String>) -> Self {
        Self { kind, reason: reason.into() }
    }

    /// What kind of trouble it is.
    pub fn kind(&self) -> TreeErrorKind {
        self.kind
    }
}

impl From<&io::Error> for TreeError {
    /// The system's reason, without the number that it has for it.
    fn from(error: &io::Error) -> Self {
        let kind = match error.kind() {
            io::ErrorKind::NotFound => TreeErrorKind::Missing,
            io::ErrorKind::PermissionDenied => TreeErrorKind::Denied,
            io::ErrorKind::InvalidData | io::ErrorKind::UnexpectedEof => TreeErrorKind::Damaged,
            io::ErrorKind::FileTooLarge | io::ErrorKind::OutOfMemory => TreeErrorKind::TooLarge,
            io::ErrorKind::HostUnreachable
            | io::ErrorKind::NetworkUnreachable
            | io::ErrorKind::NotConnected
            | io::ErrorKind::TimedOut => TreeErrorKind::Offline,
            _ => TreeErrorKind::Other,
        };
        let text = error.to_string();
        let reason = text.split(" (os error").next().unwrap_or(&text);
        let mut letters = reason.chars();
        let reason: String = letters.next().into_iter().flat_map(char::to_lowercase).chain(letters).collect();
        Self { kind, reason }
    }
}
