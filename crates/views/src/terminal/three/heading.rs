//! Headings of three texts and of their regions; and the legend.

use std::io::{self, Write};

use tideline_core::internal::kinds::text::sections::Sections;
use tideline_core::internal::merge::{Region, Three, Together};
use unicode_width::UnicodeWidthStr;

use crate::marks::Marks;
use crate::shown::shown_name;
use crate::terminal::look::Look;
use crate::terminal::palette::TextRole;
use crate::three::MergeView;
use crate::wording::merge::region_lines;
use crate::wording::section::{section_in_words, section_relation};

/// The widest and the narrowest strip.
const WIDTHS: (usize, usize) = (32, 8);

/// Writes the heading of three texts: their names, how many regions there are of each, and the strip.
pub(super) fn write_heading(view: &MergeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    let name = shown_name(view.name, look.plain);
    let Three { base, mine, theirs } = view.labels.as_ref().map(|label| shown_name(label, look.plain));
    let sides = [
        (TextRole::Gone, format!("base {base} {}", marks.gone)),
        (TextRole::New, format!("{mine} {}", marks.new)),
        (TextRole::New, format!("{theirs} {}", marks.new)),
    ];
    let mut used = 0;
    if !name.is_empty() {
        palette.write(TextRole::Strong, &name, out)?;
        write!(out, "    ")?;
        used += name.width() + 4;
    }
    for (at, (role, side)) in sides.iter().enumerate() {
        write!(out, "{}", if at == 0 { "" } else { "  " })?;
        palette.write(*role, side, out)?;
        used += side.width() + 2;
    }
    let mut tail = view.counts();
    if let Some(note) = view.note {
        tail = format!("{tail}, {}", shown_name(note, look.plain));
    }
    // What does not fit beside the names has a line of its own.
    if used + 4 + tail.width() > look.width {
        writeln!(out)?;
        used = 0;
    }
    write!(out, "{}{tail}", if used == 0 { "  " } else { "    " })?;
    write_strip(view, look, look.width.saturating_sub(used + tail.width() + 6), out)?;
    writeln!(out)
}

/// Writes where in the base the regions lie.
fn write_strip(view: &MergeView<'_>, look: &Look, room: usize, out: &mut dyn Write) -> io::Result<()> {
    let width = room.min(WIDTHS.0);
    if width < WIDTHS.1 || view.regions().next().is_none() {
        return Ok(());
    }
    let len = view.merge.texts.base.text().len().max(1);
    let mut cells: Vec<Option<Together>> = vec![None; width];
    for (_, region) in view.regions() {
        let first = (region.base.bytes.start * width / len).min(width - 1);
        let end = (region.base.bytes.end * width).div_ceil(len).clamp(first + 1, width);
        for cell in &mut cells[first..end] {
            *cell = (*cell).max(Some(region.together()));
        }
    }
    let (palette, marks) = (look.palette(), Marks::of(look.plain));
    write!(out, "    ")?;
    for cell in cells {
        let (mark, role) = match cell {
            None => (marks.line, TextRole::Faint),
            Some(Together::Conflict) => (marks.conflict, TextRole::Trouble),
            Some(_) => (marks.edited, TextRole::Strong),
        };
        palette.write(role, mark, out)?;
    }
    Ok(())
}

/// Writes an empty line and the heading of a region: its number, where it is, and who changed it.
pub(super) fn write_region_heading(
    view: &MergeView<'_>,
    (number, region): (usize, &Region),
    sections: &Sections<'_>,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let (palette, marks) = (look.palette(), Marks::of(look.plain));
    let of = view.merge.regions.len();
    write!(out, "\n  ")?;
    if region.is_conflict() {
        palette.write(TextRole::Trouble, &format!("{} conflict, change {number} of {of}", marks.conflict), out)?;
    } else if region.counts {
        palette.write(TextRole::Strong, &format!("change {number} of {of}"), out)?;
    } else {
        palette.write(
            TextRole::Faint,
            &format!("{} change {number} of {of}, which does not count", marks.muted),
            out,
        )?;
    }
    palette.write(TextRole::Faint, &format!(" {} {}", marks.dot, region_lines(region, marks.to)), out)?;
    if let Some(section) = sections.of(&region.base.bytes) {
        palette.write(TextRole::Faint, &format!(" {} {} ", marks.dot, section_relation(&section)), out)?;
        write!(out, "{}", shown_name(&section_in_words(&section, look.plain), look.plain))?;
    }
    palette.write(TextRole::Faint, &format!(" {} ", marks.dot), out)?;
    let role = if region.is_conflict() { TextRole::Trouble } else { TextRole::New };
    palette.write(role, &shown_name(&view.who(region), look.plain), out)?;
    writeln!(out)
}

/// Writes the line that says what the marks mean.
pub(super) fn write_legend(view: &MergeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (palette, marks) = (look.palette(), Marks::of(look.plain));
    write!(out, "  ")?;
    palette.write(TextRole::Gone, marks.gone, out)?;
    let base = shown_name(&view.labels.base, look.plain);
    palette.write(TextRole::Faint, &format!(" gone: {base} has it   "), out)?;
    palette.write(TextRole::New, marks.new, out)?;
    palette.write(TextRole::Faint, " new: that side has it   ", out)?;
    if view.regions().any(|(_, region)| region.is_conflict()) {
        palette.write(TextRole::Trouble, marks.conflict, out)?;
        palette.write(TextRole::Faint, " conflict: you decide   ", out)?;
    }
    if palette.coloured() {
        palette.write(TextRole::GoneWord, "word", out)?;
        write!(out, " ")?;
        palette.write(TextRole::NewWord, "word", out)?;
        palette.write(TextRole::Faint, " what changed in a line", out)?;
    } else {
        write!(out, "^ what changed in the line above")?;
    }
    writeln!(out)
}
