//! How what stands around rows looks.

use ratatui_core::style::Style;
use tideline_views::terminal::Look;

use super::draft::Side;
use super::style::style_of;

/// The styles of what stands around rows.
#[derive(Clone, Debug)]
pub(crate) struct Colours {
    pub(super) gone: Style,
    pub(super) new: Style,
    pub(super) strong: Style,
    pub(super) faint: Style,
    pub(super) trouble: Style,
    pub(super) plain: bool,
    pub(super) marks: (&'static str, &'static str),
}

impl Colours {
    pub(super) fn of(look: &Look) -> Self {
        let styles = look.styles();
        Self {
            gone: style_of(styles.gone),
            new: style_of(styles.new),
            strong: style_of(styles.strong),
            faint: style_of(styles.faint),
            trouble: style_of(styles.trouble),
            plain: styles.plain,
            marks: styles.marks,
        }
    }

    /// A label with the mark of its side.
    pub(super) fn label(&self, label: &str, side: Side) -> String {
        let mark = if side.is_after() { self.marks.1 } else { self.marks.0 };
        format!("{} {mark}", self.shown(label))
    }

    /// Text fit to be shown.
    pub(super) fn shown(&self, text: &str) -> String {
        tideline_views::shown_text(text, self.plain)
    }
}
