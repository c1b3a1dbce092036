//! What comes to a screen: keys, the mouse, and that work in the background is done.

use std::io;
use std::time::Duration;

use crossterm::event::{self, Event};

/// Where events come from.
pub(super) trait Inputs {
    /// The next event, if one comes within a time.
    fn next(&mut self, patience: Duration) -> io::Result<Option<Event>>;
}

/// The terminal.
pub(super) struct Keyboard;

impl Inputs for Keyboard {
    fn next(&mut self, patience: Duration) -> io::Result<Option<Event>> {
        if event::poll(patience)? { event::read().map(Some) } else { Ok(None) }
    }
}
