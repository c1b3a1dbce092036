//! `completions` and `manual`: documents made from the argument table.

use anyhow::{Result, bail};
use clap::CommandFactory;

use super::Outcome;
use super::print::printing;
use crate::args::Cli;

pub(super) fn completions(shell: clap_complete::Shell) -> Result<Outcome> {
    let mut text = Vec::new();
    clap_complete::generate(shell, &mut Cli::command(), "tideline", &mut text);
    print(&text)
}

pub(super) fn manual(command: Option<&str>) -> Result<Outcome> {
    let mut whole = Cli::command();
    whole.build();
    let page = match command {
        None => whole,
        Some(name) => match whole.find_subcommand(name) {
            Some(found) => found.clone(),
            None => bail!("there is no command `{name}`; `tideline --help` lists them"),
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
