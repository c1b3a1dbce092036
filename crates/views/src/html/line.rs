//! One line as a page holds it: its pieces, and of a very long one the surroundings of its changes, with the whole line to be opened.

use askama::Template;
use tideline_core::internal::model::Weight;

use crate::rows::Line;
use crate::shown::{Medium, Piece, Role};
use crate::syntax::Class;

/// A line of one side.
#[derive(Template)]
#[template(path = "line.html")]
pub(super) struct PageLine {
    /// What is shown of it at first.
    pieces: Vec<Piece>,
    whole: Whole,
}

/// What there is of a line beyond what is shown at first.
enum Whole {
    /// Nothing: it is shown whole.
    Shown,
    /// All of it.
    Kept(Vec<Piece>),
    /// It is too long for this report.
    Cut,
}

/// How much is shown of lines.
pub(super) struct LineLimits {
    /// Columns of a line that are shown; of a longer one, the surroundings of its changes.
    pub(super) widest: usize,
    /// Bytes of longer lines that may still be kept whole.
    pub(super) openable: usize,
}

impl LineLimits {
    pub(super) fn line(&mut self, line: &Line<'_>, role: Role) -> PageLine {
        let shown = |columns: usize| {
            let mut shown = line.shown(Medium::Page, columns);
            shown.add_note(false);
            shown.in_role(role)
        };
        let first = shown(self.widest);
        if !first.is_excerpt && first.width <= self.widest {
            return PageLine { pieces: first.pieces, whole: Whole::Shown };
        }
        let whole = if line.text.len() <= self.openable {
            self.openable -= line.text.len();
            Whole::Kept(shown(usize::MAX).pieces)
        } else {
            Whole::Cut
        };
        PageLine { pieces: first.condensed(self.widest).pieces, whole }
    }
}

impl Piece {
    /// The element that it stands in.
    fn tag(&self) -> Option<&'static str> {
        match (self.differs, self.role) {
            (Some(Weight::Counted), Role::Gone) => Some("del"),
            (Some(Weight::Counted), Role::New) => Some("ins"),
            (None, _) if !self.sign && self.tint.is_none_or(|tint| tint == Class::Name) => None,
            _ => Some("span"),
        }
    }

    /// How it looks.
    fn class(&self) -> String {
        let mut classes = Vec::new();
        if self.differs == Some(Weight::Muted) {
            classes.push("light");
        }
        if self.sign {
            classes.push(if self.text == "\t" { "sign tab" } else { "sign" });
        }
        match self.tint {
            Some(Class::Comment) => classes.push("c"),
            Some(Class::Text) => classes.push("t"),
            Some(Class::Keyword) => classes.push("k"),
            Some(Class::Constant) => classes.push("v"),
            Some(Class::Name) | None => {}
        }
        classes.join(" ")
    }
}
