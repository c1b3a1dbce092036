//! `runs` and `undo`: what was written, and putting it back.

use std::collections::BTreeSet;
use std::io::{self, IsTerminal, Write};
use std::path::PathBuf;

use anyhow::{Context, Result, bail};
use jiff::{Timestamp, tz::TimeZone};
use tideline_journal::{LeftOut, Listed, Progress, Run, RunRecord, RunState, Undone};
use tideline_views::{json, plural, shown_message, shown_path};

use super::print::printing;
use super::writing::{at_work, journal, tell_notes};
use super::{Outcome, tell};
use crate::args::{RunsAction, RunsArgs, UndoArgs};

pub(super) fn run(args: &RunsArgs) -> Result<Outcome> {
    let journal = journal()?;
    match &args.action {
        None => {
            let runs = journal.runs()?;
            if args.json {
                printing(false, |out| runs.iter().try_for_each(|run| json::write_value(run, out)))?;
            } else {
                printing(true, |out| write_list(&runs, out))?;
            }
            let damaged = runs.iter().any(|listed| matches!(listed.state, RunState::Damaged { .. }));
            if damaged {
                tell("some records cannot be read; what was backed up by those runs is in their folders");
                return Ok(Outcome::Trouble);
            }
        }
        Some(RunsAction::Finish { run }) => {
            let finished = at_work(|| journal.finish(*run))?;
            tell_notes(&finished.notes);
            if !finished.in_the_way.is_empty() {
                tell_in_the_way(&finished.in_the_way);
                bail!("run {run} could not be finished, and is still open; `tideline undo {run}` puts it back");
            }
            printing(false, |out| writeln!(out, "run {run} is finished; `tideline undo {run}` puts it back"))?;
        }
        Some(RunsAction::Prune { older_than, keep }) => {
            let pruned = journal.prune(*older_than, *keep)?;
            let runs = plural(pruned.runs, "run");
            printing(false, |out| writeln!(out, "dropped {runs}, {} bytes of backups", pruned.bytes))?;
        }
    }
    Ok(Outcome::Same)
}

fn tell_in_the_way(paths: &[LeftOut]) {
    for one in paths {
        tell(&format!("in the way: {} {}", shown_path(&one.path), one.reason));
    }
}

fn write_list(runs: &[Listed], out: &mut dyn Write) -> io::Result<()> {
    if runs.is_empty() {
        return writeln!(out, "nothing was written yet");
    }
    let width = runs.last().map_or(1, |listed| listed.run.to_string().len());
    for listed in runs.iter().rev() {
        writeln!(out, "  {:width$}    {}", listed.run, shown_message(&in_words(listed)))?;
    }
    Ok(())
}

/// When a run began, what it was, and what became of it.
fn in_words(listed: &Listed) -> String {
    let record = match &listed.state {
        RunState::Old { command, begun } => {
            let command = command.escape_debug();
            return format!("{}    {command}    written by an earlier version, which undoes it", local(begun));
        }
        RunState::Damaged { reason, is_open } => {
            let cut_off = if *is_open { "cut off, and " } else { "" };
            return format!("{cut_off}its record cannot be read: {reason}");
        }
        RunState::Done(record) | RunState::Open(record) | RunState::AtWork(record) => record,
    };
    let state = match (&listed.state, record.progress, listed.undone_by, listed.undone_in_part_by) {
        (RunState::AtWork(_), ..) => "    at work".to_owned(),
        (RunState::Open(_), Progress::Preparing, ..) => "    cut off before it changed anything".to_owned(),
        (RunState::Open(_), ..) => "    cut off half-way".to_owned(),
        (_, _, Some(by), _) => format!("    undone by run {by}"),
        (_, _, None, Some(by)) => format!("    undone in part by run {by}"),
        (_, _, None, None) => String::new(),
    };
    let undoes = record.undoes.map(|run| format!("    undoes run {run}")).unwrap_or_default();
    let command = record.command.escape_debug();
    format!("{}    {}    {command}{undoes}{state}", local(&record.begun), plural(record.paths, "path"))
}

/// A time of RFC 3339 as a clock here shows it.
fn local(time: &str) -> String {
    time.parse::<Timestamp>().map_or_else(
        |_| time.to_owned(),
        |time| time.to_zoned(TimeZone::system()).strftime("%Y-%m-%d %H:%M:%S").to_string(),
    )
}

pub(super) fn undo(args: &UndoArgs) -> Result<Outcome> {
    let journal = journal()?;
    let run = match args.run {
        Some(run) => run,
        None if journal.is_at_work() => {
            bail!(
                "another run is at work: wait until it has ended, or name the run to undo; `tideline runs` lists them"
            )
        }
        None => match journal
            .open_runs()?
            .last()
            .map(|(run, _)| *run)
            .map_or_else(|| journal.last_run(), |run| Ok(Some(run)))?
        {
            Some(run) => run,
            None => bail!("there is no run to undo; `tideline runs` lists what was written"),
        },
    };
    let Run { head: record, entries, .. } = journal.run(run)?;
    // Of the folders that a run knows, those that it wrote in.
    let roots: BTreeSet<usize> = entries.iter().map(|entry| entry.place.root).collect();
    let folders: Vec<PathBuf> = roots.iter().filter_map(|root| Some(record.roots.get(*root)?.path.path())).collect();
    if args.run.is_none() && !may_undo(&record, &folders)? {
        printing(false, |out| writeln!(out, "nothing was undone"))?;
        return Ok(Outcome::Same);
    }
    let undone = at_work(|| journal.undo(run, &format!("tideline undo {run}"), args.force))?;
    tell_notes(&undone.notes);
    let command = record.command.escape_debug().to_string();
    let told = format!("({command}) in {}", in_a_row(&folders));
    printing(false, |out| write_undone(run, &told, record.paths, &undone, out))?;
    if undone.in_the_way.is_empty() {
        return Ok(Outcome::Same);
    }
    tell_in_the_way(&undone.in_the_way);
    let state = if undone.was_open { "is still open" } else { "is not undone, or only in part" };
    let advice = if args.force { "move it away first" } else { "--force overwrites it, and backs it up first" };
    tell(&format!("run {run} {state}: what is in the way was left as it is; {advice}"));
    Ok(Outcome::Trouble)
}

/// Folders, for a sentence: those below this one as they are reached from here.
fn in_a_row(folders: &[PathBuf]) -> String {
    let here = std::env::current_dir().and_then(|folder| folder.canonicalize()).unwrap_or_default();
    let told = |folder: &PathBuf| match folder.canonicalize().unwrap_or_else(|_| folder.clone()).strip_prefix(&here) {
        Ok(inner) if inner.as_os_str().is_empty() => "this folder".to_owned(),
        Ok(inner) => shown_path(inner),
        Err(_) => shown_path(folder),
    };
    folders.iter().map(told).collect::<Vec<_>>().join(" and ")
}

/// Whether the last run may be undone though its number was not given: what it wrote is here or below, or the person says so.
fn may_undo(record: &RunRecord, folders: &[PathBuf]) -> Result<bool> {
    let here = std::env::current_dir().and_then(|folder| folder.canonicalize());
    let here = here.context("cannot tell which folder this is")?;
    if folders.iter().all(|folder| folder.canonicalize().unwrap_or_else(|_| folder.clone()).starts_with(&here)) {
        return Ok(true);
    }
    let (run, command, folders) = (record.run, record.command.escape_debug(), in_a_row(folders));
    let what = format!("the last run is {run} ({command}), in {folders}: that is not below this folder");
    if !(io::stdin().is_terminal() && io::stderr().is_terminal()) {
        bail!("{what}; `tideline undo {run}` undoes it");
    }
    eprint!("{what}. Undo it? (y/N) ");
    let mut answer = String::new();
    io::stdin().read_line(&mut answer).context("cannot read the answer")?;
    Ok(matches!(answer.trim(), "y" | "Y" | "yes"))
}

fn write_undone(run: u64, command: &str, paths: usize, undone: &Undone, out: &mut dyn Write) -> io::Result<()> {
    let are = |count: usize| if count == 1 { "1 path is".to_owned() } else { format!("{count} paths are") };
    match (undone.by, undone.in_the_way.len()) {
        (Some(by), 0) => {
            writeln!(out, "undone: run {run} {command}")?;
            writeln!(out, "{} as before (run {by}; `tideline undo {by}` takes this back)", are(paths))
        }
        (Some(by), left) => writeln!(
            out,
            "undone in part: run {run} {command}\n{} not as before (run {by}; `tideline undo {by}` takes this back)",
            are(left)
        ),
        (None, 0) => writeln!(out, "undone: run {run} {command}, which was cut off; everything is as before"),
        (None, left) if undone.was_open => {
            writeln!(out, "put back as far as it could be: run {run} {command}; {} in the way", are(left))
        }
        (None, _) => writeln!(out, "nothing was undone of run {run} {command}"),
    }
}
