//! One part of a patch on its way into a target.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

use super::super::model::{Binary, FilePatch, Operation};
use super::super::place::place;
use super::super::placement::{HunkPlacement, PlaceOptions, Placement};
use super::state::{FileState, Now, State};
use super::{AppliedPart, ApplyOptions, Found, Outcome, PartRefusal, TargetError, TargetFiles};

/// The files of a target that a part is about.
#[derive(Clone, Debug)]
pub(super) struct Paths {
    pub(super) before: Option<PathBuf>,
    pub(super) after: Option<PathBuf>,
    /// Another file that could be meant.
    pub(super) other: Option<PathBuf>,
}

impl Paths {
    pub(super) fn all(&self) -> impl Iterator<Item = &PathBuf> {
        [&self.before, &self.after, &self.other].into_iter().flatten()
    }

    /// The same, each once.
    pub(super) fn distinct(&self) -> BTreeSet<&PathBuf> {
        self.all().collect()
    }
}

/// A file whose hunks were placed ahead of its turn, and what was read of it if nothing was known of it.
pub(super) struct Ahead {
    found: Option<Found>,
    placement: Placement,
}

pub(super) struct PatchPart<'p> {
    pub(super) file: FilePatch,
    pub(super) paths: Paths,
    /// What conflicts call the patch.
    pub(super) name: &'p str,
    pub(super) options: &'p ApplyOptions,
}

impl PatchPart<'_> {
    /// Reads and places a file that only changes.
    pub(super) fn ahead(&self, state: &State<'_>, files: &dyn TargetFiles) -> Option<Ahead> {
        let path = self.paths.before.as_ref().filter(|before| self.paths.after.as_ref() == Some(*before))?;
        if self.paths.other.is_some() || self.file.binary.is_some() {
            return None;
        }
        if let Some(known) = state.known(path) {
            let Now::File(bytes) = &known.now else { return None };
            return Some(Ahead { found: None, placement: self.placed(bytes) });
        }
        // What goes wrong here goes wrong again in its turn, and is told then.
        let found = files.look(path).ok()?;
        let Found::File { bytes, .. } = &found else { return None };
        let placement = self.placed(bytes);
        Some(Ahead { found: Some(found), placement })
    }

    /// The file that moves or is copied, as it is before the patch.
    pub(super) fn take(&self, state: &mut State<'_>) -> Result<Option<FileState>, TargetError> {
        match (self.file.operation, &self.paths.before, &self.paths.after) {
            (Operation::Move | Operation::Copy, Some(before), Some(after)) if before != after => {
                let file = state.file(before)?;
                Ok((file.now != Now::Nothing).then(|| file.clone()))
            }
            _ => Ok(None),
        }
    }

    /// Leaves the place of a file that moves.
    pub(super) fn vacate(&self, taken: Option<&FileState>, state: &mut State<'_>) {
        if self.file.operation == Operation::Move
            && taken.is_some()
            && let Some(Ok(file)) = self.paths.before.as_ref().map(|path| state.file(path))
        {
            (file.now, file.moved_from) = (Now::Nothing, None);
        }
    }

    /// Puts the part in.
    pub(super) fn put_in(
        &self,
        state: &mut State<'_>,
        taken: Option<FileState>,
        ahead: Option<Ahead>,
    ) -> Result<AppliedPart, TargetError> {
        let path = self.paths.after.as_ref().or(self.paths.before.as_ref()).cloned().unwrap_or_default();
        let other = self.paths.other.clone();
        if self.file.binary == Some(Binary::Differs) {
            let outcome = Outcome::Refused(PartRefusal::NotCarried);
            return Ok(self.applied(path, other, outcome, Vec::new(), false));
        }
        let relocates = self.paths.before != self.paths.after;
        let placement = ahead.map(|ahead| {
            ahead.found.into_iter().for_each(|found| state.adopt(&path, found));
            ahead.placement
        });
        if !self.file.is_new() && !self.file.is_gone() && state.file(&path)?.is_folder() {
            return Err(TargetError(format!("cannot write {}: it is a folder", path.display())));
        }
        match (self.file.operation, &self.paths.before, &self.paths.after) {
            (Operation::Uncopy, Some(copy), Some(of)) if relocates => self.uncopy(copy, of, state),
            (Operation::Move | Operation::Copy, Some(before), Some(after)) if relocates => {
                self.relocate(before, after, taken, state)
            }
            _ if self.file.is_gone() && !self.file.is_new() => self.delete(&path, state),
            _ if self.file.is_new() => self.create(&path, state),
            _ if self.file.expects_nothing() && state.file(&path)?.now == Now::Nothing => self.create(&path, state),
            _ => self.change(path, state, placement),
        }
    }

    /// The part when nothing was done about a file.
    fn untouched(&self, path: &Path, outcome: Outcome) -> Result<AppliedPart, TargetError> {
        Ok(self.applied(path.to_path_buf(), None, outcome, Vec::new(), false))
    }

    fn refused(&self, path: &Path, refusal: PartRefusal) -> Result<AppliedPart, TargetError> {
        self.untouched(path, Outcome::Refused(refusal))
    }

    fn applied(
        &self,
        path: PathBuf,
        other: Option<PathBuf>,
        outcome: Outcome,
        fits: Vec<HunkPlacement>,
        changes: bool,
    ) -> AppliedPart {
        AppliedPart { path, other, outcome, changes, binary: self.file.binary.is_some(), hunks: Vec::new(), fits }
    }

    fn placed(&self, text: &[u8]) -> Placement {
        let marks = self.options.mark.then(|| self.name.to_owned());
        let options = PlaceOptions::default()
            .tolerance(self.options.tolerance)
            .file_rules(Some(&self.options.file_rules))
            .mark_conflicts(marks);
        place(text, &self.file.hunks, &options)
    }

    /// Permission bits of a new file, if the patch names them.
    fn new_mode(&self) -> Option<u32> {
        self.file.modes.1.filter(|_| !self.file.is_link()).map(|mode| mode & 0o777)
    }

    /// The permission bits that a file gets that has these.
    fn mode(&self, has: Option<u32>) -> Result<Option<u32>, PartRefusal> {
        if self.file.is_link() {
            return Ok(None);
        }
        let bits = |mode: Option<u32>| mode.map(|mode| mode & 0o777);
        let (Some(old), Some(new)) = (bits(self.file.modes.0), bits(self.file.modes.1)) else { return Ok(None) };
        let Some(has) = has.map(|mode| mode & 0o777) else { return Ok(Some(new)) };
        if old == new || has == new {
            return Ok(None);
        }
        // Most such patches know only whether a file can be run; whoever may read it may run it then.
        let runs = |mode: u32| mode & 0o111 != 0;
        if [old, new].iter().all(|mode| matches!(mode, 0o644 | 0o755)) {
            let wanted = runnable(has, runs(new));
            return Ok((wanted != has).then_some(wanted));
        }
        if has == old { Ok(Some(new)) } else { Err(PartRefusal::Mode(has)) }
    }

    fn create(&self, path: &Path, state: &mut State<'_>) -> Result<AppliedPart, TargetError> {
        let (made, fits) = match &self.file.binary {
            Some(binary) => match contents(binary, b"") {
                Some(bytes) => (bytes, Vec::new()),
                None => return self.refused(path, PartRefusal::BinaryDiffers),
            },
            None => {
                let placement = self.placed(b"");
                (placement.text, placement.fits)
            }
        };
        let will = if self.file.is_link() { Now::Link(made.into()) } else { Now::File(made.into()) };
        let file = state.file(path)?;
        match &file.now {
            Now::Nothing => {
                (file.now, file.mode) = (will, self.new_mode());
                Ok(self.applied(path.to_path_buf(), None, Outcome::Created, fits, true))
            }
            there if *there == will => {
                let runs = self.new_mode().zip(file.has_mode).map(|(new, has)| runnable(has, new & 0o111 != 0));
                file.mode = runs.filter(|mode| Some(*mode) != file.has_mode.map(|mode| mode & 0o777)).or(file.mode);
                let changes = file.mode.is_some();
                let outcome = if changes { Outcome::Changed } else { Outcome::AlreadyIn };
                Ok(self.applied(path.to_path_buf(), None, outcome, Vec::new(), changes))
            }
            // Hunks that expect nothing may go in front of what is there, where both names are given.
            Now::File(there) if self.file.before.is_some() && !self.file.absent.0 => {
                let placement = self.placed(there);
                let outcome = if placement.is_already_in() { Outcome::AlreadyIn } else { Outcome::Changed };
                let changes = *there != placement.text;
                file.now = Now::File(placement.text.into());
                Ok(self.applied(path.to_path_buf(), None, outcome, placement.fits, changes))
            }
            _ => self.refused(path, PartRefusal::Exists),
        }
    }

    fn delete(&self, path: &Path, state: &mut State<'_>) -> Result<AppliedPart, TargetError> {
        let file = state.file(path)?;
        let text = match &file.now {
            Now::Nothing => return self.untouched(path, Outcome::AlreadyIn),
            Now::File(bytes) if !self.file.is_link() => bytes.clone(),
            Now::Link(to) if self.file.is_link() => to.clone(),
            _ => return self.refused(path, PartRefusal::OtherType),
        };
        let (is_all, fits) = match &self.file.binary {
            Some(Binary::Carried(_, Some(back))) => (back.of(b"").is_some_and(|bytes| bytes == text), Vec::new()),
            Some(_) => (false, Vec::new()),
            None => {
                let placement = place(&text, &self.file.hunks, &PlaceOptions::default().tolerance(0));
                (placement.is_whole() && placement.text.is_empty(), placement.fits)
            }
        };
        if !is_all {
            return self.refused(path, PartRefusal::HoldsOther);
        }
        (file.now, file.moved_from) = (Now::Nothing, None);
        Ok(self.applied(path.to_path_buf(), None, Outcome::Deleted, fits, true))
    }

    /// Removes a copy that was made of another file.
    fn uncopy(&self, copy: &Path, of: &Path, state: &mut State<'_>) -> Result<AppliedPart, TargetError> {
        let source = state.file(of)?.now.clone();
        let file = state.file(copy)?;
        let outcome = match (&file.now, source) {
            (Now::Nothing, _) => Outcome::AlreadyIn,
            (Now::File(bytes), Now::File(source)) => {
                let placement = place(bytes, &self.file.hunks, &PlaceOptions::default().tolerance(0));
                if placement.is_whole() && placement.text == source {
                    file.now = Now::Nothing;
                    Outcome::Deleted
                } else {
                    Outcome::Refused(PartRefusal::HoldsOther)
                }
            }
            _ => Outcome::Refused(PartRefusal::HoldsOther),
        };
        let changes = outcome == Outcome::Deleted;
        Ok(self.applied(copy.to_path_buf(), None, outcome, Vec::new(), changes))
    }

    /// Moves or copies a file, with the hunks that fit.
    fn relocate(
        &self,
        before: &Path,
        after: &Path,
        taken: Option<FileState>,
        state: &mut State<'_>,
    ) -> Result<AppliedPart, TargetError> {
        let moves = self.file.operation == Operation::Move;
        let there = state.file(after)?.now.clone();
        let Some(taken) = taken else {
            // It may have moved already.
            return match there {
                Now::Nothing => self.untouched(after, Outcome::Missing),
                _ => self.change(after.to_path_buf(), state, None),
            };
        };
        let (made, fits) = match &taken.now {
            Now::File(bytes) => match &self.file.binary {
                Some(binary) => (contents(binary, bytes).map(|made| Now::File(made.into())), Vec::new()),
                None => {
                    let placement = self.placed(bytes);
                    (Some(Now::File(placement.text.into())), placement.fits)
                }
            },
            other => (Some(other.clone()).filter(|_| self.file.hunks.is_empty()), Vec::new()),
        };
        let mode = self.mode(taken.has_mode);
        let refusal = match (&made, &mode) {
            (Some(made), _) if !moves && there == *made => {
                return self.untouched(after, Outcome::AlreadyIn);
            }
            _ if there != Now::Nothing => Some(PartRefusal::Exists),
            (None, _) => Some(PartRefusal::BinaryDiffers),
            (_, Err(refusal)) => Some(refusal.clone()),
            _ => None,
        };
        let (Some(made), Ok(mode), None) = (made, mode, &refusal) else {
            if moves {
                // It stays where it is, unless something else came there.
                let file = state.file(before)?;
                if file.now == Now::Nothing {
                    *file = taken;
                }
            }
            return self.refused(after, refusal.unwrap_or(PartRefusal::HoldsOther));
        };
        let file = state.file(after)?;
        (file.now, file.mode) = (made, mode.or(taken.mode).or(taken.has_mode.filter(|_| !moves)));
        file.has_mode = file.has_mode.or(taken.has_mode);
        if moves {
            file.moved_from = Some(taken.moved_from.unwrap_or_else(|| before.to_path_buf()));
        }
        let from = before.to_path_buf();
        let outcome = if moves { Outcome::Moved(from) } else { Outcome::Copied(from) };
        Ok(self.applied(after.to_path_buf(), None, outcome, fits, true))
    }

    /// Changes a file; `ahead` is where its hunks go, if that is known already.
    fn change(
        &self,
        path: PathBuf,
        state: &mut State<'_>,
        ahead: Option<Placement>,
    ) -> Result<AppliedPart, TargetError> {
        let (path, other) = self.better(path, state)?;
        let file = state.file(&path)?;
        let refused = |outcome| Ok(self.applied(path.clone(), other.clone(), outcome, Vec::new(), false));
        let text = match &file.now {
            Now::Nothing => return refused(Outcome::Missing),
            Now::File(bytes) if !self.file.is_link() => bytes,
            Now::Link(to) if self.file.is_link() => to,
            _ => return refused(Outcome::Refused(PartRefusal::OtherType)),
        };
        let mode = match self.mode(file.mode.or(file.has_mode)) {
            Ok(mode) => mode,
            Err(refusal) => return refused(Outcome::Refused(refusal)),
        };
        let placement = match &self.file.binary {
            Some(binary) => match changed(binary, text) {
                Some(made) => Placement { fits: Vec::new(), text: made },
                None => return refused(Outcome::Refused(PartRefusal::BinaryDiffers)),
            },
            None => ahead.unwrap_or_else(|| self.placed(text)),
        };
        let changes = *text != placement.text || mode.is_some();
        let outcome = match () {
            () if placement.is_whole() && !changes => Outcome::AlreadyIn,
            () if placement.text.is_empty() && !text.is_empty() => Outcome::Emptied,
            () => Outcome::Changed,
        };
        file.now =
            if self.file.is_link() { Now::Link(placement.text.into()) } else { Now::File(placement.text.into()) };
        file.mode = mode.or(file.mode);
        Ok(self.applied(path, other, outcome, placement.fits, changes))
    }

    /// Of two files that could be meant, the one that all hunks fit; and the other one.
    fn better(&self, path: PathBuf, state: &mut State<'_>) -> Result<(PathBuf, Option<PathBuf>), TargetError> {
        let Some(other) = self.paths.other.clone() else { return Ok((path, None)) };
        let mut fits = |path: &Path| -> Result<bool, TargetError> {
            let file = state.file(path)?;
            Ok(matches!(&file.now, Now::File(bytes) if self.placed(bytes).is_whole()))
        };
        Ok(if !fits(&path)? && fits(&other)? { (other, Some(path)) } else { (path, Some(other)) })
    }
}

/// Permission bits like these, with which a file can be run, or not.
fn runnable(mode: u32, runs: bool) -> u32 {
    if runs { mode & 0o777 | (mode & 0o444) >> 2 } else { mode & 0o666 }
}

/// The contents that a patch carries, made out of others where need be.
fn contents(binary: &Binary, other: &[u8]) -> Option<Vec<u8>> {
    match binary {
        Binary::Differs => None,
        Binary::Carried(there, _) => there.of(other),
    }
}

/// Contents that are not text, changed; none unless they are what the patch was made for, or what it makes.
fn changed(binary: &Binary, text: &[u8]) -> Option<Vec<u8>> {
    let Binary::Carried(there, back) = binary else { return None };
    let made = there.of(text);
    let back = back.as_ref()?;
    let is_old = made.as_ref().and_then(|made| back.of(made)).is_some_and(|old| old == text);
    let is_new = || back.of(text).and_then(|old| there.of(&old)).is_some_and(|new| new == text);
    if is_old { made } else { is_new().then(|| text.to_vec()) }
}
