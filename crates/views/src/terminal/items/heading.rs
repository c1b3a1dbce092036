//! What stands above and below the changes of a table or a document.

use std::io::{self, Write};

use tideline_core::internal::model::{Form, Weight};
use unicode_width::UnicodeWidthStr;

use super::super::account::write_account;
use super::super::heading::write_names;
use super::super::look::Look;
use super::super::palette::TextRole;
use crate::items::{ItemView, strip_of};
use crate::marks::Marks;
use crate::shown::{shown_name, shown_words};
use crate::wording::change::changes_in_words;

/// The widest and the narrowest strip.
const STRIP: (usize, usize) = (32, 8);

/// Writes the heading: names, how many changes, the strip; then what there is to know of the whole.
pub(in super::super) fn write_heading(view: &dyn ItemView, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    let mut tail = changes_in_words(view.extent());
    if let Some(note) = view.title().note {
        tail = format!("{tail}, {}", shown_name(note, look.plain));
    }
    let used = write_names(view.title().name, view.labels(), look, out)? + tail.width();
    write!(out, "{tail}")?;
    let room = look.width.saturating_sub(used + 4).min(STRIP.0);
    if room >= STRIP.1 && view.len() > 0 {
        write!(out, "    ")?;
        let marks = Marks::of(look.plain);
        for cell in strip_of(view, room) {
            let (mark, role) = match cell {
                None => (marks.line, TextRole::Faint),
                Some((_, Weight::Muted)) => (marks.muted, TextRole::Faint),
                Some((form, Weight::Counted)) => (marks.of_form(form), role_of(form)),
            };
            palette.write(role, mark, out)?;
        }
    }
    writeln!(out)?;
    for fact in view.facts() {
        write!(out, "  ")?;
        palette.write(TextRole::Faint, &shown_words(&fact, look.plain), out)?;
        writeln!(out)?;
    }
    for trouble in view.troubles() {
        write!(out, "  ")?;
        palette.write(TextRole::Trouble, Marks::of(look.plain).trouble, out)?;
        writeln!(out, " {}", shown_name(&trouble, look.plain))?;
    }
    let (account, is_hidden) = view.account();
    write_account(account, is_hidden, look, out)
}

/// How the mark of a form looks.
pub(in super::super) fn role_of(form: Form) -> TextRole {
    match form {
        Form::Gone => TextRole::Gone,
        Form::New => TextRole::New,
        Form::Edited => TextRole::Strong,
        Form::Moved => TextRole::Moved,
    }
}

/// Writes what the marks mean.
pub(in super::super) fn write_legend(view: &dyn ItemView, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (palette, marks) = (look.palette(), Marks::of(look.plain));
    let labels = view.labels();
    let (mut has_moved, mut has_muted) = (false, false);
    for index in 0..view.len() {
        let item = view.item(index);
        has_moved |= item.form == Form::Moved;
        has_muted |= item.weight == Weight::Muted || item.edits.iter().any(|edit| edit.weight == Weight::Muted);
    }
    write!(out, "\n  ")?;
    palette.write(TextRole::Gone, marks.gone, out)?;
    let name = |label: &str| shown_name(label, look.plain);
    palette.write(TextRole::Faint, &format!(" gone: {} alone has it   ", name(&labels.before)), out)?;
    palette.write(TextRole::New, marks.new, out)?;
    palette.write(TextRole::Faint, &format!(" new: {} alone has it   ", name(&labels.after)), out)?;
    palette.write(TextRole::Strong, marks.edited, out)?;
    palette.write(TextRole::Faint, " edited", out)?;
    if has_moved {
        write!(out, "   ")?;
        palette.write(TextRole::Moved, marks.moved, out)?;
        palette.write(TextRole::Faint, " moved", out)?;
    }
    if has_muted {
        palette.write(TextRole::Faint, &format!("   {} muted: does not count", marks.muted), out)?;
    }
    if !palette.coloured() {
        write!(out, "   ^ what changed")?;
    }
    writeln!(out)
}

/// Says how many changes were not chosen to be shown.
pub(in super::super) fn write_not_shown(left: usize, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    if left == 0 {
        return Ok(());
    }
    write!(out, "\n  ")?;
    let note = format!("not shown: {} (--changes)", crate::wording::plural(left, "other change"));
    look.palette().write(TextRole::Faint, &note, out)?;
    writeln!(out)
}

/// Whether a change is to be shown, by its number.
pub(in super::super) fn is_chosen(number: usize, look: &Look) -> bool {
    look.changes.as_ref().is_none_or(|ranges| ranges.iter().any(|range| range.contains(&number)))
}
