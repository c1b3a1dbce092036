//! The columns of two tables: which of one is which of the other.

use std::collections::HashMap;

use foldhash::fast::FixedState;

use super::contents::{Cell, Table};
use crate::internal::align::longest_chain;
use crate::internal::model::table::{CellType, ColumnPair};
use crate::internal::rules::{Effect, FileRules};

/// So many rows tell whether two columns hold the same under two names.
const SAMPLED_ROWS: usize = 20_000;
/// So many columns of either side are looked at for that.
const MOST_RENAMED: usize = 32;
/// The share of equal values that makes it one column.
const SAME: f64 = 0.9;
/// Columns with fewer different values are only known by having the same ones in the same rows.
const FEW_VALUES: usize = 8;

/// Pairs the columns of two tables: those that only before has stand where they stood.
pub(super) fn pair_columns(before: &Table<'_>, after: &Table<'_>, rules: &FileRules) -> Vec<ColumnPair> {
    if let Some(columns) = of_one_side(before, after, rules) {
        return columns;
    }
    let places: HashMap<&str, usize> = after.names().iter().enumerate().map(|(at, name)| (name.as_str(), at)).collect();
    let mut partner: Vec<Option<usize>> =
        before.names().iter().map(|name| places.get(name.as_str()).copied()).collect();
    let renamed = renamed((before, after), &partner);
    for (b, a) in &renamed {
        partner[*b] = Some(*a);
    }
    let pairs: Vec<(usize, usize)> = partner.iter().enumerate().filter_map(|(b, a)| Some((b, (*a)?))).collect();
    let chain = chain_of(&pairs, before.text() > after.text());
    let pair = |b: Option<usize>, a: Option<usize>| {
        let name = a.map(|a| &after.names()[a]).or(b.map(|b| &before.names()[b])).cloned().unwrap_or_default();
        let old = b.filter(|_| a.is_some()).map(|b| before.names()[b].clone()).filter(|old| *old != name);
        let rule = rules.of_column(&name).or_else(|| old.as_deref().and_then(|old| rules.of_column(old)));
        let is_moved = match (b, a) {
            (Some(b), Some(a)) => !chain.contains(&(b, a)),
            _ => false,
        };
        ColumnPair {
            name,
            renamed_from: old,
            before: b,
            after: a,
            is_moved,
            is_key: false,
            aside: rule.map(|rule| (rule.name().to_owned(), rule.effect() == Effect::Mute)),
            cells: CellType::Text,
            edited: 0,
            muted: 0,
        }
    };
    let mut columns = Vec::new();
    let mut told = vec![false; after.names().len()];
    pairs.iter().for_each(|(_, a)| told[*a] = true);
    let mut next = 0;
    let mut new_upto = |upto: usize, columns: &mut Vec<ColumnPair>| {
        while next < upto {
            if !told[next] {
                columns.push(pair(None, Some(next)));
            }
            next += 1;
        }
    };
    for (b, a) in partner.iter().enumerate() {
        if let Some(a) = a.filter(|a| chain.contains(&(b, *a))) {
            new_upto(a, &mut columns);
        }
        columns.push(pair(Some(b), *a));
    }
    new_upto(after.names().len(), &mut columns);
    columns
}

/// The columns of a table whose other side holds nothing: all that there is to tell is its rows.
fn of_one_side(before: &Table<'_>, after: &Table<'_>, rules: &FileRules) -> Option<Vec<ColumnPair>> {
    let is_blank = |table: &Table<'_>| table.text().trim_ascii().is_empty();
    let names = match (is_blank(before), is_blank(after)) {
        (true, false) => after.names(),
        (false, true) => before.names(),
        _ => return None,
    };
    let column = |(at, name): (usize, &String)| ColumnPair {
        name: name.clone(),
        renamed_from: None,
        before: Some(at),
        after: Some(at),
        is_moved: false,
        is_key: false,
        aside: rules.of_column(name).map(|rule| (rule.name().to_owned(), rule.effect() == Effect::Mute)),
        cells: CellType::Text,
        edited: 0,
        muted: 0,
    };
    Some(names.iter().enumerate().map(column).collect())
}

/// The columns that stand in the same order on both sides. The sides exchanged give the same columns.
fn chain_of(pairs: &[(usize, usize)], is_mirrored: bool) -> Vec<(usize, usize)> {
    if !is_mirrored {
        return longest_chain(pairs);
    }
    let mut exchanged: Vec<(usize, usize)> = pairs.iter().map(|(b, a)| (*a, *b)).collect();
    exchanged.sort_unstable();
    longest_chain(&exchanged).into_iter().map(|(a, b)| (b, a)).collect()
}

/// Columns that hold the same values under two names.
fn renamed((before, after): (&Table<'_>, &Table<'_>), partner: &[Option<usize>]) -> Vec<(usize, usize)> {
    let gone: Vec<usize> = (0..partner.len()).filter(|b| partner[*b].is_none()).take(MOST_RENAMED).collect();
    let is_new = |a: &usize| !partner.contains(&Some(*a));
    let new: Vec<usize> = (0..after.names().len()).filter(is_new).take(MOST_RENAMED).collect();
    if gone.is_empty() || new.is_empty() {
        return Vec::new();
    }
    let (old, fresh) = (values(before, &gone), values(after, &new));
    let mut found: Vec<(usize, usize)> = Vec::new();
    for (at, b) in gone.iter().enumerate() {
        let is_free = |other: &usize| !found.iter().any(|(_, a)| *a == new[*other]);
        let best = (0..new.len()).filter(is_free).map(|other| (other, alike(&old[at], &fresh[other])));
        let best = best.filter(|(_, alike)| *alike >= SAME).max_by(|one, other| one.1.total_cmp(&other.1));
        if let Some((other, _)) = best {
            found.push((*b, new[other]));
        }
    }
    found
}

/// The hashes of the values of some columns, row by row; 0 stands for none.
fn values(table: &Table<'_>, columns: &[usize]) -> Vec<Vec<u64>> {
    use std::hash::{BuildHasher, Hasher};
    let hash = |cell: &Cell<'_>| match cell.text() {
        Some(text) if !text.is_empty() => {
            let mut hasher = FixedState::default().build_hasher();
            hasher.write(text);
            hasher.finish().max(1)
        }
        _ => 0,
    };
    let mut values = vec![Vec::new(); columns.len()];
    let mut cells = Vec::new();
    for row in 0..table.len().min(SAMPLED_ROWS) {
        table.read_cells(row, &mut cells);
        for (values, column) in values.iter_mut().zip(columns) {
            values.push(hash(&cells[*column]));
        }
    }
    values
}

/// The share of values that two columns have in common.
fn alike(one: &[u64], other: &[u64]) -> f64 {
    let filled = |values: &[u64]| values.iter().filter(|value| **value != 0).count();
    let most = filled(one).max(filled(other));
    if most == 0 {
        return 0.0;
    }
    let in_place = one.iter().zip(other).filter(|(one, other)| one == other && **one != 0).count();
    let mut counts: HashMap<u64, usize> = HashMap::new();
    one.iter().filter(|value| **value != 0).for_each(|value| *counts.entry(*value).or_default() += 1);
    let shared = if counts.len() < FEW_VALUES {
        0
    } else {
        let take = |value: &&u64| match counts.get_mut(value) {
            Some(left) if *left > 0 => {
                *left -= 1;
                true
            }
            _ => false,
        };
        let mut take = take;
        other.iter().filter(|value| take(value)).count()
    };
    in_place.max(shared) as f64 / most as f64
}
