//! The layouts, chosen by name.

use super::beside::Beside;
use super::inline::Inline;
use super::layout::Rows;
use super::look::{Layout, Look};
use super::stacked::Stacked;
use crate::view::FileView;

/// The layout that a look asks for, for rows of which some may stand under one heading.
pub(super) fn rows(view: &FileView<'_>, look: &Look, is_grouped: bool) -> Box<dyn Rows> {
    let is_grouped = is_grouped && look.context.lines() > 0;
    match look.layout {
        Layout::Stacked => Box::new(Stacked::new(view, look, is_grouped)),
        Layout::Beside => Box::new(Beside::new(view, look, is_grouped)),
        Layout::Inline => Box::new(Inline::new(view, look, is_grouped)),
    }
}
