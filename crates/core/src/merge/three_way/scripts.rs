//! Two edit scripts against one base, brought into step: where the same text could be told by several scripts, both tell it alike, and edits
//! that need not touch do not.

use std::cmp::Ordering;

use super::region::Three;
use crate::internal::align::{Bounds, Edit, places};
use crate::internal::rules::MaskedText;

/// The edits of both sides against the base.
#[derive(Clone, Debug)]
pub(super) struct Scripts {
    pub(super) mine: Vec<Edit>,
    pub(super) theirs: Vec<Edit>,
}

/// One of the two sides.
#[derive(Clone, Copy, PartialEq, Eq)]
enum SideOf {
    Mine,
    Theirs,
}

impl Scripts {
    /// Brings both scripts into step.
    pub(super) fn in_step(mut self, texts: Three<&MaskedText<'_>>, bounds: &Bounds) -> Self {
        self.unify(texts, bounds);
        self.part(texts, bounds);
        self
    }

    fn of(&self, side: SideOf) -> &Vec<Edit> {
        if side == SideOf::Mine { &self.mine } else { &self.theirs }
    }

    fn of_mut(&mut self, side: SideOf) -> &mut Vec<Edit> {
        if side == SideOf::Mine { &mut self.mine } else { &mut self.theirs }
    }

    fn places(&self, side: SideOf, at: usize, texts: Three<&MaskedText<'_>>, bounds: &Bounds) -> Vec<Edit> {
        let text = if side == SideOf::Mine { texts.mine } else { texts.theirs };
        places(self.of(side), at, (texts.base, text), bounds)
    }

    /// Puts lines that one side added, or removed, to where the other added or removed the same among others, if they can stand there: taken
    /// apart, they would be added or removed twice.
    fn unify(&mut self, texts: Three<&MaskedText<'_>>, bounds: &Bounds) {
        for (side, other) in [(SideOf::Mine, SideOf::Theirs), (SideOf::Theirs, SideOf::Mine)] {
            for at in 0..self.of(side).len() {
                if !is_one_sided(&self.of(side)[at]) {
                    continue;
                }
                let found = self.places(side, at, texts, bounds);
                let (Some(first), Some(last)) = (found.first(), found.last()) else { continue };
                let start = self.of(other).partition_point(|edit| edit.base().end < first.base().start);
                let near = self.of(other)[start..].iter().take_while(|edit| edit.base().start <= last.base().end);
                let of_side =
                    if side == SideOf::Mine { (texts.mine, texts.theirs) } else { (texts.theirs, texts.mine) };
                let twin =
                    near.into_iter().find_map(|edit| found.iter().find(|place| is_part_of(place, edit, of_side)));
                if let Some(place) = twin.cloned() {
                    self.of_mut(side)[at] = place;
                }
            }
        }
    }

    /// Slides edits that touch one of the other side away from it, where they can stand elsewhere.
    fn part(&mut self, texts: Three<&MaskedText<'_>>, bounds: &Bounds) {
        let mut touching: Vec<(SideOf, usize)> = Vec::new();
        for (side, other) in [(SideOf::Mine, SideOf::Theirs), (SideOf::Theirs, SideOf::Mine)] {
            let is_touching = |edit: &Edit| is_one_sided(edit) && self.touches(edit, other, texts);
            touching
                .extend((0..self.of(side).len()).filter(|at| is_touching(&self.of(side)[*at])).map(|at| (side, at)));
        }
        // Which of two edits gives way depends on what they are, not on whose they are.
        let content = |(side, at): &(SideOf, usize)| {
            let edit = &self.of(*side)[*at];
            let text = if *side == SideOf::Mine { texts.mine } else { texts.theirs };
            (edit.base().start, edit.base().end, &text.text()[edit.after.bytes.clone()])
        };
        let order = |one: &(SideOf, usize), other: &(SideOf, usize)| -> Ordering { content(one).cmp(&content(other)) };
        touching.sort_by(order);
        for (side, at) in touching {
            let other = if side == SideOf::Mine { SideOf::Theirs } else { SideOf::Mine };
            let edit = &self.of(side)[at];
            if !self.touches(edit, other, texts) {
                continue;
            }
            let found = edit.base().start;
            let free =
                self.places(side, at, texts, bounds).into_iter().filter(|place| !self.touches(place, other, texts));
            let nearest = free.min_by_key(|place| (place.base().start.abs_diff(found), place.base().start));
            if let Some(place) = nearest {
                self.of_mut(side)[at] = place;
            }
        }
    }

    /// Whether an edit touches one of the other side of which it is no part.
    fn touches(&self, edit: &Edit, other: SideOf, texts: Three<&MaskedText<'_>>) -> bool {
        let others = self.of(other);
        let start = others.partition_point(|other| other.base().end < edit.base().start);
        let near = others[start..].iter().take_while(|other| other.base().start <= edit.base().end);
        let texts = if other == SideOf::Theirs { (texts.mine, texts.theirs) } else { (texts.theirs, texts.mine) };
        near.into_iter().any(|found| !is_part_of(edit, found, texts))
    }
}

/// The lines of the base that an edit is about.
trait OfBase {
    fn base(&self) -> &std::ops::Range<usize>;
}

impl OfBase for Edit {
    fn base(&self) -> &std::ops::Range<usize> {
        &self.before.lines
    }
}

/// Whether it only adds lines or only removes some.
fn is_one_sided(edit: &Edit) -> bool {
    edit.before.is_empty() != edit.after.is_empty()
}

/// Whether an edit that only adds or only removes lines is an end of what an edit of the other side adds, or a part of what that removes.
fn is_part_of(edit: &Edit, other: &Edit, (own, others): (&MaskedText<'_>, &MaskedText<'_>)) -> bool {
    if edit.before.is_empty() {
        let (lines, added) = (&own.text()[edit.after.bytes.clone()], &others.text()[other.after.bytes.clone()]);
        let at = edit.base().start;
        let is_tail = || added.strip_suffix(lines).is_some_and(|head| head.is_empty() || head.ends_with(b"\n"));
        at == other.base().start && added.starts_with(lines) || at == other.base().end && is_tail()
    } else {
        other.base().start <= edit.base().start && edit.base().end <= other.base().end
    }
}
