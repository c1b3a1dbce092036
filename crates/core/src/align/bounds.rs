//! What bounds the work of an alignment and of what is made of it, and what is lost by it.

/// How much work an alignment may do before it settles for less than the shortest script.
///
/// | bound | what happens beyond it | what is lost |
/// |---|---|---|
/// | `walk_from` | the texts are walked through instead of being cut into lines as a whole | a copy of a long block can be matched with the nearer of two equal places |
/// | `walk` | where two texts go on alike is told by windows that grow, instead of by the fewest differences | a place where they go on alike for a few lines only |
/// | `walk.sampled` | in large windows only some lines are looked for, chosen by their hashes | a place where the texts go on alike for a few lines only |
/// | `walk.beside` | lines farther from a part that differs keep the lines they match, though others like them are equal in full | that such a line is equal |
/// | `search` | lines that are unique on both sides become fixed points | a script that crosses such a point, which is rarely shorter |
/// | `long_line` | a line is walked through, and only the parts that differ are cut into words | a word at an end of such a part can be marked more widely |
/// | `line_window` | no window of a long line grows beyond this; its two parts differ as a whole | that a piece further on is the same |
/// | `line.look_back` | what differs begins at a whole letter, not behind a separator | the head of its first word is shown as equal |
/// | `line.piece` | a piece without a separator is cut where its bytes happen to say so | a word can be marked in part |
/// | `large_island` | a part of a long line that differs is not looked into | which of its words are the same |
/// | `moves` | blocks that moved are not looked for | a block that moved is told as gone and new |
/// | `counted_lines` | short blocks are looked for among the gone and new lines only | that such a block stands in the texts more than once |
/// | `passages` | a larger passage is not read for words that only stand in other lines | that it was only wrapped |
/// | `inside` | a change of more lines, both sides together, is not looked into for lines that are equal or match | that lines in it are equal |
/// | `pairs` | see [`PairBounds`] | pairs of lines that belong together |
/// | `slide` | a block that could stand at more places stays among the nearest | a better place far away |
/// | `depth` | parts of parts of so many levels are not cut at unique lines any more | some matches in texts that repeat in patterns within patterns |
/// | `step` | where nothing is unique, the farthest point reached becomes a fixed point | some matches among lines that repeat very often |
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Bounds {
    walk_from: usize,
    walk: WalkBounds,
    search: Option<usize>,
    step: usize,
    long_line: usize,
    line_windows: (usize, usize),
    line: LineBounds,
    large_island: usize,
    moves: usize,
    counted_lines: usize,
    passages: usize,
    inside: usize,
    pairs: PairBounds,
    slide: usize,
    depth: usize,
}

impl Default for Bounds {
    fn default() -> Self {
        Self {
            walk_from: 4 << 20,
            walk: WalkBounds::default(),
            search: None,
            step: 256,
            long_line: 64 << 10,
            line_windows: (4 << 10, 4 << 20),
            line: LineBounds::default(),
            large_island: 4 << 20,
            moves: 200_000,
            counted_lines: 16 << 20,
            passages: 8 << 20,
            inside: 20_000,
            pairs: PairBounds::default(),
            slide: 200,
            depth: 48,
        }
    }
}

impl Bounds {
    /// No bound at all: the shortest script, whatever it takes. Time grows with lines times differences.
    pub fn shortest() -> Self {
        Self {
            walk_from: usize::MAX,
            walk: WalkBounds::default(),
            search: Some(usize::MAX),
            step: usize::MAX,
            long_line: usize::MAX,
            line_windows: (usize::MAX, usize::MAX),
            large_island: usize::MAX,
            moves: usize::MAX,
            passages: usize::MAX,
            inside: usize::MAX,
            ..Self::default()
        }
    }

    /// Texts whose differing middle has more than this many bytes (both sides together) are walked through.
    pub fn walk_from(mut self, bytes: usize) -> Self {
        self.walk_from = bytes;
        self
    }

    /// How many differences are searched through from either end of a region before unique lines become fixed points.
    pub fn search(mut self, differences: usize) -> Self {
        self.search = Some(differences.max(1));
        self
    }

    /// How many differences are searched through where no line is unique.
    pub fn step(mut self, differences: usize) -> Self {
        self.step = differences.max(2);
        self
    }

    /// Two lines with more bytes than this are walked through.
    pub fn long_line(mut self, bytes: usize) -> Self {
        self.long_line = bytes;
        self
    }

    /// How large the windows are in which the walk through a long line looks for equal pieces: the first, and the largest.
    pub fn line_windows(mut self, first: usize, largest: usize) -> Self {
        self.line_windows = (first.max(1), largest.max(first));
        self
    }

    /// What bounds the walk through a long line.
    pub fn line_within(mut self, line: LineBounds) -> Self {
        self.line = line;
        self
    }

    pub(super) fn line(&self) -> &LineBounds {
        &self.line
    }

    /// Parts of a long line with more bytes than this on both sides together are not looked into.
    pub fn large_island(mut self, bytes: usize) -> Self {
        self.large_island = bytes;
        self
    }

    /// With more lines gone or new than this, blocks that moved are not looked for: in so large a difference they tell a reader nothing.
    pub fn moves(mut self, lines: usize) -> Self {
        self.moves = lines;
        self
    }

    /// In texts of more bytes than this, both sides together, it is not counted how often the lines of a short block stand in them.
    pub fn counted_lines(mut self, bytes: usize) -> Self {
        self.counted_lines = bytes;
        self
    }

    /// Passages of more bytes than this, both sides together, are not read for text that was only wrapped.
    pub fn passages(mut self, bytes: usize) -> Self {
        self.passages = bytes;
        self
    }

    /// Changes of more lines than this, both sides together, are not looked into.
    pub fn inside(mut self, lines: usize) -> Self {
        self.inside = lines;
        self
    }

    /// What bounds the pairing of lines.
    pub fn pairs_within(mut self, pairs: PairBounds) -> Self {
        self.pairs = pairs;
        self
    }

    /// How many lines a block slides either way.
    pub fn slide(mut self, lines: usize) -> Self {
        self.slide = lines;
        self
    }

    /// How many levels of parts within parts are cut at unique lines.
    pub fn depth(mut self, levels: usize) -> Self {
        self.depth = levels;
        self
    }

    pub(crate) fn looks_inside(&self, lines: usize) -> bool {
        lines <= self.inside
    }

    pub(crate) fn pairs(&self) -> &PairBounds {
        &self.pairs
    }

    pub(super) fn farthest_slide(&self) -> usize {
        self.slide
    }

    pub(super) fn cuts_at(&self, depth: usize) -> bool {
        depth < self.depth
    }

    pub(super) fn reads_passage(&self, bytes: usize) -> bool {
        bytes <= self.passages
    }

    pub(super) fn looks_for_moves(&self, lines: usize) -> bool {
        lines <= self.moves
    }

    pub(super) fn counts_lines(&self, bytes: usize) -> bool {
        bytes <= self.counted_lines
    }

    pub(super) fn is_long_line(&self, bytes: usize) -> bool {
        bytes > self.long_line
    }

    pub(super) fn windows(&self) -> (usize, usize) {
        self.line_windows
    }

    pub(super) fn is_large_island(&self, bytes: usize) -> bool {
        bytes > self.large_island
    }

    /// What bounds the walk through large texts.
    pub fn walk_within(mut self, walk: WalkBounds) -> Self {
        self.walk = walk;
        self
    }

    pub(super) fn walk(&self) -> &WalkBounds {
        &self.walk
    }

    pub(super) fn walks(&self, bytes: usize) -> bool {
        bytes > self.walk_from
    }

    /// The bound on differences for a region of so many lines. It grows with the root of the size, so that the work
    /// of one search, which grows with its square, keeps step with the size.
    pub(super) fn search_in(&self, lines: usize) -> usize {
        self.search.unwrap_or_else(|| (lines.isqrt() * 8).clamp(256, 4096))
    }

    pub(super) fn step_in(&self) -> usize {
        self.step
    }

    /// Regions of more lines than this are first cut at long unique runs.
    pub(super) fn cuts_first(&self, lines: usize) -> bool {
        self.search.is_none() && lines > 8192
    }
}

/// What bounds the walk through large texts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct WalkBounds {
    /// So many equal lines in a row are taken for the place where two texts go on alike, if enough of them are different.
    pub solid: usize,
    /// How many different lines such a run must have.
    pub varied: usize,
    /// So many equal lines end a part that differs, unless it is very long.
    pub closing: usize,
    /// Differences that are searched through before windows are tried.
    pub differences: usize,
    /// Steps of one search before windows are tried.
    pub steps: usize,
    /// The first window, in bytes.
    pub window: usize,
    /// In a large window, one line in so many is looked for.
    pub sampled: u64,
    /// Under rules, so many lines beside a part that differs are looked at for lines that match and differ.
    pub beside: usize,
}

impl Default for WalkBounds {
    fn default() -> Self {
        Self {
            solid: 32,
            varied: 8,
            closing: 256,
            differences: 400,
            steps: 1 << 20,
            window: 1 << 20,
            sampled: 16,
            beside: 4096,
        }
    }
}

impl WalkBounds {
    /// The bounds within which a place is looked for that is near.
    pub(super) fn nearby(&self) -> Self {
        Self { differences: self.differences.div_ceil(16), ..*self }
    }

    /// How many equal lines end a part of so many lines that differs: the longer it is, the fewer, so that it stays small.
    pub(super) fn closing(&self, lines: usize) -> usize {
        if lines < 20_000 { self.closing } else { self.solid }
    }
}

/// What bounds the walk through a long line.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LineBounds {
    /// A run of equal pieces with so many bytes is taken for the place where two lines go on alike, if enough of them are different.
    pub solid: usize,
    /// How many different pieces such a run must have.
    pub varied: usize,
    /// So many bytes before a difference a separator is looked for.
    pub look_back: usize,
    /// A piece without a separator is cut further if it has more bytes than this.
    pub piece: usize,
}

impl Default for LineBounds {
    fn default() -> Self {
        Self { solid: 64, varied: 4, look_back: 256, piece: 256 }
    }
}

/// What bounds the pairing of the lines inside a change.
///
/// | bound | what happens beyond it | what is lost |
/// |---|---|---|
/// | `pairs` | a change is divided at lines that are the same but for white space and digits; what is still too large is paired from its top | pairs with lines between them |
/// | `lines` | what is still too large is not paired | all pairs in it |
/// | `looked_at` | of a longer line, the two ends are weighed | that its middle is alike |
/// | `across` | two changes close to each other are not weighed against each other | that they are one, as a line of one became a line of the other |
/// | `broken` | no lines of a stretch are told as broken or joined | that a line was only broken in another way |
/// | `related` | the change is only paired if its first lines seem related | pairs further down |
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct PairBounds {
    /// The most pairs of lines that are weighed against each other.
    pub pairs: usize,
    /// The most lines on either side that are paired from the top.
    pub lines: usize,
    /// The most lines on either side that are paired whatever they are.
    pub related: usize,
    /// So many of the first lines are looked at to tell whether they seem related.
    pub first: usize,
    /// So many bytes at either end of a line are weighed.
    pub looked_at: usize,
    /// The most pairs of lines of two changes close to each other that are weighed.
    pub across: usize,
    /// The most lines on either side among which lines are looked for that were broken or joined.
    pub broken: usize,
}

impl Default for PairBounds {
    fn default() -> Self {
        Self { pairs: 40_000, lines: 10_000, related: 50_000, first: 4000, looked_at: 1024, across: 5_000, broken: 64 }
    }
}

/// With more gone and new lines than this in a tree, blocks that moved from file to file are not looked for: in so large a difference they tell
/// a reader nothing, and their hashes would fill the memory.
pub(crate) const LARGEST_BLOCK_SEARCH: usize = 2_000_000;

// What bounds the search for what moved or repeats in a whole tree.

/// Files of more bytes are not weighed by similarity; lost is that such a file moved and was edited.
pub(crate) const LARGEST_MOVED_FILE: u64 = 1 << 20;

/// A line that stands in more new files than this does not tell which of them a gone file became; lost are moves of files that consist of
/// such lines.
pub(crate) const MOST_HOLDERS: usize = 24;

/// So many files that are in both trees are looked at to tell which lines many files have, none of more bytes than the other bound; lost is that a
/// line which few of these have is a usual one.
pub(crate) const MOST_SAMPLED: usize = 128;
pub(crate) const LARGEST_SAMPLE: u64 = 64 << 10;

/// So many hashes of its lines stand for a file; lost is how alike two files are beyond a few hundredths.
pub(crate) const SKETCH_HASHES: usize = 128;

/// So many different edits of words of one file are counted for the one that most lines have in common. Later ones are not: an edit that half
/// of all lines have in common is among the first.
pub(crate) const MOST_EDITS_IN_FILE: usize = 1 << 10;

/// The same of all files together.
pub(crate) const MOST_EDITS: usize = 1 << 16;

/// Lines with more bytes are not looked at for the edit that most lines have in common.
pub(crate) const LONGEST_EDITED_LINE: usize = 4 << 10;

/// So many different edits of words are held for the list of those that repeat; further ones are not counted.
pub(crate) const MOST_REPEATS: usize = 1 << 20;

// What bounds the comparison of data and tables.

/// Items of a list (or rows without a key) that are gone and new at one place are paired by similarity while no more pairs than this could be
/// made of them; beyond it, one by one in their order. Lost is which of very many neighbours became which.
pub(crate) const MOST_PAIRED_ITEMS: usize = 1 << 16;

/// So many members of two nodes (or cells of two rows) tell how similar they are; lost is what differs in later ones.
pub(crate) const MOST_WEIGHED_MEMBERS: usize = 64;
