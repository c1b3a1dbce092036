//! Edits of words that occur more than once, in a file or in many.

use std::collections::HashMap;
use std::ops::Range;

use super::inside::detail;
use crate::internal::align::MOST_REPEATS;
use crate::internal::model::{Change, Row, Segment, TextComparison, Weight, Words};
use crate::internal::rules::MaskedText;
use crate::internal::text::bytes::is_letter_or_digit;
use crate::internal::text::words::{Grain, cut};

/// Edits with more letters than this on a side are passages, not words.
const LONGEST: usize = 80;
/// A name with fewer letters than this is told with the word in front of it.
const SHORTEST: usize = 3;
/// What some words were, and what they are.
pub(super) type Edit = (Vec<u8>, Vec<u8>);

/// An edit that occurs more than once.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Repeat {
    /// What it was.
    pub before: Vec<u8>,
    /// What it is now.
    pub after: Vec<u8>,
    /// How often it occurs.
    pub times: usize,
    /// In how many files.
    pub files: usize,
    /// How many changes are nothing else.
    pub alone: usize,
    /// The path of the first file with it, and the line there, from 0.
    pub example: (Vec<u8>, usize),
}

/// Collects the edits of words in one file after another.
#[derive(Debug, Default)]
pub struct Repeats {
    found: HashMap<Edit, Repeat>,
    /// The number of the file that each edit was last found in.
    last_file: HashMap<Edit, usize>,
    file: usize,
}

impl Repeats {
    /// Adds the edits that count in a file.
    pub fn add(&mut self, path: &[u8], (before, after): (&MaskedText<'_>, &MaskedText<'_>), found: &TextComparison) {
        self.file += 1;
        for change in found.changes.iter().filter(|change| change.weight == Weight::Counted) {
            self.add_change(path, (before, after), change);
        }
    }

    fn add_change(&mut self, path: &[u8], (before, after): (&MaskedText<'_>, &MaskedText<'_>), change: &Change) {
        let detail = detail((before, &change.before), (after, &change.after), &Grain::Word);
        let mut edits: Vec<Edit> = Vec::new();
        let mut is_all = true;
        let is_rest = |row: &Row| match row {
            Row::Gone { words, .. } | Row::New { words, .. } => !words.is_empty(),
            Row::Edited { .. } | Row::Equal { .. } | Row::Hidden { .. } => false,
        };
        for (at, row) in detail.rows.iter().enumerate() {
            match row {
                // A line that was broken into several differs in more than its words.
                Row::Edited { .. } if detail.rows.get(at + 1).is_some_and(is_rest) => is_all = false,
                Row::Edited { before: b, after: a, words, weight: Weight::Counted } => {
                    let of_line = edits_of(words, detail.before.get(*b), detail.after.get(*a));
                    is_all &= of_line.iter().all(Option::is_some);
                    for edit in of_line.into_iter().flatten() {
                        self.count(&edit, path, change.before.lines.start + b);
                        edits.push(edit);
                    }
                }
                Row::Gone { weight: Weight::Counted, .. } | Row::New { weight: Weight::Counted, .. } => is_all = false,
                _ => {}
            }
        }
        let is_one = edits.windows(2).all(|pair| pair[0] == pair[1]);
        if let Some(edit) = edits.first().filter(|_| is_all && is_one)
            && let Some(repeat) = self.found.get_mut(edit)
        {
            repeat.alone += 1;
        }
    }

    fn count(&mut self, edit: &Edit, path: &[u8], line: usize) {
        if self.found.len() >= MOST_REPEATS && !self.found.contains_key(edit) {
            return;
        }
        let repeat = self.found.entry(edit.clone()).or_insert_with(|| Repeat {
            before: edit.0.clone(),
            after: edit.1.clone(),
            times: 0,
            files: 0,
            alone: 0,
            example: (path.to_vec(), line),
        });
        repeat.times += 1;
        if self.last_file.insert(edit.clone(), self.file) != Some(self.file) {
            repeat.files += 1;
        }
    }

    /// Adds the edits of other files, which come behind these.
    pub fn merge(&mut self, other: Self) {
        let is_full = self.found.len() >= MOST_REPEATS;
        for (edit, found) in other.found {
            match self.found.get_mut(&edit) {
                Some(known) => {
                    known.times += found.times;
                    known.files += found.files;
                    known.alone += found.alone;
                }
                None if is_full => {}
                None => {
                    self.found.insert(edit, found);
                }
            }
        }
    }

    /// The edits that occur more than once, the most frequent first.
    pub fn list(self) -> Vec<Repeat> {
        let mut list: Vec<Repeat> = self.found.into_values().filter(|repeat| repeat.times > 1).collect();
        list.sort_by(|one, other| {
            other.times.cmp(&one.times).then_with(|| (&one.before, &one.after).cmp(&(&other.before, &other.after)))
        });
        list
    }
}

/// The places where two lines differ: words that took the place of words, or nothing where something only came or went.
fn edits_of(words: &Words, before: &[u8], after: &[u8]) -> Vec<Option<Edit>> {
    let mut edits = Vec::new();
    let (mut b, mut a) = (words.before.iter().peekable(), words.after.iter().peekable());
    let (mut at_b, mut at_a) = (0, 0);
    while b.peek().is_some() || a.peek().is_some() {
        let differs = |part: &&Segment| part.differs == Some(Weight::Counted);
        let (from_b, from_a) = (at_b, at_a);
        while let Some(part) = b.next_if(differs) {
            at_b = part.bytes.end;
        }
        while let Some(part) = a.next_if(differs) {
            at_a = part.bytes.end;
        }
        if at_b > from_b || at_a > from_a {
            let (old, new) = (from_b..at_b, from_a..at_a);
            edits.push(edit_of((before, old), (after, new)));
        }
        // What both have, or does not count.
        if let Some(part) = b.next() {
            at_b = part.bytes.end;
        }
        if let Some(part) = a.next() {
            at_a = part.bytes.end;
        }
    }
    edits
}

/// What took the place of what, without the blanks around it. Nothing of a passage, or where one side has no letter or digit: what only came
/// or went, and punctuation.
pub(super) fn edit_of((before, old): (&[u8], Range<usize>), (after, new): (&[u8], Range<usize>)) -> Option<Edit> {
    let is_named = |text: &[u8]| text.iter().any(|byte| is_letter_or_digit(*byte));
    let (old_name, new_name) = (before[old.clone()].trim_ascii(), after[new].trim_ascii());
    if !is_named(old_name) || !is_named(new_name) {
        return None;
    }
    let context = context_of(&before[..old.start], old_name.len().min(new_name.len()));
    let whole = |name: &[u8]| [context, name].concat();
    (old_name.len().max(new_name.len()) <= LONGEST).then(|| (whole(old_name), whole(new_name)))
}

/// The word in front of a name that says too little by itself, with the blank between them.
fn context_of(before: &[u8], letters: usize) -> &[u8] {
    if letters >= SHORTEST || !before.ends_with(b" ") {
        return b"";
    }
    let units = cut(before, &Grain::Word);
    let word = units.iter().rev().nth(1).filter(|unit| before[unit.start].is_ascii_alphabetic());
    word.map_or(b"", |unit| &before[unit.start..])
}
