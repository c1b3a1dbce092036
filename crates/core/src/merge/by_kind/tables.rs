//! Three tables merged by key, cell by cell.

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet, HashMap};

use super::three::{ByKind, Versions};
use crate::internal::kinds::KindOptions;
use crate::internal::kinds::table::{Cell, Table, key_of_three, read_table};
use crate::internal::merge::take_rows::put_together;
use crate::internal::model::Kind;

/// Whose row is written where both changed one.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Version {
    Base,
    Mine,
    Theirs,
}

type Key = Vec<Vec<u8>>;

/// Merges three tables; nothing where they are not text with delimiters, have other columns, or no key that is unique in all of them.
pub(super) fn merge_tables(
    name: &str,
    (base, mine, theirs): (&[u8], &[u8], &[u8]),
    how: &KindOptions,
) -> Option<Versions> {
    let read = |text: &'_ [u8]| read_table(name, Cow::Owned(text.to_vec()), how, true).ok();
    let tables = Tables { base: read(base)?, mine: read(mine)?, theirs: read(theirs)? };
    tables.mine.delimiter()?;
    let is_alike = tables.base.names() == tables.mine.names() && tables.mine.names() == tables.theirs.names();
    if !is_alike {
        return None;
    }
    let key = key_of_three([&tables.base, &tables.mine, &tables.theirs], how)?;
    let rows = [&tables.base, &tables.mine, &tables.theirs].map(|table| by_key(table, &key));
    let [Some(base), Some(mine), Some(theirs)] = rows else { return None };
    let write = |version: Version| tables.written(&base, &mine, &theirs, version);
    let (mine_text, taken, conflicts) = write(Version::Mine)?;
    let by = ByKind { kind: Kind::Table, taken, conflicts };
    let (base_text, theirs_text) = if conflicts == 0 {
        (mine_text.clone(), mine_text.clone())
    } else {
        (write(Version::Base)?.0, write(Version::Theirs)?.0)
    };
    Some(Versions { base: base_text, mine: mine_text, theirs: theirs_text, by })
}

/// The rows of a table by their keys; nothing where two have one key.
fn by_key(table: &Table<'_>, key: &[usize]) -> Option<HashMap<Key, usize>> {
    let mut rows = HashMap::with_capacity(table.len());
    for row in 0..table.len() {
        let cells = table.cells(row);
        let own: Key = key.iter().map(|column| cells[*column].text().unwrap_or_default().to_vec()).collect();
        if rows.insert(own, row).is_some() {
            return None;
        }
    }
    Some(rows)
}

struct Tables<'t> {
    base: Table<'t>,
    mine: Table<'t>,
    theirs: Table<'t>,
}

impl Tables<'_> {
    /// Mine with what theirs changed, and what a version has where both changed something; how many changes came in, and how many conflicts
    /// there are.
    fn written(
        &self,
        base: &HashMap<Key, usize>,
        mine: &HashMap<Key, usize>,
        theirs: &HashMap<Key, usize>,
        version: Version,
    ) -> Option<(Vec<u8>, usize, usize)> {
        let delimiter = self.mine.delimiter()?;
        let (mut taken, mut conflicts) = (0, 0);
        let mut rewritten: BTreeMap<usize, Vec<u8>> = BTreeMap::new();
        let mut removed: BTreeSet<usize> = BTreeSet::new();
        let mut inserted: BTreeMap<Option<usize>, Vec<Vec<u8>>> = BTreeMap::new();
        for (key, own) in mine {
            match (base.get(key), theirs.get(key)) {
                (b, Some(t)) => {
                    let old = b.map(|b| self.base.cells(*b));
                    let (ours, new) = (self.mine.cells(*own), self.theirs.cells(*t));
                    let (cells, came, clashes) = merged_cells(old.as_deref(), &ours, &new, version);
                    taken += usize::from(came);
                    conflicts += usize::from(clashes);
                    if cells != ours {
                        rewritten.insert(*own, self.with_cells(*own, &ours, &cells, delimiter));
                    }
                }
                (Some(b), None) => {
                    let (old, ours) = (self.base.cells(*b), self.mine.cells(*own));
                    if old == ours {
                        taken += 1;
                        removed.insert(*own);
                        continue;
                    }
                    conflicts += 1;
                    match version {
                        Version::Mine => {}
                        Version::Base => drop(rewritten.insert(*own, self.with_cells(*own, &ours, &old, delimiter))),
                        Version::Theirs => drop(removed.insert(*own)),
                    }
                }
                (None, None) => {}
            }
        }
        // Rows of theirs that mine lacks, behind the row that they stand behind there.
        let mut behind = None;
        let own_of: HashMap<usize, &Key> = theirs.iter().map(|(key, row)| (*row, key)).collect();
        for row in 0..self.theirs.len() {
            let key = own_of[&row];
            if let Some(own) = mine.get(key) {
                behind = Some(*own);
                continue;
            }
            let cells = self.theirs.cells(row);
            let comes = match base.get(key) {
                None => {
                    taken += 1;
                    Some(cells)
                }
                Some(b) if self.base.cells(*b) == cells => None,
                Some(b) => {
                    conflicts += 1;
                    match version {
                        Version::Mine => None,
                        Version::Base => Some(self.base.cells(*b)),
                        Version::Theirs => Some(cells),
                    }
                }
            };
            if let Some(cells) = comes {
                inserted.entry(behind).or_default().push(whole(&cells, delimiter));
            }
        }
        Some((put_together(&self.mine, &rewritten, &removed, &inserted), taken, conflicts))
    }

    /// A row of mine with other cells; those that are the same stay as they are written.
    fn with_cells(&self, row: usize, ours: &[Cell<'_>], cells: &[Cell<'_>], delimiter: u8) -> Vec<u8> {
        let source = self.mine.source(row);
        let raw = self.mine.raw_cells(row);
        let written = |at: usize| -> Vec<u8> {
            match raw.get(at) {
                Some(place) if ours[at] == cells[at] => source[place.clone()].to_vec(),
                _ => Table::written_cell(cells[at].text().unwrap_or_default(), delimiter).into_owned(),
            }
        };
        let last = cells.iter().rposition(|cell| *cell != Cell::Missing).map_or(0, |last| last + 1);
        (0..last).map(written).collect::<Vec<_>>().join(&delimiter)
    }
}

/// The cells of a row that both sides have, whether any came from theirs, and whether any clash.
fn merged_cells<'c>(
    base: Option<&[Cell<'c>]>,
    mine: &[Cell<'c>],
    theirs: &[Cell<'c>],
    version: Version,
) -> (Vec<Cell<'c>>, bool, bool) {
    let (mut came, mut clashes) = (false, false);
    let cell = |at: usize| {
        let (own, other) = (&mine[at], &theirs[at]);
        let old = base.map(|base| &base[at]);
        if own == other || old == Some(other) {
            return own.clone();
        }
        if old == Some(own) {
            came = true;
            return other.clone();
        }
        clashes = true;
        match (version, old) {
            (Version::Theirs, _) => other.clone(),
            (Version::Base, Some(old)) => old.clone(),
            _ => own.clone(),
        }
    };
    let cells = (0..mine.len()).map(cell).collect();
    (cells, came, clashes)
}

fn whole(cells: &[Cell<'_>], delimiter: u8) -> Vec<u8> {
    let last = cells.iter().rposition(|cell| *cell != Cell::Missing).map_or(0, |last| last + 1);
    let cell = |cell: &Cell<'_>| Table::written_cell(cell.text().unwrap_or_default(), delimiter).into_owned();
    cells[..last].iter().map(cell).collect::<Vec<_>>().join(&delimiter)
}
