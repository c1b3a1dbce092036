//! Two tables, ready to be drawn.

use std::fmt::Write;

use tideline_core::internal::kinds::table::{Cell, Table};
use tideline_core::internal::model::table::{ColumnPair, RowChange, RowMatch, TableComparison, TableRemark};
use tideline_core::internal::model::{Extent, Form};
use tideline_core::internal::rules::Account;

use super::item::{Item, Value, ValueEdit, Whole};
use super::view::{Around, ItemView};
use crate::view::Title;
use crate::wording::{grouped, plural};

/// Two tables and what differs between them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct TableView<'a> {
    /// What stands above.
    pub title: Title<'a>,
    /// The table before.
    pub before: &'a Table<'a>,
    /// The table after.
    pub after: &'a Table<'a>,
    /// What differs.
    pub comparison: &'a TableComparison,
}

pub(crate) fn value(cell: &Cell<'_>) -> Value {
    match cell {
        Cell::Missing => Value::Missing,
        Cell::Null => Value::Null,
        Cell::Text(text) => Value::Text(text.to_vec()),
    }
}

fn text_of(cell: &Cell<'_>) -> String {
    String::from_utf8_lossy(value(cell).shown().0).into_owned()
}

impl TableView<'_> {
    /// What a row is known by: its key, or its number.
    pub(crate) fn row_title(&self, change: &RowChange) -> String {
        let RowMatch::Key { columns, .. } = &self.comparison.matched else {
            return match (change.before, change.after) {
                (Some(before), Some(after)) if before != after => {
                    format!("row {}, now row {}", grouped(before + 1), grouped(after + 1))
                }
                (_, Some(row)) | (Some(row), None) => format!("row {}", grouped(row + 1)),
                (None, None) => String::new(),
            };
        };
        let cells = self.cells_of(change);
        let told = columns.iter().map(|column| {
            let pair = &self.comparison.columns[*column];
            let index = if cells.1 { pair.after } else { pair.before };
            let cell = index.map_or(Cell::Missing, |index| cells.0[index].clone());
            format!("{} {}", pair.name, text_of(&cell))
        });
        told.collect::<Vec<_>>().join(", ")
    }

    /// The cells of a change, after if it is there, and whether they are those.
    fn cells_of(&self, change: &RowChange) -> (Vec<Cell<'_>>, bool) {
        match (change.before, change.after) {
            (_, Some(row)) => (self.after.cells(row), true),
            (Some(row), None) => (self.before.cells(row), false),
            (None, None) => (Vec::new(), true),
        }
    }

    fn place(&self, change: &RowChange) -> String {
        let (before, after) =
            (change.before.map(|row| self.before.line(row)), change.after.map(|row| self.after.line(row)));
        match (before, after) {
            (Some(before), Some(after)) if before != after => {
                format!("line {}, now line {}", grouped(before), grouped(after))
            }
            (_, Some(line)) | (Some(line), None) => format!("line {}", grouped(line)),
            (None, None) => String::new(),
        }
    }

    /// The cells of both sides that a change tells of, in the order of the columns.
    pub(crate) fn edits(&self, change: &RowChange) -> Vec<ValueEdit> {
        let (Some(before), Some(after)) = (change.before, change.after) else { return Vec::new() };
        let (old, new) = (self.before.cells(before), self.after.cells(after));
        let edit = |cell: &tideline_core::internal::model::table::CellChange| {
            let column = &self.comparison.columns[cell.column];
            let side = |index: Option<usize>, cells: &[Cell<'_>]| index.map_or(Value::Missing, |at| value(&cells[at]));
            ValueEdit {
                name: column.name.clone(),
                column: cell.column,
                before: side(column.before, &old),
                after: side(column.after, &new),
                weight: cell.weight,
                cause: cell.cause.clone(),
            }
        };
        change.cells.iter().map(edit).collect()
    }

    /// The values of a row that one side alone has, by the indexes of their columns.
    pub(crate) fn whole_row(&self, change: &RowChange) -> Vec<(usize, Value)> {
        let (cells, is_after) = self.cells_of(change);
        let columns = self.comparison.columns.iter().enumerate();
        let told = columns.filter_map(|(at, column)| {
            let index = if is_after { column.after } else { column.before }?;
            Some((at, value(&cells[index])))
        });
        told.collect()
    }

    /// How rows were matched, in words.
    pub(crate) fn matched_in_words(&self) -> String {
        match &self.comparison.matched {
            RowMatch::InOrder => "rows matched in order, as no key was found".to_owned(),
            RowMatch::Key { columns, is_found } => {
                let names: Vec<&str> =
                    columns.iter().map(|column| self.comparison.columns[*column].name.as_str()).collect();
                let found = if *is_found { " (found)" } else { "" };
                format!("rows matched by {}{found}", names.join(", "))
            }
        }
    }

    fn rows_in_words(&self) -> String {
        let (before, after) = self.comparison.rows;
        let mut words = plural(after, "row");
        if before != after {
            words = format!("{}, now {}", plural(before, "row"), grouped(after));
        }
        let forms = [Form::Edited, Form::New, Form::Gone, Form::Moved];
        let told: Vec<String> = forms
            .iter()
            .map(|form| (self.comparison.counts(*form), form))
            .filter(|(count, _)| *count > 0)
            .map(|(count, form)| format!("{} {}", grouped(count), form.name()))
            .collect();
        if !told.is_empty() {
            let _ = write!(words, ": {}", told.join(", "));
        }
        words
    }

    /// What happened to columns themselves, a line each.
    fn columns_in_words(&self) -> Vec<String> {
        let says = |(column, form): (&ColumnPair, Form)| match (form, &column.renamed_from) {
            (Form::Edited, Some(old)) => format!("column {} renamed from {old}: the same values", column.name),
            (Form::Moved, _) => format!("column {} moved", column.name),
            (form, _) => format!("column {} {}", column.name, form.name()),
        };
        self.comparison.column_changes().map(says).collect()
    }

    /// In how many rows each column was edited.
    fn edited_in_words(&self) -> Option<String> {
        let mut edited: Vec<&ColumnPair> = self.comparison.columns.iter().filter(|column| column.edited > 0).collect();
        edited.sort_by_key(|column| std::cmp::Reverse(column.edited));
        let told: Vec<String> =
            edited.iter().map(|column| format!("{} edited in {}", column.name, plural(column.edited, "row"))).collect();
        (!told.is_empty()).then(|| told.join(", "))
    }
}

impl ItemView for TableView<'_> {
    fn title(&self) -> &Title<'_> {
        &self.title
    }

    fn extent(&self) -> Extent {
        self.comparison.extent()
    }

    fn account(&self) -> (&Account, bool) {
        (&self.comparison.account, self.comparison.hidden > 0)
    }

    fn len(&self) -> usize {
        self.comparison.changes.len()
    }

    fn facts(&self) -> Vec<String> {
        let mut facts = vec![format!("{}; {}", self.rows_in_words(), self.matched_in_words())];
        facts.extend(self.edited_in_words());
        facts.extend(self.columns_in_words());
        facts
    }

    fn troubles(&self) -> Vec<String> {
        let label = |is_before: bool| if is_before { &self.title.labels.before } else { &self.title.labels.after };
        let says = |remark: &TableRemark| match remark {
            TableRemark::Ragged { is_before, rows, first, columns } => {
                let told: Vec<String> =
                    first.iter().map(|(line, cells)| format!("line {line} has {}", plural(*cells, "cell"))).collect();
                let more = rows.saturating_sub(first.len());
                let more = if more > 0 { format!(", and {} more", plural(more, "row")) } else { String::new() };
                format!("{}: {} in a table of {}{more}", label(*is_before), told.join(", "), plural(*columns, "column"))
            }
            TableRemark::DuplicateKeys { is_before, keys, first } => {
                let told: Vec<String> = first.iter().map(|(key, line)| format!("{key} again in line {line}")).collect();
                let more = keys.saturating_sub(first.len());
                let more = if more > 0 { format!(", and {} more", plural(more, "key")) } else { String::new() };
                let label = label(*is_before);
                format!("{label}: rows with one key are matched in their order: {}{more}", told.join(", "))
            }
            TableRemark::OpenQuote { is_before, line } => {
                format!("{}: a quote in the row of line {line} is never closed", label(*is_before))
            }
        };
        self.comparison.remarks.iter().map(says).collect()
    }

    fn item(&self, index: usize) -> Item {
        let change = &self.comparison.changes[index];
        let edits = self.edits(change);
        let causes: Vec<&str> = edits.iter().filter_map(|edit| edit.cause.as_deref()).collect();
        let is_whole = matches!(change.form, Form::Gone | Form::New);
        let key_of = |at: usize| self.comparison.columns[at].is_key;
        let whole = if is_whole {
            let values = self.whole_row(change).into_iter().filter(|(at, _)| !key_of(*at));
            Whole::Values(values.map(|(at, value)| (self.comparison.columns[at].name.clone(), value)).collect())
        } else {
            Whole::None
        };
        let (row, rows) = match (change.before, change.after) {
            (_, Some(row)) => (row, self.comparison.rows.1),
            (row, None) => (row.unwrap_or_default(), self.comparison.rows.0),
        };
        Item {
            number: change.number,
            form: change.form,
            weight: change.weight,
            cause: causes.first().map(|cause| (*cause).to_owned()),
            title: self.row_title(change),
            group: None,
            place: self.place(change),
            share: row as f64 / rows.max(1) as f64,
            edits,
            whole,
        }
    }

    fn around(&self, _: usize, _: usize) -> Around {
        Default::default()
    }
}
