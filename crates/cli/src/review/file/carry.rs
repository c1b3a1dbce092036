//! Changes that are carried across, lines that are edited, and patches of what is chosen.

use std::collections::BTreeSet;

use anyhow::Result;
use regex::Regex;
use tideline_core::internal::kinds::{self, TextPair};
use tideline_core::internal::merge::{Pick, TakeInto, take};
use tideline_views::plural;
use tideline_views::terminal::screen::FileScreen;

use super::cursor::{NO_CHANGE, line_at_cursor};
use super::find::{self, Way};
use super::looked::{Looked, Then};
use super::save;
use super::state::Asked;
use crate::review::draft::Side;
use crate::review::prompt::Prompt;
use crate::review::stage::{Stage, Surface};

/// Carries the change at the cursor, or the chosen lines of it, into a side.
pub(super) fn carry(
    looked: &mut Looked<'_>,
    (texts, screen): (&TextPair<'_>, &mut FileScreen<'_>),
    into: Side,
) -> Then {
    if is_refused(looked, into) {
        return Then::Stay;
    }
    let comparison = screen.view().comparison;
    let mut picks = vec![Pick::Leave; comparison.changes.len()];
    let (from_label, into_label) = (looked.label(into.other()).to_owned(), looked.label(into).to_owned());
    let told = match looked.state.chosen() {
        None => {
            let (above, below) = screen.places_at(looked.state.cursor);
            let Some(place) = above.filter(|_| above == below) else {
                looked.state.message = NO_CHANGE.to_owned();
                return Then::Stay;
            };
            let change = comparison.places[place].change;
            picks[change] = Pick::Take;
            format!("change {} of {from_label} carried into {into_label}", comparison.changes[change].number)
        }
        Some((first, last)) => {
            let mut count = 0;
            let mut at = Some(first);
            while let Some(row) = at.filter(|row| *row <= last) {
                if let Some(lines) = screen.lines_of(row)
                    && let Some(place) = lines.place
                {
                    let pick = &mut picks[comparison.places[place].change];
                    if !matches!(pick, Pick::Rows { .. }) {
                        *pick = Pick::Rows { before: BTreeSet::new(), after: BTreeSet::new() };
                    }
                    if let Pick::Rows { before, after } = pick {
                        before.extend(lines.before);
                        after.extend(lines.after);
                        count += 1;
                    }
                }
                at = screen.after(row);
            }
            if count == 0 {
                looked.state.message = "none of the chosen lines is in a change".to_owned();
                return Then::Stay;
            }
            format!("{} of {from_label} carried into {into_label}", plural(count, "chosen row"))
        }
    };
    let target = if into.is_after() { TakeInto::After } else { TakeInto::Before };
    let text = take((&texts.before, &texts.after), &texts.found, target, &picks);
    let line = line_at_cursor(looked.state, screen);
    finish(looked, texts, (into, &text), &told, line)
}

/// Refuses to edit a side that could not be saved.
fn is_refused(looked: &mut Looked<'_>, side: Side) -> bool {
    let is_refused = !looked.can_be_written(side);
    if is_refused {
        looked.state.message = looked.refusal(side);
    }
    is_refused
}

/// Makes a new text of a side a pending edit.
fn finish(
    looked: &mut Looked<'_>,
    texts: &TextPair<'_>,
    (side, text): (Side, &[u8]),
    told: &str,
    line: Option<(usize, Side)>,
) -> Then {
    match save::encoded(looked, texts, side, text) {
        Err(reason) => {
            looked.state.message = reason;
            Then::Stay
        }
        Ok(bytes) => {
            if !looked.draft.edit(side, bytes, told) {
                looked.state.message = "that changes nothing".to_owned();
                return Then::Stay;
            }
            looked.state.chosen_from = None;
            looked.state.message = format!("{told}; not saved yet");
            looked.state.stays_at = line;
            Then::Compare
        }
    }
}

/// What a rule with a pattern would put aside in this file, in words.
pub(super) fn would_put_aside<B: Surface>(
    stage: &Stage<'_, B>,
    looked: &Looked<'_>,
    texts: &TextPair<'_>,
    pattern: &str,
) -> Result<String, String> {
    let mut rules = stage.rules.clone();
    rules.add_pattern(pattern)?;
    let options = rules.applied(&stage.options());
    let names = (looked.opened.type_names.0.as_bytes(), looked.opened.type_names.1.as_bytes());
    let both = (&***looked.draft.text(Side::Before), &***looked.draft.text(Side::After));
    let found = kinds::compare_named(names, both, &options);
    let (all, left) = (texts.found.extent().counted, found.extent().counted);
    let lines = found
        .account()
        .parts()
        .iter()
        .filter(|part| part.rule == format!("/{}/", pattern.replace('/', "\\/")))
        .map(|part| part.lines)
        .sum();
    Ok(format!("it would mute {} here: {} that count, now {left}", plural(lines, "line"), plural(all, "change")))
}

/// Writes a report of the file, as it is on the disk.
pub(super) fn report<B: Surface>(stage: &mut Stage<'_, B>, looked: &Looked<'_>, output: &str) -> Result<String> {
    if looked.draft.pending() > 0 {
        return Ok("a report is made of what is on the disk: save first".to_owned());
    }
    let path = looked.among.is_some().then_some(looked.opened.name.as_str());
    Ok(stage.hand_on.write(path, false, output))
}

/// The changes that the chosen rows are in, or the one at the cursor, whole.
fn chosen_changes(looked: &Looked<'_>, screen: &mut FileScreen<'_>) -> Result<Vec<Pick>, String> {
    let comparison = screen.view().comparison;
    let mut picks = vec![Pick::Leave; comparison.changes.len()];
    let (first, last) = looked.state.chosen().unwrap_or((looked.state.cursor, looked.state.cursor));
    let mut at = Some(first);
    while let Some(row) = at.filter(|row| *row <= last) {
        if let Some(place) = screen.lines_of(row).and_then(|lines| lines.place) {
            picks[comparison.places[place].change] = Pick::Take;
        }
        at = screen.after(row);
    }
    if picks.contains(&Pick::Take) { Ok(picks) } else { Err(NO_CHANGE.to_owned()) }
}

/// Begins to edit the line at the cursor.
pub(super) fn ask_for_line(looked: &mut Looked<'_>, texts: &TextPair<'_>, screen: &mut FileScreen<'_>) {
    let side = looked.state.side;
    if is_refused(looked, side) {
        return;
    }
    let lines = screen.lines_of(looked.state.cursor);
    let line = lines.and_then(|lines| if side.is_after() { lines.after } else { lines.before });
    let Some(line) = line else {
        looked.state.message =
            format!("{} has no line here; tab makes the other side the one at hand", looked.label(side));
        return;
    };
    match std::str::from_utf8(line_text(texts, screen, (line, side))) {
        Ok(text) if text.chars().all(|letter| !letter.is_control() || letter == '\t') => {
            looked.state.prompt = Some((Asked::Edit { line, side }, Prompt::of(text)));
        }
        _ => looked.state.message = "this line holds what cannot be typed; E opens the editor".to_owned(),
    }
}

/// A line of a side without its line end.
fn line_text<'t>(texts: &'t TextPair<'_>, screen: &FileScreen<'_>, (line, side): (usize, Side)) -> &'t [u8] {
    let text = if side.is_after() { texts.after.text() } else { texts.before.text() };
    let start = screen.start_of_line(line, side.is_after());
    let end = text[start..].iter().position(|&byte| byte == b'\n').map_or(text.len(), |end| start + end);
    text[start..end].strip_suffix(b"\r").unwrap_or(&text[start..end])
}

/// Does what a line was typed for.
pub(super) fn done(
    looked: &mut Looked<'_>,
    (texts, screen): (&TextPair<'_>, &mut FileScreen<'_>),
    asked: Asked,
    typed: &str,
) -> Then {
    match asked {
        Asked::Find => {
            if !typed.is_empty() {
                match Regex::new(typed) {
                    Ok(regex) => looked.state.found = Some(regex),
                    Err(error) => {
                        let reason = error.to_string();
                        let reason = reason.lines().last().unwrap_or_default();
                        looked.state.message = format!("cannot search for {typed}: {reason}");
                        return Then::Stay;
                    }
                }
            }
            find::go(looked.state, texts, screen, Way::Forwards);
            Then::Stay
        }
        Asked::Edit { line, side } => {
            let text = if side.is_after() { texts.after.text() } else { texts.before.text() };
            let old = line_text(texts, screen, (line, side));
            let start = screen.start_of_line(line, side.is_after());
            let new = [&text[..start], typed.as_bytes(), &text[start + old.len()..]].concat();
            let told = format!("line {} of {} edited", line + 1, looked.label(side));
            finish(looked, texts, (side, &new), &told, Some((line, side)))
        }
        Asked::SaveAs => {
            save::save_as(looked, typed);
            Then::Stay
        }
        Asked::HandOn | Asked::HandOnFile => {
            let comparison = screen.view().comparison;
            let picks = match asked {
                Asked::HandOnFile => Ok(vec![Pick::Take; comparison.changes.len()]),
                _ => chosen_changes(looked, screen),
            };
            looked.state.message = match picks {
                Err(reason) => reason,
                Ok(picks) => save::write_patch(looked, texts, &picks, typed),
            };
            Then::Stay
        }
        Asked::Leave | Asked::Note { .. } => Then::Stay,
    }
}
