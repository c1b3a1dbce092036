//! Chosen changes of two tables, carried into one of them, row by row.
//!
//! Rows that are not carried stay as they are, byte for byte. Of an edited row, only the cells that differ are written anew.

use std::collections::{BTreeMap, BTreeSet};

use super::take::TakeInto;
use crate::internal::kinds::table::{Cell, Table};
use crate::internal::model::Form;
use crate::internal::model::table::{ColumnPair, RowChange, TableComparison};

/// Why rows cannot be carried into a table.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum TakeRowsError {
    /// The table is written as a list of records.
    #[error(
        "rows are carried into text with delimiters only; `patch --format json-patch` and `apply` carry changes of JSON"
    )]
    Records,
}

/// A column of the table that is written, and the one of the other table that it is.
struct Column {
    target: usize,
    source: Option<usize>,
}

/// Carries the changes of these indexes into one of two tables.
///
/// # Errors
/// When the table is not text with delimiters.
pub fn take_rows(
    (before, after): (&Table<'_>, &Table<'_>),
    comparison: &TableComparison,
    into: TakeInto,
    picks: &[bool],
) -> Result<Vec<u8>, TakeRowsError> {
    let (target, source) = own_and_other((before, after), into);
    let delimiter = target.delimiter().ok_or(TakeRowsError::Records)?;
    let columns = columns(comparison, into, target.names().len());
    let mut rewritten: BTreeMap<usize, Vec<u8>> = BTreeMap::new();
    let mut removed: BTreeSet<usize> = BTreeSet::new();
    // Rows that come in, by the row of the target that they stand behind; none for the top.
    let mut inserted: BTreeMap<Option<usize>, Vec<Vec<u8>>> = BTreeMap::new();
    let partner = partners(comparison, into, (target.len(), source.len()));
    let mut above = Vec::with_capacity(partner.len());
    let mut nearest = None;
    for own in &partner {
        above.push(nearest);
        nearest = own.or(nearest);
    }
    let stands_behind = |row: usize| above[row];
    for (change, _) in comparison.changes.iter().zip(picks).filter(|(_, picked)| **picked) {
        match own_and_other((change.before, change.after), into) {
            (Some(own), Some(other)) => {
                let row = with_cells((target, own), (source, other), change, (&comparison.columns, into), delimiter);
                if change.form == Form::Moved {
                    removed.insert(own);
                    let behind = stands_behind(other).filter(|behind| *behind != own);
                    inserted.entry(behind).or_default().push(row);
                } else {
                    rewritten.insert(own, row);
                }
            }
            (Some(own), None) => {
                removed.insert(own);
            }
            (None, Some(other)) => {
                let row = whole_row((target, source), other, &columns, delimiter);
                inserted.entry(stands_behind(other)).or_default().push(row);
            }
            (None, None) => {}
        }
    }
    Ok(put_together(target, &rewritten, &removed, &inserted))
}

/// Two things of before and after: that of the table which is written, and that of the other.
fn own_and_other<T>((before, after): (T, T), into: TakeInto) -> (T, T) {
    if into == TakeInto::Before { (before, after) } else { (after, before) }
}

/// For each row of the other table, the row of the target that it is.
fn partners(comparison: &TableComparison, into: TakeInto, (own, other): (usize, usize)) -> Vec<Option<usize>> {
    let mut partner = vec![None; other];
    for &(before, after) in &comparison.pairs {
        let (target, source) = own_and_other((before as usize, after as usize), into);
        if target < own && source < other {
            partner[source] = Some(target);
        }
    }
    partner
}

fn columns(comparison: &TableComparison, into: TakeInto, count: usize) -> Vec<Column> {
    let of = |target: usize| {
        let source = comparison
            .columns
            .iter()
            .map(|pair| own_and_other((pair.before, pair.after), into))
            .find(|(own, _)| *own == Some(target))
            .and_then(|pair| pair.1);
        Column { target, source }
    };
    (0..count).map(of).collect()
}

/// A row of the target with the cells of the other table in which it differs.
fn with_cells(
    (target, own): (&Table<'_>, usize),
    (source, other): (&Table<'_>, usize),
    change: &RowChange,
    (columns, into): (&[ColumnPair], TakeInto),
    delimiter: u8,
) -> Vec<u8> {
    let row = target.source(own);
    let mut cells: Vec<Vec<u8>> = target.raw_cells(own).into_iter().map(|cell| row[cell].to_vec()).collect();
    let theirs = source.cells(other);
    for cell in &change.cells {
        let pair = &columns[cell.column];
        let (Some(at), Some(from)) = own_and_other((pair.before, pair.after), into) else { continue };
        let text = theirs[from].text();
        // A cell that is not there at the end of a row is left out there too.
        if theirs[from] == Cell::Missing && at + 1 == cells.len() {
            cells.pop();
            continue;
        }
        if cells.len() <= at {
            cells.resize(at + 1, Vec::new());
        }
        cells[at] = Table::written_cell(text.unwrap_or_default(), delimiter).into_owned();
    }
    cells.join(&delimiter)
}

/// A row of the other table as the target writes it.
fn whole_row((target, source): (&Table<'_>, &Table<'_>), row: usize, columns: &[Column], delimiter: u8) -> Vec<u8> {
    let is_alike = source.delimiter() == Some(delimiter) && source.names() == target.names();
    if is_alike {
        return source.source(row).to_vec();
    }
    let cells = source.cells(row);
    let cell = |column: &Column| {
        let text = column.source.and_then(|from| cells[from].text()).unwrap_or_default();
        Table::written_cell(text, delimiter).into_owned()
    };
    debug_assert!(columns.iter().enumerate().all(|(at, column)| column.target == at));
    columns.iter().map(cell).collect::<Vec<_>>().join(&delimiter)
}

/// A table with some rows written anew, left out and put in; the others as they are written.
pub(in crate::internal::merge) fn put_together(
    target: &Table<'_>,
    rewritten: &BTreeMap<usize, Vec<u8>>,
    removed: &BTreeSet<usize>,
    inserted: &BTreeMap<Option<usize>, Vec<Vec<u8>>>,
) -> Vec<u8> {
    let text = target.text();
    let body = target.body();
    let line_end: &[u8] = match memchr::memchr(b'\n', text) {
        Some(at) if at > 0 && text[at - 1] == b'\r' => b"\r\n",
        _ => b"\n",
    };
    let mut out = text[..body].to_vec();
    // Without a row of names above it, the first row begins the text.
    let mut is_first = body == 0 || text[..body] == *b"\xef\xbb\xbf";
    let begin = |out: &mut Vec<u8>, between: &[u8], is_first: &mut bool| {
        if !*is_first {
            out.extend_from_slice(between);
        }
        *is_first = false;
    };
    for row in inserted.get(&None).into_iter().flatten() {
        begin(&mut out, line_end, &mut is_first);
        out.extend_from_slice(row);
    }
    let mut at = body;
    for row in 0..target.len() {
        let span = target.span(row);
        if !removed.contains(&row) {
            let between = &text[at..span.start];
            begin(&mut out, if between.is_empty() { line_end } else { between }, &mut is_first);
            match rewritten.get(&row) {
                Some(new) => out.extend_from_slice(new),
                None => out.extend_from_slice(&text[span.clone()]),
            }
        }
        at = span.end;
        for new in inserted.get(&Some(row)).into_iter().flatten() {
            begin(&mut out, line_end, &mut is_first);
            out.extend_from_slice(new);
        }
    }
    out.extend_from_slice(&text[at..]);
    if target.is_empty() && !out.ends_with(b"\n") && text.ends_with(b"\n") {
        out.extend_from_slice(line_end);
    }
    out
}
