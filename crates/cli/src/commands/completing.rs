//! Completion: a shell's script asks the program itself what can stand at the cursor, so that it knows what only the moment tells:
//! rules and comparisons of the configuration, runs, and paths inside the trees that were typed.

use std::collections::BTreeMap;
use std::ffi::{OsStr, OsString};
use std::fs;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use clap::builder::{PossibleValue, PossibleValuesParser};
use clap::{Arg, Command};
use clap_complete::engine::{ArgValueCompleter, CompletionCandidate};
use clap_complete::env::{Bash, CompleteEnv, Elvish, EnvCompleter, Fish, Powershell, Shells, Zsh};
use tideline_core::internal::model::Status;
use tideline_core::internal::rules::built_in;
use tideline_journal::RunState;

use super::Outcome;
use super::print::printing;
use super::writing::journal;
use crate::args::{WhatArgs, command};
use crate::settings::Config;

/// The variable of the environment in which a script says for which shell it asks.
const VARIABLE: &str = "TIDELINE_COMPLETE";

const SHELLS: Shells<'static> = Shells(&[&QuotingBash, &Elvish, &Fish, &Powershell, &Zsh]);

/// To bash, `--only=changed` is three words.
const WITHOUT_EQUALS: &str = r#"    local at kept=()
    for at in "${!words[@]}"; do
        if [[ "${words[at]}" == "=" ]] && (( at < COMP_CWORD )); then
            (( _CLAP_COMPLETE_INDEX-- ))
        else
            kept+=("${words[at]}")
        fi
    done
    words=("${kept[@]}")
"#;

/// Bash, which takes candidates as they are to stand on the line, and gives words as they stand there.
struct QuotingBash;

impl EnvCompleter for QuotingBash {
    fn name(&self) -> &'static str {
        Bash.name()
    }

    fn is(&self, name: &str) -> bool {
        Bash.is(name)
    }

    fn write_registration(
        &self,
        var: &str,
        name: &str,
        bin: &str,
        completer: &str,
        buf: &mut dyn Write,
    ) -> io::Result<()> {
        let mut script = Vec::new();
        Bash.write_registration(var, name, bin, completer, &mut script)?;
        let call = "    COMPREPLY=( $(";
        buf.write_all(String::from_utf8_lossy(&script).replacen(call, &format!("{WITHOUT_EQUALS}{call}"), 1).as_bytes())
    }

    fn write_complete(
        &self,
        command: &mut Command,
        words: Vec<OsString>,
        folder: Option<&Path>,
        buf: &mut dyn Write,
    ) -> io::Result<()> {
        let is_plain = |word: &OsString| word.to_str().is_some_and(|word| !word.starts_with(['"', '\'']));
        let unquoted = |word: OsString| match word.to_str() {
            Some(text) if is_plain(&word) => text.replace('\\', "").into(),
            _ => word,
        };
        let mut found = Vec::new();
        Bash.write_complete(command, words.into_iter().map(unquoted).collect(), folder, &mut found)?;
        let mut quoted = Vec::with_capacity(found.len());
        for byte in found {
            if b" \t\\\"'$`&;|<>()[]{}*?!#~".contains(&byte) {
                quoted.push(b'\\');
            }
            quoted.push(byte);
        }
        buf.write_all(&quoted)
    }
}

/// Answers a completion script, if one asks, and ends the program.
pub(crate) fn answer_shell() {
    CompleteEnv::with_factory(|| for_completion(command())).var(VARIABLE).shells(SHELLS).complete();
}

/// Prints the script for a shell.
pub(super) fn completions(shell: clap_complete::Shell) -> Result<Outcome> {
    let shell = SHELLS.completer(&shell.to_string()).context("cannot complete in this shell")?;
    let mut text = Vec::new();
    shell.write_registration(VARIABLE, "tideline", "tideline", "tideline", &mut text)?;
    printing(false, |out| out.write_all(&text))?;
    Ok(Outcome::Same)
}

/// The table of arguments as completion needs it: what `compare` takes can be typed without its name, and values that have names are known.
fn for_completion(whole: Command) -> Command {
    let names: Vec<String> = whole.get_subcommands().map(|command| command.get_name().to_owned()).collect();
    let dressed = |whole: Command, name: &String| whole.mut_subcommand(name, with_values);
    let whole = names.iter().fold(whole, dressed).mut_subcommand("manual", |command| {
        command.mut_arg("command", |name| name.value_parser(PossibleValuesParser::new(values(&names))))
    });
    let is_own = |option: &&Arg| !matches!(option.get_id().as_str(), "help" | "version");
    let compare = whole.find_subcommand("compare");
    let of_compare: Vec<Arg> =
        compare.map(|compare| compare.get_arguments().filter(is_own).cloned().collect()).unwrap_or_default();
    whole.args(of_compare)
}

/// A command, and those below it, whose arguments know their values.
fn with_values(command: Command) -> Command {
    let below: Vec<String> = command.get_subcommands().map(|command| command.get_name().to_owned()).collect();
    let command = below.iter().fold(command, |command, name| command.mut_subcommand(name, with_values));
    // Of a command about trees, PATH is a path in them.
    let has_trees = ["after", "into"].iter().any(|id| command.get_positionals().any(|arg| arg.get_id() == id));
    let has_saved = command.get_name() == "saved";
    command.mut_args(|option| match option.get_id().as_str() {
        "ignore" | "mute" => option.add(ArgValueCompleter::new(rules)),
        "only" => option.value_parser(PossibleValuesParser::new(Status::ALL.map(Status::name))),
        "grain" => option.add(ArgValueCompleter::new(|typed: &OsStr| fitting(typed, ["line", "word", "letter"]))),
        "run" => option.add(ArgValueCompleter::new(runs)),
        "name" if has_saved => option.add(ArgValueCompleter::new(saved)),
        "path" | "paths" if has_trees => option.add(ArgValueCompleter::new(paths_in_trees)),
        _ => option,
    })
}

/// Names that are found at run time, as values.
fn values(names: &[String]) -> Vec<PossibleValue> {
    // They live as long as the program, which ends once it has printed them.
    names.iter().map(|name| PossibleValue::new(&*name.clone().leak())).collect()
}

/// The candidates that begin as what was typed.
fn fitting(typed: &OsStr, names: impl IntoIterator<Item = impl Into<String>>) -> Vec<CompletionCandidate> {
    let typed = typed.to_string_lossy();
    let names = names.into_iter().map(Into::into).filter(|name: &String| name.starts_with(&*typed));
    names.map(CompletionCandidate::new).collect()
}

/// The configuration that holds here; what is wrong with it is told by the command itself.
fn config() -> Config {
    Config::load(&WhatArgs::default()).unwrap_or_default()
}

/// What `--ignore` and `--mute` take: names, with commas between them.
fn rules(typed: &OsStr) -> Vec<CompletionCandidate> {
    let typed = typed.to_string_lossy();
    let (earlier, last) = typed.rfind(',').map_or(("", &*typed), |comma| typed.split_at(comma + 1));
    let built_in = built_in().map(str::to_owned);
    let names = built_in.chain(config().rules.into_iter().map(|rule| rule.name().to_owned()));
    fitting(OsStr::new(last), names).into_iter().map(|name| name.add_prefix(earlier)).collect()
}

fn saved(typed: &OsStr) -> Vec<CompletionCandidate> {
    fitting(typed, config().saved.into_iter().map(|saved| saved.name))
}

/// The runs of the journal, the latest first, each with its command.
fn runs(typed: &OsStr) -> Vec<CompletionCandidate> {
    let typed = typed.to_string_lossy();
    let runs = journal().and_then(|journal| Ok(journal.runs()?)).unwrap_or_default();
    let fits = runs.into_iter().rev().filter(|listed| listed.run.to_string().starts_with(&*typed));
    fits.map(|listed| {
        let command = match &listed.state {
            RunState::Done(record) | RunState::Open(record) => Some(record.command.clone().into()),
            _ => None,
        };
        CompletionCandidate::new(listed.run.to_string()).help(command)
    })
    .collect()
}

/// Paths below the folders that were typed before: of each entry the next component, a folder with a slash.
fn paths_in_trees(typed: &OsStr) -> Vec<CompletionCandidate> {
    let typed = typed.to_string_lossy();
    let (folder, name) = typed.rfind('/').map_or(("", &*typed), |slash| typed.split_at(slash + 1));
    let mut found: BTreeMap<OsString, bool> = BTreeMap::new();
    for tree in trees_typed() {
        for entry in fs::read_dir(tree.join(folder)).into_iter().flatten().flatten() {
            let is_folder = entry.file_type().is_ok_and(|entry_type| entry_type.is_dir());
            *found.entry(entry.file_name()).or_default() |= is_folder;
        }
    }
    let fits = found.into_iter().filter(|(entry, _)| entry.to_string_lossy().starts_with(name));
    fits.map(|(entry, is_folder)| {
        let mut path = OsString::from(folder);
        path.push(entry);
        path.push(if is_folder { "/" } else { "" });
        CompletionCandidate::new(path)
    })
    .collect()
}

/// The first two folders on the line that is being typed. The script gives it behind a `--`.
fn trees_typed() -> Vec<PathBuf> {
    let line = std::env::args_os().skip_while(|word| word != "--").skip(2);
    line.map(PathBuf::from).filter(|path| Path::is_dir(path)).take(2).collect()
}
