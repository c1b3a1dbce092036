//! The tree view: the summary first, then folders with only what differs, then what was left out and why.

use std::collections::BTreeMap;
use std::io::{self, Write};

use tideline_core::internal::model::Status;
use tideline_core::internal::tree::Pair;
use unicode_width::UnicodeWidthStr;

use super::account::write_account;
use super::look::Look;
use super::palette::{Palette, TextRole};
use crate::marks::Marks;
use crate::shown::{shown_bytes, shown_name};
use crate::view::TreeView;
use crate::wording::edit::common_edit;
use crate::wording::tree::{Inside, is_within, left_out, moved_blocks_in_all, newer, says, summary};

/// The widest that a column is made.
const WIDEST: usize = 44;

/// Draws two trees.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_tree(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    write_summary(view, look, out)?;
    write_account(&view.comparison.account, view.muted_is_hidden, look, out)?;
    if let Some(blocks) = moved_blocks_in_all(view.comparison) {
        writeln!(out, "  {blocks}")?;
    }
    if let Some(edit) = view.comparison.common_edit() {
        look.palette().write(TextRole::Faint, &common_edit(&edit, look.plain), out)?;
        writeln!(out)?;
    }
    let lines = lines_by_folder(&view.comparison.pairs, look);
    if !lines.is_empty() {
        writeln!(out)?;
    }
    let widest = |width: fn(&TreeLine) -> usize| lines.values().flatten().map(width).max().unwrap_or(0).min(WIDEST);
    let widths =
        (widest(|line| line.name.width()), widest(|line| if line.newer.is_some() { line.says.width() } else { 0 }));
    for (folder, lines) in &lines {
        if !folder.is_empty() {
            write!(out, "  ")?;
            palette.write(TextRole::Strong, &format!("{}/", shown_bytes(folder, look.plain)), out)?;
            writeln!(out)?;
        }
        for line in lines {
            line.write(widths, palette, out)?;
        }
    }
    write_left_out(view, look, out)?;
    if look.legend && !lines.is_empty() {
        writeln!(out)?;
        write_legend(view, look, out)?;
    }
    Ok(())
}

fn write_summary(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    let label = |label: &str, mark: &str| format!("{} {mark}", shown_name(label, look.plain));
    palette.write(TextRole::Gone, &label(&view.labels.before, marks.gone), out)?;
    write!(out, "  ")?;
    palette.write(TextRole::New, &label(&view.labels.after, marks.new), out)?;
    write!(out, "    {}", summary(view))?;
    writeln!(out)
}

/// One line of the tree.
struct TreeLine {
    mark: &'static str,
    ink: TextRole,
    name: String,
    says: String,
    newer: Option<&'static str>,
}

impl TreeLine {
    fn write(&self, widths: (usize, usize), palette: Palette, out: &mut dyn Write) -> io::Result<()> {
        let gap = |width: usize, text: &str| " ".repeat(width.saturating_sub(text.width()));
        write!(out, "    ")?;
        palette.write(self.ink, self.mark, out)?;
        write!(out, " {}{}    ", self.name, gap(widths.0, &self.name))?;
        palette.write(
            if self.ink == TextRole::Trouble { TextRole::Trouble } else { TextRole::Text },
            &self.says,
            out,
        )?;
        if let Some(newer) = self.newer {
            palette.write(TextRole::Faint, &format!("{}    {newer}", gap(widths.1, &self.says)), out)?;
        }
        writeln!(out)
    }
}

/// The lines to be drawn, by folder. A folder that is gone or new with all that is in it is one line.
fn lines_by_folder(pairs: &[Pair], look: &Look) -> BTreeMap<Vec<u8>, Vec<TreeLine>> {
    let mut lines: BTreeMap<Vec<u8>, Vec<TreeLine>> = BTreeMap::new();
    let moved: Vec<&Pair> = pairs.iter().filter(|pair| pair.status == Status::Moved).collect();
    let mut at = 0;
    while let Some(pair) = pairs.get(at) {
        at += 1;
        let mut inside = Inside::default();
        if pair.is_folder() && pair.status != Status::Unreadable {
            let within = |path: &[u8]| is_within(path, &pair.path);
            let below = pairs[at..].iter().take_while(|other| within(&other.path)).count();
            let block = &pairs[at..at + below];
            inside.alike = block.iter().filter(|other| other.status == pair.status && !other.is_folder()).count();
            let ends =
                |other: &&&Pair| within(if pair.status == Status::Gone { other.path_before() } else { &other.path });
            inside.moved = moved.iter().filter(ends).count();
            if block.iter().all(|other| other.status == pair.status) {
                at += below;
            }
        }
        let (folder, name) = pair.path.split();
        lines.entry(folder.to_vec()).or_default().push(line(pair, name, inside, look));
    }
    lines
}

fn line(pair: &Pair, name: &[u8], inside: Inside, look: &Look) -> TreeLine {
    let marks = Marks::of(look.plain);
    let ink = match pair.status {
        Status::Same | Status::Muted => TextRole::Faint,
        Status::Changed | Status::Retyped => TextRole::Strong,
        Status::New => TextRole::New,
        Status::Gone => TextRole::Gone,
        Status::Moved => TextRole::Moved,
        Status::Unreadable => TextRole::Trouble,
    };
    let slash = if pair.is_folder() { "/" } else { "" };
    TreeLine {
        mark: marks.of_status(pair.status),
        ink,
        name: format!("{}{slash}", shown_bytes(name, look.plain)),
        says: shown_name(&says(pair, inside), look.plain),
        newer: newer(pair),
    }
}

/// Says what is not shown, and why.
fn write_left_out(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    for (index, note) in left_out(view, look.plain).iter().enumerate() {
        if index == 0 {
            writeln!(out)?;
        }
        write!(out, "  ")?;
        look.palette().write(TextRole::Faint, note, out)?;
        writeln!(out)?;
    }
    Ok(())
}

fn write_legend(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    let name = |label: &str| shown_name(label, look.plain);
    let has = |status: Status| view.comparison.pairs.iter().any(|pair| pair.status == status);
    let entries = [
        (Status::Gone, marks.gone, TextRole::Gone, format!("gone: only in {}", name(&view.labels.before))),
        (Status::New, marks.new, TextRole::New, format!("new: only in {}", name(&view.labels.after))),
        (Status::Changed, marks.edited, TextRole::Strong, "changed".to_owned()),
        (Status::Muted, marks.muted, TextRole::Faint, "muted: nothing in it counts".to_owned()),
        (Status::Moved, marks.moved, TextRole::Moved, "moved".to_owned()),
        (Status::Retyped, marks.retyped, TextRole::Strong, "of another type".to_owned()),
        (Status::Unreadable, marks.trouble, TextRole::Trouble, "could not be read".to_owned()),
    ];
    let mut gap = "  ";
    for (status, mark, ink, words) in entries {
        if has(status) {
            write!(out, "{gap}")?;
            palette.write(ink, mark, out)?;
            palette.write(TextRole::Faint, &format!(" {words}"), out)?;
            gap = "   ";
        }
    }
    writeln!(out)
}
