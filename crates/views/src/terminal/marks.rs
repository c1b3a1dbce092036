//! The marks: phases of the moon, or plain ASCII.

/// The marks of a view.
#[derive(Clone, Copy, Debug)]
pub(super) struct Marks {
    pub(super) gone: &'static str,
    pub(super) new: &'static str,
    /// Stands between two parts of a heading.
    pub(super) dot: &'static str,
    /// Stands between two numbers of a range.
    pub(super) to: &'static str,
}

impl Marks {
    pub(super) fn of(plain: bool) -> Self {
        if plain {
            Self { gone: "o", new: "*", dot: "-", to: "-" }
        } else {
            Self { gone: "○", new: "●", dot: "·", to: "–" }
        }
    }
}
