//! Three texts or trees and their merge, as records.

use std::io::{self, Write};

use tideline_core::internal::merge::{MergedEntry, Region, RegionOutcome, SideOfEntry, Three, Together, TreeMerge};
use tideline_core::internal::model::Span;
use tideline_core::internal::text::lines::Lines;

use super::merge_records::{ByName, MergedRecord, PathRecord, PathSide, RegionRecord, TogetherName, VersionsRecord};
use super::records::{Record, write_record};
use super::value::{ChangeSide, VERSION, text};
use crate::three::{MergeView, MergedTreeView};
use crate::wording::merge::tree_clashes;

/// Writes the records of three texts: what opens them, the regions that are shown, and what closes them. `values` says what the sides disagree
/// on besides the lines.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_texts(view: &MergeView<'_>, values: Vec<String>, is_decided: bool, out: &mut dyn Write) -> io::Result<()> {
    write_record(&opening(view.labels), out)?;
    regions(view).try_for_each(|record| write_record(&record, out))?;
    write_record(&merged(view.merge.regions.iter(), values, is_decided), out)
}

/// Writes the records of three contents that are not taken apart; `told` says what becomes of them.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_whole(labels: &Three<String>, told: String, is_decided: bool, out: &mut dyn Write) -> io::Result<()> {
    write_record(&opening(labels), out)?;
    write_record(&merged(std::iter::empty(), vec![told], is_decided), out)
}

/// Writes the records of three trees.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_trees(view: &MergedTreeView<'_>, out: &mut dyn Write) -> io::Result<()> {
    write_record(&opening(view.labels), out)?;
    view.entries().try_for_each(|entry| write_record(&path(entry, view.labels), out))?;
    write_record(&merged_trees(view.merge), out)
}

/// The record that opens the output.
fn opening(labels: &Three<String>) -> Record {
    let Three { base, mine, theirs } = labels.clone();
    Record::Versions(VersionsRecord { version: VERSION, base, mine, theirs })
}

/// The records of the regions that are shown.
fn regions<'a>(view: &'a MergeView<'a>) -> impl Iterator<Item = Record> + 'a {
    view.regions().map(|(number, region)| Record::Region(Box::new(region_record(view, number, region))))
}

fn region_record(view: &MergeView<'_>, number: usize, region: &Region) -> RegionRecord {
    let lines = view.merge.lines_of(region);
    let side = |span: &Span, bytes: &[u8]| ChangeSide {
        place: None,
        line: span.lines.start + 1,
        lines: Lines::of(bytes).iter().map(text).collect(),
    };
    RegionRecord {
        number,
        together: together_name(region.together()),
        by: match region.outcome {
            RegionOutcome::Mine => ByName::Mine,
            RegionOutcome::Theirs => ByName::Theirs,
            RegionOutcome::Alike | RegionOutcome::Joined(..) | RegionOutcome::Conflict(_) => ByName::Both,
        },
        counts: region.counts,
        told: view.who(region),
        base: side(&region.base, lines.base),
        mine: side(&region.mine, lines.mine),
        theirs: side(&region.theirs, lines.theirs),
        result: view.merge.result_of(region).map(|result| Lines::of(result).iter().map(text).collect()),
    }
}

fn together_name(together: Together) -> TogetherName {
    match together {
        Together::OneSided => TogetherName::OneSided,
        Together::Alike => TogetherName::Alike,
        Together::Apart => TogetherName::Apart,
        Together::Conflict => TogetherName::Conflict,
    }
}

/// The record that closes the output of three texts.
fn merged<'r>(regions: impl Iterator<Item = &'r Region>, values: Vec<String>, is_decided: bool) -> Record {
    let mut record = MergedRecord { one_sided: 0, alike: 0, apart: 0, conflicts: 0, decided: 0, dropped: 0, values };
    for region in regions {
        record.dropped += region.dropped;
        *match region.together() {
            Together::OneSided => &mut record.one_sided,
            Together::Alike => &mut record.alike,
            Together::Apart => &mut record.apart,
            Together::Conflict => &mut record.conflicts,
        } += 1;
    }
    if is_decided {
        record.decided = record.conflicts + record.values.len();
    }
    Record::Merged(record)
}

/// The record of a path of three trees.
fn path(entry: &MergedEntry, labels: &Three<String>) -> Record {
    let side = |side: &SideOfEntry| PathSide { status: side.status, path: side.path.as_ref().map(|path| text(path)) };
    Record::Path(PathRecord {
        path: text(&entry.path),
        mine: side(&entry.mine),
        theirs: side(&entry.theirs),
        together: together_name(entry.together),
        conflicts: tree_clashes(entry, labels),
        decided: entry.is_decided,
        result: entry.plan.to.as_ref().map(|path| text(path)),
    })
}

/// The record that closes the output of three trees.
fn merged_trees(merge: &TreeMerge) -> Record {
    Record::Merged(MergedRecord {
        one_sided: merge.count(Together::OneSided),
        alike: merge.count(Together::Alike),
        apart: merge.count(Together::Apart),
        conflicts: merge.count(Together::Conflict),
        decided: merge.entries.iter().filter(|entry| entry.is_decided).count(),
        dropped: merge.dropped,
        values: Vec::new(),
    })
}
