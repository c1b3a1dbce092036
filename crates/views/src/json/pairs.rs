//! A pair of entries as a record.

use std::time::SystemTime;

use jiff::Timestamp;
use tideline_core::internal::kinds::Comparison;
use tideline_core::internal::model::{MovedBlock, Status, Unit};
use tideline_core::internal::text::encoding::TextEncoding;
use tideline_core::internal::tree::{Attribute, EntryMetadata, EntryType, Pair};

use super::kind_names::{UnitName, kind_name};
use super::records::{AttributeName, EntryName, MovedBlockRecord, PairRecord, PairSide, Side};
use super::value::{TextOrBytes, text};
use crate::wording::document::document_line;
use crate::wording::encodings::unparsed_in_words;
use crate::wording::tree::note;

/// What is known of one side of a pair besides its contents.
#[derive(Clone, Copy, Debug, Default)]
pub struct SideMetadata {
    /// Its size in bytes.
    pub size: u64,
    /// When it was last changed.
    pub modified: Option<SystemTime>,
}

/// The record of a pair of files.
pub fn pair(
    path: &str,
    status: Status,
    comparison: &Comparison<'_>,
    sides: (SideMetadata, SideMetadata),
    attributes: &[Attribute],
) -> PairRecord {
    let extent = comparison.extent();
    let (before, after) = match comparison {
        // What was taken out of a document is written in nothing.
        Comparison::Text(texts) if texts.extracted.is_some() => (None, None),
        Comparison::Text(texts) => encodings_of(texts.encodings),
        Comparison::Table(tables) => encodings_of(tables.encodings),
        Comparison::Data(documents) => encodings_of(documents.encodings),
        Comparison::Sheets(_) | Comparison::Image(_) | Comparison::Bytes(_) => (None, None),
    };
    PairRecord {
        path: TextOrBytes::Text(path.to_owned()),
        status,
        entry: EntryName::File,
        kind: Some(kind_name(comparison.kind())),
        lines: extent.size,
        lines_gone: extent.gone,
        lines_new: extent.new,
        unit: unit_name(extent.unit),
        changes: extent.counted,
        muted: extent.muted,
        before: Some(side(sides.0, before)),
        after: Some(side(sides.1, after)),
        newer: newer(sides.0.modified, sides.1.modified),
        moved_from: None,
        moved_blocks: Vec::new(),
        attributes: attributes.iter().map(attribute_name).collect(),
        note: comparison.unparsed().map(unparsed_in_words).or_else(|| comparison.extracted().map(document_line)),
    }
}

fn encodings_of((before, after): (TextEncoding, TextEncoding)) -> (Option<String>, Option<String>) {
    (Some(before.name()), Some(after.name()))
}

/// What the sizes of a pair count, where that is not lines.
fn unit_name(unit: Unit) -> Option<UnitName> {
    match unit {
        Unit::Rows => Some(UnitName::Rows),
        Unit::Nodes => Some(UnitName::Values),
        Unit::Bytes => Some(UnitName::Bytes),
        Unit::Pixels => Some(UnitName::Pixels),
        Unit::Cells => Some(UnitName::Cells),
        Unit::Paragraphs => Some(UnitName::Paragraphs),
        _ => None,
    }
}

fn attribute_name(attribute: &Attribute) -> AttributeName {
    match attribute {
        Attribute::Mode => AttributeName::Mode,
        Attribute::Time => AttributeName::Time,
    }
}

/// The record of a pair of two trees.
pub fn tree_pair(pair: &Pair) -> PairRecord {
    let entry_type = pair.types.1.or(pair.types.0);
    let metadata = |metadata: EntryMetadata| PairSide {
        size: metadata.size,
        modified: rfc3339(metadata.modified),
        mode: metadata.mode.map(|mode| format!("{mode:o}")),
        encoding: None,
    };
    let modified = |metadata: Option<EntryMetadata>| metadata.and_then(|metadata| metadata.modified);
    PairRecord {
        path: text(&pair.path),
        status: pair.status,
        entry: match entry_type {
            Some(EntryType::Folder) => EntryName::Folder,
            Some(EntryType::Link) => EntryName::Link,
            Some(EntryType::Special(_)) => EntryName::Special,
            Some(EntryType::File) | None => EntryName::File,
        },
        kind: pair.kind.filter(|_| entry_type == Some(EntryType::File)).map(kind_name),
        changes: pair.extent.counted,
        muted: pair.extent.muted,
        lines: pair.extent.size,
        lines_gone: pair.extent.gone,
        lines_new: pair.extent.new,
        unit: unit_name(pair.extent.unit),
        before: pair.before.map(metadata),
        after: pair.after.map(metadata),
        newer: newer(modified(pair.before), modified(pair.after)),
        moved_from: pair.moved_from.as_deref().map(text),
        moved_blocks: pair.moved_blocks.iter().map(moved_block).collect(),
        attributes: pair.attributes.iter().map(attribute_name).collect(),
        note: note(pair),
    }
}

fn moved_block(block: &MovedBlock) -> MovedBlockRecord {
    MovedBlockRecord {
        form: block.form,
        line: block.lines.start + 1,
        lines: block.lines.len(),
        other_path: text(&block.path),
        other_line: block.other.start + 1,
        other_lines: block.other.len(),
        edited_lines: block.differing.len(),
    }
}

fn rfc3339(time: Option<SystemTime>) -> Option<String> {
    time.and_then(|time| Timestamp::try_from(time).ok()).map(|time| time.to_string())
}

fn side(metadata: SideMetadata, encoding: Option<String>) -> PairSide {
    PairSide { size: metadata.size, modified: rfc3339(metadata.modified), mode: None, encoding }
}

fn newer(before: Option<SystemTime>, after: Option<SystemTime>) -> Option<Side> {
    match before?.cmp(&after?) {
        std::cmp::Ordering::Less => Some(Side::After),
        std::cmp::Ordering::Greater => Some(Side::Before),
        std::cmp::Ordering::Equal => None,
    }
}
