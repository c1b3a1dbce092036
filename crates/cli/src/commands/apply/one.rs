//! Putting one patch into the files of a target.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use rayon::prelude::*;
use tideline_core::patch::{
    FilePatch, Fit, Hunk, Misfit, Patch, PlaceOptions, Placement, folders_to_drop, place, without_folders,
};
use tideline_core::plan::checked_name;
use tideline_core::rules::Lens;
use tideline_views::terminal::{AppliedFile, AppliedHow};

use super::target::{Target, TargetFile};

/// How patches are put in.
pub(super) struct Manner {
    pub(super) drop_folders: Option<usize>,
    pub(super) slack: usize,
    pub(super) lens: Lens,
    pub(super) mark: bool,
    /// The one file that the patch is for, whatever names it holds.
    pub(super) into_file: Option<PathBuf>,
}

/// What became of one patch.
pub(super) struct Outcome {
    pub(super) files: Vec<AppliedFile>,
    /// Leading folders that were dropped from its names.
    pub(super) dropped: usize,
    /// What does not fit, as a patch of its own.
    pub(super) leftovers: Vec<FilePatch>,
}

/// Puts a patch into a target, in memory.
pub(super) fn put_in(patch: Patch, name: &str, target: &mut Target, manner: &Manner) -> Result<Outcome> {
    let there = |name: &[u8]| checked_name(name).is_ok_and(|path| target.exists(&path));
    let dropped = manner.drop_folders.unwrap_or_else(|| folders_to_drop(&patch.files, there));
    if manner.into_file.is_some() && patch.files.len() != 1 {
        bail!("cannot put {name} into one file: it is about {} files", patch.files.len());
    }
    let mut outcome = Outcome { files: Vec::new(), dropped, leftovers: Vec::new() };
    let mut seen = BTreeSet::new();
    let mut jobs = Vec::with_capacity(patch.files.len());
    for file in patch.files {
        let doing = || format!("cannot apply {name}, line {}", file.line);
        if let Some(reason) = &file.unfit {
            let about = file.after.as_ref().or(file.before.as_ref()).map(|name| shown(name)).unwrap_or_default();
            bail!("{}: the part about {about} cannot be carried out: {reason}", doing());
        }
        let paths = Paths::of(&file, dropped, manner, target).with_context(doing)?;
        for path in [&paths.before, &paths.after].into_iter().flatten().collect::<BTreeSet<_>>() {
            if !seen.insert(path.clone()) {
                bail!("{}: the patch has two parts about {}", doing(), path.display());
            }
        }
        jobs.push(FileJob { file, paths, name, manner });
    }
    // Most files only change, and can be read and placed side by side.
    let ahead: Vec<Option<Ahead>> = jobs.par_iter().map(|job| job.ahead(target)).collect();
    for (job, ahead) in jobs.into_iter().zip(ahead) {
        let line = job.file.line;
        let (how, fits) = job.put_in(target, ahead).with_context(|| format!("cannot apply {name}, line {line}"))?;
        let applied = AppliedFile { path: job.paths.shown().to_path_buf(), how, fits, hunks: Vec::new() };
        if !applied.fits() {
            outcome.leftovers.push(leftover(&job.file, &applied));
        }
        outcome.files.push(AppliedFile { hunks: job.file.hunks, ..applied });
    }
    Ok(outcome)
}

fn shown(name: &[u8]) -> String {
    String::from_utf8_lossy(name).escape_debug().to_string()
}

/// The part of a file that found no place.
fn leftover(file: &FilePatch, applied: &AppliedFile) -> FilePatch {
    let hunks = file.hunks.iter().zip(&applied.fits);
    let left: Vec<Hunk> =
        hunks.filter(|(_, fit)| matches!(fit, Fit::Misfit(_))).map(|(hunk, _)| hunk.clone()).collect();
    FilePatch { hunks: if applied.fits.is_empty() { file.hunks.clone() } else { left }, ..file.clone() }
}

/// The files of a target that a part of a patch is about.
struct Paths {
    before: Option<PathBuf>,
    after: Option<PathBuf>,
}

impl Paths {
    fn of(file: &FilePatch, dropped: usize, manner: &Manner, target: &Target) -> Result<Self> {
        if let Some(path) = &manner.into_file {
            let of = |name: &Option<Vec<u8>>| name.as_ref().map(|_| path.clone());
            return Ok(Self { before: of(&file.before), after: of(&file.after) });
        }
        let path = |name: &Option<Vec<u8>>| -> Result<Option<PathBuf>> {
            let Some(name) = name else { return Ok(None) };
            // The name is checked as it was written, before anything is dropped from it.
            checked_name(name).with_context(|| format!("the name {} is not followed", shown(name)))?;
            let short = without_folders(name, dropped)
                .with_context(|| format!("{} has no {dropped} leading folders to drop", shown(name)))?;
            Ok(Some(checked_name(short).with_context(|| format!("the name {} is not followed", shown(short)))?))
        };
        let (before, after) = (path(&file.before)?, path(&file.after)?);
        Ok(match (before, after) {
            // Two names of one file: the one that exists is meant.
            (Some(before), Some(after)) if before != after && !file.renames => {
                let one = if target.exists(&after) || !target.exists(&before) { after } else { before };
                Self { before: Some(one.clone()), after: Some(one) }
            }
            (before, after) => Self { before, after },
        })
    }

    fn shown(&self) -> &Path {
        self.after.as_deref().or(self.before.as_deref()).unwrap_or(Path::new(""))
    }
}

/// One part of a patch on its way into a target.
struct FileJob<'p> {
    file: FilePatch,
    paths: Paths,
    name: &'p str,
    manner: &'p Manner,
}

impl FileJob<'_> {
    /// Reads and places a file that only changes and that nothing has been done to.
    fn ahead(&self, target: &Target) -> Option<Ahead> {
        let path = self.paths.before.as_ref().filter(|before| self.paths.after.as_ref() == Some(*before))?;
        if target.knows(path) {
            return None;
        }
        // What goes wrong here goes wrong again in its turn, and is told then.
        let file = target.read(path).ok()?;
        let placement = self.placed(file.will.as_deref()?);
        Some((file, placement))
    }

    fn put_in(&self, target: &mut Target, ahead: Option<Ahead>) -> Result<Became> {
        match (&self.paths.before, &self.paths.after) {
            (None, Some(path)) => self.create(path, target),
            (Some(path), None) => self.delete(path, target),
            (Some(before), Some(after)) if before != after => self.rename(before, after, target),
            (Some(path), Some(_)) => self.change(path, target, ahead),
            (None, None) => bail!("it names no file"),
        }
    }

    fn placed(&self, text: &[u8]) -> Placement {
        let marks = self.manner.mark.then(|| self.name.to_owned());
        let options = PlaceOptions::default().slack(self.manner.slack).lens(Some(&self.manner.lens)).marks(marks);
        place(text, &self.file.hunks, &options)
    }

    fn mode(&self) -> Option<u32> {
        self.file.modes.1.map(|mode| mode & 0o777)
    }

    fn create(&self, path: &Path, target: &mut Target) -> Result<Became> {
        let placement = self.placed(b"");
        let file = target.file(path)?;
        match &file.will {
            Some(there) if *there == placement.text => Ok((AppliedHow::AlreadyIn, Vec::new())),
            Some(_) => bail!("the patch creates {}, which exists already and holds something else", path.display()),
            None => {
                (file.will, file.mode) = (Some(placement.text), self.mode());
                Ok((AppliedHow::Created, placement.fits))
            }
        }
    }

    fn delete(&self, path: &Path, target: &mut Target) -> Result<Became> {
        let file = target.file(path)?;
        let Some(text) = file.will.clone() else { return Ok((AppliedHow::AlreadyIn, Vec::new())) };
        let placement = self.placed(&text);
        if !placement.is_whole() || !placement.text.is_empty() {
            bail!("the patch deletes {}, which does not hold what it did when the patch was made", path.display());
        }
        file.will = None;
        Ok((AppliedHow::Deleted, placement.fits))
    }

    fn rename(&self, before: &Path, after: &Path, target: &mut Target) -> Result<Became> {
        let Some(text) = target.file(before)?.will.clone() else {
            if target.file(after)?.will.is_some() {
                return self.change(after, target, None);
            }
            return Ok((AppliedHow::Missing, Vec::new()));
        };
        if target.file(after)?.will.is_some() {
            bail!("the patch moves {} to {}, which exists already", before.display(), after.display());
        }
        let placement = self.placed(&text);
        if !placement.is_whole() && !self.manner.mark {
            return Ok((AppliedHow::Moved(before.to_path_buf()), placement.fits));
        }
        target.file(before)?.will = None;
        let earlier = target.file(before)?;
        let origin = earlier.moved_from.take().unwrap_or_else(|| before.to_path_buf());
        let mode = self.mode().or(earlier.mode);
        let file = target.file(after)?;
        (file.will, file.mode, file.moved_from) = (Some(placement.text), mode, Some(origin));
        Ok((AppliedHow::Moved(before.to_path_buf()), placement.fits))
    }

    fn change(&self, path: &Path, target: &mut Target, ahead: Option<Ahead>) -> Result<Became> {
        let (file, placement) = match ahead {
            Some((file, placement)) => (target.adopt(path, file)?, placement),
            None => {
                let file = target.file(path)?;
                let Some(text) = &file.will else { return Ok((AppliedHow::Missing, Vec::new())) };
                let placement = self.placed(text);
                (file, placement)
            }
        };
        let all_in = !placement.fits.is_empty() && placement.fits.iter().all(|fit| matches!(fit, Fit::AlreadyIn(_)));
        file.will = Some(placement.text);
        file.mode = self.mode().or(file.mode);
        let how = if all_in { AppliedHow::AlreadyIn } else { AppliedHow::Changed };
        Ok((how, placement.fits))
    }
}

/// A file that was read and the hunks in it, ahead of its turn.
type Ahead = (TargetFile, Placement);

/// What became of a file and its hunks.
type Became = (AppliedHow, Vec<Fit>);

/// The words for a hunk that has no place, for programs.
pub(super) fn reason(misfit: &Misfit) -> String {
    match misfit {
        Misfit::Nowhere { line, .. } => format!("its lines stand nowhere; most like them is line {}", line + 1),
        Misfit::Ambiguous(one, two) => format!("lines {} and {} are equally near", one + 1, two + 1),
    }
}
