//! The commands, a file each. A command returns its outcome; nothing here ends the process.

mod apply;
mod compare;
mod demo;
mod documents;
mod explain;
mod extended_patch;
mod pairs;
mod patch;
mod print;
mod progress;
mod report;
mod rules;
mod runs;
mod saved;
mod show_patch;
mod sides;
mod sync;
mod take;
mod texts;
mod tree_patch;
mod trees;
mod unused;
mod watch;
mod writing;

use std::io::{self, Write};
use std::process::ExitCode;

use anyhow::Result;
use tideline_core::model::Status;
use tideline_views::shown_message;

use crate::args::{Cli, Command};
pub(crate) use writing::own_entries;

/// What a command found or did, as the exit status tells it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Outcome {
    /// Nothing that counts differs, or all was done.
    Same,
    /// Something differs.
    Different,
    /// Something could not be read; what it was has been said.
    Trouble,
}

impl Outcome {
    /// What the status of two files comes to.
    fn of(status: Status) -> Self {
        match status {
            Status::Same | Status::Muted => Self::Same,
            _ => Self::Different,
        }
    }
}

impl From<Outcome> for ExitCode {
    fn from(outcome: Outcome) -> Self {
        match outcome {
            Outcome::Same => Self::SUCCESS,
            Outcome::Different => Self::from(1),
            Outcome::Trouble => Self::from(2),
        }
    }
}

/// Runs the command that was asked for.
pub(crate) fn run(cli: Cli) -> Result<Outcome> {
    match cli.command {
        Command::Compare(args) => compare::run(&args),
        Command::Explain(args) => explain::run(&args),
        Command::Rules(args) => rules::run(&args),
        Command::Saved(args) => saved::run(&args),
        Command::Apply(args) => apply::run(&args),
        Command::Sync(args) => sync::run(&args),
        Command::Take(args) => take::run(&args),
        Command::Show(args) => show_patch::run(&args),
        Command::Runs(args) => runs::run(&args),
        Command::Undo(args) => runs::undo(&args),
        Command::Patch(args) => patch::run(&args),
        Command::Report(args) => report::run(&args),
        Command::Demo(args) => demo::run(&args),
        Command::Completions { shell } => documents::completions(shell),
        Command::Manual { command } => documents::manual(command.as_deref()),
    }
}

/// Says on standard error what went wrong.
pub(crate) fn complain(error: &anyhow::Error) {
    tell(&format!("{error:#}"));
}

/// Says something on standard error. Names in it may come from files, and never reach the terminal as they are.
pub(crate) fn tell(text: &str) {
    // With standard error gone there is nobody left to tell.
    let _ = writeln!(io::stderr(), "tideline: {}", shown_message(text));
}
