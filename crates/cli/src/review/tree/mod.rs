//! The screen of a tree: walked, filtered, and left for a file.

mod carry;
mod draw;
mod open;
mod rows;
mod state;
mod walk;

use std::collections::HashSet;
use std::sync::atomic::Ordering;
use std::sync::mpsc::channel;
use std::thread::{self, Scope};
use std::time::Instant;

use anyhow::Result;
use crossterm::event::{Event, KeyCode, KeyEventKind, MouseButton, MouseEventKind};
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{TreeComparison, TreePath};
use tideline_views::plural;

use super::bars::Help;
use super::draft::Side;
use super::file::Leave;
use super::keys::Action;
use super::prompt::{Prompt, Typed};
use super::rule_view::{RuleView, Turned};
use super::stage::{Stage, Surface, is_too_small};
use super::watch::Watch;
use crate::args::SortBy;
use crate::commands::compare::concluded;
use crate::commands::pairs::Trees;
use crate::commands::request::Request;
use crate::commands::{Outcome, tell};
use carry::Carries;
use open::{open_from, recall, turn_seen};
use rows::{Row, Wish, folders};
use state::{Asked, TreeState};
use walk::{AT_WORK, Walker, again, begin, hear};

/// Shows two trees until their reader leaves.
pub(super) fn show<B: Surface>(stage: &mut Stage<'_, B>, request: &Request, trees: &Trees) -> Result<Outcome> {
    thread::scope(|scope| {
        let mut state = TreeState {
            comparison: TreeComparison::default(),
            comparing: None,
            is_comparing_again: false,
            is_whole: false,
            carries: Carries::default(),
            may_leave: false,
            keeps_message: false,
            wish: Wish { sort: request.sort, ..Wish::default() },
            shows_same: false,
            rows: Vec::new(),
            cursor: 0,
            top: 0,
            height: 10,
            message: String::new(),
            prompt: None,
            help: None,
            seen: HashSet::new(),
            rule_view: None,
            file: stage.file_state(),
        };
        let mut walk = Walker { news: begin(scope, request, trees, (stage.options(), false)) };
        state.comparing = Some(Instant::now());
        let result = interact(stage, request, trees, &mut state, &mut walk, scope);
        let is_at_work = AT_WORK.load(Ordering::SeqCst) > 0;
        // What is said from here on is for the terminal as it was.
        super::screen::leave();
        result?;
        let outcome = if state.is_whole {
            concluded(&state.comparison, stage.options().all_rules())
        } else if state.comparison.pairs.is_empty() {
            tell("left before anything was known of the two sides");
            Outcome::Trouble
        } else {
            // What differs so far is known to differ.
            Outcome::Different
        };
        if is_at_work {
            // Nobody waits for the rest of a long walk.
            std::process::exit(outcome.status().into());
        }
        Ok(outcome)
    })
}

fn interact<'scope, 'env: 'scope, B: Surface>(
    stage: &mut Stage<'_, B>,
    request: &'env Request,
    trees: &'env Trees,
    state: &mut TreeState,
    walk: &mut Walker,
    scope: &'scope Scope<'scope, 'env>,
) -> Result<()> {
    let mut watch = Watch::folders([&stage.roots.0, &stage.roots.1]);
    loop {
        if hear(state, walk)? && state.comparing.is_none() {
            recall(stage, trees, state);
        }
        let (colours, look) = (stage.colours(), stage.look.clone());
        let rules = &stage.rules;
        stage.terminal.draw(|frame| {
            let area = frame.area();
            if is_too_small(area) {
                super::style::put(&[("too small", colours.strong)], area, frame.buffer_mut());
            } else if let Some(list) = &mut state.rule_view {
                if let Some(at) = list.draw(rules, &state.comparison.account, &colours, area, frame.buffer_mut()) {
                    frame.set_cursor_position(at);
                }
            } else if let Some(at) =
                draw::draw(state, (request, trees), (&look, &colours, &stage.keys.tree), area, frame.buffer_mut())
            {
                frame.set_cursor_position(at);
            }
        })?;
        let event = if state.comparing.is_some() || state.is_comparing_again {
            stage.next(|| true)?
        } else {
            stage.next(|| watch.has_settled())?
        };
        if event.is_none() && state.comparing.is_none() && !state.is_comparing_again {
            again(stage, state, walk, (request, trees), scope);
        }
        let Some(event) = event else { continue };
        let action = match &event {
            Event::Key(key) if key.kind != KeyEventKind::Release => {
                if let Some(mut list) = state.rule_view.take() {
                    let turned = list.key(*key, &mut stage.rules);
                    if let Turned::Count(pattern) = &turned {
                        let told = format!("what {pattern} matches would be muted in all files");
                        list.counted(pattern.clone(), Ok(told));
                    }
                    if turned != Turned::Close {
                        state.rule_view = Some(list);
                    }
                    if turned == Turned::Rules {
                        again(stage, state, walk, (request, trees), scope);
                    }
                    continue;
                }
                if let Some((Asked::HandOn, mut prompt)) = state.prompt.clone() {
                    match prompt.key(*key) {
                        Typed::More => state.prompt = Some((Asked::HandOn, prompt)),
                        Typed::Cancelled => state.prompt = None,
                        Typed::Done(output) => {
                            state.prompt = None;
                            state.message = hand_on(stage, state, &output);
                        }
                    }
                    continue;
                }
                if let Some((asked, mut prompt)) = state.prompt.take() {
                    let keeps = match prompt.key(*key) {
                        Typed::Done(_) => false,
                        Typed::Cancelled => {
                            state.wish.name.clear();
                            false
                        }
                        Typed::More => true,
                    };
                    if keeps {
                        // What is typed takes effect at once; arrows go on walking.
                        match key.code {
                            KeyCode::Up => state.move_by(-1),
                            KeyCode::Down => state.move_by(1),
                            _ => state.wish.name = prompt.text().to_lowercase(),
                        }
                        state.prompt = Some((asked, prompt));
                    }
                    state.arrange();
                    continue;
                }
                let action = stage.keys.tree.action_of(*key);
                if let Some(mut help) = state.help.take() {
                    state.help = help.act(action).then_some(help);
                    continue;
                }
                state.message.clear();
                if action.is_none() {
                    state.message = "this key does nothing here; ? lists the keys".to_owned();
                }
                action
            }
            Event::Mouse(mouse) => match mouse.kind {
                MouseEventKind::ScrollDown => {
                    state.move_by(3);
                    None
                }
                MouseEventKind::ScrollUp => {
                    state.move_by(-3);
                    None
                }
                MouseEventKind::Down(MouseButton::Left) if mouse.row >= draw::HEAD => {
                    let row = state.top + usize::from(mouse.row - draw::HEAD);
                    let is_again = row == state.cursor;
                    state.cursor = row.min(state.rows.len().saturating_sub(1));
                    is_again.then_some(Action::Open)
                }
                _ => None,
            },
            _ => None,
        };
        let Some(action) = action else { continue };
        state.may_leave &= matches!(action, Action::Back | Action::Quit);
        let page = isize::try_from(state.height.saturating_sub(1).max(1)).unwrap_or(1);
        match action {
            Action::Up => state.move_by(-1),
            Action::Down => state.move_by(1),
            Action::PageUp => state.move_by(-page),
            Action::PageDown => state.move_by(page),
            Action::First => state.cursor = 0,
            Action::Last => state.cursor = state.rows.len().saturating_sub(1),
            Action::Left => fold_here(state, true),
            Action::Open => match state.rows.get(state.cursor) {
                Some(Row::Folder { is_folded, .. }) => {
                    let folds = !is_folded;
                    fold_here(state, folds);
                }
                Some(Row::Pair { .. }) => {
                    let leave = open_from(stage, trees, state)?;
                    let has_saved = std::mem::take(&mut state.file.has_saved);
                    if std::mem::take(&mut state.file.has_other_rules) || has_saved {
                        again(stage, state, walk, (request, trees), scope);
                    }
                    recall(stage, trees, state);
                    if leave == Leave::Quit {
                        return Ok(());
                    }
                }
                None => {}
            },
            Action::NextFile | Action::PreviousFile => {
                let files = state.files();
                let next = if action == Action::NextFile {
                    files.iter().find(|at| **at > state.cursor)
                } else {
                    files.iter().rev().find(|at| **at < state.cursor)
                };
                match next {
                    Some(at) => state.cursor = *at,
                    None => state.message = "no further file differs".to_owned(),
                }
            }
            Action::Folds => {
                let all = folders(&state.comparison.pairs);
                state.wish.folded = if state.wish.folded.is_empty() { all } else { Default::default() };
                state.arrange();
            }
            Action::Find => state.prompt = Some((Asked::Find, Prompt::of(&state.wish.name))),
            Action::IntoBefore | Action::IntoAfter => {
                let into = if action == Action::IntoAfter { Side::After } else { Side::Before };
                let (on_disk, label) = if into.is_after() {
                    (trees.on_disk.1, &trees.labels.after)
                } else {
                    (trees.on_disk.0, &trees.labels.before)
                };
                if !on_disk {
                    state.message = format!("{label} is not a folder on the disk, and is never written to");
                } else if let Some(row) = state.rows.get(state.cursor) {
                    state.carries.add(state.path_of_row(row).into(), into);
                    state.message = format!("{}; not saved yet", in_words(state, trees, into));
                    state.move_by(1);
                }
            }
            Action::Undo | Action::Redo => {
                let (carry, verb, nothing) = if action == Action::Undo {
                    (state.carries.undo(), "taken back", "nothing to take back")
                } else {
                    (state.carries.redo(), "chosen again", "nothing to choose again")
                };
                state.message = match carry {
                    Some(carry) => format!("{verb}: {}", carry.path.to_text()),
                    None => nothing.to_owned(),
                };
            }
            Action::Save if state.carries.pending() == 0 => {
                state.message = "nothing was chosen to be carried".to_owned();
            }
            Action::Save => save(stage, state, walk, (request, trees), scope),
            Action::HandOnFile => state.prompt = Some((Asked::HandOn, Prompt::default())),
            Action::AllFiles => {
                state.shows_same = !state.shows_same;
                again(stage, state, walk, (request, trees), scope);
            }
            Action::Statuses => {
                state.wish.status = next_status(state);
                state.arrange();
            }
            Action::Sort => {
                state.wish.sort = match state.wish.sort {
                    SortBy::Path => SortBy::Changes,
                    SortBy::Changes => SortBy::Lines,
                    SortBy::Lines => SortBy::Size,
                    SortBy::Size => SortBy::Time,
                    SortBy::Time => SortBy::Path,
                };
                state.arrange();
            }
            Action::Again => again(stage, state, walk, (request, trees), scope),
            Action::Seen => turn_seen(stage, trees, state),
            Action::Rules => state.rule_view = Some(RuleView::default()),
            Action::Help => state.help = Some(Help::default()),
            Action::Theme => stage.turn_ground(),
            Action::Suspend => stage.suspend()?,
            Action::Redraw => stage.redraw()?,
            Action::Back if state.comparing.is_some() => {
                state.comparing = None;
                // What comes from now on is not heard.
                walk.news = channel().1;
                let met = plural(state.comparison.pairs.len(), "difference");
                state.message = format!("stopped: {met} so far, as the walk met them; g compares again");
            }
            Action::Back if !state.wish.name.is_empty() || state.wish.status.is_some() => {
                state.wish.name.clear();
                state.wish.status = None;
                state.arrange();
            }
            Action::Back | Action::Quit if state.carries.pending() > 0 && !state.may_leave => {
                state.may_leave = true;
                state.message = format!(
                    "{} not saved: s saves, u takes back; {} again leaves without",
                    plural(state.carries.pending(), "choice"),
                    stage.keys.tree.of(action).0
                );
                continue;
            }
            Action::Back | Action::Quit => return Ok(()),
            _ => {}
        }
    }
}

/// What a carry does, in words.
fn in_words(state: &TreeState, trees: &Trees, into: Side) -> String {
    let path = state.rows.get(state.cursor).map(|row| state.path_of_row(row)).unwrap_or_default();
    let (before, after) = (&trees.labels.before, &trees.labels.after);
    let (from, into) = if into.is_after() { (before, after) } else { (after, before) };
    format!("{} becomes in {into} what it is in {from}", String::from_utf8_lossy(&path))
}

/// Carries out what was chosen, and compares anew.
fn save<'scope, 'env: 'scope, B: Surface>(
    stage: &Stage<'_, B>,
    state: &mut TreeState,
    walk: &mut Walker,
    (request, trees): (&'env Request, &'env Trees),
    scope: &'scope Scope<'scope, 'env>,
) {
    match state.carries.save(trees, (&stage.roots.0, &stage.roots.1), &request.trees.clone().contents(stage.options()))
    {
        Ok(told) => {
            state.carries.clear();
            again(stage, state, walk, (request, trees), scope);
            state.message = told;
            state.keeps_message = true;
        }
        Err(error) => state.message = format!("{error:#}"),
    }
}

/// Writes a patch or a report of what is at the cursor; says what came of it.
fn hand_on<B: Surface>(stage: &Stage<'_, B>, state: &TreeState, output: &str) -> String {
    if output.is_empty() {
        return "nothing was written: it needs the name of a file".to_owned();
    }
    let Some(row) = state.rows.get(state.cursor) else { return "there is nothing at the cursor".to_owned() };
    let is_folder = matches!(row, Row::Folder { .. });
    match String::from_utf8(state.path_of_row(row)) {
        Ok(path) => stage.hand_on.write(Some(&path), is_folder, output),
        Err(_) => "this path cannot be typed, and is not handed on from here".to_owned(),
    }
}

/// Folds or unfolds the folder at the cursor; from a file, folds the folder it is in.
fn fold_here(state: &mut TreeState, folds: bool) {
    let Some(row) = state.rows.get(state.cursor) else { return };
    let folder = match row {
        Row::Folder { path, is_folded, .. } if folds && *is_folded => TreePath::from(path.as_slice()).parent().to_vec(),
        Row::Folder { path, .. } => path.clone(),
        Row::Pair { .. } => TreePath::from(state.path_of_row(row)).parent().to_vec(),
    };
    if folder.is_empty() {
        return;
    }
    if folds {
        state.wish.folded.insert(folder.clone());
    } else {
        state.wish.folded.remove(&folder);
    }
    state.arrange();
    if let Some(at) = state.rows.iter().position(|row| matches!(row, Row::Folder { path, .. } if *path == folder)) {
        state.cursor = at;
    }
}

/// The status that is shown alone next: those that there are, then all.
fn next_status(state: &TreeState) -> Option<Status> {
    let there: Vec<Status> = Status::ALL
        .into_iter()
        .filter(|status| state.comparison.pairs.iter().any(|pair| pair.status == *status))
        .collect();
    match state.wish.status {
        None => there.first().copied(),
        Some(status) => there.into_iter().skip_while(|other| *other != status).nth(1),
    }
}
