//! What differs between two tables.

use serde::{Deserialize, Serialize};

use super::{Extent, Form, Unit, Weight};
use crate::internal::rules::Account;

/// A column of two tables.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct ColumnPair {
    /// Its name; after, where it was renamed.
    pub name: String,
    /// Its name before, where it was renamed.
    pub renamed_from: Option<String>,
    /// Its index before, if it is there.
    pub before: Option<usize>,
    /// Its index after, if it is there.
    pub after: Option<usize>,
    /// Whether it stands elsewhere among the columns that both have.
    pub is_moved: bool,
    /// Whether it is a part of the key.
    pub is_key: bool,
    /// The rule that leaves the column aside, and whether it is shown all the same.
    pub aside: Option<(String, bool)>,
    /// What its cells are taken as.
    pub cells: CellType,
    /// Rows that both have in which its cells differ and count.
    pub edited: usize,
    /// Rows in which they differ and do not count.
    pub muted: usize,
}

impl ColumnPair {
    /// What happened to the column itself, if anything.
    pub fn form(&self) -> Option<Form> {
        match (self.before, self.after) {
            (Some(_), None) => Some(Form::Gone),
            (None, Some(_)) => Some(Form::New),
            _ if self.renamed_from.is_some() => Some(Form::Edited),
            _ if self.is_moved => Some(Form::Moved),
            _ => None,
        }
    }
}

/// What cells are taken as.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum CellType {
    /// As text.
    #[default]
    Text,
    /// As numbers: every cell of the column on both sides is one.
    Number,
    /// As dates.
    Date,
}

/// A cell that differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct CellChange {
    /// Its column, by the index in [`TableComparison::columns`].
    pub column: usize,
    /// Whether it counts.
    pub weight: Weight,
    /// What mutes it.
    pub cause: Option<String>,
}

/// A row that differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct RowChange {
    /// Its number in its file, from 1.
    pub number: usize,
    /// What happened.
    pub form: Form,
    /// Whether it counts.
    pub weight: Weight,
    /// The row before, from 0.
    pub before: Option<usize>,
    /// The row after, from 0.
    pub after: Option<usize>,
    /// The cells that differ, where both sides have the row.
    pub cells: Vec<CellChange>,
}

/// How rows were matched.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub enum RowMatch {
    /// In order, by how similar they are.
    #[default]
    InOrder,
    /// By columns, which are indexes in [`TableComparison::columns`].
    Key {
        /// The columns.
        columns: Vec<usize>,
        /// Whether they were found, not told.
        is_found: bool,
    },
}

impl RowMatch {
    /// The columns of the key; none where rows were matched in order.
    pub fn key(&self) -> &[usize] {
        match self {
            Self::InOrder => &[],
            Self::Key { columns, .. } => columns,
        }
    }
}

/// Something to know of a table besides what differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum TableRemark {
    /// Rows with more or fewer cells than the table has columns: how many, and the first of them with their lines and cells.
    Ragged {
        /// Whether it is the side before.
        is_before: bool,
        /// How many rows.
        rows: usize,
        /// Lines of the first ones, from 1, with the number of their cells.
        first: Vec<(usize, usize)>,
        /// How many columns the table has.
        columns: usize,
    },
    /// Keys that several rows of a side have: how many, and the first of them with the line of its second row.
    DuplicateKeys {
        /// Whether it is the side before.
        is_before: bool,
        /// How many keys.
        keys: usize,
        /// The first of them, and the line of the row that has it again.
        first: Vec<(String, usize)>,
    },
    /// A quote that is never closed, by the line where the row begins.
    OpenQuote {
        /// Whether it is the side before.
        is_before: bool,
        /// The line, from 1.
        line: usize,
    },
}

/// What differs between two tables.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct TableComparison {
    /// The columns of both, those that only before has where they stood.
    pub columns: Vec<ColumnPair>,
    /// How rows were matched.
    pub matched: RowMatch,
    /// How many rows there are before and after.
    pub rows: (usize, usize),
    /// The rows that belong together, in the order of the rows before.
    pub pairs: Vec<(u32, u32)>,
    /// The changes by number.
    pub changes: Vec<RowChange>,
    /// What there is to know besides.
    pub remarks: Vec<TableRemark>,
    /// What does not count: by rules, and by what tables mean.
    pub account: Account,
    /// How many changes are muted and left out.
    pub hidden: usize,
}

impl TableComparison {
    /// Columns that came, went, moved or were renamed, and that count.
    pub fn column_changes(&self) -> impl Iterator<Item = (&ColumnPair, Form)> {
        let told = self.columns.iter().filter(|column| column.aside.is_none());
        told.filter_map(|column| Some((column, column.form()?)))
    }

    /// Whether anything differs that counts.
    pub fn differs(&self) -> bool {
        self.changes.iter().any(|change| change.weight == Weight::Counted) || self.column_changes().next().is_some()
    }

    /// How much differs, in rows.
    pub fn extent(&self) -> Extent {
        let mut extent = Extent { unit: Unit::Rows, ..Extent::default() };
        for change in &self.changes {
            if change.weight == Weight::Muted {
                extent.muted += 1;
                continue;
            }
            extent.counted += 1;
            extent.size += 1;
            extent.gone += usize::from(matches!(change.form, Form::Gone | Form::Edited));
            extent.new += usize::from(matches!(change.form, Form::New | Form::Edited));
        }
        extent
    }

    /// Rows of each form that count: edited, new, gone, moved.
    pub fn counts(&self, form: Form) -> usize {
        self.changes.iter().filter(|change| change.weight == Weight::Counted && change.form == form).count()
    }
}
