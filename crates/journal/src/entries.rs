//! What a plan does, path by path, checked against what is there.

use std::collections::{HashMap, HashSet};
use std::path::{Path, PathBuf};

use rayon::prelude::*;
use tideline_core::plan::{Contents, Fingerprint, Moment, Plan, Standing, Step};

use crate::carry::{Journal, JournalError, LeftOut, Noted, Settled, Trouble, doing};
use crate::files::{Found, FoundFile};
use crate::record::{Entry, PathText, Touched, Was, Will, hex};

/// A step that is as it was planned, and what it does.
pub(crate) struct Job<'p> {
    pub(crate) step: &'p Step,
    /// The file that stands there.
    pub(crate) file: Option<FoundFile>,
    /// One entry; of a move, two.
    pub(crate) entries: Vec<Entry>,
}

/// Where new folders are made and filled before they are put in their places.
struct Sites {
    folders: HashMap<PathBuf, PathBuf>,
    run: u64,
}

impl Sites {
    fn of(plan: &Plan, run: u64) -> Self {
        let mut made: Vec<&Path> = Vec::new();
        for step in &plan.steps {
            if let Step::MakeFolder { path, .. } = step {
                made.push(path);
            }
        }
        made.sort_unstable();
        let mut sites = Self { folders: HashMap::with_capacity(made.len()), run };
        for (index, path) in made.into_iter().enumerate() {
            let site = sites.site(path, "folder", index);
            sites.folders.insert(path.to_path_buf(), site);
        }
        sites
    }

    /// Where a file or folder is made: in the folder above it, if that is new, or beside its place.
    fn site(&self, path: &Path, what: &str, index: usize) -> PathBuf {
        let name = path.file_name().unwrap_or_default();
        match path.parent().and_then(|folder| self.folders.get(folder)) {
            Some(folder) => folder.join(name),
            None => path.with_file_name(format!(".tideline-{}-{what}-{index}.tmp", self.run)),
        }
    }

    fn is_in_new_folder(&self, path: &Path) -> bool {
        path.parent().is_some_and(|folder| self.folders.contains_key(folder))
    }
}

impl Journal {
    /// What every step of a plan does. Without a place to note what is left out, the first step that is not as it was planned ends it.
    pub(crate) fn jobs<'p>(
        &self,
        plan: &'p Plan,
        run: u64,
        noted: Option<&Noted>,
    ) -> Result<Vec<Job<'p>>, JournalError> {
        let sites = Sites::of(plan, run);
        let behind_links = self.behind_links(plan, &sites);
        let checked = plan.steps.par_iter().enumerate().map(|(index, step)| {
            if step.paths().filter_map(Path::parent).any(|folder| behind_links.contains(folder)) {
                let reason = "lies behind a link, and links are not written through".to_owned();
                return Err(JournalError::Changed { path: step.path().to_path_buf(), reason });
            }
            self.job(step, index, &sites)
        });
        let Some(noted) = noted else { return checked.collect() };
        let mut jobs = Vec::with_capacity(plan.steps.len());
        let mut missing: HashSet<PathBuf> = HashSet::new();
        for (result, step) in checked.collect::<Vec<_>>().into_iter().zip(&plan.steps) {
            match result {
                // What goes into a folder that is left out is left out with it, and told with it.
                Ok(_) if step.path().ancestors().skip(1).any(|folder| missing.contains(folder)) => {}
                Ok(job) => jobs.push(job),
                Err(error) => {
                    if matches!(step, Step::MakeFolder { .. }) {
                        missing.insert(step.path().to_path_buf());
                    }
                    noted.note(LeftOut::new(step.path(), &error));
                }
            }
        }
        Ok(jobs)
    }

    /// The folders of a plan that are reached through links; those that are new come in folders that are looked at.
    fn behind_links(&self, plan: &Plan, sites: &Sites) -> HashSet<PathBuf> {
        let folders: HashSet<&Path> = plan.steps.iter().flat_map(Step::paths).filter_map(Path::parent).collect();
        let is_behind = |folder: &&&Path| {
            !sites.folders.contains_key(**folder) && folder.canonicalize().is_ok_and(|real| real != **folder)
        };
        folders.iter().filter(is_behind).map(|folder| folder.to_path_buf()).collect()
    }

    fn job<'p>(&self, step: &'p Step, index: usize, sites: &Sites) -> Result<Job<'p>, JournalError> {
        let path = step.path();
        let failed = |trouble: Trouble| trouble.settled(Settled::AsBefore);
        let found = if sites.is_in_new_folder(path) {
            Found::Nothing
        } else {
            doing("look at", path, self.files.found(path)).map_err(failed)?
        };
        let file = if let Found::File(file) = &found { Some(*file) } else { None };
        if let Step::Move { from, expected, mode, modified, .. } = step {
            let entries = self.moved((from, path), &found, expected, (*mode, modified.map(Moment::from)))?;
            return Ok(Job { step, file, entries });
        }
        let was = self.was(step, found, index)?;
        let will = match step {
            Step::MakeFolder { mode, modified, .. } => {
                let site = sites.folders.get(path).map(|site| PathText::of(site));
                Will::Folder { beside: site, mode: *mode, modified: modified.map(Moment::from) }
            }
            Step::SetFolder { mode, modified, .. } => {
                Will::Folder { beside: None, mode: *mode, modified: modified.map(Moment::from) }
            }
            Step::Remove { .. } | Step::RemoveFolder { .. } | Step::Move { .. } => Will::Nothing,
            Step::Write { contents, .. } => {
                let beside = PathText::of(&sites.site(path, "file", index));
                match contents {
                    Contents::Bytes(bytes) => {
                        Will::File { beside, size: bytes.len() as u64, hash: hex(&Fingerprint::of(bytes).hash) }
                    }
                    Contents::Taken(_, print) => Will::File { beside, size: print.size, hash: hex(&print.hash) },
                    Contents::CopyOf(_, seen) => {
                        Will::File { beside, size: seen.map_or(0, |seen| seen.size), hash: String::new() }
                    }
                    Contents::Link(target) => Will::Link { beside, target: PathText::of(target) },
                }
            }
        };
        Ok(Job { step, file, entries: vec![Entry { path: PathText::of(path), was, will }] })
    }

    /// What is there, if it is what the plan expects.
    fn was(&self, step: &Step, found: Found, index: usize) -> Result<Was, JournalError> {
        let path = step.path();
        let changed = |reason: &str| JournalError::Changed { path: path.to_path_buf(), reason: reason.to_owned() };
        let expected = match step {
            Step::MakeFolder { expected, .. } | Step::Write { expected, .. } | Step::Remove { expected, .. } => {
                expected
            }
            Step::Move { .. } => &Standing::Nothing,
            Step::SetFolder { .. } | Step::RemoveFolder { .. } => &Standing::Folder,
        };
        match (found, expected) {
            (Found::Folder { mode, modified }, Standing::Folder) => {
                let copy = (!matches!(step, Step::SetFolder { .. })).then(|| format!("copy-{index}"));
                Ok(Was::Folder { copy, mode, modified })
            }
            (_, Standing::Folder) => Err(changed("is no folder any more")),
            (Found::Link(target), Standing::Link(wanted)) if target == *wanted => {
                Ok(Was::Link { target: PathText::of(&target) })
            }
            (Found::Link(_), Standing::Link(_)) => Err(changed("points elsewhere than when the plan was made")),
            (Found::Link(_), _) => Err(changed("is a link, and links are not written through")),
            (Found::Other, _) => Err(changed("is a device or a pipe, and not a file")),
            (Found::Folder { .. }, _) => Err(changed("is a folder")),
            (Found::Nothing, Standing::Nothing | Standing::Anything) => Ok(Was::Nothing),
            (Found::Nothing, _) => Err(changed("is not there any more: it was removed since the plan was made")),
            (Found::File(_), Standing::Nothing) => Err(changed("exists already")),
            (Found::File(_), Standing::Link(_)) => Err(changed("is a file now, and was a link when the plan was made")),
            (Found::File(file), expected) => {
                let print = self.checked(path, &file, expected)?;
                let (copy, hash) = (format!("copy-{index}"), hex(&print.hash));
                let FoundFile { stamp, mode, owner, .. } = file;
                Ok(Was::File { copy, size: print.size, hash, mode, modified: stamp.modified, owner })
            }
        }
    }

    /// The fingerprint of a file that is what the plan expects.
    fn checked(&self, path: &Path, file: &FoundFile, expected: &Standing) -> Result<Fingerprint, JournalError> {
        let read = || {
            let print = doing("read", path, self.files.fingerprint(path));
            print.map_err(|trouble| trouble.settled(Settled::AsBefore))
        };
        let print = match expected {
            Standing::Seen(seen, Some(print)) if *seen == file.stamp => return Ok(*print),
            Standing::Seen(seen, None) if *seen != file.stamp => None,
            Standing::File(wanted) | Standing::Seen(_, Some(wanted)) => Some(read()?).filter(|print| print == wanted),
            _ => Some(read()?),
        };
        print.ok_or_else(|| JournalError::Changed {
            path: path.to_path_buf(),
            reason: "was changed since the plan was made".to_owned(),
        })
    }

    /// The two entries of a move.
    fn moved(
        &self,
        (from, to): (&Path, &Path),
        there: &Found,
        expected: &Standing,
        (mode, modified): (Option<u32>, Option<Moment>),
    ) -> Result<Vec<Entry>, JournalError> {
        let failed = |trouble: Trouble| trouble.settled(Settled::AsBefore);
        let changed =
            |path: &Path, reason: &str| JournalError::Changed { path: path.to_path_buf(), reason: reason.to_owned() };
        if *there != Found::Nothing {
            return Err(changed(to, "exists already"));
        }
        let Found::File(file) = doing("look at", from, self.files.found(from)).map_err(failed)? else {
            return Err(changed(from, "is not the file any more that it was when the plan was made"));
        };
        let print = self.checked(from, &file, expected)?;
        let (size, hash) = (print.size, hex(&print.hash));
        let (from, to) = (PathText::of(from), PathText::of(to));
        let was =
            Was::Moved { to: to.clone(), size, hash: hash.clone(), mode: file.mode, modified: file.stamp.modified };
        let will = Will::Moved { from: from.clone(), size, hash, mode, modified };
        Ok(vec![Entry { path: from, was, will: Will::Nothing }, Entry { path: to, was: Was::Nothing, will }])
    }

    /// The folders in which entries come or go, as they are now.
    pub(crate) fn touched(&self, entries: &[Entry]) -> Vec<Touched> {
        // To set a folder changes nothing of the one above it.
        let come_or_go = entries.iter().filter(|entry| !entry.only_sets());
        let mut folders: Vec<PathBuf> =
            come_or_go.filter_map(|entry| entry.path.path().parent().map(Path::to_path_buf)).collect();
        folders.sort_unstable();
        folders.dedup();
        let touched = folders.into_iter().filter_map(|folder| {
            // A folder that cannot be looked at keeps the time that it gets.
            let Ok(Found::Folder { modified: Some(modified), .. }) = self.files.found(&folder) else { return None };
            Some(Touched { path: PathText::of(&folder), modified })
        });
        touched.collect()
    }
}
