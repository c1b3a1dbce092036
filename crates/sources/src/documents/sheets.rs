//! Workbooks: the sheets of ECMA-376 (XLSX, XLSB), of the older binary format (XLS) and of ISO/IEC 26300 (ODS), with formulas.

use std::collections::BTreeMap;
use std::io::Cursor;

use calamine::{Data, DataRef, Reader, Xls, Xlsb, Xlsx};
use tideline_core::internal::kinds::document::{Extracted, ExtractedContents, LeftOutPart, Sheet};

use super::failure::PASSWORD;
use super::markup::{Part, walk};
use super::open_text::{check_protection, left_out as left_out_of_open};
use super::package::Package;

/// Cells of all sheets together, empty ones between others too.
const MOST_CELLS: usize = 20_000_000;

/// The cells of a sheet that hold something, by row and column.
type Cells = BTreeMap<(u32, u32), String>;

/// Reads a workbook of ECMA-376.
pub(super) fn read_office(bytes: &[u8]) -> Result<Extracted, String> {
    let mut package = Package::open(bytes)?;
    package.check_sizes()?;
    let wrong = |error: &dyn std::fmt::Display| format!("its sheets cannot be read ({error})");
    let is_binary = package.has("xl/workbook.bin");
    let mut reading = Reading::default();
    // Both formats are read in the same way, by types that share no trait.
    macro_rules! read_sheets {
        ($book:ident) => {{
            let mut book = $book::new(Cursor::new(bytes)).map_err(|error| wrong(&error))?;
            for name in book.sheet_names() {
                let mut cells = Cells::new();
                // A sheet of a drawing alone has no cells.
                let Ok(mut values) = book.worksheet_cells_reader(&name) else { continue };
                while let Some(cell) = values.next_cell().map_err(|error| wrong(&error))? {
                    reading.put(&mut cells, cell.get_position(), &value_of(cell.get_value()))?;
                }
                drop(values);
                let mut formulas = book.worksheet_cells_reader(&name).map_err(|error| wrong(&error))?;
                while let Some(cell) = formulas.next_formula().map_err(|error| wrong(&error))? {
                    reading.formula(&mut cells, cell.get_position(), cell.get_value())?;
                }
                drop(formulas);
                reading.sheet(name, &cells)?;
            }
        }};
    }
    if is_binary {
        read_sheets!(Xlsb);
    } else {
        read_sheets!(Xlsx);
    }
    let left_out = package.left_out(|name| {
        let is_read = name.starts_with("xl/worksheets/sheet") || name.starts_with("xl/sharedStrings");
        (!is_read).then_some(match name {
            _ if name.contains("/media/") || name.contains("/drawings/") => "pictures",
            _ if name.contains("/charts/") => "charts",
            _ if name.contains("styles") || name.contains("theme") => "styles",
            _ if name.contains("comments") => "comments",
            _ if name.starts_with("docProps/") => "properties",
            _ => "settings",
        })
    })?;
    Ok(reading.into_document(if is_binary { "workbook (XLSB)" } else { "workbook (XLSX)" }, left_out))
}

/// Reads a workbook of the older binary format.
pub(super) fn read_old(bytes: &[u8]) -> Result<Extracted, String> {
    let mut book = match Xls::new(Cursor::new(bytes)) {
        Ok(book) => book,
        Err(calamine::XlsError::Password) => return Err(PASSWORD.to_owned()),
        Err(error) => return Err(format!("its sheets cannot be read ({error})")),
    };
    let mut reading = Reading::default();
    for name in book.sheet_names() {
        let mut cells = Cells::new();
        let range = book.worksheet_range(&name).map_err(|error| error.to_string())?;
        let (row, column) = range.start().unwrap_or_default();
        for (at_row, at_column, value) in range.used_cells() {
            reading.put(&mut cells, (row + at_row as u32, column + at_column as u32), &value_of_data(value))?;
        }
        let range = book.worksheet_formula(&name).map_err(|error| error.to_string())?;
        let (row, column) = range.start().unwrap_or_default();
        for (at_row, at_column, formula) in range.used_cells() {
            reading.formula(&mut cells, (row + at_row as u32, column + at_column as u32), formula)?;
        }
        reading.sheet(name, &cells)?;
    }
    Ok(reading.into_document("workbook (XLS)", Vec::new()))
}

/// Reads a workbook of ISO/IEC 26300.
pub(super) fn read_open(bytes: &[u8]) -> Result<Extracted, String> {
    let mut package = Package::open(bytes)?;
    check_protection(&mut package)?;
    let content = package.text("content.xml")?;
    let mut reading = Reading::default();
    let mut failure = Ok(());
    let (mut name, mut cells) = (String::new(), Cells::new());
    let (mut row, mut column, mut rows, mut columns) = (0_u32, 0_u32, 1_u32, 1_u32);
    let (mut value, mut text, mut formula, mut depth) = (None::<String>, String::new(), String::new(), 0_usize);
    let count = |number: Option<usize>| u32::try_from(number.unwrap_or(1)).unwrap_or(u32::MAX);
    walk(&content, |part| match part {
        _ if failure.is_err() => {}
        Part::Open(tag) => match tag.name {
            "table" => {
                name = tag.attribute("name").unwrap_or_default();
                (row, cells) = (0, Cells::new());
            }
            "table-row" => (column, rows) = (0, count(tag.number("number-rows-repeated"))),
            "table-cell" | "covered-table-cell" => {
                columns = count(tag.number("number-columns-repeated"));
                formula = tag.attribute("formula").unwrap_or_default();
                let kinds = ["value", "date-value", "time-value", "boolean-value"];
                value = kinds.iter().find_map(|kind| tag.prefixed(&format!("office:{kind}")));
                text.clear();
            }
            "p" => {
                depth += 1;
                if !text.is_empty() {
                    text.push('\n');
                }
            }
            "s" => text.push(' '),
            _ => {}
        },
        Part::Text(part) if depth > 0 => text.push_str(part),
        Part::Text(_) => {}
        Part::Close(closed) => match closed {
            "p" => depth = depth.saturating_sub(1),
            "table-cell" | "covered-table-cell" => {
                let told = value.take().unwrap_or_else(|| text.clone());
                let formula = formula.strip_prefix("of:").unwrap_or(&formula).trim_start_matches('=');
                if !told.is_empty() || !formula.is_empty() {
                    failure = reading.repeated(&mut cells, ((row, rows), (column, columns)), (&told, formula));
                }
                column = column.saturating_add(columns);
            }
            "table-row" => row = row.saturating_add(rows),
            "table" => failure = reading.sheet(std::mem::take(&mut name), &std::mem::take(&mut cells)),
            _ => {}
        },
    })?;
    failure?;
    let left_out = package.left_out(left_out_of_open)?;
    Ok(reading.into_document("workbook (ODS)", left_out))
}

/// Sheets in the making.
#[derive(Default)]
struct Reading {
    sheets: Vec<Sheet>,
    cells: usize,
}

impl Reading {
    fn grow(&mut self, cells: usize) -> Result<(), String> {
        self.cells = self.cells.saturating_add(cells);
        if self.cells > MOST_CELLS {
            return Err(format!("its sheets have more than {} million cells", MOST_CELLS / 1_000_000));
        }
        Ok(())
    }

    fn put(&mut self, cells: &mut Cells, place: (u32, u32), value: &str) -> Result<(), String> {
        if value.is_empty() {
            return Ok(());
        }
        self.grow(1)?;
        cells.insert(place, value.to_owned());
        Ok(())
    }

    /// A formula stands behind the value that it had.
    fn formula(&mut self, cells: &mut Cells, place: (u32, u32), formula: &str) -> Result<(), String> {
        if formula.is_empty() {
            return Ok(());
        }
        self.grow(1)?;
        let value = cells.entry(place).or_default();
        let between = if value.is_empty() { "=" } else { " =" };
        value.push_str(between);
        value.push_str(formula.trim_start_matches('='));
        Ok(())
    }

    fn repeated(
        &mut self,
        cells: &mut Cells,
        ((row, rows), (column, columns)): ((u32, u32), (u32, u32)),
        (value, formula): (&str, &str),
    ) -> Result<(), String> {
        self.grow((rows as usize).saturating_mul(columns as usize))?;
        for row in row..row + rows {
            for column in column..column + columns {
                self.put(cells, (row, column), value)?;
                self.formula(cells, (row, column), formula)?;
            }
        }
        Ok(())
    }

    /// Adds a sheet.
    fn sheet(&mut self, name: String, cells: &Cells) -> Result<(), String> {
        let rows = cells.keys().map(|place| place.0).min().zip(cells.keys().map(|place| place.0).max());
        let columns = cells.keys().map(|place| place.1).min().zip(cells.keys().map(|place| place.1).max());
        let (Some((top, bottom)), Some((left, right))) = (rows, columns) else {
            self.sheets.push(Sheet { name, first_row: 0, first_column: 0, has_header: false, text: Vec::new() });
            return Ok(());
        };
        let (height, width) = ((bottom - top) as usize + 1, (right - left) as usize + 1);
        // What is empty between two cells far from each other is written too.
        self.grow(height.saturating_mul(width))?;
        let mut text = Vec::new();
        let mut left_over = cells.iter().peekable();
        for row in top..=bottom {
            for column in left..=right {
                if column > left {
                    text.push(b',');
                }
                if let Some((_, value)) = left_over.next_if(|(place, _)| **place == (row, column)) {
                    write_cell(value, &mut text);
                }
            }
            text.push(b'\n');
        }
        let names = (left..=right).map(|column| cells.get(&(top, column)));
        let is_name =
            |value: Option<&String>| value.is_some_and(|value| value.parse::<f64>().is_err() && !value.contains('='));
        let has_header = bottom > top && names.into_iter().all(is_name);
        let (first_row, first_column) = (top as usize, left as usize);
        self.sheets.push(Sheet { name, first_row, first_column, has_header, text });
        Ok(())
    }

    fn into_document(self, what: &str, left_out: Vec<LeftOutPart>) -> Extracted {
        Extracted { what: what.to_owned(), contents: ExtractedContents::Sheets(self.sheets), left_out }
    }
}

/// Writes a cell as text with commas between cells wants it (RFC 4180); a row stays a line.
fn write_cell(value: &str, text: &mut Vec<u8>) {
    let value = value.replace("\r\n", " ⏎ ").replace(['\n', '\r'], " ⏎ ");
    if value.contains([',', '"']) || value != value.trim() {
        text.extend_from_slice(format!("\"{}\"", value.replace('"', "\"\"")).as_bytes());
    } else {
        text.extend_from_slice(value.as_bytes());
    }
}

fn value_of(value: &DataRef<'_>) -> String {
    value_of_data(&Data::from(value.clone()))
}

/// A value as it is written; dates as ISO 8601 writes them.
fn value_of_data(value: &Data) -> String {
    match value {
        Data::DateTime(date) if !date.is_duration() => {
            let (year, month, day, hour, minute, second, _) = date.to_ymd_hms_milli();
            let day = format!("{year:04}-{month:02}-{day:02}");
            if (hour, minute, second) == (0, 0, 0) { day } else { format!("{day} {hour:02}:{minute:02}:{second:02}") }
        }
        other => other.to_string(),
    }
}
