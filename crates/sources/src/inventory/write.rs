//! Writing an inventory, entry by entry.

use std::io::{self, Write};
use std::time::SystemTime;

use jiff::Timestamp;
use rayon::prelude::*;
use tideline_core::internal::tree::{EntryMetadata, EntryType, Progress, Tree, TreeError, TreePath};

use super::format::{Head, Known, Record, Text, Total};
use crate::hashing::{Algorithm, hashes, hex};

/// Entries whose contents are read at a time, in parallel.
const AT_ONCE: usize = 1024;

/// An entry that is to be written down.
pub struct Listed {
    /// Its path.
    pub path: TreePath,
    /// What it is.
    pub entry_type: EntryType,
    /// What is known of it.
    pub metadata: Option<EntryMetadata>,
    /// Why it cannot be read.
    pub unreadable: Option<TreeError>,
}

/// Writes an inventory as the entries of a tree come.
pub struct InventoryWriter<'w> {
    files: Files<'w>,
    out: &'w mut dyn Write,
    hasher: blake3::Hasher,
    waiting: Vec<Listed>,
    total: Total,
}

impl<'w> InventoryWriter<'w> {
    /// Begins an inventory of a tree.
    ///
    /// # Errors
    /// Whatever `out` fails with.
    pub fn new(
        tree: &'w dyn Tree,
        head: Head,
        algorithms: Vec<Algorithm>,
        progress: &'w Progress,
        out: &'w mut dyn Write,
    ) -> io::Result<Self> {
        let (hasher, waiting, total) = (blake3::Hasher::new(), Vec::new(), Total::default());
        let files = Files { tree, algorithms, progress };
        let mut writer = Self { files, out, hasher, waiting, total };
        writer.write_line(&line_of(&Record::Inventory(head))?)?;
        Ok(writer)
    }

    /// Adds an entry; they come in path order.
    ///
    /// # Errors
    /// Whatever the output fails with.
    pub fn add(&mut self, entry: Listed) -> io::Result<()> {
        self.waiting.push(entry);
        if self.waiting.len() < AT_ONCE { Ok(()) } else { self.write_waiting() }
    }

    /// Writes the sums, and says what they are.
    ///
    /// # Errors
    /// Whatever the output fails with.
    pub fn end(mut self) -> io::Result<Total> {
        self.write_waiting()?;
        self.total.blake3 = hex(self.hasher.finalize().as_bytes());
        let total = self.total.clone();
        self.write_line(&line_of(&Record::Total(total.clone()))?)?;
        self.out.flush()?;
        Ok(total)
    }

    fn write_waiting(&mut self) -> io::Result<()> {
        let waiting = std::mem::take(&mut self.waiting);
        let files = &self.files;
        let line = |entry: Listed| {
            let (entry_type, known) = (entry.entry_type, files.known(entry));
            let counted = (entry_type, known.size.unwrap_or(0), known.unreadable.is_some());
            line_of(&Record::Entry(Box::new(known))).map(|line| (counted, line))
        };
        let lines: Vec<io::Result<(Counted, Vec<u8>)>> = waiting.into_par_iter().map(line).collect();
        for line in lines {
            let ((entry_type, size, is_unreadable), line) = line?;
            let of_its_type = match entry_type {
                EntryType::File => &mut self.total.files,
                EntryType::Folder => &mut self.total.folders,
                EntryType::Link => &mut self.total.links,
                EntryType::Special(_) => &mut self.total.others,
            };
            *of_its_type += 1;
            self.total.bytes += size;
            self.total.unreadable += u64::from(is_unreadable);
            self.write_line(&line)?;
        }
        Ok(())
    }

    fn write_line(&mut self, line: &[u8]) -> io::Result<()> {
        self.hasher.update(line);
        self.out.write_all(line)
    }
}

/// What of an entry is counted: its type, its size, and whether it could not be read.
type Counted = (EntryType, u64, bool);

fn line_of(record: &Record) -> io::Result<Vec<u8>> {
    let mut line = serde_json::to_vec(record)?;
    line.push(b'\n');
    Ok(line)
}

/// The hashes of a file, by algorithm.
type Hashed = Vec<(Algorithm, Vec<u8>)>;

/// Reads the entries of a tree.
struct Files<'w> {
    tree: &'w dyn Tree,
    algorithms: Vec<Algorithm>,
    progress: &'w Progress,
}

impl Files<'_> {
    /// What there is to know of an entry; a file is read for that.
    fn known(&self, entry: Listed) -> Known {
        let mut known =
            Known { path: Text::of(&entry.path), entry_type: entry.entry_type.to_string(), ..Known::default() };
        let (mut metadata, mut failed) = (entry.metadata, entry.unreadable);
        match entry.entry_type {
            EntryType::File if failed.is_none() => match self.hashed(&entry.path) {
                Ok((found, ids)) => {
                    metadata = Some(found);
                    known.size = Some(found.size);
                    for (algorithm, hash) in ids {
                        *(if algorithm == Algorithm::Sha256 { &mut known.sha256 } else { &mut known.blake3 }) =
                            Some(hex(&hash));
                    }
                }
                Err(reason) => failed = Some(reason),
            },
            EntryType::Link if failed.is_none() => match self.tree.link_target(&entry.path) {
                Ok(target) => known.target = Some(Text::of(&target)),
                Err(reason) => failed = Some(reason),
            },
            _ => {}
        }
        self.progress.add(known.size.unwrap_or(0));
        known.unreadable = failed.map(|reason| reason.to_string());
        // The root of a tree says nothing of what is in it.
        if let Some(metadata) = metadata.or_else(|| self.tree.metadata(&entry.path).ok()) {
            add_metadata(&mut known, &metadata);
        }
        known
    }

    fn hashed(&self, path: &TreePath) -> Result<(EntryMetadata, Hashed), TreeError> {
        let names: Vec<&str> = self.algorithms.iter().map(|algorithm| algorithm.name()).collect();
        if let Some(identified) = self.tree.identify_all(path, &names) {
            let (metadata, ids) = identified?;
            return Ok((metadata, self.algorithms.iter().copied().zip(ids.into_iter().map(|id| id.bytes)).collect()));
        }
        let mut opened = self.tree.open(path)?;
        let ids = hashes(&self.algorithms, opened.metadata.size, &mut opened.reader)
            .map_err(|error| TreeError::from(&error))?;
        let ids = self.algorithms.iter().copied().zip(ids.into_iter().map(|id| id.bytes));
        Ok((opened.metadata, ids.collect()))
    }
}

fn add_metadata(known: &mut Known, metadata: &EntryMetadata) {
    known.mode = metadata.mode.map(|mode| format!("{mode:o}"));
    if metadata.mode.is_some() && metadata.mode_unknown != 0 {
        known.mode_known = Some(format!("{:o}", 0o7777 & !metadata.mode_unknown));
    }
    known.modified = metadata.modified.and_then(in_words);
    if known.modified.is_some() && !metadata.time_step.is_zero() {
        known.modified_step = Some(metadata.time_step.as_secs().max(1));
    }
}

fn in_words(time: SystemTime) -> Option<String> {
    Timestamp::try_from(time).ok().map(|time| time.to_string())
}
