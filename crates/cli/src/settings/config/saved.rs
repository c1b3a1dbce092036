//! `[saved.NAME]`: a comparison to be run by its name. Its keys are the options of `compare`, with `_` for `-`.

use std::ffi::OsString;
use std::path::Path;

use anyhow::Result;
use clap::CommandFactory;
use tideline_sources::Argument;

use super::table::Table;
use crate::args::Cli;

/// A saved comparison.
#[derive(Clone, Debug)]
pub(crate) struct Saved {
    pub(crate) name: String,
    /// Where it was declared.
    pub(crate) place: String,
    /// The arguments of `compare`.
    pub(crate) arguments: Vec<OsString>,
}

/// Options that belong to one run and not to a comparison.
const NOT_SAVED: [&str; 5] = ["config", "no-config", "help", "watch", "quiet"];

impl Saved {
    pub(super) fn read(name: &str, table: &Table<'_>) -> Result<Self> {
        let command = Cli::command();
        let compare = command.find_subcommand("compare");
        let options = compare.into_iter().flat_map(clap::Command::get_arguments).filter_map(|option| {
            let long = option.get_long().filter(|long| !NOT_SAVED.contains(long))?;
            Some((long.replace('-', "_"), option.get_action().takes_values()))
        });
        let options: Vec<(String, bool)> = options.collect();
        let own = ["before", "after", "paths"];
        table.only(own.into_iter().chain(options.iter().map(|(key, _)| key.as_str())))?;
        let folder = table.source.folder();
        let mut arguments: Vec<OsString> = Vec::new();
        for (key, takes_values) in &options {
            let flag = format!("--{}", key.replace('_', "-"));
            if !takes_values {
                if table.flag(key)? == Some(true) {
                    arguments.push(flag.into());
                }
                continue;
            }
            let values = match table.number_or_text(key) {
                Ok(value) => value.into_iter().collect(),
                Err(_) => table.texts(key)?.unwrap_or_default(),
            };
            for value in values {
                arguments.push(format!("{flag}={value}").into());
            }
        }
        arguments.push("--".into());
        // Standard input and revisions are not beside the configuration.
        let is_elsewhere = |path: &str| path == "-" || Argument::is_revision(Path::new(path));
        let side = |path: String| {
            if is_elsewhere(&path) { path.into() } else { folder.join(path).into_os_string() }
        };
        let before = table.needed_text("before")?;
        let after = match table.text("after")? {
            // A revision alone is compared with the folder that the configuration is in.
            None if Argument::is_revision(Path::new(&before)) => folder.join(".").into_os_string(),
            _ => side(table.needed_text("after")?),
        };
        arguments.extend([side(before), after]);
        arguments.extend(table.texts("paths")?.unwrap_or_default().into_iter().map(OsString::from));
        Ok(Self { name: name.to_owned(), place: table.source.place(table.span), arguments })
    }
}
