//! Which changes are meant: by their numbers, or by lines in them.

use std::collections::BTreeSet;
use std::ops::RangeInclusive;

use super::take::{Pick, lines_of};
use crate::internal::kinds::text::{Grain, detail};
use crate::internal::model::{Form, TextComparison};
use crate::internal::rules::MaskedText;

/// The changes that were asked for.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Selection {
    /// Changes by number, from 1.
    pub changes: Vec<RangeInclusive<usize>>,
    /// All changes but these.
    pub all_but: Vec<RangeInclusive<usize>>,
    /// Lines of the text before, from 1.
    pub before: Vec<RangeInclusive<usize>>,
    /// Lines of the text after, from 1.
    pub after: Vec<RangeInclusive<usize>>,
}

/// Why changes cannot be chosen so.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum SelectionError {
    /// There is no such change.
    #[error("there is no change {number}: {}", match changes { 0 => "there are none".to_owned(), 1 => "there is just one".to_owned(), _ => format!("they are numbered from 1 to {changes}") })]
    NoChange {
        /// The number that was asked for.
        number: usize,
        /// How many there are.
        changes: usize,
    },
    /// A line is in no change.
    #[error("line {line} of the side {side} is in no change: there is nothing to take")]
    NoSuchLine {
        /// The line, from 1.
        line: usize,
        /// Its side.
        side: &'static str,
    },
    /// A line is part of a change that moves as a whole.
    #[error("line {line} of the side {side} is in change {change}, which moves as a whole: take it by its number")]
    Moves {
        /// The line, from 1.
        line: usize,
        /// Its side.
        side: &'static str,
        /// The change.
        change: usize,
    },
}

impl Selection {
    /// Whether each of so many changes is meant; lines are not looked at.
    ///
    /// # Errors
    /// When a change is not there.
    pub fn numbered(&self, changes: usize) -> Result<Vec<bool>, SelectionError> {
        Ok(self.by_number(changes)?.into_iter().map(|pick| pick == Pick::Take).collect())
    }

    /// A pick for every change.
    ///
    /// # Errors
    /// When a change is not there, or a line is in none.
    pub fn picks(
        &self,
        (before, after): (&MaskedText<'_>, &MaskedText<'_>),
        comparison: &TextComparison,
    ) -> Result<Vec<Pick>, SelectionError> {
        let mut picks = self.by_number(comparison.changes.len())?;
        self.add_lines((before, after), comparison, &mut picks)?;
        self.all_lines_are_found(comparison, &picks)?;
        Ok(picks)
    }

    /// What is chosen by number.
    fn by_number(&self, changes: usize) -> Result<Vec<Pick>, SelectionError> {
        let mut picks = vec![Pick::Leave; changes];
        let check = |range: &RangeInclusive<usize>| {
            let number = if *range.start() == 0 { 0 } else { *range.end() };
            let is_there = (1..=changes).contains(&number) && range.start() <= range.end();
            if is_there { Ok(range.clone()) } else { Err(SelectionError::NoChange { number, changes }) }
        };
        for range in &self.changes {
            check(range)?.for_each(|number| picks[number - 1] = Pick::Take);
        }
        if !self.all_but.is_empty() {
            picks.fill(Pick::Take);
            for range in &self.all_but {
                check(range)?.for_each(|number| picks[number - 1] = Pick::Leave);
            }
        }
        Ok(picks)
    }

    /// Adds what is chosen by single lines.
    fn add_lines(
        &self,
        (before, after): (&MaskedText<'_>, &MaskedText<'_>),
        comparison: &TextComparison,
        picks: &mut [Pick],
    ) -> Result<(), SelectionError> {
        for place in &comparison.places {
            let rows = detail((before, &place.before), (after, &place.after), &Grain::Line).rows;
            let mut chosen = (BTreeSet::new(), BTreeSet::new());
            for (b, a) in rows.iter().map(lines_of) {
                let (b, a) =
                    (b.map(|line| place.before.lines.start + line), a.map(|line| place.after.lines.start + line));
                let named = |line: Option<usize>, ranges: &[RangeInclusive<usize>]| {
                    line.filter(|line| ranges.iter().any(|range| range.contains(&(line + 1))))
                };
                let (b_named, a_named) = (named(b, &self.before), named(a, &self.after));
                if comparison.changes[place.change].form == Form::Moved {
                    let change = comparison.changes[place.change].number;
                    if let Some(line) = b_named {
                        return Err(SelectionError::Moves { line: line + 1, side: "before", change });
                    }
                    if let Some(line) = a_named {
                        return Err(SelectionError::Moves { line: line + 1, side: "after", change });
                    }
                }
                chosen.0.extend(b_named);
                chosen.1.extend(a_named);
            }
            if picks[place.change] == Pick::Leave && (!chosen.0.is_empty() || !chosen.1.is_empty()) {
                picks[place.change] = Pick::Rows { before: chosen.0, after: chosen.1 };
            }
        }
        Ok(())
    }

    fn all_lines_are_found(&self, comparison: &TextComparison, picks: &[Pick]) -> Result<(), SelectionError> {
        let inside = |line: usize, is_before: bool| {
            let rows = picks.iter().any(|pick| match pick {
                Pick::Rows { before, after } => (if is_before { before } else { after }).contains(&(line - 1)),
                _ => false,
            });
            let taken = comparison.places.iter().filter(|place| picks[place.change] == Pick::Take);
            rows || taken
                .map(|place| if is_before { &place.before } else { &place.after })
                .any(|span| span.lines.contains(&(line - 1)))
        };
        for (ranges, side) in [(&self.before, "before"), (&self.after, "after")] {
            for range in ranges {
                // Of a range, the lines that are the same on both sides may be named along with the others.
                let lines = range.clone().take(1 << 20);
                if *range.start() == 0 || !lines.clone().any(|line| inside(line, side == "before")) {
                    return Err(SelectionError::NoSuchLine { line: *range.start(), side });
                }
            }
        }
        Ok(())
    }
}

/// Numbers and ranges of them, as in `2,5-7`.
pub fn parse_numbers(text: &str) -> Option<Vec<RangeInclusive<usize>>> {
    let range = |part: &str| {
        let (start, end) = part.split_once('-').unwrap_or((part, part));
        let (start, end) = (start.trim().parse().ok()?, end.trim().parse().ok()?);
        (1..=end).contains(&start).then_some(start..=end)
    };
    text.split(',').map(range).collect()
}
