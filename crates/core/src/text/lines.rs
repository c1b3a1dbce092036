//! The lines of a stretch of text, and the numbers that stand for equal lines.

use std::collections::HashMap;
use std::hash::BuildHasher;
use std::ops::Range;

use foldhash::fast::FixedState;
use hashbrown::{HashTable, hash_table::Entry};

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
pub fn intern<'t>(before: &[&'t [u8]], after: &[&'t [u8]]) -> Interned {
    const WORTH_A_THREAD: usize = 8 * 1024;
    // Of few items that are very long, comparing them is cheaper than reading them once more.
    let hash = if before.len() + after.len() <= FEW { hash_ends } else { hash_line };
    let hashes = |items: &[&[u8]]| items.iter().map(|item| hash(item)).collect::<Vec<_>>();
    let (before_hashes, after_hashes) = if before.len() + after.len() < WORTH_A_THREAD {
        (hashes(before), hashes(after))
    } else {
        rayon::join(|| hashes(before), || hashes(after))
    };

    let mut seen: HashTable<(u64, u32)> = HashTable::with_capacity(before.len().max(after.len()));
    let mut originals: Vec<&[u8]> = Vec::with_capacity(before.len());
    let mut assign = |items: &[&'t [u8]], hashes: &[u64]| -> Vec<u32> {
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
    };
    let before = assign(before, &before_hashes);
    let after = assign(after, &after_hashes);
    Interned { before, after, distinct: originals.len() }
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
}
