//! The layouts, chosen by name.

use super::beside::Beside;
use super::inline::Inline;
use super::look::{Layout, Look};
use super::stacked::Stacked;
use crate::flow::Rows;
use crate::view::FileView;

/// The layout that a look asks for.
pub(super) fn rows<'r>(view: &FileView<'_>, look: &'r Look) -> Box<dyn Rows + 'r> {
    match look.layout {
        Layout::Stacked => Box::new(Stacked::new(view, look)),
        Layout::Beside => Box::new(Beside::new(view, look)),
        Layout::Inline => Box::new(Inline::new(view, look)),
    }
}
