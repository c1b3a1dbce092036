//! Rows and cells of text with delimiters: RFC 4180, and what is found in the wild (other delimiters, other line ends, stray quotes).

use std::borrow::Cow;
use std::ops::Range;

use csv_core::{ReadRecordResult, Reader, ReaderBuilder};

/// What may stand between two cells where nothing is told, the likeliest first.
const USUAL: [u8; 4] = [b',', b';', b'\t', b'|'];
/// So much of a text tells its delimiter.
const SAMPLE: usize = 64 << 10;
const SAMPLED_ROWS: usize = 200;

/// One row: its place in the text, without the line end.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct RowPlace {
    pub(super) start: usize,
    pub(super) end: usize,
}

impl RowPlace {
    pub(super) fn range(self) -> Range<usize> {
        self.start..self.end
    }
}

/// The cells of the row that was read last.
pub(super) struct ReadCells {
    buffer: Vec<u8>,
    ends: Vec<usize>,
    count: usize,
}

impl ReadCells {
    pub(super) fn new() -> Self {
        Self { buffer: vec![0; 1 << 10], ends: vec![0; 64], count: 0 }
    }

    /// How many there are.
    pub(super) fn len(&self) -> usize {
        self.count
    }

    /// One of them.
    pub(super) fn get(&self, index: usize) -> Option<&[u8]> {
        if index >= self.count {
            return None;
        }
        let start = if index == 0 { 0 } else { self.ends[index - 1] };
        Some(&self.buffer[start..self.ends[index]])
    }

    pub(super) fn iter(&self) -> impl Iterator<Item = &[u8]> {
        (0..self.count).filter_map(|index| self.get(index))
    }
}

/// Reads the rows of a text one after the other.
pub(super) struct Rows<'t> {
    text: &'t [u8],
    at: usize,
    delimiter: u8,
    reader: Reader,
    pub(super) cells: ReadCells,
}

impl<'t> Rows<'t> {
    pub(super) fn new(text: &'t [u8], delimiter: u8) -> Self {
        let reader = ReaderBuilder::new().delimiter(delimiter).build();
        Self { text, at: 0, delimiter, reader, cells: ReadCells::new() }
    }

    /// Reads on from a place at which a row begins.
    pub(super) fn seek(&mut self, at: usize) {
        self.at = at;
        self.reader.reset();
    }

    /// Reads the next row into the cells. Empty lines are no rows.
    pub(super) fn next(&mut self) -> Option<RowPlace> {
        while matches!(self.text.get(self.at), Some(b'\n' | b'\r')) {
            self.at += 1;
        }
        if self.at >= self.text.len() {
            return None;
        }
        let start = self.at;
        let (mut written, mut count) = (0, 0);
        loop {
            let input = &self.text[self.at..];
            let cells = &mut self.cells;
            let (result, read, wrote, ended) =
                self.reader.read_record(input, &mut cells.buffer[written..], &mut cells.ends[count..]);
            self.at += read;
            written += wrote;
            count += ended;
            match result {
                ReadRecordResult::OutputFull => {
                    let len = cells.buffer.len();
                    cells.buffer.resize(len * 2, 0);
                }
                ReadRecordResult::OutputEndsFull => {
                    let len = cells.ends.len();
                    cells.ends.resize(len * 2, 0);
                }
                ReadRecordResult::InputEmpty => {}
                ReadRecordResult::Record | ReadRecordResult::End => break,
            }
        }
        self.cells.count = count;
        let mut end = self.at;
        while end > start && matches!(self.text[end - 1], b'\n' | b'\r') && !self.is_inside_quotes(end - 1) {
            end -= 1;
        }
        Some(RowPlace { start, end })
    }

    /// The place of the next row and the number of its cells. A line without quotes is not read cell by cell.
    pub(super) fn next_place(&mut self) -> Option<(RowPlace, usize)> {
        while matches!(self.text.get(self.at), Some(b'\n' | b'\r')) {
            self.at += 1;
        }
        let rest = self.text.get(self.at..).filter(|rest| !rest.is_empty())?;
        let len = memchr::memchr(b'\n', rest).unwrap_or(rest.len());
        let line = rest[..len].strip_suffix(b"\r").unwrap_or(&rest[..len]);
        if memchr::memchr2(b'"', b'\r', line).is_some() {
            self.seek(self.at);
            return self.next().map(|row| (row, self.cells.len()));
        }
        let row = RowPlace { start: self.at, end: self.at + line.len() };
        self.at += len;
        Some((row, memchr::memchr_iter(self.delimiter, line).count() + 1))
    }

    /// Whether the last letter of the text, a line end, belongs to a cell whose quote is never closed.
    fn is_inside_quotes(&self, at: usize) -> bool {
        at + 1 == self.text.len() && self.cells.iter().last().is_some_and(|cell| cell.ends_with(b"\n"))
    }
}

/// What stands between the cells of a text: what makes the most rows of one width.
pub(super) fn found_delimiter(name: &str, text: &[u8]) -> u8 {
    if name.ends_with(".tsv") || name.ends_with(".tab") {
        return b'\t';
    }
    let sample = &text[..text.len().min(SAMPLE)];
    let score = |delimiter: u8| {
        let mut rows = Rows::new(sample, delimiter);
        let mut widths = Vec::new();
        while widths.len() < SAMPLED_ROWS && rows.next().is_some() {
            widths.push(rows.cells.len());
        }
        // The last one may be cut.
        if sample.len() < text.len() {
            widths.pop();
        }
        let first = widths.first().copied().unwrap_or_default();
        let alike = widths.iter().filter(|width| **width == first).count();
        if first < 2 { 0 } else { alike * 1000 / widths.len() + first.min(50) }
    };
    let best = USUAL.iter().copied().rev().max_by_key(|delimiter| score(*delimiter));
    best.filter(|delimiter| score(*delimiter) > 0).unwrap_or(b',')
}

/// Whether a quote in a row is never closed.
pub(super) fn has_open_quote(row: &[u8]) -> bool {
    memchr::memchr_iter(b'"', row).count() % 2 == 1
}

/// The cells of a row as they are written, quotes included, by their places in it.
pub(super) fn raw_cells(row: &[u8], delimiter: u8) -> Vec<Range<usize>> {
    let mut cells = Vec::new();
    let mut start = 0;
    loop {
        let mut at = start;
        if row.get(at) == Some(&b'"') {
            at += 1;
            while let Some(quote) = memchr::memchr(b'"', &row[at..]) {
                at += quote + 1;
                if row.get(at) == Some(&b'"') {
                    at += 1;
                } else {
                    break;
                }
            }
            if at == start + 1 {
                at = row.len();
            }
        }
        let end = memchr::memchr(delimiter, &row[at..]).map_or(row.len(), |found| at + found);
        cells.push(start..end);
        if end >= row.len() {
            return cells;
        }
        start = end + 1;
    }
}

/// A cell as it is written: in quotes where it has to be.
pub(super) fn written(cell: &[u8], delimiter: u8) -> Cow<'_, [u8]> {
    let needs = |byte: &u8| *byte == delimiter || matches!(byte, b'"' | b'\n' | b'\r');
    if !cell.iter().any(needs) {
        return Cow::Borrowed(cell);
    }
    let mut quoted = Vec::with_capacity(cell.len() + 2);
    quoted.push(b'"');
    for byte in cell {
        if *byte == b'"' {
            quoted.push(b'"');
        }
        quoted.push(*byte);
    }
    quoted.push(b'"');
    Cow::Owned(quoted)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn all(text: &[u8]) -> Vec<Vec<String>> {
        let mut rows = Rows::new(text, b',');
        let mut found = Vec::new();
        while rows.next().is_some() {
            found.push(rows.cells.iter().map(|cell| String::from_utf8_lossy(cell).into_owned()).collect());
        }
        found
    }

    #[test]
    fn quotes_line_ends_and_empty_lines_are_read_as_the_standard_says() {
        assert_eq!(all(b"a,\"b,\"\"c\nd\"\r\n\r\n1,\n"), [vec!["a", "b,\"c\nd"], vec!["1", ""]]);
        assert_eq!(all(b"a\rb\n"), [["a"], ["b"]]);
        assert_eq!(all(b"a,b"), [["a", "b"]]);
    }

    #[test]
    fn rows_without_quotes_have_the_places_that_all_rows_have() {
        for text in [&b"a,b\r\n\"x\ny\",2\n3,4"[..], b"a\rb,c\n\n\r\nd,e,\r\nf", b"\"a\n", b"", b"\n\n"] {
            let (mut one, mut other) = (Rows::new(text, b','), Rows::new(text, b','));
            loop {
                let wanted = one.next().map(|row| (row, one.cells.len()));
                assert_eq!(other.next_place(), wanted, "{text:?}");
                if wanted.is_none() {
                    break;
                }
            }
        }
    }

    #[test]
    fn rows_are_known_by_their_places_without_line_ends() {
        let text = b"a,b\r\n\"x\ny\",2\n3,4";
        let mut rows = Rows::new(text, b',');
        let places: Vec<&[u8]> = std::iter::from_fn(|| rows.next()).map(|row| &text[row.range()]).collect();
        assert_eq!(places, [&b"a,b"[..], b"\"x\ny\",2", b"3,4"]);
    }

    #[test]
    fn a_delimiter_is_found_by_the_rows_that_it_makes() {
        assert_eq!(found_delimiter("x.csv", b"a;b;c\n1,5;2;3\n1,6;2;3\n"), b';');
        assert_eq!(found_delimiter("x.tsv", b"a,b\n"), b'\t');
        assert_eq!(found_delimiter("x.csv", b"name\none\n"), b',');
        assert_eq!(found_delimiter("x.txt", b"a|b\n1|2\n"), b'|');
    }

    #[test]
    fn raw_cells_add_up_to_the_row() {
        let row = b"a,\"b,\"\"c\",,d";
        let cells: Vec<&[u8]> = raw_cells(row, b',').into_iter().map(|cell| &row[cell]).collect();
        assert_eq!(cells, [&b"a"[..], b"\"b,\"\"c\"", b"", b"d"]);
        assert_eq!(written(b"b,\"c", b',').as_ref(), b"\"b,\"\"c\"");
    }
}
