//! Changes that are marked as seen, and notes on them.

use tideline_views::plural;
use tideline_views::terminal::screen::FileScreen;

use super::cursor::{NO_CHANGE, change_at};
use super::looked::Looked;
use super::state::{Asked, FileState};
use crate::commands::remembered::{Remembered, key_of_change};
use crate::review::draft::Side;
use crate::review::stage::{Stage, Surface};

/// A change as it is remembered.
fn key_of(screen: &FileScreen<'_>, change: usize) -> String {
    let view = screen.view();
    let (before, after) = view.contents_of(&view.comparison.changes[change]);
    key_of_change(view.type_name, before, after)
}

/// Marks the change at the cursor as seen, and goes to the next; or as not seen.
pub(super) fn turn_seen<B: Surface>(stage: &mut Stage<'_, B>, looked: &mut Looked<'_>, screen: &mut FileScreen<'_>) {
    let Some(change) = change_at(looked.state, screen) else {
        looked.state.message = NO_CHANGE.to_owned();
        return;
    };
    let is_seen = looked.state.seen.insert(change);
    if !is_seen {
        looked.state.seen.remove(&change);
    }
    let all = screen.view().comparison.changes.len();
    let left = all - looked.state.seen.len();
    let path = looked.opened.name.clone();
    let contents = (looked.draft.text(Side::Before).as_slice(), looked.draft.text(Side::After).as_slice());
    let kept = stage
        .remembered
        .set_seen(key_of(screen, change), is_seen)
        .and_then(|()| stage.remembered.set_file_seen(&path, (left == 0).then_some(contents)));
    looked.state.message = match (kept, left) {
        (Err(error), _) => format!("{error:#}"),
        (Ok(()), 0) => "all changes of this file are seen".to_owned(),
        (Ok(()), left) => format!("{} left to see", plural(left, "change")),
    };
    if is_seen && left > 0 {
        let places = &screen.view().comparison.places;
        let here = screen.places_at(looked.state.cursor).0.unwrap_or(0);
        let next = (here + 1..places.len()).find(|&place| !looked.state.seen.contains(&places[place].change));
        if let Some(place) = next {
            looked.state.cursor = screen.of_place(place);
            looked.state.show_cursor_in_context(screen);
        }
    }
}

/// Notes something on a change.
pub(super) fn note<B: Surface>(
    stage: &mut Stage<'_, B>,
    looked: &mut Looked<'_>,
    screen: &FileScreen<'_>,
    asked: Asked,
    text: &str,
) {
    let Asked::Note { change } = asked else { return };
    match stage.remembered.set_note(key_of(screen, change), text) {
        Err(error) => looked.state.message = format!("{error:#}"),
        Ok(()) if text.is_empty() => {
            looked.state.notes.remove(&change);
            looked.state.message = "there is no note on this change".to_owned();
        }
        Ok(()) => {
            looked.state.notes.insert(change, text.to_owned());
            looked.state.message = "noted; report --with-notes tells it".to_owned();
        }
    }
}

/// What was seen and noted of the changes of a file.
pub(super) fn recall(state: &mut FileState, remembered: &Remembered, screen: &FileScreen<'_>) {
    (state.seen, state.notes) = Default::default();
    for change in 0..screen.view().comparison.changes.len() {
        let key = key_of(screen, change);
        if remembered.is_seen(&key) {
            state.seen.insert(change);
        }
        if let Some(note) = remembered.note(&key) {
            state.notes.insert(change, note.to_owned());
        }
    }
}
