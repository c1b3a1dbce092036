//! `saved`: comparisons of the configuration, by name.

use std::ffi::OsString;

use anyhow::{Result, anyhow, bail};
use clap::Parser;
use tideline_core::internal::text::spelling::nearest;

use super::Outcome;
use super::print::printing;
use crate::args::{Cli, Command, SavedArgs};
use crate::settings::{Config, FILE_NAME, Saved};

pub(super) fn run(args: &SavedArgs) -> Result<Outcome> {
    let config = Config::load(&args.what)?;
    let Some((name, further)) = args.name.split_first() else {
        return list(&config);
    };
    let name = name.to_string_lossy();
    let Some(saved) = config.saved.iter().find(|saved| saved.name == name) else {
        bail!("{}", unknown(&name, &config));
    };
    let mut arguments: Vec<OsString> = vec!["tideline".into(), "compare".into()];
    if let Some(path) = &args.what.config {
        arguments.extend(["--config".into(), path.clone().into_os_string()]);
    }
    arguments.extend(further.iter().cloned());
    arguments.extend(saved.arguments.iter().cloned());
    let parsed = Cli::try_parse_from(arguments).map_err(|error| {
        let reason = error.to_string();
        let reason = reason.lines().next().unwrap_or_default().trim_start_matches("error: ").to_owned();
        anyhow!("cannot run the saved comparison `{name}` ({}): {reason}", saved.place)
    })?;
    match parsed.command {
        Command::Compare(compare) => super::compare::run(&compare),
        _ => bail!("cannot run the saved comparison `{name}` ({}): it is not a comparison", saved.place),
    }
}

fn list(config: &Config) -> Result<Outcome> {
    if config.saved.is_empty() {
        bail!(
            "there are no saved comparisons: {FILE_NAME} declares them as [saved.NAME]; `tideline rules init` writes an example"
        );
    }
    let width = config.saved.iter().map(|saved| saved.name.chars().count()).max().unwrap_or(0);
    printing(false, |out| {
        for Saved { name, place, arguments } in &config.saved {
            let words: Vec<_> =
                arguments.iter().map(|word| word.to_string_lossy()).filter(|word| word != "--").collect();
            writeln!(out, "  {name:width$}    {}    ({place})", words.join(" "))?;
        }
        Ok(())
    })?;
    Ok(Outcome::Same)
}

fn unknown(name: &str, config: &Config) -> String {
    let names: Vec<&str> = config.saved.iter().map(|saved| saved.name.as_str()).collect();
    let advice = match nearest(name, names.iter().copied()) {
        Some(meant) => format!("did you mean `{meant}`?"),
        None if names.is_empty() => format!("{FILE_NAME} declares none"),
        None => format!("there are {}", names.join(", ")),
    };
    format!("there is no saved comparison `{name}`; {advice}")
}
