//! Why something is no revision.

/// Why a revision cannot be a side.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum RevisionError {
    /// The system is not installed.
    #[error("the program `git` was not found; install it, or name a folder or an archive")]
    NoProgram,
    /// There is no repository.
    #[error("{0} is in no repository; --repository PATH names one")]
    NoRepository(String),
    /// The repository does not know the revision.
    #[error("the repository has no revision `{revision}`{advice}")]
    Unknown {
        /// The revision.
        revision: String,
        /// What may have been meant.
        advice: String,
    },
    /// There is no such path in the revision.
    #[error("there is no {path} in the revision {revision}")]
    NoPath {
        /// The revision.
        revision: String,
        /// The path.
        path: String,
    },
    /// Nothing was committed yet.
    #[error("the branch has no commit yet; git:staged stands for what is staged")]
    Unborn,
    /// The program failed.
    #[error("{reason}")]
    Failed {
        /// What it said.
        reason: String,
    },
}
