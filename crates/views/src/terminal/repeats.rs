//! Edits that repeat, a line each.

use std::io::{self, Write};

use tideline_core::internal::kinds::text::Repeat;
use unicode_width::UnicodeWidthStr;

use super::look::Look;
use super::palette::TextRole;
use crate::marks::Marks;
use crate::shown::shown_bytes;
use crate::wording::edit::option_for;
use crate::wording::{grouped, plural};

/// An edit takes at most so many columns.
const WIDEST: usize = 60;

/// Draws the edits that occur more than once: how often, what it was and is now, one example, and the option that would leave
/// each out.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_repeats(repeats: &[Repeat], look: &Look, out: &mut dyn Write) -> io::Result<()> {
    if repeats.is_empty() {
        return writeln!(out, "no edit occurs more than once");
    }
    let often = |repeat: &Repeat| format!("{} times in {}", grouped(repeat.times), plural(repeat.files, "file"));
    let width = repeats.iter().map(|repeat| often(repeat).width()).max().unwrap_or(0);
    let arrow = Marks::of(look.plain).becomes;
    for repeat in repeats {
        let (before, after) = (shown_bytes(&repeat.before, look.plain), shown_bytes(&repeat.after, look.plain));
        let often = often(repeat);
        write!(out, "  {often}{}    ", " ".repeat(width.saturating_sub(often.width())))?;
        look.palette().write(TextRole::GoneWord, &before, out)?;
        write!(out, " {arrow} ")?;
        look.palette().write(TextRole::NewWord, &after, out)?;
        if let Some(option) = option_for(&repeat.before, &repeat.after) {
            let room = WIDEST.saturating_sub(before.width() + after.width() + arrow.width() + 2);
            let option = format!("{}    {option}", " ".repeat(room));
            look.palette().write(TextRole::Faint, &option, out)?;
        }
        writeln!(out)?;
        let (path, line) = &repeat.example;
        let alone = match repeat.alone {
            0 => String::new(),
            1 => "; 1 change is nothing else".to_owned(),
            alone => format!("; {} are nothing else", plural(alone, "change")),
        };
        let example = format!("  {}    {} line {}{alone}", " ".repeat(width), shown_bytes(path, look.plain), line + 1);
        look.palette().write(TextRole::Faint, &example, out)?;
        writeln!(out)?;
    }
    Ok(())
}
