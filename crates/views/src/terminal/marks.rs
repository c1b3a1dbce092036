//! The marks: phases of the moon, or plain ASCII.

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
