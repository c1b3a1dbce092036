//! A line that was broken into several, or several that were joined into one: such lines are told as one pair, and their words are held against
//! each other as if the breaks were not there.

use std::ops::Range;

use crate::internal::align::likeness::Profile;
use crate::internal::align::parts::{MaskedLine, align_joined};
use crate::internal::align::{PairBounds, work};
use crate::internal::model::{Row, Segment, Weight, Words};
use crate::internal::rules::MaskedText;
use crate::internal::text::words::Grain;

/// The joined lines are as alike as this to the one line…
const ALIKE: f32 = 0.8;
/// …and so much more than the line alone that it was paired with.
const MORE: f32 = 0.05;
/// Of each of them, so much is in that line.
const CONTAINED: f32 = 0.5;
/// A line is broken into so many at most.
const MOST_LINES: usize = 16;

/// The lines of one side of a change.
pub(super) trait Side {
    /// The text that they are of.
    fn masked(&self) -> &MaskedText<'_>;
    /// What a line is compared by.
    fn counted(&self, line: usize) -> &[u8];
    /// A line, and what of it is masked.
    fn line(&self, line: usize) -> MaskedLine;
}

/// A line of one side, and the lines of the other that it was broken into or joined from.
struct Broken {
    whole: usize,
    parts: Range<usize>,
}

/// Tells which lines of a change were broken or joined. Only the work of few lines is done: where many found no partner, the text was not
/// wrapped but rewritten.
pub(super) fn tell_broken(
    rows: Vec<Row>,
    (before, after): (&dyn Side, &dyn Side),
    grain: &Grain,
    bounds: &PairBounds,
) -> Vec<Row> {
    let mut told = Vec::with_capacity(rows.len());
    let is_apart = |row: &Row| match row {
        Row::Gone { weight, .. } | Row::New { weight, .. } | Row::Edited { weight, .. } => *weight == Weight::Muted,
        Row::Equal { .. } | Row::Hidden { .. } => true,
    };
    let mut rows = rows.into_iter().peekable();
    while let Some(row) = rows.next() {
        if is_apart(&row) {
            told.push(row);
            continue;
        }
        let mut region = vec![row];
        while let Some(row) = rows.next_if(|row| !is_apart(row)) {
            region.push(row);
        }
        told.extend(region_told(region, (before, after), grain, bounds));
    }
    told
}

fn region_told(
    region: Vec<Row>,
    (before, after): (&dyn Side, &dyn Side),
    grain: &Grain,
    bounds: &PairBounds,
) -> Vec<Row> {
    let (mut gone, mut new, mut pairs) = (Vec::new(), Vec::new(), Vec::new());
    for row in &region {
        match row {
            Row::Gone { before, .. } => gone.push(*before),
            Row::New { after, .. } => new.push(*after),
            Row::Edited { before, after, .. } => {
                pairs.push((*before, *after));
                gone.push(*before);
                new.push(*after);
            }
            Row::Equal { .. } | Row::Hidden { .. } => {}
        }
    }
    if gone.len() == new.len() && pairs.len() == gone.len()
        || gone.is_empty()
        || new.is_empty()
        || gone.len().max(new.len()) > bounds.broken
    {
        return region;
    }
    let (first_b, first_a) = (gone[0], new[0]);
    let profiles = |side: &dyn Side, first: usize, count: usize| -> Vec<Profile> {
        (first..first + count).map(|line| Profile::of(side.counted(line), bounds.looked_at)).collect()
    };
    let (b, a) = (profiles(before, first_b, gone.len()), profiles(after, first_a, new.len()));
    let pairs: Vec<(usize, usize)> = pairs.into_iter().map(|(b, a)| (b - first_b, a - first_a)).collect();
    let swapped: Vec<(usize, usize)> = pairs.iter().map(|&(b, a)| (a, b)).collect();
    let text = |side, first: usize, range: &Range<usize>| joined(side, first + range.start..first + range.end);
    let broken = broken_lines(&b, &a, &pairs, |range| text(after, first_a, range), bounds);
    let joint = broken_lines(&a, &b, &swapped, |range| text(before, first_b, range), bounds);
    if broken.is_empty() && joint.is_empty() {
        return region;
    }
    let place = |found: Broken, whole: usize, parts: usize| Broken {
        whole: found.whole + whole,
        parts: found.parts.start + parts..found.parts.end + parts,
    };
    let broken = broken.into_iter().map(|found| place(found, first_b, first_a)).collect();
    let joint = joint.into_iter().map(|found| place(found, first_a, first_b)).collect();
    rebuilt(region, (broken, joint), (before, after), grain)
}

/// The lines of one side that were broken into several of the other, where the pairs leave room for it.
fn broken_lines(
    whole: &[Profile],
    parts: &[Profile],
    pairs: &[(usize, usize)],
    joined: impl Fn(&Range<usize>) -> Vec<u8>,
    bounds: &PairBounds,
) -> Vec<Broken> {
    let mut found: Vec<Broken> = Vec::new();
    for (line, profile) in whole.iter().enumerate() {
        let next = pairs.partition_point(|pair| pair.0 < line);
        let own = pairs.get(next).filter(|pair| pair.0 == line).map(|pair| pair.1);
        let start = next.checked_sub(1).map_or(0, |last| pairs[last].1 + 1);
        let start = found.last().map_or(start, |last| start.max(last.parts.end));
        let end = pairs.get(next + usize::from(own.is_some())).map_or(parts.len(), |pair| pair.1);
        if end < start + 2 || profile.letters() == 0 {
            continue;
        }
        work::count(end - start);
        let is_part = |at: usize| parts[at].contained(profile) >= CONTAINED;
        // The longest run of lines whose words are in the line, around the one that it was paired with.
        let mut best: Option<Range<usize>> = None;
        let mut at = start;
        while at < end {
            let upto = (at..end.min(at + MOST_LINES)).take_while(|part| is_part(*part) || own == Some(*part)).last();
            let Some(last) = upto else {
                at += 1;
                continue;
            };
            let run = at..last + 1;
            if own.is_none_or(|own| run.contains(&own)) && best.as_ref().is_none_or(|best| run.len() > best.len()) {
                best = Some(run.clone());
            }
            at = run.end;
        }
        let Some(run) = best.filter(|run| run.len() > 1) else { continue };
        let alone = own.map_or(0.0, |own| profile.likeness(&parts[own]).degree());
        let together = profile.likeness(&Profile::of(&joined(&run), bounds.looked_at)).degree();
        if together >= ALIKE && together >= alone + MORE {
            found.push(Broken { whole: line, parts: run });
        }
    }
    found
}

/// Some lines as one.
fn joined(side: &dyn Side, range: Range<usize>) -> Vec<u8> {
    let lines: Vec<&[u8]> = range.map(|at| side.counted(at).trim_ascii()).collect();
    lines.join(&b' ')
}

/// The rows with the lines that were broken or joined as pairs.
fn rebuilt(
    region: Vec<Row>,
    (broken, joint): (Vec<Broken>, Vec<Broken>),
    (before, after): (&dyn Side, &dyn Side),
    grain: &Grain,
) -> Vec<Row> {
    let is_in = |found: &[Broken], line: usize| found.iter().any(|found| found.parts.contains(&line));
    let mut groups: Vec<(Range<usize>, Range<usize>)> = Vec::new();
    groups.extend(broken.iter().map(|found| (found.whole..found.whole + 1, found.parts.clone())));
    // Of two tellings that share a line, the first is taken.
    let is_free = |found: &&Broken| {
        !is_in(&broken, found.whole) && !broken.iter().any(|other| found.parts.contains(&other.whole))
    };
    groups.extend(joint.iter().filter(is_free).map(|found| (found.parts.clone(), found.whole..found.whole + 1)));
    groups.sort_unstable_by_key(|group| group.0.start);
    let in_order = groups.windows(2).all(|two| two[0].0.end <= two[1].0.start && two[0].1.end <= two[1].1.start);
    if !in_order {
        return region;
    }
    let is_in_group = |b: Option<usize>, a: Option<usize>| {
        groups
            .iter()
            .any(|group| b.is_some_and(|line| group.0.contains(&line)) || a.is_some_and(|line| group.1.contains(&line)))
    };
    // What is in no group keeps its row; each group stands where its first line of either side comes, behind what is above it.
    let mut rows: Vec<Row> = Vec::with_capacity(region.len());
    let mut kept: Vec<Row> = Vec::with_capacity(region.len());
    for row in region {
        let (b, a) = match &row {
            Row::Gone { before, .. } => (Some(*before), None),
            Row::New { after, .. } => (None, Some(*after)),
            Row::Edited { before, after, .. } => (Some(*before), Some(*after)),
            Row::Equal { .. } | Row::Hidden { .. } => (None, None),
        };
        if !is_in_group(b, a) {
            kept.push(row);
        }
    }
    let is_above = |row: &Row, group: &(Range<usize>, Range<usize>)| match row {
        Row::Gone { before, .. } | Row::Edited { before, .. } => *before < group.0.start,
        Row::New { after, .. } => *after < group.1.start,
        Row::Equal { .. } | Row::Hidden { .. } => false,
    };
    for group in &groups {
        // Gone and new lines that are above the group on their own side.
        let (above, later): (Vec<Row>, Vec<Row>) = kept.into_iter().partition(|row| is_above(row, group));
        rows.extend(above);
        rows.extend(rows_of(group, (before, after), grain));
        kept = later;
    }
    rows.extend(kept);
    rows
}

/// The rows of a line that was broken or joined: a pair, and the lines of the other side that follow.
fn rows_of((b, a): &(Range<usize>, Range<usize>), (before, after): (&dyn Side, &dyn Side), grain: &Grain) -> Vec<Row> {
    let (words_before, words_after) = if matches!(grain, Grain::Line) {
        // Words that follow a pair tell that the lines are the rest of it, even where no words are asked for.
        let all = |side: &dyn Side, lines: &Range<usize>| {
            lines
                .clone()
                .map(|at| vec![Segment { bytes: 0..side.line(at).bytes.len(), differs: None }])
                .collect::<Vec<_>>()
        };
        (all(before, b), all(after, a))
    } else {
        let lines = |side: &dyn Side, lines: &Range<usize>| lines.clone().map(|at| side.line(at)).collect::<Vec<_>>();
        align_joined((before.masked(), &lines(before, b)), (after.masked(), &lines(after, a)), grain)
    };
    let (mut words_before, mut words_after) = (words_before.into_iter(), words_after.into_iter());
    let of_pair =
        Words { before: words_before.next().unwrap_or_default(), after: words_after.next().unwrap_or_default() };
    let words = if matches!(grain, Grain::Line) { Words::default() } else { of_pair };
    let weight = Weight::Counted;
    let mut rows = vec![Row::Edited { before: b.start, after: a.start, words, weight }];
    rows.extend((b.start + 1..b.end).zip(words_before).map(|(before, words)| Row::Gone { before, words, weight }));
    rows.extend((a.start + 1..a.end).zip(words_after).map(|(after, words)| Row::New { after, words, weight }));
    rows
}
