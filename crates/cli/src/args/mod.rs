//! The arguments as they are typed. Parsing checks their form; [`crate::settings`] gives them meaning.

mod align;
mod apply;
mod compare;
mod demo;
mod explain;
mod files;
mod help;
mod inventory;
mod merge;
mod patch;
mod read;
mod report;
mod review;
mod rules;
mod runs;
mod saved;
mod show;
mod show_patch;
mod sides;
mod sync;
mod take;
mod what;

use std::ffi::OsString;
use std::io::Write;

use clap::error::{ContextKind, ContextValue, ErrorKind};
use clap::{CommandFactory, FromArgMatches, Parser, Subcommand};

use tideline_core::internal::text::spelling::nearest;

pub(crate) use align::{HoldArgs, PartArgs, Parts};
pub(crate) use apply::{ApplyArgs, ApplyFormat};
pub(crate) use compare::{CompareArgs, SortBy};
pub(crate) use demo::DemoArgs;
pub(crate) use explain::{ExplainArgs, LineChoice};
pub(crate) use files::{AttributeChoice, FilesArgs, LinksChoice, OnlyChoice, TrustChoice};
pub(crate) use inventory::{HashChoice, InventoryArgs};
pub(crate) use merge::{GrainChoice, InsertionsChoice, MergeArgs, OnOff, PreferChoice};
pub(crate) use patch::{PatchArgs, PatchFormat};
pub(crate) use read::{CellsChoice, HowArgs, KindArgs, KindChoice, ReadArgs, WeightChoice, delimiter, tolerance};
pub(crate) use report::{FormatChoice, ReportArgs};
pub(crate) use review::ReviewArgs;
pub(crate) use rules::{RulesAction, RulesArgs};
pub(crate) use runs::{RunsAction, RunsArgs, UndoArgs};
pub(crate) use saved::SavedArgs;
pub(crate) use show::{ColorChoice, ColourArgs, LayoutChoice, LookArgs, SyntaxChoice, ThemeChoice, parse_context};
pub(crate) use show_patch::ShowArgs;
pub(crate) use sides::{SideArgs, any_path};
pub(crate) use sync::SyncArgs;
pub(crate) use take::{SideChoice, TakeArgs};
pub(crate) use what::{RulesChoice, WhatArgs};

/// See what differs between two files or folders, down to the letter.
#[derive(Debug, Parser)]
#[command(
    name = "tideline",
    version,
    about = "Compare two files or folders and see which files, lines, words and letters changed",
    long_about = "Compare two files or folders and see which files, lines, words and letters changed.\n\n\
                  A side is a file, a folder, an archive, a revision of a repository (`git:REV`) or an inventory. \
                  `tideline BEFORE AFTER` is short for `tideline compare BEFORE AFTER`. Everything is told as what \
                  happened on the way from BEFORE to AFTER: a file or a line is gone, new, changed or moved.",
    after_help = "Examples:\n  \
                  tideline old/levels.py new/levels.py       what changed between two files\n  \
                  tideline release-1 release-2               which files differ between two folders\n  \
                  tideline release-1.zip release-2           an archive stands for its folder\n  \
                  tideline git:HEAD                          what became different since the last commit\n  \
                  tideline patch a.txt b.txt -o fix.patch    a patch that turns a.txt into b.txt\n\n\
                  Exit status: 0 nothing that counts differs; 1 something differs; 2 it could not be told or done.\n\
                  New here? `tideline demo` writes small sample folders and shows every command at work on them.",
    override_usage = "tideline [OPTIONS] BEFORE AFTER\n       tideline COMMAND [OPTIONS] …",
    disable_help_subcommand = false
)]
pub(crate) struct Cli {
    #[command(subcommand)]
    pub(crate) command: Command,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    Compare(CompareArgs),
    Review(ReviewArgs),
    Explain(ExplainArgs),
    Patch(PatchArgs),
    Report(ReportArgs),
    Show(ShowArgs),
    Apply(ApplyArgs),
    Take(TakeArgs),
    Sync(SyncArgs),
    Merge(MergeArgs),
    Inventory(InventoryArgs),
    Undo(UndoArgs),
    Runs(RunsArgs),
    Rules(RulesArgs),
    Saved(SavedArgs),
    Demo(DemoArgs),
    /// Print completions for a shell
    #[command(after_help = "Examples:\n  \
            source <(tideline completions bash)          in ~/.bashrc\n  \
            source <(tideline completions zsh)           in ~/.zshrc\n  \
            tideline completions fish | source           in ~/.config/fish/config.fish")]
    Completions {
        /// The shell to write for
        #[arg(value_name = "SHELL")]
        shell: clap_complete::Shell,
    },
    /// Print the manual page, of the whole or of one command
    #[command(after_help = "Example:\n  tideline manual compare | man -l -")]
    Manual {
        /// A command; without it, the page of the whole
        #[arg(value_name = "COMMAND")]
        command: Option<String>,
    },
}

/// The table of arguments, as it is shown.
pub(crate) fn command() -> clap::Command {
    help::with_help(Cli::command())
}

/// Parses the arguments of this process; leaves it on `--help`, `--version` and mistakes.
pub(crate) fn parse() -> Cli {
    let mut arguments: Vec<OsString> = std::env::args_os().collect();
    let mut table = Cli::command();
    if arguments.len() == 1 {
        let help = table.render_help();
        // Nothing can be done when even the help cannot be printed.
        let _ = write!(std::io::stderr(), "{help}");
        std::process::exit(2);
    }
    if compare_is_meant(&arguments, &table) {
        refuse_misspelt_command(&arguments[1], &table);
        arguments.insert(1, "compare".into());
    }
    let matches = match table.try_get_matches_from_mut(arguments.clone()) {
        Ok(matches) => matches,
        // Only somebody who reads help waits for it to be made.
        Err(error) => {
            let mut shown = command();
            let error = shown.try_get_matches_from_mut(arguments.clone()).err().unwrap_or(error);
            advised(error, &arguments, &shown).exit()
        }
    };
    // What the table has let through, the types take; `exit` is for the compiler.
    let cli = Cli::from_arg_matches(&matches).unwrap_or_else(|error| error.exit());
    cli.completed().unwrap_or_else(|error| error.exit())
}

impl Cli {
    /// The same arguments with the working folder as the side after, where only a revision was named.
    pub(crate) fn completed(mut self) -> Result<Self, clap::Error> {
        let (before, after) = match &mut self.command {
            Command::Compare(args) => (&args.before, &mut args.after),
            Command::Review(args) => (&args.before, &mut args.after),
            Command::Patch(args) => (&args.before, &mut args.after),
            Command::Report(args) => (&args.before, &mut args.after),
            _ => return Ok(self),
        };
        if !after.as_os_str().is_empty() {
            return Ok(self);
        }
        if !tideline_sources::Argument::is_revision(before) {
            let name = before.display();
            return Err(Cli::command().error(
                ErrorKind::MissingRequiredArgument,
                format!("the side after is missing: name what {name} is compared with"),
            ));
        }
        *after = ".".into();
        Ok(self)
    }
}

/// Adds what was probably meant to an error about a misspelt option or value.
fn advised(mut error: clap::Error, arguments: &[OsString], command: &clap::Command) -> clap::Error {
    let text = |error: &clap::Error, kind| match error.get(kind) {
        Some(ContextValue::String(text)) => Some(text.clone()),
        _ => None,
    };
    let inner = arguments.get(1).and_then(|name| command.find_subcommand(name)).unwrap_or(command);
    match error.kind() {
        ErrorKind::UnknownArgument => {
            let Some(typed) = text(&error, ContextKind::InvalidArg) else { return error };
            // The advice to take it as a value would only distract.
            error.remove(ContextKind::Suggested);
            error.remove(ContextKind::SuggestedArg);
            let Some(typed) = typed.strip_prefix("--") else { return error };
            let known: Vec<&str> = inner.get_arguments().filter_map(clap::Arg::get_long).collect();
            let by_meaning = || {
                by_meaning(typed).filter(|meant| {
                    let option = meant.split(' ').next().unwrap_or_default();
                    known.contains(&option)
                })
            };
            if let Some(meant) = nearest(typed, known.iter().copied()).or_else(by_meaning) {
                error.insert(ContextKind::SuggestedArg, ContextValue::String(format!("--{meant}")));
            }
        }
        ErrorKind::InvalidValue => {
            let Some(typed) = text(&error, ContextKind::InvalidValue) else { return error };
            let Some(ContextValue::Strings(values)) = error.get(ContextKind::ValidValue).cloned() else { return error };
            if let Some(meant) = nearest(&typed, values.iter().map(String::as_str)) {
                error.insert(ContextKind::SuggestedValue, ContextValue::String(meant.to_owned()));
            }
        }
        _ => {}
    }
    error
}

/// The option that does what an everyday word in an unknown one asks for.
fn by_meaning(typed: &str) -> Option<&'static str> {
    const WORDS: [(&str, &str); 10] = [
        ("case", "ignore case"),
        ("white", "ignore space"),
        ("blank", "ignore blank-lines"),
        ("space", "ignore space"),
        ("side", "layout beside"),
        ("split", "layout beside"),
        ("column", "layout beside"),
        ("recurs", "each-file"),
        ("word", "grain word"),
        ("char", "grain letter"),
    ];
    WORDS.iter().find(|(word, _)| typed.contains(word)).map(|(_, option)| *option)
}

/// Ends the program where what stands in the place of a command is neither one nor a path, but nearly a command.
fn refuse_misspelt_command(typed: &OsString, command: &clap::Command) {
    let Some(typed) = typed.to_str().filter(|typed| !typed.starts_with('-') && !typed.contains(['/', '.'])) else {
        return;
    };
    let meant = nearest(typed, command.get_subcommands().map(clap::Command::get_name));
    if let Some(meant) = meant.filter(|_| !std::path::Path::new(typed).exists()) {
        eprintln!("tideline: there is no command and no path `{typed}`; did you mean `{meant}`?");
        std::process::exit(2);
    }
}

/// Whether the first argument is neither a command nor one of the options of the tool as a whole.
fn compare_is_meant(arguments: &[OsString], command: &clap::Command) -> bool {
    let Some(first) = arguments[1].to_str() else { return true };
    let of_the_whole = ["-h", "--help", "-V", "--version", "help"];
    !of_the_whole.contains(&first) && command.find_subcommand(first).is_none()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_flag_table_is_sound() {
        command().debug_assert();
    }

    #[test]
    fn every_command_has_help_with_an_example_and_exit_statuses() {
        for command in command().get_subcommands().filter(|command| command.get_name() != "help") {
            let name = command.get_name();
            assert!(command.get_about().is_some(), "{name} says what it does");
            let told = command.get_after_long_help().map(ToString::to_string).unwrap_or_default();
            let told = format!("{told}{}", command.get_long_about().map(ToString::to_string).unwrap_or_default());
            assert!(told.contains(&format!("tideline {name}")) || name == "compare", "{name} has an example");
            assert!(told.contains("Exit status: 0") || name == "saved", "{name} tells its exit statuses");
        }
    }
}
