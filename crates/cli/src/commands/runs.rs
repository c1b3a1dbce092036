//! `runs` and `undo`: what was written, and putting it back.

use std::io::{self, Write};

use anyhow::{Result, bail};
use jiff::{Timestamp, tz::TimeZone};
use tideline_journal::{Progress, RunRecord};
use tideline_views::json;
use tideline_views::plural;

use super::Outcome;
use super::print::printing;
use super::writing::journal;
use crate::args::{RunsAction, RunsArgs, UndoArgs};

pub(super) fn run(args: &RunsArgs) -> Result<Outcome> {
    let journal = journal()?;
    match &args.action {
        None => {
            let runs = journal.runs()?;
            if args.json {
                let whole = runs.iter().map(|record| journal.run(record.run)).collect::<Result<Vec<_>, _>>()?;
                printing(false, |out| write_json(&whole, out))?;
            } else {
                printing(true, |out| write_list(&runs, out))?;
            }
        }
        Some(RunsAction::Finish { run }) => {
            journal.finish(*run)?;
            printing(false, |out| writeln!(out, "run {run} is finished; `tideline undo {run}` puts it back"))?;
        }
        Some(RunsAction::Prune { older_than, keep }) => {
            let pruned = journal.prune(*older_than, *keep)?;
            let runs = plural(pruned.runs, "run");
            printing(false, |out| writeln!(out, "dropped {runs}, {} bytes of copies", pruned.bytes))?;
        }
    }
    Ok(Outcome::Same)
}

fn write_list(runs: &[RunRecord], out: &mut dyn Write) -> io::Result<()> {
    if runs.is_empty() {
        return writeln!(out, "nothing was written yet");
    }
    let width = runs.last().map_or(1, |record| record.run.to_string().len());
    for record in runs.iter().rev() {
        let time = record.begun.parse::<Timestamp>().map_or_else(
            |_| record.begun.clone(),
            |time| time.to_zoned(TimeZone::system()).strftime("%Y-%m-%d %H:%M:%S").to_string(),
        );
        let files = plural(record.paths, "path");
        let state = match (record.progress, record.undone_by) {
            (Progress::Done, None) => String::new(),
            (Progress::Done, Some(by)) => format!("    undone by run {by}"),
            (Progress::Preparing, _) => "    cut off before it changed anything".to_owned(),
            (Progress::Placing, _) => "    cut off half-way".to_owned(),
        };
        let undoes = record.undoes.map(|run| format!("    undoes run {run}")).unwrap_or_default();
        writeln!(
            out,
            "  {:width$}    {time}    {files}    {}{undoes}{state}",
            record.run,
            record.command.escape_debug()
        )?;
    }
    Ok(())
}

fn write_json(runs: &[RunRecord], out: &mut dyn Write) -> io::Result<()> {
    for record in runs {
        json::write_value(record, out)?;
    }
    Ok(())
}

pub(super) fn undo(args: &UndoArgs) -> Result<Outcome> {
    let journal = journal()?;
    let run = match args.run {
        Some(run) => run,
        None => match journal.open_runs()?.last().cloned().or(journal.last_run()?) {
            Some(record) => record.run,
            None => bail!("there is no run to undo; `tideline runs` lists what was written"),
        },
    };
    let record = journal.run(run)?;
    let by = journal.undo(run, &format!("tideline undo {run}"), args.force)?;
    let paths = if record.paths == 1 { "1 path is".to_owned() } else { format!("{} paths are", record.paths) };
    printing(false, |out| match by {
        Some(by) => writeln!(
            out,
            "undone: run {run} ({})\n{paths} as before (run {by}; `tideline undo {by}` takes this back)",
            record.command.escape_debug()
        ),
        None => writeln!(
            out,
            "undone: run {run} ({}), which was cut off; everything is as before",
            record.command.escape_debug()
        ),
    })?;
    Ok(Outcome::Same)
}
