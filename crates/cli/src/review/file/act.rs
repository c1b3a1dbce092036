//! What keys and the mouse do on the screen of a file.

use std::collections::BTreeSet;

use anyhow::Result;
use crossterm::event::{Event, KeyCode, KeyEventKind, MouseButton, MouseEventKind};
use ratatui_core::backend::Backend;
use regex::Regex;
use tideline_core::internal::kinds::{self, TextPair};
use tideline_core::internal::merge::{Pick, TakeInto, take};
use tideline_views::terminal::Layout;
use tideline_views::terminal::screen::FileScreen;
use tideline_views::{Context, plural};

use super::cursor::line_at_cursor;
use super::find::{self, Way};
use super::looked::{Looked, Then};
use super::save;
use super::state::{Asked, FileState, Leave};

use crate::commands::remembered::{Remembered, key_of_change};
use crate::review::bars::Help;
use crate::review::draft::Side;
use crate::review::hand_on::Form;
use crate::review::keys::Action;
use crate::review::prompt::{Prompt, Typed};
use crate::review::rule_list::pattern_like;
use crate::review::rule_view::{RuleView, Turned};
use crate::review::stage::Stage;

const NO_CHANGE: &str = "there is no change at the cursor; n goes to the next one";
/// Lines more that are shown around a change at a time.
const WIDER: usize = 10;
/// Columns that the screen goes to the right at a time.
const PAN: usize = 16;

/// Does what an event asks for.
pub(super) fn act<B: Backend<Error: Send + Sync + 'static>>(
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
                    return Ok(answer(looked, stage.keys.file.action_of(*key), texts));
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
            looked.state.message = format!("{} is the side at hand: it is what is edited", label(looked, side));
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

fn label<'l>(looked: &'l Looked<'_>, side: Side) -> &'l str {
    if side.is_after() { &looked.opened.labels.after } else { &looked.opened.labels.before }
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
fn answer(looked: &mut Looked<'_>, action: Option<Action>, _: &TextPair<'_>) -> Then {
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

/// Carries the change at the cursor, or the chosen lines of it, into a side.
fn carry(looked: &mut Looked<'_>, (texts, screen): (&TextPair<'_>, &mut FileScreen<'_>), into: Side) -> Then {
    let comparison = screen.view().comparison;
    let mut picks = vec![Pick::Leave; comparison.changes.len()];
    let (from_label, into_label) = (label(looked, into.other()).to_owned(), label(looked, into).to_owned());
    let told = match looked.state.chosen() {
        None => {
            let (above, below) = screen.places_at(looked.state.cursor);
            let Some(place) = above.filter(|_| above == below) else {
                looked.state.message = NO_CHANGE.to_owned();
                return Then::Stay;
            };
            let change = comparison.places[place].change;
            picks[change] = Pick::Take;
            format!("change {} of {from_label} carried into {into_label}", comparison.changes[change].number)
        }
        Some((first, last)) => {
            let mut count = 0;
            let mut at = Some(first);
            while let Some(row) = at.filter(|row| *row <= last) {
                if let Some(lines) = screen.lines_of(row)
                    && let Some(place) = lines.place
                {
                    let pick = &mut picks[comparison.places[place].change];
                    if !matches!(pick, Pick::Rows { .. }) {
                        *pick = Pick::Rows { before: BTreeSet::new(), after: BTreeSet::new() };
                    }
                    if let Pick::Rows { before, after } = pick {
                        before.extend(lines.before);
                        after.extend(lines.after);
                        count += 1;
                    }
                }
                at = screen.after(row);
            }
            if count == 0 {
                looked.state.message = "none of the chosen lines is in a change".to_owned();
                return Then::Stay;
            }
            format!("{} of {from_label} carried into {into_label}", plural(count, "chosen row"))
        }
    };
    let target = if into.is_after() { TakeInto::After } else { TakeInto::Before };
    let text = take((&texts.before, &texts.after), &texts.found, target, &picks);
    let line = line_at_cursor(looked.state, screen);
    finish(looked, texts, (into, &text), &told, line)
}

/// Makes a new text of a side a pending edit.
fn finish(
    looked: &mut Looked<'_>,
    texts: &TextPair<'_>,
    (side, text): (Side, &[u8]),
    told: &str,
    line: Option<(usize, Side)>,
) -> Then {
    match save::encoded(looked, texts, side, text) {
        Err(reason) => {
            looked.state.message = reason;
            Then::Stay
        }
        Ok(bytes) => {
            if !looked.draft.edit(side, bytes, told) {
                looked.state.message = "that changes nothing".to_owned();
                return Then::Stay;
            }
            looked.state.chosen_from = None;
            looked.state.message = format!("{told}; not saved yet");
            looked.state.stays_at = line;
            Then::Compare
        }
    }
}

/// The change at the cursor, by its index.
fn change_at(state: &FileState, screen: &FileScreen<'_>) -> Option<usize> {
    match screen.places_at(state.cursor) {
        (Some(above), Some(below)) if above == below => Some(screen.view().comparison.places[above].change),
        _ => None,
    }
}

/// A change as it is remembered.
fn key_of(screen: &FileScreen<'_>, change: usize) -> String {
    let view = screen.view();
    let change = &view.comparison.changes[change];
    let (before, after) =
        (&view.before.text()[change.before.bytes.clone()], &view.after.text()[change.after.bytes.clone()]);
    key_of_change(view.type_name, before, after)
}

/// Marks the change at the cursor as seen, and goes to the next; or as not seen.
fn turn_seen<B: Backend<Error: Send + Sync + 'static>>(
    stage: &mut Stage<'_, B>,
    looked: &mut Looked<'_>,
    screen: &mut FileScreen<'_>,
) {
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
fn note<B: Backend<Error: Send + Sync + 'static>>(
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

/// What a rule with a pattern would put aside in this file, in words.
fn would_put_aside<B: Backend<Error: Send + Sync + 'static>>(
    stage: &Stage<'_, B>,
    looked: &Looked<'_>,
    texts: &TextPair<'_>,
    pattern: &str,
) -> Result<String, String> {
    let mut rules = stage.rules.clone();
    rules.add_pattern(pattern)?;
    let options = rules.applied(&stage.options());
    let names = (looked.opened.type_names.0.as_bytes(), looked.opened.type_names.1.as_bytes());
    let both = (&***looked.draft.text(Side::Before), &***looked.draft.text(Side::After));
    let found = kinds::compare_named(names, both, &options);
    let (all, left) = (texts.found.extent().counted, found.extent().counted);
    let lines = found
        .account()
        .parts()
        .iter()
        .filter(|part| part.rule == format!("/{}/", pattern.replace('/', "\\/")))
        .map(|part| part.lines)
        .sum();
    Ok(format!("it would mute {} here: {} that count, now {left}", plural(lines, "line"), plural(all, "change")))
}

/// Writes a report of the file, as it is on the disk.
fn report<B: Backend<Error: Send + Sync + 'static>>(
    stage: &mut Stage<'_, B>,
    looked: &Looked<'_>,
    output: &str,
) -> Result<String> {
    if looked.draft.pending() > 0 {
        return Ok("a report is made of what is on the disk: save first".to_owned());
    }
    let path = looked.among.is_some().then_some(looked.opened.name.as_str());
    Ok(stage.hand_on.write(path, false, output))
}

/// The changes that the chosen rows are in, or the one at the cursor, whole.
fn chosen_changes(looked: &Looked<'_>, screen: &mut FileScreen<'_>) -> Result<Vec<Pick>, String> {
    let comparison = screen.view().comparison;
    let mut picks = vec![Pick::Leave; comparison.changes.len()];
    let (first, last) = looked.state.chosen().unwrap_or((looked.state.cursor, looked.state.cursor));
    let mut at = Some(first);
    while let Some(row) = at.filter(|row| *row <= last) {
        if let Some(place) = screen.lines_of(row).and_then(|lines| lines.place) {
            picks[comparison.places[place].change] = Pick::Take;
        }
        at = screen.after(row);
    }
    if picks.contains(&Pick::Take) { Ok(picks) } else { Err(NO_CHANGE.to_owned()) }
}

/// Begins to edit the line at the cursor.
fn ask_for_line(looked: &mut Looked<'_>, texts: &TextPair<'_>, screen: &mut FileScreen<'_>) {
    let side = looked.state.side;
    let lines = screen.lines_of(looked.state.cursor);
    let line = lines.and_then(|lines| if side.is_after() { lines.after } else { lines.before });
    let Some(line) = line else {
        looked.state.message =
            format!("{} has no line here; tab makes the other side the one at hand", label(looked, side));
        return;
    };
    match std::str::from_utf8(line_text(texts, screen, (line, side))) {
        Ok(text) if text.chars().all(|letter| !letter.is_control() || letter == '\t') => {
            looked.state.prompt = Some((Asked::Edit { line, side }, Prompt::of(text)));
        }
        _ => looked.state.message = "this line holds what cannot be typed; E opens the editor".to_owned(),
    }
}

/// A line of a side without its line end.
fn line_text<'t>(texts: &'t TextPair<'_>, screen: &FileScreen<'_>, (line, side): (usize, Side)) -> &'t [u8] {
    let text = if side.is_after() { texts.after.text() } else { texts.before.text() };
    let start = screen.start_of_line(line, side.is_after());
    let end = text[start..].iter().position(|&byte| byte == b'\n').map_or(text.len(), |end| start + end);
    text[start..end].strip_suffix(b"\r").unwrap_or(&text[start..end])
}

/// Does what a line was typed for.
fn done(
    looked: &mut Looked<'_>,
    (texts, screen): (&TextPair<'_>, &mut FileScreen<'_>),
    asked: Asked,
    typed: &str,
) -> Then {
    match asked {
        Asked::Find => {
            if !typed.is_empty() {
                match Regex::new(typed) {
                    Ok(regex) => looked.state.found = Some(regex),
                    Err(error) => {
                        let reason = error.to_string();
                        let reason = reason.lines().last().unwrap_or_default();
                        looked.state.message = format!("cannot search for {typed}: {reason}");
                        return Then::Stay;
                    }
                }
            }
            find::go(looked.state, texts, screen, Way::Forwards);
            Then::Stay
        }
        Asked::Edit { line, side } => {
            let text = if side.is_after() { texts.after.text() } else { texts.before.text() };
            let old = line_text(texts, screen, (line, side));
            let start = screen.start_of_line(line, side.is_after());
            let new = [&text[..start], typed.as_bytes(), &text[start + old.len()..]].concat();
            let told = format!("line {} of {} edited", line + 1, label(looked, side));
            finish(looked, texts, (side, &new), &told, Some((line, side)))
        }
        Asked::SaveAs => {
            save::save_as(looked, typed);
            Then::Stay
        }
        Asked::HandOn | Asked::HandOnFile => {
            let comparison = screen.view().comparison;
            let picks = match asked {
                Asked::HandOnFile => Ok(vec![Pick::Take; comparison.changes.len()]),
                _ => chosen_changes(looked, screen),
            };
            looked.state.message = match picks {
                Err(reason) => reason,
                Ok(picks) => save::write_patch(looked, texts, &picks, typed),
            };
            Then::Stay
        }
        Asked::Leave | Asked::Note { .. } => Then::Stay,
    }
}
