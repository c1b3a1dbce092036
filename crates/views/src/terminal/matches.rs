//! A file with what each rule matches marked and named.

use std::io::{self, Write};

use tideline_core::internal::model::{Segment, Weight};
use tideline_core::internal::rules::{Effect, LineMask, MaskedSpan, MaskedText, Rule};
use tideline_core::internal::text::bytes::line_end;
use tideline_core::internal::text::lines::Lines;

use super::look::Look;
use super::palette::TextRole;
use crate::shown::{DisplayLine, Medium, Role, shown_name};
use crate::wording::grouped;

/// Draws the rules that hold for a file, each with a letter, and the file with those letters under what they match.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_matches(name: &str, masked: &MaskedText<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let text = masked.text();
    let lines = Lines::of(text);
    let masks: Vec<LineMask> =
        (0..lines.len()).map(|line| masked.mask_of(lines.start(line)..lines.start(line + 1))).collect();
    let palette = look.palette();
    palette.write(TextRole::Strong, &shown_name(name, look.plain), out)?;
    let rules = masked.file_rules().rules();
    let hold = if rules.len() == 1 { "rule holds" } else { "rules hold" };
    writeln!(out, "    {} lines, {} {hold}", grouped(lines.len()), rules.len())?;
    for (index, rule) in rules.iter().enumerate() {
        write_rule(index, rule, masked.file_rules().case_rule() == Some(index), &masks, look, out)?;
    }
    writeln!(out)?;
    let digits = lines.len().to_string().len().max(2);
    for (line, mask) in masks.iter().enumerate() {
        let at = lines.start(line);
        write_line(line + 1, &text[at..line_end(text, at)], mask, digits, look, out)?;
    }
    Ok(())
}

/// The letter that stands for a rule.
fn letter(rule: usize) -> char {
    const LETTERS: &[u8] = b"abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ";
    LETTERS.get(rule).map_or('?', |letter| char::from(*letter))
}

fn write_rule(
    index: usize,
    rule: &Rule,
    by_case: bool,
    masks: &[LineMask],
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let spans = |mask: &LineMask| mask.spans.iter().filter(|span| span.rule == index).count();
    let matches: usize = masks.iter().map(spans).sum();
    let gone = masks.iter().filter(|mask| mask.gone == Some(index)).count();
    let verb = match rule.effect() {
        Effect::Ignore => "ignores",
        Effect::Mute => "mutes",
    };
    let written: Vec<&str> = rule.written().collect();
    write!(out, "  {}  ", letter(index))?;
    look.palette().write(TextRole::Strong, &shown_name(rule.name(), look.plain), out)?;
    let what = if written == [rule.name()] { String::new() } else { format!(" {}", written.join(", ")) };
    let what = shown_name(&what, look.plain);
    let plural =
        |count: usize, one: &str, more: &str| format!("{} {}", grouped(count), if count == 1 { one } else { more });
    let mut says = format!(" {verb}{what}: {}", plural(matches, "match", "matches"));
    if gone > 0 {
        says = format!("{says}, {} gone", plural(gone, "whole line", "whole lines"));
    }
    if by_case {
        says = format!(" {verb}{what}: which letters are capital");
    }
    write!(out, "{says}")?;
    look.palette().write(TextRole::Faint, &format!("  ({})", shown_name(rule.declared(), look.plain)), out)?;
    writeln!(out)
}

fn write_line(
    number: usize,
    line: &[u8],
    mask: &LineMask,
    digits: usize,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let palette = look.palette();
    let mut rules: Vec<usize> = mask.spans.iter().map(|span| span.rule).chain(mask.gone).collect();
    rules.sort_unstable();
    rules.dedup();
    let letters: String = rules.iter().map(|rule| letter(*rule)).take(4).collect();
    write!(out, " ")?;
    palette.write(TextRole::Moved, &format!("{letters:4}"), out)?;
    let gap = if line.iter().all(|byte| matches!(byte, b'\n' | b'\r')) && columns_of(mask) == 0 { "" } else { "    " };
    palette.write(TextRole::Faint, &format!("{number:digits$}{gap}"), out)?;
    let mut shown = DisplayLine::new(line, &parts(line, &mask.spans), &[], Medium::of(look.plain)).in_role(Role::Equal);
    let columns: Vec<_> = shown.changed.iter().map(|(range, _)| range.clone()).collect();
    shown.add_note(look.plain);
    palette.write_shown(&shown, out)?;
    writeln!(out)?;
    // Colour says where; which of several rules it was is said by their letters.
    if columns.is_empty() || palette.coloured() && rules.len() == 1 {
        return Ok(());
    }
    let marked = mask.spans.iter().filter(|span| !span.range.is_empty());
    let mut marks = String::new();
    let mut column = 0;
    for (range, span) in columns.into_iter().zip(marked) {
        marks.extend(std::iter::repeat_n(' ', range.start - column));
        marks.extend(std::iter::repeat_n(letter(span.rule), range.len()));
        column = range.end;
    }
    write!(out, "{}", " ".repeat(9 + digits))?;
    palette.write(TextRole::Moved, &marks, out)?;
    writeln!(out)
}

/// How many matches can be read.
fn columns_of(mask: &LineMask) -> usize {
    mask.spans.iter().filter(|span| !span.range.is_empty()).count()
}

/// The line in parts, each match being one.
fn parts(line: &[u8], spans: &[MaskedSpan]) -> Vec<Segment> {
    let mut parts = Vec::with_capacity(2 * spans.len() + 1);
    let mut at = 0;
    for span in spans.iter().filter(|span| !span.range.is_empty()) {
        if span.range.start > at {
            parts.push(Segment::equal(at..span.range.start));
        }
        parts.push(Segment { bytes: span.range.clone(), differs: Some(Weight::Muted) });
        at = span.range.end;
    }
    if at < line.len() {
        parts.push(Segment::equal(at..line.len()));
    }
    parts
}
