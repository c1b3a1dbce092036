//! Placing hunks: where in a file that moved on does each belong?
//!
//! A hunk goes to its own line if all its old lines stand there; else to the nearest place where they all do; else to the nearest
//! where all but its outermost context lines do, within a bound. Two places equally near are no place: a reader must decide. Line
//! ends never matter for finding a place, white space only where rules put it aside. A hunk whose new lines already stand where
//! it belongs is in already.
//!
//! Lines become numbers once; the rarest line of a hunk leads to its candidates, nearest first, so that time keeps step with
//! the file and the hunks together.

use std::borrow::Cow;
use std::collections::HashMap;
use std::ops::Range;

use super::exact::place_exactly;
use super::model::{Hunk, HunkLine, LineRole};
use crate::rules::{Lens, Seen};
use crate::text::lines::Lines;
use crate::text::words::line_end_len;

/// Candidates that are looked at for one hunk before it is given up.
const MOST_CANDIDATES: usize = 100_000;

/// How hunks are placed.
#[derive(Clone, Debug)]
pub struct PlaceOptions<'l> {
    slack: usize,
    lens: Option<&'l Lens>,
    pub(super) marks: Option<String>,
}

impl Default for PlaceOptions<'_> {
    fn default() -> Self {
        Self { slack: 2, lens: None, marks: None }
    }
}

impl<'l> PlaceOptions<'l> {
    /// How many outer context lines at either end need not hold. Default: 2.
    pub fn slack(mut self, lines: usize) -> Self {
        self.slack = lines;
        self
    }

    /// What does not count when lines are found again. Default: everything but line ends counts.
    pub fn lens(mut self, lens: Option<&'l Lens>) -> Self {
        self.lens = lens.filter(|lens| !lens.is_clear());
        self
    }

    /// Puts hunks that do not fit into the text between marks with this name. Default: they are left out.
    pub fn marks(mut self, name: Option<String>) -> Self {
        self.marks = name;
        self
    }
}

/// What became of a hunk.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Fit {
    /// It has a place.
    Placed(Placed),
    /// Its new lines already stand there, from this line (from 0) on.
    AlreadyIn(usize),
    /// The file moved on inside it, but each of its changes has a place of its own; what became of them, one by one.
    Parts(Vec<Fit>),
    /// It has none.
    Misfit(Misfit),
}

/// Where a hunk went.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Placed {
    /// The line (from 0) where its first line belongs.
    pub line: usize,
    /// How many lines lower than written (higher, if negative).
    pub offset: isize,
    /// Context lines that do not hold.
    pub differing: usize,
    /// Whether line ends, or what rules put aside, differ.
    pub loosely: bool,
}

/// Why a hunk has no place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Misfit {
    /// Its lines stand nowhere; the place that is most like it, and the lines that stand in its way there.
    Nowhere {
        /// The line (from 0) where its first line would belong.
        line: usize,
        /// Lines that it expects and lines that are there instead, each with its number from 0.
        instead: Vec<Instead>,
    },
    /// Two places are equally near; their lines from 0.
    Ambiguous(usize, usize),
}

/// What a hunk expects in a place, and what is there.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Instead {
    /// The line that it expects.
    pub expected: Option<Vec<u8>>,
    /// The line that is there, and its number from 0.
    pub found: Option<(usize, Vec<u8>)>,
}

/// What became of the hunks of a file.
#[derive(Clone, Debug, Default)]
pub struct Placement {
    /// What became of each hunk.
    pub fits: Vec<Fit>,
    /// The text with all hunks in it that have a place.
    pub text: Vec<u8>,
}

impl Placement {
    /// Whether every hunk has a place or is in already.
    pub fn is_whole(&self) -> bool {
        self.fits.iter().all(|fit| !matches!(fit, Fit::Misfit(_)))
    }
}

/// Places the hunks of one file.
///
/// ```
/// use tideline_core::patch::{Fit, PlaceOptions, place, read_patch};
///
/// let patch = read_patch(b"--- a\n+++ b\n@@ -1,3 +1,3 @@\n one\n-two\n+2\n three\n").unwrap();
/// let placement = place(b"zero\none\ntwo\nthree\n", &patch.files[0].hunks, &PlaceOptions::default());
/// assert!(matches!(placement.fits[0], Fit::Placed(placed) if placed.offset == 1));
/// assert_eq!(placement.text, b"zero\none\n2\nthree\n");
/// ```
pub fn place(target: &[u8], hunks: &[Hunk], options: &PlaceOptions<'_>) -> Placement {
    // Under a lens, lines that are not there byte for byte may stand there all the same.
    if options.lens.is_none()
        && let Some(placement) = place_exactly(target, hunks)
    {
        return placement;
    }
    let (placement, either) = placed(target, hunks, options);
    let stray = placement.is_whole().then(|| strays(&placement.fits));
    if stray == Some(0) && !either {
        return placement;
    }
    // Does all of it come out again, and from a better place than it would go in? Then it is in already.
    let reversed: Vec<Hunk> = hunks.iter().cloned().map(Hunk::reversed).collect();
    let (out, _) = placed(target, &reversed, &PlaceOptions { marks: None, ..options.clone() });
    let lines: Option<Vec<usize>> = out.fits.iter().map(Fit::first_line).collect();
    let Some(lines) = lines else { return placement };
    let grows = || {
        let count = |hunks: &[Hunk]| hunks.iter().map(|hunk| hunk.old_lines().count()).sum::<usize>();
        count(&reversed) > count(hunks)
    };
    // Where both fit equally well, more lines that stand there say more.
    let is_in = match stray {
        None => true,
        Some(stray) => strays(&out.fits) < stray || strays(&out.fits) == stray && grows(),
    };
    if is_in {
        Placement { fits: lines.into_iter().map(Fit::AlreadyIn).collect(), text: target.to_vec() }
    } else {
        placement
    }
}

/// How far hunks strayed from what was written: context lines that do not hold, parts, and hunks that went another way than the
/// one before.
fn strays(fits: &[Fit]) -> usize {
    let mut way = 0;
    let mut sum = 0;
    for fit in fits {
        sum += match fit {
            Fit::Placed(placed) => {
                let turns = usize::from(placed.offset != way);
                way = placed.offset;
                placed.differing + turns
            }
            Fit::Parts(parts) => 1 + strays(parts),
            Fit::AlreadyIn(_) | Fit::Misfit(_) => 1,
        };
    }
    sum
}

impl Fit {
    /// The line (from 0) where a hunk went, all of it; none of one that has no place or is in already.
    fn first_line(&self) -> Option<usize> {
        match self {
            Self::Placed(placed) => Some(placed.line),
            Self::Parts(parts) => {
                let lines: Option<Vec<usize>> = parts.iter().map(Self::first_line).collect();
                lines?.first().copied()
            }
            Self::AlreadyIn(_) | Self::Misfit(_) => None,
        }
    }
}

/// Places hunks one after the other; and whether one of them stood where it was expected both as it was and as it will be.
fn placed(target: &[u8], hunks: &[Hunk], options: &PlaceOptions<'_>) -> (Placement, bool) {
    let mut placer = Placer::new(target, hunks, options);
    let fits = hunks.iter().enumerate().map(|(index, hunk)| placer.hunk(index, hunk)).collect();
    placer.take_upto(placer.lines.len());
    (Placement { fits, text: placer.text }, placer.either)
}

/// The number of lines that no hunk holds.
pub(super) const STRANGER: u32 = u32::MAX;

pub(super) struct Placer<'t, 'o> {
    pub(super) lines: Lines<'t>,
    /// The number of each line of the target.
    pub(super) numbers: Vec<u32>,
    /// Where each number occurs, in order.
    pub(super) places: Vec<Vec<u32>>,
    /// The numbers of the lines of each hunk.
    pub(super) hunk_numbers: Vec<Vec<u32>>,
    pub(super) options: &'o PlaceOptions<'o>,
    pub(super) text: Vec<u8>,
    /// Lines of the target that are in the text, or gone from it.
    pub(super) taken: usize,
    /// How much lower than written the last hunk went.
    pub(super) drift: isize,
    /// Whether what does not fit is only tried.
    pub(super) trying: bool,
    /// Whether a hunk stood where it was expected both as it was and as it will be.
    pub(super) either: bool,
}

/// A line as it is looked for: without its line end, and without what the lens puts aside.
fn key<'t>(line: &'t [u8], seen: Option<(&Seen<'t>, Range<usize>)>) -> Cow<'t, [u8]> {
    let bare = &line[..line.len() - line_end_len(line)];
    let Some((seen, range)) = seen else { return Cow::Borrowed(bare) };
    let counted = seen.key(range).unwrap_or_default();
    let length = counted.len() - line_end_len(&counted);
    Cow::Owned(counted[..length].to_vec())
}

impl<'t, 'o> Placer<'t, 'o> {
    fn new(target: &'t [u8], hunks: &[Hunk], options: &'o PlaceOptions<'o>) -> Self {
        let mut known: HashMap<Cow<'_, [u8]>, u32, foldhash::fast::FixedState> = HashMap::default();
        let mut hunk_numbers = Vec::with_capacity(hunks.len());
        for hunk in hunks {
            let mut numbers = Vec::with_capacity(hunk.lines.len());
            for line in &hunk.lines {
                let seen = options.lens.map(|lens| Seen::new(&line.text, lens));
                let key = key(&line.text, seen.as_ref().map(|seen| (seen, 0..line.text.len())));
                let next = u32::try_from(known.len()).unwrap_or(STRANGER);
                numbers.push(*known.entry(key).or_insert(next));
            }
            hunk_numbers.push(numbers);
        }
        let lines = Lines::of(target);
        let seen = options.lens.map(|lens| Seen::new(target, lens));
        let mut places = vec![Vec::new(); known.len()];
        let mut numbers = Vec::with_capacity(lines.len());
        for (at, line) in lines.iter().enumerate() {
            let range = lines.start(at)..lines.start(at + 1);
            let number = known.get(&*key(line, seen.as_ref().map(|seen| (seen, range)))).copied().unwrap_or(STRANGER);
            if number != STRANGER {
                places[number as usize].push(u32::try_from(at).unwrap_or(STRANGER));
            }
            numbers.push(number);
        }
        Self {
            lines,
            numbers,
            places,
            hunk_numbers,
            options,
            text: Vec::with_capacity(target.len()),
            taken: 0,
            drift: 0,
            trying: false,
            either: false,
        }
    }

    /// Finds the place of a hunk and puts it in.
    fn hunk(&mut self, index: usize, hunk: &Hunk) -> Fit {
        let numbers = std::mem::take(&mut self.hunk_numbers[index]);
        self.numbered(hunk, &numbers)
    }

    /// The same for a hunk, or a part of one, whose lines have these numbers.
    fn numbered(&mut self, hunk: &Hunk, numbers: &[u32]) -> Fit {
        let side = |left_out: LineRole| -> Vec<u32> {
            let both = hunk.lines.iter().zip(numbers);
            both.filter(|(line, _)| line.role != left_out).map(|(_, number)| *number).collect()
        };
        let (old, new) = (side(LineRole::New), side(LineRole::Gone));
        let expected = usize::try_from(hunk.before as isize + self.drift).unwrap_or(0).max(self.taken);
        if old.is_empty() {
            return self.without_old_lines(hunk, expected);
        }
        let context = |lines: &mut dyn Iterator<Item = &HunkLine>| {
            lines.take_while(|line| line.role == LineRole::Context).count()
        };
        let (lead, trail) = (context(&mut hunk.lines.iter()), context(&mut hunk.lines.iter().rev()));
        if self.stands(&old, expected) {
            self.either |= self.stands(&new, expected);
            return self.put(hunk, expected, (0, 0), &old);
        }
        let changes_to_something = new.len() > lead + trail || lead + trail > 1;
        if changes_to_something && self.stands(&new, expected) {
            return self.already_in(hunk, expected, new.len(), old.len());
        }
        let elsewhere = if new.len() > lead + trail { self.nearest(&new, expected) } else { Search::None };
        match (self.nearest(&old, expected), elsewhere) {
            (Search::One(line), Search::One(other)) if other.abs_diff(expected) < line.abs_diff(expected) => {
                return self.already_in(hunk, other, new.len(), old.len());
            }
            (Search::One(line), _) => return self.put(hunk, line, (0, 0), &old),
            (Search::Two(one, two), _) => return self.misfit(hunk, Misfit::Ambiguous(one, two), expected),
            (Search::None, Search::One(line)) => return self.already_in(hunk, line, new.len(), old.len()),
            (Search::None, _) => {}
        }
        for slack in 1..=self.options.slack {
            let cut = (slack.min(lead), slack.min(trail));
            let before = ((slack - 1).min(lead), (slack - 1).min(trail));
            if cut == before || cut.0 + cut.1 >= old.len() {
                break;
            }
            let core = &old[cut.0..old.len() - cut.1];
            match self.nearest(core, expected + cut.0) {
                Search::One(line) => return self.put(hunk, line, cut, &old),
                Search::Two(one, two) => {
                    let line = |line: usize| line.saturating_sub(cut.0);
                    return self.misfit(hunk, Misfit::Ambiguous(line(one), line(two)), expected);
                }
                Search::None => {}
            }
        }
        if let Some(fits) = self.in_parts(hunk, numbers) {
            return Fit::Parts(fits);
        }
        let found = self.likeness(hunk, &old, expected);
        self.misfit(hunk, found, expected)
    }

    /// Places each change of a hunk by itself, if there are several and all of them have a place.
    fn in_parts(&mut self, hunk: &Hunk, numbers: &[u32]) -> Option<Vec<Fit>> {
        if self.trying {
            return None;
        }
        let cuts = cuts(hunk);
        if cuts.len() < 3 {
            return None;
        }
        let before = (self.text.len(), self.taken, self.drift);
        self.trying = true;
        let (mut line_before, mut line_after) = (hunk.before, hunk.after);
        let mut fits = Vec::with_capacity(cuts.len() - 1);
        for range in cuts.windows(2).map(|pair| pair[0]..pair[1]) {
            let part = Hunk {
                before: line_before,
                after: line_after,
                lines: hunk.lines[range.clone()].to_vec(),
                line: hunk.line + 1 + range.start,
            };
            (line_before, line_after) = (line_before + part.old_lines().count(), line_after + part.new_lines().count());
            match self.numbered(&part, &numbers[range]) {
                Fit::Misfit(_) => {
                    // As if it had not been tried.
                    self.text.truncate(before.0);
                    (self.taken, self.drift, self.trying) = (before.1, before.2, false);
                    return None;
                }
                fit => fits.push(fit),
            }
        }
        self.trying = false;
        Some(fits)
    }

    /// A hunk that expects no lines can only go to its own line; nothing tells whether it is in already.
    fn without_old_lines(&mut self, hunk: &Hunk, expected: usize) -> Fit {
        if expected > self.lines.len() {
            return self.misfit(hunk, Misfit::Nowhere { line: self.lines.len(), instead: Vec::new() }, expected);
        }
        self.put(hunk, expected, (0, 0), &[])
    }

    fn stands(&self, numbers: &[u32], at: usize) -> bool {
        at >= self.taken && self.numbers.get(at..at + numbers.len()) == Some(numbers)
    }

    /// The place nearest to `expected` where lines with these numbers stand.
    fn nearest(&self, numbers: &[u32], expected: usize) -> Search {
        if self.stands(numbers, expected) {
            return Search::One(expected);
        }
        let rarest = numbers.iter().enumerate().min_by_key(|(_, number)| self.places[**number as usize].len());
        let Some((offset, number)) = rarest else { return Search::None };
        let places = &self.places[*number as usize];
        let middle = places.partition_point(|place| (*place as usize) < expected + offset);
        let stands = |place: &u32| {
            let start = (*place as usize).checked_sub(offset)?;
            self.stands(numbers, start).then_some(start)
        };
        let below = places[middle..].iter().take(MOST_CANDIDATES).find_map(stands);
        let above = places[..middle].iter().rev().take(MOST_CANDIDATES).find_map(stands);
        match (above, below) {
            (None, None) => Search::None,
            (Some(line), None) | (None, Some(line)) => Search::One(line),
            (Some(above), Some(below)) => match (expected - above).cmp(&(below - expected)) {
                std::cmp::Ordering::Less => Search::One(above),
                std::cmp::Ordering::Greater => Search::One(below),
                std::cmp::Ordering::Equal => Search::Two(above, below),
            },
        }
    }

    fn already_in(&mut self, hunk: &Hunk, line: usize, new: usize, old: usize) -> Fit {
        self.take_upto(line + new);
        self.drift = (line + new) as isize - (hunk.before + old) as isize;
        Fit::AlreadyIn(line)
    }
}

/// Where a hunk can be cut into its changes: in the middle of the context between them. The ends of the hunk are among the cuts.
fn cuts(hunk: &Hunk) -> Vec<usize> {
    let mut cuts = vec![0];
    let mut last_change: Option<usize> = None;
    for (at, line) in hunk.lines.iter().enumerate() {
        if line.role == LineRole::Context {
            continue;
        }
        if let Some(last) = last_change.filter(|last| at > last + 1) {
            cuts.push((last + 1 + at).div_ceil(2));
        }
        last_change = Some(at);
    }
    cuts.push(hunk.lines.len());
    cuts
}

/// What a search found.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Search {
    None,
    One(usize),
    /// Two places equally near.
    Two(usize, usize),
}
