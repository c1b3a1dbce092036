//! What contents mean, and how they are compared.
//!
//! [`compare`] decides how a pair is compared, and compares it. A new kind is a new arm of [`Comparison`].

mod comparison;
mod known;
mod options;
mod read;
pub mod text;

pub use comparison::{BytesPair, Comparison, TextPair, compare, compare_named};
pub use options::{Assignment, ContentOptions};
pub use read::{Read, read, read_text};
