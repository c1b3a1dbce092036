//! The tree view: the summary first, then folders with only what differs, then what was left out and why.

use std::collections::HashMap;
use std::io::{self, Write};

use anstyle::Style;
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{Pair, by_path};
use unicode_width::UnicodeWidthStr;

use super::account::write_account;
use super::look::Look;
use super::palette::TextRole;
use crate::marks::Marks;
use crate::shortened::{joined, shortened};
use crate::shown::{shown_bytes, shown_name};
use crate::view::{Labels, TreeView};
use crate::wording::edit::common_edit;
use crate::wording::tree::{
    Inside, NewerSide, facts, is_within, left_out, moved_blocks_in_all, newer_in_all, newer_side, summary,
};

/// The widest that the column of names is made, if there is room.
const WIDEST: usize = 44;
/// What is said of a pair has so much room, if it needs it.
const FACTS: usize = 40;
/// The narrowest that it is made, if names are longer.
const NARROWEST: usize = 20;
/// The columns before a name: four of space, the mark and a space.
const BEFORE_NAME: usize = 6;
/// The space between two columns.
const GAP: usize = 4;
/// Further lines of the summary are indented by so much.
const SUMMARY_INDENT: usize = 4;

/// Draws two trees.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_tree(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    write_head(view, look, out)?;
    let pairs = &view.comparison.pairs;
    let lines = if view.is_sorted { lines_as_they_come(pairs, look) } else { lines_by_folder(pairs, look) };
    if !lines.is_empty() {
        writeln!(out)?;
    }
    let widths = Widths::of(lines.iter().flat_map(|(_, lines)| lines), look);
    for (folder, lines) in &lines {
        if !folder.is_empty() {
            let name =
                shortened(&format!("{}/", shown_bytes(folder, look.plain)), look.width.saturating_sub(2), look.plain);
            write!(out, "  ")?;
            palette.write(TextRole::Strong, &name, out)?;
            writeln!(out)?;
        }
        for line in lines {
            line.write(&widths, look, out)?;
        }
    }
    write_left_out(view, look, out)?;
    if look.legend && !lines.is_empty() {
        writeln!(out)?;
        write_legend(view, look, out)?;
    }
    Ok(())
}

/// Writes what stands above the rows: the sides, what became of all pairs, and what holds for all of them.
pub(super) fn write_head(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    write_summary(view, look, out)?;
    write_about(view.labels, look, out)?;
    write_account(&view.comparison.account, view.muted_is_hidden, look, out)?;
    let newer = newer_in_all(&view.comparison.pairs).map(|side| {
        let label = match side {
            NewerSide::Before => &view.labels.before,
            NewerSide::After => &view.labels.after,
        };
        format!("all that differs is newer in {}", shown_name(label, look.plain))
    });
    for line in moved_blocks_in_all(view.comparison).into_iter().chain(newer) {
        writeln!(out, "  {line}")?;
    }
    if let Some(edit) = view.comparison.common_edit() {
        look.palette().write(TextRole::Faint, &common_edit(&edit, look.plain), out)?;
        writeln!(out)?;
    }
    Ok(())
}

/// Says what the sides are, where their paths do not.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_about(labels: &Labels, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    for line in labels.about_lines() {
        let line = shortened(&shown_name(line, look.plain), look.width.saturating_sub(2), look.plain);
        write!(out, "  ")?;
        look.palette().write(TextRole::Faint, &line, out)?;
        writeln!(out)?;
    }
    Ok(())
}

fn write_summary(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    // Names of archives can be longer than a line.
    let room = (look.width / 2).saturating_sub(4);
    let label =
        |label: &str, mark: &str| format!("{} {mark}", shortened(&shown_name(label, look.plain), room, look.plain));
    let (before, after) = (label(&view.labels.before, marks.gone), label(&view.labels.after, marks.new));
    palette.write(TextRole::Gone, &before, out)?;
    write!(out, "  ")?;
    palette.write(TextRole::New, &after, out)?;
    let parts = summary(view);
    let used = before.width() + after.width() + 2;
    // With the comma behind it.
    let first = parts.first().map_or(0, |part| part.width() + 1);
    let taken = if used + GAP + first > look.width { SUMMARY_INDENT } else { used + GAP };
    write!(out, "{}{}", if taken == SUMMARY_INDENT { "\n" } else { "" }, " ".repeat(GAP))?;
    write_wrapped(&parts, taken, (", ", SUMMARY_INDENT), look, out)
}

/// Writes parts that stand one behind the other, in as many lines as they need; so many columns of the first are taken.
fn write_wrapped(
    parts: &[String],
    taken: usize,
    (between, indent): (&str, usize),
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let mut used = taken;
    for (at, part) in parts.iter().enumerate() {
        let is_last = at + 1 == parts.len();
        let between = if is_last { "" } else { between };
        if at > 0 && used + part.width() + between.trim_end().width() > look.width {
            write!(out, "\n{}", " ".repeat(indent))?;
            used = indent;
        }
        used += part.width() + between.width();
        let ends_line = parts.get(at + 1).is_some_and(|next| {
            let behind_next = if at + 2 == parts.len() { 0 } else { between.trim_end().width() };
            used + next.width() + behind_next > look.width
        });
        write!(out, "{part}{}", if ends_line { between.trim_end() } else { between })?;
    }
    writeln!(out)
}

/// One line of the tree.
struct TreeLine {
    mark: &'static str,
    ink: TextRole,
    name: String,
    facts: Vec<String>,
    /// Which side is newer, where not all that differs is newer on one.
    newer: Option<String>,
}

/// How wide the columns are.
struct Widths {
    name: usize,
    facts: usize,
    newer: usize,
}

impl Widths {
    fn of<'l>(lines: impl Iterator<Item = &'l TreeLine>, look: &Look) -> Self {
        let mut widest = Self { name: 0, facts: 0, newer: 0 };
        for line in lines {
            widest.name = widest.name.max(line.name.width());
            widest.facts = widest.facts.max(line.facts.join(", ").width());
            widest.newer = widest.newer.max(line.newer.as_ref().map_or(0, |newer| newer.width() + GAP));
        }
        let room = look.width.saturating_sub(BEFORE_NAME + GAP + widest.newer);
        let name = room.saturating_sub(widest.facts.min(FACTS)).max(NARROWEST).min(widest.name).min(WIDEST);
        Self { name, facts: widest.facts.min(room.saturating_sub(name)), newer: widest.newer }
    }
}

impl TreeLine {
    fn write(&self, widths: &Widths, look: &Look, out: &mut dyn Write) -> io::Result<()> {
        let palette = look.palette();
        let pad = |width: usize, text: &str| " ".repeat(width.saturating_sub(text.width()));
        // A long name may take room that what is said of it leaves.
        let own_newer = self.newer.as_ref().map_or(0, |newer| newer.width() + GAP);
        let room = look.width.saturating_sub(BEFORE_NAME + GAP + own_newer);
        let facts = joined(&self.facts, room.saturating_sub(widths.name), look.plain);
        let name = shortened(&self.name, room.saturating_sub(facts.width()).max(widths.name), look.plain);
        write!(out, "    ")?;
        palette.write(self.ink, self.mark, out)?;
        write!(out, " {name}{}    ", pad(widths.name, &name))?;
        palette.write(if self.ink == TextRole::Trouble { TextRole::Trouble } else { TextRole::Text }, &facts, out)?;
        if let Some(newer) = &self.newer {
            let used = BEFORE_NAME + name.width().max(widths.name) + GAP + facts.width();
            let column = BEFORE_NAME + widths.name + GAP + widths.facts;
            let gap = column.saturating_sub(used) + GAP;
            palette.write(TextRole::Faint, &format!("{}{newer}", " ".repeat(gap)), out)?;
        }
        writeln!(out)
    }
}

/// The lines to be drawn, by folder and in path order. A folder that is gone or new with all that is in it is one line.
fn lines_by_folder(pairs: &[Pair], look: &Look) -> Vec<(Vec<u8>, Vec<TreeLine>)> {
    let mut lines: HashMap<Vec<u8>, Vec<TreeLine>> = HashMap::new();
    let moved: Vec<&Pair> = pairs.iter().filter(|pair| pair.status == Status::Moved).collect();
    let tells_newer = tells_newer(pairs, look);
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
        lines.entry(folder.to_vec()).or_default().push(line(pair, name, (inside, tells_newer), look));
    }
    let mut lines: Vec<(Vec<u8>, Vec<TreeLine>)> = lines.into_iter().collect();
    lines.sort_by(|one, other| by_path(&one.0, &other.0));
    lines
}

/// Whether each line tells which side is newer: there is room for it, and it is not the same in all.
fn tells_newer(pairs: &[Pair], look: &Look) -> bool {
    const LEAST_ROOM: usize = 72;
    look.width >= LEAST_ROOM && newer_in_all(pairs).is_none()
}

/// The lines to be drawn in the order of the pairs, with their whole paths.
fn lines_as_they_come(pairs: &[Pair], look: &Look) -> Vec<(Vec<u8>, Vec<TreeLine>)> {
    let tells_newer = tells_newer(pairs, look);
    let lines: Vec<TreeLine> =
        pairs.iter().map(|pair| line(pair, &pair.path, (Inside::default(), tells_newer), look)).collect();
    if lines.is_empty() { Vec::new() } else { vec![(Vec::new(), lines)] }
}

fn line(pair: &Pair, name: &[u8], (inside, tells_newer): (Inside, bool), look: &Look) -> TreeLine {
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
    let newer = newer_side(pair).filter(|_| tells_newer).map(|side| {
        let mark = if side == NewerSide::Before { marks.gone } else { marks.new };
        format!("{mark} newer")
    });
    TreeLine {
        mark: marks.of_status(pair.status),
        ink,
        name: format!("{}{slash}", shown_bytes(name, look.plain)),
        facts: facts(pair, inside, &marks).iter().map(|fact| shown_name(fact, look.plain)).collect(),
        newer,
    }
}

/// What is said of a pair of entries, in words.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PairWords {
    /// The mark of its status.
    pub mark: &'static str,
    /// How the mark looks.
    pub style: Style,
    /// Its name, or its whole path.
    pub name: String,
    /// What there is to say of it.
    pub facts: String,
    /// Which side is newer.
    pub newer: Option<String>,
}

/// What is said of a pair, by its name or by its whole path.
pub fn pair_words(pair: &Pair, by_name: bool, look: &Look) -> PairWords {
    let name = if by_name { pair.path.split().1 } else { &pair.path };
    let TreeLine { mark, ink, name, facts, newer } = line(pair, name, (Inside::default(), true), look);
    PairWords { mark, style: look.palette().style(ink), name, facts: facts.join(", "), newer }
}

/// Says what is not shown, and why.
pub(super) fn write_left_out(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
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

pub(super) fn write_legend(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    let name = |label: &str| shown_name(label, look.plain);
    let pairs = &view.comparison.pairs;
    // Gone and new lines of a file are told with the same marks.
    let has = |status: Status| {
        let lines = |pair: &Pair| match status {
            Status::Gone => pair.extent.gone > 0,
            Status::New => pair.extent.new > 0,
            _ => false,
        };
        pairs.iter().any(|pair| pair.status == status || lines(pair))
    };
    let entries = [
        (Status::Gone, marks.gone, TextRole::Gone, format!("gone: {} alone has it", name(&view.labels.before))),
        (Status::New, marks.new, TextRole::New, format!("new: {} alone has it", name(&view.labels.after))),
        (Status::Changed, marks.edited, TextRole::Strong, "changed".to_owned()),
        (Status::Muted, marks.muted, TextRole::Faint, "muted: nothing in it counts".to_owned()),
        (Status::Moved, marks.moved, TextRole::Moved, "moved".to_owned()),
        (Status::Retyped, marks.retyped, TextRole::Strong, "of another type".to_owned()),
        (Status::Unreadable, marks.trouble, TextRole::Trouble, "could not be read".to_owned()),
    ];
    let mut used = 0;
    for (_, mark, ink, words) in entries.into_iter().filter(|entry| has(entry.0)) {
        let width = mark.width() + 1 + words.width();
        let gap = if used == 0 { 2 } else { 3 };
        if used > 0 && used + gap + width > look.width {
            writeln!(out)?;
            used = 0;
        }
        let gap = if used == 0 { 2 } else { gap };
        used += gap + width;
        write!(out, "{}", " ".repeat(gap))?;
        palette.write(ink, mark, out)?;
        palette.write(TextRole::Faint, &format!(" {words}"), out)?;
    }
    writeln!(out)
}
