//! The journal: where runs are recorded, and by what files are reached.

use std::path::{Path, PathBuf};
use std::time::Duration;

use crate::files::FileSystem;
use crate::policy::Stop;
use crate::system::RealFiles;

/// How long a run waits for another unless something else is said.
const PATIENCE: Duration = Duration::from_secs(10);

/// Where runs are recorded, and by what files are reached.
pub struct Journal<F: FileSystem = RealFiles> {
    pub(crate) path: PathBuf,
    pub(crate) files: F,
    pub(crate) stop: Stop,
    pub(crate) patience: Duration,
    pub(crate) on_wait: Box<dyn Fn(&str) + Send + Sync>,
}

impl<F: FileSystem> Journal<F> {
    /// The journal in a folder, which is made when it is needed.
    pub fn new(path: PathBuf, files: F) -> Self {
        Self { path, files, stop: Stop::default(), patience: PATIENCE, on_wait: Box::new(|_| {}) }
    }

    /// Asked before every step whether to go on.
    pub fn stopped_by(mut self, stop: Stop) -> Self {
        self.stop = stop;
        self
    }

    /// How long it is waited for another run; and who is told, once, for whom.
    pub fn waiting(mut self, patience: Duration, told: impl Fn(&str) + Send + Sync + 'static) -> Self {
        self.patience = patience;
        self.on_wait = Box::new(told);
        self
    }

    /// The folder of the journal.
    pub fn path(&self) -> &Path {
        &self.path
    }
}
