//! The screen of a tree: walked, filtered, and left for a file.

mod carry;
mod draw;
mod rows;
mod state;

use std::collections::HashSet;
use std::fs;
use std::ops::ControlFlow;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::mpsc::{Receiver, Sender, channel};
use std::thread::{self, Scope};
use std::time::Instant;

use anyhow::Result;
use crossterm::event::{Event, KeyCode, KeyEventKind, MouseButton, MouseEventKind};
use ratatui_core::backend::Backend;
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::model::Status;
use tideline_core::internal::plan::path_of;
use tideline_core::internal::tree::{self, Pair, PairSink, Progress, TreeComparison, TreePath, pair_texts};
use tideline_views::plural;

use super::bars::Help;
use super::compared::{Opened, Origin};
use super::draft::{Draft, Side};
use super::file::{self, Leave, Looked};
use super::keys::Action;
use super::prompt::{Prompt, Typed};
use super::rule_view::{RuleView, Turned};
use super::stage::{Stage, TICK, is_too_small};
use super::watch::Watch;
use crate::args::SortBy;
use crate::commands::Outcome;
use crate::commands::compare::{all_that_is_shown, compare_asked};
use crate::commands::pairs::Trees;
use crate::commands::request::Request;
use carry::Carries;
use rows::{Row, Wish, folders};
use state::{Asked, TreeState, can_be_opened};

/// Comparisons that are being made. They cannot be cut short, only left alone.
static AT_WORK: AtomicUsize = AtomicUsize::new(0);

/// What is heard of a comparison while it is made.
enum News {
    /// A pair as the walk met it; it may become another.
    Met(Box<Pair>),
    /// All of it.
    Done(Box<Result<TreeComparison>>),
}

/// Passes pairs on as the walk meets them.
struct Reporter {
    sender: Sender<News>,
    pairs: Vec<Pair>,
}

impl PairSink for Reporter {
    fn provisional(&mut self, pair: &Pair) {
        if pair.status != Status::Same {
            let _ = self.sender.send(News::Met(Box::new(pair.clone())));
        }
    }

    fn pair(&mut self, pair: Pair, _: Vec<u8>) -> ControlFlow<()> {
        self.pairs.push(pair);
        ControlFlow::Continue(())
    }
}

/// Shows two trees until their reader leaves.
pub(super) fn show<B: Backend<Error: Send + Sync + 'static>>(
    stage: &mut Stage<'_, B>,
    request: &Request,
    trees: &Trees,
) -> Result<Outcome> {
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
        let comparison = &state.comparison;
        let outcome = if comparison.count(Status::Unreadable) > 0 {
            Outcome::Trouble
        } else if comparison.differs() {
            Outcome::Different
        } else {
            Outcome::Same
        };
        if AT_WORK.load(Ordering::SeqCst) > 0 && result.is_ok() {
            // Nobody waits for the rest of a long walk; what differs so far is known to differ.
            super::screen::leave();
            std::process::exit(match (state.is_whole, comparison.pairs.is_empty()) {
                (true, _) => outcome.status().into(),
                (false, true) => 2,
                (false, false) => 1,
            });
        }
        result.map(|()| outcome)
    })
}

struct Walker {
    news: Receiver<News>,
}

/// Compares the trees on another thread.
fn begin<'scope, 'env: 'scope>(
    scope: &'scope Scope<'scope, 'env>,
    request: &'env Request,
    trees: &'env Trees,
    (contents, shows_same): (ContentOptions, bool),
) -> Receiver<News> {
    let (sender, news) = channel();
    AT_WORK.fetch_add(1, Ordering::SeqCst);
    scope.spawn(move || {
        let mut options = all_that_is_shown(request, request.trees.clone().contents(contents));
        if shows_same {
            options = options.only(Some(Status::ALL.to_vec()));
        }
        let progress = Progress::default();
        let found = if request.paths.is_empty() {
            let mut reporter = Reporter { sender: sender.clone(), pairs: Vec::new() };
            let mut found = tree::compare_into(trees.both(), &options, &progress, None, &mut reporter);
            found.pairs = reporter.pairs;
            Ok(found)
        } else {
            compare_asked(request, trees, options, &progress).map(|(comparison, _)| comparison)
        };
        // Nobody may listen any more.
        let _ = sender.send(News::Done(Box::new(found)));
        AT_WORK.fetch_sub(1, Ordering::SeqCst);
    });
    news
}

/// Takes in what is known by now; says whether anything changed.
fn hear(state: &mut TreeState, walk: &Walker) -> Result<bool> {
    let mut has_changed = false;
    while let Ok(news) = walk.news.try_recv() {
        has_changed = true;
        match news {
            News::Met(pair) if state.comparing.is_some() => state.comparison.pairs.push(*pair),
            News::Met(_) => {}
            News::Done(found) => {
                state.comparison = (*found)?;
                state.comparing = None;
                state.is_whole = true;
                let keeps_message = std::mem::take(&mut state.keeps_message);
                if std::mem::take(&mut state.is_comparing_again) && !keeps_message {
                    state.message.clear();
                }
            }
        }
    }
    if has_changed {
        state.arrange();
    }
    Ok(has_changed)
}

fn interact<'scope, 'env: 'scope, B: Backend<Error: Send + Sync + 'static>>(
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
            stage.inputs.next(TICK)?
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
                if let Some(row) = state.rows.get(state.cursor) {
                    state.carries.add(state.path_of_row(row), into);
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
                    Some(carry) => format!("{verb}: {}", String::from_utf8_lossy(&carry.path)),
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
fn save<'scope, 'env: 'scope, B: Backend<Error: Send + Sync + 'static>>(
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
fn hand_on<B: Backend<Error: Send + Sync + 'static>>(stage: &Stage<'_, B>, state: &TreeState, output: &str) -> String {
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

/// Compares the trees anew.
fn again<'scope, 'env: 'scope, B: Backend<Error: Send + Sync + 'static>>(
    stage: &Stage<'_, B>,
    state: &mut TreeState,
    walk: &mut Walker,
    (request, trees): (&'env Request, &'env Trees),
    scope: &'scope Scope<'scope, 'env>,
) {
    // What was known stays on the screen until all is known again.
    walk.news = begin(scope, request, trees, (stage.options(), state.shows_same));
    state.message = "comparing again".to_owned();
    state.is_comparing_again = true;
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

/// Finds the files that were seen as they are.
fn recall<B: Backend<Error: Send + Sync + 'static>>(stage: &Stage<'_, B>, trees: &Trees, state: &mut TreeState) {
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
fn turn_seen<B: Backend<Error: Send + Sync + 'static>>(stage: &mut Stage<'_, B>, trees: &Trees, state: &mut TreeState) {
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
fn open_from<B: Backend<Error: Send + Sync + 'static>>(
    stage: &mut Stage<'_, B>,
    trees: &Trees,
    state: &mut TreeState,
) -> Result<Leave> {
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
fn opened<B: Backend<Error: Send + Sync + 'static>>(
    stage: &Stage<'_, B>,
    trees: &Trees,
    pair: &Pair,
) -> Result<Opened, String> {
    let before = pair.types.0.is_some().then_some((&*trees.before, pair.path_before()));
    let after = pair.types.1.is_some().then_some((&*trees.after, &pair.path));
    let texts = pair_texts(before, after).map_err(|error| format!("cannot read {}: {error}", pair.path.to_text()))?;
    let (before, after) = texts.bytes();
    let origin = |root: &PathBuf, path: &TreePath, exists: bool, bytes: &[u8]| Origin {
        path: path_of(path).map(|path| root.join(path)).filter(|path| {
            // Nothing is written where a link on the way leads elsewhere.
            path.parent().is_some_and(|folder| fs::metadata(folder).is_ok())
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
