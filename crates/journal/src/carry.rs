//! Carrying out a plan.

use std::ffi::OsStr;
use std::sync::{Mutex, PoisonError};

use jiff::Timestamp;
use tideline_core::internal::plan::Plan;

use crate::error::{Aftermath, Failure, JournalError, LeftOut, Note, reason_of};
use crate::files::FileSystem;
use crate::jobs::{Jobs, roots_of};
use crate::journal::Journal;
use crate::names::{Token, token_in};
use crate::policy::{Outcome, Policy, Request};
use crate::record::{
    Entry, NewState, OldState, PathText, Place, Progress, RootRecord, Run, RunRecord, Site, Touched, VERSION,
};
use crate::session::Session;
use crate::store::{Listed, RunFolder, RunState, Store};

/// What a run is for.
#[derive(Clone, Copy, Default)]
pub(crate) struct Purpose {
    /// The run that it undoes.
    pub(crate) undoes: Option<u64>,
    /// Whether something of that run is left as it is.
    pub(crate) in_part: bool,
    /// Whether folders that may not be written into are opened up meanwhile.
    pub(crate) unlocks: bool,
}

impl<F: FileSystem> Journal<F> {
    /// Carries a plan out, and gives its run a number; a plan without steps is none.
    ///
    /// # Errors
    /// When the journal cannot be used. By [`Policy::AllOrNothing`] also when something is not as it was when the plan was made (then
    /// nothing is written), or when the system refuses a step (then everything is put back, or the run stays open).
    pub fn carry_out(&self, plan: &Plan, request: &Request<'_>) -> Result<Outcome, JournalError> {
        if plan.steps.is_empty() {
            return Ok(Outcome::default());
        }
        let store = self.store()?;
        let _lock = store.lock(request.command)?;
        self.close_done(&store);
        self.carry(&store, plan, request, Purpose::default())
    }

    /// Whether a name is that of a temporary file of a run that is known.
    pub fn knows_temporary(&self, name: &OsStr) -> bool {
        let Some(token) = token_in(name) else { return false };
        let known = self.existing_store().ok().flatten().and_then(|store| store.tokens().ok());
        known.is_some_and(|tokens| tokens.contains(&token))
    }

    /// All runs, the oldest first.
    ///
    /// # Errors
    /// When the journal cannot be read.
    pub fn runs(&self) -> Result<Vec<Listed>, JournalError> {
        self.existing_store()?.map_or(Ok(Vec::new()), |store| store.list())
    }

    /// One run, with all that it does.
    ///
    /// # Errors
    /// When there is none with this number, or its record cannot be read.
    pub fn run(&self, run: u64) -> Result<Run, JournalError> {
        let store = self.existing_store()?.ok_or(JournalError::NoRun(run))?;
        let folder = store.folder(run)?.ok_or(JournalError::NoRun(run))?;
        store.read(&folder)
    }

    /// Whether a run is at work.
    pub fn is_at_work(&self) -> bool {
        matches!(self.existing_store(), Ok(Some(store)) if store.is_at_work())
    }

    /// The runs that did not end; none of those that are at work.
    ///
    /// # Errors
    /// When the journal cannot be read.
    pub fn open_runs(&self) -> Result<Vec<(u64, RunState)>, JournalError> {
        let Some(store) = self.existing_store()? else { return Ok(Vec::new()) };
        let numbers = store.open_numbers()?;
        if numbers.is_empty() || store.is_at_work() {
            return Ok(Vec::new());
        }
        let mut open = Vec::new();
        for run in numbers {
            open.extend(store.state(run, false)?.map(|state| (run, state)));
        }
        Ok(open)
    }

    pub(crate) fn carry(
        &self,
        store: &Store<'_, F>,
        plan: &Plan,
        request: &Request<'_>,
        purpose: Purpose,
    ) -> Result<Outcome, JournalError> {
        let roots = roots_of(&self.files, plan)?;
        let jobs = Jobs::of(plan, &roots, &self.files)?;
        let folder = store.new_run()?;
        let token = Token::random().map_err(|error| self.unusable(error))?;
        let session = Session {
            files: &self.files,
            roots,
            token,
            folder_path: store.path_of(&folder),
            folder: &folder,
            stop: &self.stop,
            notes: Mutex::default(),
        };
        let mut carrying = Carrying { store, session, folder: &folder, plan, request, purpose };
        let carried = carrying.carry(jobs);
        let notes = std::mem::take(&mut *carrying.session.notes.lock().unwrap_or_else(PoisonError::into_inner));
        drop(carrying);
        match carried {
            Ok((true, left_out)) => {
                let spared: Vec<u64> = [Some(folder.run), purpose.undoes].into_iter().flatten().collect();
                let mut notes = notes;
                notes.extend(self.keep_small(store, &spared));
                Ok(Outcome { run: Some(folder.run), left_out, notes })
            }
            Ok((false, left_out)) => {
                self.drop_if_empty(store, &folder);
                Ok(Outcome { run: None, left_out, notes })
            }
            Err(error) => {
                let as_before = matches!(
                    error,
                    JournalError::Changed { .. }
                        | JournalError::Failed { aftermath: Aftermath::AsBefore, .. }
                        | JournalError::Interrupted { aftermath: Aftermath::AsBefore }
                );
                if as_before {
                    self.drop_if_empty(store, &folder);
                }
                Err(error)
            }
        }
    }

    /// Nothing came of a run: its record says nothing, unless versions are kept in its folder that another program wrote.
    fn drop_if_empty(&self, store: &Store<'_, F>, folder: &RunFolder<F>) {
        let keeps = store.keeps_versions(folder);
        // What cannot be dropped is told as a run that changed nothing.
        let _ = if keeps { store.close(folder.run, 0) } else { store.drop_run(folder.run) };
    }

    pub(crate) fn keep_small(&self, store: &Store<'_, F>, spared: &[u64]) -> Vec<Note> {
        let dropped = store.keep_small(spared).unwrap_or_default();
        let told = |(run, command): (u64, String)| Note {
            path: None,
            text: format!("run {run} ({command}) was dropped and can no longer be undone: records take 2 GiB at most"),
        };
        dropped.into_iter().map(told).collect()
    }
}

/// A plan on its way.
struct Carrying<'c, 'j, F: FileSystem> {
    store: &'c Store<'j, F>,
    session: Session<'c, F>,
    folder: &'c RunFolder<F>,
    plan: &'c Plan,
    request: &'c Request<'c>,
    purpose: Purpose,
}

impl<F: FileSystem> Carrying<'_, '_, F> {
    fn is_tolerant(&self) -> bool {
        self.request.policy == Policy::WhatCanBe
    }

    /// Carries the jobs out; whether anything came of it, and what was left out.
    fn carry(&mut self, mut jobs: Jobs<'_>) -> Result<(bool, Vec<LeftOut>), JournalError> {
        self.refuse_lost(&jobs)?;
        if !(0..jobs.entries.len()).any(|index| jobs.is_wanted(index)) {
            return Ok((false, self.left_out(&jobs)));
        }
        let mut run = self.begun(&jobs);
        self.write(&run, Aftermath::AsBefore)?;
        if self.purpose.unlocks {
            self.session.unlock(&run);
        }
        let prepared = self.session.prepare(&mut jobs, self.plan, self.request.watched);
        if let Err(failure) = prepared {
            return Err(self.put_back(run, &jobs, None, failure));
        }
        if !self.is_tolerant()
            && let Some(index) = (0..jobs.entries.len()).find(|&index| matches!(jobs.jobs[index].lost, Some(Some(_))))
        {
            let reason = jobs.jobs[index].lost.clone().flatten().unwrap_or_default();
            return Err(self.put_back(run, &jobs, Some(index), Failure::Changed(reason)));
        }
        run.head.progress = Progress::Placing;
        self.hold(&mut run, &jobs);
        if let Err(error) = self.store.write(self.folder, &run) {
            return Err(self.put_back(run, &jobs, None, Failure::System("recorded", error)));
        }
        if let Err((at, failure)) = self.session.place(&mut jobs, self.is_tolerant()) {
            return Err(self.put_back(run, &jobs, at, failure));
        }
        self.end(run, &jobs)
    }

    /// By the policy that does all or nothing, the first step that is not as it was planned ends the run before it begins.
    fn refuse_lost(&self, jobs: &Jobs<'_>) -> Result<(), JournalError> {
        if self.is_tolerant() {
            return Ok(());
        }
        let lost = jobs.jobs.iter().zip(&jobs.entries).find_map(|(job, entry)| Some((job.lost.clone()??, entry)));
        match lost {
            Some((reason, entry)) => Err(JournalError::Changed { path: self.session.roots.full(&entry.place), reason }),
            None => Ok(()),
        }
    }

    fn left_out(&self, jobs: &Jobs<'_>) -> Vec<LeftOut> {
        let lost = jobs.jobs.iter().zip(&jobs.entries).filter_map(|(job, entry)| {
            let reason = job.lost.clone()??;
            Some(LeftOut { path: self.session.roots.full(&entry.place), reason })
        });
        let mut lost: Vec<LeftOut> = lost.collect();
        lost.sort();
        lost
    }

    /// The record of a run that begins now.
    fn begun(&self, jobs: &Jobs<'_>) -> Run {
        let roots = self.session.roots.identities();
        let roots = roots.map(|(path, identity)| RootRecord { path: PathText::of(path), identity }).collect();
        let head = RunRecord {
            version: VERSION,
            run: self.folder.run,
            token: self.session.token.clone(),
            command: self.request.command.to_owned(),
            begun: Timestamp::now().to_string(),
            progress: Progress::Preparing,
            undoes: self.purpose.undoes,
            whole: !self.purpose.in_part,
            paths: 0,
            bytes: 0,
            roots,
            entries: 0,
            touched: 0,
        };
        let mut run = Run { head, entries: jobs.entries.clone(), touched: Vec::new() };
        run.touched = self.touched(&run.entries);
        self.count(&mut run);
        run
    }

    fn count(&self, run: &mut Run) {
        let entries = &run.entries;
        run.head.paths = entries.iter().filter(|entry| !entry.only_sets()).count();
        let shared = |entry: &&Entry| !matches!(&entry.was, OldState::File(old) if old.same_as.is_some());
        run.head.bytes = entries.iter().filter(shared).map(Entry::backed_up).sum();
    }

    /// The folders in which entries come or go, as they are now.
    fn touched(&self, entries: &[Entry]) -> Vec<Touched> {
        let come_or_go = entries.iter().filter(|entry| !entry.only_sets() && !matches!(entry.site, Site::Within(_)));
        let mut folders: Vec<Place> = come_or_go
            .flat_map(|entry| match &entry.site {
                Site::Above(folder) => vec![entry.place.folder(), Place::new(entry.place.root, folder.path())],
                _ => vec![entry.place.folder()],
            })
            .collect();
        folders.sort_unstable();
        folders.dedup();
        let touched = folders.into_iter().filter_map(|place| {
            // A folder that is not there yet, or cannot be looked at, keeps the time that it gets.
            let folder = self.session.roots.folder(&place).ok()?;
            let metadata = self.session.files.metadata(&folder).ok()?;
            let is_locked = self.purpose.unlocks && metadata.mode & 0o300 != 0o300;
            Some(Touched {
                place,
                identity: metadata.identity,
                before: metadata.stamp.modified,
                after: None,
                unlocked: is_locked.then_some(metadata.mode),
            })
        });
        touched.collect()
    }

    /// Takes over what the jobs do, without those that are left out. The numbers of entries stay, since temporary files have them: what is left
    /// out becomes an entry that does nothing.
    fn hold(&self, run: &mut Run, jobs: &Jobs<'_>) {
        run.entries.clone_from(&jobs.entries);
        for (index, entry) in run.entries.iter_mut().enumerate() {
            if !jobs.is_wanted(index) {
                entry.prepared = Some(std::mem::replace(&mut entry.will, NewState::Nothing));
                (entry.was, entry.with) = (OldState::Nothing, None);
            }
        }
        self.count(run);
    }

    fn write(&self, run: &Run, aftermath: Aftermath) -> Result<(), JournalError> {
        self.store.write(self.folder, run).map_err(|error| JournalError::Failed {
            path: self.session.folder_path.clone(),
            reason: format!("could not be recorded: {}", reason_of(&error)),
            aftermath,
        })
    }

    /// Puts everything back after a failure.
    fn put_back(&self, mut run: Run, jobs: &Jobs<'_>, at: Option<usize>, failure: Failure) -> JournalError {
        match run.head.progress {
            Progress::Preparing => run.entries.clone_from(&jobs.entries),
            _ => self.hold(&mut run, jobs),
        }
        let left = self.session.put_back(self.store, self.folder, &mut run);
        let aftermath = if left.is_empty() { Aftermath::AsBefore } else { Aftermath::Open(run.head.run) };
        for one in left {
            let note = Note { path: Some(one.path), text: one.reason };
            self.session.notes.lock().unwrap_or_else(PoisonError::into_inner).push(note);
        }
        match failure {
            Failure::Stopped => JournalError::Interrupted { aftermath },
            Failure::Changed(reason)
                if run.head.progress == Progress::Preparing && aftermath == Aftermath::AsBefore && at.is_some() =>
            {
                let path = at.map(|index| self.session.roots.full(&run.entries[index].place));
                JournalError::Changed { path: path.unwrap_or_default(), reason }
            }
            failure => {
                let at = at.or_else(|| jobs.jobs.iter().position(|job| matches!(job.lost, Some(Some(_)))));
                let path = at.map_or(self.session.folder_path.clone(), |index| {
                    self.session.roots.full(&run.entries[index].place)
                });
                JournalError::Failed { path, reason: failure.reason(), aftermath }
            }
        }
    }

    /// Everything is in its place: the record says so, and what was there before goes.
    fn end(&self, mut run: Run, jobs: &Jobs<'_>) -> Result<(bool, Vec<LeftOut>), JournalError> {
        let left_out = self.left_out(jobs);
        let open = Aftermath::Open(run.head.run);
        self.hold(&mut run, jobs);
        if !(0..jobs.entries.len()).any(|index| jobs.is_wanted(index)) {
            let cleared = self.session.clear_all_old(&mut run);
            self.session.times_back(&run);
            if cleared {
                return Ok((false, left_out));
            }
        }
        run.head.whole &= left_out.is_empty();
        let ended = self.session.end(self.store, self.folder, &mut run);
        ended.map_err(|error| JournalError::Failed {
            path: self.session.folder_path.clone(),
            reason: format!("could not be recorded: {}", reason_of(&error)),
            aftermath: open,
        })?;
        Ok((true, left_out))
    }
}
