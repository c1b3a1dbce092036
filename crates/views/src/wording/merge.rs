//! Merges, in words.

use tideline_core::internal::merge::{
    Clash, Joining, MergedEntry, Region, RegionOutcome, Three, Together, TreeClash, TreeMerge, ValueConflict,
};
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::EntryType;

use super::plural;

/// How the changes of both sides went together in a region.
pub(crate) fn joining_in_words(joining: Joining) -> &'static str {
    match joining {
        Joining::Words => "different words of the same lines",
        Joining::Rules => "one of them only in text that does not count",
        Joining::Insertions => "lines put in at the same place, one after the other",
        Joining::Moved { .. } => "one moved the lines, the other edited them",
    }
}

/// Why a region is a conflict, as a sentence without its full stop.
pub(crate) fn clash_in_words(clash: Clash, region: &Region, labels: &Three<String>) -> String {
    let Three { mine, theirs, .. } = labels;
    match clash {
        Clash::Edited => format!("{mine} and {theirs} changed the same lines"),
        Clash::Inserted => format!("{mine} and {theirs} put different lines in at the same place"),
        Clash::Removed if region.mine.is_empty() => format!("{mine} removed what {theirs} changed"),
        Clash::Removed => format!("{theirs} removed what {mine} changed"),
        Clash::MovedApart => format!("{mine} and {theirs} moved this block to different places"),
        Clash::MovedAndRemoved if region.mine.is_empty() => format!("{theirs} moved a block that {mine} removed"),
        Clash::MovedAndRemoved => format!("{mine} moved a block that {theirs} removed"),
    }
}

/// Where a region lies in the base.
pub(crate) fn region_lines(region: &Region, to: &str) -> String {
    let lines = &region.base.lines;
    match lines.len() {
        0 if lines.start == 0 => "before line 1".to_owned(),
        0 => format!("after line {}", lines.start),
        1 => format!("line {}", lines.start + 1),
        _ => format!("lines {}{to}{}", lines.start + 1, lines.end),
    }
}

/// How many regions there are of each, in words.
pub fn counts_in_words<'r>(regions: impl Iterator<Item = &'r Region>, labels: &Three<String>) -> String {
    let mut counts = [0_usize; 5];
    for region in regions {
        let at = match region.outcome {
            RegionOutcome::Mine => 0,
            RegionOutcome::Theirs => 1,
            RegionOutcome::Alike => 2,
            RegionOutcome::Joined(..) => 3,
            RegionOutcome::Conflict(_) => 4,
        };
        counts[at] += 1;
    }
    let [mine, theirs, alike, apart, conflicts] = counts;
    let told = [
        (mine, format!("{} by {}", plural(mine, "change"), labels.mine)),
        (theirs, format!("{} by {}", plural(theirs, "change"), labels.theirs)),
        (alike, format!("{alike} alike")),
        (apart, format!("{apart} apart")),
        (conflicts, plural(conflicts, "conflict")),
    ];
    let told: Vec<String> = told.into_iter().filter(|(count, _)| *count > 0).map(|(_, told)| told).collect();
    if told.is_empty() { "no change".to_owned() } else { told.join(", ") }
}

/// How many paths there are of each, in words.
pub fn tree_counts_in_words(merge: &TreeMerge) -> String {
    let told: Vec<String> = Together::ALL
        .into_iter()
        .map(|together| (merge.count(together), together.name()))
        .filter(|(count, _)| *count > 0)
        .map(|(count, name)| {
            let is_many = name == Together::Conflict.name() && count != 1;
            format!("{} {name}{}", super::grouped(count), if is_many { "s" } else { "" })
        })
        .collect();
    let all = plural(merge.entries.len(), "path");
    if told.is_empty() {
        "nothing changed since the base".to_owned()
    } else {
        format!("{all} changed: {}", told.join(", "))
    }
}

/// Why a path is a conflict, a sentence each.
pub fn tree_clashes(entry: &MergedEntry, labels: &Three<String>) -> Vec<String> {
    entry.clashes.iter().map(|clash| tree_clash(clash, entry, labels)).collect()
}

fn tree_clash(clash: &TreeClash, entry: &MergedEntry, labels: &Three<String>) -> String {
    let Three { mine, theirs, .. } = labels;
    match clash {
        TreeClash::Lines(1) => format!("{mine} and {theirs} changed the same lines in one place"),
        TreeClash::Lines(count) => format!("{mine} and {theirs} changed the same lines in {count} places"),
        TreeClash::NotText => format!("{mine} and {theirs} both changed it, and it is not text"),
        TreeClash::ChangedAndRemoved { removed_by_mine, is_moved } => {
            let did = if *is_moved { "moved" } else { "changed" };
            let (removed, other) = if *removed_by_mine { (mine, theirs) } else { (theirs, mine) };
            format!("{other} {did} it, and {removed} removed it")
        }
        TreeClash::BothAdded => format!("{mine} and {theirs} both added it, with different contents"),
        TreeClash::Types(of_mine, of_theirs) => {
            format!("it is {} in {mine}, and {} in {theirs}", type_in_words(*of_mine), type_in_words(*of_theirs))
        }
        TreeClash::MovedApart(of_mine, of_theirs) => {
            format!("{mine} moved it to {}, and {theirs} to {}", of_mine.to_text(), of_theirs.to_text())
        }
        TreeClash::SameName(other) if *other == entry.path => {
            format!("{mine} and {theirs} have different files for this name")
        }
        TreeClash::SameName(other) => {
            let name = entry.mine.path.as_ref().filter(|_| entry.mine.status != Status::Same);
            let name = name.or(entry.theirs.path.as_ref()).unwrap_or(&entry.path);
            format!("{} is wanted for {} too", name.to_text(), other.to_text())
        }
        TreeClash::FileAgainstFolder(path) => {
            format!("{} is a file on one side, and a folder on the other", path.to_text())
        }
        TreeClash::Value(value) => value_in_words(value, labels),
        TreeClash::Unreadable(reason) => format!("it cannot be read: {reason}"),
    }
}

fn type_in_words(entry_type: Option<EntryType>) -> &'static str {
    match entry_type {
        Some(EntryType::File) => "a file",
        Some(EntryType::Folder) => "a folder",
        Some(EntryType::Link) => "a link",
        Some(EntryType::Special(_)) => "neither a file nor a folder",
        None => "not there",
    }
}

/// What both sides changed that has one value.
pub fn value_in_words(value: &ValueConflict, labels: &Three<String>) -> String {
    let Three { mine, theirs, .. } = labels;
    match value {
        ValueConflict::Encoding(one, other) => format!("{mine} is written in {one}, and {theirs} in {other}"),
        ValueConflict::LineEnds(one, other) => format!("lines end with {one} in {mine}, and with {other} in {theirs}"),
        ValueConflict::FinalNewline(true, _) => format!("the last line ends in {mine}, and does not in {theirs}"),
        ValueConflict::FinalNewline(false, _) => format!("the last line ends in {theirs}, and does not in {mine}"),
        ValueConflict::Mode(one, other) => format!("the permissions are {one:o} in {mine}, and {other:o} in {theirs}"),
    }
}
