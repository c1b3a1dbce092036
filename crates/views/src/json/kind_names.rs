//! What contents are compared as, and what is counted of them, as records name it.

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use tideline_core::internal::model::Kind;

/// How the contents of a pair were compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum PairKind {
    /// Line by line.
    Text,
    /// Row by row and cell by cell.
    Table,
    /// Node by node, by what the document means.
    Data,
    /// Pixel by pixel.
    Image,
    /// Byte by byte.
    Bytes,
}

/// The name of a kind.
pub(super) fn kind_name(kind: Kind) -> PairKind {
    match kind {
        Kind::Text => PairKind::Text,
        Kind::Table => PairKind::Table,
        Kind::Data => PairKind::Data,
        Kind::Image => PairKind::Image,
        Kind::Bytes => PairKind::Bytes,
    }
}

/// What is counted in place of lines.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum UnitName {
    /// Rows of a table.
    Rows,
    /// Values of a document.
    Values,
    /// Bytes.
    Bytes,
    /// Pixels.
    Pixels,
    /// Cells of sheets.
    Cells,
    /// Paragraphs of a document, or its lines.
    Paragraphs,
}
