//! What is done before any file of the person's is changed: copies are kept, and what is new is made beside its place.

use std::collections::HashSet;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::mpsc::channel;
use std::thread;

use rayon::prelude::*;
use tideline_core::plan::{Contents, Step};

use crate::carry::{Journal, Order, Trouble, doing};
use crate::entries::Job;
use crate::files::{Draft, FoundFile};
use crate::record::{Was, Will, hex};

/// From so many jobs on, the first half is on its way to the disk while the second is made.
const MANY: usize = 1000;

impl Journal {
    /// Keeps copies of what will be overwritten or removed, and makes what is new. Jobs that cannot be done are dropped where
    /// that is wanted.
    pub(crate) fn prepare(&self, jobs: &mut Vec<Job<'_>>, folder: &Path, order: &Order<'_>) -> Result<(), Trouble> {
        // New folders first, those above before those within: files are written into them.
        let mut sites: Vec<(PathBuf, Option<&Path>, &Path, Option<u32>)> = Vec::new();
        for job in jobs.iter() {
            if let (Step::MakeFolder { path, like, mode, .. }, [entry]) = (job.step, &job.entries[..])
                && let Some(site) = entry.will.beside()
            {
                sites.push((site, like.as_deref(), path, *mode));
            }
        }
        sites.sort_unstable();
        let mut missing: HashSet<PathBuf> = HashSet::new();
        for (site, like, path, mode) in sites {
            if path.parent().is_some_and(|folder| missing.contains(folder)) {
                missing.insert(path.to_path_buf());
                continue;
            }
            // Until it has its own permissions, nobody gets more than those give.
            let private = |()| mode.map_or(Ok(()), |mode| self.files.set(&site, Some(mode | 0o700), None));
            let made = doing("make the folder", path, self.files.make_folder(&site, like).and_then(private));
            if let Err(trouble) = made {
                order.manner().meet(Err(trouble))?;
                missing.insert(path.to_path_buf());
            }
        }
        let is_lost = |path: &Path| missing.contains(path) || path.parent().is_some_and(|path| missing.contains(path));
        jobs.retain(|job| missing.is_empty() || !is_lost(job.step.path()));
        let results = self.copy_and_make(jobs, folder, order);
        let mut fine = Vec::with_capacity(results.len());
        for result in results {
            fine.push(result.is_ok());
            order.manner().meet(result)?;
        }
        let mut fine = fine.into_iter();
        jobs.retain(|_| fine.next().unwrap_or(true));
        let written: Vec<PathBuf> = jobs.iter().flat_map(|job| written(job, folder)).collect();
        doing("flush", folder, self.files.flush_files(&written))?;
        let mut folders = vec![folder.to_path_buf()];
        let made = jobs.iter().flat_map(|job| &job.entries).filter(|entry| matches!(entry.will, Will::Folder { .. }));
        folders.extend(made.filter_map(|entry| entry.will.beside()));
        doing("flush", folder, self.files.flush_folders(&folders))
    }

    fn copy_and_make(&self, jobs: &mut [Job<'_>], folder: &Path, order: &Order<'_>) -> Vec<Result<(), Trouble>> {
        let half = jobs.len() / 2;
        let (done, so_many) = (AtomicUsize::new(0), jobs.len() >= MANY);
        let (sender, receiver) = channel::<PathBuf>();
        thread::scope(|scope| {
            scope.spawn(move || {
                if let Ok(path) = receiver.recv() {
                    self.files.flush_ahead(&path);
                }
            });
            let work = |job: &mut Job<'_>| {
                let kept = job
                    .entries
                    .iter()
                    .try_for_each(|entry| self.keep(&entry.path.path(), &entry.was, job.file, folder));
                let made = kept.and_then(|()| self.make_new(job));
                order.watched.add(job.entries.iter().map(|entry| size(&entry.will)).sum());
                if done.fetch_add(1, Ordering::Relaxed) == half && so_many {
                    // With nobody listening nothing is lost.
                    let _ = sender.send(job.step.path().to_path_buf());
                }
                made
            };
            let results = jobs.par_iter_mut().map(work).collect();
            drop(sender);
            results
        })
    }

    fn keep(&self, path: &Path, was: &Was, file: Option<FoundFile>, folder: &Path) -> Result<(), Trouble> {
        match (was, file) {
            (Was::File { copy, .. }, Some(file)) => {
                doing("keep a copy of", path, self.files.keep(path, &file, &folder.join(copy)))
            }
            (Was::Folder { copy: Some(copy), .. }, _) => {
                doing("keep a copy of", path, self.files.make_folder(&folder.join(copy), Some(path)))
            }
            _ => Ok(()),
        }
    }

    fn make_new(&self, job: &mut Job<'_>) -> Result<(), Trouble> {
        let Step::Write { path, contents, mode, modified, .. } = job.step else { return Ok(()) };
        let Some(entry) = job.entries.first_mut() else { return Ok(()) };
        let Some(beside) = entry.will.beside() else { return Ok(()) };
        let like = match contents {
            Contents::CopyOf(other, _) => Some(other.as_path()),
            // What is written anew keeps what belongs to the file itself.
            Contents::Bytes(_) | Contents::Taken(..) => job.file.map(|_| path.as_path()),
            Contents::Link(_) => None,
        };
        let draft = Draft {
            contents,
            mode: mode.or(job.file.and_then(|file| file.mode)),
            modified: *modified,
            owner: job.file.and_then(|file| file.owner),
            like,
        };
        let print = doing("write", path, self.files.create(&beside, &draft))?;
        if let Will::File { size, hash, .. } = &mut entry.will
            && hash.is_empty()
        {
            (*size, *hash) = (print.size, hex(&print.hash));
        }
        Ok(())
    }
}

/// What a job wrote.
fn written(job: &Job<'_>, folder: &Path) -> Vec<PathBuf> {
    let mut paths = Vec::with_capacity(2);
    for entry in &job.entries {
        if let Was::File { copy, .. } = &entry.was {
            paths.push(folder.join(copy));
        }
        if let Will::File { beside, .. } = &entry.will {
            paths.push(beside.path());
        }
    }
    paths
}

fn size(will: &Will) -> u64 {
    match will {
        Will::File { size, .. } => *size,
        _ => 0,
    }
}
