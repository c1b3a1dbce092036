//! `rules`: which rules are in force, what they match, and a configuration to start from.

use std::io::{self, Write};
use std::path::Path;

use anyhow::{Result, bail};
use tideline_core::internal::kinds::{self, ContentOptions, Read};
use tideline_core::internal::rules::{Effect, MaskedText, Rule};
use tideline_sources::{Origin, open};
use tideline_views::json;
use tideline_views::terminal::draw_matches;

use super::Outcome;
use super::print::printing;
use super::writing::write_new_file;
use crate::args::{ColourArgs, ReadArgs, RulesAction, RulesArgs, WhatArgs};
use crate::settings::{Config, FILE_NAME, encodings, kind, look_of_colours, rules};

const STARTING_FILE: &str = include_str!("starting.toml");

pub(super) fn run(args: &RulesArgs) -> Result<Outcome> {
    match &args.action {
        None => list(&args.what, args.json),
        Some(RulesAction::Test { file, what, read, colour }) => test(file, what, read, colour),
        Some(RulesAction::Init) => {
            write_new_file(Path::new(FILE_NAME), STARTING_FILE.as_bytes().to_vec())?;
            printing(false, |out| writeln!(out, "{FILE_NAME} is written: every line in it says what it is for"))?;
            Ok(Outcome::Same)
        }
    }
}

/// Lists the rules in force and where they come from.
fn list(what: &WhatArgs, as_records: bool) -> Result<Outcome> {
    let config = Config::load(what)?;
    let rules = rules(what, &config)?;
    let rules: Vec<&Rule> = rules.iter().collect();
    printing(false, |out| {
        if as_records {
            return rules.iter().try_for_each(|rule| json::write_record(&json::rules::rule(rule), out));
        }
        let files: Vec<String> = config.files.iter().map(|file| file.display().to_string()).collect();
        let from = if files.is_empty() { "no configuration".to_owned() } else { files.join(", ") };
        let count = match rules.len() {
            0 => "no rule is in force".to_owned(),
            1 => "1 rule is in force".to_owned(),
            count => format!("{count} rules are in force"),
        };
        writeln!(out, "{count}; read: {from}")?;
        if !rules.is_empty() {
            writeln!(out)?;
        }
        write_table(&rules, out)
    })?;
    Ok(Outcome::Same)
}

fn write_table(rules: &[&Rule], out: &mut dyn Write) -> io::Result<()> {
    let rows: Vec<[String; 4]> = rules
        .iter()
        .map(|rule| {
            let verb = if rule.effect() == Effect::Ignore { "ignores" } else { "mutes" };
            let what = rule.written().collect::<Vec<_>>().join(", ");
            let files = rule.file_patterns().map_or_else(|| "all files".to_owned(), |files| files.join(", "));
            [rule.name().to_owned(), format!("{verb} {what}"), files, rule.declared().to_owned()]
        })
        .collect();
    let width = |column: usize| rows.iter().map(|row| row[column].chars().count()).max().unwrap_or(0);
    let widths = [width(0), width(1), width(2)];
    for [name, what, files, declared] in &rows {
        let [a, b, c] = widths;
        writeln!(out, "  {name:a$}    {what:b$}    {files:c$}    {declared}")?;
    }
    Ok(())
}

/// Prints a file with what each rule matches.
fn test(file: &Path, what: &WhatArgs, read: &ReadArgs, colour: &ColourArgs) -> Result<Outcome> {
    let config = Config::load(what)?;
    let rules = rules(what, &config)?;
    let look = look_of_colours(colour, &config.view)?;
    let content = open(&Origin::of(file))?;
    let path = file.as_os_str().as_encoded_bytes();
    let options = ContentOptions::default().encodings(encodings(read)?).kind(kind(read.kind));
    let Read::Text(text) = kinds::read(path, &content, true, &options) else {
        bail!("cannot test rules on {}: it is not text", file.display());
    };
    let name = if file.as_os_str() == "-" { "standard input".to_owned() } else { file.display().to_string() };
    let file_rules = rules.file_rules(path);
    if rules.is_empty() {
        bail!("there is no rule to test: name one, as in --mute timestamps, or write one into {FILE_NAME}");
    }
    printing(false, |out| draw_matches(&name, &MaskedText::new(text.clone(), &file_rules), &look, out))?;
    Ok(Outcome::Same)
}
