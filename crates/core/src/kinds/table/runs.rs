//! Keys of more rows than fit into memory: sorted in runs on a disk, and merged.

use std::cmp::Reverse;
use std::collections::BinaryHeap;
use std::io::{self, BufReader, BufWriter, Read, Seek, SeekFrom, Write};

use super::keys::KeyHash;
use crate::internal::kinds::scratch::{Scratch, ScratchFile};

/// Bytes of a key and its row.
const RECORD: usize = 20;

/// A key, and the row that has it.
pub(super) type KeyedRow = (KeyHash, u32);

/// Runs of keyed rows, each sorted.
pub(super) struct Runs<'s> {
    scratch: &'s dyn Scratch,
    runs: Vec<BufReader<Box<dyn ScratchFile>>>,
}

impl<'s> Runs<'s> {
    pub(super) fn new(scratch: &'s dyn Scratch) -> Self {
        Self { scratch, runs: Vec::new() }
    }

    /// Adds a run.
    ///
    /// # Errors
    /// When it cannot be written.
    pub(super) fn add(&mut self, mut rows: Vec<KeyedRow>) -> io::Result<()> {
        rows.sort_unstable();
        let mut out = BufWriter::with_capacity(1 << 20, self.scratch.file()?);
        for (key, row) in rows {
            out.write_all(&key.to_le_bytes())?;
            out.write_all(&row.to_le_bytes())?;
        }
        let mut file = out.into_inner().map_err(io::IntoInnerError::into_error)?;
        file.seek(SeekFrom::Start(0))?;
        self.runs.push(BufReader::with_capacity(1 << 18, file));
        Ok(())
    }

    /// All rows by their keys, rows of one key in their order.
    ///
    /// # Errors
    /// When they cannot be read.
    pub(super) fn sorted(self) -> io::Result<Sorted> {
        let mut sorted = Sorted { runs: self.runs, heads: BinaryHeap::new() };
        for run in 0..sorted.runs.len() {
            sorted.read_on(run)?;
        }
        Ok(sorted)
    }
}

/// Rows of several runs in one order.
pub(super) struct Sorted {
    runs: Vec<BufReader<Box<dyn ScratchFile>>>,
    heads: BinaryHeap<Reverse<(KeyedRow, usize)>>,
}

impl Sorted {
    fn read_on(&mut self, run: usize) -> io::Result<()> {
        let mut record = [0; RECORD];
        match self.runs[run].read_exact(&mut record) {
            Ok(()) => {
                let (key, row) = record.split_at(RECORD - 4);
                let key = KeyHash::from_le_bytes(key.try_into().unwrap_or_default());
                let row = u32::from_le_bytes(row.try_into().unwrap_or_default());
                self.heads.push(Reverse(((key, row), run)));
                Ok(())
            }
            Err(error) if error.kind() == io::ErrorKind::UnexpectedEof => Ok(()),
            Err(error) => Err(error),
        }
    }

    /// The next row.
    ///
    /// # Errors
    /// When it cannot be read.
    pub(super) fn next(&mut self) -> io::Result<Option<KeyedRow>> {
        let Some(Reverse((row, run))) = self.heads.pop() else { return Ok(None) };
        self.read_on(run)?;
        Ok(Some(row))
    }
}
