//! The sheets of two documents, ready to be drawn.

use tideline_core::internal::kinds::document::{SheetPair, SheetsPair};
use tideline_core::internal::model::table::RowChange;
use tideline_core::internal::model::{Extent, Form};
use tideline_core::internal::rules::Account;

use super::item::Item;
use super::table::TableView;
use super::view::{Around, ItemView};
use crate::view::Title;
use crate::wording::document::document_line;
use crate::wording::{grouped, plural};

/// The sheets of two documents and what differs in them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct SheetsView<'a> {
    /// What stands above.
    pub title: Title<'a>,
    /// The sheets, and what differs.
    pub pair: &'a SheetsPair,
}

/// The letters of a column, as workbooks name it.
fn column_letters(mut column: usize) -> String {
    let mut letters = Vec::new();
    loop {
        letters.push(b'A' + (column % 26) as u8);
        if column < 26 {
            break;
        }
        column = column / 26 - 1;
    }
    letters.reverse();
    String::from_utf8_lossy(&letters).into_owned()
}

impl<'a> SheetsView<'a> {
    /// One sheet as a table of its own.
    pub(crate) fn sheet(&self, sheet: &'a SheetPair) -> TableView<'a> {
        TableView { title: self.title, before: &sheet.before, after: &sheet.after, comparison: &sheet.found }
    }

    /// The sheets in which something differs.
    pub(crate) fn differing(&self) -> impl Iterator<Item = &'a SheetPair> {
        let sheets = &self.pair.sheets;
        sheets.iter().filter(|sheet| sheet.form.is_some() || !sheet.found.changes.is_empty() || sheet.found.differs())
    }

    fn of_index(&self, index: usize) -> Option<(&'a SheetPair, usize)> {
        let mut at = index;
        for sheet in &self.pair.sheets {
            if at < sheet.found.changes.len() {
                return Some((sheet, at));
            }
            at -= sheet.found.changes.len();
        }
        None
    }

    /// The row of a change in its sheet, from 1: after, or before where it is not there.
    pub(crate) fn rows(sheet: &SheetPair, change: &RowChange) -> (Option<usize>, Option<usize>) {
        let before = change.before.map(|row| sheet.before.line(row) + sheet.origins.0.0);
        let after = change.after.map(|row| sheet.after.line(row) + sheet.origins.1.0);
        (before, after)
    }

    /// The cells that a change is about: those that differ, or all of the row.
    fn cells_named(sheet: &SheetPair, change: &RowChange) -> String {
        let name = |column: usize| Self::cell_name(sheet, change, column);
        if change.form == Form::Edited {
            return change.cells.iter().map(|cell| name(cell.column)).collect::<Vec<_>>().join(", ");
        }
        let is_there = |column: &usize| {
            let pair = &sheet.found.columns[*column];
            if change.after.is_some() { pair.after.is_some() } else { pair.before.is_some() }
        };
        let all: Vec<usize> = (0..sheet.found.columns.len()).filter(is_there).collect();
        match (all.first(), all.last()) {
            (Some(first), Some(last)) => format!("{}:{}", name(*first), name(*last)),
            _ => String::new(),
        }
    }

    /// The name of the cell of a column in a change: `C7`.
    pub(crate) fn cell_name(sheet: &SheetPair, change: &RowChange, column: usize) -> String {
        let (before, after) = Self::rows(sheet, change);
        let pair = &sheet.found.columns[column];
        match (after, pair.after, before, pair.before) {
            (Some(row), Some(column), ..) => format!("{}{row}", column_letters(column + sheet.origins.1.1)),
            (.., Some(row), Some(column)) => format!("{}{row}", column_letters(column + sheet.origins.0.1)),
            _ => String::new(),
        }
    }
}

impl ItemView for SheetsView<'_> {
    fn title(&self) -> &Title<'_> {
        &self.title
    }

    fn extent(&self) -> Extent {
        self.pair.extent()
    }

    fn account(&self) -> (&Account, bool) {
        (&self.pair.account, self.pair.sheets.iter().any(|sheet| sheet.found.hidden > 0))
    }

    fn len(&self) -> usize {
        self.pair.sheets.iter().map(|sheet| sheet.found.changes.len()).sum()
    }

    fn facts(&self) -> Vec<String> {
        let mut facts =
            vec![format!("{}; {}", plural(self.pair.sheets.len(), "sheet"), document_line(&self.pair.extracted))];
        for sheet in self.differing() {
            let told = self.sheet(sheet).facts();
            let says = match sheet.form {
                Some(form) => format!("{}: {}", form.name(), plural(sheet.found.changes.len(), "row")),
                None => told.join("; "),
            };
            facts.push(format!("sheet {}: {says}", sheet.name));
        }
        facts
    }

    fn troubles(&self) -> Vec<String> {
        Vec::new()
    }

    fn item(&self, index: usize) -> Item {
        let Some((sheet, at)) = self.of_index(index) else { unreachable!("an index below the number of changes") };
        let change = &sheet.found.changes[at];
        let mut item = self.sheet(sheet).item(at);
        for edit in &mut item.edits {
            edit.name = format!("{} {}", Self::cell_name(sheet, change, edit.column), edit.name);
        }
        let row = |row: Option<usize>| row.map_or_else(String::new, grouped);
        item.place = match Self::rows(sheet, change) {
            (Some(before), Some(after)) if before != after => {
                format!("sheet {}, row {}, now row {}", sheet.name, row(Some(before)), row(Some(after)))
            }
            (before, after) => format!("sheet {}, row {}", sheet.name, row(after.or(before))),
        };
        // Without a key, a row is known by its place.
        if sheet.found.matched.key().is_empty() {
            item.title = Self::cells_named(sheet, change);
        }
        item.share = index as f64 / self.len().max(1) as f64;
        item
    }

    fn around(&self, _: usize, _: usize) -> Around {
        Default::default()
    }
}

#[cfg(test)]
mod tests {
    #[test]
    fn columns_have_the_letters_that_workbooks_give_them() {
        let names = [(0, "A"), (25, "Z"), (26, "AA"), (701, "ZZ"), (702, "AAA")];
        for (column, name) in names {
            assert_eq!(super::column_letters(column), name);
        }
    }
}
