//! The records of tables and documents.

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use tideline_core::internal::model::table::CellType;
use tideline_core::internal::model::{Form, Weight};

#[cfg(feature = "schema")]
use super::names::{FormName, WeightName};
use super::value::TextOrBytes;

/// A column of two tables in which something differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct ColumnRecord {
    /// The path of its pair.
    pub path: TextOrBytes,
    /// Its name; after, where it was renamed.
    pub name: String,
    /// What happened to the column itself: gone, new, moved, or edited where it was renamed; null where nothing did.
    #[cfg_attr(feature = "schema", schemars(with = "Option<FormName>"))]
    pub form: Option<Form>,
    /// Its name before, where it was renamed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub renamed_from: Option<String>,
    /// What its cells are taken as.
    #[cfg_attr(feature = "schema", schemars(with = "CellTypeName"))]
    pub cells: CellType,
    /// Rows in which its cells differ and count.
    pub edited: usize,
    /// Rows in which they differ and are muted.
    pub muted: usize,
    /// The rule that leaves it aside.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rule: Option<String>,
}

/// A row that differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct RowRecord {
    /// The path of its pair.
    pub path: TextOrBytes,
    /// The sheet that it is in, of a workbook.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sheet: Option<String>,
    /// Its number in its file, from 1.
    pub number: usize,
    /// What happened.
    #[cfg_attr(feature = "schema", schemars(with = "FormName"))]
    pub form: Form,
    /// Whether it counts.
    #[cfg_attr(feature = "schema", schemars(with = "WeightName"))]
    pub weight: Weight,
    /// The columns of the key and their values; none where rows were matched in order.
    pub key: Vec<KeyRecord>,
    /// Where it is before.
    pub before: Option<RowPlaceRecord>,
    /// Where it is after.
    pub after: Option<RowPlaceRecord>,
    /// The cells that differ; of a row that one side alone has, all of them.
    pub cells: Vec<CellRecord>,
}

/// A column of a key, and its value.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct KeyRecord {
    /// The column.
    pub column: String,
    /// Its value.
    pub value: Option<TextOrBytes>,
}

/// Where a row is.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct RowPlaceRecord {
    /// The row, from 1; the one that names the columns does not count.
    pub row: usize,
    /// The line where it begins, from 1.
    pub line: usize,
}

/// A cell.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct CellRecord {
    /// Its column.
    pub column: String,
    /// Its name in its sheet, of a workbook: `C7`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cell: Option<String>,
    /// What it was; null where there is no such cell, or where it holds the null of its format.
    pub before: Option<TextOrBytes>,
    /// What it is.
    pub after: Option<TextOrBytes>,
    /// Whether it counts.
    #[cfg_attr(feature = "schema", schemars(with = "WeightName"))]
    pub weight: Weight,
    /// What mutes it: a rule, a tolerance, how a number is written.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rule: Option<String>,
}

/// A node of two documents that differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct NodeRecord {
    /// The path of its pair.
    pub path: TextOrBytes,
    /// Its number in its file, from 1.
    pub number: usize,
    /// What happened.
    #[cfg_attr(feature = "schema", schemars(with = "FormName"))]
    pub form: Form,
    /// Whether it counts.
    #[cfg_attr(feature = "schema", schemars(with = "WeightName"))]
    pub weight: Weight,
    /// What mutes it: a rule, a tolerance.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rule: Option<String>,
    /// Where and what it was.
    pub before: Option<NodeSide>,
    /// Where and what it is.
    pub after: Option<NodeSide>,
}

/// A node on one side.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct NodeSide {
    /// Its path: a JSON Pointer (RFC 6901); of XML the names of elements, with their positions.
    pub pointer: String,
    /// Its first line, from 1.
    pub line: usize,
    /// Its last line.
    pub last_line: usize,
    /// What it is: null, boolean, number, text, date, list, map, element, attribute, comment, instruction.
    pub kind: String,
    /// The value of a leaf, without quotes and escapes; null of a list, a map or an element.
    pub value: Option<String>,
    /// How it is written, its name left out.
    pub source: TextOrBytes,
}

#[cfg(feature = "schema")]
#[derive(JsonSchema)]
#[schemars(rename_all = "lowercase")]
#[expect(dead_code, reason = "only its schema is used")]
/// What cells of a column are taken as.
enum CellTypeName {
    Text,
    Number,
    Date,
}
