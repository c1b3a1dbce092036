//! The keys of the screens of a merge.

use anyhow::Result;
use crossterm::event::{Event, KeyEventKind};

use crate::review::bars::Help;
use crate::review::keys::Action;
use crate::review::stage::{Stage, Surface};

/// What the next key does, if it does anything; nothing for other events, and for keys that the list of keys takes while it is shown.
pub(super) fn pressed<B: Surface>(stage: &mut Stage<'_, B>, help: &mut Option<Help>) -> Result<Option<Option<Action>>> {
    let Some(Event::Key(key)) = stage.next(|| false)? else { return Ok(None) };
    if key.kind == KeyEventKind::Release {
        return Ok(None);
    }
    let action = stage.keys.merge.action_of(key);
    if let Some(mut shown) = help.take() {
        if shown.act(action) {
            *help = Some(shown);
        }
        return Ok(None);
    }
    Ok(Some(action))
}
