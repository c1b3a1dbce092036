//! Files of a tree: opened one after the other, and marked as seen.

use std::collections::HashSet;
use std::fs;
use std::path::PathBuf;
use std::sync::Arc;

use anyhow::Result;
use tideline_core::internal::model::Status;
use tideline_core::internal::plan::path_of;
use tideline_core::internal::tree::{Pair, TreePath, pair_texts};
use tideline_views::plural;

use super::rows::Row;
use super::state::{TreeState, can_be_opened};
use crate::commands::pairs::Trees;
use crate::review::compared::{Opened, Origin};
use crate::review::draft::Draft;
use crate::review::file::{self, Leave, Looked};
use crate::review::stage::{Stage, Surface};

/// Finds the files that were seen as they are.
pub(super) fn recall<B: Surface>(stage: &Stage<'_, B>, trees: &Trees, state: &mut TreeState) {
    let known: HashSet<&str> = stage.remembered.files().collect();
    let is_seen = |pair: &&Pair| {
        let path = pair.path.to_text();
        known.contains(path.as_str())
            && opened(stage, trees, pair)
                .is_ok_and(|opened| stage.remembered.is_file_seen(&path, &opened.before.bytes, &opened.after.bytes))
    };
    state.seen = state.comparison.pairs.iter().filter(is_seen).map(|pair| pair.path.to_vec()).collect();
}

/// Marks the file at the cursor as seen, or as not seen.
pub(super) fn turn_seen<B: Surface>(stage: &mut Stage<'_, B>, trees: &Trees, state: &mut TreeState) {
    let pair = match state.rows.get(state.cursor) {
        Some(Row::Pair { index, .. }) if can_be_opened(&state.comparison.pairs[*index]) => {
            &state.comparison.pairs[*index]
        }
        _ => {
            state.message = "only a file can be marked as seen".to_owned();
            return;
        }
    };
    let path = pair.path.to_text();
    let was_seen = state.seen.contains(&*pair.path);
    let kept = opened(stage, trees, pair).and_then(|opened| {
        let contents = (opened.before.bytes.as_slice(), opened.after.bytes.as_slice());
        let kept = stage.remembered.set_file_seen(&path, (!was_seen).then_some(contents));
        kept.map_err(|error| format!("{error:#}"))
    });
    if let Err(reason) = kept {
        state.message = reason;
        return;
    }
    if was_seen {
        state.seen.remove(&*pair.path);
    } else {
        state.seen.insert(pair.path.to_vec());
        state.move_by(1);
    }
    let is_left = |pair: &&Pair| can_be_opened(pair) && !state.seen.contains(&*pair.path);
    let left = state.comparison.pairs.iter().filter(is_left).count();
    state.message = format!("{} left to see", plural(left, "file"));
}

/// Opens the file at the cursor, and goes on to others as its reader asks.
pub(super) fn open_from<B: Surface>(stage: &mut Stage<'_, B>, trees: &Trees, state: &mut TreeState) -> Result<Leave> {
    let mut is_next = false;
    loop {
        let files = state.files();
        let Some(at) = files.iter().position(|at| *at == state.cursor) else {
            state.message = "this cannot be opened: it is no file on either side, or cannot be read".to_owned();
            return Ok(Leave::Back);
        };
        let Row::Pair { index, .. } = state.rows[state.cursor] else { return Ok(Leave::Back) };
        let mut opened = match opened(stage, trees, &state.comparison.pairs[index]) {
            Ok(opened) => opened,
            Err(reason) => {
                state.message = reason;
                return Ok(Leave::Back);
            }
        };
        let mut draft = Draft::new(&opened.before, &opened.after);
        let mut differs = false;
        state.file.enter_anew();
        state.file.message =
            if is_next { format!("file {} of {}: {}", at + 1, files.len(), opened.name) } else { String::new() };
        let mut looked = Looked {
            opened: &mut opened,
            draft: &mut draft,
            state: &mut state.file,
            among: Some((at + 1, files.len())),
            differs: &mut differs,
        };
        let leave = file::show(stage, &mut looked)?;
        let next = match leave {
            Leave::Next => files.get(at + 1),
            Leave::Previous => at.checked_sub(1).and_then(|at| files.get(at)),
            Leave::Back | Leave::Quit => return Ok(leave),
        };
        match next {
            Some(row) => {
                state.cursor = *row;
                is_next = true;
            }
            None => {
                let which = if leave == Leave::Next { "last" } else { "first" };
                state.message = format!("that was the {which} file that differs");
                return Ok(Leave::Back);
            }
        }
    }
}

/// Reads a pair.
fn opened<B: Surface>(stage: &Stage<'_, B>, trees: &Trees, pair: &Pair) -> Result<Opened, String> {
    let before = pair.types.0.is_some().then_some((&*trees.before, pair.path_before()));
    let after = pair.types.1.is_some().then_some((&*trees.after, &pair.path));
    let texts = pair_texts(before, after).map_err(|error| format!("cannot read {}: {error}", pair.path.to_text()))?;
    let (before, after) = texts.bytes();
    let origin = |root: &PathBuf, path: &TreePath, exists: bool, bytes: &[u8]| Origin {
        path: path_of(path).filter(|_| root.is_dir()).map(|path| root.join(path)).filter(|path| {
            // Nothing is written where a link on the way leads elsewhere, nor into what was unpacked.
            let is_as_shown = || !exists || fs::read(path).is_ok_and(|there| there == bytes);
            path.parent().is_some_and(|folder| folder.is_dir()) && is_as_shown()
        }),
        exists,
        bytes: Arc::new(bytes.to_vec()),
    };
    let path = pair.path.to_text();
    let note = match (&pair.moved_from, pair.status) {
        (Some(from), _) => Some(format!("moved from {}", from.to_text())),
        (None, Status::Gone | Status::New) => Some(format!("{} file", pair.status.name())),
        _ => None,
    };
    Ok(Opened {
        type_names: (pair.path_before().to_text(), path.clone()),
        name: path,
        labels: trees.labels.clone(),
        note,
        before: origin(&stage.roots.0, pair.path_before(), pair.types.0.is_some(), before),
        after: origin(&stage.roots.1, &pair.path, pair.types.1.is_some(), after),
    })
}
