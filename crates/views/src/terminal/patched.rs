//! An existing patch, drawn like a comparison of which only the neighbourhood of its changes is known.

use std::io::{self, Write};

use tideline_core::internal::model::{Change, Form, Place, Span, TextComparison, Weight};
use tideline_core::internal::patch::{Hunk, LineRole};
use tideline_core::internal::rules::MaskedText;

use super::heading::{write_legend, write_names};
use super::layout::{Rows, draw_changes};
use super::layouts::rows;
use super::look::Look;
use crate::groups::any_together;
use crate::rows::Pick;
use crate::shown::shown_name;
use crate::view::FileView;
use crate::view::Labels;
use crate::wording::plural;

/// One file of a patch.
#[derive(Clone, Copy, Debug)]
pub struct PatchedFile<'a> {
    /// The name in the heading.
    pub name: &'a str,
    /// What the sides are called.
    pub labels: &'a Labels,
    /// What else the heading says: that the file is new, or moved.
    pub note: Option<&'a str>,
    /// Its hunks.
    pub hunks: &'a [Hunk],
}

/// The two sides of a hunk, and what differs between them.
struct Sides {
    before: Vec<u8>,
    after: Vec<u8>,
    places: Vec<Place>,
}

/// Draws the files of a patch, each below an empty line, and the legend.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_patch(files: &[PatchedFile<'_>], look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (mut last, mut has_indented) = (None, false);
    for file in files {
        writeln!(out)?;
        if let Some((comparison, indented)) = draw_file(file, look, out)? {
            last = Some((file, comparison));
            has_indented |= indented;
        }
    }
    let Some((file, comparison)) = last.filter(|_| look.legend) else { return Ok(()) };
    let nothing = MaskedText::unmasked(b"");
    writeln!(out)?;
    write_legend(&view(file, (&nothing, &nothing), &comparison, (0, 0)), has_indented, look, out)
}

/// Draws one file; what differs in it, if anything does, and whether lines of it differ in their indentation alone.
fn draw_file(file: &PatchedFile<'_>, look: &Look, out: &mut dyn Write) -> io::Result<Option<(TextComparison, bool)>> {
    let mut comparison = TextComparison::default();
    let sides: Vec<Sides> = file.hunks.iter().map(|hunk| sides(hunk, &mut comparison.changes)).collect();
    write_heading(file, &comparison, look, out)?;
    let Some((hunk, end)) = file.hunks.last().zip(sides.last()) else { return Ok(None) };
    let masked: Vec<_> =
        sides.iter().map(|sides| (MaskedText::unmasked(&sides.before), MaskedText::unmasked(&sides.after))).collect();
    let is_grouped = sides.iter().any(|sides| any_together(&comparison, sides.places.iter()));
    comparison.places.clone_from(&end.places);
    let mut rows: Box<dyn Rows> = {
        let (before, after) = &masked[masked.len() - 1];
        let widest = view(file, (before, after), &comparison, (hunk.before, hunk.after));
        rows(&widest, look, is_grouped)
    };
    rows.begin(out)?;
    for ((hunk, sides), (before, after)) in file.hunks.iter().zip(&sides).zip(&masked) {
        comparison.places.clone_from(&sides.places);
        let view = view(file, (before, after), &comparison, (hunk.before, hunk.after));
        draw_changes((&view, &view.sections()), Pick::ALL, look, &mut *rows, out)?;
    }
    Ok(Some((comparison, rows.has_indented())))
}

fn view<'a>(
    file: &'a PatchedFile<'a>,
    (before, after): (&'a MaskedText<'a>, &'a MaskedText<'a>),
    comparison: &'a TextComparison,
    first: (usize, usize),
) -> FileView<'a> {
    FileView {
        name: file.name,
        type_name: file.name,
        labels: file.labels,
        note: file.note,
        before,
        after,
        comparison,
        first,
        originals: (None, None),
        extracted: None,
    }
}

fn write_heading(
    file: &PatchedFile<'_>,
    comparison: &TextComparison,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    write_names(file.name, file.labels, look, out)?;
    let mut parts = Vec::new();
    if !file.hunks.is_empty() {
        parts.push(format!("{} in {}", plural(comparison.changes.len(), "change"), plural(file.hunks.len(), "hunk")));
    }
    parts.extend(file.note.map(|note| shown_name(note, look.plain)));
    writeln!(out, "{}", parts.join(", "))
}

/// Both sides of a hunk, with a place for each stretch of lines that go or come.
fn sides(hunk: &Hunk, changes: &mut Vec<Change>) -> Sides {
    let mut sides = Sides { before: Vec::new(), after: Vec::new(), places: Vec::new() };
    let (mut line_before, mut line_after) = (hunk.before, hunk.after);
    let mut rows = hunk.lines.iter().peekable();
    while let Some(row) = rows.peek() {
        if row.role == LineRole::Context {
            sides.before.extend_from_slice(&row.text);
            sides.after.extend_from_slice(&row.text);
            (line_before, line_after) = (line_before + 1, line_after + 1);
            rows.next();
            continue;
        }
        let start = |line: usize, text: &[u8]| Span { lines: line..line, bytes: text.len()..text.len() };
        let (mut before, mut after) = (start(line_before, &sides.before), start(line_after, &sides.after));
        while let Some(row) = rows.next_if(|row| row.role != LineRole::Context) {
            let (text, span) = match row.role {
                LineRole::Gone => (&mut sides.before, &mut before),
                _ => (&mut sides.after, &mut after),
            };
            text.extend_from_slice(&row.text);
            span.lines.end += 1;
            span.bytes.end = text.len();
        }
        (line_before, line_after) = (before.lines.end, after.lines.end);
        let form = match (before.is_empty(), after.is_empty()) {
            (false, true) => Form::Gone,
            (true, false) => Form::New,
            _ => Form::Edited,
        };
        let change = changes.len();
        changes.push(Change {
            number: change + 1,
            form,
            weight: Weight::Counted,
            before: before.clone(),
            after: after.clone(),
            equal: 0,
            edited: 0,
            reindented: false,
        });
        sides.places.push(Place { change, before, after });
    }
    sides
}
