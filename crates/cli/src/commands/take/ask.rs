//! Going through changes one by one in the terminal.

use std::io::{self, BufRead, IsTerminal, Write};

use anyhow::{Context, Result, bail};
use tideline_core::internal::merge::{Pick, TakeInto};
use tideline_core::internal::model::Form;
use tideline_views::FileView;
use tideline_views::terminal::{Look, draw_change, draw_heading};

use crate::commands::edited_in_editor;

/// An answer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Answer {
    Take,
    Leave,
    Edit,
    Back,
    Rest,
    Stop,
}

impl Answer {
    /// What was typed: a word or its first letter.
    fn of(typed: &str) -> Option<Self> {
        let words = [
            ("take", Self::Take),
            ("leave", Self::Leave),
            ("edit", Self::Edit),
            ("back", Self::Back),
            ("rest", Self::Rest),
            ("stop", Self::Stop),
        ];
        let typed = typed.trim().to_lowercase();
        words.into_iter().find(|(word, _)| !typed.is_empty() && word.starts_with(&typed)).map(|(_, answer)| answer)
    }
}

/// Asks what is to be done with every change; nothing when the terminal went away before the end.
pub(super) fn picks(view: &FileView<'_>, into: TakeInto, look: &Look) -> Result<Option<Vec<Pick>>> {
    if !io::stdin().is_terminal() || !io::stdout().is_terminal() {
        bail!("cannot ask: --ask needs a terminal to ask in; --changes says it without one");
    }
    let changes = &view.comparison.changes;
    let mut picks = vec![Pick::Leave; changes.len()];
    let mut at = 0;
    let mut out = io::stdout().lock();
    draw_heading(view, look, &mut out).context("cannot write to the terminal")?;
    while at < changes.len() {
        draw_change(view, at, look, &mut out).context("cannot write to the terminal")?;
        match asked(view, at, into, &picks[at], &mut out)? {
            None => return Ok(None),
            Some(Answer::Take) => (picks[at], at) = (Pick::Take, at + 1),
            Some(Answer::Leave) => (picks[at], at) = (Pick::Leave, at + 1),
            Some(Answer::Back) => at = at.saturating_sub(1),
            Some(Answer::Rest) => {
                picks[at..].fill(Pick::Take);
                break;
            }
            Some(Answer::Stop) => {
                picks[at..].fill(Pick::Leave);
                break;
            }
            Some(Answer::Edit) if changes[at].form == Form::Moved => {
                writeln!(out, "  lines that move cannot be edited here: take or leave them")?;
            }
            Some(Answer::Edit) => match edited(view, at, into) {
                Ok(lines) => (picks[at], at) = (Pick::Lines(lines), at + 1),
                Err(error) => writeln!(out, "  ! {error:#}")?,
            },
        }
    }
    writeln!(out)?;
    Ok(Some(picks))
}

/// Asks about one change until the answer is one; nothing at the end of the input.
fn asked(view: &FileView<'_>, at: usize, into: TakeInto, pick: &Pick, out: &mut impl Write) -> Result<Option<Answer>> {
    let (number, all) = (view.comparison.changes[at].number, view.comparison.changes.len());
    let (before, after) = (&view.labels.before, &view.labels.after);
    let (target, source) = if into == TakeInto::Before { (before, after) } else { (after, before) };
    let so_far = match pick {
        Pick::Leave => "",
        Pick::Lines(_) => " (edited so far)",
        _ => " (taken so far)",
    };
    loop {
        writeln!(out, "\nchange {number} of {all}: take it from {source} into {target}?{so_far}")?;
        write!(out, "  t take · l leave · e edit · b back · r take this and the rest · s stop here: ")?;
        out.flush()?;
        let mut typed = String::new();
        if io::stdin().lock().read_line(&mut typed).context("cannot read from the terminal")? == 0 {
            return Ok(None);
        }
        if let Some(answer) = Answer::of(&typed) {
            return Ok(Some(answer));
        }
    }
}

/// Lets the person edit what a change would bring.
fn edited(view: &FileView<'_>, at: usize, into: TakeInto) -> Result<Vec<u8>> {
    let change = &view.comparison.changes[at];
    let lines = match into {
        TakeInto::Before => &view.after.text()[change.after.bytes.clone()],
        TakeInto::After => &view.before.text()[change.before.bytes.clone()],
    };
    let name = view.type_name.rsplit('/').next().unwrap_or("lines");
    edited_in_editor(&format!("change-{}-{name}", change.number), lines, None)
}
