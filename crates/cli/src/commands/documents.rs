//! `manual`: pages made from the argument table.

use std::io::{self, Write};

use anyhow::{Result, bail};
use clap::Command;
use tideline_core::internal::text::spelling::nearest;

use super::Outcome;
use super::print::printing;
use crate::args::command;

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
    write_page(page, &mut text)?;
    print(&text)
}

/// Writes a manual page: what the table of arguments tells, then the text below it in sections of its own.
fn write_page(command: Command, out: &mut Vec<u8>) -> io::Result<()> {
    // What short help leaves out would be left out here too.
    let command = command.mut_args(|option| option.hide_short_help(false));
    let told = command.get_after_long_help().or(command.get_after_help()).map(ToString::to_string).unwrap_or_default();
    let usage = command.clone().render_usage().to_string();
    let usage: Vec<&str> = usage.trim_start_matches("Usage: ").lines().map(str::trim_start).collect();
    let page = clap_mangen::Man::new(command.clone());
    page.render_title(out)?;
    page.render_name_section(out)?;
    write_section("SYNOPSIS", &usage.join("\n"), true, out)?;
    page.render_description_section(out)?;
    page.render_options_section(out)?;
    if command.has_subcommands() {
        page.render_subcommands_section(out)?;
    }
    for part in told.split("\n\n").filter(|part| !part.trim().is_empty()) {
        match part.split_once(':') {
            Some(("Example" | "Examples", examples)) => write_section("EXAMPLES", examples, true, out)?,
            Some(("Exit status", statuses)) => write_section("EXIT STATUS", statuses, false, out)?,
            _ => write_section("NOTES", part, false, out)?,
        }
    }
    write_section("FILES", FILES, true, out)?;
    write_section("ENVIRONMENT", ENVIRONMENT, true, out)
}

const FILES: &str = "\
tideline.toml                         rules and saved comparisons, the nearest from here upwards
$XDG_CONFIG_HOME/tideline/            the same for all folders
$XDG_STATE_HOME/tideline/             what was overwritten or removed, for undo; what was seen in review";

const ENVIRONMENT: &str = "\
NO_COLOR, CLICOLOR_FORCE              no colours, or colours in a pipe too
COLORTERM, TERM                       how many colours there are
PAGER, LESS                           what long output goes through
VISUAL, EDITOR                        what `take --ask` and `review` edit with
SOURCE_DATE_EPOCH                     the time in a report";

/// Writes a section of a manual page, line by line as it stands or as running text.
fn write_section(title: &str, text: &str, as_it_stands: bool, out: &mut Vec<u8>) -> io::Result<()> {
    writeln!(out, ".SH {title}")?;
    if as_it_stands {
        writeln!(out, ".nf")?;
    }
    for line in text.lines().filter(|line| !line.trim().is_empty()) {
        // A dot or a quote that begins a line would be a request, and a hyphen would be set as another sign.
        let line = line.trim_end().replace('\\', "\\e").replace('-', "\\-");
        writeln!(out, "\\&{}", if as_it_stands { &line } else { line.trim_start() })?;
    }
    if as_it_stands {
        writeln!(out, ".fi")?;
    }
    Ok(())
}

fn print(text: &[u8]) -> Result<Outcome> {
    printing(false, |out| std::io::Write::write_all(out, text))?;
    Ok(Outcome::Same)
}
