//! The screen of a file: rows, changes, what is carried and edited.

mod act;
mod came;
mod carry;
mod cursor;
mod draw;
mod drawn;
mod find;
mod looked;
mod remember;
mod save;
mod state;

use std::path::Path;
use std::sync::Arc;
use std::sync::mpsc::TryRecvError;
use std::time::{Duration, Instant};

use anyhow::Result;
use crossterm::event::{Event, KeyEventKind};
use tideline_core::internal::kinds::Comparison;
use tideline_views::terminal::screen::FileScreen;

use tideline_views::{PairView, Title, encoding_note};

pub(super) use looked::Looked;
pub(super) use state::{FileState, Leave};

use super::bars;
use super::compared::{Compared, Contents};
use super::draft::Side;
use super::keys::Action;
use super::stage::{Stage, Surface, is_too_small};
use super::style::put;
use super::watch::Watch;
use looked::Then;

/// How long a comparison may take before it is talked about, and can be stopped.
const TALKATIVE: Duration = Duration::from_millis(300);

/// Shows a file until its reader leaves it.
pub(super) fn show<B: Surface>(stage: &mut Stage<'_, B>, looked: &mut Looked<'_>) -> Result<Leave> {
    let Some(mut compared) = compare(stage, looked)? else { return Ok(Leave::Back) };
    loop {
        let now = came::changes(compared.borrow_dependent());
        if let Some(before) = looked.state.changes.replace(now) {
            let now = looked.state.changes.as_ref();
            let (came, went) = now.map_or((0, 0), |now| came::difference(&before, now));
            looked.state.came = now.map(|now| now.difference(&before).copied().collect()).unwrap_or_default();
            if let Some(told) = came::in_words(came, went) {
                let sign = if looked.state.message.is_empty() { "" } else { "; " };
                looked.state.message = format!("{}{sign}{told}", looked.state.message);
            }
        }
        match one_session(stage, looked, &compared)? {
            Then::Leave(leave) => return Ok(leave),
            Then::Compare => match compare(stage, looked)? {
                Some(anew) => compared = anew,
                None if looked.draft.go_back_to(&compared.borrow_owner().before, &compared.borrow_owner().after) => {
                    looked.state.message = "stopped: this is how it was before; g compares again".to_owned();
                }
                // What is shown must be what is there: this comparison is waited for.
                None => loop {
                    if let Some(anew) = compare(stage, looked)? {
                        compared = anew;
                        break;
                    }
                },
            },
            Then::Stay | Then::Editor => {}
        }
    }
}

/// Compares both sides as they are edited, with a look at the keys meanwhile; nothing where it was stopped.
fn compare<B: Surface>(stage: &mut Stage<'_, B>, looked: &Looked<'_>) -> Result<Option<Compared>> {
    let mut options = stage.options();
    if looked.state.hides_muted {
        let text = options.text_options().clone().counted_only(true);
        options = options.text(text);
    }
    let names = (Arc::from(looked.opened.type_names.0.as_str()), Arc::from(looked.opened.type_names.1.as_str()));
    let contents = Contents {
        before: Arc::clone(looked.draft.text(Side::Before)),
        after: Arc::clone(looked.draft.text(Side::After)),
        names,
        options: Arc::new(options),
    };
    let waiting = Compared::in_background(contents);
    let started = Instant::now();
    loop {
        match waiting.try_recv() {
            Ok(compared) => return Ok(Some(compared)),
            Err(TryRecvError::Disconnected) => {
                anyhow::bail!("cannot compare {}: the comparison ended early", looked.opened.name)
            }
            Err(TryRecvError::Empty) => {}
        }
        // What is quick is not talked about.
        let patience = if started.elapsed() < Duration::from_millis(60) { 1 } else { 20 };
        match stage.inputs.next(Duration::from_millis(patience))? {
            Some(Event::Key(key))
                if started.elapsed() > TALKATIVE
                    && key.kind != KeyEventKind::Release
                    && matches!(stage.keys.file.action_of(key), Some(Action::Back | Action::Quit)) =>
            {
                return Ok(None);
            }
            // What is typed ahead is done when the screen is there.
            Some(event) => stage.waiting.push_back(event),
            None => {}
        }
        if started.elapsed() > TALKATIVE {
            let seconds = started.elapsed().as_secs();
            let told = format!("comparing {} … {seconds} s   esc stops", looked.opened.name);
            let colours = stage.colours();
            stage.terminal.draw(|frame| {
                let area = frame.area();
                bars::message(&told, &colours, area, frame.buffer_mut());
            })?;
        }
    }
}

/// Shows a comparison until it has to be made anew.
fn one_session<B: Surface>(stage: &mut Stage<'_, B>, looked: &mut Looked<'_>, compared: &Compared) -> Result<Then> {
    let opened = looked.opened.clone();
    let paths: Vec<&Path> =
        [&opened.before, &opened.after].into_iter().filter_map(|side| side.path.as_deref()).collect();
    let mut watch = Watch::files(&paths);
    let comparison = compared.borrow_dependent();
    *looked.differs = match comparison {
        Comparison::Text(pair) => pair.found.differs(),
        _ => looked.draft.text(Side::Before) != looked.draft.text(Side::After),
    };
    let notes: Vec<String> = opened.note.clone().into_iter().chain(encoding_note(comparison)).collect();
    let note = (!notes.is_empty()).then(|| notes.join(", "));
    let title =
        Title { name: &opened.name, type_name: &opened.type_names.1, labels: &opened.labels, note: note.as_deref() };
    let view = match PairView::new(comparison, title) {
        PairView::Text(view) if view.extracted.is_none() => view,
        view => return drawn::session(stage, &view, looked.among.is_some()),
    };
    let Comparison::Text(texts) = comparison else { return Ok(Then::Stay) };
    loop {
        let look = stage.look.clone();
        let mut screen = FileScreen::new(&view, &look);
        screen.set_context(looked.state.context);
        enter(looked.state, &mut screen);
        looked.state.edited = (looked.draft.edited_lines(Side::Before), looked.draft.edited_lines(Side::After));
        remember::recall(looked.state, &stage.remembered, &screen);
        let ground = stage.is_dark;
        loop {
            let colours = stage.colours();
            let around =
                draw::Around { draft: looked.draft, colours: &colours, keys: &stage.keys.file, among: looked.among };
            let rules = &stage.rules;
            stage.terminal.draw(|frame| {
                let area = frame.area();
                if is_too_small(area) {
                    put(&[("too small", colours.strong)], area, frame.buffer_mut());
                } else if let Some(list) = &mut looked.state.rule_view {
                    if let Some(at) = list.draw(rules, &texts.found.account, &colours, area, frame.buffer_mut()) {
                        frame.set_cursor_position(at);
                    }
                } else if let Some(at) = draw::draw(looked.state, &mut screen, &around, area, frame.buffer_mut()) {
                    frame.set_cursor_position(at);
                }
            })?;
            let Some(event) = stage.next(|| watch.has_settled())? else {
                // What this screen saved itself is no news.
                let line = cursor::line_at_cursor(looked.state, &mut screen);
                if looked.state.prompt.is_none() && save::is_changed_on_disk(looked) && save::read_again(looked) {
                    looked.state.stays_at = line;
                    return Ok(Then::Compare);
                }
                continue;
            };
            match act::act(stage, looked, (texts, &mut screen), &event)? {
                Then::Stay => {}
                Then::Editor => {
                    save::open_editor(stage, looked, texts, &mut screen)?;
                    if looked.state.stays_at.is_some() {
                        return Ok(Then::Compare);
                    }
                }
                then => return Ok(then),
            }
            if stage.is_dark != ground {
                looked.state.stays_at = cursor::line_at_cursor(looked.state, &mut screen);
                break;
            }
        }
    }
}

/// Puts the cursor where it was, or at the first change.
fn enter(state: &mut FileState, screen: &mut FileScreen<'_>) {
    match state.stays_at.take() {
        Some((line, side)) => {
            let above = state.top;
            if let Some(row) = screen.row_of_line(line, side.is_after()) {
                state.cursor = row;
            }
            state.top = above;
        }
        None if state.cursor == Default::default() && !screen.view().comparison.places.is_empty() => {
            let first = (0..screen.view().comparison.places.len()).find(|&place| draw::is_counted(screen, place));
            state.cursor = screen.of_place(first.unwrap_or(0));
            state.show_cursor_in_context(screen);
        }
        None => {}
    }
}
