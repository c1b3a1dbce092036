//! A file with what each rule matches marked and named.

use std::io::{self, Write};

use tideline_core::model::{Part, Weight};
use tideline_core::rules::{Aside, Effect, Reading, Rule, Seen};
use tideline_core::text::bytes::line_end;
use tideline_core::text::lines::Lines;

use super::look::Look;
use super::palette::Ink;
use crate::shown::{Medium, Role, Shown, shown_name};
use crate::wording::grouped;

/// Draws the rules that hold for a file, each with a letter, and the file with those letters under what they match.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_matches(name: &str, seen: &Seen<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let text = seen.text();
    let lines = Lines::of(text);
    let readings: Vec<Reading> =
        (0..lines.len()).map(|line| seen.read(lines.start(line)..lines.start(line + 1))).collect();
    let palette = look.palette();
    palette.write(Ink::Strong, &shown_name(name, look.plain), out)?;
    let rules = seen.lens().rules();
    let hold = if rules.len() == 1 { "rule holds" } else { "rules hold" };
    writeln!(out, "    {} lines, {} {hold}", grouped(lines.len()), rules.len())?;
    for (index, rule) in rules.iter().enumerate() {
        write_rule(index, rule, seen.lens().case_rule() == Some(index), &readings, look, out)?;
    }
    writeln!(out)?;
    let digits = lines.len().to_string().len().max(2);
    for (line, reading) in readings.iter().enumerate() {
        let at = lines.start(line);
        write_line(line + 1, &text[at..line_end(text, at)], reading, digits, look, out)?;
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
    readings: &[Reading],
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let asides = |reading: &Reading| reading.asides.iter().filter(|aside| aside.rule == index).count();
    let matches: usize = readings.iter().map(asides).sum();
    let gone = readings.iter().filter(|reading| reading.gone == Some(index)).count();
    let verb = match rule.effect() {
        Effect::Ignore => "ignores",
        Effect::Mute => "mutes",
    };
    let written: Vec<&str> = rule.written().collect();
    write!(out, "  {}  ", letter(index))?;
    look.palette().write(Ink::Strong, &shown_name(rule.name(), look.plain), out)?;
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
    look.palette().write(Ink::Faint, &format!("  ({})", shown_name(rule.declared(), look.plain)), out)?;
    writeln!(out)
}

fn write_line(
    number: usize,
    line: &[u8],
    reading: &Reading,
    digits: usize,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let palette = look.palette();
    let mut rules: Vec<usize> = reading.asides.iter().map(|aside| aside.rule).chain(reading.gone).collect();
    rules.sort_unstable();
    rules.dedup();
    let letters: String = rules.iter().map(|rule| letter(*rule)).take(4).collect();
    write!(out, " ")?;
    palette.write(Ink::Moved, &format!("{letters:4}"), out)?;
    let gap =
        if line.iter().all(|byte| matches!(byte, b'\n' | b'\r')) && columns_of(reading) == 0 { "" } else { "    " };
    palette.write(Ink::Faint, &format!("{number:digits$}{gap}"), out)?;
    let mut shown = Shown::new(line, &parts(line, &reading.asides), &[], Medium::of(look.plain)).in_role(Role::Equal);
    let columns: Vec<_> = shown.changed.iter().map(|(range, _)| range.clone()).collect();
    shown.add_note(look.plain);
    palette.write_shown(&shown, out)?;
    writeln!(out)?;
    // Colour says where; which of several rules it was is said by their letters.
    if columns.is_empty() || palette.coloured() && rules.len() == 1 {
        return Ok(());
    }
    let marked = reading.asides.iter().filter(|aside| !aside.range.is_empty());
    let mut marks = String::new();
    let mut column = 0;
    for (range, aside) in columns.into_iter().zip(marked) {
        marks.extend(std::iter::repeat_n(' ', range.start - column));
        marks.extend(std::iter::repeat_n(letter(aside.rule), range.len()));
        column = range.end;
    }
    write!(out, "{}", " ".repeat(9 + digits))?;
    palette.write(Ink::Moved, &marks, out)?;
    writeln!(out)
}

/// How many matches can be seen.
fn columns_of(reading: &Reading) -> usize {
    reading.asides.iter().filter(|aside| !aside.range.is_empty()).count()
}

/// The line in parts, each match being one.
fn parts(line: &[u8], asides: &[Aside]) -> Vec<Part> {
    let mut parts = Vec::with_capacity(2 * asides.len() + 1);
    let mut at = 0;
    for aside in asides.iter().filter(|aside| !aside.range.is_empty()) {
        if aside.range.start > at {
            parts.push(Part::equal(at..aside.range.start));
        }
        parts.push(Part { bytes: aside.range.clone(), differs: Some(Weight::Muted) });
        at = aside.range.end;
    }
    if at < line.len() {
        parts.push(Part::equal(at..line.len()));
    }
    parts
}
