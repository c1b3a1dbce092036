//! `compare`: what changed between two files.

use std::io;

use anyhow::Result;
use tideline_core::kinds::Comparison;
use tideline_core::kinds::text::Grain;
use tideline_core::model::Status;
use tideline_views::json::{self, records::Record};
use tideline_views::terminal::draw_pair;
use tideline_views::{PairView, encoding_note};

use super::settings::Settings;
use crate::args::CompareArgs;
use crate::commands::Outcome;
use crate::commands::print::printing;
use crate::commands::sides::Sides;
use crate::commands::unused::tell_unused;

pub(super) fn run(args: &CompareArgs, settings: &Settings, sides: &Sides) -> Result<Outcome> {
    let same = *sides.before == *sides.after;
    if same && !args.json {
        if !args.quiet {
            printing(false, |out| writeln!(out, "{}", same_line(sides)))?;
        }
        return sides.check().map(|()| Outcome::Same);
    }
    if args.quiet && settings.contents.all_rules().is_empty() {
        return Ok(if same { Outcome::Same } else { Outcome::Different });
    }
    let comparison = sides.compare(&settings.contents);
    let status = comparison.status(same);
    if !args.quiet {
        let paged = settings.paged && !args.json;
        printing(paged, |out| {
            if args.json {
                let write = &mut |record| json::write_record(&record, out);
                give_records(sides, (&comparison, status), (settings.look.marked(), usize::MAX), write)
            } else {
                let note = encoding_note(&comparison);
                draw_pair(&PairView::new(&comparison, sides.title(note.as_deref())), &settings.look, out)
            }
        })?;
        if !same {
            tell_unused(settings.contents.all_rules(), &comparison.account());
        }
    }
    sides.check().map(|()| Outcome::of(status))
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

/// Gives the records of two files, with up to so many changes.
pub(in crate::commands) fn give_records(
    sides: &Sides,
    (comparison, status): (&Comparison<'_>, Status),
    shown: (&Grain, usize),
    take: &mut dyn FnMut(Record) -> io::Result<()>,
) -> io::Result<()> {
    let path = sides.type_name();
    take(json::opening(&sides.names.labels))?;
    take(Record::Pair(json::pair(path, status, comparison, sides.metadata())))?;
    json::give_pair_changes(path.as_bytes(), &PairView::new(comparison, sides.title(None)), shown, take)?;
    take(json::summary(status, comparison))
}
