//! The lines of a target and of hunks as numbers, and what each line says about a place.

use std::borrow::Cow;
use std::collections::HashMap;
use std::ops::Range;
use std::sync::Arc;

use foldhash::fast::FixedState;

use super::super::model::Hunk;
use crate::internal::rules::{FileRules, MaskedText};
use crate::internal::text::bytes::is_letter_or_digit;
use crate::internal::text::lines::Lines;
use crate::internal::text::words::line_end_len;

/// The number of a line that no hunk holds.
pub(super) const UNKNOWN: u32 = u32::MAX;

/// What a line weighs that holds letters or digits and is rare: much of a hunk is found again by such lines.
pub(super) const DISTINCT: u32 = 4;
/// What one weighs that stands in the target more often than this.
const COMMON: u32 = 2;
const COMMON_FROM: usize = 9;
/// What a blank line or one of punctuation weighs: such lines stand everywhere.
pub(super) const WEAK: u32 = 1;

/// A target and the hunks that are placed in it. Two lines have one number when they are equal but for their line ends and for
/// what the rules exclude.
pub(super) struct LineIndex<'t> {
    pub(super) lines: Lines<'t>,
    /// The number of each line of the target.
    pub(super) of_target: Vec<u32>,
    /// The numbers of the lines of each hunk.
    pub(super) of_hunks: Vec<Vec<u32>>,
    /// Where in the target each number stands, in order.
    pub(super) places: Vec<Vec<u32>>,
    /// What each number weighs.
    pub(super) weights: Vec<u32>,
}

impl<'t> LineIndex<'t> {
    pub(super) fn new(target: &'t [u8], hunks: &[Hunk], file_rules: Option<&Arc<FileRules>>) -> Self {
        let mut known: HashMap<Cow<'_, [u8]>, u32, FixedState> = HashMap::default();
        let mut weights = Vec::new();
        let mut of_hunks = Vec::with_capacity(hunks.len());
        for hunk in hunks {
            let mut numbers = Vec::with_capacity(hunk.lines.len());
            for line in &hunk.lines {
                let masked = file_rules.map(|file_rules| MaskedText::new(&line.text[..], file_rules));
                let key = key(&line.text, masked.as_ref().map(|masked| (masked, 0..line.text.len())));
                let next = u32::try_from(known.len()).unwrap_or(UNKNOWN);
                let weight = if key.iter().any(|byte| is_letter_or_digit(*byte)) { DISTINCT } else { WEAK };
                let number = *known.entry(key).or_insert(next);
                if number == next {
                    weights.push(weight);
                }
                numbers.push(number);
            }
            of_hunks.push(numbers);
        }
        let lines = Lines::of(target);
        let masked = file_rules.map(|file_rules| MaskedText::new(target, file_rules));
        let mut places = vec![Vec::new(); known.len()];
        let mut of_target = Vec::with_capacity(lines.len());
        for (at, line) in lines.iter().enumerate() {
            let range = lines.start(at)..lines.start(at + 1);
            let number =
                known.get(&*key(line, masked.as_ref().map(|masked| (masked, range)))).copied().unwrap_or(UNKNOWN);
            if number != UNKNOWN {
                places[number as usize].push(u32::try_from(at).unwrap_or(UNKNOWN));
            }
            of_target.push(number);
        }
        for (weight, places) in weights.iter_mut().zip(&places) {
            if *weight == DISTINCT && places.len() >= COMMON_FROM {
                *weight = COMMON;
            }
        }
        Self { lines, of_target, of_hunks, places, weights }
    }

    /// How many lines the target has.
    pub(super) fn len(&self) -> usize {
        self.of_target.len()
    }

    /// Whether a good share of a block stands at a line, its first or last line among it.
    pub(super) fn stands_much(&self, block: &[u32], at: isize, (share, of): (u32, u32)) -> bool {
        let holds = |offset: usize| {
            let line = usize::try_from(at + offset as isize).ok();
            line.and_then(|line| self.of_target.get(line)) == Some(&block[offset])
        };
        if !holds(0) && !holds(block.len() - 1) {
            return false;
        }
        let held: u32 =
            (0..block.len()).filter(|offset| holds(*offset)).map(|offset| self.weights[block[offset] as usize]).sum();
        held * of >= self.weight(block) * share
    }

    /// What lines with these numbers weigh together.
    pub(super) fn weight(&self, numbers: &[u32]) -> u32 {
        numbers.iter().map(|number| self.weights[*number as usize]).sum()
    }
}

/// A line as it is compared: without its line end, and without what the rules exclude.
fn key<'t>(line: &'t [u8], masked: Option<(&MaskedText<'_>, Range<usize>)>) -> Cow<'t, [u8]> {
    let bare = &line[..line.len() - line_end_len(line)];
    let Some((masked, range)) = masked else { return Cow::Borrowed(bare) };
    let counted = masked.key(range).unwrap_or_default();
    let length = counted.len() - line_end_len(&counted);
    Cow::Owned(counted[..length].to_vec())
}
