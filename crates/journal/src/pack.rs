//! Small backups in one file.

use std::io;

use crate::files::{At, FileSystem};
use crate::session::PACK;

/// So many bytes are written at a time.
const WRITTEN_AT: usize = 4 << 20;

/// Small backups on their way into one file. They are written many at a time, and all of them before anything is put in its place.
#[derive(Default)]
pub(crate) struct Pack {
    waiting: Vec<u8>,
    written: u64,
    /// Whether there is any; all of them may be empty.
    is_used: bool,
}

impl Pack {
    /// Adds a backup, and says where it begins.
    pub(crate) fn add<F: FileSystem>(&mut self, bytes: &[u8], files: &F, folder: &F::Folder) -> io::Result<u64> {
        let start = self.written + self.waiting.len() as u64;
        self.is_used = true;
        self.waiting.extend_from_slice(bytes);
        if self.waiting.len() >= WRITTEN_AT {
            self.write(files, folder)?;
        }
        Ok(start)
    }

    pub(crate) fn write<F: FileSystem>(&mut self, files: &F, folder: &F::Folder) -> io::Result<()> {
        if self.waiting.is_empty() && (self.written > 0 || !self.is_used) {
            return Ok(());
        }
        // After a write that failed half-way, nothing more has its place.
        if files.append(At::new(folder, PACK), &self.waiting)? != self.written {
            return Err(io::Error::other("the file of backups is not what was written to it"));
        }
        self.written += self.waiting.len() as u64;
        self.waiting.clear();
        Ok(())
    }
}
