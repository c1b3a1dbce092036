//! What stands around a screen: messages, lines that are typed, keys.

use ratatui_core::buffer::Buffer;
use ratatui_core::layout::{Position, Rect};
use ratatui_core::style::Style;
use unicode_width::UnicodeWidthStr;

use super::colours::Colours;
use super::keys::{Action, Keys};
use super::prompt::Prompt;
use super::style::put;

/// Rows that a message may take.
const MOST_ROWS: usize = 4;

/// Draws a message, whose last row is the area; a long one takes rows above it.
pub(super) fn message(text: &str, colours: &Colours, area: Rect, buffer: &mut Buffer) {
    let rows = wrapped(&colours.shown(text), usize::from(area.width));
    let first = (area.y + 1).saturating_sub(u16::try_from(rows.len()).unwrap_or(1));
    for (y, row) in (first..=area.y).zip(&rows) {
        for x in area.x..area.right() {
            buffer[(x, y)].reset();
        }
        put(&[(row, colours.strong)], Rect { y, ..area }, buffer);
    }
}

/// Text in rows of so many columns, cut between words.
fn wrapped(text: &str, room: usize) -> Vec<String> {
    let mut rows = vec![String::new()];
    for word in text.split(' ') {
        let row = rows.last().map_or(0, |row| row.width());
        let fits = row == 0 || row + 1 + word.width() <= room || rows.len() == MOST_ROWS;
        match rows.last_mut().filter(|_| fits) {
            Some(last) => {
                last.push_str(if last.is_empty() { "" } else { " " });
                last.push_str(word);
            }
            None => rows.push(word.to_owned()),
        }
    }
    rows
}

/// Draws a line that is typed, and says where its cursor is.
pub(super) fn prompt(what: &str, prompt: &Prompt, colours: &Colours, area: Rect, buffer: &mut Buffer) -> Position {
    for x in area.x..area.right() {
        buffer[(x, area.y)].reset();
    }
    let start = put(&[(&colours.shown(what), colours.strong)], area, buffer);
    let room = usize::from(area.right().saturating_sub(start)).max(1);
    let (text, column) = prompt.shown(room);
    put(&[(&colours.shown(&text), Style::new())], Rect { x: start, width: area.right() - start, ..area }, buffer);
    Position { x: (start + u16::try_from(column).unwrap_or(0)).min(area.right() - 1), y: area.y }
}

/// Draws keys with their meanings, as many as there is room for; those for help and leaving always.
pub(super) fn keys(shown: &[(&str, String)], keys: &Keys, colours: &Colours, area: Rect, buffer: &mut Buffer) {
    let always = [Action::Help, Action::Quit].map(|action| (keys.of(action).0, keys.of(action).1.to_owned()));
    let width = |(key, told): &(&str, String)| key.width() + 1 + told.width() + 3;
    let mut room = usize::from(area.width).saturating_sub(always.iter().map(width).sum());
    let mut pieces: Vec<(String, Style)> = Vec::new();
    let mut add = |(key, told): &(&str, String)| {
        pieces.push(((*key).to_owned(), colours.strong));
        pieces.push((format!(" {}   ", colours.shown(told)), colours.faint));
    };
    for key in shown {
        if width(key) > room {
            continue;
        }
        room -= width(key);
        add(key);
    }
    always.iter().for_each(add);
    let pieces: Vec<(&str, Style)> = pieces.iter().map(|(text, style)| (text.as_str(), *style)).collect();
    put(&pieces, area, buffer);
}

/// The list of all keys of a place, over the screen.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Help {
    /// The key at the top.
    top: usize,
    /// How many keys are below the screen.
    below: usize,
}

impl Help {
    /// Goes through the list; says whether it stays.
    pub(super) fn act(&mut self, action: Option<Action>) -> bool {
        match action {
            Some(Action::Down) => self.top += self.below.min(1),
            Some(Action::PageDown) => self.top += self.below.min(10),
            Some(Action::Up) => self.top = self.top.saturating_sub(1),
            Some(Action::PageUp) => self.top = self.top.saturating_sub(10),
            _ => return false,
        }
        true
    }

    pub(super) fn draw(&mut self, keys: &Keys, colours: &Colours, area: Rect, buffer: &mut Buffer) {
        for y in area.y..area.bottom() {
            for x in area.x..area.right() {
                buffer[(x, y)].reset();
            }
        }
        let row = |y: u16| Rect { y: area.y + y, height: 1, ..area };
        put(&[("  Keys of this screen", colours.strong)], row(0), buffer);
        let all = keys.all();
        let rows = usize::from(area.height.saturating_sub(4)).max(1);
        let key_width = all.iter().map(|binding| binding.keys.width()).max().unwrap_or(0);
        let widest = all.iter().map(|binding| binding.long.width()).max().unwrap_or(0) + key_width + 6;
        let fits = (usize::from(area.width) / widest.max(1)).max(1);
        let columns = all.len().div_ceil(rows).min(fits);
        self.top = self.top.min(all.len().saturating_sub(rows * columns));
        self.below = all.len().saturating_sub(self.top + rows * columns);
        let column = usize::from(area.width) / columns;
        for (at, binding) in all.iter().skip(self.top).take(rows * columns).enumerate() {
            let (x, y) = (at / rows * column, at % rows);
            let cell = Rect {
                x: area.x + u16::try_from(x).unwrap_or(0) + 2,
                y: area.y + 2 + u16::try_from(y).unwrap_or(0),
                width: u16::try_from(column.saturating_sub(2)).unwrap_or(0),
                height: 1,
            };
            let keys = format!("{:key_width$}  ", binding.keys);
            put(&[(&keys, colours.strong), (binding.long, Style::new())], cell, buffer);
        }
        let more = match (self.top, self.below) {
            (0, 0) => "  any key: back".to_owned(),
            (_, 0) => "  up: above   any other key: back".to_owned(),
            (_, below) => format!("  down: {below} more   any other key: back"),
        };
        put(&[(&more, colours.faint)], row(area.height - 1), buffer);
    }
}
