//! What of a very long line is shown: chosen before anything of it is made fit to be shown, so that a line of megabytes costs no more
//! than a look at its bytes.

use std::ops::Range;

use tideline_core::internal::model::Segment;
use unicode_width::UnicodeWidthStr;

/// Bytes that are kept at the head of a line, and on either side of each change in it.
const KEPT: usize = 120;
/// A line with fewer bytes than this for each column that it may take is looked at as a whole.
const WORTH_IT: usize = 8;

/// The bytes of a line that are shown, in order, if it is much longer than so many columns.
pub(crate) fn excerpt(line: &[u8], parts: &[Segment], columns: usize) -> Option<Vec<Range<usize>>> {
    if line.len() / WORTH_IT < columns.max(KEPT) {
        return None;
    }
    let changed = || parts.iter().filter(|part| part.differs.is_some()).map(|part| &part.bytes);
    let head = if changed().next().is_none() { columns } else { KEPT };
    let mut kept: Vec<Range<usize>> = std::iter::once(0..head).collect();
    let mut room = columns.saturating_sub(head);
    for change in changed() {
        if room == 0 {
            break;
        }
        let around = change.start.saturating_sub(KEPT)..(change.end + KEPT).min(line.len());
        // A change that does not fit is left out as a whole, unless it is the only one.
        let first = kept.last().map_or(around.start, |last| around.start.max(last.end));
        if change.end.saturating_sub(first) > room && kept.len() > 1 {
            break;
        }
        match kept.last_mut() {
            Some(last) if around.start <= last.end + KEPT => {
                let end = around.end.max(last.end).min(last.end + room);
                room -= end - last.end;
                last.end = end;
            }
            _ => {
                let end = around.end.min(around.start + room);
                room -= end - around.start;
                kept.push(around.start..end);
            }
        }
    }
    let whole = |at: usize| (at..line.len()).find(|&at| line[at] & 0b1100_0000 != 0b1000_0000).unwrap_or(line.len());
    Some(kept.into_iter().map(|range| whole(range.start)..whole(range.end)).filter(|range| !range.is_empty()).collect())
}

/// How many columns a part of a line would take, tabs and control characters counted as one.
pub(crate) fn columns_of(text: &[u8]) -> usize {
    if text.is_ascii() {
        return text.len();
    }
    text.utf8_chunks().map(|chunk| chunk.valid().width() + chunk.invalid().len()).sum()
}

/// How many parts that differ are in a range and not shown at all.
pub(crate) fn changes_in(parts: &[Segment], range: &Range<usize>) -> usize {
    let from = parts.partition_point(|part| part.bytes.start < range.start);
    let inside = parts[from..].iter().take_while(|part| part.bytes.end <= range.end);
    inside.filter(|part| part.differs.is_some()).count()
}
