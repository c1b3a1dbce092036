//! Drawing the screen of a merge.

use ratatui_core::buffer::Buffer;
use ratatui_core::layout::Rect;
use ratatui_core::style::Style;
use tideline_views::terminal::Look;
use tideline_views::terminal::three::screen::{MergeLine, MergePanes};
use tideline_views::{MergeView, plural};

use super::state::MergeState;
use crate::review::bars;
use crate::review::colours::Colours;
use crate::review::keys::{Action, Keys};
use crate::review::stage::is_too_small;
use crate::review::style::{put, put_line, put_right};

/// A screen of so many columns shows the base between both sides.
const ROOM_FOR_BASE: u16 = 130;

/// Draws the screen.
pub(super) fn draw(
    state: &mut MergeState,
    view: &MergeView<'_>,
    (look, colours, keys): (&Look, &Colours, &Keys),
    area: Rect,
    buffer: &mut Buffer,
) {
    if is_too_small(area) {
        put(&[("too small", colours.strong)], area, buffer);
        return;
    }
    if let Some(help) = &mut state.help {
        return help.draw(keys, colours, area, buffer);
    }
    let row = |y: u16| Rect { y: area.y + y, height: 1, ..area };
    heading(state, view, colours, row(0), buffer);
    put(&[(&where_it_is(state, view), colours.faint)], row(1), buffer);
    let width = usize::from(area.width.saturating_sub(1));
    let panes = MergePanes::new(view, look, width);
    let has_base = area.width >= ROOM_FOR_BASE;
    // Heading, place, titles, the line between the panes, a message and the keys.
    let room = area.height.saturating_sub(6);
    let upper = room.div_ceil(2);
    let inner = |y: u16| Rect { x: area.x + 1, width: area.width - 1, ..row(y) };
    put_line(&panes.titles(has_base), inner(2), buffer);
    pane(&panes.sides(has_base), state, Rect { height: upper, ..inner(3) }, colours, buffer);
    let between = if colours.plain { "-" } else { "─" };
    let title = format!("{} result ", between.repeat(2));
    let line = format!("{title}{}", between.repeat(usize::from(area.width).saturating_sub(title.chars().count())));
    put(&[(&line, colours.faint)], row(3 + upper), buffer);
    pane(&panes.result(&state.resolutions), state, Rect { height: room - upper, ..inner(4 + upper) }, colours, buffer);
    if !state.message.is_empty() {
        bars::message(&state.message, colours, row(area.height - 2), buffer);
    }
    let shown = [
        Action::NextChange,
        Action::TakeMine,
        Action::TakeTheirs,
        Action::TakeBoth,
        Action::Edit,
        Action::Save,
        Action::Undo,
        Action::AllFiles,
    ];
    let shown: Vec<(&str, String)> =
        shown.map(|action| keys.of(action)).map(|(key, told)| (key, told.to_owned())).into();
    bars::keys(&shown, keys, colours, row(area.height - 1), buffer);
}

fn heading(state: &MergeState, view: &MergeView<'_>, colours: &Colours, area: Rect, buffer: &mut Buffer) {
    let labels = view.labels.as_ref().map(|label| colours.shown(label));
    let told = view.counts();
    put(
        &[
            (&format!("{}   ", colours.shown(view.name)), colours.strong),
            (&format!("base {}  ", labels.base), colours.gone),
            (&format!("{}  {}   ", labels.mine, labels.theirs), colours.new),
            (&told, Style::new()),
        ],
        area,
        buffer,
    );
    let (right, style) = match (state.left(), state.is_unsaved()) {
        (0, true) => (" all decided, not saved".to_owned(), colours.strong),
        (0, false) => (" all decided".to_owned(), colours.faint),
        (left, _) => (format!(" {} left", plural(left, "conflict")), colours.trouble),
    };
    put_right(&right, style, area, buffer);
}

/// The region at hand, in words.
fn where_it_is(state: &MergeState, view: &MergeView<'_>) -> String {
    let regions = &view.merge.regions;
    let Some(region) = regions.get(state.current) else { return "nobody changed anything".to_owned() };
    let told = view.who(region);
    let decided = match state.conflict(view.merge).map(|conflict| &state.resolutions[conflict]) {
        Some(Some(_)) => ", decided",
        Some(None) => ", not decided",
        None => "",
    };
    format!("change {} of {}: {told}{decided}", state.current + 1, regions.len())
}

/// Draws lines so that the region at hand is in view.
fn pane(lines: &[MergeLine], state: &MergeState, area: Rect, colours: &Colours, buffer: &mut Buffer) {
    let height = usize::from(area.height);
    let first = lines.iter().position(|line| line.region == Some(state.current)).unwrap_or(0);
    let extent = lines[first.min(lines.len())..].iter().take_while(|line| line.region == Some(state.current)).count();
    let centred = first.saturating_sub(height.saturating_sub(extent) / 2);
    let most = lines.len().saturating_sub(height);
    let top = centred.min(most).saturating_add_signed(state.offset).min(most);
    let cursor = if colours.plain { ">" } else { "▌" };
    for (y, line) in (0_u16..area.height).zip(lines.iter().skip(top)) {
        let row = Rect { y: area.y + y, height: 1, ..area };
        put_line(&line.line, row, buffer);
        if line.region == Some(state.current) {
            put(&[(cursor, colours.strong)], Rect { x: area.x - 1, width: 1, ..row }, buffer);
        }
    }
}
