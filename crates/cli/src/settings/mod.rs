//! From arguments, environment and terminal to the options of the core and the views.

mod labels;
mod look;

pub(crate) use labels::{Names, name_sides};
pub(crate) use look::look;
