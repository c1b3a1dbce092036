//! `compare`: what changed between two files.

use std::io::{self, Write};

use anyhow::{Result, bail};
use tideline_core::kinds::text::{TextOptions, compare};
use tideline_core::model::{Kind, Status, TextComparison};
use tideline_views::json::{self, records::Record};
use tideline_views::terminal::{Counts, FileView, Look, draw_file, write_bytes_view};

use super::Outcome;
use super::print::printing;
use super::sides::{Sides, open_files};
use super::texts::Texts;
use crate::args::CompareArgs;
use crate::settings::{encodings, look};

pub(super) fn run(args: &CompareArgs) -> Result<Outcome> {
    if args.before.is_dir() && args.after.is_dir() {
        return super::trees::run(args);
    }
    if let Some(path) = args.paths.first() {
        bail!(
            "cannot look for {} in {} and {}: paths can follow two folders only",
            path.display(),
            args.before.display(),
            args.after.display()
        );
    }
    let encodings = encodings(&args.read)?;
    let look = look(&args.look)?;
    let sides = open_files(&args.before, &args.after)?;
    let same = *sides.before == *sides.after;
    let outcome = if same { Outcome::Same } else { Outcome::Different };
    if args.quiet {
        return Ok(outcome);
    }
    let paged = !args.look.no_pager && !args.json;
    if same && !args.json {
        printing(false, |out| writeln!(out, "{}", same_line(&sides)))?;
        return Ok(outcome);
    }
    let texts = Texts::of(&sides, encodings);
    let comparison = match &texts {
        Texts::Text { before, after, .. } => compare(before, after, &TextOptions::default()),
        Texts::Bytes => TextComparison::default(),
    };
    if args.json {
        printing(paged, |out| write_json(&sides, &texts, &comparison, look.marked(), same, out))?;
    } else {
        printing(paged, |out| draw(&sides, &texts, &comparison, &look, out))?;
    }
    Ok(outcome)
}

/// The one line that says that two files are the same.
fn same_line(sides: &Sides) -> String {
    let names = &sides.names;
    let size = match sides.before.len() {
        1 => "1 byte".to_owned(),
        size => format!("{size} bytes"),
    };
    let (before, after) = (&names.labels.before, &names.labels.after);
    if names.name.is_empty() {
        format!("{before} and {after} are the same ({size})")
    } else {
        format!("{} is the same in {before} and {after} ({size})", names.name)
    }
}

fn draw(
    sides: &Sides,
    texts: &Texts<'_>,
    comparison: &TextComparison,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let note = texts.note();
    match texts {
        Texts::Bytes => {
            write_bytes_view(&sides.names.name, &sides.names.labels, (&sides.before, &sides.after), look, out)
        }
        Texts::Text { before, after, .. } => {
            draw_file(&view(sides, (before, after), note.as_deref(), comparison), look, out)
        }
    }
}

fn view<'a>(
    sides: &'a Sides,
    (before, after): (&'a [u8], &'a [u8]),
    note: Option<&'a str>,
    comparison: &'a TextComparison,
) -> FileView<'a> {
    let names = &sides.names;
    FileView {
        name: &names.name,
        type_name: if names.name.is_empty() { &names.labels.after } else { &names.name },
        labels: &names.labels,
        note,
        before,
        after,
        comparison,
    }
}

fn write_json(
    sides: &Sides,
    texts: &Texts<'_>,
    comparison: &TextComparison,
    grain: &tideline_core::kinds::text::Grain,
    same: bool,
    out: &mut dyn Write,
) -> io::Result<()> {
    let names = &sides.names;
    let path = if names.name.is_empty() { &names.labels.after } else { &names.name };
    let status = if same { Status::Same } else { Status::Changed };
    let kind = if matches!(texts, Texts::Bytes) { Kind::Bytes } else { Kind::Text };
    let counts = Counts::of(comparison);
    json::write_record(&json::opening(&names.labels), out)?;
    let pair = json::pair(path, status, kind, counts, &texts.facts(sides));
    json::write_record(&Record::Pair(pair), out)?;
    if let Texts::Text { before, after, .. } = texts {
        json::write_changes(path.as_bytes(), &view(sides, (before, after), None, comparison), grain, out)?;
    }
    json::write_record(&json::summary(status, counts), out)
}
