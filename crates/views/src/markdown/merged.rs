//! Three versions in Markdown.

use std::io::{self, Write};

use super::escaped::{code, escaped, in_table, write_block, write_cut};
use crate::marks::Marks;
use crate::report::{MergedHead, Shape};
use crate::shown::shown_bytes;
use crate::terminal::Look;
use crate::terminal::three::RegionDrawing;
use crate::three::{MergeView, MergedTreeView};
use crate::wording::account::account_lines;
use crate::wording::merge::tree_clashes;

/// Columns in a block.
const WIDTH: usize = 120;

/// Writes what stands above three versions: which is which, and how it was made.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_merged_head(head: &MergedHead<'_>, out: &mut dyn Write) -> io::Result<()> {
    writeln!(out, "# {}\n", escaped(head.title))?;
    let sides = [
        ("○ base", &head.labels.base, &head.paths.base),
        ("● one side", &head.labels.mine, &head.paths.mine),
        ("● the other side", &head.labels.theirs, &head.paths.theirs),
    ];
    for (side, label, path) in sides {
        let path = if path == label { String::new() } else { format!(" ({})", code(path)) };
        writeln!(out, "- {side}: {}{path}", code(label))?;
    }
    writeln!(out, "- Made {} by {}", escaped(head.made), code(head.command))?;
    writeln!(out, "\n**{}**", escaped(head.summary))
}

/// Writes a table of what either side did to each path.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_merged_tree(view: &MergedTreeView<'_>, out: &mut dyn Write) -> io::Result<()> {
    for line in account_lines(&view.merge.account, false, false).into_iter().chain(view.notes(false)) {
        writeln!(out, "\n{}", escaped(&line))?;
    }
    if view.entries().next().is_none() {
        return Ok(());
    }
    let marks = Marks::of(false);
    let (mine, theirs) = (in_table(&code(&view.labels.mine)), in_table(&code(&view.labels.theirs)));
    writeln!(out, "\n| {mine} | {theirs} | Together | Path | |\n|---|---|---|---|---|")?;
    for entry in view.entries() {
        let side = |status| format!("{} {}", marks.of_status(status), status.name());
        let path = match &entry.plan.to {
            Some(to) if *to != entry.path => {
                format!("{} → {}", code(&shown_bytes(&entry.path, false)), code(&shown_bytes(to, false)))
            }
            _ => code(&shown_bytes(&entry.path, false)),
        };
        let clashes = in_table(&escaped(&tree_clashes(entry, view.labels).join("; ")));
        let (mine, theirs) = (side(entry.mine.status), side(entry.theirs.status));
        writeln!(out, "| {mine} | {theirs} | {} | {} | {clashes} |", entry.together.name(), in_table(&path))?;
    }
    Ok(())
}

/// Writes one file and what either side changed in it.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_merged_file(view: &MergeView<'_>, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    if !view.name.is_empty() {
        writeln!(out, "\n## {}\n\n{}", code(view.name), escaped(&view.counts()))?;
    }
    let look = Look::default().context(shape.context).grain(shape.grain.clone()).legend(false).width(WIDTH);
    let drawing = RegionDrawing::of(view, &look);
    for (number, region) in view.regions().take(shape.changes_shown()) {
        let mut drawn = Vec::new();
        drawing.draw((number, region), &mut drawn)?;
        write_block(&drawn, out)?;
    }
    write_cut(shape.cut(view.regions().count()), out)
}
