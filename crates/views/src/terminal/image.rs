//! Images: what differs in numbers, and a small preview of both and of the difference.

use std::io::{self, Write};

use anstyle::{Color, RgbColor, Style};
use tideline_core::internal::kinds::image::Pixels;
use unicode_width::UnicodeWidthStr;

use super::items::{is_chosen, role_of, write_heading, write_legend, write_not_shown};
use super::look::Look;
use super::palette::TextRole;
use super::theme::{Colours, Theme};
use crate::items::{ImageView, ItemView};
use crate::marks::Marks;
use crate::pictures::{Difference, mark, over, pale};
use crate::shortened::shortened;
use crate::shown::{shown_name, shown_words};
use crate::wording::grouped;

/// Columns and rows of a preview of one image.
const LARGEST: (usize, usize) = (44, 16);
/// Columns between two of them.
const GAP: usize = 2;

/// Draws two images.
pub(super) fn draw_image(view: &ImageView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    write_heading(view, look, out)?;
    if look.preview && view.len() > 0 && matches!(look.colours, Colours::Many | Colours::All) {
        write_preview(view, look, out)?;
    }
    let (mut left, palette, marks) = (0, look.palette(), Marks::of(look.plain));
    if view.len() > 0 {
        writeln!(out)?;
    }
    let digits = grouped(view.len()).len();
    for change in &view.pair.found.changes {
        if !is_chosen(change.number, look) {
            left += 1;
            continue;
        }
        let number = grouped(change.number);
        write!(out, "  {number:>digits$} ")?;
        palette.write(role_of(change.form), marks.of_form(change.form), out)?;
        let what = shown_words(&view.what(change), look.plain);
        write!(out, " {what}")?;
        let room = look.width.saturating_sub(what.width() + digits + 8);
        let much = shortened(&ImageView::how_much(change), room.max(20), look.plain);
        palette.write(TextRole::Faint, &format!("   {much}"), out)?;
        writeln!(out)?;
    }
    write_not_shown(left, look, out)?;
    if look.legend && view.len() > 0 {
        write_legend(view, look, out)?;
    }
    Ok(())
}

/// What a cell of a preview shows.
type Cell<'c> = dyn Fn((usize, usize), (usize, usize)) -> [u8; 3] + 'c;

/// Writes both images and the difference in half blocks, beside each other.
fn write_preview(view: &ImageView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (before, after) = (&view.pair.before.frames[0], &view.pair.after.frames[0]);
    let ground = if look.theme == Theme::Dark { [0x20; 3] } else { [0xff; 3] };
    let room = ((look.width.saturating_sub(2 + 2 * GAP)) / 3).min(LARGEST.0);
    let difference = Difference::of(view.pair);
    let plain =
        |image: &Pixels, columns: (usize, usize), rows: (usize, usize)| over(image.average(columns, rows), ground);
    let differs = |columns: (usize, usize), rows: (usize, usize)| {
        if difference.is_in(columns, rows) {
            return mark();
        }
        let [grey, ..] = pale(plain(after, columns, rows));
        // On a dark ground, what is the same is dark.
        if look.theme == Theme::Dark { [(255 - grey) + 0x1c; 3] } else { [grey; 3] }
    };
    let cells: [(&Pixels, &Cell<'_>); 3] = [
        (before, &|columns, rows| plain(before, columns, rows)),
        (after, &|columns, rows| plain(after, columns, rows)),
        (after, &differs),
    ];
    let sizes = cells.map(|(image, _)| fitted(image, (room, LARGEST.1)));
    let labels = view.labels();
    let marks = Marks::of(look.plain);
    let titles = [
        (TextRole::Gone, format!("{} {}", shown_name(&labels.before, look.plain), marks.gone)),
        (TextRole::New, format!("{} {}", shown_name(&labels.after, look.plain), marks.new)),
        (TextRole::Faint, "what differs".to_owned()),
    ];
    writeln!(out)?;
    let palette = look.palette();
    write!(out, " ")?;
    for ((role, title), size) in titles.iter().zip(&sizes) {
        let width = size.0.max(12);
        let title = shortened(title, width, look.plain);
        write!(out, " ")?;
        palette.write(*role, &title, out)?;
        write!(out, "{}", " ".repeat(width.saturating_sub(title.width()) + 1))?;
    }
    writeln!(out)?;
    for row in 0..sizes.iter().map(|size| size.1).max().unwrap_or(0) {
        write!(out, " ")?;
        for ((image, colour), size) in cells.iter().zip(&sizes) {
            write!(out, " ")?;
            if row < size.1 {
                write_row(image, *colour, (*size, row), look, out)?;
            } else {
                write!(out, "{}", " ".repeat(size.0))?;
            }
            write!(out, "{}", " ".repeat(size.0.max(12) - size.0 + 1))?;
        }
        writeln!(out)?;
    }
    Ok(())
}

/// Columns and rows in which an image fits; a row shows two rows of squares.
fn fitted(image: &Pixels, (columns, rows): (usize, usize)) -> (usize, usize) {
    let (width, height) = (image.width() as f64, image.height() as f64);
    let scale = (columns as f64 / width).min(rows as f64 * 2.0 / height).min(1.0);
    (((width * scale).round() as usize).max(1), ((height * scale / 2.0).ceil() as usize).max(1))
}

fn write_row(
    image: &Pixels,
    colour: &Cell<'_>,
    (size, row): ((usize, usize), usize),
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let along = |at: usize, cells: usize, pixels: usize| {
        let start = (at * pixels / cells).min(pixels - 1);
        (start, ((at + 1) * pixels / cells).clamp(start + 1, pixels))
    };
    let squares = size.1 * 2;
    for column in 0..size.0 {
        let columns = along(column, size.0, image.width());
        let half = |half: usize| colour(columns, along(row * 2 + half, squares, image.height()));
        let style =
            Style::new().fg_color(Some(tone(half(0), look.colours))).bg_color(Some(tone(half(1), look.colours)));
        write!(out, "{}▀{}", style.render(), style.render_reset())?;
    }
    Ok(())
}

/// A colour that the terminal has.
fn tone([r, g, b]: [u8; 3], colours: Colours) -> Color {
    let rgb = RgbColor(r, g, b);
    match colours {
        Colours::All => Color::Rgb(rgb),
        _ => Color::Ansi256(anstyle_lossy::rgb_to_xterm(rgb)),
    }
}
