//! Which rows of two tables belong together.

use std::collections::HashMap;
use std::io;

use foldhash::fast::FixedState;

use super::contents::Table;
use super::keys::{KeyHash, KeyHasher};
use super::runs::{Runs, Sorted};
use crate::internal::align::{Bounds, MOST_WEIGHED_MEMBERS, align_items, longest_chain, pair_alike};
use crate::internal::kinds::kind_options::KindOptions;
use crate::internal::kinds::scratch::Scratch;
use crate::internal::model::table::{ColumnPair, TableRemark};

/// Rows that share less of their cells are no pair.
const LEAST: f32 = 0.4;
/// Keys of so many rows of both sides are held in memory.
const MOST_IN_MEMORY: usize = 64 << 20;
/// Duplicate keys that are told of.
const MOST_TOLD: usize = 3;

/// The rows that belong together.
pub(super) struct Matched {
    /// Pairs in the order of the rows before.
    pub(super) pairs: Vec<(u32, u32)>,
    /// Of the pairs, those that stand elsewhere.
    pub(super) elsewhere: Vec<bool>,
    pub(super) remarks: Vec<TableRemark>,
}

impl Matched {
    /// The same with the sides exchanged.
    pub(super) fn mirrored(self) -> Self {
        let mut pairs: Vec<((u32, u32), bool)> =
            self.pairs.into_iter().map(|(b, a)| (a, b)).zip(self.elsewhere).collect();
        pairs.sort_unstable();
        let (pairs, elsewhere) = pairs.into_iter().unzip();
        let mut remarks = self.remarks;
        for remark in &mut remarks {
            if let TableRemark::DuplicateKeys { is_before, .. } = remark {
                *is_before = !*is_before;
            }
        }
        remarks.reverse();
        Self { pairs, elsewhere, remarks }
    }
}

/// Matches rows by their keys. Rows with one key are matched in their order.
pub(super) fn by_key(
    (before, after): (&Table<'_>, &Table<'_>),
    columns: &[ColumnPair],
    (key, options): (&[usize], &KindOptions),
) -> Matched {
    let hasher = KeyHasher::default();
    let of_side = |side: fn(&ColumnPair) -> Option<usize>| -> Vec<usize> {
        key.iter().filter_map(|column| side(&columns[*column])).collect()
    };
    let (b_columns, a_columns) = (of_side(|pair| pair.before), of_side(|pair| pair.after));
    let most = options.rows_in_memory.unwrap_or(MOST_IN_MEMORY);
    if let Some(scratch) = options.scratch.as_ref().filter(|_| before.len() + after.len() > most) {
        let sides = ((before, b_columns.as_slice()), (after, a_columns.as_slice()));
        // Where the disk does not hold them either, memory is what is left.
        if let Ok(matched) = on_disk(sides, &hasher, &**scratch, most) {
            return matched;
        }
    }
    let (old, new) = (hasher.column(before, &b_columns), hasher.column(after, &a_columns));
    let mut remarks = Vec::new();
    // The first row after of each key, and the next one with the same.
    let mut first: HashMap<KeyHash, u32, FixedState> =
        HashMap::with_capacity_and_hasher(new.len(), FixedState::default());
    let mut next: Vec<u32> = Vec::new();
    let mut last: HashMap<KeyHash, u32> = HashMap::new();
    let mut repeated = Vec::new();
    for (row, key) in (0_u32..).zip(&new) {
        if let Some(earlier) = first.get(key) {
            next.resize(new.len(), u32::MAX);
            let earlier = last.insert(*key, row).unwrap_or_else(|| {
                repeated.push(row as usize);
                *earlier
            });
            next[earlier as usize] = row;
        } else {
            first.insert(*key, row);
        }
    }
    remarks.extend(duplicates(after, &a_columns, &repeated, false));
    let mut pairs = Vec::with_capacity(old.len().min(new.len()));
    // What is taken is not there for a second row.
    for (row, key) in (0_u32..).zip(&old) {
        let Some(found) = first.get_mut(key) else { continue };
        if *found == u32::MAX {
            continue;
        }
        pairs.push((row, *found));
        *found = next.get(*found as usize).copied().unwrap_or(u32::MAX);
    }
    drop((first, next, last));
    remarks.splice(0..0, duplicates(before, &b_columns, &repeated_rows(&old), true));
    let elsewhere = elsewhere(&pairs);
    Matched { pairs, elsewhere, remarks }
}

/// A table and the columns of its key.
type KeyedTable<'k, 't> = (&'k Table<'t>, &'k [usize]);

/// The key that came last, and how many rows with it.
type LastKey = Option<(KeyHash, usize)>;

/// The same for more rows than fit into memory: their keys are sorted in runs on a disk.
fn on_disk(
    ((before, b_columns), (after, a_columns)): (KeyedTable<'_, '_>, KeyedTable<'_, '_>),
    hasher: &KeyHasher,
    scratch: &dyn Scratch,
    most: usize,
) -> io::Result<Matched> {
    let sorted = |table: &Table<'_>, columns: &[usize]| -> io::Result<Sorted> {
        let mut runs = Runs::new(scratch);
        let step = (most / 4).max(1);
        for first in (0..table.len()).step_by(step) {
            let rows = first..(first + step).min(table.len());
            let keys = hasher.rows(table, columns, rows.clone());
            runs.add(keys.into_iter().zip(rows.map(|row| row as u32)).collect())?;
        }
        runs.sorted()
    };
    let (mut old, mut new) = (sorted(before, b_columns)?, sorted(after, a_columns)?);
    let (mut b, mut a) = (old.next()?, new.next()?);
    let mut pairs: Vec<(u32, u32)> = Vec::new();
    let mut repeated = (Vec::new(), Vec::new());
    let mut last: (LastKey, LastKey) = (None, None);
    let note = |last: &mut LastKey, row: (KeyHash, u32), repeated: &mut Vec<usize>| {
        let times = last.filter(|(key, _)| *key == row.0).map_or(1, |(_, times)| times + 1);
        if times == 2 {
            repeated.push(row.1 as usize);
        }
        *last = Some((row.0, times));
    };
    while b.is_some() || a.is_some() {
        let (key_b, key_a) = (b.map(|row| row.0), a.map(|row| row.0));
        let (takes_b, takes_a) = match (key_b, key_a) {
            (Some(one), Some(other)) => (one <= other, other <= one),
            (one, other) => (one.is_some(), other.is_some()),
        };
        if let (true, true, Some(one), Some(other)) = (takes_b, takes_a, b, a) {
            pairs.push((one.1, other.1));
        }
        if let Some(row) = b.filter(|_| takes_b) {
            note(&mut last.0, row, &mut repeated.0);
            b = old.next()?;
        }
        if let Some(row) = a.filter(|_| takes_a) {
            note(&mut last.1, row, &mut repeated.1);
            a = new.next()?;
        }
    }
    pairs.sort_unstable();
    repeated.0.sort_unstable();
    repeated.1.sort_unstable();
    let remarks = duplicates(before, b_columns, &repeated.0, true);
    let remarks = remarks.into_iter().chain(duplicates(after, a_columns, &repeated.1, false)).collect();
    let elsewhere = elsewhere(&pairs);
    Ok(Matched { pairs, elsewhere, remarks })
}

/// The second row of each key that several rows have.
fn repeated_rows(keys: &[KeyHash]) -> Vec<usize> {
    let mut rows: Vec<u32> = (0..keys.len() as u32).collect();
    rows.sort_unstable_by_key(|row| (keys[*row as usize], *row));
    let mut found = Vec::new();
    for (at, pair) in rows.windows(2).enumerate() {
        let is_second = at == 0 || keys[rows[at - 1] as usize] != keys[pair[0] as usize];
        if keys[pair[0] as usize] == keys[pair[1] as usize] && is_second {
            found.push(pair[1] as usize);
        }
    }
    found.sort_unstable();
    found
}

fn duplicates(table: &Table<'_>, columns: &[usize], repeated: &[usize], is_before: bool) -> Option<TableRemark> {
    if repeated.is_empty() {
        return None;
    }
    let told = |row: &usize| (key_in_words(table, *row, columns), table.line(*row));
    let first = repeated.iter().take(MOST_TOLD).map(told).collect();
    Some(TableRemark::DuplicateKeys { is_before, keys: repeated.len(), first })
}

/// The cells of a key, one after the other.
fn key_in_words(table: &Table<'_>, row: usize, columns: &[usize]) -> String {
    let cells = table.cells(row);
    let words: Vec<String> = columns
        .iter()
        .map(|column| String::from_utf8_lossy(cells[*column].text().unwrap_or_default()).into_owned())
        .collect();
    words.join(" ")
}

/// Which pairs stand in another order than most.
fn elsewhere(pairs: &[(u32, u32)]) -> Vec<bool> {
    let mut elsewhere = vec![false; pairs.len()];
    if pairs.is_sorted_by_key(|(_, after)| *after) {
        return elsewhere;
    }
    let wide: Vec<(usize, usize)> = pairs.iter().enumerate().map(|(at, (_, after))| (at, *after as usize)).collect();
    elsewhere.fill(true);
    longest_chain(&wide).into_iter().for_each(|(at, _)| elsewhere[at] = false);
    elsewhere
}

/// Matches rows in their order: equal ones by our own alignment, and what lies between by what they share. Equal rows that are left over on
/// both sides stand elsewhere.
pub(super) fn in_order((before, after): (&Table<'_>, &Table<'_>), columns: &[ColumnPair]) -> Matched {
    let both = |pair: &&ColumnPair| pair.before.is_some() && pair.after.is_some() && pair.aside.is_none();
    let pairs: Vec<(usize, usize)> =
        columns.iter().filter(both).filter_map(|pair| Some((pair.before?, pair.after?))).collect();
    let (b_columns, a_columns): (Vec<usize>, Vec<usize>) = pairs.iter().copied().unzip();
    let hasher = KeyHasher::default();
    let narrow = |hashes: Vec<KeyHash>| hashes.into_iter().map(|hash| hash as u64).collect::<Vec<u64>>();
    let (old, new) = (narrow(hasher.column(before, &b_columns)), narrow(hasher.column(after, &a_columns)));
    let mut chain: Vec<(u32, u32)> = Vec::new();
    let (mut left_b, mut left_a) = (Vec::new(), Vec::new());
    let (mut at_b, mut at_a) = (0, 0);
    let ends = [(old.len()..old.len(), new.len()..new.len())];
    let stretches = align_items(&old, &new, &Bounds::default());
    // Equal rows first: a row that was carried elsewhere is no edit of its neighbour.
    let mut free: HashMap<u64, Vec<usize>> = HashMap::new();
    for (_, a) in stretches.iter().rev() {
        a.clone().rev().for_each(|row| free.entry(new[row]).or_default().push(row));
    }
    let mut carried: HashMap<usize, usize> = HashMap::new();
    for row in stretches.iter().flat_map(|(b, _)| b.clone()) {
        if let Some(other) = free.get_mut(&old[row]).and_then(Vec::pop) {
            carried.insert(row, other);
        }
    }
    let arrived: std::collections::HashSet<usize> = carried.values().copied().collect();
    for (b, a) in stretches.into_iter().chain(ends) {
        chain.extend((at_b..b.start).zip(at_a..a.start).map(|(b, a)| (b as u32, a as u32)));
        let rows_b: Vec<usize> = b.clone().filter(|row| !carried.contains_key(row)).collect();
        let rows_a: Vec<usize> = a.clone().filter(|row| !arrived.contains(row)).collect();
        let cells = |table: &Table<'_>, rows: &[usize], columns: &[usize]| -> Vec<Vec<Option<Vec<u8>>>> {
            let shown = &columns[..columns.len().min(MOST_WEIGHED_MEMBERS)];
            rows.iter()
                .map(|row| {
                    let cells = table.cells(*row);
                    shown.iter().map(|column| cells[*column].text().map(<[u8]>::to_vec)).collect()
                })
                .collect()
        };
        let (cells_b, cells_a) = (cells(before, &rows_b, &b_columns), cells(after, &rows_a, &a_columns));
        let alike = |x: usize, y: usize| share(&cells_b[x], &cells_a[y]);
        let (mut of_b, mut of_a) = (vec![false; rows_b.len()], vec![false; rows_a.len()]);
        for (x, y) in pair_alike((rows_b.len(), rows_a.len()), LEAST, alike) {
            (of_b[x], of_a[y]) = (true, true);
            chain.push((rows_b[x] as u32, rows_a[y] as u32));
        }
        left_b.extend(rows_b.iter().zip(&of_b).filter(|(_, paired)| !**paired).map(|(row, _)| *row));
        left_a.extend(rows_a.iter().zip(&of_a).filter(|(_, paired)| !**paired).map(|(row, _)| *row));
        (at_b, at_a) = (b.end, a.end);
    }
    chain.extend(carried.iter().map(|(b, a)| (*b as u32, *a as u32)));
    chain.sort_unstable();
    let elsewhere = elsewhere(&chain);
    Matched { pairs: chain, elsewhere, remarks: Vec::new() }
}

/// The share of cells that two rows have in common, empty ones left out.
fn share(one: &[Option<Vec<u8>>], other: &[Option<Vec<u8>>]) -> f32 {
    let is_filled = |cell: &Option<Vec<u8>>| cell.as_ref().is_some_and(|text| !text.is_empty());
    let (mut shared, mut all) = (0_usize, 0_usize);
    for (one, other) in one.iter().zip(other) {
        let filled = is_filled(one) || is_filled(other);
        all += usize::from(filled);
        shared += usize::from(filled && one == other);
    }
    if all == 0 { 0.0 } else { shared as f32 / all as f32 }
}
