//! What became of a patch: file by file, and hunk by hunk where not everything stood at its line.

use std::io::{self, Write};

use tideline_core::internal::align::words::align_words;
use tideline_core::internal::patch::apply::{AppliedPart, Outcome};
use tideline_core::internal::patch::{Hunk, HunkPlacement, LineMismatch, Placed, PlacementFailure};
use tideline_core::internal::text::words::Grain;

use super::gutter::Gutter;
use super::look::Look;
use super::palette::TextRole;
use crate::marks::Marks;
use crate::rows::Line;
use crate::shown::{Role, shown_name};
use crate::wording::{misfit_words, plural};

/// Draws what became of the parts of a patch that was put in or, in reverse, taken out.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_applied(parts: &[AppliedPart], reverse: bool, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    for part in parts {
        let already = if reverse { "already taken out" } else { "already applied" };
        write_part_line(part, already, look, out)?;
        for (index, (hunk, fit)) in part.hunks.iter().zip(&part.fits).enumerate() {
            write_hunk((index + 1, hunk), fit, already, look, out)?;
        }
    }
    Ok(())
}

fn write_part_line(part: &AppliedPart, already: &str, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let marks = Marks::of(look.plain);
    let (mark, ink) = match part.outcome {
        _ if !part.is_whole() => (marks.trouble, TextRole::Trouble),
        Outcome::Missing | Outcome::Refused(_) => (marks.trouble, TextRole::Trouble),
        Outcome::Changed | Outcome::Emptied => (marks.edited, TextRole::Strong),
        Outcome::Created | Outcome::Copied(_) => (marks.new, TextRole::New),
        Outcome::Deleted => (marks.gone, TextRole::Gone),
        Outcome::Moved(_) => (marks.moved, TextRole::Moved),
        Outcome::AlreadyIn => (marks.muted, TextRole::Faint),
    };
    write!(out, "  ")?;
    look.palette().write(ink, mark, out)?;
    let path = shown_name(&part.path.to_string_lossy(), look.plain);
    write!(out, " ")?;
    look.palette().write(TextRole::Strong, &path, out)?;
    writeln!(out, "    {}", shown_name(&says(part, already), look.plain))
}

/// What became of a part, in words.
fn says(part: &AppliedPart, already: &str) -> String {
    let misfits = part.misfits();
    let hunks = plural(part.hunks.len(), "hunk");
    let exact = |fit: &HunkPlacement| matches!(fit, HunkPlacement::Placed(placed) if how_placed(placed).is_none());
    let mut said = match &part.outcome {
        Outcome::Missing => "there is no such file".to_owned(),
        Outcome::Refused(refusal) => refusal.to_string(),
        Outcome::AlreadyIn => format!("{already}: nothing to do"),
        Outcome::Moved(from) => format!("moved from {}", from.display()),
        Outcome::Copied(from) => format!("copied from {}", from.display()),
        _ if misfits > 0 => String::new(),
        Outcome::Created => "new file".to_owned(),
        Outcome::Deleted => "removed".to_owned(),
        Outcome::Emptied => "emptied; nothing in the patch says that the file goes".to_owned(),
        Outcome::Changed if part.binary => "contents that are not text".to_owned(),
        Outcome::Changed if part.hunks.is_empty() => "permissions".to_owned(),
        Outcome::Changed if part.fits.iter().all(exact) => {
            format!("{hunks}, at {}", if part.hunks.len() == 1 { "its line" } else { "their lines" })
        }
        Outcome::Changed => hunks.clone(),
    };
    if matches!(part.outcome, Outcome::Moved(_) | Outcome::Copied(_)) && !part.hunks.is_empty() && misfits == 0 {
        said = format!("{said}, {hunks}");
    }
    if misfits > 0 {
        let verb = if misfits == 1 { "does" } else { "do" };
        let separator = if said.is_empty() { "" } else { ", " };
        said = format!("{said}{separator}{misfits} of {hunks} {verb} not fit");
    }
    if let Some(other) = &part.other {
        said = format!("{said} ({} was left alone)", other.display());
    }
    said
}

/// Writes a line about a hunk, unless it stood at its line in every respect.
fn write_hunk(
    (number, hunk): (usize, &Hunk),
    fit: &HunkPlacement,
    already: &str,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let marks = Marks::of(look.plain);
    let head = format!("      hunk {number}, line {} of the patch {} ", hunk.line, marks.dot);
    let says = match fit {
        HunkPlacement::Placed(placed) => match how_placed(placed) {
            None => return Ok(()),
            Some(how) => format!("at line {}: {how}", placed.line + 1),
        },
        HunkPlacement::AlreadyIn(line) => format!("at line {}: {already}", line + 1),
        HunkPlacement::Parts(parts) => format!("in {} parts:", parts.len()),
        HunkPlacement::PlacementFailure(misfit) => misfit_words(misfit),
    };
    let ink = if matches!(fit, HunkPlacement::PlacementFailure(_)) { TextRole::Trouble } else { TextRole::Faint };
    look.palette().write(TextRole::Faint, &head, out)?;
    look.palette().write(ink, &says, out)?;
    writeln!(out)?;
    match fit {
        HunkPlacement::PlacementFailure(PlacementFailure::NoMatch { instead, .. }) => write_instead(instead, look, out),
        HunkPlacement::Parts(parts) => parts.iter().try_for_each(|part| write_part(part, already, look, out)),
        _ => Ok(()),
    }
}

/// Writes where one change of a hunk went that was placed by itself.
fn write_part(part: &HunkPlacement, already: &str, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let says = match part {
        HunkPlacement::Placed(placed) => {
            let how = how_placed(placed).unwrap_or_else(|| "as written".to_owned());
            format!("at line {}: {how}", placed.line + 1)
        }
        HunkPlacement::AlreadyIn(line) => format!("at line {}: {already}", line + 1),
        HunkPlacement::Parts(_) | HunkPlacement::PlacementFailure(_) => return Ok(()),
    };
    write!(out, "        ")?;
    look.palette().write(TextRole::Faint, &says, out)?;
    writeln!(out)
}

/// How a hunk was placed, when not just as written.
fn how_placed(placed: &Placed) -> Option<String> {
    let mut parts = Vec::new();
    if placed.offset != 0 {
        let way = if placed.offset > 0 { "lower" } else { "higher" };
        parts.push(format!("{} {way} than written", plural(placed.offset.unsigned_abs(), "line")));
    }
    if placed.differing > 0 {
        let verb = if placed.differing == 1 { "differs" } else { "differ" };
        parts.push(format!("{} of {} {verb}", placed.differing, plural(placed.context, "context line")));
    }
    if placed.in_front {
        parts.push("it expects an empty file, and goes in front of what is there".to_owned());
    }
    (!parts.is_empty()).then(|| parts.join(", "))
}

/// What the hunk expects and what is there, with the very words that differ.
fn write_instead(instead: &[LineMismatch], look: &Look, out: &mut dyn Write) -> io::Result<()> {
    const SHOWN: usize = 6;
    let gutter = Gutter::new(look, 0);
    for row in instead.iter().take(SHOWN) {
        let (expected, found) = (row.expected.as_deref(), row.found.as_ref().map(|(_, line)| line.as_slice()));
        let words = align_words(expected.unwrap_or_default(), found.unwrap_or_default(), &Grain::Word);
        let both = expected.is_some() && found.is_some();
        let sides = [
            (expected, &words.before, "expected", Role::Gone, TextRole::Gone),
            (found, &words.after, "found   ", Role::New, TextRole::New),
        ];
        for (text, parts, word, role, ink) in sides {
            let Some(text) = text else { continue };
            let line = Line {
                number: 0,
                text,
                parts: if both { parts.to_vec() } else { Vec::new() },
                syntax: Vec::new(),
                spelled_out: false,
            };
            let shown = gutter.shown(&line).in_role(role).condensed(look.width.max(80));
            write!(out, "        ")?;
            look.palette().write(ink, word, out)?;
            write!(out, "  ")?;
            look.palette().write_shown(&shown, out)?;
            writeln!(out)?;
            if !look.palette().coloured() && !shown.changed.is_empty() {
                writeln!(out, "                  {}", shown.markers())?;
            }
        }
    }
    if instead.len() > SHOWN {
        writeln!(out, "        and {} more", plural(instead.len() - SHOWN, "line"))?;
    }
    Ok(())
}
