//! One compressed file: what is in it.

use std::io::{self, Read};

use tideline_core::internal::tree::Contents;

use crate::blob::Blob;
use crate::compression::Compression;
use crate::file::MAPPED_FROM;
use crate::limits::Limits;
use crate::spool::Spool;

/// What is in a compressed file. Much of it goes to a temporary file, and takes no memory of its size.
///
/// # Errors
/// When the file is damaged or cut off, or what is in it is larger than the limits allow.
pub(crate) fn unpacked(packed: &Blob, compression: Compression, limits: &Limits) -> io::Result<Contents> {
    spooled(&mut compression.unpacked(packed, limits)?)
}

/// All that can be read, in memory or, where it is much, in a temporary file.
pub(crate) fn spooled(reader: &mut dyn Read) -> io::Result<Contents> {
    let mut bytes = Vec::new();
    reader.take(MAPPED_FROM).read_to_end(&mut bytes)?;
    if (bytes.len() as u64) < MAPPED_FROM {
        return Ok(Box::new(bytes));
    }
    let spool = Spool::new()?;
    let section = spool.add(&mut bytes.as_slice().chain(reader))?;
    spool.blob(section).contents()
}
