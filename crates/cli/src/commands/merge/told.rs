//! What a merge of files has to say besides its result.

use tideline_core::internal::merge::{
    Joining, MergedText, RegionOutcome, TextMerge, Three, ValueConflict, marked_conflicts,
};
use tideline_views::{plural, value_in_words};

/// So many conflicts are named by their lines.
const MOST_NAMED: usize = 8;

/// What went together by itself in a way that a person should know of, a sentence each.
pub(super) fn notes(text: &MergedText<'_>, labels: &Three<String>) -> Vec<String> {
    let merge = &text.merge;
    let mut notes = Vec::new();
    for moved in &merge.moved {
        let (mover, editor) =
            if moved.moved_by_mine { (&labels.mine, &labels.theirs) } else { (&labels.theirs, &labels.mine) };
        let lines = lines_in_words(&moved.base);
        notes.push(format!(
            "{lines} of {}: {mover} moved them, and the edits of {editor} are at the new place",
            labels.base
        ));
    }
    for region in &merge.regions {
        let lines = lines_in_words(&region.base.lines);
        match &region.outcome {
            RegionOutcome::Joined(_, Joining::Words) => {
                notes.push(format!("{lines} of {}: merged word by word", labels.base));
            }
            RegionOutcome::Joined(_, Joining::Insertions) => notes.push(format!(
                "after line {} of {}: lines that both sides put in follow each other",
                region.base.lines.start, labels.base
            )),
            _ => {}
        }
    }
    if merge.dropped() > 0 {
        let lines = plural(merge.dropped(), "line");
        notes.push(format!("{lines} of {} dropped: they differ only in text that does not count", labels.theirs));
    }
    notes
}

fn lines_in_words(lines: &std::ops::Range<usize>) -> String {
    if lines.len() <= 1 {
        format!("line {}", lines.start + 1)
    } else {
        format!("lines {}-{}", lines.start + 1, lines.end)
    }
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
