//! How the cells of two rows differ.

use std::sync::atomic::{AtomicBool, Ordering};

use rayon::prelude::*;

use super::contents::{Cell, Table};
use crate::internal::kinds::kind_options::KindOptions;
use crate::internal::kinds::number::Decimal;
use crate::internal::kinds::values::{BothRules, DATE_SPELLING, Date, Difference, of_numbers, under_rules};
use crate::internal::model::table::{CellChange, CellType, ColumnPair};
use crate::internal::rules::Effect;

/// Rows that are looked at by one thread at a time.
const CHUNK: usize = 4096;

/// The columns whose cells differ, in some rows, in a way that depends on what they are taken as.
pub(super) fn questions(
    (before, after): (&Table<'_>, &Table<'_>),
    columns: &[ColumnPair],
    pairs: &[(u32, u32)],
    options: &KindOptions,
) -> Vec<usize> {
    if options.cells_as_text == Some(true) {
        return Vec::new();
    }
    let asked: Vec<AtomicBool> = columns.iter().map(|_| AtomicBool::new(false)).collect();
    pairs.par_chunks(CHUNK).for_each(|pairs| {
        let (mut old, mut new) = (Vec::new(), Vec::new());
        for &(b, a) in pairs {
            before.read_cells(b as usize, &mut old);
            after.read_cells(a as usize, &mut new);
            for (column, asked) in columns.iter().zip(&asked) {
                let Some((one, other)) = both(column, &old, &new) else { continue };
                if column.is_key || asked.load(Ordering::Relaxed) || one == other {
                    continue;
                }
                let (Some(one), Some(other)) = (one.text(), other.text()) else { continue };
                let depends = by_value(one, other, column, options).is_some();
                if depends {
                    asked.store(true, Ordering::Relaxed);
                }
            }
        }
    });
    asked.iter().enumerate().filter(|(_, asked)| asked.load(Ordering::Relaxed)).map(|(column, _)| column).collect()
}

/// How two cells differ if they are taken by value, and what they are then; nothing where they differ all the same.
fn by_value(one: &[u8], other: &[u8], column: &ColumnPair, options: &KindOptions) -> Option<(Difference, CellType)> {
    if let (Some(old), Some(new)) = (Decimal::read(one), Decimal::read(other)) {
        let difference = of_numbers(&old, &new, options.tolerance_of(&column.name))?;
        return Some((difference, CellType::Number));
    }
    if Date::read(one)? == Date::read(other)? {
        return Some((Difference::Aside(Effect::Mute, DATE_SPELLING.to_owned()), CellType::Date));
    }
    None
}

/// Tells what the cells of some columns are: numbers or dates where every filled cell of both sides is one.
pub(super) fn tell_types((before, after): (&Table<'_>, &Table<'_>), columns: &mut [ColumnPair], asked: &[usize]) {
    if asked.is_empty() {
        return;
    }
    let side = |table: &Table<'_>, of: fn(&ColumnPair) -> Option<usize>| -> Vec<(bool, bool)> {
        let indexes: Vec<Option<usize>> = asked.iter().map(|column| of(&columns[*column])).collect();
        let rows: Vec<usize> = (0..table.len()).collect();
        let all = vec![(true, true); asked.len()];
        rows.par_chunks(CHUNK)
            .map(|rows| {
                let mut found = all.clone();
                let mut cells = Vec::new();
                for row in rows {
                    table.read_cells(*row, &mut cells);
                    for (found, index) in found.iter_mut().zip(&indexes) {
                        let Some(text) = index.and_then(|index| cells[index].text()).filter(|text| !text.is_empty())
                        else {
                            continue;
                        };
                        found.0 = found.0 && Decimal::read(text).is_some();
                        found.1 = found.1 && Date::read(text).is_some();
                    }
                    if found.iter().all(|found| *found == (false, false)) {
                        break;
                    }
                }
                found
            })
            .reduce(
                || all.clone(),
                |one, other| one.iter().zip(&other).map(|(one, other)| (one.0 && other.0, one.1 && other.1)).collect(),
            )
    };
    let (old, new) = (side(before, |pair| pair.before), side(after, |pair| pair.after));
    for ((column, old), new) in asked.iter().zip(old).zip(new) {
        columns[*column].cells = match (old.0 && new.0, old.1 && new.1) {
            (true, _) => CellType::Number,
            (_, true) => CellType::Date,
            _ => CellType::Text,
        };
    }
}

/// The cells of two rows, of a column that both have.
fn both<'c, 'b, 'a>(
    column: &ColumnPair,
    old: &'c [Cell<'b>],
    new: &'c [Cell<'a>],
) -> Option<(&'c Cell<'b>, &'c Cell<'a>)> {
    Some((&old[column.before?], &new[column.after?]))
}

/// What differs in two rows that belong together.
#[derive(Default)]
pub(super) struct RowDifference {
    /// The cells that differ and are shown.
    pub(super) cells: Vec<CellChange>,
    /// What else differs: causes, with their effects.
    pub(super) aside: Vec<(Effect, String)>,
}

/// How the rows are compared.
#[derive(Clone, Copy)]
pub(super) struct How<'h> {
    pub(super) columns: &'h [ColumnPair],
    pub(super) options: &'h KindOptions,
    pub(super) rules: BothRules<'h>,
}

/// Compares the cells of two rows.
pub(super) fn compare_rows(old: &[Cell<'_>], new: &[Cell<'_>], how: How<'_>) -> RowDifference {
    let mut found = RowDifference::default();
    for (index, column) in how.columns.iter().enumerate() {
        let Some((one, other)) = both(column, old, new) else { continue };
        if one == other {
            continue;
        }
        let difference = difference(one, other, column, how);
        if let Difference::Aside(effect, cause) = &difference
            && !found.aside.iter().any(|(_, known)| known == cause)
        {
            found.aside.push((*effect, cause.clone()));
        }
        if let Some(weight) = difference.weight() {
            found.cells.push(CellChange { column: index, weight, cause: difference.cause().map(str::to_owned) });
        }
    }
    found
}

fn difference(one: &Cell<'_>, other: &Cell<'_>, column: &ColumnPair, how: How<'_>) -> Difference {
    if let Some((rule, is_shown)) = &column.aside {
        return Difference::Aside(if *is_shown { Effect::Mute } else { Effect::Ignore }, rule.clone());
    }
    let (Some(one), Some(other)) = (one.text(), other.text()) else { return Difference::Counted };
    if column.cells != CellType::Text
        && let Some((difference, _)) = by_value(one, other, column, how.options)
    {
        return difference;
    }
    under_rules(one, other, how.rules)
}
