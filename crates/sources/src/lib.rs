//! Opens what a side of a comparison may be.

mod file;

pub use file::{Content, OpenError, Origin, open};
