//! What was decided on the screen of a merge, and where its reader is.

use tideline_core::internal::merge::{Region, Resolution, TextMerge};

use crate::review::bars::Help;

/// What was decided on the screen of a merge, and where its reader is.
#[derive(Default)]
pub(super) struct MergeState {
    /// How each conflict is resolved, by its number from 0.
    pub(super) resolutions: Vec<Option<Resolution>>,
    /// What was saved last.
    pub(super) saved: Option<Vec<Option<Resolution>>>,
    /// The region at hand, by its index.
    pub(super) current: usize,
    /// Rows that the panes are away from where the region at hand is.
    pub(super) offset: isize,
    /// Whether one goes through all regions, and not through conflicts only.
    pub(super) all: bool,
    pub(super) message: String,
    pub(super) help: Option<Help>,
    /// Whether the reader was asked to leave without saving.
    pub(super) asked_to_leave: bool,
    done: Vec<Decision>,
    undone: Vec<Decision>,
}

/// A conflict, and how it was resolved before.
type Decision = (usize, Option<Resolution>);

impl MergeState {
    pub(super) fn of(merge: &TextMerge<'_>) -> Self {
        let conflicts = merge.conflicts().count();
        let current = merge.regions.iter().position(Region::is_conflict).unwrap_or(0);
        Self { resolutions: vec![None; conflicts], current, all: conflicts == 0, ..Self::default() }
    }

    /// The number of the conflict at hand, from 0.
    pub(super) fn conflict(&self, merge: &TextMerge<'_>) -> Option<usize> {
        let at_hand = merge.regions.get(self.current).filter(|region| region.is_conflict());
        at_hand.map(|_| merge.regions[..self.current].iter().filter(|region| region.is_conflict()).count())
    }

    /// How many conflicts are left.
    pub(super) fn left(&self) -> usize {
        self.resolutions.iter().filter(|resolution| resolution.is_none()).count()
    }

    /// Whether something was decided and not saved.
    pub(super) fn is_unsaved(&self) -> bool {
        match &self.saved {
            Some(saved) => *saved != self.resolutions,
            None => self.resolutions.iter().any(Option::is_some),
        }
    }

    /// Decides the conflict at hand.
    pub(super) fn decide(&mut self, merge: &TextMerge<'_>, resolution: Option<Resolution>) {
        let Some(conflict) = self.conflict(merge) else {
            "there is no conflict here: n goes to the next".clone_into(&mut self.message);
            return;
        };
        let before = std::mem::replace(&mut self.resolutions[conflict], resolution);
        self.done.push((conflict, before));
        self.undone.clear();
    }

    /// Takes back the last decision, or does it again; goes to its conflict.
    pub(super) fn take_back(&mut self, merge: &TextMerge<'_>, again: bool) {
        let (from, to) = if again { (&mut self.undone, &mut self.done) } else { (&mut self.done, &mut self.undone) };
        let Some((conflict, resolution)) = from.pop() else {
            "there is nothing to take back".clone_into(&mut self.message);
            return;
        };
        let before = std::mem::replace(&mut self.resolutions[conflict], resolution);
        to.push((conflict, before));
        let mut conflicts = merge.regions.iter().enumerate().filter(|(_, region)| region.is_conflict());
        if let Some((at, _)) = conflicts.nth(conflict) {
            self.go(at);
        }
    }

    fn go(&mut self, region: usize) {
        self.current = region;
        self.offset = 0;
    }

    /// Goes to the next region, or the one before, of those that are gone through; whether there is one.
    pub(super) fn step(&mut self, merge: &TextMerge<'_>, forward: bool) -> bool {
        let is_met = |at: &usize| self.all || merge.regions[*at].is_conflict();
        let next = if forward {
            (self.current + 1..merge.regions.len()).find(is_met)
        } else {
            (0..self.current).rev().find(is_met)
        };
        if let Some(next) = next {
            self.go(next);
        }
        next.is_some()
    }
}
