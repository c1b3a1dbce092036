//! `completions` and `manual`: documents made from the argument table.

use anyhow::{Result, bail};
use tideline_core::internal::text::spelling::nearest;

use super::Outcome;
use super::print::printing;
use crate::args::command;

pub(super) fn completions(shell: clap_complete::Shell) -> Result<Outcome> {
    let mut text = Vec::new();
    clap_complete::generate(shell, &mut command(), "tideline", &mut text);
    print(&text)
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
