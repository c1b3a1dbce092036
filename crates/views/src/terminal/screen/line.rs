//! Lines of a screen, and how rows are laid out in them.

use std::ops::Range;

use anstyle::Style;
use unicode_width::UnicodeWidthStr;

use crate::terminal::look::Layout;

/// A piece of a line of the screen.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Span {
    /// What it says, without anything that a terminal would obey.
    pub text: String,
    /// How it looks.
    pub style: Style,
}

/// A line of the screen.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ScreenLine {
    /// What it says, from the left.
    pub spans: Vec<Span>,
    /// How what is right of that looks.
    pub rest: Style,
}

impl ScreenLine {
    /// Adds a piece.
    pub fn push(&mut self, text: impl Into<String>, style: Style) {
        let text = text.into();
        if !text.is_empty() {
            self.spans.push(Span { text, style });
        }
    }

    /// How many columns it takes.
    pub fn width(&self) -> usize {
        self.spans.iter().map(|span| span.text.width()).sum()
    }
}

/// Finds bytes of a text.
pub type Find<'f> = dyn Fn(&str) -> Vec<Range<usize>> + 'f;

/// How rows are laid out on a screen.
#[derive(Clone, Copy)]
pub struct Frame<'f> {
    /// How lines are laid out.
    pub layout: Layout,
    /// Columns.
    pub width: usize,
    /// Whether long lines are wrapped; else they go on to the right.
    pub wraps: bool,
    /// Columns of each line that are left of the screen.
    pub pan: usize,
    /// Finds what was searched for in a line as it is shown.
    pub hits: Option<&'f Find<'f>>,
}
