//! What a terminal can show.

/// How many colours may be used.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Colours {
    /// None; marker lines say what changed.
    #[default]
    None,
    /// The 16 of the terminal's own palette.
    Sixteen,
    /// The 256 of the extended palette.
    Many,
    /// 24-bit colour.
    All,
}

/// The ground that colours must be readable on.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Theme {
    /// A dark ground.
    #[default]
    Dark,
    /// A light ground.
    Light,
}
