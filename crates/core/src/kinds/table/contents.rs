//! A table: columns by name, rows by their places in the text. Cells are read when they are asked for.

use std::borrow::Cow;
use std::collections::HashMap;
use std::ops::Range;

use super::delimited::{RowPlace, Rows, has_open_quote, raw_cells, written};
use crate::internal::kinds::data::{Document, NodeId, NodeKind};
use crate::internal::kinds::lines_of::LineIndex;
use crate::internal::model::table::TableRemark;

/// A cell.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Cell<'t> {
    /// There is none: the row is too short, the record has no such member.
    Missing,
    /// The value that says there is none, of a format that has it.
    Null,
    /// A text, which may be empty.
    Text(Cow<'t, [u8]>),
}

impl Cell<'_> {
    /// Its text; none where there is none.
    pub fn text(&self) -> Option<&[u8]> {
        match self {
            Self::Text(text) => Some(text),
            Self::Missing | Self::Null => None,
        }
    }
}

/// How the rows of a table are written.
#[derive(Debug)]
pub(super) enum Layout<'t> {
    /// With so much between two cells.
    Delimited(u8),
    /// As records of a document.
    Records(Box<Records<'t>>),
}

/// Records of a document.
#[derive(Debug)]
pub(super) struct Records<'t> {
    pub(super) document: Document<'t>,
    pub(super) nodes: Vec<NodeId>,
    pub(super) columns: HashMap<String, usize>,
}

/// A table.
#[derive(Debug)]
pub struct Table<'t> {
    pub(super) text: Cow<'t, [u8]>,
    pub(super) layout: Layout<'t>,
    pub(super) names: Vec<String>,
    pub(super) rows: Vec<RowPlace>,
    /// Where the rows begin: behind the row that names the columns.
    pub(super) body: usize,
    pub(super) remarks: Vec<TableRemark>,
    pub(super) lines: LineIndex,
}

/// Rows that are told of where there are many.
const MOST_TOLD: usize = 3;

impl<'t> Table<'t> {
    /// Reads a text with delimiters.
    pub(super) fn delimited(text: Cow<'t, [u8]>, delimiter: u8, has_header: bool, is_before: bool) -> Self {
        let from = if text.starts_with(b"\xef\xbb\xbf") { 3 } else { 0 };
        let mut reader = Rows::new(&text, delimiter);
        reader.seek(from);
        let (mut names, mut body) = (Vec::new(), from);
        if has_header && let Some(header) = reader.next() {
            names = named(reader.cells.iter());
            body = header.end;
        }
        let width = names.len();
        let mut rows = Vec::new();
        let (mut ragged, mut first, mut widest) = (0, Vec::new(), width);
        while let Some((row, cells)) = reader.next_place() {
            if !has_header && rows.is_empty() {
                widest = cells;
            }
            let usual = if has_header { width } else { widest };
            if cells != usual {
                ragged += 1;
                if first.len() < MOST_TOLD {
                    first.push((row.start, cells));
                }
                // Cells beyond the columns are columns without a name.
                if cells > names.len() && has_header {
                    names.extend((names.len()..cells).map(|index| format!("column {}", index + 1)));
                }
            }
            if !has_header && cells > names.len() {
                names.extend((names.len()..cells).map(|index| format!("column {}", index + 1)));
            }
            rows.push(row);
        }
        let columns = if has_header { width } else { widest };
        let lines = LineIndex::default();
        let mut remarks = Vec::new();
        if ragged > 0 {
            let first = first.into_iter().map(|(at, cells)| (lines.line_of(&text, at), cells)).collect();
            remarks.push(TableRemark::Ragged { is_before, rows: ragged, first, columns });
        }
        if let Some(last) = rows.last().filter(|row| has_open_quote(&text[row.range()])) {
            remarks.push(TableRemark::OpenQuote { is_before, line: lines.line_of(&text, last.start) });
        }
        rows.shrink_to_fit();
        Self { text, layout: Layout::Delimited(delimiter), names, rows, body, remarks, lines }
    }

    /// Takes the records of a document as rows: those of a list, or of documents that follow each other.
    pub(super) fn records(document: Document<'t>, text: Cow<'t, [u8]>) -> Option<Self> {
        if document.kind(0) != NodeKind::List {
            return None;
        }
        let nodes: Vec<NodeId> = document.children(0).collect();
        if !nodes.iter().all(|node| document.kind(*node) == NodeKind::Map) {
            return None;
        }
        let (mut names, mut columns) = (Vec::new(), HashMap::new());
        for node in &nodes {
            for member in document.children(*node) {
                let key = document.key(member).unwrap_or_default();
                if !columns.contains_key(key) {
                    columns.insert(key.to_owned(), names.len());
                    names.push(key.to_owned());
                }
            }
        }
        let rows =
            nodes.iter().map(|node| document.span(*node)).map(|span| RowPlace { start: span.start, end: span.end });
        let rows = rows.collect();
        let remarks = Vec::new();
        let layout = Layout::Records(Box::new(Records { document, nodes, columns }));
        Some(Self { text, layout, names, rows, body: 0, remarks, lines: LineIndex::default() })
    }

    /// The text that it was read from, in UTF-8.
    pub fn text(&self) -> &[u8] {
        &self.text
    }

    /// The names of the columns, in order.
    pub fn names(&self) -> &[String] {
        &self.names
    }

    /// How many rows there are, that of the names left out.
    pub fn len(&self) -> usize {
        self.rows.len()
    }

    /// Whether there are no rows.
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// The bytes of a row in the text.
    pub fn span(&self, row: usize) -> Range<usize> {
        self.rows[row].range()
    }

    /// How a row is written.
    pub fn source(&self, row: usize) -> &[u8] {
        &self.text[self.span(row)]
    }

    /// The line where a row begins, from 1.
    pub fn line(&self, row: usize) -> usize {
        self.lines.line_of(&self.text, self.rows[row].start)
    }

    /// What stands between two cells, where something does.
    pub fn delimiter(&self) -> Option<u8> {
        match &self.layout {
            Layout::Delimited(delimiter) => Some(*delimiter),
            Layout::Records(_) => None,
        }
    }

    /// Where the rows begin: behind the one that names the columns.
    pub(crate) fn body(&self) -> usize {
        self.body
    }

    /// The cells of a row as they are written, by their places in it.
    pub(crate) fn raw_cells(&self, row: usize) -> Vec<Range<usize>> {
        raw_cells(self.source(row), self.delimiter().unwrap_or(b','))
    }

    /// A cell as text with delimiters writes it.
    pub(crate) fn written_cell(cell: &[u8], delimiter: u8) -> Cow<'_, [u8]> {
        written(cell, delimiter)
    }

    /// The cells of a row, by columns.
    pub fn cells(&self, row: usize) -> Vec<Cell<'_>> {
        let mut cells = Vec::with_capacity(self.names.len());
        self.read_cells(row, &mut cells);
        cells
    }

    /// The same into a list that is there already.
    pub(super) fn read_cells<'s>(&'s self, row: usize, cells: &mut Vec<Cell<'s>>) {
        cells.clear();
        match &self.layout {
            Layout::Delimited(delimiter) => {
                let source = self.source(row);
                if memchr::memchr(b'"', source).is_none() {
                    let mut start = 0;
                    for end in memchr::memchr_iter(*delimiter, source).chain([source.len()]) {
                        cells.push(Cell::Text(Cow::Borrowed(&source[start..end])));
                        start = end + 1;
                    }
                } else {
                    let mut reader = Rows::new(source, *delimiter);
                    reader.next();
                    cells.extend(reader.cells.iter().map(|cell| Cell::Text(Cow::Owned(cell.to_vec()))));
                }
            }
            Layout::Records(records) => {
                cells.resize(self.names.len(), Cell::Missing);
                let document = &records.document;
                for member in document.children(records.nodes[row]) {
                    let Some(&column) = document.key(member).and_then(|key| records.columns.get(key)) else { continue };
                    cells[column] = match document.kind(member) {
                        NodeKind::Null => Cell::Null,
                        kind if kind.is_branch() => Cell::Text(Cow::Borrowed(&document.text()[document.span(member)])),
                        _ => Cell::Text(Cow::Borrowed(document.value(member).as_bytes())),
                    };
                }
            }
        }
        cells.resize(self.names.len(), Cell::Missing);
    }

    /// Whether no record holds other records or lists.
    pub(super) fn is_flat(&self) -> bool {
        match &self.layout {
            Layout::Delimited(_) => true,
            Layout::Records(records) => records
                .nodes
                .iter()
                .all(|node| records.document.children(*node).all(|member| !records.document.kind(member).is_branch())),
        }
    }
}

/// The names of columns: each is there once, and none is empty.
fn named<'c>(cells: impl Iterator<Item = &'c [u8]>) -> Vec<String> {
    let mut seen: HashMap<String, usize> = HashMap::new();
    let mut names = Vec::new();
    for (index, cell) in cells.enumerate() {
        let name = String::from_utf8_lossy(cell.trim_ascii()).into_owned();
        let name = if name.is_empty() { format!("column {}", index + 1) } else { name };
        let count = seen.entry(name.clone()).or_default();
        *count += 1;
        names.push(if *count > 1 { format!("{name} ({count})") } else { name });
    }
    names
}
