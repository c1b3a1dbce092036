//! The tree view: the summary first, then folders with only what differs, then what was left out and why.

use std::collections::BTreeMap;
use std::io::{self, Write};

use tideline_core::model::{Kind, Status};
use tideline_core::tree::{Attribute, Nature, Pair, TreeComparison, split};
use unicode_width::UnicodeWidthStr;

use super::account::write_account;
use super::heading::{Labels, counted, grouped};
use super::look::Look;
use super::marks::Marks;
use super::palette::{Ink, Palette};
use super::shown::{shown_bytes, shown_name};

/// Two trees and what differs between them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct TreeView<'a> {
    /// What the sides are called.
    pub labels: &'a Labels,
    /// What differs.
    pub comparison: &'a TreeComparison,
    /// The statuses that are shown, when not all that differ are.
    pub only: Option<&'a [Status]>,
    /// What was believed instead of reading contents.
    pub trusted: Option<&'a str>,
    /// Whether muted changes and pairs are left out.
    pub muted_is_hidden: bool,
}

/// All statuses, in the order of a summary.
const STATUSES: [Status; 8] = [
    Status::Same,
    Status::Muted,
    Status::Changed,
    Status::New,
    Status::Gone,
    Status::Moved,
    Status::Retyped,
    Status::Unreadable,
];

/// The widest that a column is made.
const WIDEST: usize = 44;

/// The word for a status, as options and summaries have it.
pub fn status_word(status: Status) -> &'static str {
    match status {
        Status::Same => "same",
        Status::Muted => "muted",
        Status::Changed => "changed",
        Status::New => "new",
        Status::Gone => "gone",
        Status::Moved => "moved",
        Status::Retyped => "retyped",
        Status::Unreadable => "unreadable",
    }
}

/// Draws two trees.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_tree(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    write_summary(view, look, out)?;
    write_account(&view.comparison.account, view.muted_is_hidden, look, out)?;
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
            palette.write(Ink::Strong, &format!("{}/", shown_bytes(folder, look.plain)), out)?;
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
    palette.write(Ink::Gone, &label(&view.labels.before, marks.gone), out)?;
    write!(out, "  ")?;
    palette.write(Ink::New, &label(&view.labels.after, marks.new), out)?;
    let comparison = view.comparison;
    let mut parts: Vec<String> = STATUSES
        .iter()
        .filter(|&&status| status == Status::Same || comparison.count(status) > 0)
        .map(|&status| format!("{} {}", grouped(comparison.count(status)), status_word(status)))
        .collect();
    let (gone, new) = comparison.folders;
    for (count, word) in [(new, "new"), (gone, "gone")] {
        if count > 0 {
            parts.push(format!("{} {word}", counted(count, "folder")));
        }
    }
    write!(out, "    {}: {}", counted(comparison.files(), "file"), parts.join(", "))?;
    if let Some(trusted) = view.trusted {
        write!(out, "; contents were not read, {trusted} was believed")?;
    }
    writeln!(out)
}

/// One line of the tree.
struct TreeLine {
    mark: &'static str,
    ink: Ink,
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
        palette.write(if self.ink == Ink::Trouble { Ink::Trouble } else { Ink::Text }, &self.says, out)?;
        if let Some(newer) = self.newer {
            palette.write(Ink::Faint, &format!("{}    {newer}", gap(widths.1, &self.says)), out)?;
        }
        writeln!(out)
    }
}

/// What a folder that only one side has holds.
#[derive(Clone, Copy, Default)]
struct Inside {
    /// Files that have the status of the folder.
    alike: usize,
    /// Files that moved into it or out of it.
    moved: usize,
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
            let within = |path: &[u8]| path.starts_with(&pair.path) && path.get(pair.path.len()) == Some(&b'/');
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
        let (folder, name) = split(&pair.path);
        lines.entry(folder.to_vec()).or_default().push(line(pair, name, inside, look));
    }
    lines
}

fn line(pair: &Pair, name: &[u8], inside: Inside, look: &Look) -> TreeLine {
    let marks = Marks::of(look.plain);
    let (mark, ink) = match pair.status {
        Status::Same => (" ", Ink::Faint),
        Status::Muted => (marks.muted, Ink::Faint),
        Status::Changed => (marks.edited, Ink::Strong),
        Status::New => (marks.new, Ink::New),
        Status::Gone => (marks.gone, Ink::Gone),
        Status::Moved => (marks.moved, Ink::Moved),
        Status::Retyped => (marks.retyped, Ink::Strong),
        Status::Unreadable => (marks.trouble, Ink::Trouble),
    };
    let slash = if pair.is_folder() { "/" } else { "" };
    TreeLine {
        mark,
        ink,
        name: format!("{}{slash}", shown_bytes(name, look.plain)),
        says: shown_name(&says(pair, inside), look.plain),
        newer: newer(pair),
    }
}

/// What a line says of its pair.
fn says(pair: &Pair, inside: Inside) -> String {
    let note = || pair.note.clone().unwrap_or_default();
    match pair.status {
        Status::Same => "same".to_owned(),
        Status::Unreadable | Status::Retyped => note(),
        Status::Gone | Status::New => format!("{}, {}", status_word(pair.status), what_is_there(pair, inside)),
        Status::Moved => {
            let from = pair.path_before();
            let path = String::from_utf8_lossy(from);
            let case_only = path.to_lowercase() == String::from_utf8_lossy(&pair.path).to_lowercase();
            let mut parts = vec![format!("from {path}")];
            if case_only {
                parts.push("only the case of its name".to_owned());
            }
            parts.extend(what_differs(pair));
            parts.join(", ")
        }
        Status::Changed | Status::Muted => {
            let mut parts = what_differs(pair);
            parts.extend(pair.note.clone());
            if parts.is_empty() {
                parts.push(sizes(pair));
            }
            parts.join(", ")
        }
    }
}

fn what_is_there(pair: &Pair, inside: Inside) -> String {
    let nature = pair.natures.0.or(pair.natures.1);
    match (nature, pair.kind) {
        (Some(Nature::Folder), _) => match (inside.alike, inside.moved) {
            (0, 0) => pair.note.clone().unwrap_or_else(|| "empty folder".to_owned()),
            (files, 0) => format!("folder with {}", counted(files, "file")),
            (0, moved) => format!("folder, {} moved", counted(moved, "file")),
            (files, moved) => format!("folder with {}, {moved} more moved", counted(files, "file")),
        },
        (Some(Nature::File), Some(Kind::Text)) => counted(pair.lines, "line"),
        (Some(Nature::File), _) => counted(usize::try_from(pair.size()).unwrap_or(usize::MAX), "byte"),
        (Some(other), _) => other.to_string(),
        (None, _) => String::new(),
    }
}

fn what_differs(pair: &Pair) -> Vec<String> {
    let mut parts = Vec::new();
    match pair.kind {
        Some(Kind::Text) if pair.changes == 0 && pair.muted > 0 => parts.push(format!("{} muted", grouped(pair.muted))),
        // Where only ignored text differs in a file that moved, the account says so.
        Some(Kind::Text) if pair.changes == 0 && !pair.account.is_empty() => {}
        Some(Kind::Text) if pair.changes == 0 => parts.push("only its encoding".to_owned()),
        Some(Kind::Text) => {
            let muted = if pair.muted > 0 { format!(" + {} muted", grouped(pair.muted)) } else { String::new() };
            parts.push(format!("{}{muted}", counted(pair.changes, "change")));
            parts.push(counted(pair.lines, "line"));
        }
        Some(Kind::Bytes) => parts.push(format!("not text, {}", sizes(pair))),
        None => {}
    }
    if let (Some(before), Some(after)) = (pair.before, pair.after) {
        if pair.attributes.contains(&Attribute::Mode) {
            parts.push(format!("mode {:o}, now {:o}", before.mode.unwrap_or(0), after.mode.unwrap_or(0)));
        }
        if pair.attributes.contains(&Attribute::Time) {
            parts.push("time of change".to_owned());
        }
    }
    parts
}

fn sizes(pair: &Pair) -> String {
    let size = |facts: Option<tideline_core::tree::Facts>| facts.map_or(0, |facts| facts.size);
    let (before, after) = (size(pair.before), size(pair.after));
    let number = |size: u64| usize::try_from(size).unwrap_or(usize::MAX);
    if before == after {
        counted(number(before), "byte")
    } else {
        format!("{}, now {}", counted(number(before), "byte"), grouped(number(after)))
    }
}

fn newer(pair: &Pair) -> Option<&'static str> {
    if !matches!(pair.status, Status::Changed | Status::Moved | Status::Muted) {
        return None;
    }
    match pair.before?.modified?.cmp(&pair.after?.modified?) {
        std::cmp::Ordering::Less => Some("after is newer"),
        std::cmp::Ordering::Greater => Some("before is newer"),
        std::cmp::Ordering::Equal => None,
    }
}

/// Says what is not shown, and why.
fn write_left_out(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let comparison = view.comparison;
    let mut notes = Vec::new();
    if let Some(only) = view.only {
        let shown = |status| comparison.pairs.iter().filter(|pair| pair.status == status && !pair.is_folder()).count();
        let hidden = STATUSES.iter().filter(|status| **status != Status::Same && !only.contains(status));
        let hidden: Vec<String> = hidden
            .map(|&status| (status, comparison.count(status).saturating_sub(shown(status))))
            .filter(|(_, count)| *count > 0)
            .map(|(status, count)| format!("{} {}", grouped(count), status_word(status)))
            .collect();
        if !hidden.is_empty() {
            let words: Vec<_> = only.iter().map(|&status| status_word(status)).collect();
            notes.push(format!("not shown: {} (--only {})", hidden.join(", "), words.join(",")));
        }
    }
    let left = &comparison.left_out;
    if left.by_pattern > 0 {
        notes.push(format!("left out: {} by --include or --exclude", counted_entries(left.by_pattern)));
    }
    if left.by_ignore_files > 0 {
        notes.push(format!("left out: {} by ignore files", counted_entries(left.by_ignore_files)));
    }
    if left.too_deep > 0 {
        notes.push(format!("not entered: {} by --depth", counted(left.too_deep, "folder")));
    }
    if !left.repositories.is_empty() {
        let names: Vec<_> = left.repositories.iter().take(3).map(|path| shown_bytes(path, look.plain)).collect();
        let more = left.repositories.len() - names.len();
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        notes.push(format!("skipped: {}{more} (--with-repositories compares it too)", names.join(", ")));
    }
    for (index, note) in notes.iter().enumerate() {
        if index == 0 {
            writeln!(out)?;
        }
        write!(out, "  ")?;
        look.palette().write(Ink::Faint, note, out)?;
        writeln!(out)?;
    }
    Ok(())
}

fn counted_entries(count: usize) -> String {
    if count == 1 { "1 entry".to_owned() } else { format!("{} entries", grouped(count)) }
}

fn write_legend(view: &TreeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    let name = |label: &str| shown_name(label, look.plain);
    let has = |status: Status| view.comparison.pairs.iter().any(|pair| pair.status == status);
    let entries = [
        (Status::Gone, marks.gone, Ink::Gone, format!("gone: only in {}", name(&view.labels.before))),
        (Status::New, marks.new, Ink::New, format!("new: only in {}", name(&view.labels.after))),
        (Status::Changed, marks.edited, Ink::Strong, "changed".to_owned()),
        (Status::Muted, marks.muted, Ink::Faint, "muted: nothing in it counts".to_owned()),
        (Status::Moved, marks.moved, Ink::Moved, "moved".to_owned()),
        (Status::Retyped, marks.retyped, Ink::Strong, "of another type".to_owned()),
        (Status::Unreadable, marks.trouble, Ink::Trouble, "could not be read".to_owned()),
    ];
    let mut gap = "  ";
    for (status, mark, ink, words) in entries {
        if has(status) {
            write!(out, "{gap}")?;
            palette.write(ink, mark, out)?;
            palette.write(Ink::Faint, &format!(" {words}"), out)?;
            gap = "   ";
        }
    }
    writeln!(out)
}
