//! What bounds the work of an alignment, and what is lost by it.

/// How much work an alignment may do before it settles for less than the shortest script.
///
/// | bound | what happens beyond it | what is lost |
/// |---|---|---|
/// | `walk_from` | the texts are walked through instead of being cut into lines as a whole | a copy of a long block can be matched with the nearer of two equal places |
/// | `search` | lines that are unique on both sides become fixed points | a script that crosses such a point, which is rarely shorter |
/// | `step` | where nothing is unique, the farthest point reached becomes a fixed point | some matches among lines that repeat very often |
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Bounds {
    walk_from: usize,
    search: Option<usize>,
    step: usize,
}

impl Default for Bounds {
    fn default() -> Self {
        Self { walk_from: 4 << 20, search: None, step: 256 }
    }
}

impl Bounds {
    /// No bound at all: the shortest script, whatever it takes. Time grows with lines times differences.
    pub fn shortest() -> Self {
        Self { walk_from: usize::MAX, search: Some(usize::MAX), step: usize::MAX }
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
