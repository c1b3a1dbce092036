//! Files for what does not fit into memory, lent by whoever has a disk.

use std::fmt::Debug;
use std::io::{self, Read, Seek, Write};

/// A file that goes away when it is dropped.
pub trait ScratchFile: Read + Write + Seek + Send {}

impl<F: Read + Write + Seek + Send> ScratchFile for F {}

/// Makes files for what does not fit into memory.
pub trait Scratch: Debug + Send + Sync {
    /// An empty file.
    ///
    /// # Errors
    /// When it cannot be made.
    fn file(&self) -> io::Result<Box<dyn ScratchFile>>;
}
