//! JSON Lines: one record a line, for programs. The types are in [`records`]; their JSON Schema is published in
//! `docs/records.schema.json`.
//!
//! From the text before and the records of a file, the text after can be rebuilt byte for byte.

pub mod apply_records;
pub mod document;
pub mod image_records;
mod images;
pub mod item_records;
mod items;
mod kind_names;
pub mod merge;
pub mod merge_records;
#[cfg(feature = "schema")]
mod names;
pub mod plan;
pub mod plan_records;
pub mod range_records;
mod ranges;
pub mod records;
pub mod rule_records;
pub mod rules;
#[cfg(feature = "schema")]
mod schema;
mod value;

use std::io::{self, Write};
use std::time::SystemTime;

use jiff::Timestamp;
use tideline_core::internal::kinds::Comparison;
use tideline_core::internal::kinds::text::{Detail, Grain, Repeat, causes, detail};
use tideline_core::internal::model::{
    Change, Form, HiddenStretch, MovedBlock, Row, Segment, Span, Status, Unit, Weight,
};
use tideline_core::internal::patch::HunkPlacement;
use tideline_core::internal::patch::apply::{AppliedPart, Outcome};
use tideline_core::internal::rules::{Account, PutAside};
use tideline_core::internal::text::encoding::TextEncoding;
use tideline_core::internal::text::lines::Lines;
use tideline_core::internal::tree::{Attribute, EntryMetadata, EntryType, Pair, Remark, TreeComparison};

use crate::pair_view::PairView;
use crate::view::{BothSections, FileView, Labels};
use crate::wording::document::document_line;
use crate::wording::edit::rule_for;
use crate::wording::encodings::unparsed_in_words;
use crate::wording::misfit_words;
use crate::wording::section::section_in_words;
use crate::wording::tree::note;
use apply_records::{AppliedHunk, AppliedOutcome, AppliedPlace, AppliedRecord};
use kind_names::kind_name;
pub use records::write_record;
use records::{
    AsideRecord, AttributeName, ChangeRecord, ChangeSide, CommonEditRecord, ComparisonRecord, CutRecord, EntryName,
    LinePart, LineParts, MovedBlockRecord, PairRecord, PairSide, PutAsideRecord, Record, RemarkRecord, RepeatRecord,
    SectionRecord, Side, SummaryRecord, UnitName, WrittenRecord,
};
#[cfg(feature = "schema")]
pub use schema::schema;
pub use value::{TextOrBytes, VERSION, write_value};
use value::{decoded, text};

/// What is known of one side of a pair besides its contents.
#[derive(Clone, Copy, Debug, Default)]
pub struct SideMetadata {
    /// Its size in bytes.
    pub size: u64,
    /// When it was last changed.
    pub modified: Option<SystemTime>,
}

/// The record that opens every output.
pub fn opening(labels: &Labels) -> Record {
    Record::Comparison(ComparisonRecord {
        version: VERSION,
        before: labels.before.clone(),
        after: labels.after.clone(),
        before_is: labels.about.0.clone(),
        after_is: labels.about.1.clone(),
    })
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

/// The record that closes the output for two trees.
pub fn tree_summary(comparison: &TreeComparison) -> Record {
    let mut summary = SummaryRecord {
        files: comparison.files(),
        folders_gone: comparison.folders.0,
        folders_new: comparison.folders.1,
        changes: comparison.changes,
        muted_changes: comparison.muted,
        moved_blocks: comparison.moved_blocks,
        put_aside: put_aside(&comparison.account),
        common_edit: comparison.common_edit().map(|edit| CommonEditRecord {
            before: text(&edit.before),
            after: text(&edit.after),
            lines: edit.lines,
            of: edit.of,
            rule: rule_for(&edit.before, &edit.after),
        }),
        modes_not_compared: comparison.left_out.modes,
        times_not_compared: comparison.left_out.times,
        remarks: comparison.remarks.iter().map(remark).collect(),
        ..SummaryRecord::default()
    };
    for (&status, &pairs) in &comparison.counts {
        summary.count(status, pairs);
    }
    Record::Summary(summary)
}

fn remark(remark: &Remark) -> RemarkRecord {
    RemarkRecord { path: remark.path.as_deref().map(text), text: remark.text.clone() }
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

fn put_aside(account: &Account) -> Vec<PutAsideRecord> {
    let record = |part: PutAside| PutAsideRecord { rule: part.rule, effect: part.effect, lines: part.lines };
    account.parts().into_iter().map(record).collect()
}

/// Gives a record for each change of a pair of contents, each kind in its way; up to so many changes.
///
/// # Errors
/// Whatever `take` fails with.
pub fn give_pair_changes(
    path: &[u8],
    view: &PairView<'_>,
    (grain, most): (&Grain, usize),
    take: &mut dyn FnMut(Record) -> io::Result<()>,
) -> io::Result<()> {
    match view {
        PairView::Text(view) => give_changes(path, view, grain, most, take),
        PairView::Table(view) => items::give_rows(path, view, most, take),
        PairView::Data(view) => items::give_nodes(path, view, most, take),
        PairView::Sheets(view) => items::give_sheets(path, view, most, take),
        PairView::Image(view) => images::give_regions(path, view, most, take),
        PairView::Bytes(view) => ranges::give_ranges(path, view, most, take),
    }
}

/// The record of an edit that occurs more than once.
pub fn repeat(repeat: &Repeat) -> Record {
    Record::Repeat(RepeatRecord {
        before: text(&repeat.before),
        after: text(&repeat.after),
        times: repeat.times,
        files: repeat.files,
        alone: repeat.alone,
        path: text(&repeat.example.0),
        line: repeat.example.1 + 1,
        rule: rule_for(&repeat.before, &repeat.after),
    })
}

/// Gives a record for each section of a pair of contents that differs.
///
/// # Errors
/// Whatever `take` fails with.
pub fn give_sections(
    path: &[u8],
    view: &PairView<'_>,
    take: &mut dyn FnMut(Record) -> io::Result<()>,
) -> io::Result<()> {
    let PairView::Text(view) = view else { return Ok(()) };
    let lines = |lines: Option<std::ops::Range<usize>>| lines.map(|lines| (lines.start + 1, lines.end));
    view.section_changes().sections.into_iter().try_for_each(|change| {
        take(Record::Section(SectionRecord {
            path: text(path),
            section: change.path,
            form: change.form,
            changes: change.changes,
            before: lines(change.before),
            after: lines(change.after),
        }))
    })
}

/// Writes a record for each change of a file, and for each stretch that is not shown as different.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_changes(path: &[u8], view: &FileView<'_>, grain: &Grain, out: &mut dyn Write) -> io::Result<()> {
    give_changes(path, view, grain, usize::MAX, &mut |record| write_record(&record, out))
}

/// Gives a record for each change of a file, up to so many, and says how many there are beyond; and one for each stretch that is not
/// shown as different.
///
/// # Errors
/// Whatever `take` fails with.
pub fn give_changes(
    path: &[u8],
    view: &FileView<'_>,
    grain: &Grain,
    most: usize,
    take: &mut dyn FnMut(Record) -> io::Result<()>,
) -> io::Result<()> {
    let (changes, sections, originals) = (&view.comparison.changes, view.sections(), Originals::of(view));
    for change in changes.iter().take(most) {
        take(Record::Change(change_record(path, (view, &sections, &originals), change, grain)))?;
    }
    if changes.len() > most {
        take(Record::Cut(CutRecord { path: text(path), changes: changes.len() - most }))?;
    }
    view.comparison
        .hidden
        .iter()
        .try_for_each(|hidden| take(Record::Aside(aside_record(path, (view, &originals), hidden))))
}

/// The record that closes the output for two files.
pub fn summary(status: Status, comparison: &Comparison<'_>) -> Record {
    let extent = comparison.extent();
    let mut summary = SummaryRecord {
        files: 1,
        changes: extent.counted,
        muted_changes: extent.muted,
        put_aside: put_aside(&comparison.account()),
        ..SummaryRecord::default()
    };
    summary.count(status, 1);
    Record::Summary(summary)
}

fn change_record(
    path: &[u8],
    (view, sections, originals): (&FileView<'_>, &BothSections<'_>, &Originals<'_>),
    change: &Change,
    grain: &Grain,
) -> ChangeRecord {
    let detail = detail((view.before, &change.before), (view.after, &change.after), grain);
    let words = match change.form {
        Form::Edited => words(change, &detail),
        Form::Moved if change.edited > 0 || change.reindented => words(change, &detail),
        Form::Moved | Form::Gone | Form::New => Vec::new(),
    };
    let section = sections.of(&change.before, &change.after);
    ChangeRecord {
        path: text(path),
        number: change.number,
        form: change.form,
        weight: change.weight,
        rules: match change.weight {
            Weight::Muted => causes((view.before, &change.before), (view.after, &change.after)),
            Weight::Counted => Vec::new(),
        },
        above_section: section.as_ref().is_some_and(|name| name.is_above),
        section: section.map(|name| section_in_words(&name, false)),
        before: originals.before(&change.before, detail.before.iter()),
        after: originals.after(&change.after, detail.after.iter()),
        words,
    }
}

fn aside_record(
    path: &[u8],
    (view, originals): (&FileView<'_>, &Originals<'_>),
    hidden: &HiddenStretch,
) -> AsideRecord {
    let (before, after) =
        (&view.before.text()[hidden.before.bytes.clone()], &view.after.text()[hidden.after.bytes.clone()]);
    AsideRecord {
        path: text(path),
        before: originals.before(&hidden.before, Lines::of(before).iter()),
        after: originals.after(&hidden.after, Lines::of(after).iter()),
    }
}

/// The lines that texts were decoded from, where these do not give them back.
struct Originals<'a> {
    before: Option<Lines<'a>>,
    after: Option<Lines<'a>>,
    /// The indexes of the first lines of the texts.
    first: (usize, usize),
}

impl<'a> Originals<'a> {
    fn of(view: &FileView<'a>) -> Self {
        let (before, after) = view.originals;
        Self { before: before.map(Lines::of), after: after.map(Lines::of), first: view.first }
    }

    fn before<'t>(&self, span: &Span, lines: impl Iterator<Item = &'t [u8]>) -> ChangeSide {
        side_of(self.before.as_ref(), self.first.0, span, lines)
    }

    fn after<'t>(&self, span: &Span, lines: impl Iterator<Item = &'t [u8]>) -> ChangeSide {
        side_of(self.after.as_ref(), self.first.1, span, lines)
    }
}

fn side_of<'t>(
    originals: Option<&Lines<'_>>,
    first: usize,
    span: &Span,
    lines: impl Iterator<Item = &'t [u8]>,
) -> ChangeSide {
    let line = |(at, line): (usize, &[u8])| match originals.filter(|lines| first + at < lines.len()) {
        Some(originals) => decoded(originals.get(first + at), line),
        None => text(line),
    };
    ChangeSide { line: span.lines.start + 1, lines: (span.lines.start..).zip(lines).map(line).collect() }
}

fn words(change: &Change, detail: &Detail<'_>) -> Vec<LineParts> {
    let line_parts = |line: &[u8], parts: &[Segment]| -> Vec<LinePart> {
        let part = |part: &Segment| LinePart {
            text: text(&line[part.bytes.clone()]),
            changed: part.differs == Some(Weight::Counted),
            muted: part.differs == Some(Weight::Muted),
        };
        parts.iter().map(part).collect()
    };
    let before = |line: usize, parts: &[Segment]| {
        (Some(change.before.lines.start + line + 1), line_parts(detail.before.get(line), parts))
    };
    let after = |line: usize, parts: &[Segment]| {
        (Some(change.after.lines.start + line + 1), line_parts(detail.after.get(line), parts))
    };
    let nothing = || (None, Vec::new());
    let sides = detail.rows.iter().filter_map(|row| match row {
        Row::Edited { before: b, after: a, words, .. } => Some((before(*b, &words.before), after(*a, &words.after))),
        Row::Gone { before: b, words, .. } if !words.is_empty() => Some((before(*b, words), nothing())),
        Row::New { after: a, words, .. } if !words.is_empty() => Some((nothing(), after(*a, words))),
        Row::Gone { .. } | Row::New { .. } | Row::Equal { .. } | Row::Hidden { .. } => None,
    });
    sides
        .map(|((before_line, before), (after_line, after))| LineParts { before_line, after_line, before, after })
        .collect()
}

/// The record of a part about a file of a patch of this name, from whose names so many leading folders were dropped.
pub fn applied_part(patch: &str, dropped_folders: usize, part: &AppliedPart) -> AppliedRecord {
    let path = |path: &std::path::Path| text(path.as_os_str().as_encoded_bytes());
    AppliedRecord {
        patch: patch.to_owned(),
        dropped_folders,
        path: path(&part.path),
        outcome: match &part.outcome {
            _ if part.misfits() > 0 => AppliedOutcome::Misfit,
            Outcome::Changed => AppliedOutcome::Changed,
            Outcome::Emptied => AppliedOutcome::Emptied,
            Outcome::Created => AppliedOutcome::Created,
            Outcome::Deleted => AppliedOutcome::Deleted,
            Outcome::Moved(_) => AppliedOutcome::Moved,
            Outcome::Copied(_) => AppliedOutcome::Copied,
            Outcome::AlreadyIn => AppliedOutcome::Already,
            Outcome::Missing => AppliedOutcome::Missing,
            Outcome::Refused(_) => AppliedOutcome::Refused,
        },
        reason: match &part.outcome {
            Outcome::Refused(refusal) => Some(refusal.to_string()),
            _ => None,
        },
        moved_from: match &part.outcome {
            Outcome::Moved(from) | Outcome::Copied(from) => Some(path(from)),
            _ => None,
        },
        other: part.other.as_deref().map(path),
        hunks: part.hunks.iter().zip(&part.fits).map(|(hunk, fit)| applied_hunk(hunk.line, fit)).collect(),
    }
}

/// What became of a hunk that begins at a line of its patch.
fn applied_hunk(patch_line: usize, fit: &HunkPlacement) -> AppliedHunk {
    let places = match fit {
        HunkPlacement::Parts(parts) => parts.iter().filter_map(applied_place).collect(),
        fit => applied_place(fit).into_iter().collect(),
    };
    AppliedHunk {
        patch_line,
        fits: !matches!(fit, HunkPlacement::PlacementFailure(_)),
        already: fit.is_already_in(),
        places,
        reason: match fit {
            HunkPlacement::PlacementFailure(misfit) => Some(misfit_words(misfit).trim_end_matches(':').to_owned()),
            _ => None,
        },
    }
}

fn applied_place(fit: &HunkPlacement) -> Option<AppliedPlace> {
    match fit {
        HunkPlacement::Placed(placed) => Some(AppliedPlace {
            line: placed.line + 1,
            offset: Some(placed.offset),
            differing: placed.differing,
            already: false,
        }),
        HunkPlacement::AlreadyIn(line) => {
            Some(AppliedPlace { line: line + 1, offset: None, differing: 0, already: true })
        }
        HunkPlacement::Parts(_) | HunkPlacement::PlacementFailure(_) => None,
    }
}

/// The record that closes the output of a command that writes.
pub fn run_record(run: Option<u64>, written: bool) -> Record {
    Record::Run(WrittenRecord { run, written })
}
