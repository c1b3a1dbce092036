//! What keys and the mouse do on the screen of a file.

use anyhow::Result;
use crossterm::event::{Event, KeyCode, KeyEventKind, MouseButton, MouseEventKind};
use tideline_core::internal::kinds::TextPair;
use tideline_views::Context;
use tideline_views::terminal::Layout;
use tideline_views::terminal::screen::FileScreen;

use super::carry::{ask_for_line, carry, done, report, would_put_aside};
use super::cursor::{NO_CHANGE, change_at, line_at_cursor};
use super::find::{self, Way};
use super::looked::{Looked, Then};
use super::remember::{note, turn_seen};
use super::save;
use super::state::{Asked, FileState, Leave};
use crate::review::bars::Help;
use crate::review::draft::Side;
use crate::review::hand_on::Form;
use crate::review::keys::Action;
use crate::review::prompt::{Prompt, Typed};
use crate::review::rule_list::pattern_like;
use crate::review::rule_view::{RuleView, Turned};
use crate::review::stage::{Stage, Surface};

/// Lines more that are shown around a change at a time.
const WIDER: usize = 10;
/// Columns that the screen goes to the right at a time.
const PAN: usize = 16;

/// Does what an event asks for.
pub(super) fn act<B: Surface>(
    stage: &mut Stage<'_, B>,
    looked: &mut Looked<'_>,
    (texts, screen): (&TextPair<'_>, &mut FileScreen<'_>),
    event: &Event,
) -> Result<Then> {
    match event {
        Event::Key(key) if key.kind != KeyEventKind::Release => {
            if let Some(mut list) = looked.state.rule_view.take() {
                let turned = list.key(*key, &mut stage.rules);
                if let Turned::Count(pattern) = &turned {
                    let told = would_put_aside(stage, looked, texts, pattern);
                    list.counted(pattern.clone(), told);
                }
                if turned != Turned::Close {
                    looked.state.rule_view = Some(list);
                }
                if turned != Turned::Rules {
                    return Ok(Then::Stay);
                }
                looked.state.stays_at = line_at_cursor(looked.state, screen);
                looked.state.changes = None;
                looked.state.has_other_rules = true;
                return Ok(Then::Compare);
            }
            if let Some((asked, mut prompt)) = looked.state.prompt.take() {
                if asked == Asked::Leave {
                    return Ok(answer(looked, stage.keys.file.action_of(*key)));
                }
                if asked == Asked::Find && key.code == KeyCode::Tab {
                    looked.state.find_in = match looked.state.find_in {
                        None => Some(Side::Before),
                        Some(Side::Before) => Some(Side::After),
                        Some(Side::After) => None,
                    };
                    looked.state.prompt = Some((asked, prompt));
                    return Ok(Then::Stay);
                }
                let typed = prompt.key(*key);
                if typed == Typed::More {
                    looked.state.prompt = Some((asked, prompt));
                }
                return Ok(match typed {
                    Typed::Done(text) if asked == Asked::HandOnFile && Form::of(&text) == Form::Report => {
                        looked.state.message = report(stage, looked, &text)?;
                        Then::Stay
                    }
                    Typed::Done(text) if matches!(asked, Asked::Note { .. }) => {
                        note(stage, looked, screen, asked, &text);
                        Then::Stay
                    }
                    Typed::Done(text) => done(looked, (texts, screen), asked, &text),
                    Typed::More | Typed::Cancelled => Then::Stay,
                });
            }
            let action = stage.keys.file.action_of(*key);
            if let Some(mut help) = looked.state.help.take() {
                looked.state.help = help.act(action).then_some(help);
                return Ok(Then::Stay);
            }
            looked.state.message.clear();
            let Some(action) = action else {
                looked.state.message = "this key does nothing here; ? lists the keys".to_owned();
                return Ok(Then::Stay);
            };
            match action {
                Action::Suspend => stage.suspend()?,
                Action::Redraw => stage.redraw()?,
                Action::Theme => stage.turn_ground(),
                Action::Seen => turn_seen(stage, looked, screen),
                action => return Ok(do_action(looked, (texts, screen), action)),
            }
            Ok(Then::Stay)
        }
        Event::Paste(text) => {
            if let Some((_, prompt)) = &mut looked.state.prompt {
                prompt.paste(text);
            }
            Ok(Then::Stay)
        }
        Event::Mouse(mouse) => {
            let area = stage.terminal.size()?;
            let head = 2 + u16::from(looked.state.layout == Layout::Beside);
            let in_strip = mouse.column + 1 >= area.width;
            match mouse.kind {
                MouseEventKind::ScrollDown => scroll(looked.state, screen, 3, true),
                MouseEventKind::ScrollUp => scroll(looked.state, screen, 3, false),
                MouseEventKind::Down(MouseButton::Left) | MouseEventKind::Drag(MouseButton::Left) if in_strip => {
                    let height = looked.state.size.0;
                    let part = usize::from(mouse.row.saturating_sub(head)).min(height.saturating_sub(1));
                    let place = screen.strip(height).swap_remove(part).map(|(_, place)| place);
                    if let Some(row) =
                        place.map(|place| screen.of_place(place)).or_else(|| screen.row_at_part(part, height))
                    {
                        looked.state.cursor = row;
                        looked.state.show_cursor_in_context(screen);
                    }
                }
                MouseEventKind::Down(MouseButton::Left) if mouse.row >= head => {
                    let size = looked.state.size;
                    let rows = looked.state.rows(screen, size);
                    if let Some((row, _)) = rows.get(usize::from(mouse.row - head)) {
                        looked.state.cursor = *row;
                        if screen.open_fold(*row) {
                            looked.state.message.clear();
                        }
                    }
                }
                _ => {}
            }
            Ok(Then::Stay)
        }
        _ => Ok(Then::Stay),
    }
}

fn scroll(state: &mut FileState, screen: &mut FileScreen<'_>, rows: usize, is_down: bool) {
    for _ in 0..rows {
        let next = if is_down { screen.after(state.cursor) } else { screen.before(state.cursor) };
        state.cursor = next.unwrap_or(state.cursor);
        let top = if is_down { screen.after(state.top.0) } else { screen.before(state.top.0) };
        state.top = (top.unwrap_or(state.top.0), 0);
    }
}

fn do_action(looked: &mut Looked<'_>, (texts, screen): (&TextPair<'_>, &mut FileScreen<'_>), action: Action) -> Then {
    let state = &mut *looked.state;
    let (height, _) = state.size;
    match action {
        Action::Up => state.cursor = screen.before(state.cursor).unwrap_or(state.cursor),
        Action::Down => state.cursor = screen.after(state.cursor).unwrap_or(state.cursor),
        Action::PageUp => scroll(state, screen, height.saturating_sub(2).max(1), false),
        Action::PageDown => scroll(state, screen, height.saturating_sub(2).max(1), true),
        Action::First => state.cursor = screen.first().unwrap_or_default(),
        Action::Last => state.cursor = screen.last().unwrap_or_default(),
        Action::Left => state.pan = state.pan.saturating_sub(PAN),
        Action::Right if state.wraps => state.message = "lines are wrapped; w lets them go on to the right".to_owned(),
        Action::Right => state.pan += PAN,
        Action::NextChange | Action::PreviousChange => return step(looked, screen, action == Action::NextChange),
        Action::NextFile => return leave(looked, Leave::Next),
        Action::PreviousFile => return leave(looked, Leave::Previous),
        Action::Back if state.chosen_from.take().is_some() => {}
        Action::Back => return leave(looked, Leave::Back),
        Action::Quit => return leave(looked, Leave::Quit),
        Action::Help => state.help = Some(Help::default()),
        Action::Layout => {
            state.layout = match state.layout {
                Layout::Stacked => Layout::Beside,
                Layout::Beside => Layout::Inline,
                Layout::Inline => Layout::Stacked,
            };
            let name = match state.layout {
                Layout::Stacked => "stacked: gone lines above the new ones",
                Layout::Beside => "beside: before on the left, after on the right",
                Layout::Inline => "inline: changed words in place",
            };
            state.message = format!("layout {name}");
        }
        Action::Wrap => {
            (state.wraps, state.pan) = (!state.wraps, 0);
            state.message =
                if state.wraps { "long lines are wrapped" } else { "long lines go on to the right" }.to_owned();
        }
        Action::Folds => {
            let line = line_at_cursor(state, screen);
            state.context = if state.context == Context::All { state.usual_context } else { Context::All };
            set_context(state, screen, line);
            state.message =
                if state.context == Context::All { "the whole file" } else { "only changes and lines around them" }
                    .to_owned();
        }
        Action::Open => {
            let line = screen.after(state.cursor).and_then(|next| screen.lines_of(next));
            if !screen.open_fold(state.cursor) {
                state.message = "there is no fold at the cursor".to_owned();
            } else if let Some(line) = line.and_then(|lines| lines.after) {
                state.message = format!("the lines above line {} are shown", line + 1);
            }
        }
        Action::Wider => {
            let line = line_at_cursor(state, screen);
            screen.widen(state.cursor, WIDER);
            keep(state, screen, line);
        }
        Action::Narrower => {
            let line = line_at_cursor(state, screen);
            set_context(state, screen, line);
        }
        Action::Muted => {
            state.hides_muted = !state.hides_muted;
            state.changes = None;
            state.message =
                if state.hides_muted { "muted changes are hidden" } else { "muted changes are shown" }.to_owned();
            state.stays_at = line_at_cursor(state, screen);
            return Then::Compare;
        }
        Action::Rules => {
            let words = screen.changed_words(state.cursor);
            state.rule_view = Some(RuleView::new(pattern_like(&words)));
        }
        Action::Note => match change_at(state, screen) {
            Some(change) => {
                let note = state.notes.get(&change).cloned().unwrap_or_default();
                state.prompt = Some((Asked::Note { change }, Prompt::of(&note)));
            }
            None => state.message = NO_CHANGE.to_owned(),
        },
        Action::Find => state.prompt = Some((Asked::Find, Prompt::default())),
        Action::FindBack => find::go(state, texts, screen, Way::Backwards),
        Action::OtherSide => {
            state.side = state.side.other();
            let side = state.side;
            looked.state.message = format!("{} is the side at hand: it is what is edited", looked.label(side));
        }
        Action::Choose => {
            state.chosen_from = if state.chosen_from.is_some() { None } else { Some(state.cursor) };
            state.message = if state.chosen_from.is_some() {
                "move to the last line, then carry the lines"
            } else {
                "no lines are chosen"
            }
            .to_owned();
        }
        Action::IntoAfter => return carry(looked, (texts, screen), Side::After),
        Action::IntoBefore => return carry(looked, (texts, screen), Side::Before),
        Action::Edit => ask_for_line(looked, texts, screen),
        Action::Editor => return Then::Editor,
        Action::Undo => {
            state.stays_at = line_at_cursor(state, screen);
            return step_of_draft(looked, true);
        }
        Action::Redo => {
            state.stays_at = line_at_cursor(state, screen);
            return step_of_draft(looked, false);
        }
        Action::Save => save::save(looked),
        Action::HandOn => state.prompt = Some((Asked::HandOn, Prompt::default())),
        Action::HandOnFile => state.prompt = Some((Asked::HandOnFile, Prompt::default())),
        Action::SaveAs => state.prompt = Some((Asked::SaveAs, Prompt::default())),
        Action::Again => {
            state.stays_at = line_at_cursor(state, screen);
            return if save::read_again(looked) { Then::Compare } else { Then::Stay };
        }
        Action::Seen
        | Action::AllFiles
        | Action::TakeMine
        | Action::TakeTheirs
        | Action::TakeBoth
        | Action::Reopen
        | Action::Statuses
        | Action::Sort
        | Action::Suspend
        | Action::Redraw
        | Action::Theme => {}
    }
    Then::Stay
}

fn set_context(state: &mut FileState, screen: &mut FileScreen<'_>, line: Option<(usize, Side)>) {
    screen.set_context(state.context);
    keep(state, screen, line);
}

/// Keeps the cursor at a line.
fn keep(state: &mut FileState, screen: &mut FileScreen<'_>, line: Option<(usize, Side)>) {
    if let Some((line, side)) = line {
        state.cursor = screen.row_of_line(line, side.is_after()).unwrap_or(state.cursor);
        state.show_cursor_in_context(screen);
    }
}

/// The next or previous change; beyond the last, the next file.
fn step(looked: &mut Looked<'_>, screen: &mut FileScreen<'_>, forwards: bool) -> Then {
    let state = &mut *looked.state;
    let (above, below) = screen.places_at(state.cursor);
    let is_inside = above == below;
    let last = screen.view().comparison.places.len();
    let next = match (forwards, is_inside) {
        (true, true) => above.map(|place| place + 1).filter(|place| *place < last),
        (true, false) => below,
        (false, true) => above.and_then(|place| place.checked_sub(1)),
        (false, false) => above,
    };
    match next {
        Some(place) => {
            state.cursor = screen.of_place(place);
            state.show_cursor_in_context(screen);
            Then::Stay
        }
        None => leave(looked, if forwards { Leave::Next } else { Leave::Previous }),
    }
}

/// Leaves the file, unless edits would be lost.
fn leave(looked: &mut Looked<'_>, how: Leave) -> Then {
    if how != Leave::Back && how != Leave::Quit && looked.among.is_none() {
        looked.state.message =
            if how == Leave::Next { "this is the last change" } else { "this is the first change" }.to_owned();
        return Then::Stay;
    }
    if looked.draft.pending() > 0 {
        looked.state.prompt = Some((Asked::Leave, Prompt::default()));
        looked.state.leaves = how;
        return Then::Stay;
    }
    Then::Leave(how)
}

/// The answer to whether a file is left with edits that are not saved.
fn answer(looked: &mut Looked<'_>, action: Option<Action>) -> Then {
    match action {
        Some(Action::Save) => {
            save::save(looked);
            if looked.draft.pending() == 0 { Then::Leave(looked.state.leaves) } else { Then::Stay }
        }
        Some(Action::Quit) => Then::Leave(looked.state.leaves),
        _ => Then::Stay,
    }
}

/// Takes the last edit back, or does it again.
fn step_of_draft(looked: &mut Looked<'_>, is_undo: bool) -> Then {
    let told = if is_undo { looked.draft.undo() } else { looked.draft.redo() };
    let (verb, nothing) =
        if is_undo { ("taken back", "nothing to take back") } else { ("done again", "nothing to do again") };
    match told {
        Some(told) => {
            looked.state.message = format!("{verb}: {told}");
            Then::Compare
        }
        None => {
            looked.state.stays_at = None;
            looked.state.message = nothing.to_owned();
            Then::Stay
        }
    }
}
