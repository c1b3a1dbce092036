//! The marks: phases of the moon, or plain ASCII.

use super::flow::Manner;
use super::palette::Ink;
use super::shown::Role;

/// The marks of a view.
#[derive(Clone, Copy, Debug)]
pub(super) struct Marks {
    pub(super) gone: &'static str,
    pub(super) new: &'static str,
    pub(super) edited: &'static str,
    pub(super) moved: &'static str,
    pub(super) muted: &'static str,
    pub(super) retyped: &'static str,
    pub(super) trouble: &'static str,
    /// Stands between two parts of a heading.
    pub(super) dot: &'static str,
    /// Stands between two numbers of a range.
    pub(super) to: &'static str,
    /// The ground of a strip.
    pub(super) line: &'static str,
}

impl Marks {
    /// The mark of a line that counts nowhere or stands elsewhere, its ink, and the role of its text.
    pub(super) fn of_manner(self, manner: Manner) -> (&'static str, Ink, Role) {
        match manner {
            Manner::Muted => (self.muted, Ink::Faint, Role::Muted),
            Manner::Moved | Manner::Counted => (self.moved, Ink::Moved, Role::Moved),
        }
    }

    pub(super) fn of(plain: bool) -> Self {
        if plain {
            Self {
                gone: "o",
                new: "*",
                edited: "%",
                moved: ">",
                muted: ".",
                retyped: "#",
                trouble: "!",
                dot: "-",
                to: "-",
                line: "-",
            }
        } else {
            Self {
                gone: "○",
                new: "●",
                edited: "◐",
                moved: "↷",
                muted: "◌",
                retyped: "◇",
                trouble: "!",
                dot: "·",
                to: "–",
                line: "─",
            }
        }
    }
}
