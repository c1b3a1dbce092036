//! Changes one above the other: each has a heading, and a line for each value.

use std::io::{self, Write};

use tideline_core::internal::model::{Segment, Weight};
use unicode_width::UnicodeWidthStr;

use super::super::look::Look;
use super::super::palette::TextRole;
use super::heading::{is_chosen, role_of, write_heading, write_legend, write_not_shown};
use crate::items::{Item, ItemView, ValueEdit, Whole};
use crate::marks::Marks;
use crate::shortened::shortened;
use crate::shown::{DisplayLine, Medium, Role, shown_name};
use crate::wording::{grouped, plural};

/// Lines of a branch that are shown of one side alone.
const MOST_LINES: usize = 24;
/// The widest column of names.
const WIDEST_NAME: usize = 40;

/// Draws a table or a document: a heading, each change, and the legend.
pub(in super::super) fn draw_items(view: &dyn ItemView, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    write_heading(view, look, out)?;
    let (mut left, mut group) = (0, None);
    for index in 0..view.len() {
        let item = view.item(index);
        if !is_chosen(item.number, look) {
            left += 1;
            continue;
        }
        if item.group.is_some() {
            if item.group != group {
                write_group(item.group.as_deref().unwrap_or_default(), look, out)?;
                group.clone_from(&item.group);
            }
        } else {
            write_item_heading(view, &item, look, out)?;
        }
        let around = look.neighbours.map(|most| view.around(index, most)).unwrap_or_default();
        write_around(&around.0, look, out)?;
        write_values(&item, look, out)?;
        write_around(&around.1, look, out)?;
    }
    write_not_shown(left, look, out)?;
    if look.legend && view.len() > 0 {
        write_legend(view, look, out)?;
    }
    Ok(())
}

fn write_group(group: &str, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    write!(out, "\n  ")?;
    look.palette().write(TextRole::Faint, "in ", out)?;
    look.palette().write(TextRole::Strong, &shown_name(group, look.plain), out)?;
    writeln!(out)
}

fn write_item_heading(view: &dyn ItemView, item: &Item, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (palette, marks) = (look.palette(), Marks::of(look.plain));
    let role = if item.weight == Weight::Muted { TextRole::Faint } else { TextRole::Strong };
    write!(out, "\n  ")?;
    palette.write(role, &format!("change {} of {}", grouped(item.number), grouped(view.len())), out)?;
    palette.write(TextRole::Faint, &format!(" {} {}", marks.dot, shown_name(&item.place, look.plain)), out)?;
    let is_whole = !matches!(item.whole, Whole::None) || item.form == tideline_core::internal::model::Form::Moved;
    if is_whole {
        palette.write(TextRole::Faint, &format!(" {}", item.form.name()), out)?;
    }
    palette.write(TextRole::Faint, &format!(" {} ", marks.dot), out)?;
    let room = look.width.saturating_sub(item.place.width() + 30).max(20);
    write!(out, "{}", shortened(&shown_name(&item.title, look.plain), room, look.plain))?;
    if let Some(cause) = item.cause.as_ref().filter(|_| item.weight == Weight::Muted) {
        palette.write(TextRole::Faint, &format!(" {} muted: {}", marks.dot, shown_name(cause, look.plain)), out)?;
    }
    writeln!(out)
}

fn write_around(around: &[(String, String)], look: &Look, out: &mut dyn Write) -> io::Result<()> {
    for (name, value) in around {
        let line = format!("     {}   {}", shown_name(name, look.plain), shown_name(value, look.plain));
        look.palette().write(TextRole::Faint, &shortened(&line, look.width, look.plain), out)?;
        writeln!(out)?;
    }
    Ok(())
}

/// The number that stands before a node; rows have theirs in a heading.
fn numbered(item: &Item) -> String {
    if item.group.is_some() { format!("{:>3} ", item.number) } else { " ".to_owned() }
}

fn write_values(item: &Item, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let names = item.edits.iter().map(|edit| shown_name(&edit.name, look.plain).width()).max().unwrap_or(0);
    for edit in &item.edits {
        write_edit(item, edit, names.min(WIDEST_NAME), look, out)?;
    }
    let (palette, marks) = (look.palette(), Marks::of(look.plain));
    let mark = |out: &mut dyn Write| -> io::Result<()> {
        write!(out, "{}", numbered(item))?;
        match item.weight {
            Weight::Muted => palette.write(TextRole::Faint, marks.muted, out)?,
            Weight::Counted => palette.write(role_of(item.form), marks.of_form(item.form), out)?,
        }
        write!(out, " ")
    };
    match &item.whole {
        Whole::None if item.edits.is_empty() => {
            mark(out)?;
            write!(out, "{}", shown_name(&item.title, look.plain))?;
            palette.write(TextRole::Faint, &format!("   {}", shown_name(&item.place, look.plain)), out)?;
            writeln!(out)
        }
        Whole::None => Ok(()),
        Whole::Values(values) if item.group.is_some() => {
            mark(out)?;
            write!(out, "{}", shown_name(&item.title, look.plain))?;
            for (_, value) in values {
                write!(out, "   ")?;
                let (bytes, ours) = value.shown();
                let role = if ours { TextRole::Faint } else { line_role(item) };
                let room = look.width.saturating_sub(item.title.width() + item.place.width() + 20).max(20);
                palette.write(role, &shortened(&shown_bytes(bytes, look), room, look.plain), out)?;
            }
            let said = format!("   {}, {}", item.form.name(), shown_name(&item.place, look.plain));
            palette.write(TextRole::Faint, &said, out)?;
            writeln!(out)
        }
        Whole::Values(values) => write_row(item, values, look, out),
        Whole::Lines(lines) => {
            mark(out)?;
            write!(out, "{}", shown_name(&item.title, look.plain))?;
            let said = format!("   {}, {}", item.form.name(), shown_name(&item.place, look.plain));
            palette.write(TextRole::Faint, &said, out)?;
            writeln!(out)?;
            for line in lines.iter().take(MOST_LINES) {
                write!(out, "     ")?;
                palette.write(role_of(item.form), marks.of_form(item.form), out)?;
                write!(out, " ")?;
                let shown = shortened(&shown_bytes(line, look), look.width.saturating_sub(8), look.plain);
                palette.write(line_role(item), &shown, out)?;
                writeln!(out)?;
            }
            if lines.len() > MOST_LINES {
                let more = plural(lines.len() - MOST_LINES, "more line");
                palette.write(TextRole::Faint, &format!("       {more}"), out)?;
                writeln!(out)?;
            }
            Ok(())
        }
    }
}

/// A value that does not differ, as it is shown.
pub(super) fn shown_bytes(bytes: &[u8], look: &Look) -> String {
    DisplayLine::new(bytes, &[Segment::equal(0..bytes.len())], &[], Medium::of(look.plain))
        .pieces
        .iter()
        .map(|piece| piece.text.as_str())
        .collect()
}

fn line_role(item: &Item) -> TextRole {
    use tideline_core::internal::model::Form;
    match (item.weight, item.form) {
        (Weight::Muted, _) => TextRole::MutedLine,
        (_, Form::Gone) => TextRole::GoneLine,
        (_, Form::New) => TextRole::NewLine,
        _ => TextRole::Text,
    }
}

/// The values of a row that one side alone has, as many in a line as fit.
fn write_row(
    item: &Item,
    values: &[(String, crate::items::Value)],
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let (palette, marks) = (look.palette(), Marks::of(look.plain));
    let room = look.width.saturating_sub(4);
    let mut used = usize::MAX;
    for (name, value) in values {
        let (bytes, ours) = value.shown();
        let name = shown_name(name, look.plain);
        let text = shortened(&shown_bytes(bytes, look), room.saturating_sub(name.width() + 3).max(16), look.plain);
        let width = name.width() + 1 + text.width() + 3;
        let begins = used.saturating_add(width) > room;
        if begins {
            if used != usize::MAX {
                writeln!(out)?;
            }
            write!(out, " ")?;
            palette.write(role_of(item.form), marks.of_form(item.form), out)?;
            write!(out, " ")?;
            used = 0;
        } else {
            write!(out, "   ")?;
        }
        palette.write(TextRole::Faint, &format!("{name} "), out)?;
        palette.write(if ours { TextRole::Faint } else { line_role(item) }, &text, out)?;
        used += width;
    }
    if used == usize::MAX {
        write!(out, " ")?;
        palette.write(role_of(item.form), marks.of_form(item.form), out)?;
    }
    writeln!(out)
}

/// Writes a value that differs: what it was and what it is, in one line where that fits.
fn write_edit(item: &Item, edit: &ValueEdit, names: usize, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (palette, marks) = (look.palette(), Marks::of(look.plain));
    let (old, new) = values(edit, look);
    let name = shown_name(&edit.name, look.plain);
    let number = numbered(item);
    write!(out, "{number}")?;
    match edit.weight {
        Weight::Muted => palette.write(TextRole::Faint, marks.muted, out)?,
        Weight::Counted => palette.write(TextRole::Strong, marks.edited, out)?,
    }
    write!(out, " {name}{}", " ".repeat(names.saturating_sub(name.width())))?;
    let start = number.width() + 2 + name.width().max(names) + 3;
    let mut tail = String::new();
    if item.group.is_some() {
        tail = format!("   {}", shown_name(&item.place, look.plain));
    }
    if let Some(cause) = edit.cause.as_ref().filter(|_| item.weight == Weight::Counted || item.group.is_some()) {
        tail.push_str(&format!("   muted: {}", shown_name(cause, look.plain)));
    }
    let becomes = format!(" {} ", marks.becomes);
    if start + old.width + new.width + becomes.width() + tail.width() <= look.width {
        write!(out, "   ")?;
        palette.write_shown(&old, out)?;
        palette.write(TextRole::Faint, &becomes, out)?;
        palette.write_shown(&new, out)?;
        palette.write(TextRole::Faint, &tail, out)?;
        writeln!(out)?;
        if !palette.coloured() && (old.is_marked() || new.is_marked()) {
            let below = format!("{:width$}{}", old.markers(), new.markers(), width = old.width + becomes.width());
            writeln!(out, "{}{}", " ".repeat(start), below.trim_end())?;
        }
        return Ok(());
    }
    palette.write(TextRole::Faint, &tail, out)?;
    writeln!(out)?;
    for (shown, mark, role) in [(old, marks.gone, TextRole::Gone), (new, marks.new, TextRole::New)] {
        write!(out, "     ")?;
        palette.write(if edit.weight == Weight::Muted { TextRole::Faint } else { role }, mark, out)?;
        write!(out, " ")?;
        let shown = shown.condensed(look.width.saturating_sub(8).max(20));
        palette.write_shown(&shown, out)?;
        writeln!(out)?;
        if !palette.coloured() && shown.is_marked() {
            writeln!(out, "       {}", shown.markers())?;
        }
    }
    Ok(())
}

/// Both values as they are shown.
pub(super) fn values(edit: &ValueEdit, look: &Look) -> (DisplayLine, DisplayLine) {
    let (before, after) = edit.words(&look.value_grain);
    let medium = Medium::of(look.plain);
    let role = |role: Role| if edit.weight == Weight::Muted { Role::Muted } else { role };
    let shown = |value: &crate::items::Value, parts: &[Segment], own: Role| {
        DisplayLine::new(value.shown().0, parts, &[], medium).in_role(role(own))
    };
    (shown(&edit.before, &before, Role::Gone), shown(&edit.after, &after, Role::New))
}
