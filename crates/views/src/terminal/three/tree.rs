//! Three trees: a line for each path that changed since the base, with what either side did in a column of its own.

use std::io::{self, Write};

use tideline_core::internal::merge::{MergedEntry, SideOfEntry, Three, Together};
use tideline_core::internal::model::Status;
use unicode_width::UnicodeWidthStr;

use crate::marks::Marks;
use crate::shortened::shortened;
use crate::shown::{shown_bytes, shown_name};
use crate::terminal::account::write_account;
use crate::terminal::look::Look;
use crate::terminal::palette::TextRole;
use crate::three::MergedTreeView;
use crate::wording::merge::{tree_clashes, tree_counts_in_words};

/// The widest that a column of marks is made for its label.
const WIDEST: usize = 16;
/// The columns of the word for the whole.
const WORD: usize = 9;

/// Draws three trees.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_merged_tree(view: &MergedTreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (palette, marks) = (look.palette(), Marks::of(look.plain));
    let labels = view.labels.as_ref().map(|label| shown_name(label, look.plain));
    let base = format!("base {} {}", labels.base, marks.gone);
    palette.write(TextRole::Gone, &base, out)?;
    let counts = tree_counts_in_words(view.merge);
    let gap = if base.width() + 4 + counts.width() > look.width { "\n    " } else { "    " };
    writeln!(out, "{gap}{counts}")?;
    write_account(&view.merge.account, false, look, out)?;
    if view.entries().next().is_none() {
        return write_notes(view, look, out);
    }
    let short = |label: &str| shortened(label, WIDEST, look.plain);
    let titles = [short(&labels.mine), short(&labels.theirs)];
    writeln!(out)?;
    write!(out, "  ")?;
    palette.write(TextRole::New, &titles[0], out)?;
    write!(out, "  ")?;
    palette.write(TextRole::New, &titles[1], out)?;
    writeln!(out)?;
    let columns = titles.each_ref().map(|title| title.width());
    for entry in view.entries() {
        write_entry(entry, columns, view.labels, look, out)?;
    }
    write_notes(view, look, out)?;
    if look.legend {
        writeln!(out)?;
        write_legend(view, look, out)?;
    }
    Ok(())
}

fn write_notes(view: &MergedTreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    for (index, note) in view.notes(look.plain).iter().enumerate() {
        write!(out, "{}  ", if index == 0 { "\n" } else { "" })?;
        look.palette().write(TextRole::Faint, note, out)?;
        writeln!(out)?;
    }
    Ok(())
}

fn write_entry(
    entry: &MergedEntry,
    columns: [usize; 2],
    labels: &Three<String>,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    write!(out, "  ")?;
    for (side, width) in [&entry.mine, &entry.theirs].into_iter().zip(columns) {
        let (mark, role) = mark_of(side, marks);
        palette.write(role, mark, out)?;
        write!(out, "{}", " ".repeat(width + 2 - mark.width()))?;
    }
    let (word, role) = match entry.together {
        Together::Conflict => (format!("{} {}", marks.conflict, entry.together.name()), TextRole::Trouble),
        Together::Apart => (format!("  {}", entry.together.name()), TextRole::Strong),
        together => (format!("  {}", together.name()), TextRole::Faint),
    };
    palette.write(role, &word, out)?;
    write!(out, "{}", " ".repeat((WORD + 4).saturating_sub(word.width())))?;
    let used = 2 + columns[0] + columns[1] + 4 + WORD + 4;
    let only_mode = if entry.is_only_mode() { "   permissions" } else { "" };
    let path = format!("{}{only_mode}", path_in_words(entry, labels, look));
    write!(out, "{}", shortened(&path, look.width.saturating_sub(used), look.plain))?;
    writeln!(out)?;
    let indent = " ".repeat(used);
    for clash in tree_clashes(entry, labels) {
        let decided = if entry.is_decided { " (decided)" } else { "" };
        let line = format!("{}{decided}", shown_name(&clash, look.plain));
        for line in wrapped(&line, look.width.saturating_sub(used).max(24)) {
            write!(out, "{indent}")?;
            palette.write(TextRole::Trouble, &line, out)?;
            writeln!(out)?;
        }
    }
    Ok(())
}

/// A sentence in lines of so many columns.
fn wrapped(text: &str, width: usize) -> Vec<String> {
    let mut lines = vec![String::new()];
    for word in text.split(' ') {
        let last = lines.len() - 1;
        if lines[last].is_empty() {
            lines[last].push_str(word);
        } else if lines[last].width() + 1 + word.width() <= width {
            lines[last].push(' ');
            lines[last].push_str(word);
        } else {
            lines.push(word.to_owned());
        }
    }
    lines
}

/// The mark of what a side did, and its colour.
fn mark_of(side: &SideOfEntry, marks: Marks) -> (&'static str, TextRole) {
    let role = match side.status {
        Status::Gone => TextRole::Gone,
        Status::New => TextRole::New,
        Status::Moved => TextRole::Moved,
        Status::Unreadable => TextRole::Trouble,
        Status::Muted | Status::Same => TextRole::Faint,
        Status::Changed | Status::Retyped => TextRole::Strong,
    };
    (marks.of_status(side.status), role)
}

/// The path of an entry, and where it was moved to.
fn path_in_words(entry: &MergedEntry, labels: &Three<String>, look: &Look) -> String {
    let marks = Marks::of(look.plain);
    let shown = |path: &[u8]| shown_bytes(path, look.plain);
    let moved =
        |side: &SideOfEntry| side.path.clone().filter(|path| side.status == Status::Moved && *path != entry.path);
    let to = |path: &[u8]| format!("{} {} {}", shown(&entry.path), marks.becomes, shown(path));
    match (moved(&entry.mine), moved(&entry.theirs)) {
        (Some(mine), Some(theirs)) if mine != theirs => {
            format!("{} ({}), {} ({})", to(&mine), labels.mine, shown(&theirs), labels.theirs)
        }
        (Some(path), _) | (_, Some(path)) => to(&path),
        (None, None) => shown(&entry.path),
    }
}

fn write_legend(view: &MergedTreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (palette, marks) = (look.palette(), Marks::of(look.plain));
    let has = |status: Status| view.entries().any(|entry| entry.mine.status == status || entry.theirs.status == status);
    let statuses =
        [Status::Changed, Status::New, Status::Gone, Status::Moved, Status::Retyped, Status::Muted, Status::Unreadable];
    write!(out, "  ")?;
    for status in statuses.into_iter().filter(|status| has(*status)) {
        palette.write(TextRole::Faint, &format!("{} {}   ", marks.of_status(status), status.name()), out)?;
    }
    let base = shown_name(&view.labels.base, look.plain);
    palette.write(TextRole::Faint, &format!("since {base}"), out)?;
    writeln!(out)
}
