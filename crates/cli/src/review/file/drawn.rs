//! The screen of a pair that is not text: what `compare` draws of it, to be scrolled and stepped through.

use anyhow::Result;
use crossterm::event::{Event, KeyEventKind};
use ratatui_core::layout::Rect;
use ratatui_core::style::{Color, Modifier, Style};
use tideline_views::PairView;
use tideline_views::terminal::draw_pair;

use super::looked::Then;
use super::state::Leave;
use crate::review::bars;
use crate::review::keys::Action;
use crate::review::stage::{Stage, Surface};
use crate::review::style::put;

/// A line in pieces that look alike.
type Styled = Vec<(String, Style)>;

/// Shows what is drawn of a pair until its reader leaves it.
pub(super) fn session<B: Surface>(
    stage: &mut Stage<'_, B>,
    view: &PairView<'_>,
    is_among_others: bool,
) -> Result<Then> {
    let keys = stage.keys.file.clone();
    let (mut top, mut drawn_for, mut lines, mut changes) = (0_usize, None, Vec::new(), Vec::new());
    loop {
        let size = stage.terminal.size()?;
        let height = usize::from(size.height.saturating_sub(1)).max(1);
        if drawn_for != Some((size.width, stage.is_dark)) {
            drawn_for = Some((size.width, stage.is_dark));
            (lines, changes) = drawn(stage, view, usize::from(size.width))?;
        }
        top = top.min(lines.len().saturating_sub(height));
        let colours = stage.colours();
        stage.terminal.draw(|frame| {
            let area = frame.area();
            for (y, line) in (area.y..area.bottom().saturating_sub(1)).zip(lines.iter().skip(top)) {
                let pieces: Vec<(&str, Style)> = line.iter().map(|(text, style)| (text.as_str(), *style)).collect();
                put(&pieces, Rect { y, height: 1, ..area }, frame.buffer_mut());
            }
            let lowest = Rect { y: area.bottom().saturating_sub(1), height: 1, ..area };
            let mut shown = vec![(keys.of(Action::Back).0, keys.of(Action::Back).1.to_owned())];
            if is_among_others {
                shown.insert(0, (keys.of(Action::NextFile).0, keys.of(Action::NextFile).1.to_owned()));
            }
            if !changes.is_empty() {
                shown.insert(0, (keys.of(Action::NextChange).0, keys.of(Action::NextChange).1.to_owned()));
            }
            bars::keys(&shown, &keys, &colours, lowest, frame.buffer_mut());
        })?;
        let event = stage.next(|| false)?;
        let Some(Event::Key(key)) = event else { continue };
        if key.kind == KeyEventKind::Release {
            continue;
        }
        let last = lines.len().saturating_sub(height);
        match keys.action_of(key) {
            Some(Action::Quit) => return Ok(Then::Leave(Leave::Quit)),
            Some(Action::Back) => return Ok(Then::Leave(Leave::Back)),
            Some(Action::NextFile) if is_among_others => return Ok(Then::Leave(Leave::Next)),
            Some(Action::PreviousFile) if is_among_others => return Ok(Then::Leave(Leave::Previous)),
            Some(Action::NextChange) => match changes.iter().find(|line| **line > top) {
                Some(line) if top < last => top = (*line).min(last),
                _ if is_among_others => return Ok(Then::Leave(Leave::Next)),
                _ => {}
            },
            Some(Action::PreviousChange) => match changes.iter().rev().find(|line| **line < top) {
                Some(line) => top = *line,
                None if is_among_others && top == 0 => return Ok(Then::Leave(Leave::Previous)),
                None => top = 0,
            },
            Some(Action::Down) => top = (top + 1).min(last),
            Some(Action::Up) => top = top.saturating_sub(1),
            Some(Action::PageDown) => top = (top + height).min(last),
            Some(Action::PageUp) => top = top.saturating_sub(height),
            Some(Action::First) => top = 0,
            Some(Action::Last) => top = last,
            Some(Action::Theme) => stage.turn_ground(),
            Some(Action::Redraw) => stage.redraw()?,
            Some(Action::Suspend) => stage.suspend()?,
            _ => {}
        }
    }
}

/// The lines of what is drawn, and in which of them changes begin.
fn drawn<B: Surface>(stage: &Stage<'_, B>, view: &PairView<'_>, width: usize) -> Result<(Vec<Styled>, Vec<usize>)> {
    let mut told = Vec::new();
    draw_pair(view, &stage.look.clone().width(width), &mut told)?;
    let told = String::from_utf8_lossy(&told);
    let lines: Vec<Styled> = told.lines().map(styled).collect();
    let begins = |line: &Styled| {
        let text: String = line.iter().map(|(text, _)| text.as_str()).collect();
        text.starts_with("  change ") || text.starts_with("  changes ")
    };
    let changes = lines.iter().enumerate().filter(|(_, line)| begins(line)).map(|(at, _)| at).collect();
    Ok((lines, changes))
}

/// A line of the views, whose colours are sequences of ECMA-48, in pieces.
fn styled(line: &str) -> Styled {
    let mut pieces = Styled::new();
    let mut style = Style::new();
    for (at, part) in line.split("\x1b[").enumerate() {
        let text = match part.split_once('m').filter(|_| at > 0) {
            Some((codes, text)) => {
                style = after_codes(style, codes);
                text
            }
            None => part,
        };
        if !text.is_empty() {
            pieces.push((text.to_owned(), style));
        }
    }
    pieces
}

fn after_codes(mut style: Style, codes: &str) -> Style {
    let mut codes = codes.split(';').map(|code| code.parse::<u8>().unwrap_or(0));
    while let Some(code) = codes.next() {
        style = match code {
            0 => Style::new(),
            1 => style.add_modifier(Modifier::BOLD),
            4 => style.add_modifier(Modifier::UNDERLINED),
            7 => style.add_modifier(Modifier::REVERSED),
            30..=37 => style.fg(Color::Indexed(code - 30)),
            40..=47 => style.bg(Color::Indexed(code - 40)),
            90..=97 => style.fg(Color::Indexed(code - 82)),
            100..=107 => style.bg(Color::Indexed(code - 92)),
            38 | 48 => {
                let mut next = || codes.next().unwrap_or(0);
                let colour = match next() {
                    5 => Color::Indexed(next()),
                    _ => Color::Rgb(next(), next(), next()),
                };
                if code == 38 { style.fg(colour) } else { style.bg(colour) }
            }
            _ => style,
        };
    }
    style
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn colours_of_a_line_become_those_of_the_screen() {
        let found = styled("a\x1b[1;38;2;1;2;3mb\x1b[0mc\x1b[33md");
        let bold = Style::new().add_modifier(Modifier::BOLD).fg(Color::Rgb(1, 2, 3));
        let texts: Vec<&str> = found.iter().map(|(text, _)| text.as_str()).collect();
        assert_eq!(texts, ["a", "b", "c", "d"]);
        assert_eq!([found[1].1, found[2].1, found[3].1], [bold, Style::new(), Style::new().fg(Color::Indexed(3))]);
    }
}
