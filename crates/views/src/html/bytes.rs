//! Bytes: offset, hexadecimal and text of both sides beside each other.

use std::io::{self, Write};
use std::ops::Range;

use askama::Template;
use tideline_core::internal::model::Form;

use super::items::{address, rendered, say};
use super::rows::form_word;
use super::streamed::Streamed;
use crate::hex::{HexCell, HexRow, hunks, letter, offset_digits, rows};
use crate::items::{BytesView, ItemView};
use crate::marks::Marks;
use crate::report::Shape;
use crate::view::Context;
use crate::wording::{grouped, plural};

/// Bytes in a row.
const WIDTH: usize = 16;

#[derive(Template)]
#[template(path = "hex.html")]
struct Hunk {
    ids: Vec<String>,
    form: &'static str,
    mark: &'static str,
    title: String,
    place: String,
    rows: Vec<Row>,
}

struct Row {
    differs: bool,
    cut: String,
    halves: [(Half, &'static str); 2],
}

#[derive(Default)]
struct Half {
    offset: String,
    hex: Vec<(String, bool)>,
    letters: Vec<(String, bool)>,
}

/// Writes two contents that are compared byte by byte.
pub(super) fn write_bytes(view: &BytesView<'_>, id: &str, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    let context = match shape.context {
        Context::All => usize::MAX,
        Context::Lines(rows) => rows,
    };
    let mut body = |out: &mut dyn Write| {
        for mut hunk in hunks(view, context, WIDTH) {
            hunk.end = hunk.end.min(shape.changes_shown());
            if hunk.is_empty() {
                break;
            }
            writeln!(out, "{}", rendered(&part(view, hunk, id, context)))?;
        }
        Ok(())
    };
    say(view, shape, Streamed::new(&mut body), out)
}

fn part(view: &BytesView<'_>, hunk: Range<usize>, id: &str, context: usize) -> Hunk {
    let changes = &view.comparison.changes[hunk.clone()];
    let first = &changes[0];
    let of = grouped(view.len());
    let title = match changes {
        [only] => format!("change {} of {of}", grouped(only.number)),
        [.., last] => format!("changes {}–{} of {of}", grouped(first.number), grouped(last.number)),
        [] => String::new(),
    };
    let says: Vec<String> = changes.iter().take(3).map(BytesView::says).collect();
    let form = if changes.len() == 1 { first.form } else { Form::Edited };
    let digits = offset_digits(view);
    let is_whole = context == usize::MAX;
    Hunk {
        ids: changes.iter().map(|change| address(id, change.number)).collect(),
        form: form_word(form),
        mark: Marks::of(false).of_form(form),
        title,
        place: format!("{} · {}", BytesView::place(first), says.join("; ")),
        rows: rows(view, hunk, (context, WIDTH), is_whole).iter().map(|row| shown(row, digits)).collect(),
    }
}

fn shown(row: &HexRow, digits: usize) -> Row {
    match row {
        HexRow::Cut(rows) => Row {
            differs: true,
            cut: format!("{} not shown (--context all shows them)", plural(*rows, "more row")),
            halves: Default::default(),
        },
        HexRow::Bytes { before, after, cells } => Row {
            differs: cells.iter().any(|cell| cell.differs),
            cut: String::new(),
            halves: [
                (half(*before, cells, |cell| cell.before, digits), "gone"),
                (half(*after, cells, |cell| cell.after, digits), "new"),
            ],
        },
    }
}

fn half(at: usize, cells: &[HexCell], byte: impl Fn(&HexCell) -> Option<u8>, digits: usize) -> Half {
    if cells.iter().all(|cell| byte(cell).is_none()) {
        return Half::default();
    }
    Half {
        offset: format!("{at:0digits$x}"),
        hex: joined(cells, &byte, |byte, column| {
            let space = if column % 8 == 7 { "  " } else { " " };
            byte.map_or_else(|| format!("  {space}"), |byte| format!("{byte:02x}{space}"))
        }),
        letters: joined(cells, &byte, |byte, _| {
            byte.map_or_else(|| " ".to_owned(), |byte| letter(byte, false).to_string())
        }),
    }
}

/// Pieces of a row that are marked alike.
fn joined(
    cells: &[HexCell],
    byte: &impl Fn(&HexCell) -> Option<u8>,
    written: impl Fn(Option<u8>, usize) -> String,
) -> Vec<(String, bool)> {
    let mut pieces: Vec<(String, bool)> = Vec::new();
    for (column, cell) in cells.iter().enumerate() {
        let byte = byte(cell);
        let differs = cell.differs && byte.is_some();
        let text = written(byte, column);
        match pieces.last_mut() {
            Some((last, is_marked)) if *is_marked == differs => last.push_str(&text),
            _ => pieces.push((text, differs)),
        }
    }
    pieces
}
