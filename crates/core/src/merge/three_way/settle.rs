//! What becomes of a stretch that both sides changed.
//!
//! What both made alike is taken once, at the ends of the stretch and, where it is long enough to tell something, between. What is left are
//! conflicts, no wider than the lines that clash.

use std::ops::Range;

use super::options::{Insertions, MergeOptions};
use super::region::{Clash, Joining, Region, RegionOutcome, Three};
use super::stretch::{Piece, Stretches};
use super::units::merge_words;
use crate::internal::align::Bounds;
use crate::internal::align::script::script;
use crate::internal::text::bytes::is_letter_or_digit;
use crate::internal::text::lines::intern;

/// Lines that both sides have between two that clash part a conflict if they are so many…
const FEWEST_LINES: usize = 3;
/// …or hold so many letters and digits.
const FEWEST_LETTERS: usize = 10;

/// Adds the regions of a stretch that both sides changed.
pub(super) fn settle(stretches: &Stretches<'_>, options: &MergeOptions, regions: &mut Vec<Region>) {
    let whole = stretches.whole();
    if let Some((outcome, dropped)) = settled(stretches, &whole) {
        return regions.push(region(stretches, &whole, outcome, dropped));
    }
    for (piece, is_agreed) in pieces(stretches) {
        if !is_agreed {
            clash(stretches, &piece, options, regions);
        } else if let Some((outcome, dropped)) = settled(stretches, &piece) {
            let texts = stretches.texts(&piece);
            if texts.base != texts.mine || texts.mine != texts.theirs {
                regions.push(region(stretches, &piece, outcome, dropped));
            }
        }
    }
}

fn region(stretches: &Stretches<'_>, piece: &Piece, outcome: RegionOutcome, dropped: usize) -> Region {
    let counts = !stretches.is_masked || {
        let counted = stretches.counted(piece);
        counted.mine != counted.base || counted.theirs != counted.base
    };
    let Three { base, mine, theirs } = stretches.spans(piece);
    Region { base, mine, theirs, outcome, dropped, counts }
}

/// What becomes of a piece in which the sides do not clash, and how many lines of theirs were dropped for it.
fn settled(stretches: &Stretches<'_>, piece: &Piece) -> Option<(RegionOutcome, usize)> {
    let texts = stretches.texts(piece);
    if texts.mine == texts.theirs {
        return Some((RegionOutcome::Alike, 0));
    }
    if !stretches.is_masked {
        return None;
    }
    let counted = stretches.counted(piece);
    if counted.theirs == counted.base || counted.theirs == counted.mine {
        return Some((RegionOutcome::Mine, unlike_lines(stretches, piece)));
    }
    if counted.mine == counted.base {
        let joined = by_lines(stretches, piece).or_else(|| merge_words(texts));
        return Some(match joined {
            Some(lines) => (RegionOutcome::Joined(lines, Joining::Rules), 0),
            None => (RegionOutcome::Theirs, 0),
        });
    }
    None
}

/// A piece of as many lines on all sides, merged word by word in each line.
fn by_lines(stretches: &Stretches<'_>, piece: &Piece) -> Option<Vec<u8>> {
    let lines = lines_of(stretches, piece)?;
    let merged: Option<Vec<_>> = lines.into_iter().map(merge_words).collect();
    merged.map(|lines| lines.concat())
}

/// The lines of a piece side by side, if there are as many of each.
fn lines_of<'t>(stretches: &Stretches<'t>, piece: &Piece) -> Option<Vec<Three<&'t [u8]>>> {
    let of = &stretches.of;
    if piece.base.len() != piece.mine.len() || piece.base.len() != piece.theirs.len() {
        return None;
    }
    let line = |at: usize| {
        Three::new(
            of.base.line(piece.base.start + at),
            of.mine.line(piece.mine.start + at),
            of.theirs.line(piece.theirs.start + at),
        )
    };
    Some((0..piece.base.len()).map(line).collect())
}

/// How many lines of theirs are not in mine as they are.
fn unlike_lines(stretches: &Stretches<'_>, piece: &Piece) -> usize {
    let (mine, theirs) = sides(stretches, piece);
    let found = script(&intern(&mine, &theirs), &Bounds::default());
    let (gone, new) = (count(&found.gone), count(&found.new));
    gone.max(new)
}

fn sides<'t>(stretches: &Stretches<'t>, piece: &Piece) -> (Vec<&'t [u8]>, Vec<&'t [u8]>) {
    (stretches.of.mine.lines(piece.mine.clone()), stretches.of.theirs.lines(piece.theirs.clone()))
}

fn count(alone: &[bool]) -> usize {
    alone.iter().filter(|alone| **alone).count()
}

/// The pieces of a stretch in order: those in which both sides hold the same lines, and those in which they clash.
fn pieces(stretches: &Stretches<'_>) -> Vec<(Piece, bool)> {
    let Three { base, mine, theirs } = &stretches.of;
    let keys = Three::new(base.keys(), mine.keys(), theirs.keys());
    let clashes = joined_over_short_runs(apart(&keys.mine, &keys.theirs), |at| letters(keys.mine[at]));
    let mut found = Vec::new();
    let (mut m, mut t) = (0, 0);
    for (clash_mine, clash_theirs) in clashes {
        if clash_mine.start > m {
            found.push((Three::new(0..0, m..clash_mine.start, t..clash_theirs.start), true));
        }
        (m, t) = (clash_mine.end, clash_theirs.end);
        found.push((Three::new(0..0, clash_mine, clash_theirs), false));
    }
    if m < mine.len() {
        found.push((Three::new(0..0, m..mine.len(), t..theirs.len()), true));
    }
    give_base_lines(&mut found, &keys.base, &keys.mine);
    found
}

/// What is apart in the lines of both sides, whichever is called mine.
fn apart(mine: &[&[u8]], theirs: &[&[u8]]) -> Vec<Ranges> {
    if mine > theirs {
        return apart(theirs, mine).into_iter().map(|(theirs, mine)| (mine, theirs)).collect();
    }
    script(&intern(mine, theirs), &Bounds::default()).stretches()
}

/// Parts the lines of the base among pieces: lines that both sides have go with the same lines of the base, and each clash has what lies between.
fn give_base_lines(pieces: &mut [(Piece, bool)], base: &[&[u8]], mine: &[&[u8]]) {
    let agreed: Vec<usize> =
        pieces.iter().filter(|(_, is_agreed)| *is_agreed).flat_map(|(piece, _)| piece.mine.clone()).collect();
    let lines: Vec<&[u8]> = agreed.iter().map(|at| mine[*at]).collect();
    let found = script(&intern(base, &lines), &Bounds::default());
    let mut kept = (0..base.len()).filter(|at| !found.gone[*at]);
    let same: Vec<Option<usize>> = found.new.iter().map(|is_new| if *is_new { None } else { kept.next() }).collect();
    let (mut at, mut passed) = (0, 0);
    for index in 0..pieces.len() {
        let follows_clash = index > 0;
        let is_last = index + 1 == pieces.len();
        let (piece, is_agreed) = &mut pieces[index];
        if !*is_agreed {
            continue;
        }
        let upto = passed + piece.mine.len();
        let mut matched = same[passed..upto].iter().flatten();
        let first = matched.next().copied();
        let last = matched.next_back().copied().or(first);
        let start = match first {
            Some(first) if follows_clash => first,
            // What matches nothing goes with the clash above, if there is one.
            None if follows_clash => same[upto..].iter().flatten().next().copied().unwrap_or(base.len()),
            _ => at,
        };
        let end = if is_last { base.len() } else { last.map_or(start, |last| last + 1) };
        piece.base = start..end;
        (at, passed) = (end, upto);
    }
    let mut at = 0;
    for index in 0..pieces.len() {
        let next = pieces.get(index + 1).map_or(base.len(), |(piece, _)| piece.base.start);
        let (piece, is_agreed) = &mut pieces[index];
        if !*is_agreed {
            piece.base = at..next;
        }
        at = piece.base.end;
    }
}

fn letters(line: &[u8]) -> usize {
    line.iter().filter(|byte| is_letter_or_digit(**byte)).count()
}

/// Lines of mine, and lines of theirs.
type Ranges = (Range<usize>, Range<usize>);

/// Joins clashes with too little between them to tell that they are two.
fn joined_over_short_runs(apart: Vec<Ranges>, letters: impl Fn(usize) -> usize) -> Vec<Ranges> {
    let mut joined: Vec<Ranges> = Vec::with_capacity(apart.len());
    for next in apart {
        match joined.last_mut() {
            Some(last) => {
                let run = last.0.end..next.0.start;
                let tells = run.len() >= FEWEST_LINES || run.clone().map(&letters).sum::<usize>() >= FEWEST_LETTERS;
                if tells {
                    joined.push(next);
                } else {
                    (last.0.end, last.1.end) = (next.0.end, next.1.end);
                }
            }
            None => joined.push(next),
        }
    }
    joined
}

/// Adds what becomes of lines that clash.
fn clash(stretches: &Stretches<'_>, piece: &Piece, options: &MergeOptions, regions: &mut Vec<Region>) {
    let texts = stretches.texts(piece);
    if stretches.is_masked
        && let Some((outcome, dropped)) = settled(stretches, piece)
    {
        return regions.push(region(stretches, piece, outcome, dropped));
    }
    if let Some(order) = options.both_insertions
        && piece.base.is_empty()
        && !piece.mine.is_empty()
        && !piece.theirs.is_empty()
    {
        let lines = in_turn(stretches, piece, order);
        return regions.push(region(stretches, piece, RegionOutcome::Joined(lines, Joining::Insertions), 0));
    }
    if options.by_words
        && let Some(lines) = lines_of(stretches, piece)
    {
        return line_by_line(stretches, piece, &lines, regions);
    }
    let kind = clash_of(texts);
    regions.push(region(stretches, piece, RegionOutcome::Conflict(kind), 0));
}

fn clash_of(texts: Three<&[u8]>) -> Clash {
    if texts.base.is_empty() {
        Clash::Inserted
    } else if texts.mine.is_empty() || texts.theirs.is_empty() {
        Clash::Removed
    } else {
        Clash::Edited
    }
}

/// The lines that both sides put in at one place, one after the other; those that both have are there once.
fn in_turn(stretches: &Stretches<'_>, piece: &Piece, order: Insertions) -> Vec<u8> {
    let (mine, theirs) = sides(stretches, piece);
    let (one, other) = if order == Insertions::MineFirst { (mine, theirs) } else { (theirs, mine) };
    let found = script(&intern(&one, &other), &Bounds::default());
    let (mut f, mut s) = (0, 0);
    let mut lines = Vec::new();
    while f < one.len() || s < other.len() {
        while f < one.len() && found.gone[f] {
            lines.extend_from_slice(one[f]);
            f += 1;
        }
        while s < other.len() && found.new[s] {
            lines.extend_from_slice(other[s]);
            s += 1;
        }
        if f < one.len() {
            lines.extend_from_slice(one[f]);
            (f, s) = (f + 1, s + 1);
        }
    }
    lines
}

/// Lines side by side, each merged by words where that works; what is left in between is a conflict.
fn line_by_line(stretches: &Stretches<'_>, piece: &Piece, lines: &[Three<&[u8]>], regions: &mut Vec<Region>) {
    let merged: Vec<Option<Vec<u8>>> = lines.iter().map(|line| merge_words(*line)).collect();
    let mut at = 0;
    while at < lines.len() {
        let is_merged = merged[at].is_some();
        let run = merged[at..].iter().take_while(|one| one.is_some() == is_merged).count();
        let part = piece.as_ref().map(|range| range.start + at..range.start + at + run);
        let outcome = if is_merged {
            RegionOutcome::Joined(merged[at..at + run].iter().flatten().flatten().copied().collect(), Joining::Words)
        } else {
            RegionOutcome::Conflict(Clash::Edited)
        };
        regions.push(region(stretches, &part, outcome, 0));
        at += run;
    }
}
