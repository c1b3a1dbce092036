//! Patches: read, applied to a text, and written. The format is the unified one of POSIX.1-2017 (XCU); what is read may also be in the
//! context format.

use std::fmt;

use crate::internal::align::{Bounds, align};
use crate::internal::patch::{
    FileLabel, FilePatch, HunkPlacement, Patch, PatchError, PatchOptions, PlaceOptions, place, read_patch,
    write_file_patch,
};

/// A patch that was read.
#[derive(Clone, Debug)]
pub struct ReadPatch {
    patch: Patch,
}

/// What a patch says about one file.
#[derive(Clone, Copy, Debug)]
pub struct PatchedFile<'p> {
    file: &'p FilePatch,
}

/// Why a patch cannot be read.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct ReadError {
    /// The line of the patch, from 1.
    pub line: usize,
    /// What is wrong there, in words.
    pub reason: String,
}

impl From<PatchError> for ReadError {
    fn from(PatchError { line, reason }: PatchError) -> Self {
        Self { line, reason }
    }
}

impl fmt::Display for ReadError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "line {}: {}", self.line, self.reason)
    }
}

impl std::error::Error for ReadError {}

/// Why a patch does not fit a text.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct ApplyError {
    /// The lines of the patch, from 1, where the hunks begin that have no place.
    pub hunks: Vec<usize>,
}

impl fmt::Display for ApplyError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let lines: Vec<_> = self.hunks.iter().map(usize::to_string).collect();
        write!(f, "no place was found for the hunks that begin in lines {} of the patch", lines.join(", "))
    }
}

impl std::error::Error for ApplyError {}

/// Reads a patch.
///
/// # Errors
/// When it is malformed, or there is none in it.
pub fn read(bytes: &[u8]) -> Result<ReadPatch, ReadError> {
    Ok(ReadPatch { patch: read_patch(bytes)? })
}

impl ReadPatch {
    /// The files that it is about, in order.
    pub fn files(&self) -> impl Iterator<Item = PatchedFile<'_>> {
        self.patch.files.iter().map(|file| PatchedFile { file })
    }
}

impl<'p> PatchedFile<'p> {
    /// The name before; none of a file that is created.
    pub fn before(&self) -> Option<&'p [u8]> {
        self.file.before.as_deref()
    }

    /// The name after; none of a file that is deleted.
    pub fn after(&self) -> Option<&'p [u8]> {
        self.file.after.as_deref()
    }

    /// How many hunks there are.
    pub fn hunks(&self) -> usize {
        self.file.hunks.len()
    }
}

/// Puts the hunks of a file into a text: all of them, or none. They are found where the text moved on; what is in already stays.
///
/// ```
/// use tideline_core::{Options, patch};
///
/// let (before, after) = (b"one\ntwo\nthree\n", b"one\n2\nthree\n");
/// let written = patch::write(("a/numbers", before), ("b/numbers", after), 3);
/// let read = patch::read(&written)?;
/// for file in read.files() {
///     assert_eq!(patch::apply(&file, b"zero\none\ntwo\nthree\n")?, b"zero\none\n2\nthree\n");
/// }
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
///
/// # Errors
/// When a hunk has no place.
pub fn apply(file: &PatchedFile<'_>, text: &[u8]) -> Result<Vec<u8>, ApplyError> {
    let hunks = &file.file.hunks;
    let placement = place(text, hunks, &PlaceOptions::default());
    let has_no_place = |placed: &HunkPlacement| matches!(placed, HunkPlacement::PlacementFailure(_));
    let failed: Vec<usize> = hunks
        .iter()
        .zip(&placement.fits)
        .filter(|(_, placed)| has_no_place(placed))
        .map(|(hunk, _)| hunk.line)
        .collect();
    if failed.is_empty() { Ok(placement.text) } else { Err(ApplyError { hunks: failed }) }
}

/// Writes the patch that turns one text into another, with so many lines of context; nothing where they are equal. Each side has the
/// name that stands in the head of the patch.
pub fn write(before: (&str, &[u8]), after: (&str, &[u8]), context: usize) -> Vec<u8> {
    let edits = align(before.1, after.1, &Bounds::default());
    let labels = (FileLabel::new(before.0), FileLabel::new(after.0));
    let options = PatchOptions::default().context(context);
    let mut out = Vec::new();
    write_file_patch((&labels.0, &labels.1), (before.1, after.1), &edits, &options, &mut out)
        .unwrap_or_else(|error| unreachable!("a vector takes all that is written: {error}"));
    out
}
