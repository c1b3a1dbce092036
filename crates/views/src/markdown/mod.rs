//! Markdown (CommonMark, with tables) that reads well in a code review or a wiki, and as it is.
//!
//! Changes stand in fenced blocks as a terminal without colours would show them. A fence is longer than any that stands in its block,
//! and names stand in code spans: nothing of a file can become markup.

mod escaped;
mod items;
mod merged;

use std::io::{self, Write};

use tideline_core::internal::model::Status;

use crate::groups::belong_together;
use crate::pair_view::PairView;
use crate::report::{Body, FileReport, Head, Remark, Shape};
use crate::rows::places_by_change;
use crate::shown::shown_bytes;
use crate::terminal::{Look, draw_at};
use crate::view::{FileView, TreeView};
use crate::wording::account::account_lines;
use crate::wording::edit::common_edit;
use crate::wording::section::{section_lines, section_path, section_says};
use crate::wording::tree::{Inside, is_told_by_contents, left_out, moved_blocks_in_all, newer, says, summary};
use crate::wording::{grouped, plural};
use escaped::{code, escaped, in_table, write_block, write_cut};

pub use merged::{write_merged_file, write_merged_head, write_merged_tree};

/// Columns in a block.
const WIDTH: usize = 120;

/// Writes what stands above the files: which side is which, how it was made, what the rules masked.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_head(head: &Head<'_>, out: &mut dyn Write) -> io::Result<()> {
    writeln!(out, "# {}\n", escaped(head.title))?;
    let (before, after) = (&head.labels.before, &head.labels.after);
    writeln!(out, "- ○ before: {}{}", code(before), path_if_other(head.paths.0, before))?;
    writeln!(out, "- ● after: {}{}", code(after), path_if_other(head.paths.1, after))?;
    writeln!(out, "- Made {} by {}", escaped(head.made), code(head.command))?;
    let rules = head.rule_lines();
    if rules.is_empty() {
        return writeln!(out, "- {}", head.without_rules());
    }
    writeln!(out, "\n| Rule | Effect | What it matches | In files | Lines put aside |\n|---|---|---|---|---:|")?;
    for rule in rules {
        let cells = [code(&rule.name), rule.effect.to_owned(), code(&rule.matches), code(&rule.files)];
        writeln!(out, "| {} | {} |", cells.map(|cell| in_table(&cell)).join(" | "), grouped(rule.lines))?;
    }
    Ok(())
}

/// Writes the summary of two trees, and a table of what differs.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_tree(view: &TreeView<'_>, out: &mut dyn Write) -> io::Result<()> {
    writeln!(out, "\n**{}**", escaped(&summary(view).join(", ")))?;
    for line in account_lines(&view.comparison.account, view.muted_is_hidden, false) {
        writeln!(out, "\n{}", escaped(&line))?;
    }
    if let Some(blocks) = moved_blocks_in_all(view.comparison) {
        writeln!(out, "\n{blocks}")?;
    }
    if let Some(edit) = view.comparison.common_edit() {
        writeln!(out, "\n{}", escaped(&common_edit(&edit, false)))?;
    }
    let pairs = &view.comparison.pairs;
    if !pairs.is_empty() {
        writeln!(out, "\n| | Path | What happened |\n|---|---|---|")?;
    }
    for (index, pair) in pairs.iter().enumerate() {
        if is_told_by_contents(pairs, index) {
            continue;
        }
        let slash = if pair.is_folder() { "/" } else { "" };
        let path = code(&format!("{}{slash}", shown_bytes(&pair.path, false)));
        let newer = newer(pair).map(|newer| format!(", {newer}")).unwrap_or_default();
        let says = escaped(&format!("{}{newer}", says(pair, Inside::default())));
        let status = if pair.status == Status::Unreadable { "**unreadable**" } else { pair.status.name() };
        writeln!(out, "| {status} | {} | {} |", in_table(&path), in_table(&says))?;
    }
    for note in left_out(view, false) {
        writeln!(out, "\n{}", escaped(&note))?;
    }
    Ok(())
}

/// Writes one file and its changes.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_file(file: &FileReport<'_>, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    writeln!(out, "\n## {}\n\n{}", code(&file.name), escaped(&file.facts))?;
    for line in file.account() {
        writeln!(out, "\n{}", escaped(&line))?;
    }
    match &file.body {
        Body::Pair(PairView::Text(view)) if shape.sections => write_sections(view, out),
        Body::Pair(PairView::Text(view)) => write_changes(view, shape, out),
        Body::Pair(view) => view.items().map_or(Ok(()), |view| items::write_items(view, shape, out)),
        Body::Nothing(_) => Ok(()),
    }
}

fn write_sections(view: &FileView<'_>, out: &mut dyn Write) -> io::Result<()> {
    let found = view.section_changes();
    if !found.sections.is_empty() {
        writeln!(out, "\n| Section | What happened | Where |\n|---|---|---|")?;
    }
    for change in &found.sections {
        let name = in_table(&code(&section_path(&change.path, false)));
        writeln!(out, "| {name} | {} | {} |", section_says(change), section_lines(change, "–"))?;
    }
    if found.outside > 0 {
        writeln!(out, "\n{} in no section", plural(found.outside, "change"))?;
    }
    Ok(())
}

fn write_changes(view: &FileView<'_>, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    let look = Look::default().context(shape.context).grain(shape.grain.clone()).legend(false).width(WIDTH);
    let changes = view.comparison.changes.len();
    let sections = view.sections();
    for places in groups_of_places(view, shape) {
        let told = places.iter().map(|&at| view.comparison.places[at].change);
        let remarks: Vec<Remark> = told.filter_map(|change| shape.remarks.of(view, change)).collect();
        let mut drawn = Vec::new();
        draw_at((view, &sections), &places, &look, &mut drawn)?;
        for remark in &remarks {
            let told = remark.note.as_deref().map_or("seen".to_owned(), |note| {
                format!("{}{}", if remark.is_seen { "seen: " } else { "" }, escaped(note))
            });
            writeln!(out, "\n> {told}")?;
        }
        write_block(&drawn, out)?;
    }
    write_cut(shape.cut(changes), out)
}

/// The places of each change that is told; changes that stand under one heading are one.
fn groups_of_places(view: &FileView<'_>, shape: &Shape) -> Vec<Vec<usize>> {
    let all = &view.comparison.places;
    let mut groups: Vec<Vec<usize>> = Vec::new();
    for places in places_by_change(view).into_iter().take(shape.most_changes) {
        let is_joined = |last: &Vec<usize>| match (last.last(), places.first()) {
            (Some(&last), Some(&next)) => next == last + 1 && belong_together(view.comparison, &all[last], &all[next]),
            _ => false,
        };
        match groups.last_mut() {
            Some(last) if shape.context.lines() > 0 && is_joined(last) => last.extend(places),
            _ => groups.push(places),
        }
    }
    groups
}

fn path_if_other(path: &str, label: &str) -> String {
    if path == label { String::new() } else { format!(" ({})", code(path)) }
}
