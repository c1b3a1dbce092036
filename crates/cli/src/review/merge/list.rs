//! Three versions of a tree on a screen: the list of what changed, from which a file is opened.

use std::collections::BTreeSet;

use anyhow::Result;
use ratatui_core::buffer::Buffer;
use ratatui_core::layout::Rect;
use ratatui_core::style::Style;
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::merge::{MergedEntry, Prefer, Three, Together, TreeMerge, TreeMergeOptions};
use tideline_core::internal::plan::path_of;
use tideline_core::internal::tree::{Progress, TreeOptions, TreePath};
use tideline_views::{tree_clashes, tree_counts_in_words};

use super::file::{self, MergedFile, Place};
use super::pressed::pressed;
use crate::commands::Outcome;
use crate::commands::merge::decide_one;
use crate::commands::versions::TreeVersions;
use crate::review::bars::{self, Help};
use crate::review::colours::Colours;
use crate::review::keys::{Action, Keys};
use crate::review::stage::{Stage, Surface, is_too_small};
use crate::review::style::put;

/// Where the reader of the list is.
#[derive(Default)]
struct ListState {
    cursor: usize,
    message: String,
    help: Option<Help>,
    /// Entries that were decided and saved on this screen, whatever is in them now.
    decided: BTreeSet<TreePath>,
}

/// Shows the list until its reader leaves it.
pub(super) fn show<B: Surface>(
    stage: &mut Stage<'_, B>,
    contents: &ContentOptions,
    versions: &TreeVersions,
) -> Result<Outcome> {
    let mut merge = merged(contents, versions);
    let mut state = ListState::default();
    loop {
        let colours = stage.colours();
        let keys = &stage.keys.merge;
        stage.terminal.draw(|frame| {
            let area = frame.area();
            draw(&mut state, (&merge, &versions.labels), (&colours, keys), area, frame.buffer_mut());
        })?;
        let Some(action) = pressed(stage, &mut state.help)? else { continue };
        state.message.clear();
        let last = merge.entries.len().saturating_sub(1);
        match action {
            Some(Action::Quit | Action::Back) => {
                let is_open = merge
                    .entries
                    .iter()
                    .any(|entry| entry.together != Together::Alike && !state.decided.contains(&entry.path));
                return Ok(if is_open { Outcome::Different } else { Outcome::Same });
            }
            Some(Action::Up) => state.cursor = state.cursor.saturating_sub(1),
            Some(Action::Down) => state.cursor = (state.cursor + 1).min(last),
            Some(Action::PageUp) => state.cursor = state.cursor.saturating_sub(10),
            Some(Action::PageDown) => state.cursor = (state.cursor + 10).min(last),
            Some(Action::First) => state.cursor = 0,
            Some(Action::Last) => state.cursor = last,
            Some(Action::NextChange) => step(&mut state, &merge, true),
            Some(Action::PreviousChange) => step(&mut state, &merge, false),
            Some(Action::Open) => {
                if open(stage, contents, versions, merge.entries.get(state.cursor), &mut state)? {
                    merge = merged(contents, versions);
                    state.cursor = state.cursor.min(merge.entries.len().saturating_sub(1));
                }
            }
            Some(Action::TakeMine | Action::TakeTheirs) => {
                if let Some(entry) = merge.entries.get(state.cursor) {
                    let prefer = if action == Some(Action::TakeMine) { Prefer::Mine } else { Prefer::Theirs };
                    let told = decide_one(versions, contents, &entry.path, prefer);
                    if told.is_ok() {
                        state.decided.insert(entry.path.clone());
                    }
                    state.message = told.unwrap_or_else(|error| format!("{error:#}"));
                    merge = merged(contents, versions);
                    state.cursor = state.cursor.min(merge.entries.len().saturating_sub(1));
                }
            }
            Some(Action::Help) => state.help = Some(Help::default()),
            Some(Action::Theme) => stage.turn_ground(),
            Some(Action::Suspend) => stage.suspend()?,
            Some(Action::Redraw) => stage.redraw()?,
            _ => "enter opens a file; n goes to the next conflict".clone_into(&mut state.message),
        }
    }
}

fn merged(contents: &ContentOptions, versions: &TreeVersions) -> TreeMerge {
    let comparing = TreeOptions::default().contents(contents.clone()).counts(false);
    let merging = TreeMergeOptions { contents: contents.clone(), ..TreeMergeOptions::default() };
    versions.merged(&comparing, &merging, &Progress::default())
}

/// Goes to the next conflict, or the one before.
fn step(state: &mut ListState, merge: &TreeMerge, forward: bool) {
    let is_conflict = |at: &usize| {
        let entry = &merge.entries[*at];
        entry.together == Together::Conflict && !state.decided.contains(&entry.path)
    };
    let next = if forward {
        (state.cursor + 1..merge.entries.len()).find(is_conflict)
    } else {
        (0..state.cursor).rev().find(is_conflict)
    };
    match next {
        Some(next) => state.cursor = next,
        None => "there is no other conflict that way".clone_into(&mut state.message),
    }
}

/// Opens the file at the cursor; whether something may have been saved.
fn open<B: Surface>(
    stage: &mut Stage<'_, B>,
    contents: &ContentOptions,
    versions: &TreeVersions,
    entry: Option<&MergedEntry>,
    state: &mut ListState,
) -> Result<bool> {
    let Some(entry) = entry else { return Ok(false) };
    let mine = entry.mine.path.as_ref().and_then(|mine| path_of(mine));
    let (Some(read), Some(mine)) = (versions.contents_of(entry), mine) else {
        "only a file that both sides have can be opened; < and > decide for a side, and save that"
            .clone_into(&mut state.message);
        return Ok(false);
    };
    let bytes = read.as_ref().map(|contents| (**contents).as_ref());
    let name = entry.path.to_text();
    let Some(merged) = MergedFile::of(&name, bytes, contents) else {
        "it is not text: < and > decide for a side, and save that".clone_into(&mut state.message);
        return Ok(false);
    };
    let path = versions.paths.mine.join(mine);
    let place = Place::of(&path, &path, bytes.mine)?;
    if file::show(stage, &merged, (&name, &versions.labels), place)?.is_saved {
        state.decided.insert(entry.path.clone());
    }
    Ok(true)
}

fn draw(
    state: &mut ListState,
    (merge, labels): (&TreeMerge, &Three<String>),
    (colours, keys): (&Colours, &Keys),
    area: Rect,
    buffer: &mut Buffer,
) {
    if is_too_small(area) {
        put(&[("too small", colours.strong)], area, buffer);
        return;
    }
    if let Some(help) = &mut state.help {
        return help.draw(keys, colours, area, buffer);
    }
    let row = |y: u16| Rect { y: area.y + y, height: 1, ..area };
    let shown = labels.as_ref().map(|label| colours.shown(label));
    let heading = format!("base {}  ", shown.base);
    let sides = format!("{}  {}   ", shown.mine, shown.theirs);
    put(
        &[(&heading, colours.gone), (&sides, colours.new), (&tree_counts_in_words(merge), Style::new())],
        row(0),
        buffer,
    );
    let height = usize::from(area.height.saturating_sub(5));
    let top = state.cursor.saturating_sub(height / 2).min(merge.entries.len().saturating_sub(height));
    for (y, (at, entry)) in (2_u16..).zip(merge.entries.iter().enumerate().skip(top).take(height)) {
        let cursor = match (at == state.cursor, colours.plain) {
            (true, true) => ">",
            (true, false) => "▌",
            (false, _) => " ",
        };
        let is_decided = state.decided.contains(&entry.path);
        let word = if is_decided { "saved" } else { entry.together.name() };
        let word_style = match entry.together {
            _ if is_decided => colours.new,
            Together::Conflict => colours.trouble,
            Together::Apart => colours.strong,
            _ => colours.faint,
        };
        let statuses = format!(" {:9}  {:9}  ", entry.mine.status.name(), entry.theirs.status.name());
        let clash = if is_decided { String::new() } else { tree_clashes(entry, labels).join("; ") };
        put(
            &[
                (cursor, colours.strong),
                (&statuses, colours.faint),
                (&format!("{word:10} "), word_style),
                (&colours.shown(&entry.path.to_text()), if at == state.cursor { colours.strong } else { Style::new() }),
                ("   ", Style::new()),
                (&colours.shown(&clash), colours.trouble),
            ],
            row(y),
            buffer,
        );
    }
    if !state.message.is_empty() {
        bars::message(&state.message, colours, row(area.height - 2), buffer);
    }
    let told = [
        (Action::Open, "open"),
        (Action::NextChange, "next conflict"),
        (Action::TakeMine, "keep left"),
        (Action::TakeTheirs, "take right"),
    ];
    let shown: Vec<(&str, String)> = told.map(|(action, told)| (keys.of(action).0, told.to_owned())).into();
    bars::keys(&shown, keys, colours, row(area.height - 1), buffer);
}
