//! Lines that differ in one edit of words alone, and the edit that most lines of a tree have in common.

use std::collections::HashMap;

use super::repeats::{Edit, edit_of};
use crate::internal::align::{LONGEST_EDITED_LINE, MOST_EDITS, MOST_EDITS_IN_FILE};
use crate::internal::model::{TextComparison, Weight};
use crate::internal::rules::MaskedText;
use crate::internal::text::words::{Grain, cut};

/// Fewer lines have nothing in common that is worth a word.
const FEWEST: usize = 4;

/// An edit that at least half of the lines that differ have in common.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct CommonEdit {
    /// What it was.
    pub before: Vec<u8>,
    /// What it is now.
    pub after: Vec<u8>,
    /// The lines that differ in nothing else.
    pub lines: usize,
    /// All lines that differ.
    pub of: usize,
}

/// Counts the lines that differ in one edit alone, however often it occurs in them.
#[derive(Clone, Debug, Default)]
pub struct LineEdits {
    lines: HashMap<Edit, usize>,
    of: usize,
}

impl LineEdits {
    /// Counts the lines of two texts that differ and count, in time that is linear in their length.
    pub fn of(before: &MaskedText<'_>, after: &MaskedText<'_>, found: &TextComparison) -> Self {
        let mut edits = Self { lines: HashMap::new(), of: found.differing_lines() };
        for change in found.changes.iter().filter(|change| change.weight == Weight::Counted) {
            if change.before.lines.len() != change.after.lines.len() {
                continue;
            }
            let (before, after) =
                (&before.text()[change.before.bytes.clone()], &after.text()[change.after.bytes.clone()]);
            let lines = before.split_inclusive(|byte| *byte == b'\n').zip(after.split_inclusive(|byte| *byte == b'\n'));
            for (before, after) in lines.filter(|(before, after)| before.len().max(after.len()) <= LONGEST_EDITED_LINE)
            {
                if let Some(edit) = only_edit(before, after) {
                    edits.count(edit, 1, edits.lines.len() >= MOST_EDITS_IN_FILE);
                }
            }
        }
        edits
    }

    /// Adds those of another file.
    pub fn add(&mut self, other: Self) {
        self.of += other.of;
        // All the new ones of a file or none, whatever order they come in, so that the result is the same each time.
        let is_full = self.lines.len() >= MOST_EDITS;
        for (edit, lines) in other.lines {
            self.count(edit, lines, is_full);
        }
    }

    fn count(&mut self, edit: Edit, lines: usize, is_full: bool) {
        match self.lines.get_mut(&edit) {
            Some(count) => *count += lines,
            None if is_full => {}
            None => {
                self.lines.insert(edit, lines);
            }
        }
    }

    /// The edit that at least half of all lines have in common.
    pub fn common(&self) -> Option<CommonEdit> {
        let ((before, after), &lines) =
            self.lines.iter().max_by(|(one, count), (other, most)| count.cmp(most).then_with(|| other.cmp(one)))?;
        (lines >= FEWEST && 2 * lines >= self.of).then(|| CommonEdit {
            before: before.clone(),
            after: after.clone(),
            lines,
            of: self.of,
        })
    }
}

/// The edit that two lines differ in, if there is only one and it takes the place of as many words.
fn only_edit(before: &[u8], after: &[u8]) -> Option<Edit> {
    let (b, a) = (cut(before, &Grain::Word), cut(after, &Grain::Word));
    if b.len() != a.len() {
        return None;
    }
    let mut only: Option<Edit> = None;
    let mut at = 0;
    while at < b.len() {
        let differs = |at: usize| before[b[at].clone()] != after[a[at].clone()];
        let from = at;
        while at < b.len() && differs(at) {
            at += 1;
        }
        if at > from {
            let (old, new) = (b[from].start..b[at - 1].end, a[from].start..a[at - 1].end);
            let edit = edit_of((before, old), (after, new))?;
            if only.as_ref().is_some_and(|only| *only != edit) {
                return None;
            }
            only = Some(edit);
        }
        at += 1;
    }
    only
}
