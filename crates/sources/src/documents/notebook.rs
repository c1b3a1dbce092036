//! Notebooks (the Jupyter notebook format, versions 3 and 4): cells, and outputs apart.

use serde_json::Value;
use tideline_core::internal::kinds::document::Extracted;

use super::lines::{Lines, part};

/// Whether contents are a notebook.
pub(super) fn is_notebook(bytes: &[u8]) -> bool {
    let is_named = |name: &[u8]| memchr::memmem::find(bytes, name).is_some();
    let may_be = bytes.trim_ascii_start().starts_with(b"{") && is_named(b"\"cells\"") && is_named(b"\"nbformat\"");
    may_be && serde_json::from_slice(bytes).is_ok_and(|notebook: Value| cells(&notebook).is_some())
}

/// The cells of a notebook; in version 3 they stand in sheets.
fn cells(notebook: &Value) -> Option<Vec<&Value>> {
    if let Some(cells) = notebook["cells"].as_array() {
        return Some(cells.iter().collect());
    }
    let sheets = notebook["worksheets"].as_array()?;
    Some(sheets.iter().filter_map(|sheet| sheet["cells"].as_array()).flatten().collect())
}

pub(super) fn read(bytes: &[u8]) -> Result<Extracted, String> {
    let notebook: Value = serde_json::from_slice(bytes).map_err(|error| format!("it is no notebook ({error})"))?;
    let cells = cells(&notebook).ok_or("it is no notebook: it has no cells")?;
    let (mut lines, mut pictures, mut others) = (Lines::default(), Vec::new(), Vec::new());
    for (at, cell) in cells.iter().enumerate() {
        let kind = cell["cell_type"].as_str().unwrap_or("cell");
        lines.group(format!("cell {} ({kind})", at + 1), "line");
        add(&mut lines, &cell["source"]);
        add(&mut lines, &cell["input"]);
        for output in cell["outputs"].as_array().into_iter().flatten() {
            lines.group(format!("output of cell {}", at + 1), "line");
            add(&mut lines, &output["text"]);
            add(&mut lines, &output["data"]["text/plain"]);
            add(&mut lines, &output["traceback"]);
            for (name, value) in output["data"].as_object().into_iter().flatten() {
                if name.starts_with("image/") {
                    pictures.extend_from_slice(value.to_string().as_bytes());
                }
            }
        }
        others.extend_from_slice(cell["metadata"].to_string().as_bytes());
        others.extend_from_slice(cell["execution_count"].to_string().as_bytes());
    }
    others.extend_from_slice(notebook["metadata"].to_string().as_bytes());
    let mut left_out = vec![part("metadata and counts", &others)];
    if !pictures.is_empty() {
        left_out.push(part("pictures", &pictures));
    }
    Ok(lines.into_document("notebook", left_out))
}

/// Adds text that is written as one text, or as a list of lines.
fn add(lines: &mut Lines, text: &Value) {
    let text = match text {
        Value::String(text) => text.clone(),
        Value::Array(parts) => parts.iter().filter_map(Value::as_str).collect(),
        _ => return,
    };
    text.lines().for_each(|line| lines.add_as_is(line));
}
