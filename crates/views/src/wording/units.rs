//! What the size of a difference is counted in, in words.

use tideline_core::internal::model::Unit;

/// One of what is counted.
pub(crate) fn unit_in_words(unit: Unit) -> &'static str {
    match unit {
        Unit::Rows => "row",
        Unit::Nodes => "value",
        Unit::Bytes => "byte",
        Unit::Pixels => "pixel",
        Unit::Cells => "cell",
        Unit::Paragraphs => "paragraph",
        _ => "line",
    }
}
