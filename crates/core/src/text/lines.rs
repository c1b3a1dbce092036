//! The lines of a stretch of text, and the numbers that stand for equal lines.

use std::collections::HashMap;
use std::hash::BuildHasher;
use std::ops::Range;

use foldhash::fast::FixedState;
use hashbrown::{HashTable, hash_table::Entry};
use rayon::prelude::*;

/// Where the lines of a text start. Lines keep their line ends; a last line without one is a line.
#[derive(Clone, Debug)]
pub struct Lines<'t> {
    text: &'t [u8],
    starts: Vec<usize>,
}

impl<'t> Lines<'t> {
    /// Finds the lines of `text`.
    pub fn of(text: &'t [u8]) -> Self {
        // A guess that is right for prose and code saves most of the moving while the list grows.
        let mut starts = Vec::with_capacity(text.len() / 32 + 2);
        let mut start = 0;
        for end in memchr::memchr_iter(b'\n', text) {
            starts.push(start);
            start = end + 1;
        }
        if start < text.len() {
            starts.push(start);
        }
        starts.push(text.len());
        Self { text, starts }
    }

    /// How many lines there are.
    pub fn len(&self) -> usize {
        self.starts.len() - 1
    }

    /// Whether there is no line.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The offset of the first byte of line `index`; for `index == len()`, the length of the text.
    pub fn start(&self, index: usize) -> usize {
        self.starts[index]
    }

    /// Line `index`, with its line end.
    pub fn get(&self, index: usize) -> &'t [u8] {
        &self.text[self.starts[index]..self.starts[index + 1]]
    }

    /// Consecutive lines, as they stand in the text.
    pub fn text(&self, lines: Range<usize>) -> &'t [u8] {
        &self.text[self.starts[lines.start]..self.starts[lines.end]]
    }

    /// All lines in order.
    pub fn iter(&self) -> impl ExactSizeIterator<Item = &'t [u8]> + '_ {
        self.starts.windows(2).map(|pair| &self.text[pair[0]..pair[1]])
    }
}

/// Lines as slices.
pub(crate) fn as_slices(lines: &[Vec<u8>]) -> Vec<&[u8]> {
    lines.iter().map(Vec::as_slice).collect()
}

/// The hash of a line that the alignment works with. Equal bytes have equal hashes in every run.
pub(crate) fn hash_line(line: &[u8]) -> u64 {
    // Not `write` through `Hash for [u8]`: the length prefix would only cost time.
    use std::hash::Hasher;
    let mut hasher = FixedState::default().build_hasher();
    hasher.write(line);
    hasher.finish()
}

/// Of so few items, the ends of very long ones are hashed.
const FEW: usize = 64;

/// The hash of the ends of an item, and of its length.
fn hash_ends(item: &[u8]) -> u64 {
    const LONG: usize = 64 << 10;
    if item.len() <= LONG {
        return hash_line(item);
    }
    let (head, tail) = (&item[..LONG / 2], &item[item.len() - LONG / 2..]);
    hash_line(head) ^ hash_line(tail).rotate_left(1) ^ item.len() as u64
}

/// The lines (or words) of both sides as numbers: two have the same number when they are equal.
#[derive(Clone, Debug)]
pub struct Interned {
    /// A number for each item before.
    pub before: Vec<u32>,
    /// A number for each item after.
    pub after: Vec<u32>,
    /// How many different numbers there are.
    pub distinct: usize,
}

/// Gives equal items of both sides equal numbers.
///
/// Hashing runs on both sides at once when there is enough to do; equality is always checked on the bytes, so that a
/// collision of hashes costs time and never truth.
pub fn intern(before: &[&[u8]], after: &[&[u8]]) -> Interned {
    const WORTH_A_THREAD: usize = 8 * 1024;
    // Of few items that are very long, comparing them is cheaper than reading them once more.
    let hash = if before.len() + after.len() <= FEW { hash_ends } else { hash_line };
    let hashes = |items: &[&[u8]]| items.iter().map(|item| hash(item)).collect::<Vec<_>>();
    let (before_hashes, after_hashes) = if before.len() + after.len() < WORTH_A_THREAD {
        (hashes(before), hashes(after))
    } else {
        rayon::join(|| hashes(before), || hashes(after))
    };

    if before.len() + after.len() < MANY {
        let (numbers, distinct) = number([(before, &before_hashes), (after, &after_hashes)]);
        let [before, after] = numbers;
        return Interned { before, after, distinct };
    }
    intern_many((before, &before_hashes), (after, &after_hashes))
}

/// So many items are divided by their hashes, so that each part has a small table of its own.
const MANY: usize = 1 << 17;
/// Which bits of a hash tell the part: neither the lowest nor the highest, by which a table finds its places.
const PART_BITS: Range<u32> = 32..38;

/// The same for many items: equal ones are in the same part.
fn intern_many(before: (&[&[u8]], &[u64]), after: (&[&[u8]], &[u64])) -> Interned {
    let (parts_before, parts_after) = rayon::join(|| parts_of(before), || parts_of(after));
    let numbered: Vec<_> = parts_before
        .par_iter()
        .zip(&parts_after)
        .map(|(b, a)| number([(&b.items, &b.hashes), (&a.items, &a.hashes)]))
        .collect();
    let mut interned = Interned { before: vec![0; before.0.len()], after: vec![0; after.0.len()], distinct: 0 };
    for (([numbers_b, numbers_a], distinct), (b, a)) in numbered.into_iter().zip(parts_before.iter().zip(&parts_after))
    {
        let first = u32::try_from(interned.distinct).expect("fewer than four thousand million lines");
        for (all, part, numbers) in [(&mut interned.before, b, numbers_b), (&mut interned.after, a, numbers_a)] {
            part.places.iter().zip(numbers).for_each(|(&place, number)| all[place as usize] = first + number);
        }
        interned.distinct += distinct;
    }
    interned
}

/// Items whose hashes are alike in some bits.
#[derive(Clone, Default)]
struct Part<'t> {
    items: Vec<&'t [u8]>,
    hashes: Vec<u64>,
    /// Where they stand among all items.
    places: Vec<u32>,
}

fn parts_of<'t>((items, hashes): (&[&'t [u8]], &[u64])) -> Vec<Part<'t>> {
    let mut parts = vec![Part::default(); 1 << PART_BITS.len()];
    for ((place, &item), &hash) in (0..).zip(items).zip(hashes) {
        let part = &mut parts[(hash >> PART_BITS.start) as usize % (1 << PART_BITS.len())];
        part.items.push(item);
        part.hashes.push(hash);
        part.places.push(place);
    }
    parts
}

/// Numbers the items of both sides from 0 on in the order in which they are seen first, and says how many different ones there are.
fn number(sides: [(&[&[u8]], &[u64]); 2]) -> ([Vec<u32>; 2], usize) {
    let mut seen: HashTable<(u64, u32)> = HashTable::with_capacity(sides[0].0.len().max(sides[1].0.len()));
    let mut originals: Vec<&[u8]> = Vec::with_capacity(sides[0].0.len());
    let numbers = sides.map(|(items, hashes)| {
        let mut numbers = Vec::with_capacity(items.len());
        for (&item, &hash) in items.iter().zip(hashes) {
            let same = |&(other, number): &(u64, u32)| other == hash && originals[number as usize] == item;
            let number = match seen.entry(hash, same, |&(hash, _)| hash) {
                Entry::Occupied(entry) => entry.get().1,
                Entry::Vacant(entry) => {
                    let number = u32::try_from(originals.len()).expect("fewer than four thousand million lines");
                    originals.push(item);
                    entry.insert((hash, number));
                    number
                }
            };
            numbers.push(number);
        }
        numbers
    });
    (numbers, originals.len())
}

/// Gives items that have equal numbers in both of two lists equal numbers.
pub(crate) fn intern_pairs(one: &Interned, two: &Interned) -> Interned {
    let mut numbers: HashMap<(u32, u32), u32, FixedState> = HashMap::default();
    let mut assign = |one: &[u32], two: &[u32]| -> Vec<u32> {
        let pairs = one.iter().copied().zip(two.iter().copied());
        pairs
            .map(|pair| {
                let next = u32::try_from(numbers.len()).expect("no more pairs than items");
                *numbers.entry(pair).or_insert(next)
            })
            .collect()
    };
    let before = assign(&one.before, &two.before);
    let after = assign(&one.after, &two.after);
    Interned { before, after, distinct: numbers.len() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_keep_their_ends_and_add_up_to_the_text() {
        for text in ["", "\n", "a", "a\nb", "a\nb\n", "\r\n\n\n"] {
            let lines = Lines::of(text.as_bytes());
            assert_eq!(lines.iter().collect::<Vec<_>>().concat(), text.as_bytes());
            assert_eq!(lines.len(), super::super::bytes::count_lines(text.as_bytes()));
        }
    }

    #[test]
    fn equal_items_share_a_number_across_the_sides() {
        let interned = intern(&[b"a", b"b", b"a"], &[b"c", b"a"]);
        assert_eq!(interned.before, [0, 1, 0]);
        assert_eq!(interned.after, [2, 0]);
        assert_eq!(interned.distinct, 3);
    }

    #[test]
    fn many_items_are_numbered_like_few() {
        let lines: Vec<String> = (0..MANY).map(|at| format!("reading {}\n", at * 7 % 50_000)).collect();
        let items: Vec<&[u8]> = lines.iter().map(String::as_bytes).collect();
        let (before, after) = (&items[..MANY - 1000], &items[1000..]);
        let many = intern(before, after);
        let hashes = |items: &[&[u8]]| items.iter().map(|item| hash_line(item)).collect::<Vec<_>>();
        let ([few_before, few_after], distinct) = number([(before, &hashes(before)), (after, &hashes(after))]);
        assert_eq!(many.distinct, distinct);
        let mut known = vec![None; distinct];
        let pairs = many.before.iter().zip(&few_before).chain(many.after.iter().zip(&few_after));
        for (&one, &other) in pairs {
            assert_eq!(*known[one as usize].get_or_insert(other), other);
        }
        assert!(known.iter().all(Option::is_some));
    }
}
