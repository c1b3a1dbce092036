//! A private temporary file for contents that are needed again.

use std::fs::File;
use std::io::{self, Read, Write};
use std::sync::{Arc, Mutex, PoisonError};

use crate::blob::Blob;

/// Bytes that are copied at a time.
const PIECE: usize = 256 << 10;

/// A temporary file without a name, which only this process can read.
pub(crate) struct Spool {
    file: Arc<File>,
    end: Mutex<u64>,
}

impl Spool {
    pub(crate) fn new() -> io::Result<Self> {
        Ok(Self { file: Arc::new(tempfile::tempfile()?), end: Mutex::new(0) })
    }

    /// Adds contents, and says where they are.
    pub(crate) fn add(&self, contents: &mut dyn Read) -> io::Result<Section> {
        let mut end = self.end.lock().unwrap_or_else(PoisonError::into_inner);
        let start = *end;
        let mut piece = vec![0; PIECE];
        loop {
            let count = match contents.read(&mut piece) {
                Ok(0) => return Ok(Section { start, len: *end - start }),
                Ok(count) => count,
                Err(error) if error.kind() == io::ErrorKind::Interrupted => continue,
                Err(error) => return Err(error),
            };
            (&*self.file).write_all(&piece[..count]).map_err(|error| {
                io::Error::new(
                    error.kind(),
                    format!("cannot write a temporary file: {error}; TMPDIR says where it goes"),
                )
            })?;
            *end += count as u64;
        }
    }

    /// Contents that were added.
    pub(crate) fn blob(&self, section: Section) -> Blob {
        Blob::of_private(Arc::clone(&self.file), section.start, section.len)
    }
}

/// Where contents are in the file.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Section {
    pub(crate) start: u64,
    pub(crate) len: u64,
}
