//! From the steps of a plan to the entries of a run, checked against what is there.

use std::collections::{HashMap, HashSet};
use std::ffi::{OsStr, OsString};
use std::path::{Path, PathBuf};

use rayon::prelude::*;
use tideline_core::internal::plan::{Contents, ExpectedState, Fingerprint, Plan, Step};

use crate::error::{CHANGED, Failure, GONE, JournalError, doing, reason_of};
use crate::files::{FileMetadata, FileSystem, Found};
use crate::names;
use crate::record::{
    Entry, ExtendedText, Known, NewFile, NewFolder, NewState, OldFile, OldState, PathText, Place, Site, hex,
};
use crate::roots::{Roots, is_absent, name_of};

/// A step of a plan at one path.
pub(crate) struct Job<'p> {
    /// The step.
    pub(crate) step: &'p Step,
    /// The number of the step.
    pub(crate) number: usize,
    /// What the system says of what is there.
    pub(crate) metadata: Option<FileMetadata>,
    /// Of a move: whether a rename does it.
    pub(crate) renames: bool,
    /// What the file there must hold, where the plan says so.
    pub(crate) expected: Option<Fingerprint>,
    /// Why it is left out; nothing when it is left out with the folder it would be in, or with the other half of its move.
    pub(crate) lost: Option<Option<String>>,
}

/// The entries of a run, in the order of their paths, and the step that each comes from.
pub(crate) struct Jobs<'p> {
    pub(crate) entries: Vec<Entry>,
    pub(crate) jobs: Vec<Job<'p>>,
}

/// Opens the roots of a plan; steps in folders that are not there are told when they are looked at.
pub(crate) fn roots_of<'f, F: FileSystem>(files: &'f F, plan: &Plan) -> Result<Roots<'f, F>, JournalError> {
    let mut roots = Roots::new(files);
    let mut add = |path: &Path| {
        roots.add(path).map(|_| ()).map_err(|error| JournalError::Changed {
            path: path.to_path_buf(),
            reason: format!("cannot be opened as a folder: {}", reason_of(&error)),
        })
    };
    for root in &plan.roots {
        add(root)?;
    }
    let beneath = |path: &Path| plan.roots.iter().any(|root| path.starts_with(root));
    let mut added: HashSet<&Path> = HashSet::new();
    let steps = plan.steps.iter().flat_map(Step::paths).filter(|path| !beneath(path));
    for folder in steps.filter_map(Path::parent) {
        if !added.iter().any(|known| folder.starts_with(known)) && added.insert(folder) {
            add(folder)?;
        }
    }
    Ok(roots)
}

impl<'p> Jobs<'p> {
    /// What every step of a plan does.
    ///
    /// # Errors
    /// When two steps are about one path.
    pub(crate) fn of<F: FileSystem>(plan: &'p Plan, roots: &Roots<'_, F>, files: &F) -> Result<Self, JournalError> {
        let mut placed = places(plan, roots)?;
        placed.par_sort_by(|one, other| one.place.cmp(&other.place));
        if let Some(pair) = placed.windows(2).find(|pair| pair[0].place == pair[1].place) {
            let path = roots.full(&pair[0].place);
            return Err(JournalError::Refused(format!(
                "cannot carry the plan out: two of its steps are about {}; nothing was written",
                path.display()
            )));
        }
        let new_folders: HashSet<&Place> =
            placed.iter().filter(|one| one.makes_folder()).map(|one| &one.place).collect();
        let going: HashSet<&Place> = placed.iter().filter(|one| one.removes_folder()).map(|one| &one.place).collect();
        let look = |one: &Placed<'p>| {
            let folder = one.place.folder();
            // In a new folder nothing stands yet.
            if !one.place.path.as_os_str().is_empty() && new_folders.contains(&folder) {
                return Ok(Found::Nothing);
            }
            roots.find(&one.place)
        };
        let found: Vec<_> = placed.par_iter().map(look).collect();
        let renamed = renamed(&placed, &found, roots, files);
        let mut jobs = Self { entries: Vec::with_capacity(placed.len()), jobs: Vec::with_capacity(placed.len()) };
        let mut aliases: Vec<(Place, Place)> = Vec::new();
        let mut tops: HashMap<Place, usize> = HashMap::new();
        let mut halves: HashMap<usize, usize> = HashMap::new();
        for (index, (one, found)) in placed.iter().zip(found).enumerate() {
            let folder = one.place.folder();
            let renames = renamed.contains(&one.number);
            let top = if one.place.path.as_os_str().is_empty() { None } else { tops.get(&folder).copied() };
            let checked = match found {
                Err(error) => Err(folder_failure(&error)),
                Ok(found) => match one.entry_parts(found) {
                    // What is there may have another name that is the same one here.
                    Err(failure) if one.expects_nothing() => Err(match alias_of(&one.place, roots, files) {
                        Some(other) => {
                            let alias = is_alias(&other);
                            aliases.push((one.place.beside(&other), one.place.clone()));
                            alias
                        }
                        None => failure,
                    }),
                    checked => checked,
                },
            };
            let (was, will, metadata, expected, lost) = match checked {
                Ok((was, metadata, expected)) => (was, one.will(renames), metadata, expected, None),
                Err(failure) => (OldState::Nothing, one.will(renames), None, None, Some(Some(failure.reason()))),
            };
            let lost = match top {
                // What goes into a folder that is left out is left out with it, and told with it.
                Some(top) if jobs.jobs[top].lost.is_some() => Some(None),
                _ => lost,
            };
            let site = match top {
                Some(_) if one.arrives && renames => Site::None,
                Some(top) => Site::Within(top),
                None => one.site(&was, renames, &going, roots, files),
            };
            if one.makes_folder() {
                tops.insert(one.place.clone(), top.unwrap_or(index));
            }
            let with = match one.step {
                Step::Move { .. } => halves.insert(one.number, index),
                _ => None,
            };
            if let Some(other) = with {
                jobs.entries[other].with = Some(index);
            }
            jobs.entries.push(Entry { place: one.place.clone(), was, will, site, with, prepared: None });
            jobs.jobs.push(Job { step: one.step, number: one.number, metadata, renames, expected, lost });
        }
        jobs.keep_aliases(&aliases);
        jobs.note_second_names();
        jobs.check_sources(plan, roots, files);
        jobs.pair_up();
        Ok(jobs)
    }

    /// What stands under another name that is the same one here does not go while that name is refused.
    fn keep_aliases(&mut self, aliases: &[(Place, Place)]) {
        for (there, refused) in aliases {
            let first = self.entries.partition_point(|entry| entry.place < *there);
            for index in first..self.entries.len() {
                if !there.contains(&self.entries[index].place) {
                    break;
                }
                let reason = format!("stays: {} is the same name on this file system", name_of(refused).display());
                self.jobs[index].lost.get_or_insert(Some(reason));
            }
        }
    }

    /// Several names of one file share a backup, and are names of one file again when they are put back.
    fn note_second_names(&mut self) {
        let mut first: HashMap<crate::files::Identity, usize> = HashMap::new();
        for (index, entry) in self.entries.iter_mut().enumerate() {
            let Some(metadata) = self.jobs[index].metadata.filter(|metadata| metadata.names > 1) else { continue };
            if let OldState::File(old) = &mut entry.was {
                match first.get(&metadata.identity) {
                    Some(other) => old.same_as = Some(*other),
                    None => {
                        first.insert(metadata.identity, index);
                    }
                }
            }
        }
    }

    /// What is only read must be as it was too.
    fn check_sources<F: FileSystem>(&mut self, plan: &Plan, roots: &Roots<'_, F>, files: &F) {
        let check = |source: &tideline_core::internal::plan::Source| -> Option<String> {
            // Where links are followed, what is read may be anywhere.
            if plan.follows_links {
                return None;
            }
            let place = roots.place(&source.path)?;
            let found = match roots.folder(&place.folder()) {
                Ok(_) if place.path.as_os_str().is_empty() => return None,
                Ok(folder) => files.find(crate::files::At::new(&*folder, name_of(&place))),
                Err(error) if is_absent(&error) => Ok(Found::Nothing),
                Err(error) => Err(error),
            };
            let holds = match (found, &source.expected) {
                (Ok(Found::Nothing), ExpectedState::Nothing) | (Ok(Found::Folder(_)), ExpectedState::Folder) => true,
                (Ok(Found::Link(_, to)), ExpectedState::Link(wanted)) => to == *wanted,
                (Ok(Found::File(metadata)), ExpectedState::Stamped(stamp, _)) => metadata.stamp == *stamp,
                _ => false,
            };
            (!holds).then(|| format!("depends on {}, which {CHANGED}", source.path.display()))
        };
        let reasons: Vec<Option<String>> = plan.sources.par_iter().map(check).collect();
        let broken: HashMap<usize, String> =
            plan.sources.iter().zip(reasons).filter_map(|(source, reason)| Some((source.step, reason?))).collect();
        if broken.is_empty() {
            return;
        }
        for index in 0..self.jobs.len() {
            if let Some(reason) = broken.get(&self.jobs[index].number) {
                self.jobs[index].lost.get_or_insert_with(|| Some(reason.clone()));
            }
            if let Site::Within(top) = self.entries[index].site
                && self.jobs[top].lost.is_some()
            {
                self.jobs[index].lost = Some(None);
            }
        }
    }

    /// Both halves of a move are done or none.
    pub(crate) fn pair_up(&mut self) {
        for index in 0..self.jobs.len() {
            if let Some(other) = self.entries[index].with
                && self.jobs[index].lost.is_some()
                && self.jobs[other].lost.is_none()
            {
                self.jobs[other].lost = Some(None);
            }
        }
    }

    /// Whether an entry is to be done.
    pub(crate) fn is_wanted(&self, index: usize) -> bool {
        self.jobs[index].lost.is_none()
    }

    /// Groups of new names in one folder that some file systems take for one.
    pub(crate) fn alike(&self) -> Vec<Vec<usize>> {
        let mut groups: HashMap<(Place, String), Vec<usize>> = HashMap::new();
        for (index, entry) in self.entries.iter().enumerate() {
            let comes = entry.was == OldState::Nothing && entry.will != NewState::Nothing;
            if comes && self.is_wanted(index) {
                let key = (entry.place.folder(), names::folded(name_of(&entry.place)));
                groups.entry(key).or_default().push(index);
            }
        }
        let mut groups: Vec<_> = groups.into_values().filter(|group| group.len() > 1).collect();
        groups.sort();
        groups
    }
}

/// A step at one of its paths.
struct Placed<'p> {
    step: &'p Step,
    number: usize,
    place: Place,
    /// Whether it is the path at which a file that moves will be.
    arrives: bool,
    /// Whether it is the path at which a file that moves is now.
    leaves: bool,
}

fn places<'p, F: FileSystem>(plan: &'p Plan, roots: &Roots<'_, F>) -> Result<Vec<Placed<'p>>, JournalError> {
    let mut placed = Vec::with_capacity(plan.steps.len());
    let set: HashSet<PathBuf> = plan
        .steps
        .iter()
        .filter(|step| !matches!(step, Step::SetFolder { .. }))
        .map(|step| step.path().to_path_buf())
        .collect();
    for (number, step) in plan.steps.iter().enumerate() {
        // What is set of a folder that is made or goes anyway is set by that step.
        if matches!(step, Step::SetFolder { path, .. } if set.contains(path)) {
            continue;
        }
        let place = |path: &Path| {
            roots.place(path).ok_or_else(|| JournalError::Changed {
                path: path.to_path_buf(),
                reason: "is in no folder that could be opened".to_owned(),
            })
        };
        if let Step::Move { from, .. } = step {
            placed.push(Placed { step, number, place: place(from)?, arrives: false, leaves: true });
        }
        let arrives = matches!(step, Step::Move { .. });
        placed.push(Placed { step, number, place: place(step.path())?, arrives, leaves: false });
    }
    Ok(placed)
}

/// The moves that a rename does, by the numbers of their steps: nothing of the file changes, and both places are on one file system.
fn renamed<F: FileSystem>(
    placed: &[Placed<'_>],
    found: &[std::io::Result<Found>],
    roots: &Roots<'_, F>,
    files: &F,
) -> HashSet<usize> {
    let device = |place: &Place| {
        let mut folder = place.folder();
        loop {
            match roots.folder(&folder).and_then(|open| files.metadata(&open)) {
                Ok(metadata) => return Some(metadata.identity.0),
                Err(_) if folder.path.as_os_str().is_empty() => return None,
                Err(_) => folder = folder.folder(),
            }
        }
    };
    let mut plain: HashMap<usize, Option<u64>> = HashMap::new();
    for (one, found) in placed.iter().zip(found).filter(|(one, _)| one.leaves) {
        if let Ok(Found::File(metadata)) = found
            && one.is_plain_move(metadata)
        {
            plain.insert(one.number, device(&one.place));
        }
    }
    let arriving = placed.iter().filter(|one| one.arrives);
    let same = arriving.filter(|one| plain.get(&one.number).is_some_and(|from| *from == device(&one.place)));
    same.map(|one| one.number).collect()
}

type Checked = (OldState, Option<FileMetadata>, Option<Fingerprint>);

impl Placed<'_> {
    fn makes_folder(&self) -> bool {
        matches!(self.step, Step::MakeFolder { .. })
    }

    fn expects_nothing(&self) -> bool {
        match self.step {
            Step::Move { .. } => self.arrives,
            Step::MakeFolder { expected, .. } | Step::Write { expected, .. } => *expected == ExpectedState::Nothing,
            _ => false,
        }
    }

    /// Whether a folder goes here, to leave nothing or a file.
    fn removes_folder(&self) -> bool {
        matches!(self.step, Step::RemoveFolder { .. } | Step::Write { expected: ExpectedState::Folder, .. })
    }

    /// Whether a rename does this move of a file that is so: it changes nothing of the file itself, whose other names would change too.
    fn is_plain_move(&self, metadata: &FileMetadata) -> bool {
        matches!(self.step, Step::Move { contents: None, attributes, .. }
            if attributes.mode.is_none_or(|mode| mode == metadata.mode)
                && attributes.modified.is_none_or(|modified| Some(modified) == metadata.stamp.modified)
                && attributes.owner.is_none()
                && attributes.extended.is_none())
    }

    fn will(&self, renames: bool) -> NewState {
        match self.step {
            Step::MakeFolder { attributes, .. } | Step::SetFolder { attributes, .. } => NewState::Folder(NewFolder {
                made: self.makes_folder(),
                mode: attributes.mode,
                modified: attributes.modified,
                owner: attributes.owner,
                extended: attributes.extended.as_ref().map(|list| list.iter().map(ExtendedText::of).collect()),
            }),
            Step::Remove { .. } | Step::RemoveFolder { .. } => NewState::Nothing,
            Step::Move { .. } if self.leaves => NewState::Nothing,
            Step::Move { contents: None, .. } if renames => NewState::Moved,
            Step::Move { contents: None, .. } => NewState::File(NewFile::default()),
            Step::Move { contents: Some(contents), .. } | Step::Write { contents, .. } => match contents {
                Contents::Link(target) => NewState::Link { target: PathText::of(target) },
                Contents::Bytes(bytes) => NewState::File(NewFile {
                    size: bytes.len() as u64,
                    hash: hex(&Fingerprint::of(bytes).hash),
                    ..NewFile::default()
                }),
                Contents::CopyOf(_, Some(seen)) => NewState::File(NewFile { size: seen.size, ..NewFile::default() }),
                Contents::Taken(_, print) | Contents::Backup(_, print) => {
                    NewState::File(NewFile { size: print.size, hash: hex(&print.hash), ..NewFile::default() })
                }
                Contents::CopyOf(_, None) | Contents::SameAs(_) => NewState::File(NewFile::default()),
            },
        }
    }

    /// What is there, if it is what the plan expects.
    fn entry_parts(&self, found: Found) -> Result<Checked, Failure> {
        let changed = |reason: &str| Err(Failure::changed(reason));
        let expected = match self.step {
            Step::Move { .. } if self.arrives => &ExpectedState::Nothing,
            Step::MakeFolder { expected, .. }
            | Step::Write { expected, .. }
            | Step::Remove { expected, .. }
            | Step::Move { expected, .. } => expected,
            Step::SetFolder { .. } | Step::RemoveFolder { .. } => &ExpectedState::Folder,
        };
        match (found, expected) {
            (Found::Folder(metadata), ExpectedState::Folder) => {
                Ok((OldState::Folder(Known::of(&metadata, &[])), Some(metadata), None))
            }
            (_, ExpectedState::Folder) => changed("is no folder any more"),
            (Found::Link(metadata, target), ExpectedState::Link(wanted)) if target == *wanted => Ok((
                OldState::Link { target: PathText::of(&target), known: Known::of(&metadata, &[]) },
                Some(metadata),
                None,
            )),
            (Found::Link(..), ExpectedState::Link(_)) => changed("points elsewhere than when the plan was made"),
            (Found::Link(..), _) => changed("is a link, and links are not written through"),
            (Found::Other, _) => changed("is a device or a pipe, and not a file"),
            (Found::Folder(_), _) => changed("is a folder"),
            (Found::Nothing, ExpectedState::Nothing | ExpectedState::Anything) => Ok((OldState::Nothing, None, None)),
            (Found::Nothing, _) => changed(GONE),
            (Found::File(_), ExpectedState::Nothing) => changed("exists already"),
            (Found::File(_), ExpectedState::Link(_)) => changed("is a file now, and was a link when the plan was made"),
            (Found::File(metadata), expected) => {
                let print = match expected {
                    ExpectedState::Stamped(seen, None) if *seen != metadata.stamp => return changed(CHANGED),
                    ExpectedState::File(print) | ExpectedState::Stamped(_, Some(print)) => Some(*print),
                    _ => None,
                };
                let known = Known::of(&metadata, &[]);
                let (size, hash) = (metadata.stamp.size, String::new());
                let old = OldFile { size, hash, known, backup: None, same_as: None, later: false };
                Ok((OldState::File(old), Some(metadata), print))
            }
        }
    }

    /// Where the temporary file goes. What is taken out of a folder that goes waits in the nearest folder that stays.
    fn site<F: FileSystem>(
        &self,
        was: &OldState,
        renames: bool,
        going: &HashSet<&Place>,
        roots: &Roots<'_, F>,
        files: &F,
    ) -> Site {
        match self.step {
            Step::SetFolder { .. } | Step::RemoveFolder { .. } => return Site::None,
            Step::Move { .. } if renames => return Site::None,
            _ => {}
        }
        let takes_away = self.leaves || matches!(self.step, Step::Remove { .. });
        let folder = self.place.folder();
        if !takes_away || *was == OldState::Nothing || !going.contains(&folder) {
            return Site::Beside;
        }
        let mut above = folder.clone();
        while going.contains(&above) {
            above = above.folder();
        }
        // On another file system it cannot wait there.
        let device = |place: &Place| {
            roots.folder(place).and_then(|folder| files.metadata(&folder)).map(|metadata| metadata.identity.0)
        };
        match (device(&folder), device(&above)) {
            (Ok(one), Ok(other)) if one == other => Site::above(&above.path),
            _ => Site::Beside,
        }
    }
}

/// Why nothing can be put at a place where something stands under another name.
pub(crate) fn is_alias(other: &OsStr) -> Failure {
    Failure::Changed(format!("is the same name as {} on this file system", other.display()))
}

/// The name of what stands at a place, where some file systems take two names for one.
pub(crate) fn alias_of<F: FileSystem>(place: &Place, roots: &Roots<'_, F>, files: &F) -> Option<OsString> {
    let folder = roots.folder(&place.folder()).ok()?;
    let entries = files.list(&folder).ok()?;
    let folded = names::folded(name_of(place));
    if entries.iter().any(|name| name == name_of(place)) {
        return None;
    }
    entries.into_iter().find(|name| names::folded(name) == folded)
}

/// Why a folder cannot be reached.
fn folder_failure(error: &std::io::Error) -> Failure {
    match error.kind() {
        std::io::ErrorKind::NotFound => Failure::changed("cannot be written: its folder is not there"),
        std::io::ErrorKind::NotADirectory => Failure::changed(
            "lies behind something that is no folder, or behind a link, and links are not written through",
        ),
        _ if error.to_string().contains("symbolic links") => {
            Failure::changed("lies behind a link, and links are not written through")
        }
        _ => match doing::<()>("looked at", Err(std::io::Error::new(error.kind(), error.to_string()))) {
            Err(failure) => failure,
            Ok(()) => Failure::changed("could not be looked at"),
        },
    }
}
