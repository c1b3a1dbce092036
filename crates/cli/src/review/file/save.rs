//! Saving what was edited, through the journal; the editor; reading from the disk again.

use std::fs;
use std::io::ErrorKind;
use std::path::Path;
use std::sync::Arc;

use anyhow::{Context, Result};
use tideline_core::internal::kinds::TextPair;
use tideline_core::internal::merge::{Pick, TakeInto, take};
use tideline_core::internal::plan::{Contents, ExpectedState, Fingerprint, Plan, Step};
use tideline_core::patch;
use tideline_journal::JournalError;
use tideline_views::terminal::screen::FileScreen;
use tideline_views::{plural, shown_path};

use super::cursor::{line_at_cursor, lines_near};
use super::looked::Looked;
use crate::commands::{carry_out_silently, edited_in_editor, expected_state, in_full, run_and_undo};
use crate::review::compared::Origin;
use crate::review::draft::Side;
use crate::review::stage::{Stage, Surface};

/// The bytes of a new text of a side, in what the side is written in.
pub(super) fn encoded(looked: &Looked<'_>, texts: &TextPair<'_>, side: Side, text: &[u8]) -> Result<Vec<u8>, String> {
    let (masked, written) =
        if side.is_after() { (&texts.after, texts.encodings.1) } else { (&texts.before, texts.encodings.0) };
    let label = looked.label(side).to_owned();
    if written.encoded(masked.text()).as_deref() != Some(looked.draft.text(side)) {
        return Err(format!(
            "{label} is {}, and could not be written back as it is; turn it into UTF-8 first",
            written.name()
        ));
    }
    written
        .encoded(text)
        .ok_or_else(|| format!("{label} is {}, which lacks letters of this; turn it into UTF-8 first", written.name()))
}

fn origin<'l>(looked: &'l mut Looked<'_>, side: Side) -> &'l mut Origin {
    if side.is_after() { &mut looked.opened.after } else { &mut looked.opened.before }
}

/// Saves both sides as far as they were edited, in one run.
pub(super) fn save(looked: &mut Looked<'_>) {
    let edited: Vec<Side> =
        [Side::Before, Side::After].into_iter().filter(|side| looked.draft.is_edited(*side)).collect();
    if edited.is_empty() {
        looked.state.message = "nothing was edited".to_owned();
        return;
    }
    looked.state.message = match written(looked, &edited) {
        Ok(told) => told,
        Err(error) => format!("{error:#}"),
    };
}

fn written(looked: &mut Looked<'_>, edited: &[Side]) -> Result<String> {
    let mut steps = Vec::new();
    let mut names = Vec::new();
    for &side in edited {
        let label = looked.label(side).to_owned();
        let bytes = Vec::clone(looked.draft.text(side));
        let saved = Fingerprint::of(looked.draft.saved(side));
        let origin = origin(looked, side);
        let Some(path) = origin.path.clone() else {
            anyhow::bail!("{label} cannot be written to; S saves it under another name")
        };
        let expected = if origin.exists { ExpectedState::File(saved) } else { ExpectedState::Nothing };
        names.push(shown_path(&path));
        steps.push(Step::write(in_full(&path)?, expected, Contents::Bytes(bytes)));
    }
    let done = carry_out_silently(&Plan::of(steps)).map_err(|error| match error.downcast_ref() {
        Some(JournalError::Changed { path, .. }) => anyhow::anyhow!(
            "{} is not as it was when it was read, and nothing was written; g reads it again and keeps the edits, S saves \
             them under another name",
            shown_path(path)
        ),
        _ => error,
    })?;
    for &side in edited {
        looked.draft.note_saved(side);
        origin(looked, side).exists = true;
    }
    looked.state.has_saved = true;
    looked.state.edited = (looked.draft.edited_lines(Side::Before), looked.draft.edited_lines(Side::After));
    let notes: Vec<String> = done.notes.iter().map(|note| format!("; {}", note.text)).collect();
    let run = done.run.map_or_else(String::new, |run| format!(" {}", run_and_undo(run)));
    Ok(format!("saved {}{run}{}", names.join(" and "), notes.concat()))
}

/// Saves the side at hand under another name, which becomes no part of what is compared.
pub(super) fn save_as(looked: &mut Looked<'_>, name: &str) {
    if name.is_empty() {
        return;
    }
    let bytes = Vec::clone(looked.draft.text(looked.state.side));
    looked.state.message = write_file(name, bytes).unwrap_or_else(|error| format!("{error:#}"));
}

/// Writes a patch of changes to a file; says what came of it.
pub(super) fn write_patch(looked: &Looked<'_>, texts: &TextPair<'_>, picks: &[Pick], name: &str) -> String {
    if name.is_empty() {
        return "nothing was written: a patch needs the name of a file".to_owned();
    }
    let taken = take((&texts.before, &texts.after), &texts.found, TakeInto::Before, picks);
    let after = match encoded(looked, texts, Side::Before, &taken) {
        Ok(bytes) => bytes,
        Err(reason) => return reason,
    };
    let named = |label: &str| match looked.opened.name.as_str() {
        "" => label.to_owned(),
        name => format!("{label}/{name}"),
    };
    let labels = (named(&looked.opened.labels.before), named(&looked.opened.labels.after));
    let bytes = patch::write((&labels.0, looked.draft.text(Side::Before)), (&labels.1, &after), 3);
    let changes = picks.iter().filter(|pick| **pick != Pick::Leave).count();
    match write_file(name, bytes) {
        Ok(told) => format!("{told}: a patch of {}", plural(changes, "change")),
        Err(error) => format!("{error:#}"),
    }
}

/// Writes a file that is no part of what is compared.
fn write_file(name: &str, bytes: Vec<u8>) -> Result<String> {
    let path = in_full(Path::new(name))?;
    let plan = Plan::of(vec![Step::write(path.clone(), expected_state(&path)?, Contents::Bytes(bytes))]);
    let done = carry_out_silently(&plan)?;
    let run = done.run.map_or_else(String::new, |run| format!(" {}", run_and_undo(run)));
    Ok(format!("saved {}{run}", shown_path(&path)))
}

/// Opens the side at hand in the editor, at the line of the cursor; what comes back is a pending edit.
pub(super) fn open_editor<B: Surface>(
    stage: &mut Stage<'_, B>,
    looked: &mut Looked<'_>,
    texts: &TextPair<'_>,
    screen: &mut FileScreen<'_>,
) -> Result<()> {
    let side = looked.state.side;
    if !looked.can_be_written(side) {
        looked.state.message = looked.refusal(side);
        return Ok(());
    }
    let here = line_at_cursor(looked.state, screen);
    let (before, after) = lines_near(looked.state.cursor, screen);
    let line = if side.is_after() { after } else { before };
    let text = if side.is_after() { texts.after.text() } else { texts.before.text() };
    let name = looked.opened.type_names.1.clone();
    let name = name.rsplit('/').next().unwrap_or("text");
    let edited = stage.outside(|| edited_in_editor(name, text, Some(line + 1)))?;
    let text = match edited {
        Ok(text) => text,
        Err(error) => {
            looked.state.message = format!("{error:#}");
            return Ok(());
        }
    };
    match encoded(looked, texts, side, &text) {
        Err(reason) => looked.state.message = reason,
        Ok(bytes) => {
            let told = format!("{} edited in the editor", looked.label(side));
            if looked.draft.edit(side, bytes, told.clone()) {
                looked.state.message = format!("{told}; not saved yet");
                looked.state.stays_at = here.or(Some((line, side)));
            } else {
                looked.state.message = "the editor changed nothing".to_owned();
            }
        }
    }
    Ok(())
}

/// Whether a side is not on the disk as it was read or saved last.
pub(super) fn is_changed_on_disk(looked: &mut Looked<'_>) -> bool {
    [Side::Before, Side::After].into_iter().any(|side| {
        let path = origin(looked, side).path.clone();
        // While somebody writes it anew, it may not be there for a moment.
        path.and_then(|path| fs::read(path).ok()).is_some_and(|now| now != **looked.draft.saved(side))
    })
}

/// Reads both sides from the disk again, and keeps the edits where they fit; says whether anything is to be compared.
pub(super) fn read_again(looked: &mut Looked<'_>) -> bool {
    let mut told = Vec::new();
    for side in [Side::Before, Side::After] {
        let label = looked.label(side).to_owned();
        let Some(path) = origin(looked, side).path.clone() else { continue };
        let now = match fs::read(&path).with_context(|| format!("cannot read {}", path.display())) {
            Ok(bytes) => Some(bytes),
            Err(error) => match error.downcast_ref::<std::io::Error>().map(std::io::Error::kind) {
                Some(ErrorKind::NotFound) => None,
                _ => {
                    looked.state.message = format!("{error:#}");
                    return false;
                }
            },
        };
        origin(looked, side).exists = now.is_some();
        let now = now.unwrap_or_default();
        if now == **looked.draft.saved(side) {
            continue;
        }
        match looked.draft.rebase(side, Arc::new(now)) {
            Ok(false) => told.push(format!("{label} was changed on the disk")),
            Ok(true) => told.push(format!("{label} was changed on the disk; the edits are kept")),
            Err(()) => {
                looked.state.message = format!(
                    "{label} was changed on the disk where it was edited here: the edits do not fit; S saves them under another name"
                );
                return false;
            }
        }
    }
    looked.state.message = if told.is_empty() { "both sides are as they were".to_owned() } else { told.join("; ") };
    !told.is_empty()
}
