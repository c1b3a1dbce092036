//! What a reader has seen of two sides, and noted: kept in the state folder, and known again by contents.

use std::collections::{BTreeMap, BTreeSet};
use std::fs::{self, DirBuilder};
use std::io::{ErrorKind, Write};
use std::os::unix::fs::DirBuilderExt;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, Result};
use serde::{Deserialize, Serialize};
use tideline_views::report::{Remark, Remarks};

use super::writing::state_folder;

/// What is remembered of two sides.
#[derive(Clone, Debug, Default)]
pub(crate) struct Remembered {
    /// The file that it is kept in; none where there is no place for it.
    file: Option<PathBuf>,
    kept: Kept,
}

/// What is kept. Changes and files are known by hashes of what they hold.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
struct Kept {
    /// The paths of both sides, for whoever looks into the file.
    sides: Vec<String>,
    /// Changes that were seen.
    seen: BTreeSet<String>,
    /// Notes on changes.
    notes: BTreeMap<String, String>,
    /// Files that were seen as a whole, by their paths, with what they held.
    files: BTreeMap<String, String>,
}

fn hash(parts: &[&[u8]]) -> String {
    let mut hasher = blake3::Hasher::new();
    for part in parts {
        hasher.update(&(part.len() as u64).to_le_bytes());
        hasher.update(part);
    }
    hasher.finalize().to_hex()[..32].to_owned()
}

/// A change of a file, known by what it holds.
pub(crate) fn key_of_change(path: &str, before: &[u8], after: &[u8]) -> String {
    hash(&[path.as_bytes(), before, after])
}

impl Remembered {
    /// What is remembered of two sides, by their paths.
    ///
    /// # Errors
    /// When it is there and cannot be read.
    pub(crate) fn of(before: &Path, after: &Path) -> Result<Self> {
        let full = [before, after].map(|path| path.canonicalize().unwrap_or_else(|_| path.to_path_buf()));
        let name = hash(&[full[0].as_os_str().as_encoded_bytes(), full[1].as_os_str().as_encoded_bytes()]);
        let file = state_folder()?.join("reviews").join(format!("{name}.json"));
        let sides = full.iter().map(|path| path.display().to_string()).collect();
        let kept = match fs::read(&file) {
            Ok(bytes) => serde_json::from_slice(&bytes).with_context(|| {
                format!("cannot read what was seen and noted, in {}; remove it to begin anew", file.display())
            })?,
            Err(error) if error.kind() == ErrorKind::NotFound => Kept { sides, ..Kept::default() },
            Err(error) => return Err(error).with_context(|| format!("cannot read {}", file.display())),
        };
        Ok(Self { file: Some(file), kept })
    }

    pub(crate) fn is_seen(&self, change: &str) -> bool {
        self.kept.seen.contains(change)
    }

    /// Marks a change as seen, or as not seen.
    pub(crate) fn set_seen(&mut self, change: String, is_seen: bool) -> Result<()> {
        if is_seen {
            self.kept.seen.insert(change);
        } else {
            self.kept.seen.remove(&change);
        }
        self.keep()
    }

    pub(crate) fn note(&self, change: &str) -> Option<&str> {
        self.kept.notes.get(change).map(String::as_str)
    }

    /// Notes something on a change; nothing removes the note.
    pub(crate) fn set_note(&mut self, change: String, note: &str) -> Result<()> {
        if note.is_empty() {
            self.kept.notes.remove(&change);
        } else {
            self.kept.notes.insert(change, note.to_owned());
        }
        self.keep()
    }

    /// The paths of files that were seen as a whole; what they hold may have changed since.
    pub(crate) fn files(&self) -> impl Iterator<Item = &str> {
        self.kept.files.keys().map(String::as_str)
    }

    /// Whether a file was seen as it is.
    pub(crate) fn is_file_seen(&self, path: &str, before: &[u8], after: &[u8]) -> bool {
        self.kept.files.get(path).is_some_and(|known| *known == hash(&[before, after]))
    }

    /// Marks a file as seen as it is, or as not seen.
    pub(crate) fn set_file_seen(&mut self, path: &str, contents: Option<(&[u8], &[u8])>) -> Result<()> {
        match contents {
            Some((before, after)) => self.kept.files.insert(path.to_owned(), hash(&[before, after])),
            None => self.kept.files.remove(path),
        };
        self.keep()
    }

    /// What was seen and noted, for a report.
    pub(crate) fn remarks(self) -> Remarks {
        Remarks::new(Arc::new(move |path, before, after| {
            let change = key_of_change(path, before, after);
            let remark = Remark { is_seen: self.is_seen(&change), note: self.note(&change).map(str::to_owned) };
            (remark != Remark::default()).then_some(remark)
        }))
    }

    /// Writes it to the disk, readable by its owner alone.
    fn keep(&self) -> Result<()> {
        let Some(file) = &self.file else { return Ok(()) };
        let doing = || format!("cannot keep what was seen and noted, in {}", file.display());
        let folder = file.parent().with_context(doing)?;
        DirBuilder::new().recursive(true).mode(0o700).create(folder).with_context(doing)?;
        let mut new = tempfile::NamedTempFile::new_in(folder).with_context(doing)?;
        new.write_all(&serde_json::to_vec_pretty(&self.kept).with_context(doing)?).with_context(doing)?;
        new.persist(file).with_context(doing)?;
        Ok(())
    }
}
