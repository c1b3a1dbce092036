//! Undoing and finishing runs, and dropping old records.

use std::path::Path;
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, SystemTime};

use jiff::Timestamp;
use rayon::prelude::*;
use tideline_core::internal::plan::{Plan, Step};
use tideline_core::internal::tree::Progress as Watched;

use crate::back::Back;
use crate::carry::Purpose;
use crate::error::{Failure, JournalError, LeftOut, Note, reason_of};
use crate::files::FileSystem;
use crate::journal::Journal;
use crate::policy::{Outcome, Policy, Request};
use crate::record::{Entry, NewState, Progress, Run};
use crate::roots::Roots;
use crate::session::Session;
use crate::store::{RunFolder, RunState, Store};

/// What pruning dropped.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Pruned {
    /// Runs.
    pub runs: usize,
    /// Bytes of backups.
    pub bytes: u64,
}

/// What came of undoing a run.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Undone {
    /// The run that undid it, if it was done.
    pub by: Option<u64>,
    /// Whether it was a run that did not end.
    pub was_open: bool,
    /// Paths that stand in the way, and why.
    pub in_the_way: Vec<LeftOut>,
    /// What the person should know.
    pub notes: Vec<Note>,
}

/// What came of finishing a run.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Finished {
    /// Paths that stand in the way, and why; without any, the run is done.
    pub in_the_way: Vec<LeftOut>,
    /// What the person should know.
    pub notes: Vec<Note>,
}

/// So many runs are looked through for who wrote a file.
const REMEMBERED: usize = 50;

impl<F: FileSystem> Journal<F> {
    /// Undoes a run: puts back bytes and attributes. One that is done is undone by a run of its own; one that did not end is put back as
    /// far as it came. Paths that were changed since are named and left, unless it is forced: then what stands there is backed up.
    ///
    /// # Errors
    /// When there is no such run, or its record cannot be read, or the journal cannot be used.
    pub fn undo(&self, run: u64, command: &str, force: bool) -> Result<Undone, JournalError> {
        let store = self.existing_store()?.ok_or(JournalError::NoRun(run))?;
        let _lock = store.lock(command)?;
        self.close_done(&store);
        let folder = store.folder(run)?.ok_or(JournalError::NoRun(run))?;
        let mut record = store.read(&folder)?;
        if folder.is_open {
            return self.undo_open(&store, &folder, &mut record, command, force);
        }
        if let Some(other) = store.undone_by(run)? {
            return Err(JournalError::Refused(format!("run {run} is undone already, by run {other}")));
        }
        // An undoing of it that did not end is put back first, so that all begins from where the run left it.
        for other in store.open_numbers()? {
            let Some(RunState::Open(head)) = store.state(other, false)? else { continue };
            let Some(open) = store.folder(other)?.filter(|_| head.undoes == Some(run)) else { continue };
            let mut undoing = store.read(&open)?;
            let undone = self.undo_open(&store, &open, &mut undoing, command, force)?;
            if !undone.in_the_way.is_empty() {
                return Ok(undone);
            }
        }
        let (plan, in_the_way) = self.plan_back(&store, &folder, &record, force, &|_| true)?;
        let outcome = self.carry_back(&store, &plan, (run, command), in_the_way.clone())?;
        Ok(outcome)
    }

    /// Finishes a run that did not end.
    ///
    /// # Errors
    /// When it is not such a run, or its record cannot be read, or the journal cannot be used.
    pub fn finish(&self, run: u64) -> Result<Finished, JournalError> {
        let store = self.existing_store()?.ok_or(JournalError::NoRun(run))?;
        let _lock = store.lock(&format!("tideline runs finish {run}"))?;
        let was_open = store.folder(run)?.is_some_and(|folder| folder.is_open);
        self.close_done(&store);
        let folder = store.folder(run)?.ok_or(JournalError::NoRun(run))?;
        let mut record = store.read(&folder)?;
        if !folder.is_open {
            // Cut off at its very end, it only had to be closed.
            return if was_open {
                Ok(Finished::default())
            } else {
                Err(JournalError::Refused(format!("run {run} is done already")))
            };
        }
        if record.head.progress.is_as_before() {
            return Err(JournalError::Refused(format!(
                "run {run} changed nothing, or everything is put back: `tideline undo {run}` clears it away, and the command can be run again"
            )));
        }
        let session = self.session(&store, &folder, &record)?;
        let mut in_the_way = strange_folders(&session, &record);
        if in_the_way.is_empty() {
            in_the_way = session.roll_forward(&record);
        }
        if in_the_way.is_empty() {
            session.clear_drafts(&record.entries);
            session.end(&store, &folder, &mut record).map_err(|error| self.unusable(error))?;
        }
        Ok(Finished { in_the_way, notes: taken_notes(&session) })
    }

    /// Runs whose record says that they are done, and that were cut off at the very end, end now.
    pub(crate) fn close_done(&self, store: &Store<'_, F>) {
        for run in store.open_numbers().unwrap_or_default() {
            match store.state(run, false) {
                // What cannot be closed is tried again the next time.
                Ok(Some(RunState::Open(record))) if record.progress == Progress::Done => {
                    drop(self.close_run(store, run));
                }
                // Cut off before its record was there, it changed nothing.
                Ok(None) => drop(store.drop_run(run)),
                _ => {}
            }
        }
    }

    fn close_run(&self, store: &Store<'_, F>, run: u64) -> Result<(), JournalError> {
        let Some(folder) = store.folder(run)? else { return Ok(()) };
        let mut record = store.read(&folder)?;
        let session = self.session(store, &folder, &record)?;
        if session.clear_all_old(&mut record) {
            store.close(run, record.head.bytes).map_err(|error| self.unusable(error))?;
        }
        Ok(())
    }

    fn session<'s>(
        &'s self,
        store: &Store<'_, F>,
        folder: &'s RunFolder<F>,
        record: &Run,
    ) -> Result<Session<'s, F>, JournalError> {
        Ok(Session {
            files: &self.files,
            roots: reopened(&self.files, record)?,
            token: record.head.token.clone(),
            folder_path: store.path_of(folder),
            folder,
            stop: &self.stop,
            notes: Mutex::default(),
        })
    }

    /// Puts back a run that did not end.
    fn undo_open(
        &self,
        store: &Store<'_, F>,
        folder: &RunFolder<F>,
        record: &mut Run,
        command: &str,
        force: bool,
    ) -> Result<Undone, JournalError> {
        let run = record.head.run;
        let session = self.session(store, folder, record)?;
        let mut in_the_way = strange_folders(&session, record);
        if in_the_way.is_empty() || force {
            in_the_way = session.put_back(store, folder, record);
        }
        let mut notes = taken_notes(&session);
        if force && !in_the_way.is_empty() {
            // What stands in the way is overwritten by a run of its own, which backs it up.
            let paths: Vec<&Path> = in_the_way.iter().map(|one| one.path.as_path()).collect();
            let wanted = |entry: &Entry| paths.contains(&session.roots.full(&entry.place).as_path());
            let (plan, _) = self.plan_back(store, folder, record, true, &wanted)?;
            let forced = self.carry_back(store, &plan, (run, command), Vec::new())?;
            notes.extend(forced.notes);
            in_the_way = session.put_back(store, folder, record);
            notes.extend(taken_notes(&session));
        }
        if in_the_way.is_empty() {
            let kept = store.keeps_versions(folder);
            let ended = if kept { store.close(run, record.head.bytes) } else { store.drop_run(run) };
            ended.map_err(|error| self.unusable(error))?;
        }
        Ok(Undone { by: None, was_open: true, in_the_way, notes })
    }

    fn carry_back(
        &self,
        store: &Store<'_, F>,
        plan: &Plan,
        (run, command): (u64, &str),
        mut in_the_way: Vec<LeftOut>,
    ) -> Result<Undone, JournalError> {
        let watched = Watched::default();
        let request = Request { command, policy: Policy::WhatCanBe, watched: &watched };
        let purpose = Purpose { undoes: Some(run), in_part: !in_the_way.is_empty(), unlocks: true };
        if plan.steps.is_empty() {
            if in_the_way.is_empty() {
                // Everything is as before already: that is noted, so that the run counts as undone.
                let by = self.note_undone(store, run, command)?;
                return Ok(Undone { by: Some(by), ..Undone::default() });
            }
            return Ok(Undone { in_the_way, ..Undone::default() });
        }
        let Outcome { run: by, left_out, notes } = self.carry(store, plan, &request, purpose)?;
        in_the_way.extend(left_out);
        in_the_way.sort();
        in_the_way.dedup();
        Ok(Undone { by, was_open: false, in_the_way, notes })
    }

    /// The plan that undoes a run for those of its entries that are wanted, and the paths that stand in its way.
    fn plan_back(
        &self,
        store: &Store<'_, F>,
        folder: &RunFolder<F>,
        record: &Run,
        force: bool,
        wanted: &(dyn Fn(&Entry) -> bool + Sync),
    ) -> Result<(Plan, Vec<LeftOut>), JournalError> {
        let session = self.session(store, folder, record)?;
        let mut in_the_way = if force { Vec::new() } else { strange_folders(&session, record) };
        let backups = store.path_of(folder);
        let roots = record.head.roots.iter().map(|root| root.path.path()).chain([backups.clone()]);
        let mut plan = Plan { roots: roots.collect(), ..Plan::default() };
        if !in_the_way.is_empty() {
            return Ok((Plan { steps: Vec::new(), ..plan }, in_the_way));
        }
        let back = Back { session: &session, record, backups, force };
        let steps: Vec<(usize, Result<Option<Step>, Failure>)> = (0..record.entries.len())
            .into_par_iter()
            .filter(|&index| wanted(&record.entries[index]))
            .map(|index| (index, back.step(index)))
            .collect();
        for (index, step) in steps {
            match step {
                Ok(step) => plan.steps.extend(step),
                Err(failure) => {
                    let path = session.roots.full(&record.entries[index].place);
                    in_the_way.push(LeftOut { path, reason: failure.reason() });
                }
            }
        }
        plan.steps.extend(back.times());
        Ok((plan, in_the_way))
    }

    /// A run that did nothing but undo what was as before already.
    fn note_undone(&self, store: &Store<'_, F>, run: u64, command: &str) -> Result<u64, JournalError> {
        let failed = |error| self.unusable(error);
        let folder = store.new_run()?;
        let head = crate::record::RunRecord {
            version: crate::record::VERSION,
            run: folder.run,
            token: crate::names::Token::random().map_err(failed)?,
            command: command.to_owned(),
            begun: Timestamp::now().to_string(),
            progress: Progress::Done,
            undoes: Some(run),
            whole: true,
            paths: 0,
            bytes: 0,
            roots: Vec::new(),
            entries: 0,
            touched: 0,
        };
        store.write(&folder, &Run { head, entries: Vec::new(), touched: Vec::new() }).map_err(failed)?;
        store.close(folder.run, 0).map_err(failed)?;
        Ok(folder.run)
    }

    /// What was typed when a file was last written as it is now, by one of the last runs.
    pub fn writer_of(&self, path: &Path, print: &tideline_core::internal::plan::Fingerprint) -> Option<String> {
        let store = self.existing_store().ok()??;
        store.last_numbers(REMEMBERED).ok()?.into_iter().find_map(|run| {
            let record = store.read(&store.folder(run).ok()??).ok()?;
            let wrote = record.entries.iter().any(|entry| {
                let root = record.head.roots[entry.place.root].path.path();
                root.join(&entry.place.path) == path
                    && matches!(&entry.will, NewState::File(new) if new.print() == *print)
            });
            wrote.then_some(record.head.command)
        })
    }

    /// The last run that is in force and does not undo another.
    ///
    /// # Errors
    /// When the journal, or the record of a newer run, cannot be read.
    pub fn last_run(&self) -> Result<Option<u64>, JournalError> {
        self.existing_store()?.map_or(Ok(None), |store| store.last_in_force())
    }

    /// Drops records of runs that are done: those older than `older`, but never the last `keep`.
    ///
    /// # Errors
    /// When the journal cannot be used.
    pub fn prune(&self, older: Option<Duration>, keep: usize) -> Result<Pruned, JournalError> {
        let Some(store) = self.existing_store()? else { return Ok(Pruned::default()) };
        let _lock = store.lock("tideline runs prune")?;
        self.close_done(&store);
        let runs = store.list()?;
        let spared = runs.len().saturating_sub(keep);
        let mut pruned = Pruned::default();
        for listed in runs.iter().take(spared) {
            let RunState::Done(record) = &listed.state else { continue };
            let begun = record.begun.parse::<Timestamp>().map_or(SystemTime::UNIX_EPOCH, SystemTime::from);
            let age = SystemTime::now().duration_since(begun).unwrap_or_default();
            if older.is_none_or(|older| age > older) {
                store.drop_run(listed.run).map_err(|error| self.unusable(error))?;
                pruned.runs += 1;
                pruned.bytes += record.bytes;
            }
        }
        store.recount()?;
        Ok(pruned)
    }
}

fn taken_notes<F: FileSystem>(session: &Session<'_, F>) -> Vec<Note> {
    std::mem::take(&mut *session.notes.lock().unwrap_or_else(PoisonError::into_inner))
}

/// Folders that are not those that the run wrote to, as when a disk is away: others stand at their paths, and nothing in them tells of
/// the run.
fn strange_folders<F: FileSystem>(session: &Session<'_, F>, run: &Run) -> Vec<LeftOut> {
    let strange = run.touched.iter().filter_map(|touched| {
        // A folder that the run itself changes may have been made again.
        if run.entries.binary_search_by(|entry| entry.place.cmp(&touched.place)).is_ok() {
            return None;
        }
        let reason = match session.roots.folder(&touched.place).and_then(|folder| session.files.metadata(&folder)) {
            Ok(metadata) if metadata.identity.1 == touched.identity.1 => return None,
            Ok(_) if session.has_evidence(run, &touched.place) => return None,
            Ok(_) => "is another folder than the one that the run wrote to, and nothing of the run is in it; is its disk there?",
            Err(_) => "is not there, or cannot be opened; is its disk there?",
        };
        Some(LeftOut { path: session.roots.full(&touched.place), reason: reason.to_owned() })
    });
    strange.collect()
}

/// Opens the roots of a record again.
fn reopened<'f, F: FileSystem>(files: &'f F, run: &Run) -> Result<Roots<'f, F>, JournalError> {
    let mut roots = Roots::new(files);
    for root in &run.head.roots {
        let path = root.path.path();
        roots.add(&path).map_err(|error| {
            JournalError::Refused(format!(
                "cannot reach what run {} wrote: {} cannot be opened ({}); is its disk there?",
                run.head.run,
                path.display(),
                reason_of(&error)
            ))
        })?;
    }
    Ok(roots)
}
