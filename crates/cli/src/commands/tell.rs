//! Standard error: the one way to say something there.

use std::io::{self, Write};

use tideline_views::shown_message;

/// Says on standard error what went wrong.
pub(crate) fn complain(error: &anyhow::Error) {
    tell(&format!("{error:#}"));
}

/// Says something on standard error. Names in it may come from files, and never reach the terminal as they are.
pub(crate) fn tell(text: &str) {
    // With standard error gone nothing can be said.
    let _ = writeln!(io::stderr(), "tideline: {}", shown_message(text));
}
