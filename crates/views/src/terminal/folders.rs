//! The tree view by folder: a line with totals for each folder in which something differs.

use std::collections::{BTreeMap, HashMap};
use std::io::{self, Write};

use tideline_core::internal::model::{Status, Unit};
use tideline_core::internal::tree::{Pair, by_path};
use unicode_width::UnicodeWidthStr;

use super::look::Look;
use super::palette::TextRole;
use super::tree::{write_head, write_left_out, write_legend};
use crate::marks::Marks;
use crate::shortened::{joined, shortened};
use crate::shown::shown_bytes;
use crate::view::TreeView;
use crate::wording::tree::lines_gone_and_new;
use crate::wording::{grouped, plural};

/// The narrowest that the column of names is made.
const NARROWEST: usize = 16;

/// What differs in a folder.
#[derive(Default)]
struct Totals {
    files: BTreeMap<Status, usize>,
    changes: usize,
    lines: (usize, usize),
}

/// Draws a line with totals for each folder. With a depth, what lies deeper is counted for the folder at that depth.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_folders(view: &TreeView<'_>, depth: Option<usize>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    write_head(view, look, out)?;
    let folders = totals(&view.comparison.pairs, depth);
    if !folders.is_empty() {
        writeln!(out)?;
    }
    let name = |folder: &[u8]| {
        format!("{}/", if folder.is_empty() { ".".to_owned() } else { shown_bytes(folder, look.plain) })
    };
    let rows: Vec<(String, Vec<String>)> =
        folders.iter().map(|(folder, totals)| (name(folder), facts(totals, look))).collect();
    let room = look.width.saturating_sub(6);
    let widest_facts = rows.iter().map(|(_, facts)| facts.join(", ").width()).max().unwrap_or(0);
    let widest = rows.iter().map(|(name, _)| name.width()).max().unwrap_or(0);
    let widest = widest.min(room.saturating_sub(widest_facts).max(NARROWEST));
    for (name, facts) in &rows {
        let name = shortened(name, widest, look.plain);
        let gap = " ".repeat(widest - name.width());
        write!(out, "  ")?;
        look.palette().write(TextRole::Strong, &name, out)?;
        writeln!(out, "{gap}    {}", joined(facts, room.saturating_sub(widest), look.plain))?;
    }
    write_left_out(view, look, out)?;
    if look.legend && !rows.is_empty() {
        writeln!(out)?;
        write_legend(view, look, out)?;
    }
    Ok(())
}

/// What differs in each folder, in path order.
fn totals(pairs: &[Pair], depth: Option<usize>) -> Vec<(Vec<u8>, Totals)> {
    let mut folders: HashMap<Vec<u8>, Totals> = HashMap::new();
    for pair in pairs {
        let totals = folders.entry(rolled_up(pair.path.split().0, depth).to_vec()).or_default();
        if !pair.is_folder() {
            *totals.files.entry(pair.status).or_default() += 1;
        }
        totals.changes += pair.extent.counted;
        // Bytes and pixels are no lines, and would drown them.
        if !matches!(pair.extent.unit, Unit::Bytes | Unit::Pixels) {
            totals.lines.0 += pair.extent.gone;
            totals.lines.1 += pair.extent.new;
        }
    }
    let mut folders: Vec<_> = folders.into_iter().filter(|(_, totals)| !totals.files.is_empty()).collect();
    folders.sort_by(|one, other| by_path(&one.0, &other.0));
    folders
}

/// The first so many folders of a path.
fn rolled_up(folder: &[u8], depth: Option<usize>) -> &[u8] {
    let Some(depth) = depth else { return folder };
    match memchr::memchr_iter(b'/', folder).nth(depth.saturating_sub(1)) {
        Some(end) => &folder[..end],
        None => folder,
    }
}

fn facts(totals: &Totals, look: &Look) -> Vec<String> {
    let marks = Marks::of(look.plain);
    let files = Status::ALL.iter().filter_map(|status| Some((status, totals.files.get(status)?)));
    let mut facts: Vec<String> =
        files.map(|(status, count)| format!("{} {}", grouped(*count), status.name())).collect();
    if totals.changes > 0 {
        facts.push(plural(totals.changes, "change"));
        facts.push(lines_gone_and_new(totals.lines, &marks));
    }
    facts.retain(|fact| !fact.is_empty());
    facts
}
