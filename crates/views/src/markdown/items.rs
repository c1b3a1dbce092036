//! Tables and documents as Markdown.

use std::io::{self, Write};

use tideline_core::internal::model::{Form, Weight};

use super::escaped::{code, escaped, in_table, write_cut};
use crate::items::{Item, ItemView, Value, Whole};
use crate::report::Shape;
use crate::shown::shown_bytes;

/// Lines of a branch that stand in a cell.
const MOST_LINES: usize = 12;

/// Writes what there is to know of the whole, and a table of the changes.
pub(super) fn write_items(view: &dyn ItemView, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    for line in view.facts() {
        writeln!(out, "\n{}", escaped(&line))?;
    }
    for line in view.troubles() {
        writeln!(out, "\n**!** {}", escaped(&line))?;
    }
    let shown = view.len().min(shape.changes_shown());
    if shown > 0 {
        writeln!(out, "\n| № | | Where | What | Before | After |\n|---:|---|---|---|---|---|")?;
    }
    for index in 0..shown {
        write_item(&view.item(index), out)?;
    }
    write_cut(shape.cut(view.len()), out)
}

fn write_item(item: &Item, out: &mut dyn Write) -> io::Result<()> {
    let muted = match (&item.cause, item.weight) {
        (Some(cause), Weight::Muted) => format!(", muted: {cause}"),
        _ => String::new(),
    };
    let what = escaped(&format!("{}{muted}", item.form.name()));
    let title = format!("{} ({})", code(&item.title), escaped(&item.place));
    let row = |out: &mut dyn Write, name: &str, before: &str, after: &str| {
        let cells = [item.number.to_string(), what.clone(), title.clone(), name.to_owned()];
        let cells = cells.map(|cell| in_table(&cell)).join(" | ");
        writeln!(out, "| {cells} | {} | {} |", in_table(before), in_table(after))
    };
    for edit in &item.edits {
        let name = if edit.name == item.title { String::new() } else { code(&edit.name) };
        let cause = edit.cause.as_ref().filter(|_| item.weight == Weight::Counted);
        let aside = cause.map_or_else(String::new, |cause| format!(" (muted: {})", escaped(cause)));
        row(out, &format!("{name}{aside}"), &told(&edit.before), &told(&edit.after))?;
    }
    let whole = match &item.whole {
        Whole::None if item.edits.is_empty() => String::new(),
        Whole::None => return Ok(()),
        Whole::Values(values) => {
            let one = |(name, value): &(String, Value)| {
                if name.is_empty() { told(value) } else { format!("{} {}", code(name), told(value)) }
            };
            values.iter().map(one).collect::<Vec<_>>().join(", ")
        }
        Whole::Lines(lines) => {
            let shown: Vec<String> =
                lines.iter().take(MOST_LINES).map(|line| code(&shown_bytes(line, false))).collect();
            let more = lines.len().saturating_sub(MOST_LINES);
            format!("{}{}", shown.join("<br>"), if more > 0 { format!("<br>{more} more lines") } else { String::new() })
        }
    };
    match item.form {
        Form::Gone => row(out, "", &whole, ""),
        _ => row(out, "", "", &whole),
    }
}

fn told(value: &Value) -> String {
    let (bytes, ours) = value.shown();
    let text = shown_bytes(bytes, false);
    if ours { format!("*{text}*") } else { code(&text) }
}
