//! Lines of the views on the screen.

use anstyle::{AnsiColor, Color as Ansi, Effects};
use ratatui_core::buffer::Buffer;
use ratatui_core::layout::Rect;
use ratatui_core::style::{Color, Modifier, Style};
use tideline_views::terminal::screen::ScreenLine;
use unicode_width::UnicodeWidthStr;

/// A style of the views as one of the screen.
pub(super) fn style_of(style: anstyle::Style) -> Style {
    let mut result = Style::new();
    if let Some(colour) = style.get_fg_color() {
        result = result.fg(colour_of(colour));
    }
    if let Some(colour) = style.get_bg_color() {
        result = result.bg(colour_of(colour));
    }
    let effects = style.get_effects();
    for (effect, modifier) in [
        (Effects::BOLD, Modifier::BOLD),
        (Effects::UNDERLINE, Modifier::UNDERLINED),
        (Effects::INVERT, Modifier::REVERSED),
    ] {
        if effects.contains(effect) {
            result = result.add_modifier(modifier);
        }
    }
    result
}

fn colour_of(colour: Ansi) -> Color {
    match colour {
        Ansi::Rgb(rgb) => Color::Rgb(rgb.r(), rgb.g(), rgb.b()),
        Ansi::Ansi256(index) => Color::Indexed(index.index()),
        Ansi::Ansi(colour) => match colour {
            AnsiColor::Black => Color::Black,
            AnsiColor::Red => Color::Red,
            AnsiColor::Green => Color::Green,
            AnsiColor::Yellow => Color::Yellow,
            AnsiColor::Blue => Color::Blue,
            AnsiColor::Magenta => Color::Magenta,
            AnsiColor::Cyan => Color::Cyan,
            AnsiColor::White => Color::Gray,
            AnsiColor::BrightBlack => Color::DarkGray,
            AnsiColor::BrightRed => Color::LightRed,
            AnsiColor::BrightGreen => Color::LightGreen,
            AnsiColor::BrightYellow => Color::LightYellow,
            AnsiColor::BrightBlue => Color::LightBlue,
            AnsiColor::BrightMagenta => Color::LightMagenta,
            AnsiColor::BrightCyan => Color::LightCyan,
            AnsiColor::BrightWhite => Color::White,
        },
    }
}

/// Draws a line into an area one row high.
pub(super) fn put_line(line: &ScreenLine, area: Rect, buffer: &mut Buffer) {
    let (mut x, end) = (area.x, area.right());
    for span in &line.spans {
        let (next, _) = buffer.set_stringn(x, area.y, &span.text, usize::from(end - x), style_of(span.style));
        x = next;
        if x >= end {
            return;
        }
    }
    let rest = style_of(line.rest);
    if rest != Style::new() {
        buffer.set_style(Rect { x, width: end - x, ..area }, rest);
    }
}

/// Draws pieces of text from the left, each in its style, and says where they end.
pub(super) fn put(pieces: &[(&str, Style)], area: Rect, buffer: &mut Buffer) -> u16 {
    let mut x = area.x;
    for (text, style) in pieces {
        if x >= area.right() {
            break;
        }
        x = buffer.set_stringn(x, area.y, text, usize::from(area.right() - x), *style).0;
    }
    x
}

/// Draws text at the right end.
pub(super) fn put_right(text: &str, style: Style, area: Rect, buffer: &mut Buffer) {
    let width = u16::try_from(text.width()).unwrap_or(u16::MAX).min(area.width);
    buffer.set_stringn(area.right() - width, area.y, text, usize::from(width), style);
}
