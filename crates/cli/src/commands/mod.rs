//! The commands, a file each. A command returns its outcome; nothing here ends the process.

mod apply;
pub(crate) mod compare;
mod completing;
mod demo;
mod documents;
mod editor;
mod explain;
mod inventory;
pub(crate) mod lines;
pub(crate) mod merge;
mod outcome;
pub(crate) mod pairs;
mod patch;
mod print;
mod progress;
pub(crate) mod remembered;
mod report;
pub(crate) mod request;
pub(crate) mod resolve;
mod rules;
mod runs;
mod saved;
mod show_patch;
pub(crate) mod sides;
mod sync;
mod take;
mod tell;
pub(crate) mod unpacked;
mod unused;
pub(crate) mod versions;
mod writing;

use anyhow::Result;

use crate::args::{Cli, Command};
use crate::review;
pub(crate) use completing::answer_shell;
pub(crate) use editor::edited_in_editor;
pub(crate) use outcome::Outcome;
pub(crate) use tell::{complain, tell};
pub(crate) use writing::{
    before_signal, carry_out_silently, expected_state, in_full, listen_to_signals, own_entries, run_and_undo,
};

/// Runs the command that was asked for.
pub(crate) fn run(cli: Cli) -> Result<Outcome> {
    match cli.command {
        Command::Compare(args) => compare::run(&args),
        Command::Review(args) => review::run(&args),
        Command::Explain(args) => explain::run(&args),
        Command::Rules(args) => rules::run(&args),
        Command::Saved(args) => saved::run(&args),
        Command::Apply(args) => apply::run(&args),
        Command::Sync(args) => sync::run(&args),
        Command::Merge(args) => merge::run(&args),
        Command::Inventory(args) => inventory::run(&args),
        Command::Take(args) => take::run(&args),
        Command::Show(args) => show_patch::run(&args),
        Command::Runs(args) => runs::run(&args),
        Command::Undo(args) => runs::undo(&args),
        Command::Patch(args) => patch::run(&args),
        Command::Report(args) => report::run(&args),
        Command::Demo(args) => demo::run(&args),
        Command::Completions { shell } => completing::completions(shell),
        Command::Manual { command } => documents::manual(command.as_deref()),
    }
}
