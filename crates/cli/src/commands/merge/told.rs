//! What a merge of files has to say besides its result.

use std::ops::Range;

use tideline_core::internal::merge::{
    Joining, MergedText, Region, RegionOutcome, TextMerge, Three, ValueConflict, marked_conflicts,
};
use tideline_core::internal::model::Kind;
use tideline_views::{plural, value_in_words};

/// So many conflicts are named by their lines.
const MOST_NAMED: usize = 8;

/// So many places that went together by themselves are named.
const MOST_PLACES: usize = 100;

/// What went together by itself in a way that a person should know of, a sentence for each way.
pub(super) fn notes(text: &MergedText<'_>, labels: &Three<String>) -> Vec<String> {
    let merge = &text.merge;
    let base = &labels.base;
    let mut notes: Vec<String> = by_kind_in_words(text, labels).into_iter().collect();
    for (by_mine, mover, editor) in [(true, &labels.mine, &labels.theirs), (false, &labels.theirs, &labels.mine)] {
        let blocks = merge.moved.iter().filter(|moved| moved.moved_by_mine == by_mine).map(|moved| &moved.base);
        if let Some(lines) = lines_in_words(blocks) {
            notes.push(format!("{lines} of {base}: moved by {mover}, and the edits of {editor} are at the new place"));
        }
    }
    let joined = |wanted: Joining| {
        let is_wanted =
            move |region: &&Region| matches!(&region.outcome, RegionOutcome::Joined(_, joining) if *joining == wanted);
        merge.regions.iter().filter(is_wanted).map(|region| &region.base.lines)
    };
    if let Some(lines) = lines_in_words(joined(Joining::Words)) {
        notes.push(format!("{lines} of {base}: merged word by word"));
    }
    let above: Vec<Range<usize>> =
        joined(Joining::Insertions).map(|lines| lines.start.saturating_sub(1)..lines.start.max(1)).collect();
    if let Some(lines) = lines_in_words(above.iter()) {
        notes.push(format!("after {lines} of {base}: lines that both sides put in follow each other"));
    }
    if merge.dropped() > 0 {
        let lines = plural(merge.dropped(), "line");
        notes.push(format!("{lines} of {} dropped: they differ only in text that does not count", labels.theirs));
    }
    notes
}

/// What came in by what the versions mean, in words.
pub(super) fn by_kind_in_words(text: &MergedText<'_>, labels: &Three<String>) -> Option<String> {
    let by = text.by_kind?;
    let (way, unit) = if by.kind == Kind::Table { ("by key", "row") } else { ("by path", "value") };
    let theirs = &labels.theirs;
    Some(match by.taken {
        0 => format!("merged {way}: nothing of {theirs} was to come in but what both changed"),
        taken => format!("merged {way}: {} of {theirs} came in", plural(taken, unit)),
    })
}

/// Lines of some places, in words; nothing where there are none.
fn lines_in_words<'l>(places: impl Iterator<Item = &'l Range<usize>>) -> Option<String> {
    let places: Vec<&Range<usize>> = places.collect();
    let told: Vec<String> = places
        .iter()
        .take(MOST_PLACES)
        .map(|lines| match lines.len() {
            0 | 1 => (lines.start + 1).to_string(),
            _ => format!("{}-{}", lines.start + 1, lines.end),
        })
        .collect();
    let is_one = matches!(places[..], [lines] if lines.len() <= 1);
    let more = places.len() - told.len();
    let more = if more > 0 { format!(" and {more} more places") } else { String::new() };
    (!told.is_empty()).then(|| format!("line{} {}{more}", if is_one { "" } else { "s" }, told.join(", ")))
}

/// What is left to decide in a result: where its conflicts are marked, and what the sides disagree on besides the lines.
pub(super) fn left(
    merge: &TextMerge<'_>,
    values: &[ValueConflict],
    result: &[u8],
    labels: &Three<String>,
) -> Vec<String> {
    let mut left = Vec::new();
    let count = merge.conflicts().count();
    if count > 0 {
        let marked = marked_conflicts(result);
        let lines: Vec<String> = marked.iter().take(MOST_NAMED).map(|one| (one.lines.start + 1).to_string()).collect();
        let many = if count == 1 { "" } else { "s" };
        let more = if count > lines.len() { ", …" } else { "" };
        left.push(format!("{} left, marked at line{many} {}{more}", plural(count, "conflict"), lines.join(", ")));
    }
    left.extend(
        values.iter().map(|value| format!("{}: that of {} is kept", value_in_words(value, labels), labels.mine)),
    );
    left
}
