//! Three versions of a file on a screen, and saving what comes of them.

use std::fs;
use std::path::{Path, PathBuf};

use anyhow::Result;
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::merge::{FileMerge, Marks, MergeOptions, MergedText, Resolution, Three, merge_files};
use tideline_core::internal::plan::{Contents, ExpectedState, Fingerprint, Plan, Step};
use tideline_views::{MergeView, plural, shown_path};

use super::draw;
use super::pressed::pressed;
use super::state::MergeState;
use crate::commands::{Outcome, carry_out_silently, edited_in_editor, expected_state, in_full, run_and_undo};
use crate::review::bars::Help;
use crate::review::keys::Action;
use crate::review::stage::{Stage, Surface};

/// Three texts that were merged.
pub(super) struct MergedFile<'b> {
    pub(super) text: Box<MergedText<'b>>,
}

impl<'b> MergedFile<'b> {
    /// Merges three versions; nothing where one is not text.
    pub(super) fn of(name: &str, versions: Three<&'b [u8]>, contents: &ContentOptions) -> Option<Self> {
        match merge_files(name.as_bytes(), versions, contents, &MergeOptions::default()) {
            FileMerge::Text(text) => Some(Self { text }),
            FileMerge::Whole(_) => None,
        }
    }
}

/// Where a result is saved, and what stands there.
pub(super) struct Place {
    path: PathBuf,
    expected: ExpectedState,
}

impl Place {
    /// A path; if it is that of mine, what was read is what is replaced.
    pub(super) fn of(out: &Path, mine: &Path, read: &[u8]) -> Result<Self> {
        let path = in_full(out)?;
        let is_mine = fs::canonicalize(mine).ok().is_some_and(|mine| fs::canonicalize(&path).ok() == Some(mine));
        let expected = if is_mine { ExpectedState::File(Fingerprint::of(read)) } else { expected_state(&path)? };
        Ok(Self { path, expected })
    }
}

/// What came of a file on the screen.
pub(super) struct Left {
    pub(super) outcome: Outcome,
    /// Whether a result without conflicts was saved.
    pub(super) is_saved: bool,
}

/// Shows a file until its reader leaves it.
pub(super) fn show<B: Surface>(
    stage: &mut Stage<'_, B>,
    merged: &MergedFile<'_>,
    (name, labels): (&str, &Three<String>),
    mut place: Place,
) -> Result<Left> {
    let merge = &merged.text.merge;
    let view = MergeView { name, type_name: name, labels, note: None, merge, only: None, counted_only: false };
    let mut state = MergeState::of(merge);
    loop {
        let colours = stage.colours();
        let look = stage.look.clone();
        let keys = &stage.keys.merge;
        stage.terminal.draw(|frame| {
            let area = frame.area();
            draw::draw(&mut state, &view, (&look, &colours, keys), area, frame.buffer_mut());
        })?;
        let Some(action) = pressed(stage, &mut state.help)? else { continue };
        state.message.clear();
        let asked = std::mem::take(&mut state.asked_to_leave);
        match action {
            Some(Action::Quit | Action::Back) if state.is_unsaved() && !asked => {
                "not saved: s saves, the same key once more leaves without saving".clone_into(&mut state.message);
                state.asked_to_leave = true;
            }
            Some(Action::Quit | Action::Back) => {
                let is_saved = state.saved.as_ref().is_some_and(|saved| saved.iter().all(Option::is_some));
                return Ok(Left { outcome: outcome(&state, merged), is_saved });
            }
            Some(Action::Edit) => edit(stage, &mut state, merged, name)?,
            Some(Action::Save) => save(&mut state, merged, labels, &mut place),
            Some(Action::Theme) => stage.turn_ground(),
            Some(Action::Suspend) => stage.suspend()?,
            Some(Action::Redraw) => stage.redraw()?,
            Some(action) => act(&mut state, merged, action),
            None => {}
        }
    }
}

/// Whether all is decided and saved.
fn outcome(state: &MergeState, merged: &MergedFile<'_>) -> Outcome {
    let open = match &state.saved {
        Some(saved) => saved.iter().any(Option::is_none),
        None => merged.text.merge.regions.iter().any(|region| region.counts),
    };
    if open { Outcome::Different } else { Outcome::Same }
}

/// What keys do that need nothing but the state.
fn act(state: &mut MergeState, merged: &MergedFile<'_>, action: Action) {
    let merge = &merged.text.merge;
    match action {
        Action::Up => state.offset -= 1,
        Action::Down => state.offset += 1,
        Action::PageUp => state.offset -= 10,
        Action::PageDown => state.offset += 10,
        Action::First => while state.step(merge, false) {},
        Action::Last => while state.step(merge, true) {},
        Action::NextChange if !state.step(merge, true) => "this is the last one".clone_into(&mut state.message),
        Action::PreviousChange if !state.step(merge, false) => "this is the first one".clone_into(&mut state.message),
        Action::TakeMine => state.decide(merge, Some(Resolution::Mine)),
        Action::TakeTheirs => state.decide(merge, Some(Resolution::Theirs)),
        Action::TakeBoth => {
            let now = state.conflict(merge).and_then(|conflict| state.resolutions[conflict].clone());
            let next = if now == Some(Resolution::MineThenTheirs) {
                Resolution::TheirsThenMine
            } else {
                Resolution::MineThenTheirs
            };
            state.decide(merge, Some(next));
        }
        Action::Reopen => state.decide(merge, None),
        Action::Undo => state.take_back(merge, false),
        Action::Redo => state.take_back(merge, true),
        Action::AllFiles => {
            state.all = !state.all;
            let told = if state.all { "n and b go through all changes" } else { "n and b go through the conflicts" };
            told.clone_into(&mut state.message);
        }
        Action::Help => state.help = Some(Help::default()),
        _ => {}
    }
}

/// Lets the reader write what the conflict becomes, beginning with the lines of both sides.
fn edit<B: Surface>(
    stage: &mut Stage<'_, B>,
    state: &mut MergeState,
    merged: &MergedFile<'_>,
    name: &str,
) -> Result<()> {
    let merge = &merged.text.merge;
    let Some(conflict) = state.conflict(merge) else {
        "there is no conflict here: n goes to the next".clone_into(&mut state.message);
        return Ok(());
    };
    let region = &merge.regions[state.current];
    let resolution = state.resolutions[conflict].clone().unwrap_or(Resolution::MineThenTheirs);
    let lines = merge.resolved_lines(region, &resolution);
    let file =
        Path::new(name).file_name().map_or_else(|| "conflict".to_owned(), |name| name.to_string_lossy().into_owned());
    match stage.outside(|| edited_in_editor(&file, &lines, None))? {
        Ok(mut edited) => {
            if edited.last().is_some_and(|last| *last != b'\n') {
                edited.push(b'\n');
            }
            state.decide(merge, Some(Resolution::Lines(edited)));
        }
        Err(error) => state.message = format!("{error:#}"),
    }
    Ok(())
}

/// Saves the result through the journal.
fn save(state: &mut MergeState, merged: &MergedFile<'_>, labels: &Three<String>, place: &mut Place) {
    let marks = Marks { labels: labels.clone(), base_text: true };
    let text = merged.text.merge.decided(&marks, |conflict| state.resolutions[conflict].clone());
    let Some(bytes) = merged.text.encoded(&text) else {
        state.message = format!("cannot save: {} lacks letters of the result", merged.text.written_in().name());
        return;
    };
    let saved = Fingerprint::of(&bytes);
    if place.expected == ExpectedState::File(saved) {
        state.saved = Some(state.resolutions.clone());
        state.message = format!("{} holds it already", shown_path(&place.path));
        return;
    }
    let step = Step::write(place.path.clone(), place.expected.clone(), Contents::Bytes(bytes));
    state.message = match carry_out_silently(&Plan::of(vec![step])) {
        Ok(done) => {
            place.expected = ExpectedState::File(saved);
            state.saved = Some(state.resolutions.clone());
            let left = match state.left() {
                0 => String::new(),
                left => format!(", with {} marked in it", plural(left, "conflict")),
            };
            let run = done.run.map_or_else(String::new, |run| format!(" {}", run_and_undo(run)));
            format!("saved {}{left}{run}", shown_path(&place.path))
        }
        Err(error) => format!("{error:#}"),
    };
}
