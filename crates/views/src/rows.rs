//! The rows of a comparison, whatever they are drawn on: an index of blocks, and the rows of each block, pulled one by one.
//!
//! A block is a change with its heading and the equal lines around it, or a stretch of equal lines between two changes. The index
//! knows how many blocks there are before any is read, and a block is read without those before it.

use tideline_core::internal::kinds::text::{Detail, Grain, detail_of_place};
use tideline_core::internal::model::{self, Form, Place, Segment, Span, TextComparison, Weight};
use tideline_core::internal::text::bytes::{line_end, lines_below};

use crate::gap::{At, Gap, GapRow, GapRows};
use crate::line_pair::{is_indented_differently, is_long, print_alike, with_places};
use crate::shown::{DisplayLine, Medium, printable_bytes};
use crate::syntax::{Budget, Highlighter, SyntaxSpan};
use crate::view::{Context, FileView};

/// A line of one side.
pub(crate) struct Line<'a> {
    /// Its number, from 1.
    pub(crate) number: usize,
    /// Its bytes, with the line end.
    pub(crate) text: &'a [u8],
    /// Its pieces, and which of them differ; none where it is not compared with another line.
    pub(crate) parts: Vec<Segment>,
    /// Its colours by syntax.
    pub(crate) syntax: Vec<SyntaxSpan>,
    /// Whether what differs in it is spelled out, as it would look like the other line.
    pub(crate) spelled_out: bool,
}

impl Line<'_> {
    /// The line as it is shown, where it may take so many columns.
    pub(crate) fn shown(&self, medium: Medium, columns: usize) -> DisplayLine {
        let whole = one_part(self.text);
        let parts = if self.parts.is_empty() { &whole[..] } else { &self.parts };
        // A page has grounds for blanks, and its text can be copied.
        if self.spelled_out && !(medium == Medium::Page && self.text.is_ascii()) {
            return DisplayLine::spelled_out(self.text, parts, &self.syntax, medium);
        }
        DisplayLine::within(self.text, parts, &self.syntax, medium, columns)
    }

    /// The text of a line that is shown as it stands: it has no parts and no colours, takes no more than so many columns, and ends.
    pub(crate) fn usual_text(&self, columns: usize) -> Option<&[u8]> {
        let is_usual = self.parts.is_empty() && self.syntax.is_empty() && self.text.ends_with(b"\n");
        if is_usual { printable_bytes(self.text).filter(|text| text.len() <= columns) } else { None }
    }

    /// Some pieces of the line as they are shown.
    pub(crate) fn shown_parts(&self, parts: &[Segment], medium: Medium) -> DisplayLine {
        DisplayLine::new(self.text, parts, &self.syntax, medium)
    }
}

/// The parts of a line that is not compared with another.
pub(crate) fn one_part(line: &[u8]) -> [Segment; 1] {
    [Segment::equal(0..line.len())]
}

/// What a line that one side has, or a pair of lines, is to a reader.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum LineChange {
    /// It counts.
    Counted,
    /// It stands elsewhere on the other side.
    Moved,
    /// It does not count.
    Muted,
    /// Two lines that differ in their indentation alone.
    Indented,
}

impl LineChange {
    fn of(weight: Weight, moved: bool) -> Self {
        match weight {
            Weight::Muted => Self::Muted,
            Weight::Counted if moved => Self::Moved,
            Weight::Counted => Self::Counted,
        }
    }
}

/// A row: a line of one side, or two lines that belong together.
pub(crate) enum FileRow<'a> {
    /// A line that both sides have, or that one has and that is shown as equal text.
    Equal(Option<Line<'a>>, Option<Line<'a>>),
    /// A line that only before has.
    Gone(Line<'a>, LineChange),
    /// A line that only after has.
    New(Line<'a>, LineChange),
    /// Two lines that belong together.
    Edited(Line<'a>, Line<'a>, LineChange),
}

/// A stretch of rows that is drawn as a whole.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Block<'a> {
    /// Equal lines that are not around a change, and lines that differ in what is put aside.
    Hidden {
        /// How many rows they are.
        rows: usize,
        /// How many of them differ, in what is not shown as different.
        put_aside: usize,
        /// How many bytes they have, of both sides the more; those that are shown around them may be among them.
        bytes: usize,
    },
    /// A change at one of its places, and equal lines around it.
    Change(&'a Place),
}

/// What decides which rows there are.
#[derive(Clone, Debug)]
pub(crate) struct RowOptions<'a> {
    /// Equal lines around each change.
    pub(crate) context: Context,
    /// What is marked inside a line.
    pub(crate) grain: &'a Grain,
    /// The time for colours by syntax.
    pub(crate) budget: Budget,
}

/// Which changes there are rows of.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Pick<'p> {
    /// Those up to a place where the first comes that is beyond so many.
    First(usize),
    /// What is at these places, each with all of its surroundings.
    Places(&'p [usize]),
}

impl Pick<'_> {
    /// All of them.
    pub(crate) const ALL: Self = Self::First(usize::MAX);
}

/// The places of each change, in order.
pub(crate) fn places_by_change(view: &FileView<'_>) -> Vec<Vec<usize>> {
    let mut places = vec![Vec::new(); view.comparison.changes.len()];
    for (at, place) in view.comparison.places.iter().enumerate() {
        places[place.change].push(at);
    }
    places
}

/// A block and where its rows are.
struct Indexed<'a> {
    block: Block<'a>,
    /// The equal lines above the change, of which the last are shown; those that are hidden.
    gap: Gap<'a>,
    /// How many rows of that gap belong to the block, and how many come before them.
    rows: (usize, usize),
    /// The equal lines below the change, and how many of them are shown.
    below: Option<(Gap<'a>, usize)>,
}

/// The rows of a comparison.
pub(crate) struct RowSource<'a> {
    view: &'a FileView<'a>,
    grain: &'a Grain,
    index: Vec<Indexed<'a>>,
    before: Highlighter<'a>,
    after: Highlighter<'a>,
}

impl<'a> RowSource<'a> {
    /// The rows of the changes that are picked.
    pub(crate) fn new(view: &'a FileView<'a>, pick: Pick<'_>, options: &RowOptions<'a>) -> Self {
        let highlighter = || Highlighter::new(view.type_name, options.budget.clone());
        let index = index(view, pick, options.context);
        Self { view, grain: options.grain, index, before: highlighter(), after: highlighter() }
    }

    /// How many blocks there are.
    pub(crate) fn len(&self) -> usize {
        self.index.len()
    }

    /// What a block is.
    pub(crate) fn block(&self, index: usize) -> Block<'a> {
        self.index[index].block
    }

    /// The row of two lines that are equal, or of one that is shown so, each by its index and its first byte.
    pub(crate) fn equal_row(&mut self, before: Option<(usize, usize)>, after: Option<(usize, usize)>) -> FileRow<'a> {
        let before = before.map(|(line, byte)| self.before.line(self.view.before.text(), line, byte));
        let after = after.map(|(line, byte)| self.after.line(self.view.after.text(), line, byte));
        FileRow::Equal(before, after)
    }

    /// The rows of a block.
    pub(crate) fn rows(&mut self, index: usize) -> BlockRows<'_, 'a> {
        let Indexed { block, gap, rows: (count, skipped), below } = &self.index[index];
        let above = match block {
            Block::Hidden { .. } => Equal::Ahead(gap.rows_from_start(skipped + count).skip(*skipped)),
            Block::Change(_) => Equal::Behind(gap.last(*count).into_iter()),
        };
        let below = below.as_ref().map(|(gap, count)| gap.rows_from_start(*count));
        let place = if let Block::Change(place) = block { Some(*place) } else { None };
        let (view, grain) = (self.view, self.grain);
        BlockRows { view, grain, above, place, inside: None, below, before: &mut self.before, after: &mut self.after }
    }
}

fn index<'a>(view: &'a FileView<'a>, pick: Pick<'_>, context: Context) -> Vec<Indexed<'a>> {
    let all = &view.comparison.places;
    match pick {
        Pick::First(most) => {
            let upto = all.iter().position(|place| place.change >= most).unwrap_or(all.len());
            index_up_to(view, upto, context)
        }
        Pick::Places(places) => {
            let is_next = |one: Option<&usize>, other: Option<&usize>| match (one, other) {
                (Some(one), Some(other)) => one + 1 == *other,
                _ => false,
            };
            let joins = |at: usize| {
                let (above, here, below) =
                    (at.checked_sub(1).map(|at| &places[at]), places.get(at), places.get(at + 1));
                (is_next(above, here), is_next(here, below))
            };
            places.iter().enumerate().map(|(at, &place)| picked(view, place, joins(at), context)).collect()
        }
    }
}

/// The gaps above and below a place.
fn gaps<'a>(view: &'a FileView<'a>, at: usize) -> (Gap<'a>, Gap<'a>) {
    let places = &view.comparison.places;
    let start = (At { line: view.first.0, byte: 0 }, At { line: view.first.1, byte: 0 });
    let above = at.checked_sub(1).map_or(start, |at| end_of(&places[at]));
    let above = Gap::new(view, above, Some(start_of(&places[at])));
    (above, Gap::new(view, end_of(&places[at]), places.get(at + 1).map(start_of)))
}

/// A change at one of its places, without what is between it and others. Lines between it and a place next to it that is picked too are shared out.
fn picked<'a>(
    view: &'a FileView<'a>,
    at: usize,
    (joins_above, joins_below): (bool, bool),
    context: Context,
) -> Indexed<'a> {
    let (above, below) = gaps(view, at);
    let lines = context.lines();
    let lines_above = if joins_above { shares(context, above.rows()).1 } else { lines };
    let lines_below = if joins_below { shares(context, below.rows()).0 } else { lines };
    let block = Block::Change(&view.comparison.places[at]);
    Indexed { block, gap: above, rows: (lines_above, 0), below: Some((below, lines_below)) }
}

fn index_up_to<'a>(view: &'a FileView<'a>, upto: usize, context: Context) -> Vec<Indexed<'a>> {
    let all = &view.comparison.places;
    let mut index = Vec::new();
    // Rows that the change before has of the gap that comes next.
    let mut shown = 0;
    for (at, place) in all[..upto].iter().enumerate() {
        let (above, below) = gaps(view, at);
        let count = if at == 0 { context.lines() } else { shares(context, above.rows()).1 };
        index.extend(hidden(&above, shown, count));
        let is_last = at + 1 == all.len();
        let count_below = if is_last { context.lines() } else { shares(context, below.rows()).0 };
        let gap_below = below.clone();
        index.push(Indexed {
            block: Block::Change(place),
            gap: above,
            rows: (count, 0),
            below: Some((below, count_below)),
        });
        shown = count_below;
        if is_last {
            index.extend(hidden(&gap_below, count_below, 0));
        }
    }
    index
}

/// The rows of a gap that are neither the first so many nor the last so many.
fn hidden<'a>(gap: &Gap<'a>, first: usize, last: usize) -> Option<Indexed<'a>> {
    let rows = gap.rows().saturating_sub(first.saturating_add(last));
    let block = Block::Hidden { rows, put_aside: gap.put_aside(first..first + rows), bytes: gap.bytes() };
    (rows > 0).then(|| Indexed { block, gap: gap.clone(), rows: (rows, first), below: None })
}

/// How the equal lines between two places are shared out: so many below the first, so many above the second. All
/// of them stand below the first when everything is shown.
fn shares(context: Context, gap: usize) -> (usize, usize) {
    match context {
        Context::All => (gap, 0),
        Context::Lines(lines) => {
            let above = lines.min(gap / 2);
            (lines.min(gap - above), above)
        }
    }
}

fn start_of(place: &Place) -> (At, At) {
    let at = |span: &Span| At { line: span.lines.start, byte: span.bytes.start };
    (at(&place.before), at(&place.after))
}

fn end_of(place: &Place) -> (At, At) {
    let at = |span: &Span| At { line: span.lines.end, byte: span.bytes.end };
    (at(&place.before), at(&place.after))
}

/// The largest line number that will be drawn.
pub(crate) fn largest_number(view: &FileView<'_>, context: Context) -> usize {
    let Some(last) = view.comparison.places.last() else { return 0 };
    let below = lines_below(view.before.text(), last.before.bytes.end, context.lines()).1;
    last.before.lines.end.max(last.after.lines.end) + below
}

/// Equal rows above a change, or hidden ones.
enum Equal<'a> {
    Ahead(std::iter::Skip<GapRows<'a>>),
    Behind(std::vec::IntoIter<GapRow>),
}

impl Iterator for Equal<'_> {
    type Item = GapRow;

    fn next(&mut self) -> Option<GapRow> {
        match self {
            Self::Ahead(rows) => rows.next(),
            Self::Behind(rows) => rows.next(),
        }
    }
}

/// The inside of a change on its way to a reader: its lines, and the rows that are still to come.
struct Inside<'a> {
    detail: Detail<'a>,
    next: usize,
    moved: bool,
}

/// The rows of a block, in order.
pub(crate) struct BlockRows<'s, 'a> {
    view: &'a FileView<'a>,
    grain: &'a Grain,
    above: Equal<'a>,
    place: Option<&'a Place>,
    inside: Option<Inside<'a>>,
    below: Option<GapRows<'a>>,
    before: &'s mut Highlighter<'a>,
    after: &'s mut Highlighter<'a>,
}

impl<'a> Iterator for BlockRows<'_, 'a> {
    type Item = FileRow<'a>;

    fn next(&mut self) -> Option<FileRow<'a>> {
        if let Some(row) = self.above.next() {
            return Some(self.equal(row));
        }
        if let Some(place) = self.place {
            // What is inside a change costs time, and is looked at when its rows are wanted.
            if self.inside.is_none() {
                let view = self.view;
                let change = &view.comparison.changes[place.change];
                let mut detail = detail_of_place((view.before, view.after), (change, place), self.grain);
                detail.rows = apart(detail.rows, place, view.comparison);
                let moved = change.form == Form::Moved;
                self.inside = Some(Inside { detail, next: 0, moved });
            }
            if let Some(row) = self.row_inside(place) {
                return Some(row);
            }
            (self.place, self.inside) = (None, None);
        }
        let row = self.below.as_mut()?.next()?;
        Some(self.equal(row))
    }
}

impl<'a> BlockRows<'_, 'a> {
    fn equal(&mut self, row: GapRow) -> FileRow<'a> {
        let before = row.before.map(|at| self.before.line(self.view.before.text(), at.line, at.byte));
        let after = row.after.map(|at| self.after.line(self.view.after.text(), at.line, at.byte));
        FileRow::Equal(before, after)
    }

    /// The next row inside a change.
    fn row_inside(&mut self, place: &Place) -> Option<FileRow<'a>> {
        let Inside { detail, next, moved } = self.inside.as_mut()?;
        let row = detail.rows.get_mut(*next)?;
        *next += 1;
        let view = self.view;
        let mut before = |line: usize, parts: Vec<Segment>| {
            let at = place.before.bytes.start + detail.before.start(line);
            let index = place.before.lines.start + line;
            let syntax = self.before.syntax(view.before.text(), index, at);
            Line { number: index + 1, text: detail.before.get(line), parts, syntax, spelled_out: false }
        };
        let mut after = |line: usize, parts: Vec<Segment>| {
            let at = place.after.bytes.start + detail.after.start(line);
            let index = place.after.lines.start + line;
            let syntax = self.after.syntax(view.after.text(), index, at);
            Line { number: index + 1, text: detail.after.get(line), parts, syntax, spelled_out: false }
        };
        let whole = Vec::new;
        Some(match row {
            model::Row::Gone { before: line, words, weight } => {
                let is_block = is_in_block(view, Form::Gone, place.before.lines.start + *line);
                FileRow::Gone(before(*line, std::mem::take(words)), LineChange::of(*weight, *moved || is_block))
            }
            model::Row::New { after: line, words, weight } => {
                let is_block = is_in_block(view, Form::New, place.after.lines.start + *line);
                FileRow::New(after(*line, std::mem::take(words)), LineChange::of(*weight, *moved || is_block))
            }
            model::Row::Equal { before: b, after: a } => {
                FileRow::Equal(Some(before(*b, whole())), Some(after(*a, whole())))
            }
            model::Row::Hidden { before: b, after: a } => {
                FileRow::Equal(b.map(|line| before(line, whole())), a.map(|line| after(line, whole())))
            }
            model::Row::Edited { before: b, after: a, words, weight } => {
                let mut words = std::mem::take(words);
                if is_long(detail.before.get(*b), detail.after.get(*a)) {
                    words = with_places(words);
                }
                let (mut before, mut after) = (before(*b, words.before), after(*a, words.after));
                let is_indented = is_indented_differently(before.text, after.text);
                let change = match LineChange::of(*weight, false) {
                    LineChange::Counted if is_indented => LineChange::Indented,
                    change => change,
                };
                if !is_indented && print_alike(before.text, after.text) {
                    (before.spelled_out, after.spelled_out) = (true, true);
                }
                FileRow::Edited(before, after, change)
            }
        })
    }
}

/// Whether a line is in a block that moved to another file, or came from one.
fn is_in_block(view: &FileView<'_>, form: Form, line: usize) -> bool {
    view.comparison.moved_block(form, line).is_some()
}

/// Rows whose lines in blocks that stand in other files have no partners here; what differs in them is what differs from there.
fn apart(rows: Vec<model::Row>, place: &Place, comparison: &TextComparison) -> Vec<model::Row> {
    if comparison.moved_blocks.is_empty() {
        return rows;
    }
    let words_of = |form: Form, line: usize| {
        let block = comparison.moved_block(form, line)?;
        let found = block.differing.binary_search_by_key(&line, |(differing, _)| *differing).ok();
        Some(found.map_or_else(Vec::new, |at| block.differing[at].1.clone()))
    };
    let gone = |before: usize| words_of(Form::Gone, place.before.lines.start + before);
    let new = |after: usize| words_of(Form::New, place.after.lines.start + after);
    let mut result = Vec::with_capacity(rows.len());
    for row in rows {
        match row {
            model::Row::Edited { before, after, ref weight, .. } if gone(before).or(new(after)).is_some() => {
                let weight = *weight;
                result.push(model::Row::Gone { before, words: gone(before).unwrap_or_default(), weight });
                result.push(model::Row::New { after, words: new(after).unwrap_or_default(), weight });
            }
            model::Row::Gone { before, words, weight } => {
                result.push(model::Row::Gone { before, words: gone(before).unwrap_or(words), weight });
            }
            model::Row::New { after, words, weight } => {
                result.push(model::Row::New { after, words: new(after).unwrap_or(words), weight });
            }
            row => result.push(row),
        }
    }
    result
}

impl Highlighter<'_> {
    /// The line that starts at a byte of a text, with its syntax.
    fn line<'t>(&mut self, text: &'t [u8], index: usize, at: usize) -> Line<'t> {
        let line = &text[at..line_end(text, at)];
        Line {
            number: index + 1,
            text: line,
            parts: Vec::new(),
            syntax: self.syntax(text, index, at),
            spelled_out: false,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::view::{Labels, Syntax};
    use tideline_core::internal::kinds::text::{TextOptions, compare};
    use tideline_core::internal::rules::MaskedText;

    fn told(row: &FileRow<'_>) -> String {
        let number = |line: &Option<Line<'_>>| line.as_ref().map_or("-".to_owned(), |line| line.number.to_string());
        match row {
            FileRow::Equal(before, after) => format!("= {} {}", number(before), number(after)),
            FileRow::Gone(line, _) => format!("gone {}", line.number),
            FileRow::New(line, _) => format!("new {}", line.number),
            FileRow::Edited(before, after, _) => format!("edited {} {}", before.number, after.number),
        }
    }

    /// The rows of all blocks, read in this order and given in that of the file.
    fn rows(view: &FileView<'_>, context: Context, order: impl Fn(usize) -> Vec<usize>) -> Vec<Vec<String>> {
        let grain = Grain::default();
        let options = RowOptions { context, grain: &grain, budget: Budget::of(Syntax::Off) };
        let mut source = RowSource::new(view, Pick::ALL, &options);
        let mut found = vec![Vec::new(); source.len()];
        for block in order(source.len()) {
            found[block] = source.rows(block).map(|row| told(&row)).collect();
        }
        found
    }

    #[test]
    fn a_block_has_the_same_rows_whichever_is_read_first_and_together_they_are_the_file() {
        let before: String = (1..=60).map(|line| format!("level {line} of the gauge\n")).collect();
        let after = before.replace("level 9 of", "level 9 at").replace("level 30 of the gauge\n", "");
        let found = compare(before.as_bytes(), after.as_bytes(), &TextOptions::default());
        let (b, a) = (MaskedText::unmasked(before.as_bytes()), MaskedText::unmasked(after.as_bytes()));
        let labels = Labels::new("spring", "autumn");
        let view = FileView {
            name: "levels",
            type_name: "levels",
            labels: &labels,
            note: None,
            before: &b,
            after: &a,
            comparison: &found,
            first: (0, 0),
            originals: (None, None),
            extracted: None,
        };
        for context in [Context::Lines(0), Context::Lines(3), Context::All] {
            let forwards = rows(&view, context, |blocks| (0..blocks).collect());
            assert_eq!(forwards, rows(&view, context, |blocks| (0..blocks).rev().collect()));
            let all: Vec<&String> = forwards.iter().flatten().collect();
            assert_eq!(all.len(), 60, "every line is in one row: {all:?}");
            assert_eq!((all[8].as_str(), all[29].as_str()), ("edited 9 9", "gone 30"));
            assert_eq!(all[59], "= 60 59");
        }
    }
}
