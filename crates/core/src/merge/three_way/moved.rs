//! Blocks that one side moved: what the other side edited in them follows to the new place.

use std::collections::HashSet;
use std::ops::Range;

use super::region::{Clash, Joining, Region, RegionOutcome, Three};
use super::regions::plain_regions;
use super::scripts::Scripts;
use crate::internal::align::moves::{Move, find_moves};
use crate::internal::align::{Bounds, Edit, align};
use crate::internal::kinds::text::passages;
use crate::internal::rules::MaskedText;
use crate::internal::text::lines::Lines;

/// A block that one side moved, with what the other edited in it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MovedEdit {
    /// Whether mine moved it, and theirs edited it.
    pub moved_by_mine: bool,
    /// Its lines in the base, counted from 0.
    pub base: Range<usize>,
    /// Its lines on the side that moved it.
    pub moved_to: Range<usize>,
}

/// The blocks that either side moved.
pub(super) struct Moves {
    mine: Vec<Move>,
    theirs: Vec<Move>,
}

impl Moves {
    pub(super) fn of(scripts: &Scripts, texts: Three<&MaskedText<'_>>, bounds: &Bounds) -> Self {
        let found = |edits: &[Edit], side: &MaskedText<'_>| {
            let edits = passages(edits.to_vec(), (texts.base.text(), side.text()), bounds.pairs());
            find_moves(&edits, texts.base.text(), side.text(), bounds)
        };
        Self { mine: found(&scripts.mine, texts.mine), theirs: found(&scripts.theirs, texts.theirs) }
    }

    pub(super) fn is_empty(&self) -> bool {
        self.mine.is_empty() && self.theirs.is_empty()
    }
}

/// Some lines of a text, and what takes their place.
struct Replacement {
    lines: Range<usize>,
    with: Vec<u8>,
}

/// Both sides with the edits in moved blocks at the new places of the blocks, and taken out of the old ones.
pub(super) struct Carried {
    pub(super) mine: Vec<u8>,
    pub(super) theirs: Vec<u8>,
    pub(super) moved: Vec<MovedEdit>,
}

/// Carries the edits in moved blocks to the new places of the blocks. Nothing where there are none.
pub(super) fn carried(
    moves: &Moves,
    scripts: &Scripts,
    texts: Three<&MaskedText<'_>>,
    bounds: &Bounds,
) -> Option<Carried> {
    let lines = texts.map(|masked| Lines::of(masked.text()));
    let (mut of_mine, mut of_theirs) = (Vec::new(), Vec::new());
    let mut told = Vec::new();
    for (moves, others, edits, is_mine) in
        [(&moves.mine, &moves.theirs, &scripts.theirs, true), (&moves.theirs, &moves.mine, &scripts.mine, false)]
    {
        let (mover, editor) = if is_mine { (&lines.mine, &lines.theirs) } else { (&lines.theirs, &lines.mine) };
        for block in moves {
            let (from, to) = (&block.from.1, &block.to.1);
            if overlapping(others, from).next().is_some() {
                continue;
            }
            let Some(edited) = edited_block(edits, from) else { continue };
            let texts = Three::new(lines.base.text(from.clone()), mover.text(to.clone()), editor.text(edited.clone()));
            let Some(merged) = merged_block(texts, bounds) else { continue };
            let (at_mover, at_editor) =
                if is_mine { (&mut of_mine, &mut of_theirs) } else { (&mut of_theirs, &mut of_mine) };
            at_mover.push(Replacement { lines: to.clone(), with: merged });
            at_editor.push(Replacement { lines: edited, with: texts.base.to_vec() });
            told.push(MovedEdit { moved_by_mine: is_mine, base: from.clone(), moved_to: to.clone() });
        }
    }
    if told.is_empty() {
        return None;
    }
    Some(Carried { mine: replaced(&lines.mine, of_mine)?, theirs: replaced(&lines.theirs, of_theirs)?, moved: told })
}

/// Those of some moves, which are in the order of their places before, that begin in some lines of the base.
fn overlapping<'m>(moves: &'m [Move], lines: &'m Range<usize>) -> impl Iterator<Item = &'m Move> {
    let first = moves.partition_point(|other| other.from.1.end <= lines.start);
    moves[first..].iter().take_while(|other| other.from.1.start < lines.end)
}

/// The lines of the editing side that stand for a block, if that side edited it and nothing across its ends, and did not remove it.
fn edited_block(edits: &[Edit], block: &Range<usize>) -> Option<Range<usize>> {
    // Lines put in at an end of the block do not belong to it.
    let first = edits.partition_point(|edit| edit.before.lines.end <= block.start);
    let inside = edits[first..].iter().take_while(|edit| edit.before.lines.start < block.end).count();
    let inside = &edits[first..first + inside];
    let (head, tail) = (inside.first()?, inside.last()?);
    if head.before.lines.start < block.start || tail.before.lines.end > block.end {
        return None;
    }
    let lines = head.after.lines.start - (head.before.lines.start - block.start)
        ..tail.after.lines.end + (block.end - tail.before.lines.end);
    (!lines.is_empty()).then_some(lines)
}

/// A block with the edits of one side at the place and in the indentation that the other gave it; nothing where they clash.
fn merged_block(texts: Three<&[u8]>, bounds: &Bounds) -> Option<Vec<u8>> {
    let shift = Indentation::between(texts.base, texts.mine);
    let shifted = |text: &[u8]| shift.as_ref().map_or_else(|| Some(text.to_vec()), |shift| shift.of(text));
    let (base, theirs) = (shifted(texts.base)?, shifted(texts.theirs)?);
    let texts = Three::new(&base[..], texts.mine, &theirs[..]);
    let scripts =
        Scripts { mine: align(texts.base, texts.mine, bounds), theirs: align(texts.base, texts.theirs, bounds) };
    let masked = texts.map(MaskedText::unmasked);
    let regions = plain_regions(scripts, masked.as_ref(), bounds);
    if regions.iter().any(Region::is_conflict) {
        return None;
    }
    let mut merged = Vec::new();
    let mut at = 0;
    for region in &regions {
        merged.extend_from_slice(&texts.base[at..region.base.bytes.start]);
        merged.extend_from_slice(match &region.outcome {
            RegionOutcome::Theirs => &texts.theirs[region.theirs.bytes.clone()],
            _ => &texts.mine[region.mine.bytes.clone()],
        });
        at = region.base.bytes.end;
    }
    merged.extend_from_slice(&texts.base[at..]);
    Some(merged)
}

/// By how much a block was indented anew, all of it alike.
struct Indentation {
    less: Vec<u8>,
    more: Vec<u8>,
}

impl Indentation {
    /// The indentation that makes one block of another, if there is one and it changes anything.
    fn between(from: &[u8], to: &[u8]) -> Option<Self> {
        let indent = |line: &[u8]| line[..line.len() - line.trim_ascii_start().len()].to_vec();
        let first = |text: &[u8]| Lines::of(text).iter().find(|line| !line.trim_ascii().is_empty()).map(indent);
        let (old, new) = (first(from)?, first(to)?);
        let shift = if let Some(more) = new.strip_suffix(&old[..]) {
            Self { less: Vec::new(), more: more.to_vec() }
        } else {
            Self { less: old.strip_suffix(&new[..])?.to_vec(), more: Vec::new() }
        };
        if shift.less.is_empty() && shift.more.is_empty() {
            return None;
        }
        // Every line that both hold was indented so.
        shift.of(from).filter(|shifted| {
            let moved = Lines::of(to);
            let there: HashSet<&[u8]> = moved.iter().collect();
            let kept = Lines::of(shifted).iter().filter(|line| there.contains(line)).count();
            2 * kept >= moved.len()
        })?;
        Some(shift)
    }

    /// A text indented so; nothing where a line has less than what is taken off.
    fn of(&self, text: &[u8]) -> Option<Vec<u8>> {
        let mut shifted = Vec::with_capacity(text.len());
        for line in Lines::of(text).iter() {
            if line.trim_ascii().is_empty() {
                shifted.extend_from_slice(line);
                continue;
            }
            shifted.extend_from_slice(&self.more);
            shifted.extend_from_slice(line.strip_prefix(&self.less[..])?);
        }
        Some(shifted)
    }
}

/// A text with some of its lines replaced; nothing where they overlap.
fn replaced(lines: &Lines<'_>, mut replacements: Vec<Replacement>) -> Option<Vec<u8>> {
    replacements.sort_by_key(|one| one.lines.start);
    let mut text = Vec::new();
    let mut at = 0;
    for Replacement { lines: range, with } in replacements {
        if range.start < at {
            return None;
        }
        text.extend_from_slice(lines.text(at..range.start));
        text.extend(with);
        at = range.end;
    }
    text.extend_from_slice(lines.text(at..lines.len()));
    Some(text)
}

/// The region that a line of one side is in.
fn region_of(regions: &[Region], line: usize, is_mine: bool) -> Option<usize> {
    let side = |region: &Region| if is_mine { region.mine.lines.clone() } else { region.theirs.lines.clone() };
    let at = regions.partition_point(|region| side(region).end <= line);
    (at < regions.len() && side(&regions[at]).contains(&line)).then_some(at)
}

/// Tells of the regions that blocks with the edits of the other side came to. `lines_of` gives the lines of a region on the side that moved it.
pub(super) fn tell_carried(moved: &[MovedEdit], regions: &mut [Region], lines_of: impl Fn(&Region, bool) -> Vec<u8>) {
    for MovedEdit { moved_by_mine: by_mine, moved_to, .. } in moved {
        let Some(at) = region_of(regions, moved_to.start, *by_mine) else { continue };
        if matches!(regions[at].outcome, RegionOutcome::Mine | RegionOutcome::Theirs) {
            let lines = lines_of(&regions[at], *by_mine);
            regions[at].outcome = RegionOutcome::Joined(lines, Joining::Moved { by_mine: *by_mine });
        }
    }
}

/// Makes conflicts of blocks that both moved to different places, or that one moved and the other removed: taken line by line, they would be
/// there twice, or come back.
pub(super) fn mark_moved_apart(moves: &Moves, scripts: &Scripts, regions: &mut [Region]) {
    let clashes = |region: &mut Region, clash: Clash| {
        if matches!(region.outcome, RegionOutcome::Mine | RegionOutcome::Theirs) {
            region.outcome = RegionOutcome::Conflict(clash);
        }
    };
    for mine in &moves.mine {
        let Some(at) = region_of(regions, mine.to.1.start, true) else { continue };
        for theirs in overlapping(&moves.theirs, &mine.from.1) {
            let Some(other) = region_of(regions, theirs.to.1.start, false).filter(|other| *other != at) else {
                continue;
            };
            clashes(&mut regions[at], Clash::MovedApart);
            clashes(&mut regions[other], Clash::MovedApart);
        }
    }
    for (moves, others, edits, is_mine) in
        [(&moves.mine, &moves.theirs, &scripts.theirs, true), (&moves.theirs, &moves.mine, &scripts.mine, false)]
    {
        for block in moves.iter().filter(|block| overlapping(others, &block.from.1).next().is_none()) {
            let (start, end) = (block.from.1.start, block.from.1.end);
            let covering = edits.get(edits.partition_point(|edit| edit.before.lines.end < end));
            let is_removed = covering.is_some_and(|edit| edit.after.is_empty() && edit.before.lines.start <= start);
            if is_removed && let Some(at) = region_of(regions, block.to.1.start, is_mine) {
                clashes(&mut regions[at], Clash::MovedAndRemoved);
            }
        }
    }
}
