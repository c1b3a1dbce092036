//! Applying patches: what becomes of the files of a target, worked out in memory.
//!
//! Parts about one file apply one after the other. Moves and copies of one patch all start from the files as they were before that
//! patch, so that files can change places. Nothing is written here: [`Applier::changes`] says what is to be written.

mod outcome;
mod part;
mod state;
mod target;

use std::collections::{BTreeSet, HashMap};
use std::path::PathBuf;

use rayon::prelude::*;

use super::model::{FilePatch, Hunk, Operation, Patch};
use super::names::{Names, folders_to_drop, without_folders};
use super::placement::HunkPlacement;
use crate::internal::plan::checked_path;
pub use outcome::{AppliedPart, AppliedPatch, ApplyError, ApplyOptions, Outcome, PartRefusal};
use part::{PatchPart, Paths};
use state::State;
pub use state::{FileChange, Now};
pub use target::{Found, TargetError, TargetFiles};

/// Applies patches to a target, one after the other, in memory.
pub struct Applier<'f> {
    state: State<'f>,
    options: ApplyOptions,
    /// The leading folders that were dropped from the names of earlier patches.
    dropped: Option<usize>,
}

impl<'f> Applier<'f> {
    /// An applier for these files.
    pub fn new(files: &'f dyn TargetFiles, options: ApplyOptions) -> Self {
        Self { state: State::new(files), options, dropped: None }
    }

    /// Applies a patch; `name` is what conflicts call it.
    ///
    /// # Errors
    /// When a name leads out of the target, or a file of it is out of reach; then the files are as they were before this patch.
    pub fn apply(&mut self, patch: Patch, name: &str) -> Result<AppliedPatch, ApplyError> {
        let files = self.state.files();
        let names: &dyn Names = &Current(&self.state);
        let dropped = self.options.drop_folders.unwrap_or_else(|| folders_to_drop(&patch.files, names, self.dropped));
        let distinct: BTreeSet<_> = patch.files.iter().map(|file| (&file.before, &file.after)).collect();
        if self.options.only.is_some() && distinct.len() > 1 {
            return Err(ApplyError::SeveralFiles(distinct.len()));
        }
        let mut parts = Vec::with_capacity(patch.files.len());
        for file in patch.files {
            let paths = self.paths(&file, dropped)?;
            parts.push(PatchPart { file, paths, name, options: &self.options });
        }
        // Most files only change, and can be read and placed side by side.
        let state = &self.state;
        let mut met = HashMap::new();
        parts.iter().flat_map(|part| part.paths.distinct()).for_each(|path| *met.entry(path).or_insert(0) += 1);
        let alone = |part: &PatchPart<'_>| part.paths.distinct().into_iter().all(|path| met[path] == 1);
        let ahead = |part: &PatchPart<'_>| alone(part).then(|| part.ahead(state, files))?;
        // Most patches of a series are about one file: other threads would only have to be woken.
        let ahead: Vec<_> = match &parts[..] {
            [part] => vec![ahead(part)],
            parts => parts.par_iter().map(ahead).collect(),
        };
        let before = self.state.snapshot(parts.iter().flat_map(|part| part.paths.all()));
        let is_empty = parts.is_empty();
        let outcome = put_in(parts, ahead, &mut self.state);
        match outcome {
            Ok(mut applied) => {
                applied.dropped = dropped;
                self.dropped = Some(dropped).filter(|_| !is_empty).or(self.dropped);
                Ok(applied)
            }
            Err(error) => {
                self.state.restore(before);
                Err(error)
            }
        }
    }

    /// What the one file will be that the patches are about, and its permission bits if they change; none if there are more.
    pub fn only(&self) -> Option<(&Now, Option<u32>)> {
        self.state.only()
    }

    /// What is to be written, in the order of the paths.
    pub fn changes(self) -> Vec<FileChange> {
        self.state.changes()
    }

    /// The files that a part is about.
    fn paths(&self, file: &FilePatch, dropped: usize) -> Result<Paths, ApplyError> {
        if let Some(path) = &self.options.only {
            let of = |name: &Option<Vec<u8>>| name.as_ref().map(|_| path.clone());
            return Ok(Paths { before: of(&file.before), after: of(&file.after), other: None });
        }
        let line = file.line;
        let path = |name: &Vec<u8>| -> Result<PathBuf, ApplyError> {
            let shown = |name: &[u8]| String::from_utf8_lossy(name).escape_debug().to_string();
            let unsafe_name = |problem| ApplyError::Name { line, name: shown(name), problem };
            // `..` is looked for in the name as it was written, before anything is dropped from it.
            checked_path(name.strip_prefix(b"/").unwrap_or(name)).map_err(unsafe_name)?;
            let short = without_folders(name, dropped).ok_or_else(|| ApplyError::TooShort {
                line,
                name: shown(name),
                folders: dropped,
            })?;
            checked_path(short).map_err(unsafe_name)
        };
        let both = (file.before.as_ref().map(path), file.after.as_ref().map(path));
        let (before, after) = match both {
            // If one of two names leads out of the target, the other is meant.
            (Some(Ok(before)), Some(Err(_))) if file.operation == Operation::Change => {
                (Some(before.clone()), Some(before))
            }
            (Some(Err(_)), Some(Ok(after))) if file.operation == Operation::Change => {
                (Some(after.clone()), Some(after))
            }
            (before, after) => (before.transpose()?, after.transpose()?),
        };
        Ok(match (before, after) {
            (None, None) => return Err(ApplyError::Nameless(line)),
            (Some(before), Some(after)) if before != after && file.operation == Operation::Change => {
                self.one_of(before, after)
            }
            (before, after) => Paths { before, after, other: None },
        })
    }

    /// Of two names for one file, the one that exists; of two that exist, the other one is kept in mind.
    fn one_of(&self, before: PathBuf, after: PathBuf) -> Paths {
        let (has_before, has_after) = (self.state.has_file(&before), self.state.has_file(&after));
        let (one, other) = match (has_before, has_after) {
            (true, false) => (before, None),
            (true, true) => (after, Some(before)),
            (false, _) => (after, None),
        };
        Paths { before: Some(one.clone()), after: Some(one), other }
    }
}

/// Puts the parts of a patch in, one after the other.
fn put_in(
    parts: Vec<PatchPart<'_>>,
    ahead: Vec<Option<part::Ahead>>,
    state: &mut State<'_>,
) -> Result<AppliedPatch, ApplyError> {
    let error = |part: &PatchPart<'_>| {
        let line = part.file.line;
        move |problem| ApplyError::Target { line, problem }
    };
    // Where files move from, they are taken before anything is put there.
    let mut taken = Vec::with_capacity(parts.len());
    for part in &parts {
        taken.push(part.take(state).map_err(error(part))?);
    }
    for (part, taken) in parts.iter().zip(&taken).filter(|(_, taken)| taken.is_some()) {
        part.vacate(taken.as_ref(), state);
    }
    let mut applied = AppliedPatch::default();
    for ((part, taken), ahead) in parts.into_iter().zip(taken).zip(ahead) {
        let mut done = part.put_in(state, taken, ahead).map_err(error(&part))?;
        if !done.is_whole() {
            applied.leftover.push(leftover(&part.file, &done));
        }
        done.hunks = part.file.hunks;
        applied.parts.push(done);
    }
    Ok(applied)
}

/// What of a part has no place: all of it, or hunks for the file as it is now.
fn leftover(file: &FilePatch, done: &AppliedPart) -> FilePatch {
    if matches!(done.outcome, Outcome::Missing | Outcome::Refused(_)) {
        return file.clone();
    }
    let hunks = file.hunks.iter().zip(&done.fits);
    let left: Vec<Hunk> = hunks
        .filter(|(_, fit)| matches!(fit, HunkPlacement::PlacementFailure(_)))
        .map(|(hunk, _)| hunk.clone())
        .collect();
    let moved = file.operation != Operation::Change;
    FilePatch {
        before: if moved { file.after.clone() } else { file.before.clone() },
        operation: Operation::Change,
        modes: (None, None),
        hunks: left,
        ..file.clone()
    }
}

/// The names of a target, with what earlier patches did to it.
struct Current<'s, 'f>(&'s State<'f>);

impl Names for Current<'_, '_> {
    fn has_file(&self, name: &[u8]) -> bool {
        checked_path(name).is_ok_and(|path| self.0.has_file(&path))
    }

    fn has_folder(&self, name: &[u8]) -> bool {
        self.0.files().has_folder(name)
    }

    fn own_name(&self) -> Vec<u8> {
        self.0.files().own_name()
    }
}
