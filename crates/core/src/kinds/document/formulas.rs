//! Formulas that say the same of another row: rows that came or went above them moved the cells that they name.

use super::sheet_pair::SheetPair;
use crate::internal::kinds::table::{Cell, Table};
use crate::internal::model::{Form, Weight};
use crate::internal::rules::Effect;

/// The cause of a difference in a formula that only moved with its row.
pub(super) const MOVED_FORMULA: &str = "formulas that moved with their rows";

/// Mutes cells of a sheet whose formulas only moved with their rows; with muted changes left out, where they are all of a row.
pub(super) fn mute_moved(sheet: &mut SheetPair, counted_only: bool) {
    let mut hidden = Vec::new();
    for (index, change) in sheet.found.changes.iter_mut().enumerate() {
        let (Form::Edited, Some(before), Some(after)) = (change.form, change.before, change.after) else { continue };
        let row = |table: &Table<'_>, row: usize, first: usize| table.line(row) + first;
        let rows = (row(&sheet.before, before, sheet.origins.0.0), row(&sheet.after, after, sheet.origins.1.0));
        if rows.0 == rows.1 {
            continue;
        }
        let (old, new) = (sheet.before.cells(before), sheet.after.cells(after));
        let mut muted = 0;
        for cell in change.cells.iter_mut().filter(|cell| cell.weight == Weight::Counted) {
            let column = &mut sheet.found.columns[cell.column];
            let (Some(own), Some(other)) = (column.before, column.after) else { continue };
            if is_moved((&old[own], rows.0), (&new[other], rows.1)) {
                (cell.weight, cell.cause) = (Weight::Muted, Some(MOVED_FORMULA.to_owned()));
                column.edited = column.edited.saturating_sub(1);
                column.muted += 1;
                muted += 1;
            }
        }
        if muted > 0 && change.cells.iter().all(|cell| cell.weight == Weight::Muted) {
            change.weight = Weight::Muted;
            sheet.found.account.put(MOVED_FORMULA, Effect::Mute, 1);
            hidden.push(index);
        }
    }
    if counted_only {
        sheet.found.hidden += hidden.len();
        let mut at = 0;
        sheet.found.changes.retain(|_| {
            at += 1;
            hidden.binary_search(&(at - 1)).is_err()
        });
    }
}

/// Whether two cells hold formulas that are the same, seen from their rows.
fn is_moved((before, row_before): (&Cell<'_>, usize), (after, row_after): (&Cell<'_>, usize)) -> bool {
    let formula = |cell: &Cell<'_>| {
        let text = String::from_utf8_lossy(cell.text()?).into_owned();
        let at = text.find('=')?;
        Some((text[..at].to_owned(), text[at..].to_owned()))
    };
    let (Some(before), Some(after)) = (formula(before), formula(after)) else { return false };
    before.0 == after.0 && relative(&before.1, row_before) == relative(&after.1, row_after)
}

/// A formula with the rows of its cells counted from its own; those that a dollar sign holds stay.
fn relative(formula: &str, row: usize) -> String {
    let mut out = String::with_capacity(formula.len());
    let mut rest = formula;
    while let Some(first) = rest.chars().next() {
        // Texts in quotes, and names with letters before or behind, are no cells.
        if first == '"' {
            let end = rest[1..].find('"').map_or(rest.len(), |end| end + 2);
            out.push_str(&rest[..end]);
            rest = &rest[end..];
            continue;
        }
        let word: usize = rest
            .chars()
            .take_while(|letter| letter.is_alphanumeric() || matches!(letter, '$' | '_' | '.'))
            .map(char::len_utf8)
            .sum();
        let (name, behind) = rest.split_at(word.max(first.len_utf8()));
        match cell_name(name) {
            Some((column, number)) if !behind.starts_with('(') => {
                out.push_str(&format!("{column}[{}]", number as i64 - row as i64));
            }
            _ => out.push_str(name),
        }
        rest = behind;
    }
    out
}

/// The column and the row of a cell that moves with its row.
fn cell_name(name: &str) -> Option<(&str, usize)> {
    let digits = name.find(|letter: char| letter.is_ascii_digit())?;
    let (column, number) = name.split_at(digits);
    let letters = column.strip_prefix('$').unwrap_or(column);
    let is_column = (1..=3).contains(&letters.len()) && letters.bytes().all(|byte| byte.is_ascii_uppercase());
    (is_column && number.len() <= 7).then_some(())?;
    Some((column, number.parse().ok()?))
}

#[cfg(test)]
mod tests {
    use super::relative;

    #[test]
    fn cells_are_counted_from_the_row_unless_a_dollar_sign_holds_them() {
        assert_eq!(relative("=C4-B4", 4), relative("=C5-B5", 5));
        assert_eq!(relative("=SUM(C2:C4)*$A$1", 5), "=SUM(C[-3]:C[-1])*$A$1");
        assert_ne!(relative("=C4-B4", 4), relative("=C5-B4", 5));
        for formula in ["=LOG10(2)", "=\"C4\"&1", "=Total4x+AB_1", "=ABCD4", "="] {
            assert_eq!(relative(formula, 4), formula, "no cell moves in it");
        }
    }
}
