//! JSON Lines: one record a line, for programs. The types are in [`records`]; their JSON Schema is published in
//! `docs/records.schema.json`.
//!
//! From the text before and the records of a file, the text after can be rebuilt byte for byte.

mod applied;
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
mod pairs;
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

use tideline_core::internal::kinds::Comparison;
use tideline_core::internal::kinds::text::{Detail, Grain, Repeat, causes, detail};
use tideline_core::internal::model::{Change, Form, HiddenStretch, Row, Segment, Span, Status, Weight};
use tideline_core::internal::rules::{Account, PutAside};
use tideline_core::internal::text::lines::Lines;
use tideline_core::internal::tree::{Remark, TreeComparison};

use crate::pair_view::PairView;
use crate::view::{BothSections, FileView, Labels};
use crate::wording::document::place_in_document;
use crate::wording::edit::rule_for;
use crate::wording::section::section_in_words;
pub use applied::applied_part;
pub use pairs::{SideMetadata, pair, tree_pair};
pub use records::write_record;
use records::{
    AsideRecord, ChangeRecord, ChangeSide, CommonEditRecord, ComparisonRecord, CutRecord, LinePart, LineParts,
    PutAsideRecord, Record, RemarkRecord, RepeatRecord, SectionRecord, SummaryRecord, WrittenRecord,
};
#[cfg(feature = "schema")]
pub use schema::schema;
pub use value::{TextOrBytes, VERSION, write_value};
use value::{decoded, text};

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
        before: ChangeSide {
            place: place(view, &change.before, true),
            ..originals.before(&change.before, detail.before.iter())
        },
        after: ChangeSide {
            place: place(view, &change.after, false),
            ..originals.after(&change.after, detail.after.iter())
        },
        words,
    }
}

/// Where lines of a side are in the document that they were taken out of.
fn place(view: &FileView<'_>, span: &Span, is_before: bool) -> Option<String> {
    let (before, after) = &view.extracted?.places;
    place_in_document(if is_before { before } else { after }, &span.lines, "-").filter(|_| !span.is_empty())
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
    let lines = (span.lines.start..).zip(lines).map(line).collect();
    ChangeSide { line: span.lines.start + 1, place: None, lines }
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

/// The record that closes the output of a command that writes.
pub fn run_record(run: Option<u64>, written: bool) -> Record {
    Record::Run(WrittenRecord { run, written })
}
