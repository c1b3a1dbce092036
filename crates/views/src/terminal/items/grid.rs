//! The rows of a table side by side in a grid: a column for each column that differs, equal ones folded.

use std::io::{self, Write};

use tideline_core::internal::model::{Form, Weight};
use unicode_width::UnicodeWidthStr;

use super::super::look::Look;
use super::super::palette::TextRole;
use super::block::{shown_bytes, values};
use super::heading::{is_chosen, role_of, write_heading, write_legend, write_not_shown};
use crate::items::{ItemView, TableView, Value};
use crate::marks::Marks;
use crate::shortened::shortened;
use crate::shown::{DisplayLine, shown_name};

/// The narrowest and the widest column.
const WIDTHS: (usize, usize) = (6, 44);
/// Rows that tell how wide columns are.
const MEASURED: usize = 200;

/// A cell of the grid: what is written in it, in pieces, and how wide that is.
struct GridCell {
    pieces: Vec<(TextRole, String)>,
    shown: Option<(DisplayLine, DisplayLine)>,
    width: usize,
}

/// Draws the changes of two tables as a grid.
pub(in super::super) fn draw_grid(view: &TableView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    write_heading(view, look, out)?;
    let changes: Vec<usize> =
        (0..view.len()).filter(|index| is_chosen(view.comparison.changes[*index].number, look)).collect();
    if !changes.is_empty() {
        draw_rows(view, &changes, look, out)?;
    }
    write_not_shown(view.len() - changes.len(), look, out)?;
    if look.legend && view.len() > 0 {
        write_legend(view, look, out)?;
    }
    Ok(())
}

fn draw_rows(view: &TableView<'_>, changes: &[usize], look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (palette, marks) = (look.palette(), Marks::of(look.plain));
    let (columns, folded) = shown_columns(view, changes);
    let measured: Vec<Vec<GridCell>> =
        changes.iter().take(MEASURED).map(|change| cells(view, *change, &columns, look)).collect();
    let names: Vec<String> =
        columns.iter().map(|column| shown_name(&view.comparison.columns[*column].name, look.plain)).collect();
    let wanted = |at: usize| {
        let widest = measured.iter().map(|cells| cells[at].width).max().unwrap_or(0);
        widest.max(names[at].width()).clamp(1, WIDTHS.1)
    };
    let lead = 4 + changes.last().map_or(1, |last| (last + 1).to_string().len());
    let widths = fitted((0..columns.len()).map(wanted).collect(), look.width.saturating_sub(lead));
    let shown = widths.len();
    writeln!(out)?;
    write!(out, "{}", " ".repeat(lead))?;
    for (at, (name, width)) in names.iter().zip(&widths).enumerate() {
        let name = shortened(name, *width, look.plain);
        palette.write(TextRole::Strong, &name, out)?;
        if at + 1 < shown {
            write!(out, "{}", " ".repeat(width - name.width() + 2))?;
        }
    }
    writeln!(out)?;
    for change in changes {
        let row = &view.comparison.changes[*change];
        write!(out, "{:>width$} ", row.number, width = lead - 3)?;
        match row.weight {
            Weight::Muted => palette.write(TextRole::Faint, marks.muted, out)?,
            Weight::Counted => palette.write(role_of(row.form), marks.of_form(row.form), out)?,
        }
        write!(out, " ")?;
        for (at, (cell, width)) in cells(view, *change, &columns, look).iter().zip(&widths).enumerate() {
            write_cell(cell, *width, at + 1 == shown, look, out)?;
        }
        writeln!(out)?;
    }
    let cut: Vec<&str> = names[shown..].iter().map(String::as_str).collect();
    for (what, names) in
        [("equal, folded", folded), ("no room for", cut.iter().map(|name| (*name).to_owned()).collect())]
    {
        if !names.is_empty() {
            let said = format!("  {what}: {}", names.join(", "));
            palette.write(TextRole::Faint, &shortened(&said, look.width, look.plain), out)?;
            writeln!(out)?;
        }
    }
    Ok(())
}

/// The columns that are shown (the key, then those with something in them that differs), and the names of the others.
fn shown_columns(view: &TableView<'_>, changes: &[usize]) -> (Vec<usize>, Vec<String>) {
    let key = view.comparison.matched.key();
    let mut differs = vec![false; view.comparison.columns.len()];
    let mut has_whole = false;
    for change in changes {
        let row = &view.comparison.changes[*change];
        has_whole |= matches!(row.form, Form::Gone | Form::New);
        row.cells.iter().for_each(|cell| differs[cell.column] = true);
    }
    let is_shown = |at: usize| {
        let column = &view.comparison.columns[at];
        let is_ignored = matches!(&column.aside, Some((_, false)));
        !is_ignored && (differs[at] || has_whole && !differs.contains(&true) || has_whole && column.form().is_some())
    };
    let rest: Vec<usize> = (0..differs.len()).filter(|at| !key.contains(at) && is_shown(*at)).collect();
    let folded = (0..differs.len()).filter(|at| !key.contains(at) && !rest.contains(at));
    let folded = folded.map(|at| view.comparison.columns[at].name.clone()).collect();
    (key.iter().copied().chain(rest).collect(), folded)
}

/// As many columns as fit, each as wide as there is room for.
fn fitted(mut widths: Vec<usize>, room: usize) -> Vec<usize> {
    let used = |widths: &[usize]| widths.iter().map(|width| width + 2).sum::<usize>();
    while used(&widths) > room {
        let Some(widest) = widths.iter().copied().max() else { break };
        if widest > WIDTHS.0 {
            let excess = used(&widths) - room;
            if let Some(width) = widths.iter_mut().find(|width| **width == widest) {
                *width = width.saturating_sub(excess).max(WIDTHS.0).max(widest / 2);
            }
        } else {
            widths.pop();
        }
    }
    widths
}

fn cells(view: &TableView<'_>, change: usize, columns: &[usize], look: &Look) -> Vec<GridCell> {
    let row = &view.comparison.changes[change];
    let edits = view.edits(row);
    let whole = view.whole_row(row);
    let role = match (row.weight, row.form) {
        (Weight::Muted, _) => TextRole::MutedLine,
        (_, Form::Gone) => TextRole::GoneLine,
        (_, Form::New) => TextRole::NewLine,
        _ => TextRole::Text,
    };
    let cell = |column: &usize| {
        if let Some(edit) = edits.iter().find(|edit| edit.column == *column) {
            let (old, new) = values(edit, look);
            let becomes = format!(" {} ", Marks::of(look.plain).becomes);
            let width = old.width + new.width + becomes.width();
            return GridCell { pieces: vec![(TextRole::Faint, becomes)], shown: Some((old, new)), width };
        }
        let value = whole.iter().find(|(at, _)| at == column).map_or(&Value::Missing, |(_, value)| value);
        let (bytes, ours) = if *value == Value::Missing { (&b""[..], true) } else { value.shown() };
        let text = shown_bytes(bytes, look);
        let width = text.width();
        GridCell { pieces: vec![(if ours { TextRole::Faint } else { role }, text)], shown: None, width }
    };
    columns.iter().map(cell).collect()
}

fn write_cell(cell: &GridCell, width: usize, is_last: bool, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    let mut used = 0;
    match &cell.shown {
        Some((old, new)) if cell.width <= width => {
            palette.write_shown(old, out)?;
            palette.write(TextRole::Faint, &cell.pieces[0].1, out)?;
            palette.write_shown(new, out)?;
            used = cell.width;
        }
        Some((old, new)) => {
            // What it is now matters most; both are cut alike.
            let becomes = &cell.pieces[0].1;
            let room = width.saturating_sub(becomes.width());
            let half = room / 2;
            let (old, new) = (old.columns(0..half), new.columns(0..room - half));
            palette.write_shown(&old, out)?;
            palette.write(TextRole::Faint, becomes, out)?;
            palette.write_shown(&new, out)?;
            used = old.width + new.width + becomes.width();
        }
        None => {
            for (role, text) in &cell.pieces {
                let text = shortened(text, width, look.plain);
                palette.write(*role, &text, out)?;
                used += text.width();
            }
        }
    }
    if is_last { Ok(()) } else { write!(out, "{}", " ".repeat(width.saturating_sub(used) + 2)) }
}
