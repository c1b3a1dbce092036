//! `completions` and `manual`: documents made from the argument table.

use anyhow::{Result, bail};
use clap::builder::{PossibleValue, PossibleValuesParser};
use clap::{Arg, Command};
use tideline_core::internal::model::Status;
use tideline_core::internal::rules::built_in;
use tideline_core::internal::text::spelling::nearest;

use super::Outcome;
use super::print::printing;
use crate::args::command;

pub(super) fn completions(shell: clap_complete::Shell) -> Result<Outcome> {
    let mut text = Vec::new();
    clap_complete::generate(shell, &mut for_completion(command()), "tideline", &mut text);
    print(&text)
}

/// Names that are found at run time, as values.
fn values(names: &[String]) -> Vec<PossibleValue> {
    // They live as long as the program, which ends once it has printed them.
    names.iter().map(|name| PossibleValue::new(&*name.clone().leak())).collect()
}

/// The table of arguments as completion needs it: what `compare` takes can be typed without its name, and values that have names are known.
fn for_completion(whole: Command) -> Command {
    let names: Vec<String> = whole.get_subcommands().map(|command| command.get_name().to_owned()).collect();
    let known = |option: Arg| -> Arg {
        match option.get_id().as_str() {
            "ignore" | "mute" => option.value_parser(PossibleValuesParser::new(built_in())),
            "only" => option.value_parser(PossibleValuesParser::new(Status::ALL.map(Status::name))),
            "grain" => option.value_parser(PossibleValuesParser::new(["line", "word", "letter"])),
            _ => option,
        }
    };
    let dressed = |whole: Command, name: &String| whole.mut_subcommand(name, |command| command.mut_args(known));
    let whole = names.iter().fold(whole, dressed).mut_subcommand("manual", |command| {
        command.mut_arg("command", |name| name.value_parser(PossibleValuesParser::new(values(&names))))
    });
    let is_own = |option: &&Arg| !matches!(option.get_id().as_str(), "help" | "version");
    let compare = whole.find_subcommand("compare");
    let of_compare: Vec<Arg> =
        compare.map(|compare| compare.get_arguments().filter(is_own).cloned().collect()).unwrap_or_default();
    whole.args(of_compare)
}

pub(super) fn manual(name: Option<&str>) -> Result<Outcome> {
    let mut whole = command();
    whole.build();
    let page = match name {
        None => whole,
        Some(name) => match whole.find_subcommand(name) {
            Some(found) => found.clone(),
            None => {
                let names = whole.get_subcommands().map(clap::Command::get_name);
                let meant = nearest(name, names).map(|meant| format!("did you mean `{meant}`?"));
                bail!("there is no command `{name}`; {}", meant.unwrap_or("`tideline --help` lists them".to_owned()))
            }
        },
    };
    let mut text = Vec::new();
    clap_mangen::Man::new(page).render(&mut text)?;
    print(&text)
}

fn print(text: &[u8]) -> Result<Outcome> {
    printing(false, |out| std::io::Write::write_all(out, text))?;
    Ok(Outcome::Same)
}
