//! The rows of a region in three columns: each line of the base with what either side made of it.

use tideline_core::internal::model::{Segment, Weight};
use tideline_core::internal::text::lines::Lines;

use super::MergeView;
use super::sides::SideTexts;
use crate::rows::{Block, FileRow, Line, Pick, RowOptions, RowSource};
use crate::view::{Context, FileView};

/// What stands in the column of one side.
pub(crate) enum Cell<'a> {
    /// The line of the base, as it is.
    Equal(Line<'a>),
    /// A line that the side changed or put in.
    New(Line<'a>),
    /// The side removed the line.
    Gone,
    /// Nothing: the other side put lines in here.
    Nothing,
}

/// A row of three columns.
pub(crate) struct ThreeRow<'a> {
    /// The line of the base, if the row has one, and whether a side changed it.
    pub(crate) base: Option<(Line<'a>, bool)>,
    pub(crate) mine: Cell<'a>,
    pub(crate) theirs: Cell<'a>,
}

/// The base with each side, as pairs of texts.
#[derive(Clone, Copy)]
pub(crate) struct SidePairs<'a> {
    pub(crate) view: &'a MergeView<'a>,
    pub(crate) mine: (&'a SideTexts, &'a FileView<'a>),
    pub(crate) theirs: (&'a SideTexts, &'a FileView<'a>),
}

/// What one side made of each line of the base in a region, and of the places before, between and behind them.
#[derive(Default)]
struct Column<'a> {
    slots: Vec<Slot<'a>>,
    /// Lines put in behind the last line of the base.
    behind: Vec<Line<'a>>,
}

/// A line of the base on one side.
struct Slot<'a> {
    /// Lines put in before it.
    inserted: Vec<Line<'a>>,
    /// The line of the base, with the parts that differ.
    base: Line<'a>,
    kept: Cell<'a>,
}

impl<'a> Column<'a> {
    fn of(
        pairs: &SidePairs<'a>,
        region: usize,
        (texts, pair): (&SideTexts, &'a FileView<'a>),
        options: &RowOptions<'a>,
    ) -> Self {
        let mut column = Self::default();
        let Some(place) = texts.place(region) else {
            let spans = &pairs.view.merge.regions[region];
            let base = &spans.base;
            let shift = texts.first_line(spans);
            for (at, line) in Lines::of(&pair.before.text()[base.bytes.clone()]).iter().enumerate() {
                let of = |start: usize| whole_line(start + at + 1, line);
                column.keep(of(base.lines.start), Cell::Equal(of(shift)));
            }
            return column;
        };
        let options = RowOptions { context: Context::Lines(0), ..options.clone() };
        let mut source = RowSource::new(pair, Pick::Places(&[place]), &options);
        for block in 0..source.len() {
            if matches!(source.block(block), Block::Change(_)) {
                source.rows(block).for_each(|row| column.add(row));
            }
        }
        column
    }

    fn keep(&mut self, base: Line<'a>, kept: Cell<'a>) {
        self.slots.push(Slot { inserted: std::mem::take(&mut self.behind), base, kept });
    }

    fn add(&mut self, row: FileRow<'a>) {
        match row {
            FileRow::Equal(Some(base), Some(line)) => self.keep(base, Cell::Equal(line)),
            FileRow::Equal(Some(base), None) | FileRow::Gone(base, _) => self.keep(base, Cell::Gone),
            FileRow::Equal(None, Some(line)) | FileRow::New(line, _) => self.behind.push(line),
            FileRow::Edited(base, line, _) => self.keep(base, Cell::New(line)),
            FileRow::Equal(None, None) => {}
        }
    }
}

/// A line without parts that differ.
pub(crate) fn whole_line(number: usize, text: &[u8]) -> Line<'_> {
    Line { number, text, parts: Vec::new(), syntax: Vec::new(), spelled_out: false }
}

/// The rows of a region, by its index.
pub(crate) fn region_rows<'a>(pairs: &SidePairs<'a>, region: usize, options: &RowOptions<'a>) -> Vec<ThreeRow<'a>> {
    let mine = Column::of(pairs, region, pairs.mine, options);
    let theirs = Column::of(pairs, region, pairs.theirs, options);
    let mut rows = Vec::new();
    for (one, other) in mine.slots.into_iter().zip(theirs.slots) {
        side_by_side(one.inserted, other.inserted, &mut rows);
        let is_changed = !matches!((&one.kept, &other.kept), (Cell::Equal(_), Cell::Equal(_)));
        let mut base = one.base;
        base.parts = union(&base.parts, &other.base.parts);
        rows.push(ThreeRow { base: Some((base, is_changed)), mine: one.kept, theirs: other.kept });
    }
    side_by_side(mine.behind, theirs.behind, &mut rows);
    rows
}

/// Lines that both sides put in at one place.
fn side_by_side<'a>(mine: Vec<Line<'a>>, theirs: Vec<Line<'a>>, rows: &mut Vec<ThreeRow<'a>>) {
    let (mut mine, mut theirs) = (mine.into_iter(), theirs.into_iter());
    let cell = |line: Option<Line<'a>>| line.map_or(Cell::Nothing, Cell::New);
    loop {
        match (mine.next(), theirs.next()) {
            (None, None) => return,
            (one, other) => rows.push(ThreeRow { base: None, mine: cell(one), theirs: cell(other) }),
        }
    }
}

/// The parts of a line that either of two lists says differ.
fn union(one: &[Segment], other: &[Segment]) -> Vec<Segment> {
    if one.is_empty() || other.is_empty() {
        return if one.is_empty() { other.to_vec() } else { one.to_vec() };
    }
    let mut edges: Vec<usize> = one.iter().chain(other).flat_map(|part| [part.bytes.start, part.bytes.end]).collect();
    edges.sort_unstable();
    edges.dedup();
    let weight = |parts: &[Segment], at: usize| -> Option<Weight> {
        parts.iter().find(|part| part.bytes.contains(&at)).and_then(|part| part.differs)
    };
    edges
        .windows(2)
        .map(|edge| Segment {
            bytes: edge[0]..edge[1],
            differs: weight(one, edge[0]).or_else(|| weight(other, edge[0])),
        })
        .collect()
}
