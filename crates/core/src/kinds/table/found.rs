//! Two tables compared.

use rayon::prelude::*;

use super::cells::{How, RowDifference, compare_rows, questions, tell_types};
use super::columns::pair_columns;
use super::contents::{Layout, Table};
use super::keys::found_key;
use super::matching::{Matched, by_key, in_order};
use crate::internal::kinds::kind_options::KindOptions;
use crate::internal::kinds::values::BothRules;
use crate::internal::model::table::{ColumnPair, RowChange, RowMatch, TableComparison, TableRemark};
use crate::internal::model::{Form, Weight};
use crate::internal::rules::{Account, Counted, Effect};

/// Rows in another order.
pub const ROW_ORDER: &str = "row order";
/// Quotes, delimiters, line ends, and whatever else the format leaves to the writer.
pub const LAYOUT: &str = "layout";

/// A column that was told as a part of the key and is not there.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct NoColumn {
    pub(super) name: String,
    pub(super) is_before: bool,
}

/// Compares two tables. The sides exchanged give the mirrored result.
pub(super) fn compare_tables(
    before: &Table<'_>,
    after: &Table<'_>,
    (options, rules, counted_only): (&KindOptions, BothRules<'_>, bool),
) -> Result<TableComparison, NoColumn> {
    let mut found = all_of((before, after), options, rules)?;
    if counted_only {
        let all = found.changes.len();
        found.changes.retain(|change| change.weight == Weight::Counted);
        found.changes.iter_mut().for_each(|change| change.cells.retain(|cell| cell.weight == Weight::Counted));
        found.hidden = all - found.changes.len();
    }
    (1..).zip(&mut found.changes).for_each(|(number, change)| change.number = number);
    Ok(found)
}

fn all_of(
    (before, after): (&Table<'_>, &Table<'_>),
    options: &KindOptions,
    rules: BothRules<'_>,
) -> Result<TableComparison, NoColumn> {
    let mut columns = pair_columns(before, after, rules.0);
    let told = told_key((before, after), &columns, &options.key)?;
    let is_found = told.is_none();
    let key = told.or_else(|| found_key(before, after, &columns));
    if let Some(key) = &key {
        key.iter().for_each(|column| columns[*column].is_key = true);
    }
    let matched = matched_rows((before, after), &columns, (key.as_deref(), options));
    let differing = differing_rows((before, after), &matched.pairs);
    let asked = questions((before, after), &columns, &differing, options);
    tell_types((before, after), &mut columns, &asked);
    let how = How { columns: &columns, options, rules };
    let differences: Vec<RowDifference> = differing
        .par_chunks(1024)
        .flat_map_iter(|pairs| {
            let (mut old, mut new) = (Vec::new(), Vec::new());
            pairs
                .iter()
                .map(|&(b, a)| {
                    before.read_cells(b as usize, &mut old);
                    after.read_cells(a as usize, &mut new);
                    compare_rows(&old, &new, how)
                })
                .collect::<Vec<_>>()
        })
        .collect();
    let mut account = Account::counting(Counted::Rows);
    let order_counts = options.row_order_counts == Some(true);
    let changes = in_their_order((before, after), &matched, (&differing, differences), order_counts, &mut account);
    for change in &changes {
        for cell in &change.cells {
            let column = &mut columns[cell.column];
            *(if cell.weight == Weight::Counted { &mut column.edited } else { &mut column.muted }) += 1;
        }
    }
    let mut remarks: Vec<TableRemark> = before.remarks.iter().chain(&after.remarks).cloned().collect();
    remarks.extend(matched.remarks);
    let rows = (before.len(), after.len());
    let pairs = matched.pairs;
    let matched = key.map_or(RowMatch::InOrder, |columns| RowMatch::Key { columns, is_found });
    let found = TableComparison { columns, matched, rows, pairs, changes, remarks, account, hidden: 0 };
    Ok(with_layout(found, before.text() != after.text()))
}

/// Where nothing is said to differ though the bytes do, the way of writing does.
fn with_layout(mut found: TableComparison, differs: bool) -> TableComparison {
    if differs && found.changes.is_empty() && found.account.is_empty() && found.column_changes().next().is_none() {
        found.account.put(LAYOUT, Effect::Mute, 1);
    }
    found
}

/// The columns that were told as the key.
fn told_key(
    (before, after): (&Table<'_>, &Table<'_>),
    columns: &[ColumnPair],
    key: &[String],
) -> Result<Option<Vec<usize>>, NoColumn> {
    if key.is_empty() {
        return Ok(None);
    }
    let find = |name: &String| {
        let is_it = |pair: &ColumnPair| pair.name == *name || pair.renamed_from.as_ref() == Some(name);
        let found = columns.iter().position(|pair| is_it(pair) && pair.before.is_some() && pair.after.is_some());
        found.ok_or_else(|| NoColumn {
            name: name.clone(),
            is_before: !before.names().contains(name) || after.names().contains(name),
        })
    };
    key.iter().map(find).collect::<Result<_, _>>().map(Some)
}

/// The pairs whose rows are not written alike.
fn differing_rows((before, after): (&Table<'_>, &Table<'_>), pairs: &[(u32, u32)]) -> Vec<(u32, u32)> {
    let is_alike = match (&before.layout, &after.layout) {
        (Layout::Delimited(one), Layout::Delimited(other)) => one == other && before.names() == after.names(),
        // Records name their columns themselves.
        (Layout::Records(_), Layout::Records(_)) => true,
        _ => false,
    };
    let differs = |pair: &&(u32, u32)| !is_alike || before.source(pair.0 as usize) != after.source(pair.1 as usize);
    pairs.par_iter().filter(differs).copied().collect()
}

/// The changes in the order in which a reader meets them: as the rows before stand, and new rows where they came to be.
fn in_their_order(
    (before, after): (&Table<'_>, &Table<'_>),
    matched: &Matched,
    (differing, differences): (&[(u32, u32)], Vec<RowDifference>),
    order_counts: bool,
    account: &mut Account,
) -> Vec<RowChange> {
    let change = |form, weight, before, after, cells| RowChange { number: 0, form, weight, before, after, cells };
    let mut is_taken = vec![false; after.len()];
    matched.pairs.iter().for_each(|(_, a)| is_taken[*a as usize] = true);
    let new_rows = |rows: std::ops::Range<usize>, changes: &mut Vec<RowChange>| {
        let new = rows.filter(|row| !is_taken[*row]);
        changes.extend(new.map(|row| change(Form::New, Weight::Counted, None, Some(row), Vec::new())));
    };
    let mut changes = Vec::new();
    let mut new_from = 0;
    let mut pairs = matched.pairs.iter().zip(&matched.elsewhere).peekable();
    let mut differences = differing.iter().zip(differences).peekable();
    for row in 0..before.len() {
        let Some((&(_, other), &is_elsewhere)) = pairs.next_if(|((b, _), _)| *b as usize == row) else {
            changes.push(change(Form::Gone, Weight::Counted, Some(row), None, Vec::new()));
            continue;
        };
        let other = other as usize;
        if !is_elsewhere {
            new_rows(new_from..other, &mut changes);
            new_from = new_from.max(other);
        }
        let is_moved = is_elsewhere && order_counts;
        if is_elsewhere && !order_counts {
            account.put(ROW_ORDER, Effect::Mute, 1);
        }
        let found = differences.next_if(|((b, _), _)| *b as usize == row).map(|(_, found)| found).unwrap_or_default();
        found.aside.iter().for_each(|(effect, cause)| account.put(cause, *effect, 1));
        if found.cells.is_empty() && !is_moved {
            continue;
        }
        let counts = is_moved || found.cells.iter().any(|cell| cell.weight == Weight::Counted);
        let weight = if counts { Weight::Counted } else { Weight::Muted };
        let form = if is_moved { Form::Moved } else { Form::Edited };
        changes.push(change(form, weight, Some(row), Some(other), found.cells));
    }
    new_rows(new_from..after.len(), &mut changes);
    changes
}

/// Which rows belong together. The sides exchanged give the mirrored result.
fn matched_rows(
    (before, after): (&Table<'_>, &Table<'_>),
    columns: &[ColumnPair],
    (key, options): (Option<&[usize]>, &KindOptions),
) -> Matched {
    let find = |tables: (&Table<'_>, &Table<'_>), columns: &[ColumnPair]| match key {
        Some(key) => by_key(tables, columns, (key, options)),
        None => in_order(tables, columns),
    };
    if before.text() <= after.text() {
        return find((before, after), columns);
    }
    let exchanged: Vec<ColumnPair> = columns
        .iter()
        .map(|column| ColumnPair { before: column.after, after: column.before, ..column.clone() })
        .collect();
    find((after, before), &exchanged).mirrored()
}
