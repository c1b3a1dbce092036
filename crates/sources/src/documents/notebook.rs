//! Notebooks (the Jupyter notebook format, version 4): cells, and outputs apart.

use serde_json::Value;
use tideline_core::internal::kinds::document::Extracted;

use super::lines::{Lines, part};

/// Whether contents begin like a notebook.
pub(super) fn is_notebook(bytes: &[u8]) -> bool {
    bytes.trim_ascii_start().starts_with(b"{") && memchr::memmem::find(bytes, b"\"cells\"").is_some()
}

pub(super) fn read(bytes: &[u8]) -> Result<Extracted, String> {
    let notebook: Value = serde_json::from_slice(bytes).map_err(|error| format!("it is no notebook ({error})"))?;
    let cells = notebook["cells"].as_array().ok_or("it is no notebook: it has no cells")?;
    let (mut lines, mut pictures, mut others) = (Lines::default(), Vec::new(), Vec::new());
    for (at, cell) in cells.iter().enumerate() {
        let kind = cell["cell_type"].as_str().unwrap_or("cell");
        lines.group(format!("cell {} ({kind})", at + 1), "line");
        add(&mut lines, &cell["source"]);
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
