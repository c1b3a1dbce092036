//! The layouts, chosen by name.

use super::beside::Beside;
use super::inline::Inline;
use super::layout::Rows;
use super::look::{Layout, Look};
use super::stacked::Stacked;
use crate::view::FileView;

/// The layout that a look asks for.
pub(super) fn rows(view: &FileView<'_>, look: &Look) -> Box<dyn Rows> {
    match look.layout {
        Layout::Stacked => Box::new(Stacked::new(view, look)),
        Layout::Beside => Box::new(Beside::new(view, look)),
        Layout::Inline => Box::new(Inline::new(view, look)),
    }
}
