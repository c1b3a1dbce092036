//! One JSON document with all records, written as they come.

use std::io::{self, Write};

use serde::Serialize;

use super::records::Record;
use crate::report::{Head, MergedHead};

/// What stands before the records.
#[derive(Serialize)]
struct Opening<'a> {
    title: &'a str,
    made: &'a str,
    command: &'a str,
}

/// A document that is being written: an object with what the report says of itself, and the list of its `records`.
pub struct Document<'w> {
    out: &'w mut dyn Write,
    is_empty: bool,
}

impl<'w> Document<'w> {
    /// Begins a document.
    ///
    /// # Errors
    /// Whatever `out` fails with.
    pub fn begin(head: &Head<'_>, out: &'w mut dyn Write) -> io::Result<Self> {
        Self::opened(&Opening { title: head.title, made: head.made, command: head.command }, out)
    }

    /// Begins a document on three versions.
    ///
    /// # Errors
    /// Whatever `out` fails with.
    pub fn begin_merged(head: &MergedHead<'_>, out: &'w mut dyn Write) -> io::Result<Self> {
        Self::opened(&Opening { title: head.title, made: head.made, command: head.command }, out)
    }

    fn opened(opening: &Opening<'_>, out: &'w mut dyn Write) -> io::Result<Self> {
        let opening = serde_json::to_string(opening)?;
        let inside = opening.strip_suffix('}').unwrap_or(&opening);
        write!(out, "{inside},\"records\":[")?;
        Ok(Self { out, is_empty: true })
    }

    /// Adds a record, on a line of its own.
    ///
    /// # Errors
    /// Whatever the writer fails with.
    pub fn add(&mut self, record: &Record) -> io::Result<()> {
        self.add_written(&serde_json::to_vec(record)?)
    }

    /// Adds records that are written already, one a line.
    ///
    /// # Errors
    /// Whatever the writer fails with.
    pub fn add_written(&mut self, lines: &[u8]) -> io::Result<()> {
        for line in lines.split(|&byte| byte == b'\n').filter(|line| !line.is_empty()) {
            self.out.write_all(if self.is_empty { b"\n" } else { b",\n" })?;
            self.out.write_all(line)?;
            self.is_empty = false;
        }
        Ok(())
    }

    /// Ends the document.
    ///
    /// # Errors
    /// Whatever the writer fails with.
    pub fn end(self) -> io::Result<()> {
        self.out.write_all(b"\n]}\n")
    }
}
