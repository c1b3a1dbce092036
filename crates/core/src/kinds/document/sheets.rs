//! Sheets of two documents, each compared as a table.

use std::borrow::Cow;
use std::collections::HashSet;
use std::sync::Arc;

use super::extracted::{ExtractedPair, Sheet};
use super::formulas::mute_moved;
use super::sheet_pair::SheetPair;
use crate::internal::kinds::data::Failure;
use crate::internal::kinds::kind_options::KindOptions;
use crate::internal::kinds::table::{Table, compare_both, read_table};
use crate::internal::model::{Extent, Form, Unit, Weight};
use crate::internal::rules::{Account, Counted, FileRules};

/// Sheets of two documents.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct SheetsPair {
    /// The sheets in the order of the document after, those that are gone behind them.
    pub sheets: Vec<SheetPair>,
    /// What the documents are.
    pub extracted: ExtractedPair,
    /// What does not count.
    pub account: Account,
}

impl SheetsPair {
    /// Whether anything differs that counts.
    pub fn differs(&self) -> bool {
        self.sheets.iter().any(|sheet| sheet.form.is_some() || sheet.found.differs())
    }

    /// How much differs, in cells.
    pub fn extent(&self) -> Extent {
        let mut all = Extent { unit: Unit::Cells, ..Extent::default() };
        for sheet in &self.sheets {
            for change in &sheet.found.changes {
                if change.weight == Weight::Muted {
                    all.muted += 1;
                    continue;
                }
                all.counted += 1;
                let own = |row: Option<usize>, table: &Table<'_>| row.map_or(0, |row| table.cells(row).len());
                let edited = change.cells.iter().filter(|cell| cell.weight == Weight::Counted).count();
                let (gone, new) = match change.form {
                    Form::Edited => (edited, edited),
                    Form::Moved => (0, 0),
                    Form::Gone => (own(change.before, &sheet.before), 0),
                    Form::New => (0, own(change.after, &sheet.after)),
                };
                all.gone += gone;
                all.new += new;
                all.size += gone.max(new).max(1);
            }
        }
        all
    }
}

/// Compares the sheets of two documents, by their names.
pub(super) fn compare_sheets(
    (before, after): (&[Sheet], &[Sheet]),
    extracted: ExtractedPair,
    how: (&KindOptions, (&Arc<FileRules>, &Arc<FileRules>), bool),
) -> Result<SheetsPair, (bool, Failure)> {
    let named = |sheets: &[Sheet], name: &str| sheets.iter().position(|sheet| sheet.name == name);
    let after_names: HashSet<&str> = after.iter().map(|sheet| sheet.name.as_str()).collect();
    let gone = before.iter().filter(|sheet| !after_names.contains(sheet.name.as_str()));
    let mut pairs: Vec<(Option<&Sheet>, Option<&Sheet>)> =
        after.iter().map(|sheet| (named(before, &sheet.name).map(|at| &before[at]), Some(sheet))).collect();
    pairs.extend(gone.map(|sheet| (Some(sheet), None)));
    let mut sheets = Vec::new();
    let mut number = 0;
    let mut account = Account::counting(Counted::Rows);
    for (old, new) in pairs {
        let mut pair = one_sheet(old, new, how)?;
        mute_moved(&mut pair, how.2);
        for change in &mut pair.found.changes {
            number += 1;
            change.number = number;
        }
        account.add(&pair.found.account);
        sheets.push(pair);
    }
    Ok(SheetsPair { sheets, extracted, account })
}

fn one_sheet(
    before: Option<&Sheet>,
    after: Option<&Sheet>,
    (how, rules, counted_only): (&KindOptions, (&Arc<FileRules>, &Arc<FileRules>), bool),
) -> Result<SheetPair, (bool, Failure)> {
    let form = match (before, after) {
        (Some(_), None) => Some(Form::Gone),
        (None, Some(_)) => Some(Form::New),
        _ => None,
    };
    let has_header = [before, after].into_iter().flatten().all(|sheet| sheet.has_header);
    let how = how.clone().delimiter(Some(b',')).no_header(Some(how.has_no_header.unwrap_or(!has_header)));
    let read = |sheet: Option<&Sheet>, other: Option<&Sheet>, is_before: bool| {
        let text: Vec<u8> = match (sheet, other) {
            (Some(sheet), _) => sheet.text.clone(),
            // A sheet that one side alone has is compared with one of the same columns and no rows.
            (None, Some(other)) if has_header => {
                other.text.split_inclusive(|byte| *byte == b'\n').next().unwrap_or_default().to_vec()
            }
            (None, _) => Vec::new(),
        };
        read_table("sheet.csv", Cow::Owned(text), &how, is_before).map_err(|failure| (is_before, failure))
    };
    let (one, other) = (read(before, after, true)?, read(after, before, false)?);
    // A column that only one of two sheets without names has is told by its cells.
    let how = if known_key(&how, &one, &other) { how } else { how.key(Vec::new()) };
    let found = compare_both(&one, &other, (&how, rules, counted_only))?;
    let origin = |sheet: Option<&Sheet>| sheet.map_or((0, 0), |sheet| (sheet.first_row, sheet.first_column));
    Ok(SheetPair {
        name: after.or(before).map(|sheet| sheet.name.clone()).unwrap_or_default(),
        form,
        before: Arc::new(one),
        after: Arc::new(other),
        origins: (origin(before), origin(after)),
        found,
    })
}

/// Whether both sheets have the columns of the key that was asked for: others of the same document need not.
fn known_key(how: &KindOptions, before: &Table<'_>, after: &Table<'_>) -> bool {
    how.key.iter().all(|name| before.names().contains(name) && after.names().contains(name))
}
