//! Tables and documents as records.

use std::io;

use tideline_core::internal::kinds::data::{Document, NodeKind};
use tideline_core::internal::kinds::document::SheetPair;
use tideline_core::internal::model::Weight;
use tideline_core::internal::model::data::NodePlace;

use super::item_records::{CellRecord, ColumnRecord, KeyRecord, NodeRecord, NodeSide, RowPlaceRecord, RowRecord};
use super::records::{CutRecord, Record};
use super::value::{TextOrBytes, text};
use crate::items::{DataView, ItemView, SheetsView, TableView, Value};

/// Takes a record.
pub(super) type Take<'t> = dyn FnMut(Record) -> io::Result<()> + 't;

fn value(value: &Value) -> Option<TextOrBytes> {
    match value {
        Value::Missing | Value::Null => None,
        Value::Text(bytes) => Some(text(bytes)),
    }
}

/// Gives a record for each column and each row that differs; up to so many rows.
pub(super) fn give_rows(path: &[u8], view: &TableView<'_>, most: usize, take: &mut Take<'_>) -> io::Result<()> {
    give_rows_of((path, None), view, most, take)?;
    give_cut(path, view.comparison.changes.len(), most, take)
}

/// The same for each sheet of two workbooks.
pub(super) fn give_sheets(path: &[u8], view: &SheetsView<'_>, most: usize, take: &mut Take<'_>) -> io::Result<()> {
    let mut left = most;
    for sheet in view.differing() {
        give_rows_of((path, Some(sheet)), &view.sheet(sheet), left, take)?;
        left = left.saturating_sub(sheet.found.changes.len());
    }
    give_cut(path, view.len(), most, take)
}

fn give_rows_of(
    (path, sheet): (&[u8], Option<&SheetPair>),
    view: &TableView<'_>,
    most: usize,
    take: &mut Take<'_>,
) -> io::Result<()> {
    for column in &view.comparison.columns {
        if column.form().is_none() && column.edited + column.muted == 0 {
            continue;
        }
        take(Record::Column(ColumnRecord {
            path: text(path),
            name: column.name.clone(),
            form: column.form(),
            renamed_from: column.renamed_from.clone(),
            cells: column.cells,
            edited: column.edited,
            muted: column.muted,
            rule: column.aside.as_ref().map(|(rule, _)| rule.clone()),
        }))?;
    }
    let key = view.comparison.matched.key();
    let name = |column: usize| view.comparison.columns[column].name.clone();
    for change in view.comparison.changes.iter().take(most) {
        let whole = view.whole_row(change);
        let cell_name = |column: usize| sheet.map(|sheet| SheetsView::cell_name(sheet, change, column));
        let edits = view.edits(change);
        let cells = if change.before.is_some() && change.after.is_some() {
            let cell = |edit: crate::items::ValueEdit| CellRecord {
                cell: cell_name(edit.column),
                column: edit.name,
                before: value(&edit.before),
                after: value(&edit.after),
                weight: edit.weight,
                rule: edit.cause,
            };
            edits.into_iter().map(cell).collect()
        } else {
            let cell = |(column, own): &(usize, Value)| {
                let (before, after) = if change.before.is_some() { (value(own), None) } else { (None, value(own)) };
                CellRecord {
                    column: name(*column),
                    cell: cell_name(*column),
                    before,
                    after,
                    weight: Weight::Counted,
                    rule: None,
                }
            };
            whole.iter().map(cell).collect()
        };
        let key_value = |column: &usize| {
            let own = whole.iter().find(|(at, _)| at == column).and_then(|(_, own)| value(own));
            KeyRecord { column: name(*column), value: own }
        };
        take(Record::Row(Box::new(RowRecord {
            path: text(path),
            sheet: sheet.map(|sheet| sheet.name.clone()),
            number: change.number,
            form: change.form,
            weight: change.weight,
            key: key.iter().map(key_value).collect(),
            before: change.before.map(|row| RowPlaceRecord { row: row + 1, line: view.before.line(row) }),
            after: change.after.map(|row| RowPlaceRecord { row: row + 1, line: view.after.line(row) }),
            cells,
        })))?;
    }
    Ok(())
}

/// Gives a record for each node that differs; up to so many.
pub(super) fn give_nodes(path: &[u8], view: &DataView<'_>, most: usize, take: &mut Take<'_>) -> io::Result<()> {
    for change in view.comparison.changes.iter().take(most) {
        take(Record::Node(Box::new(NodeRecord {
            path: text(path),
            number: change.number,
            form: change.form,
            weight: change.weight,
            rule: change.cause.clone(),
            before: change.before.as_ref().map(|place| node(view.before, place)),
            after: change.after.as_ref().map(|place| node(view.after, place)),
        })))?;
    }
    give_cut(path, view.comparison.changes.len(), most, take)
}

fn node(document: &Document<'_>, place: &NodePlace) -> NodeSide {
    let kind = place.node.map_or(NodeKind::Comment, |node| document.kind(node));
    let name = match kind {
        NodeKind::Boolean => "boolean",
        NodeKind::Instruction => "instruction",
        other => other.name(),
    };
    let span = place.node.map_or_else(|| place.span.clone(), |node| document.span(node));
    let value = match place.node {
        Some(node) if !kind.is_branch() => Some(document.value(node).to_owned()),
        Some(_) => None,
        None => Some(String::from_utf8_lossy(&document.text()[span.clone()]).into_owned()),
    };
    NodeSide {
        pointer: place.path.clone(),
        line: place.lines.0,
        last_line: place.lines.1,
        kind: name.to_owned(),
        value,
        source: text(&document.text()[span]),
    }
}

pub(super) fn give_cut(path: &[u8], changes: usize, most: usize, take: &mut Take<'_>) -> io::Result<()> {
    if changes > most {
        take(Record::Cut(CutRecord { path: text(path), changes: changes - most }))?;
    }
    Ok(())
}
