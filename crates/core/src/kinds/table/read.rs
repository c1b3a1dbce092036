//! Tables read by what their names and contents say they are.

use std::borrow::Cow;

use super::contents::Table;
use super::delimited::found_delimiter;
use super::found::{NoColumn, compare_tables};
use crate::internal::kinds::data::{DataFormat, Failure, format_of, read_document};
use crate::internal::kinds::kind_options::KindOptions;
use crate::internal::kinds::values::BothRules;
use crate::internal::model::table::TableComparison;
use crate::internal::text::file_type::FileType;

/// Reads a table.
///
/// # Errors
/// When it is none: what is wrong, and where.
pub fn read_table<'t>(
    name: &str,
    text: Cow<'t, [u8]>,
    options: &KindOptions,
    is_before: bool,
) -> Result<Table<'t>, Failure> {
    if options.delimiter.is_none()
        && let Some(format @ (DataFormat::Json | DataFormat::JsonLines)) = format_of(name, &text)
        && !is_delimited_name(name)
    {
        let document = read_document(text.clone(), format)?;
        let table = Table::records(document, text);
        return table.ok_or_else(|| Failure { at: 0, reason: "this is no list of records".to_owned() });
    }
    let delimiter = options.delimiter.unwrap_or_else(|| found_delimiter(name, &text));
    Ok(Table::delimited(text, delimiter, options.has_no_header != Some(true), is_before))
}

/// Whether a name is one of text with delimiters.
pub fn is_delimited_name(name: &str) -> bool {
    let (_, ending) = FileType::name_and_ending(name);
    matches!(ending.to_ascii_lowercase().as_str(), "csv" | "tsv" | "tab" | "psv")
}

/// Whether a table is one that a reader would take for one without being told: one with several columns, whose records hold values only.
pub(in crate::internal::kinds) fn is_plain_table(table: &Table<'_>) -> bool {
    !table.is_empty() && table.names().len() > 1 && table.is_flat()
}

/// Compares two tables.
pub(in crate::internal::kinds) fn compare_both(
    before: &Table<'_>,
    after: &Table<'_>,
    how: (&KindOptions, BothRules<'_>, bool),
) -> Result<TableComparison, (bool, Failure)> {
    compare_tables(before, after, how).map_err(|NoColumn { name, is_before }| {
        let names = if is_before { before.names() } else { after.names() };
        (
            is_before,
            Failure {
                at: 0,
                reason: format!("there is no column `{name}` for the key; columns are {}", names.join(", ")),
            },
        )
    })
}
