//! Three texts or three trees, and what comes of them.

use tideline_core::internal::merge::{
    Joining, MergedEntry, Region, RegionOutcome, TextMerge, Three, Together, TreeMerge,
};

use crate::wording::merge::{clash_in_words, counts_in_words, joining_in_words};
use crate::wording::tree::{not_looked_at, remarks};

/// Three texts and what comes of them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct MergeView<'a> {
    /// The name in the heading; empty when the labels say it all.
    pub name: &'a str,
    /// The name that tells the type of the file, for its sections and its syntax.
    pub type_name: &'a str,
    /// What the base and the two sides are called.
    pub labels: &'a Three<String>,
    /// What else the heading says, such as what the sides disagree on besides the lines.
    pub note: Option<&'a str>,
    /// The texts.
    pub merge: &'a TextMerge<'a>,
    /// Which regions are shown; nothing means all.
    pub only: Option<&'a [Together]>,
    /// Whether regions in which nothing differs that counts are left out.
    pub counted_only: bool,
}

impl MergeView<'_> {
    /// The regions that are shown, each with its number from 1 among all of them.
    pub(crate) fn regions(&self) -> impl Iterator<Item = (usize, &Region)> {
        let shown = |region: &Region| {
            self.only.is_none_or(|only| only.contains(&region.together())) && (region.counts || !self.counted_only)
        };
        self.merge
            .regions
            .iter()
            .enumerate()
            .filter(move |(_, region)| shown(region))
            .map(|(at, region)| (at + 1, region))
    }

    /// Who changed a region, and how that goes together, in words.
    pub fn who(&self, region: &Region) -> String {
        let Three { mine, theirs, .. } = self.labels;
        match &region.outcome {
            RegionOutcome::Mine => format!("by {mine}"),
            RegionOutcome::Theirs => format!("by {theirs}"),
            RegionOutcome::Alike => format!("by {mine} and {theirs} alike"),
            RegionOutcome::Joined(_, Joining::Moved { by_mine: true }) => {
                format!("moved here by {mine}, edited by {theirs}")
            }
            RegionOutcome::Joined(_, Joining::Moved { by_mine: false }) => {
                format!("moved here by {theirs}, edited by {mine}")
            }
            RegionOutcome::Joined(_, joining) => format!("by {mine} and {theirs}: {}", joining_in_words(*joining)),
            RegionOutcome::Conflict(clash) => clash_in_words(*clash, region, self.labels),
        }
    }

    /// How many regions there are of each, in words.
    pub fn counts(&self) -> String {
        counts_in_words(self.merge.regions.iter(), self.labels)
    }
}

/// Three trees and what comes of them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct MergedTreeView<'a> {
    /// What the base and the two sides are called.
    pub labels: &'a Three<String>,
    /// What comes of them.
    pub merge: &'a TreeMerge,
    /// Which paths are shown; nothing means all.
    pub only: Option<&'a [Together]>,
}

impl MergedTreeView<'_> {
    /// The paths that are shown.
    pub(crate) fn entries(&self) -> impl Iterator<Item = &MergedEntry> {
        self.merge.entries.iter().filter(|entry| self.only.is_none_or(|only| only.contains(&entry.together)))
    }
}

impl MergedTreeView<'_> {
    /// What is not shown, and what was not looked at.
    pub(crate) fn notes(&self, plain: bool) -> Vec<String> {
        let mut notes = Vec::new();
        if let Some(only) = self.only {
            let hidden = Together::ALL.into_iter().filter(|together| !only.contains(together));
            let hidden: Vec<String> = hidden
                .map(|together| (self.merge.count(together), together.name()))
                .filter(|(count, _)| *count > 0)
                .map(|(count, name)| format!("{count} {name}"))
                .collect();
            if !hidden.is_empty() {
                notes.push(format!("not shown: {}", hidden.join(", ")));
            }
        }
        for left in &self.merge.left_out {
            for note in not_looked_at(left, plain) {
                if !notes.contains(&note) {
                    notes.push(note);
                }
            }
        }
        notes.extend(remarks(&self.merge.remarks, plain));
        notes
    }
}
