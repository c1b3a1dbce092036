//! Whether two texts that were compared by lines would differ in much less if they were compared as what they are.

use super::comparison::{Comparison, compare_named};
use super::data::format_of;
use super::options::{ContentOptions, WantedKind};
use super::table::is_delimited_name;
use crate::internal::model::{Kind, TextComparison};

/// Texts of more bytes, both sides together, are not looked at a second time.
const LARGEST: usize = 8 << 20;
/// Fewer lines that differ are read as fast as a hint.
const FEWEST: usize = 4;
/// So many times less is much less.
const MUCH: usize = 4;

/// What would come of another kind.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct KindHint {
    /// The kind.
    pub kind: Kind,
    /// How many rows or values would differ and count.
    pub counted: usize,
    /// How many lines do.
    pub lines: usize,
}

/// The kind by which two texts would differ in much less, if there is one and nobody said how they are to be compared.
pub fn kind_hint(
    names: (&[u8], &[u8]),
    bytes: (&[u8], &[u8]),
    found: &TextComparison,
    options: &ContentOptions,
) -> Option<KindHint> {
    let name = String::from_utf8_lossy(names.1);
    let lines = found.differing_lines();
    let is_known = is_delimited_name(&name) || format_of(&name, b"").is_some();
    if !is_known || lines < FEWEST || bytes.0.len() + bytes.1.len() > LARGEST || options.says_kind(names.1) {
        return None;
    }
    let structured = options.clone().kind(Some(WantedKind::Auto));
    let comparison = compare_named(names, bytes, &structured);
    let (counted, columns) = match &comparison {
        Comparison::Table(tables) => (tables.found.extent().counted, tables.found.column_changes().count()),
        Comparison::Data(documents) => (documents.found.extent().counted, 0),
        _ => return None,
    };
    let is_much_less = (counted + columns) * MUCH <= lines;
    is_much_less.then_some(KindHint { kind: comparison.kind(), counted, lines })
}
