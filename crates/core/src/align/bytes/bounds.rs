//! What bounds the work of an alignment of bytes.

use super::pair::BytePair;

/// The smallest chunks have so many bytes on average, as a power of two.
const SMALLEST: u32 = 5;
/// Chunks of the next level are so much smaller, as a power of two.
const STEP: u32 = 3;
/// The largest chunks.
const LARGEST: u32 = 14;

/// How much work an alignment of bytes may do.
///
/// | bound | what happens beyond it | what is lost |
/// |---|---|---|
/// | `chunks` | chunks are larger, and nothing is looked for between the last | short ranges that both sides have at other offsets |
/// | `small` | areas with more bytes are aligned by chunks only | the same |
/// | `single` | no more bytes than these are aligned one by one, over the whole file; other areas differ as a whole | equal bytes inside them |
/// | `unrelated` | an area this large in which no chunk is found is not looked into with smaller ones | short ranges that both have |
/// | `ranges` | ranges that stand near each other are told as one, nearer ones first, until there are no more than these | equal bytes between them |
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ByteBounds {
    chunks: usize,
    small: usize,
    single: usize,
    unrelated: usize,
    ranges: usize,
}

impl Default for ByteBounds {
    fn default() -> Self {
        Self { chunks: 1 << 20, small: 8 << 10, single: 4 << 20, unrelated: 64 << 20, ranges: 1 << 18 }
    }
}

impl ByteBounds {
    /// How many chunks both sides of an area may have.
    pub fn chunks(mut self, chunks: usize) -> Self {
        self.chunks = chunks;
        self
    }

    /// How many ranges may differ.
    pub fn ranges(mut self, ranges: usize) -> Self {
        self.ranges = ranges.max(1);
        self
    }

    pub(super) fn most_chunks(&self) -> usize {
        self.chunks
    }

    pub(super) fn most_ranges(&self) -> usize {
        self.ranges
    }

    pub(super) fn small(&self) -> usize {
        self.small
    }

    pub(super) fn single(&self) -> usize {
        self.single
    }

    /// The largest chunks that are worth it in an area of so many bytes, both sides together; nothing where there would be too many.
    pub(super) fn level_for(&self, size: usize) -> Option<u32> {
        let mut level = SMALLEST + STEP;
        // A few thousand anchors are enough to begin with.
        while level < LARGEST && size >> level > self.chunks / 16 {
            level += STEP;
        }
        (size >> level <= self.chunks).then_some(level)
    }

    /// The next smaller chunks.
    pub(super) fn level_below(&self, level: u32) -> Option<u32> {
        (level > SMALLEST).then(|| level - STEP)
    }

    /// Whether smaller chunks may tell more about what lies between those that were found.
    pub(super) fn looks_further(&self, gaps: &[BytePair], (before, after): (usize, usize)) -> bool {
        let is_whole = matches!(gaps, [(b, a)] if b.len() == before && a.len() == after);
        !is_whole || before + after <= self.unrelated
    }
}
