//! Why lines count, are muted or are ignored, in words.

use std::io::{self, Write};
use std::ops::Range;

use tideline_core::internal::kinds::text::{Explanation, Reason};
use tideline_core::internal::model::Weight;
use tideline_core::internal::rules::{Effect, MaskedText, Rule, Verdict};

use super::gutter::Gutter;
use super::heading::write_names;
use super::look::Look;
use super::palette::TextRole;
use crate::marks::Marks;
use crate::pair_view::PairView;
use crate::rows::Line;
use crate::shown::{shown_bytes, shown_name};
use crate::view::{FileView, Title};

/// Draws why some lines count, are muted or are ignored.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_explanations(
    view: &FileView<'_>,
    explanations: &[Explanation],
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    write_names(view.name, view.labels, look, out)?;
    let many = explanations.len() > 1;
    writeln!(out, "{}", if many { format!("{} lines", explanations.len()) } else { "1 line".to_owned() })?;
    let largest =
        explanations.iter().flat_map(|found| [&found.before, &found.after]).flatten().map(|(line, _)| line + 1);
    let gutter = Gutter::new(look, largest.max().unwrap_or(0));
    for explanation in explanations {
        writeln!(out)?;
        write_one(view, explanation, &gutter, look, out)?;
    }
    Ok(())
}

/// Draws how two files are compared, and why so.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_reading(title: &Title<'_>, reading: &str, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    write_names(title.name, title.labels, look, out)?;
    writeln!(out, "{}", shown_name(reading, look.plain))
}

/// Draws why a change of what is no text counts or does not. Says whether there is such a change.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_item_explanation(view: &PairView<'_>, number: usize, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let Some(view) = view.items().filter(|view| (1..=view.len()).contains(&number)) else { return Ok(()) };
    let item = view.item(number - 1);
    let why = |weight: Weight, cause: &Option<String>| match (weight, cause) {
        (Weight::Counted, _) => "counts: no rule and no tolerance puts it aside".to_owned(),
        (Weight::Muted, Some(cause)) => format!("muted: {}", shown_name(cause, look.plain)),
        (Weight::Muted, None) => "muted".to_owned(),
    };
    writeln!(out, "\n  change {number}, {}: {}", shown_name(&item.title, look.plain), why(item.weight, &item.cause))?;
    for edit in item.edits.iter().filter(|edit| item.edits.len() > 1 || edit.weight != item.weight) {
        writeln!(out, "    {}: {}", shown_name(&edit.name, look.plain), why(edit.weight, &edit.cause))?;
    }
    Ok(())
}

fn write_one(
    view: &FileView<'_>,
    explanation: &Explanation,
    gutter: &Gutter,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let line = |label: &str, line: &Option<(usize, Range<usize>)>| {
        line.as_ref().map(|(line, _)| format!("line {} in {}", line + 1, shown_name(label, look.plain)))
    };
    let places = [line(&view.labels.before, &explanation.before), line(&view.labels.after, &explanation.after)];
    let places = places.into_iter().flatten().collect::<Vec<_>>().join(", ");
    let verdict = match explanation.verdict {
        None => "equal, byte for byte",
        Some(Verdict::Counted) => "counts",
        Some(Verdict::Muted) => "muted",
        Some(Verdict::Ignored) => "ignored",
    };
    let change = explanation.change.map(|number| format!(" (change {number})")).unwrap_or_default();
    write!(out, "  {places}: ")?;
    look.palette().write(TextRole::Strong, verdict, out)?;
    writeln!(out, "{change}")?;
    write_lines(view, explanation, gutter, look, out)?;
    let rules = view.before.file_rules().rules();
    for reason in &explanation.reasons {
        write_reason(view, reason, &rules[reason.rule], look, out)?;
    }
    match explanation.verdict {
        Some(Verdict::Counted) if explanation.reasons.iter().any(|reason| reason.differs) => {
            writeln!(out, "    what else differs is put aside by no rule")
        }
        Some(Verdict::Counted) => writeln!(out, "    what differs is put aside by no rule"),
        _ => Ok(()),
    }
}

/// The line, or both, as they stand.
fn write_lines(
    view: &FileView<'_>,
    explanation: &Explanation,
    gutter: &Gutter,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let marks = Marks::of(look.plain);
    let sides = [
        (&explanation.before, view.before, marks.gone, TextRole::Gone),
        (&explanation.after, view.after, marks.new, TextRole::New),
    ];
    for (place, masked, mark, role) in sides {
        let Some((index, bytes)) = place else { continue };
        let line = Line {
            number: index + 1,
            text: &masked.text()[bytes.clone()],
            parts: Vec::new(),
            syntax: Vec::new(),
            spelled_out: false,
        };
        let mut shown = gutter.shown(&line);
        shown.add_note(look.plain);
        write!(out, "    ")?;
        look.palette().write(role, mark, out)?;
        look.palette().write(TextRole::Faint, &format!(" {}  ", index + 1), out)?;
        look.palette().write_shown(&shown.condensed(look.width.max(80)), out)?;
        writeln!(out)?;
    }
    Ok(())
}

/// What a rule masked, and where the rule was declared.
fn write_reason(view: &FileView<'_>, reason: &Reason, rule: &Rule, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let verb = match rule.effect() {
        Effect::Ignore => "ignores",
        Effect::Mute => "mutes",
    };
    write!(out, "    ")?;
    look.palette().write(TextRole::Strong, &shown_name(rule.name(), look.plain), out)?;
    write!(out, " {verb} ")?;
    let (before, after) = texts_of(view, reason, look);
    let label = |label: &str| shown_name(label, look.plain);
    if reason.is_wrapped {
        write!(out, "where lines are broken: the same words stand in other lines")?;
    } else if before.is_empty() && after.is_empty() {
        write!(out, "which letters are capital")?;
    } else if before == after {
        write!(out, "{before} on both sides")?;
    } else {
        let side = |texts: &str, label: String| {
            if texts.is_empty() { format!("nothing in {label}") } else { format!("{texts} in {label}") }
        };
        write!(out, "{}, {}", side(&before, label(&view.labels.before)), side(&after, label(&view.labels.after)))?;
    }
    look.palette().write(TextRole::Faint, &format!("  ({})", shown_name(rule.declared(), look.plain)), out)?;
    writeln!(out)
}

/// The pieces that a rule masked on both sides, quoted; those that are the same are left out where others differ.
fn texts_of(view: &FileView<'_>, reason: &Reason, look: &Look) -> (String, String) {
    const SHOWN: usize = 6;
    let texts = |masked: &MaskedText<'_>, pieces: &[Range<usize>]| -> Vec<String> {
        let quoted = |piece: &Range<usize>| format!("\"{}\"", shown_bytes(&masked.text()[piece.clone()], look.plain));
        pieces.iter().map(quoted).collect()
    };
    let (mut before, mut after) = (texts(view.before, &reason.before), texts(view.after, &reason.after));
    if before.len() == after.len() && before != after {
        let differing = before.into_iter().zip(after).filter(|(one, other)| one != other);
        (before, after) = differing.unzip();
    }
    let joined = |texts: Vec<String>| {
        let more = texts.len().saturating_sub(SHOWN);
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        format!("{}{more}", texts.into_iter().take(SHOWN).collect::<Vec<_>>().join(" "))
    };
    (joined(before), joined(after))
}
