//! Files that are made before there is a plan for them: a report is too large for memory, and is whole before its place is touched.

use std::fs::{self, File};
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime};

use tempfile::TempDir;
use tideline_core::internal::plan::{Contents, Fingerprint};

use crate::error::JournalError;
use crate::files::FileSystem;
use crate::journal::Journal;

/// How the folders are named.
const PREFIX: &str = "staged-";
/// What a command that was cut off left behind is cleared away after this time.
const STALE: Duration = Duration::from_secs(24 * 60 * 60);
/// Bytes gathered before they are written.
const BUFFER: usize = 64 << 10;

/// A folder of the journal for files that a plan is going to take. What no plan took goes with it.
#[derive(Debug)]
pub struct Staging {
    folder: TempDir,
}

/// A file that is being made.
#[derive(Debug)]
pub struct Staged {
    path: PathBuf,
    file: BufWriter<File>,
    hasher: blake3::Hasher,
    size: u64,
}

impl<F: FileSystem> Journal<F> {
    /// A folder for files that a plan is going to take.
    ///
    /// # Errors
    /// When the journal cannot be used.
    pub fn staging(&self) -> Result<Staging, JournalError> {
        let failed = |error| JournalError::Journal { path: self.path.clone(), error };
        self.files.open_private(&self.path).map_err(failed)?;
        let path = self.path.canonicalize().map_err(failed)?;
        self.clear_stale();
        let folder = tempfile::Builder::new().prefix(PREFIX).tempdir_in(path).map_err(failed)?;
        Ok(Staging { folder })
    }

    fn clear_stale(&self) {
        let Ok(entries) = fs::read_dir(&self.path) else { return };
        for entry in entries.flatten().filter(|entry| entry.file_name().to_string_lossy().starts_with(PREFIX)) {
            let modified = entry.metadata().and_then(|metadata| metadata.modified());
            let age = modified.ok().and_then(|modified| SystemTime::now().duration_since(modified).ok());
            if age.is_some_and(|age| age > STALE) {
                // What cannot be removed is tried again the next time.
                let _ = fs::remove_dir_all(entry.path());
            }
        }
    }
}

impl Staging {
    /// Begins a file; it may have any name that is not in use here.
    ///
    /// # Errors
    /// Those of the system.
    pub fn begin(&self, name: &str) -> io::Result<Staged> {
        let path = self.folder.path().join(name);
        let file = BufWriter::with_capacity(BUFFER, File::create_new(&path)?);
        Ok(Staged { path, file, hasher: blake3::Hasher::new(), size: 0 })
    }

    /// Where the files are.
    pub fn folder(&self) -> &Path {
        self.folder.path()
    }
}

impl Staged {
    /// The whole file, for a plan to take.
    ///
    /// # Errors
    /// Those of the system.
    pub fn finish(mut self) -> io::Result<Contents> {
        self.file.flush()?;
        Ok(Contents::Taken(self.path, Fingerprint { size: self.size, hash: *self.hasher.finalize().as_bytes() }))
    }
}

impl Write for Staged {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let written = self.file.write(bytes)?;
        self.hasher.update(&bytes[..written]);
        self.size += written as u64;
        Ok(written)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.file.flush()
    }
}
