//! What became of a patch: file by file, and hunk by hunk where not everything stood at its line.

use std::io::{self, Write};
use std::path::PathBuf;

use tideline_core::align::words::align_words;
use tideline_core::patch::{Fit, Hunk, Instead, Misfit, Placed};
use tideline_core::text::words::Grain;

use super::gutter::Gutter;
use super::look::Look;
use super::palette::Ink;
use crate::flow::{Line, one_part};
use crate::marks::Marks;
use crate::shown::{Role, shown_name};
use crate::wording::plural;

/// A file that a patch is about, and what became of it.
#[derive(Clone, Debug)]
pub struct AppliedFile {
    /// Its path below the folder that the patch went into.
    pub path: PathBuf,
    /// What became of it.
    pub how: AppliedHow,
    /// What became of each hunk; none where the hunks were not tried.
    pub fits: Vec<Fit>,
    /// The hunks.
    pub hunks: Vec<Hunk>,
}

/// What became of a file that a patch is about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum AppliedHow {
    /// Its contents or its permissions changed.
    Changed,
    /// It was made.
    Created,
    /// It was removed.
    Deleted,
    /// It went elsewhere; its contents may have changed too.
    Moved(PathBuf),
    /// Everything was in it already.
    AlreadyIn,
    /// It is not there.
    Missing,
}

impl AppliedFile {
    /// Whether all of it has a place or is in already.
    pub fn fits(&self) -> bool {
        self.how != AppliedHow::Missing && !self.fits.iter().any(|fit| matches!(fit, Fit::Misfit(_)))
    }

    /// How many hunks have no place.
    pub fn misfits(&self) -> usize {
        self.fits.iter().filter(|fit| matches!(fit, Fit::Misfit(_))).count()
    }
}

/// Draws what became of the files of a patch that was put in or, in reverse, taken out.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_applied(files: &[AppliedFile], reverse: bool, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    for file in files {
        let already = if reverse { "already taken out" } else { "already applied" };
        write_file(file, already, look, out)?;
        for (index, (hunk, fit)) in file.hunks.iter().zip(&file.fits).enumerate() {
            write_hunk((index + 1, hunk), fit, already, look, out)?;
        }
    }
    Ok(())
}

fn write_file(file: &AppliedFile, already: &str, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let marks = Marks::of(look.plain);
    let misfits = file.misfits();
    let (mark, ink) = match file.how {
        _ if misfits > 0 => (marks.trouble, Ink::Trouble),
        AppliedHow::Missing => (marks.trouble, Ink::Trouble),
        AppliedHow::Changed => (marks.edited, Ink::Strong),
        AppliedHow::Created => (marks.new, Ink::New),
        AppliedHow::Deleted => (marks.gone, Ink::Gone),
        AppliedHow::Moved(_) => (marks.moved, Ink::Moved),
        AppliedHow::AlreadyIn => (marks.muted, Ink::Faint),
    };
    let hunks = plural(file.hunks.len(), "hunk");
    let exact = |fit: &Fit| matches!(fit, Fit::Placed(placed) if placed.offset == 0 && placed.differing == 0);
    let says = match &file.how {
        AppliedHow::Missing => "there is no such file".to_owned(),
        AppliedHow::AlreadyIn => format!("{already}: nothing to do"),
        _ if misfits > 0 => {
            let verb = if misfits == 1 { "does" } else { "do" };
            format!("{misfits} of {hunks} {verb} not fit")
        }
        AppliedHow::Created => "new file".to_owned(),
        AppliedHow::Deleted => "removed".to_owned(),
        AppliedHow::Moved(from) if file.hunks.is_empty() => format!("moved from {}", from.display()),
        AppliedHow::Moved(from) => format!("moved from {}, {hunks}", from.display()),
        AppliedHow::Changed if file.hunks.is_empty() => "permissions".to_owned(),
        AppliedHow::Changed if file.fits.iter().all(exact) => {
            format!("{hunks}, at {}", if file.hunks.len() == 1 { "its line" } else { "their lines" })
        }
        AppliedHow::Changed => hunks,
    };
    write!(out, "  ")?;
    look.palette().write(ink, mark, out)?;
    let path = shown_name(&file.path.to_string_lossy(), look.plain);
    write!(out, " ")?;
    look.palette().write(Ink::Strong, &path, out)?;
    writeln!(out, "    {}", shown_name(&says, look.plain))
}

/// Writes a line about a hunk, unless it stood at its line in every respect.
fn write_hunk(
    (number, hunk): (usize, &Hunk),
    fit: &Fit,
    already: &str,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let marks = Marks::of(look.plain);
    let head = format!("      hunk {number}, line {} of the patch {} ", hunk.line, marks.dot);
    let says = match fit {
        Fit::Placed(placed) => match how_placed(placed) {
            None => return Ok(()),
            Some(how) => format!("at line {}: {how}", placed.line + 1),
        },
        Fit::AlreadyIn(line) => format!("at line {}: {already}", line + 1),
        Fit::Parts(parts) => format!("in {} parts:", parts.len()),
        Fit::Misfit(Misfit::Ambiguous(one, two)) => {
            format!("lines {} and {} are equally near and fit equally well", one + 1, two + 1)
        }
        Fit::Misfit(Misfit::Nowhere { line, instead }) if instead.is_empty() => {
            format!("it belongs at line {}, and the file ends before", line + 1)
        }
        Fit::Misfit(Misfit::Nowhere { line, .. }) => {
            format!("its lines stand nowhere; most like them is line {}, where other lines stand in its way:", line + 1)
        }
    };
    let ink = if matches!(fit, Fit::Misfit(_)) { Ink::Trouble } else { Ink::Faint };
    look.palette().write(Ink::Faint, &head, out)?;
    look.palette().write(ink, &says, out)?;
    writeln!(out)?;
    match fit {
        Fit::Misfit(Misfit::Nowhere { instead, .. }) => write_instead(instead, look, out),
        Fit::Parts(parts) => parts.iter().try_for_each(|part| write_part(part, already, look, out)),
        _ => Ok(()),
    }
}

/// Writes where one change of a hunk went that was placed by itself.
fn write_part(part: &Fit, already: &str, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let says = match part {
        Fit::Placed(placed) => {
            let how = how_placed(placed).unwrap_or_else(|| "as written".to_owned());
            format!("at line {}: {how}", placed.line + 1)
        }
        Fit::AlreadyIn(line) => format!("at line {}: {already}", line + 1),
        Fit::Parts(_) | Fit::Misfit(_) => return Ok(()),
    };
    write!(out, "        ")?;
    look.palette().write(Ink::Faint, &says, out)?;
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
        parts.push(format!("{} {verb}", plural(placed.differing, "context line")));
    }
    (!parts.is_empty()).then(|| parts.join(", "))
}

/// What the hunk expects and what is there, with the very words that differ.
fn write_instead(instead: &[Instead], look: &Look, out: &mut dyn Write) -> io::Result<()> {
    const SHOWN: usize = 6;
    let gutter = Gutter::new(look, 0);
    for row in instead.iter().take(SHOWN) {
        let (expected, found) = (row.expected.as_deref(), row.found.as_ref().map(|(_, line)| line.as_slice()));
        let words = align_words(expected.unwrap_or_default(), found.unwrap_or_default(), &Grain::Word);
        let both = expected.is_some() && found.is_some();
        let sides = [
            (expected, &words.before, "expected", Role::Gone, Ink::Gone),
            (found, &words.after, "found   ", Role::New, Ink::New),
        ];
        for (text, parts, word, role, ink) in sides {
            let Some(text) = text else { continue };
            let whole = one_part(text);
            let line = Line { number: 0, text, tints: Vec::new() };
            let shown =
                gutter.shown(&line, if both { parts } else { &whole }).in_role(role).condensed(look.width.max(80));
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
