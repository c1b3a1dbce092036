//! Runs of the journal, and what is said of them.

use std::env;
use std::ffi::OsStr;
use std::fs;
use std::io;
use std::path::{Path, PathBuf};
use std::time::Duration;

use anyhow::{Context, Result, bail};
use tideline_core::internal::plan::{ExpectedState, Fingerprint, Plan};
use tideline_core::internal::tree;
use tideline_journal::{Journal, Note, Outcome, Policy, Progress, RealFiles, Request, RunState};
use tideline_views::shown_path;

use super::{interrupt, state};
use crate::commands::tell;

/// How long a command waits for another that writes.
const PATIENCE: Duration = Duration::from_secs(10);

/// The journal of this person.
pub(in crate::commands) fn journal() -> Result<Journal> {
    let journal = Journal::new(state::folder()?, RealFiles);
    let waiting = |holder: &str| {
        tell(&format!("waiting for another run ({holder}); no longer than {} seconds", PATIENCE.as_secs()));
    };
    Ok(journal.waiting(PATIENCE, waiting).stopped_by(interrupt::stop()))
}

/// Carries a plan out, all of it or nothing, and says on standard error what earlier runs left open.
pub(in crate::commands) fn carry_out(plan: &Plan) -> Result<Option<u64>> {
    Ok(carry(plan, Policy::AllOrNothing, &tree::Progress::default())?.run)
}

/// Carries out what can be of a plan.
pub(in crate::commands) fn carry_out_what_can_be(plan: &Plan, progress: &tree::Progress) -> Result<Outcome> {
    carry(plan, Policy::WhatCanBe, progress)
}

/// How a run is called that can be undone, as it stands in brackets behind what was done.
pub(crate) fn run_and_undo(run: u64) -> String {
    format!("(run {run}; `tideline undo` puts it back)")
}

/// Carries a plan out, all of it or nothing, and prints nothing: a screen tells what came of it.
pub(crate) fn carry_out_silently(plan: &Plan) -> Result<Outcome> {
    let journal = Journal::new(state::folder()?, RealFiles).waiting(PATIENCE, |_| {}).stopped_by(interrupt::stop());
    let request = Request { command: &typed(), policy: Policy::AllOrNothing, watched: &tree::Progress::default() };
    Ok(interrupt::while_at_work(|| journal.carry_out(plan, &request))?)
}

fn carry(plan: &Plan, policy: Policy, watched: &tree::Progress) -> Result<Outcome> {
    let journal = journal()?;
    tell_open_runs(&journal);
    let command = typed();
    let outcome =
        interrupt::while_at_work(|| journal.carry_out(plan, &Request { command: &command, policy, watched }))?;
    tell_notes(&outcome.notes);
    Ok(outcome)
}

/// Does something with the journal that a signal ends in an orderly way.
pub(in crate::commands) fn at_work<T>(work: impl FnOnce() -> T) -> T {
    interrupt::while_at_work(work)
}

/// Says on standard error what the person should know of what was written.
pub(in crate::commands) fn tell_notes(notes: &[Note]) {
    for note in notes {
        match &note.path {
            Some(path) => tell(&format!("{}: {}", shown_path(path), note.text)),
            None => tell(&note.text),
        }
    }
}

/// Says which runs were cut off.
pub(in crate::commands) fn tell_open_runs(journal: &Journal) {
    for (run, state) in journal.open_runs().unwrap_or_default() {
        let (command, advice) = match &state {
            RunState::Open(record) if record.progress == Progress::Placing => (
                record.command.as_str(),
                format!("`tideline undo {run}` puts back what it changed, `tideline runs finish {run}` does the rest"),
            ),
            RunState::Open(record) => {
                (record.command.as_str(), format!("it changed nothing yet; `tideline undo {run}` clears it away"))
            }
            RunState::Damaged { reason, .. } => {
                let folder = journal.path().join("open").join(run.to_string());
                tell(&format!(
                    "run {run} was cut off, and its record cannot be read ({reason}); what it backed up is in {}",
                    shown_path(&folder)
                ));
                continue;
            }
            _ => continue,
        };
        tell(&format!("run {run} ({command}) was cut off: {advice}"));
    }
}

/// What was typed, as a shell takes it.
pub(in crate::commands) fn typed() -> String {
    let words: Vec<String> = env::args_os().skip(1).map(|word| quoted(&word)).collect();
    format!("tideline {}", words.join(" "))
}

/// A word as a shell takes it.
pub(in crate::commands) fn quoted(word: &OsStr) -> String {
    let word = word.to_string_lossy();
    let is_plain = |letter: char| letter.is_alphanumeric() || "_-./:=,@%+".contains(letter);
    if !word.is_empty() && word.chars().all(is_plain) {
        word.into_owned()
    } else {
        format!("'{}'", word.replace('\'', "'\\''"))
    }
}

/// A path in full: its folder without links, so that a plan means the same wherever it is carried out.
pub(crate) fn in_full(path: &Path) -> Result<PathBuf> {
    let doing = || format!("cannot write {}", path.display());
    let Some(name) = path.file_name() else { bail!("{}: it names no file", doing()) };
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    match folder.canonicalize() {
        Ok(folder) => Ok(folder.join(name)),
        Err(error) if error.kind() == io::ErrorKind::NotFound => {
            bail!("{}: there is no folder {}; make it first", doing(), folder.display())
        }
        Err(error) => Err(error).with_context(doing),
    }
}

/// What stands at a path now, as a plan expects it. Whatever is no file is left for the journal to refuse.
pub(crate) fn expected_state(path: &Path) -> Result<ExpectedState> {
    match fs::symlink_metadata(path) {
        Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(ExpectedState::Nothing),
        Err(error) => Err(error).with_context(|| format!("cannot write {}", path.display())),
        Ok(metadata) if metadata.is_file() => {
            let bytes = fs::read(path).with_context(|| format!("cannot read {}", path.display()))?;
            Ok(ExpectedState::File(Fingerprint::of(&bytes)))
        }
        Ok(_) => Ok(ExpectedState::Anything),
    }
}
