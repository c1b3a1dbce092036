//! The marks: phases of the moon, or plain ASCII.

use tideline_core::internal::model::{Form, Status};

/// The marks of a view.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Marks {
    pub(crate) gone: &'static str,
    pub(crate) new: &'static str,
    pub(crate) edited: &'static str,
    pub(crate) moved: &'static str,
    /// Of a line that is only indented differently.
    pub(crate) indented: &'static str,
    pub(crate) muted: &'static str,
    pub(crate) retyped: &'static str,
    pub(crate) trouble: &'static str,
    pub(crate) conflict: &'static str,
    /// Stands between two parts of a heading.
    pub(crate) dot: &'static str,
    /// Stands between two numbers of a range.
    pub(crate) to: &'static str,
    /// Stands between what was and what is.
    pub(crate) becomes: &'static str,
    /// The ground of a strip.
    pub(crate) line: &'static str,
}

impl Marks {
    /// The mark of a status.
    pub(crate) fn of_status(self, status: Status) -> &'static str {
        match status {
            Status::Same => " ",
            Status::Muted => self.muted,
            Status::Changed => self.edited,
            Status::New => self.new,
            Status::Gone => self.gone,
            Status::Moved => self.moved,
            Status::Retyped => self.retyped,
            Status::Unreadable => self.trouble,
        }
    }

    /// The mark of the form of a change.
    pub(crate) fn of_form(self, form: Form) -> &'static str {
        match form {
            Form::Gone => self.gone,
            Form::New => self.new,
            Form::Edited => self.edited,
            Form::Moved => self.moved,
        }
    }

    pub(crate) fn of(plain: bool) -> Self {
        if plain {
            Self {
                gone: "o",
                new: "*",
                edited: "%",
                moved: "&",
                indented: "i",
                muted: ".",
                retyped: "#",
                trouble: "!",
                conflict: "X",
                dot: "-",
                to: "-",
                becomes: "->",
                line: "-",
            }
        } else {
            Self {
                gone: "○",
                new: "●",
                edited: "◐",
                moved: "↷",
                indented: "⇥",
                muted: "◌",
                retyped: "◇",
                trouble: "!",
                conflict: "◑",
                dot: "·",
                to: "–",
                becomes: "→",
                line: "─",
            }
        }
    }
}
