//! Drawing the screen of a file.

use ratatui_core::buffer::Buffer;
use ratatui_core::layout::{Position, Rect};
use ratatui_core::style::{Modifier, Style};
use tideline_core::internal::model::Weight;
use tideline_views::terminal::Layout;
use tideline_views::terminal::screen::{FileScreen, RowLines};
use tideline_views::{changes_in_words, plural};

use super::came;
use super::state::{Asked, FileState};
use crate::review::bars;
use crate::review::colours::Colours;
use crate::review::draft::{Draft, Side};
use crate::review::keys::{Action, Keys};
use crate::review::style::{put, put_line, put_right, style_of};

/// What is drawn besides the rows.
pub(super) struct Around<'a> {
    pub(super) draft: &'a Draft,
    pub(super) colours: &'a Colours,
    pub(super) keys: &'a Keys,
    /// Where the file is among those that differ.
    pub(super) among: Option<(usize, usize)>,
}

/// Draws the screen; says where the terminal's cursor goes, if a line is typed.
pub(super) fn draw(
    state: &mut FileState,
    screen: &mut FileScreen<'_>,
    around: &Around<'_>,
    area: Rect,
    buffer: &mut Buffer,
) -> Option<Position> {
    let colours = around.colours;
    let view = screen.view();
    let row = |y: u16| Rect { y: area.y + y, height: 1, ..area };
    let has_titles = state.layout == Layout::Beside;
    let head = 2 + u16::from(has_titles);
    let body = Rect { y: area.y + head, height: area.height - head - 2, ..area };
    let (height, width) = (usize::from(body.height), usize::from(body.width.saturating_sub(3)));
    let rows = state.rows(screen, (height, width));

    // The heading says which side is which.
    let (before, after) =
        (colours.label(&view.labels.before, Side::Before), colours.label(&view.labels.after, Side::After));
    let name = if view.name.is_empty() { String::new() } else { format!("{}   ", colours.shown(view.name)) };
    let mut told = changes_in_words(view.comparison.extent());
    if let Some(note) = view.note {
        told = format!("{told}, {}", colours.shown(note));
    }
    let at_hand = |side: Side| if state.side == side { Modifier::UNDERLINED } else { Modifier::empty() };
    put(
        &[
            (&name, colours.strong),
            (&before, colours.gone.add_modifier(at_hand(Side::Before))),
            ("  ", Style::new()),
            (&after, colours.new.add_modifier(at_hand(Side::After))),
            ("   ", Style::new()),
            (&told, Style::new()),
        ],
        row(0),
        buffer,
    );
    let pending = around.draft.pending();
    let right = match (pending, around.among) {
        (0, None) if state.seen.is_empty() => String::new(),
        (0, Some((at, of))) if state.seen.is_empty() => format!(" file {at} of {of}"),
        (0, _) => format!(" {} of {} seen", state.seen.len(), view.comparison.changes.len()),
        (pending, _) => format!(" {} not saved", plural(pending, "edit")),
    };
    put_right(&right, if pending > 0 { colours.trouble } else { colours.faint }, row(0), buffer);
    put(&[(&colours.shown(&where_it_is(state, screen)), colours.faint)], row(1), buffer);
    if has_titles {
        let half = u16::try_from(width.saturating_sub(3) / 2).unwrap_or(0);
        let titles = Rect { x: area.x + 2, width: area.width.saturating_sub(2), ..row(2) };
        put(&[(&before, colours.gone)], titles, buffer);
        let right =
            Rect { x: (titles.x + half + 3).min(area.right()), width: titles.width.saturating_sub(half + 3), ..titles };
        put(&[(&after, colours.new)], right, buffer);
    }

    let chosen = state.chosen();
    let (cursor_mark, chosen_mark) = if colours.plain { (">", "=") } else { ("▌", "┃") };
    for (y, (at, line)) in (0_u16..).zip(&rows) {
        let line_area = Rect { x: body.x + 1, y: body.y + y, width: body.width.saturating_sub(3), height: 1 };
        put_line(line, line_area, buffer);
        let is_chosen = chosen.is_some_and(|(first, last)| (first..=last).contains(at));
        let margin = Rect { x: body.x, width: 1, ..line_area };
        if *at == state.cursor {
            put(&[(cursor_mark, colours.strong)], margin, buffer);
        } else if is_edited(state, screen.lines_of(*at)) {
            put(&[("~", colours.trouble)], margin, buffer);
        } else if is_chosen {
            put(&[(chosen_mark, colours.strong)], margin, buffer);
        }
    }
    if rows.is_empty() {
        put(&[("both sides are empty", colours.faint)], Rect { x: body.x + 3, height: 1, ..body }, buffer);
    }
    draw_strip(&rows, screen, colours, body, buffer);
    bars::message(&state.message, colours, row(area.height - 2), buffer);
    let typed = state.prompt.as_ref().map(|(asked, prompt)| {
        let what = match asked {
            Asked::Find => match state.find_in {
                None => "find on both sides (tab: on one): ".to_owned(),
                Some(side) => format!("find in {} (tab: elsewhere): ", label(view, side)),
            },
            Asked::Note { change } => format!("note on change {}: ", view.comparison.changes[*change].number),
            Asked::HandOn => "write a patch of what is chosen to: ".to_owned(),
            Asked::HandOnFile => "write a patch, or a report (NAME.html, NAME.md), of this file to: ".to_owned(),
            Asked::Edit { line, side } => format!("line {} of {}: ", line + 1, label(view, *side)),
            Asked::SaveAs => format!("save {} as: ", label(view, state.side)),
            Asked::Leave => format!("{} not saved. s saves, q leaves without, esc stays ", plural(pending, "edit")),
        };
        bars::prompt(&what, prompt, colours, row(area.height - 2), buffer)
    });
    draw_keys(state, around, view.labels, row(area.height - 1), buffer);
    if let Some(help) = &mut state.help {
        help.draw(around.keys, colours, area, buffer);
    }
    typed
}

fn label<'v>(view: &tideline_views::FileView<'v>, side: Side) -> &'v str {
    if side.is_after() { &view.labels.after } else { &view.labels.before }
}

/// Whether a line of a row was edited and is not saved.
fn is_edited(state: &FileState, lines: Option<RowLines>) -> bool {
    lines.is_some_and(|lines| {
        lines.before.is_some_and(|line| state.edited.0.contains(&line))
            || lines.after.is_some_and(|line| state.edited.1.contains(&line))
    })
}

/// Which change the cursor is at.
fn where_it_is(state: &FileState, screen: &mut FileScreen<'_>) -> String {
    let comparison = screen.view().comparison;
    let number = |place: usize| comparison.changes[comparison.places[place].change].number;
    match screen.places_at(state.cursor) {
        (Some(above), Some(below)) if above == below => {
            let is_new = came::is_new(screen.view(), above, &state.came);
            let change = comparison.places[above].change;
            let seen = if state.seen.contains(&change) { "   seen" } else { "" };
            let note = state.notes.get(&change).map(|note| format!("   note: {note}")).unwrap_or_default();
            let new = if is_new { "   (was not there before)" } else { "" };
            format!("{}{new}{seen}{note}", screen.heading(above))
        }
        (Some(above), Some(below)) => {
            format!("between changes {} and {} of {}", number(above), number(below), comparison.changes.len())
        }
        (Some(above), None) => format!("below change {} of {}", number(above), comparison.changes.len()),
        (None, Some(below)) => format!("above change {} of {}", number(below), comparison.changes.len()),
        (None, None) => "nothing differs".to_owned(),
    }
}

/// The strip at the right edge: where in the file its changes lie, and which part of it is on the screen.
fn draw_strip(
    rows: &[(tideline_views::terminal::screen::RowAt, tideline_views::terminal::screen::ScreenLine)],
    screen: &mut FileScreen<'_>,
    colours: &Colours,
    body: Rect,
    buffer: &mut Buffer,
) {
    let height = usize::from(body.height);
    let (Some((first, _)), Some((last, _))) = (rows.first(), rows.last()) else { return };
    let seen = screen.part_of(*first, height)..=screen.part_of(*last, height);
    for (y, mark) in screen.strip(height).into_iter().enumerate() {
        let (text, style) = match (&mark, seen.contains(&y), colours.plain) {
            (Some((span, _)), ..) => (span.text.as_str(), style_of(span.style)),
            (None, true, false) => ("┃", colours.strong),
            (None, true, true) => ("|", colours.strong),
            (None, false, false) => ("│", colours.faint),
            (None, false, true) => (":", colours.faint),
        };
        let cell = Rect { x: body.right() - 1, y: body.y + u16::try_from(y).unwrap_or(0), width: 1, height: 1 };
        put(&[(text, style)], cell, buffer);
    }
}

/// The lowest line: the keys that matter at the cursor, each with its meaning.
fn draw_keys(state: &FileState, around: &Around<'_>, labels: &tideline_views::Labels, area: Rect, buffer: &mut Buffer) {
    let mut keys: Vec<(&str, String)> = Vec::new();
    let mut add = |action: Action, told: String| keys.push((around.keys.of(action).0, told));
    if state.prompt.is_some() {
        bars::keys(
            &[("enter", "done".to_owned()), ("esc", "never mind".to_owned())],
            around.keys,
            around.colours,
            area,
            buffer,
        );
        return;
    }
    let what = if state.chosen_from.is_some() { "lines" } else { "change" };
    let carried = |from: &str, into: &str| {
        // The shorter form names where it goes; the longer one both sides.
        if area.width < 110 { format!("{what} into {into}") } else { format!("{what} of {from} into {into}") }
    };
    add(Action::NextChange, "next".to_owned());
    add(Action::PreviousChange, "previous".to_owned());
    if around.draft.pending() > 0 {
        add(Action::Save, "save".to_owned());
        add(Action::Undo, "undo".to_owned());
    }
    add(Action::IntoAfter, carried(&labels.before, &labels.after));
    add(Action::IntoBefore, carried(&labels.after, &labels.before));
    for action in
        [Action::Edit, Action::Seen, Action::Find, Action::Layout, Action::Folds, Action::Wrap, Action::Choose]
    {
        add(action, around.keys.of(action).1.to_owned());
    }
    bars::keys(&keys, around.keys, around.colours, area, buffer);
}

/// Whether a change counts at all.
pub(super) fn is_counted(screen: &FileScreen<'_>, place: usize) -> bool {
    let comparison = screen.view().comparison;
    comparison.changes[comparison.places[place].change].weight == Weight::Counted
}
