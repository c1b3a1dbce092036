//! From arguments, environment and terminal to the options of the core and the views.

mod labels;
mod look;
mod read;

pub(crate) use labels::{Names, name_sides};
pub(crate) use look::{grain, look};
pub(crate) use read::{Encodings, encodings};
