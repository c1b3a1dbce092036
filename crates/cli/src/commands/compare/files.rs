//! `compare`: what changed between two files.

use std::io::{self, Write};

use anyhow::Result;
use tideline_core::internal::kinds::text::{Grain, Repeat, Repeats};
use tideline_core::internal::kinds::{Comparison, kind_hint, may_show_the_same};
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::Attribute;
use tideline_views::json::{self, records::Record};
use tideline_views::terminal::{Look, draw_pair, draw_repeats, draw_sections, write_about, write_kind_hint};
use tideline_views::{PairView, knows_syntax};

use super::output::{Inside, Output, Terminal};
use crate::commands::print::{printing, printing_changes};
use crate::commands::progress::with_spinner;
use crate::commands::request::Request;
use crate::commands::sides::Sides;
use crate::commands::unused::tell_unused;
use crate::commands::{Outcome, tell};

pub(super) fn run(request: &Request, output: &Output, sides: &Sides) -> Result<Outcome> {
    let rules = request.contents.all_rules();
    let attributes = request.attributes(sides);
    let same = !request.is_part() && attributes.is_empty() && sides.are_same();
    match output {
        Output::Quiet if same => return sides.check().map(|()| Outcome::Same),
        Output::Terminal(_) | Output::Paths { .. } if same => {
            printing(false, |out| writeln!(out, "{}", same_line(sides)))?;
            return sides.check().map(|()| Outcome::Same);
        }
        Output::Quiet if differ_by_bytes(request, sides) || !attributes.is_empty() => {
            return Ok(Outcome::Different);
        }
        Output::Quiet | Output::Paths { .. } | Output::Json { .. } | Output::Terminal(_) => {}
    }
    let size = sides.before.len() + sides.after.len();
    let comparison = with_spinner(size, || sides.compare(&request.contents));
    request.check_kind(&comparison, &sides.names.labels)?;
    request.check_lines(&comparison, &sides.names.labels)?;
    let same = request.is_same(sides, &comparison);
    let status = if attributes.is_empty() { comparison.status(same) } else { Status::Changed };
    match output {
        Output::Quiet => {}
        Output::Paths { null } => printing(false, |out| write_path(sides.type_name().as_bytes(), *null, out))?,
        Output::Json { grain, each_file } => printing(false, |out| {
            let write = &mut |record| json::write_record(&record, out);
            match each_file {
                Inside::Changes | Inside::Nothing | Inside::Folders(_) => {
                    give_records(sides, (&comparison, status, &attributes), (grain, usize::MAX), write)
                }
                Inside::Sections => give_section_records(sides, (&comparison, status, &attributes), write),
                Inside::Repeats => {
                    give_records_with(sides, (&comparison, status, &attributes), write, |path, view, take| {
                        repeats_in(path, view).iter().try_for_each(|repeat| take(json::repeat(repeat)))
                    })
                }
            }
        })?,
        Output::Terminal(_) if same && !attributes.is_empty() => {
            let told = sides.attributes_in_words(&attributes).join(", ");
            printing(false, |out| writeln!(out, "{} but for:\n  {told}", same_line(sides)))?;
        }
        Output::Terminal(_) if same => {
            let (before, after) = (&sides.names.labels.before, &sides.names.labels.after);
            printing(false, |out| writeln!(out, "the lines of {before} and {after} that are compared are the same"))?;
        }
        Output::Terminal(terminal) => {
            let Terminal { look, paged, each_file, .. } = terminal;
            if look.needs_syntax() && !knows_syntax(sides.type_name()) {
                tell(
                    "note: --syntax on does nothing here: the name of the file does not tell a language that is known",
                );
            }
            let extent = comparison.extent();
            terminal.check_changes(sides.type_name(), extent.counted + extent.muted)?;
            let note = request.note(&comparison, sides.attributes_in_words(&attributes));
            let view = PairView::new(&comparison, sides.title(note.as_deref()));
            printing_changes(*paged, |out| {
                write_about(&sides.names.labels, look, out)?;
                match (&view, each_file) {
                    (view, Inside::Repeats) => draw_repeats(&repeats_in(sides.type_name().as_bytes(), view), look, out),
                    (PairView::Text(view), Inside::Sections) => draw_sections(view, &view.section_changes(), look, out),
                    _ => {
                        draw_pair(&view, look, out)?;
                        write_hint(&comparison, (request, sides), look, out)
                    }
                }
            })?;
        }
    }
    if !same && !matches!(output, Output::Quiet) {
        tell_unused(rules, &comparison.account());
    }
    sides.check().map(|()| Outcome::of(status))
}

/// Whether contents that are not the same bytes differ, whatever they mean.
fn differ_by_bytes(request: &Request, sides: &Sides) -> bool {
    let contents = &request.contents;
    let names = (sides.type_name_before().as_bytes(), sides.type_name().as_bytes());
    contents.goes_by_bytes() && !request.is_part() && !may_show_the_same(names, (&sides.before, &sides.after), contents)
}

/// Says that another kind would show much less, where it would.
fn write_hint(
    comparison: &Comparison<'_>,
    (request, sides): (&Request, &Sides),
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let Comparison::Text(texts) = comparison else { return Ok(()) };
    if request.is_part() || look.shows_some_changes() {
        return Ok(());
    }
    let names = (sides.type_name_before(), sides.type_name());
    let names = (names.0.as_bytes(), names.1.as_bytes());
    match kind_hint(names, (&sides.before, &sides.after), &texts.found, &request.contents) {
        Some(hint) => write_kind_hint(hint, look, out),
        None => Ok(()),
    }
}

/// The edits that repeat in a pair of contents.
fn repeats_in(path: &[u8], view: &PairView<'_>) -> Vec<Repeat> {
    let mut repeats = Repeats::default();
    add_repeats(path, view, &mut repeats);
    repeats.list()
}

/// Adds the edits of a pair of contents; what is not text has no words.
pub(super) fn add_repeats(path: &[u8], view: &PairView<'_>, repeats: &mut Repeats) {
    if let PairView::Text(view) = view {
        repeats.add(path, (view.before, view.after), view.comparison);
    }
}

/// Writes a path by itself.
pub(super) fn write_path(path: &[u8], null: bool, out: &mut dyn Write) -> io::Result<()> {
    out.write_all(path)?;
    out.write_all(if null { b"\0" } else { b"\n" })
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
    told: (&Comparison<'_>, Status, &[Attribute]),
    shown: (&Grain, usize),
    take: &mut dyn FnMut(Record) -> io::Result<()>,
) -> io::Result<()> {
    give_records_with(sides, told, take, |path, view, take| json::give_pair_changes(path, view, shown, take))
}

/// Gives the records of two files, with the sections that differ.
pub(in crate::commands) fn give_section_records(
    sides: &Sides,
    told: (&Comparison<'_>, Status, &[Attribute]),
    take: &mut dyn FnMut(Record) -> io::Result<()>,
) -> io::Result<()> {
    give_records_with(sides, told, take, |path, view, take| json::give_sections(path, view, take))
}

/// Takes a record.
type Take<'t> = dyn FnMut(Record) -> io::Result<()> + 't;

/// Gives the records of two files, with those that tell of their inside.
fn give_records_with(
    sides: &Sides,
    (comparison, status, attributes): (&Comparison<'_>, Status, &[Attribute]),
    take: &mut Take<'_>,
    inside: impl FnOnce(&[u8], &PairView<'_>, &mut Take<'_>) -> io::Result<()>,
) -> io::Result<()> {
    let path = sides.type_name();
    take(json::opening(&sides.names.labels))?;
    take(Record::Pair(json::pair(path, status, comparison, sides.metadata(), attributes)))?;
    inside(path.as_bytes(), &PairView::new(comparison, sides.title(None)), take)?;
    take(json::summary(status, comparison))
}
