//! `review`: a full screen on which two files or trees are looked at, and changes carried across.
//!
//! State, keys and drawing are apart: a screen has a state, `act` changes it by what a key means, `draw` draws it into a buffer.

mod bars;
mod colours;
mod compared;
mod draft;
mod file;
mod hand_on;
mod input;
mod keys;
mod merge;
mod prompt;
mod rule_list;
mod rule_view;
mod screen;
mod stage;
mod style;
mod tree;
mod watch;

use std::io::{self, IsTerminal};
use std::path::Path;
use std::sync::Arc;

use anyhow::{Context as _, Result, bail};
use ratatui_core::terminal::Terminal;
use ratatui_crossterm::CrosstermBackend;

use crate::args::{PartArgs, ReviewArgs};
use crate::commands::compare::paths_refused;
use crate::commands::lines::AskedLines;
use crate::commands::remembered::Remembered;
use crate::commands::request::{Asked, Request};
use crate::commands::resolve::Resolved;
use crate::commands::sides::Sides;
use crate::commands::{Outcome, before_signal, listen_to_signals};
use crate::settings::{Config, look};
use compared::{Opened, Origin};
use draft::{Draft, Side};
use file::Looked;
use hand_on::HandOn;
use input::Keyboard;
use keys::AllKeys;
use screen::Screen;
use stage::{Stage, Surface};

pub(crate) fn run(args: &ReviewArgs) -> Result<Outcome> {
    let config = Config::load(&args.what)?;
    let ReviewArgs { before, after, paths, what, read, files, counted_only, sides, .. } = args;
    let part = PartArgs { lines: None, pair: args.pair.clone() };
    let lines = AskedLines { holds: Some(&args.holds), part: Some(&part) };
    let asked = Asked { before, after, paths, what, read, files, sides, counted_only: *counted_only, lines };
    let request = Request::new(&asked, &config)?.lines_only();
    if !io::stdin().is_terminal() || !io::stdout().is_terminal() {
        bail!("cannot show a screen: standard input and output must be a terminal; `tideline compare` prints instead");
    }
    let look = look(&args.look, &config.view)?;
    let keys = AllKeys::new(&config.keys)?;
    let remembered = Remembered::of(before, after)?;
    let merged = args.base.as_deref().map(|base| merge::opened(args, base)).transpose()?;
    let resolved = if merged.is_some() { None } else { Some(request.open()?) };
    before_signal(screen::leave);
    listen_to_signals();
    let entered = Screen::enter().context("cannot show a screen on this terminal")?;
    let terminal =
        Terminal::new(CrosstermBackend::new(io::stdout())).context("cannot show a screen on this terminal")?;
    let mut keyboard = Keyboard::default();
    let mut stage = Stage::new(terminal, &mut keyboard, (look, keys, HandOn::new(args)), remembered, &request);
    let result = match (resolved.as_ref(), merged) {
        (Some(Resolved::Files(sides)), _) => {
            paths_refused(&request)?;
            two_files(&mut stage, &request, sides)
        }
        (Some(Resolved::Trees(trees)), _) => tree::show(&mut stage, &request, trees),
        (None, Some(versions)) => merge::show(&mut stage, args, &request, versions),
        (None, None) => Ok(Outcome::Same),
    };
    drop(stage);
    drop(entered);
    result
}

/// Shows two files.
fn two_files<B: Surface>(stage: &mut Stage<'_, B>, request: &Request, sides: &Sides) -> Result<Outcome> {
    let origin = |path: &Path, on_disk: bool, bytes: &[u8]| Origin {
        path: (on_disk && path.is_file()).then(|| path.to_path_buf()),
        exists: true,
        bytes: Arc::new(bytes.to_vec()),
    };
    let mut opened = Opened {
        name: sides.names.name.clone(),
        type_names: (sides.type_name_before().to_owned(), sides.type_name().to_owned()),
        labels: sides.names.labels.clone(),
        note: None,
        before: origin(&sides.paths.0, sides.on_disk.0, &sides.before),
        after: origin(&sides.paths.1, sides.on_disk.1, &sides.after),
    };
    sides.check()?;
    let mut draft = Draft::new(&opened.before, &opened.after);
    let mut state = stage.file_state();
    let mut differs = false;
    let mut looked =
        Looked { opened: &mut opened, draft: &mut draft, state: &mut state, among: None, differs: &mut differs };
    file::show(stage, &mut looked)?;
    // Edits that were given up are not there.
    let is_edited = [Side::Before, Side::After].into_iter().any(|side| draft.is_edited(side));
    if is_edited {
        let comparison = tideline_core::internal::kinds::compare_named(
            (opened.type_names.0.as_bytes(), opened.type_names.1.as_bytes()),
            (draft.saved(Side::Before), draft.saved(Side::After)),
            &request.contents,
        );
        let same = draft.saved(Side::Before) == draft.saved(Side::After);
        return Ok(Outcome::of(comparison.status(same)));
    }
    Ok(if differs { Outcome::Different } else { Outcome::Same })
}

#[cfg(test)]
mod tests;
