//! One side against the base, as a comparison of two texts: whatever draws the rows of a pair draws them of a side.

use tideline_core::internal::merge::{Region, Three};
use tideline_core::internal::model::{Change, Form, Place, TextComparison, Weight};

use super::MergeView;
use crate::view::{FileView, Labels};

/// One of the two sides.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum WhichSide {
    Mine,
    Theirs,
}

impl WhichSide {
    /// That of three which is this side's.
    pub(crate) fn of<T>(self, three: Three<T>) -> T {
        match self {
            Self::Mine => three.mine,
            Self::Theirs => three.theirs,
        }
    }
}

/// The base and one side, with a change for each region that the side changed.
pub(crate) struct SideTexts {
    labels: Labels,
    comparison: TextComparison,
    /// For each region, the place of its change.
    places: Vec<Option<usize>>,
    which: WhichSide,
}

impl SideTexts {
    pub(crate) fn of(view: &MergeView<'_>, which: WhichSide) -> Self {
        let labels = Labels::new(view.labels.base.clone(), which.of(view.labels.as_ref()).clone());
        let mut comparison = TextComparison::default();
        let mut places = Vec::with_capacity(view.merge.regions.len());
        for (at, region) in view.merge.regions.iter().enumerate() {
            let lines = view.merge.lines_of(region);
            let is_changed = which.of(lines) != lines.base;
            places.push(is_changed.then_some(comparison.places.len()));
            if is_changed {
                let change = change(at + 1, region, which);
                let (before, after) = (change.before.clone(), change.after.clone());
                comparison.places.push(Place { change: comparison.changes.len(), before, after });
                comparison.changes.push(change);
            }
        }
        Self { labels, comparison, places, which }
    }

    /// The pair of texts.
    pub(crate) fn view<'a>(&'a self, view: &'a MergeView<'a>) -> FileView<'a> {
        let texts = view.merge.texts.as_ref();
        FileView {
            name: view.name,
            type_name: view.type_name,
            labels: &self.labels,
            note: None,
            before: texts.base,
            after: self.which.of(texts),
            comparison: &self.comparison,
            first: (0, 0),
            originals: (None, None),
            extracted: None,
        }
    }

    /// The number of the first line of a region on this side, from 0.
    pub(crate) fn first_line(&self, region: &Region) -> usize {
        self.which.of(Three::new(&region.base, &region.mine, &region.theirs)).lines.start
    }

    /// The place of a region, by its index, if the side changed it.
    pub(crate) fn place(&self, region: usize) -> Option<usize> {
        self.places[region]
    }
}

fn change(number: usize, region: &Region, which: WhichSide) -> Change {
    let (before, after) =
        (region.base.clone(), which.of(Three::new(&region.base, &region.mine, &region.theirs)).clone());
    let form = match (before.is_empty(), after.is_empty()) {
        (true, false) => Form::New,
        (false, true) => Form::Gone,
        _ => Form::Edited,
    };
    let weight = if region.counts { Weight::Counted } else { Weight::Muted };
    Change { number, form, weight, before, after, equal: 0, edited: 0, reindented: false }
}
