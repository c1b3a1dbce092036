//! Going through changes one by one in the terminal.

use std::env;
use std::fs;
use std::io::{self, BufRead, IsTerminal, Write};
use std::process::Command;

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::{self, ContentOptions, Read};
use tideline_core::internal::merge::{Pick, TakeInto};
use tideline_core::internal::model::Form;
use tideline_views::FileView;
use tideline_views::terminal::{Look, draw_change, draw_heading};

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
    let Some(editor) =
        ["VISUAL", "EDITOR"].into_iter().find_map(|name| env::var(name).ok()).filter(|it| !it.is_empty())
    else {
        bail!("neither VISUAL nor EDITOR says which editor to use");
    };
    let change = &view.comparison.changes[at];
    let lines = match into {
        TakeInto::Before => &view.after.text()[change.after.bytes.clone()],
        TakeInto::After => &view.before.text()[change.before.bytes.clone()],
    };
    let folder = tempfile::tempdir().context("cannot make a folder for the editor")?;
    // The name ends as the file does, so that the editor knows what it is.
    let name = view.type_name.rsplit('/').next().unwrap_or("lines");
    let path = folder.path().join(format!("change-{}-{name}", change.number));
    fs::write(&path, lines).with_context(|| format!("cannot write {}", path.display()))?;
    let mut command = if cfg!(windows) { Command::new("cmd") } else { Command::new("sh") };
    if cfg!(windows) {
        command.arg("/C").arg(format!("{editor} \"{}\"", path.display()));
    } else {
        command.arg("-c").arg(format!("{editor} \"$1\"")).arg("editor").arg(&path);
    }
    let status = command.status().with_context(|| format!("cannot start the editor {editor}"))?;
    if !status.success() {
        bail!("the editor {editor} ended with trouble ({status}): the change is asked about again");
    }
    let bytes = fs::read(&path).with_context(|| format!("cannot read {}", path.display()))?;
    Ok(edited_text(&bytes))
}

/// The text of a file that a person has edited, in UTF-8.
fn edited_text(bytes: &[u8]) -> Vec<u8> {
    match kinds::read(b"", bytes, true, &ContentOptions::default()) {
        Read::Text(text) => text.into_owned(),
        Read::Bytes(bytes) => bytes.to_vec(),
    }
}
