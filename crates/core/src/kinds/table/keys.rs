//! By which columns rows are known again: those that are told, or that are unique and filled on both sides.

use std::collections::HashSet;
use std::hash::{BuildHasher, Hasher};

use foldhash::fast::FixedState;
use foldhash::quality::RandomState;
use rayon::prelude::*;

use super::contents::{Cell, Table};
use crate::internal::kinds::kind_options::KindOptions;
use crate::internal::model::table::ColumnPair;

/// So many rows rule most columns out.
const FIRST_ROWS: usize = 2_000;
/// Columns that are tried in pairs where none is unique by itself.
const PAIRED: usize = 10;
/// The share of rows of the smaller side that a key must find on the other.
const FOUND: f64 = 0.5;

/// Hashes of keys, two of 64 bits: keys that are equal have equal hashes, and no others do.
pub(super) type KeyHash = u128;

/// Keys, each once. They are hashes already.
type KeySet = HashSet<KeyHash, FixedState>;

/// Makes hashes of keys.
#[derive(Default)]
pub(super) struct KeyHasher {
    one: RandomState,
    other: RandomState,
}

impl KeyHasher {
    pub(super) fn of<'c>(&self, cells: impl Iterator<Item = &'c Cell<'c>>) -> KeyHash {
        let (mut one, mut other) = (self.one.build_hasher(), self.other.build_hasher());
        for cell in cells {
            let (sign, text) = match cell {
                Cell::Missing => (0, &[][..]),
                Cell::Null => (1, &[][..]),
                Cell::Text(text) => (2, text.as_ref()),
            };
            for hasher in [&mut one, &mut other] {
                hasher.write_u8(sign);
                hasher.write_usize(text.len());
                hasher.write(text);
            }
        }
        u128::from(one.finish()) << 64 | u128::from(other.finish())
    }

    /// The hash of some columns of each row.
    pub(super) fn column(&self, table: &Table<'_>, columns: &[usize]) -> Vec<KeyHash> {
        self.rows(table, columns, 0..table.len())
    }

    /// The same of some rows.
    pub(super) fn rows(&self, table: &Table<'_>, columns: &[usize], rows: std::ops::Range<usize>) -> Vec<KeyHash> {
        let rows: Vec<usize> = rows.collect();
        rows.par_chunks(4096)
            .flat_map_iter(|rows| {
                let mut cells = Vec::new();
                rows.iter()
                    .map(|row| {
                        table.read_cells(*row, &mut cells);
                        self.of(columns.iter().map(|column| &cells[*column]))
                    })
                    .collect::<Vec<_>>()
            })
            .collect()
    }
}

/// The columns that make the best key, as indexes of the pairs; none where no column, and no two of the first, are unique and filled.
pub(super) fn found_key(before: &Table<'_>, after: &Table<'_>, columns: &[ColumnPair]) -> Option<Vec<usize>> {
    if before.is_empty() || after.is_empty() {
        return None;
    }
    let usable = |column: &&usize| {
        let pair = &columns[**column];
        pair.before.is_some() && pair.after.is_some() && pair.aside.is_none()
    };
    let all: Vec<usize> = (0..columns.len()).collect();
    let all: Vec<usize> = all.iter().filter(usable).copied().collect();
    let singles: Vec<Vec<usize>> = all.iter().map(|column| vec![*column]).collect();
    best_of(before, after, columns, singles).or_else(|| {
        let first = &all[..all.len().min(PAIRED)];
        let pairs =
            first.iter().enumerate().flat_map(|(at, one)| first[at + 1..].iter().map(|other| vec![*one, *other]));
        best_of(before, after, columns, pairs.collect())
    })
}

/// The first of the candidates that find the most rows of the other side.
fn best_of(
    before: &Table<'_>,
    after: &Table<'_>,
    columns: &[ColumnPair],
    candidates: Vec<Vec<usize>>,
) -> Option<Vec<usize>> {
    let hasher = KeyHasher::default();
    let side = |of: fn(&ColumnPair) -> Option<usize>| -> Vec<Vec<usize>> {
        candidates.iter().map(|own| own.iter().filter_map(|column| of(&columns[*column])).collect()).collect()
    };
    let (b_columns, a_columns) = (side(|pair| pair.before), side(|pair| pair.after));
    // The first rows of both sides rule most out before all are read.
    let starts: Vec<bool> = (0..candidates.len())
        .into_par_iter()
        .map(|at| is_unique(before, &b_columns[at], FIRST_ROWS) && is_unique(after, &a_columns[at], FIRST_ROWS))
        .collect();
    let (old, new) = rayon::join(
        || unique_keys(before, &b_columns, &starts, &hasher),
        || unique_keys(after, &a_columns, &starts, &hasher),
    );
    let least = before.len().min(after.len()) as f64 * FOUND;
    let mut best: Option<(usize, Vec<usize>)> = None;
    for ((candidate, old), new) in candidates.into_iter().zip(old).zip(new) {
        let (Some(old), Some(new)) = (old, new) else { continue };
        let shared = new.intersection(&old).count();
        let is_enough = shared as f64 >= least && shared > 0;
        if is_enough && best.as_ref().is_none_or(|(most, _)| shared > *most) {
            best = Some((shared, candidate));
        }
    }
    best.map(|(_, candidate)| candidate)
}

/// The keys of a table by each candidate that starts; nothing for one that is empty in a row, or the same in two. Rows are read once for all.
fn unique_keys(
    table: &Table<'_>,
    candidates: &[Vec<usize>],
    starts: &[bool],
    hasher: &KeyHasher,
) -> Vec<Option<KeySet>> {
    let mut keys: Vec<Option<KeySet>> = starts.iter().map(|starts| starts.then(KeySet::default)).collect();
    let mut cells = Vec::new();
    for row in 0..table.len() {
        table.read_cells(row, &mut cells);
        for (columns, keys) in candidates.iter().zip(&mut keys) {
            let Some(own) = keys else { continue };
            let is_filled = columns.iter().all(|column| cells[*column].text().is_some_and(|text| !text.is_empty()));
            if !is_filled || !own.insert(hasher.of(columns.iter().map(|column| &cells[*column]))) {
                *keys = None;
            }
        }
        if keys.iter().all(Option::is_none) {
            break;
        }
    }
    keys
}

/// Whether the first rows have values, and no two of them the same.
fn is_unique(table: &Table<'_>, columns: &[usize], rows: usize) -> bool {
    let mut seen = HashSet::new();
    let mut cells = Vec::new();
    (0..table.len().min(rows)).all(|row| {
        table.read_cells(row, &mut cells);
        let key: Vec<Cell<'_>> = columns.iter().map(|column| cells[*column].clone()).collect();
        key.iter().all(|cell| cell.text().is_some_and(|text| !text.is_empty())) && seen.insert(key)
    })
}

/// The columns that make a key of three tables with the same columns: those that are told, or the first that is unique and filled in all.
pub(crate) fn key_of_three(tables: [&Table<'_>; 3], how: &KindOptions) -> Option<Vec<usize>> {
    let names = tables[0].names();
    if !how.key.is_empty() {
        return how.key.iter().map(|name| names.iter().position(|own| own == name)).collect();
    }
    let is_key = |columns: &Vec<usize>| tables.iter().all(|table| is_unique(table, columns, usize::MAX));
    let singles = (0..names.len()).map(|column| vec![column]);
    let first = names.len().min(PAIRED);
    let pairs = (0..first).flat_map(|one| (one + 1..first).map(move |other| vec![one, other]));
    singles.chain(pairs).find(is_key)
}
