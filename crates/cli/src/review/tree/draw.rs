//! Drawing the screen of a tree.

use ratatui_core::buffer::Buffer;
use ratatui_core::layout::{Position, Rect};
use ratatui_core::style::Style;
use tideline_core::internal::model::Status;
use tideline_views::terminal::{Look, pair_words};
use tideline_views::{Labels, notes_on_what_is_hidden, plural, tree_in_words};
use unicode_width::UnicodeWidthStr;

use super::rows::{Row, Totals};
use super::state::{Asked, TreeState};
use crate::args::SortBy;
use crate::commands::pairs::Trees;
use crate::commands::request::Request;
use crate::review::bars;
use crate::review::colours::Colours;
use crate::review::draft::Side;
use crate::review::keys::{Action, Keys};
use crate::review::style::{put, put_right, style_of};

/// Rows above the tree.
pub(super) const HEAD: u16 = 2;

/// Draws the screen; says where the terminal's cursor goes, if a line is typed.
pub(super) fn draw(
    state: &mut TreeState,
    (request, trees): (&Request, &Trees),
    (look, colours, keys): (&Look, &Colours, &Keys),
    area: Rect,
    buffer: &mut Buffer,
) -> Option<Position> {
    let row = |y: u16| Rect { y: area.y + y, height: 1, ..area };
    let view = request.view(&state.comparison, &trees.labels);
    let (before, after) =
        (colours.label(&trees.labels.before, Side::Before), colours.label(&trees.labels.after, Side::After));
    let told = match state.comparing {
        Some(since) => {
            let met = state.comparison.pairs.len();
            format!("comparing … {} s, {} so far", since.elapsed().as_secs(), plural(met, "difference"))
        }
        None => tree_in_words(&view),
    };
    let sorted = match state.wish.sort {
        SortBy::Path => "",
        SortBy::Changes => " by changes",
        SortBy::Lines => " by lines",
        SortBy::Size => " by size",
        SortBy::Time => " by time",
    };
    put(
        &[
            (&before, colours.gone),
            ("  ", Style::new()),
            (&after, colours.new),
            ("    ", Style::new()),
            (&told, Style::new()),
        ],
        row(0),
        buffer,
    );
    let about: Vec<&str> = trees.labels.about_lines().collect();
    put(&[("  ", Style::new()), (&about.join("   "), colours.faint)], row(1), buffer);
    match state.carries.pending() {
        0 if !state.seen.is_empty() => {
            let files = state.files_that_can_be_opened();
            put_right(&format!(" {} of {files} seen{sorted}", state.seen.len()), colours.faint, row(0), buffer);
        }
        0 => put_right(sorted, colours.faint, row(0), buffer),
        pending => put_right(&format!(" {} not saved", plural(pending, "choice")), colours.trouble, row(0), buffer),
    }

    let body = Rect { y: area.y + HEAD, height: area.height - HEAD - 2, ..area };
    let height = usize::from(body.height);
    state.height = height;
    let last_top = state.rows.len().saturating_sub(height);
    state.top = state.top.min(state.cursor).max((state.cursor + 1).saturating_sub(height)).min(last_top);
    for (y, at) in (0..body.height).zip(state.top..state.rows.len()) {
        let line = Rect { y: body.y + y, height: 1, ..body };
        draw_row(state, at, (look, colours, &trees.labels), line, buffer);
    }
    if state.rows.is_empty() {
        let told = if state.comparing.is_some() {
            ""
        } else if state.comparison.pairs.is_empty() {
            "nothing differs; a shows all files"
        } else {
            "no path fits; esc shows all again"
        };
        put(&[(told, colours.faint)], Rect { x: body.x + 3, height: 1, ..body }, buffer);
    }
    // What is hidden is said, and why.
    let mut hidden: Vec<String> = notes_on_what_is_hidden(&view, colours.plain);
    if state.wish.status.is_some() || !state.wish.name.is_empty() {
        let shown = state.rows.iter().filter(|row| matches!(row, Row::Pair { .. })).count();
        let files = state.comparison.pairs.iter().filter(|pair| !pair.is_folder()).count();
        let status = state.wish.status.map(|status| format!("only {}", status.name()));
        let name = (!state.wish.name.is_empty()).then(|| format!("only paths with \"{}\"", state.wish.name));
        let why: Vec<String> = status.into_iter().chain(name).collect();
        hidden.insert(0, format!("{} hidden: {}", plural(files.saturating_sub(shown), "file"), why.join(", ")));
    } else if !state.shows_same && state.comparison.count(Status::Same) > 0 && state.comparing.is_none() {
        hidden.insert(
            0,
            format!("{} hidden: the same on both sides", plural(state.comparison.count(Status::Same), "file")),
        );
    }
    let lower = row(area.height - 2);
    if state.message.is_empty() {
        put(&[(&hidden.join("; "), colours.faint)], lower, buffer);
    } else {
        bars::message(&state.message, colours, lower, buffer);
    }
    let typed = state.prompt.as_ref().map(|(asked, prompt)| {
        let what = match asked {
            Asked::Find => "only paths with: ",
            Asked::HandOn => "write a patch, or a report (NAME.html, NAME.md), of this to: ",
        };
        bars::prompt(what, prompt, colours, lower, buffer)
    });
    let lowest = row(area.height - 1);
    if state.prompt.is_some() {
        bars::keys(&[("enter", "done".to_owned()), ("esc", "all again".to_owned())], keys, colours, lowest, buffer);
    } else {
        let shown = [Action::Left, Action::Folds, Action::Find, Action::Statuses, Action::Sort, Action::AllFiles];
        let short = |action: Action| (keys.of(action).0, keys.of(action).1.to_owned());
        let (before, after) = (&trees.labels.before, &trees.labels.after);
        let mut all = vec![short(Action::Open)];
        all.push((keys.of(Action::IntoAfter).0, format!("{before} into {after}")));
        all.push((keys.of(Action::IntoBefore).0, format!("{after} into {before}")));
        if state.carries.pending() > 0 {
            all.extend([short(Action::Save), short(Action::Undo)]);
        }
        all.extend(shown.map(short));
        let shown = all;
        bars::keys(&shown, keys, colours, lowest, buffer);
    }
    if let Some(help) = &mut state.help {
        help.draw(keys, colours, area, buffer);
    }
    typed
}

fn draw_row(
    state: &TreeState,
    at: usize,
    (look, colours, labels): (&Look, &Colours, &Labels),
    line: Rect,
    buffer: &mut Buffer,
) {
    let cursor = if colours.plain { ">" } else { "▌" };
    if at == state.cursor {
        put(&[(cursor, colours.strong)], line, buffer);
    }
    let inner = |depth: usize| {
        let x = u16::try_from(2 + 2 * depth).unwrap_or(2).min(line.width / 2);
        Rect { x: line.x + x, width: line.width - x, ..line }
    };
    let emphasis = if at == state.cursor { colours.strong } else { Style::new() };
    let path = state.path_of_row(&state.rows[at]);
    let arrow = if colours.plain { "->" } else { "→" };
    let seen = state.seen.contains(&path).then(|| "  seen".to_owned());
    let goes = state.carries.of(&path.as_slice().into()).map(|into| {
        let label = if into.is_after() { &labels.after } else { &labels.before };
        format!("  {arrow} {}", colours.shown(label))
    });
    match &state.rows[at] {
        Row::Folder { path, depth, totals, is_folded } => {
            let sign = match (is_folded, colours.plain) {
                (true, false) => "▸ ",
                (false, false) => "▾ ",
                (true, true) => "+ ",
                (false, true) => "- ",
            };
            let name = path.rsplit(|&byte| byte == b'/').next().unwrap_or_default();
            let name = format!("{}/", colours.shown(&String::from_utf8_lossy(name)));
            let told = format!("   {}", in_words(totals));
            put(&[(sign, colours.faint), (&name, colours.strong), (&told, colours.faint)], inner(*depth), buffer);
        }
        Row::Pair { index, depth } => {
            let Some(pair) = state.comparison.pairs.get(*index) else { return };
            let words = pair_words(pair, state.wish.sort == SortBy::Path, look);
            let area = inner(*depth);
            let newer =
                goes.clone().or(seen).or_else(|| words.newer.map(|newer| format!("  {newer}"))).unwrap_or_default();
            let room = usize::from(area.width).saturating_sub(2 + newer.width());
            let column = 36_usize.saturating_sub(2 * depth).min(room / 2);
            let name = format!("{:column$}", words.name);
            put(
                &[
                    (words.mark, style_of(words.style)),
                    (" ", Style::new()),
                    (&name, emphasis),
                    ("  ", Style::new()),
                    (&words.facts, Style::new()),
                ],
                Rect { width: area.width.saturating_sub(u16::try_from(newer.width()).unwrap_or(0)), ..area },
                buffer,
            );
            put_right(&newer, if goes.is_some() { colours.trouble } else { colours.faint }, area, buffer);
        }
    }
    if let (Row::Folder { .. }, Some(goes)) = (&state.rows[at], &goes) {
        put_right(goes, colours.trouble, line, buffer);
    }
}

fn in_words(totals: &Totals) -> String {
    let files = totals.files.iter().map(|(status, count)| format!("{count} {}", status.name()));
    let mut parts: Vec<String> = files.collect();
    if totals.changes > 0 {
        parts.push(plural(totals.changes, "change"));
    }
    parts.join(", ")
}
