//! One file: its heading, its changes, and the strip that shows where they lie.

use std::io::{self, Write};

use askama::Template;
use tideline_core::internal::kinds::text::sections::SectionChange;
use tideline_core::internal::model::Weight;

use super::rows::{PageRows, addresses, form_word};
use super::streamed::Streamed;
use super::{bytes, filters, image, items};
use crate::marks::Marks;
use crate::pair_view::PairView;
use crate::report::{Body, FileReport, Shape};
use crate::rows::{Pick, RowOptions, RowSource};
use crate::shown::shown_name;
use crate::strip::cells;
use crate::syntax::Budget;
use crate::view::FileView;
use crate::wording::plural;
use crate::wording::section::{section_lines, section_path, section_says};

/// The parts that a strip tells apart, and how high each is.
const CELLS: (usize, usize) = (240, 5);

#[derive(Template)]
#[template(path = "file.html")]
struct FilePart<'a> {
    id: &'a str,
    name: &'a str,
    facts: &'a str,
    account: Vec<String>,
    body: Streamed<'a>,
}

#[derive(Template)]
#[template(path = "body.html")]
struct BodyPart<'a> {
    lines: Streamed<'a>,
    cut: usize,
    height: usize,
    strip: Vec<Stretch>,
}

#[derive(Template)]
#[template(source = "{% for line in lines %}<p>{{ line }}</p>{% endfor %}", ext = "html")]
struct Said<'a> {
    lines: &'a [String],
}

#[derive(Template)]
#[template(path = "sections.html")]
struct SectionsPart {
    rows: Vec<SectionRow>,
    outside: Option<String>,
}

/// A section that differs.
struct SectionRow {
    mark: &'static str,
    form: &'static str,
    name: String,
    says: String,
    lines: String,
}

/// A coloured part of the strip.
struct Stretch {
    target: String,
    title: String,
    class: &'static str,
    y: usize,
    height: usize,
}

/// Whether a page of this file has changes to go through.
pub(super) fn has_changes(file: &FileReport<'_>) -> bool {
    match &file.body {
        Body::Pair(PairView::Text(view)) => !view.comparison.changes.is_empty(),
        Body::Pair(view) => view.items().is_some_and(|view| view.len() > 0),
        Body::Nothing(_) => false,
    }
}

/// Whether some of them are muted, and shown.
pub(super) fn has_muted(file: &FileReport<'_>) -> bool {
    match &file.body {
        Body::Pair(PairView::Text(view)) => view.comparison.shows_muted(),
        Body::Pair(view) => view.items().is_some_and(|view| view.extent().muted > 0),
        Body::Nothing(_) => false,
    }
}

/// Writes a file; the addresses of its changes begin with `id`.
pub(super) fn write_file(file: &FileReport<'_>, id: &str, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    let mut body = |out: &mut dyn Write| write_body(file, id, shape, out);
    let (name, facts, account) = (&file.name, &file.facts, file.account());
    FilePart { id, name, facts, account, body: Streamed::new(&mut body) }.write_into(&mut { out })
}

/// Writes what a file holds.
pub(super) fn write_body(file: &FileReport<'_>, id: &str, shape: &Shape, mut out: &mut dyn Write) -> io::Result<()> {
    match &file.body {
        Body::Pair(PairView::Text(view)) if view.comparison.places.is_empty() => Ok(()),
        Body::Pair(PairView::Text(view)) if shape.sections => write_sections(view, out),
        Body::Pair(PairView::Text(view)) => write_changes(view, id, shape, out),
        Body::Pair(PairView::Table(view)) => items::write_table(view, id, shape, out),
        Body::Pair(PairView::Data(view)) => items::write_data(view, id, shape, out),
        Body::Pair(PairView::Sheets(view)) => items::write_sheets(view, id, shape, out),
        Body::Pair(PairView::Image(view)) => image::write_image(view, id, shape, out),
        Body::Pair(PairView::Bytes(view)) => bytes::write_bytes(view, id, shape, out),
        Body::Nothing(why) => Said { lines: std::slice::from_ref(why) }.write_into(&mut out),
    }
}

fn write_sections(view: &FileView<'_>, out: &mut dyn Write) -> io::Result<()> {
    let found = view.section_changes();
    let row = |change: &SectionChange| SectionRow {
        mark: Marks::of(false).of_form(change.form),
        form: form_word(change.form),
        name: shown_name(&section_path(&change.path, false), false),
        says: section_says(change),
        lines: section_lines(change, "–"),
    };
    let outside = (found.outside > 0).then(|| format!("{} in no section", plural(found.outside, "change")));
    SectionsPart { rows: found.sections.iter().map(row).collect(), outside }.write_into(&mut { out })
}

fn write_changes(view: &FileView<'_>, id: &str, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    let addresses = addresses(view, id);
    let mut rows = PageRows::new(view, &addresses, shape);
    let options = RowOptions { context: shape.context, grain: &shape.grain, budget: Budget::of(shape.syntax) };
    let mut lines = |out: &mut dyn Write| {
        rows.write(view, &mut RowSource::new(view, Pick::First(shape.most_changes), &options), out)
    };
    let part = BodyPart {
        lines: Streamed::new(&mut lines),
        cut: shape.cut(view.comparison.changes.len()),
        height: CELLS.0 * CELLS.1,
        strip: strip(view, &addresses, shape),
    };
    part.write_into(&mut { out })
}

fn strip(view: &FileView<'_>, addresses: &[String], shape: &Shape) -> Vec<Stretch> {
    let mut strip: Vec<Stretch> = Vec::new();
    let mut last = None;
    for (at, cell) in cells(view, CELLS.0).into_iter().enumerate() {
        let cell = cell.filter(|cell| view.comparison.places[cell.place].change < shape.most_changes);
        let Some(cell) = cell else {
            last = None;
            continue;
        };
        if let (true, Some(stretch)) = (last == Some(cell), strip.last_mut()) {
            stretch.height += CELLS.1;
            continue;
        }
        last = Some(cell);
        let change = &view.comparison.changes[view.comparison.places[cell.place].change];
        strip.push(Stretch {
            target: addresses[cell.place].clone(),
            title: format!("change {}", change.number),
            class: match (cell.weight, cell.form) {
                (Weight::Muted, _) => "muted",
                (_, form) => form_word(form),
            },
            y: at * CELLS.1,
            height: CELLS.1,
        });
    }
    strip
}
