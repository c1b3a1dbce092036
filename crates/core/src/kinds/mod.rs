//! What contents mean, and how they are compared.
//!
//! [`compare`] decides how a pair is compared, and compares it. A new kind is a new arm of [`Comparison`].

pub mod bytes;
mod comparison;
pub mod data;
pub mod document;
mod hint;
pub mod image;
mod kind_options;
mod known;
mod lines_of;
mod number;
mod options;
mod panics;
mod pictured;
mod read;
mod scratch;
mod structured;
pub mod table;
pub mod text;
mod unparsed;
mod values;
mod why;

pub use comparison::{BytesPair, Comparison, TextPair, compare, compare_named};
pub use hint::{KindHint, kind_hint};
pub use kind_options::KindOptions;
pub use number::{Decimal, Tolerance};
pub(crate) use options::KindChosen;
pub use options::{Assignment, ContentOptions, WantedKind};
pub use panics::caught;
pub use pictured::may_show_the_same;
pub use read::{Read, read, read_text};
pub use scratch::{Scratch, ScratchFile};
pub use structured::{DataPair, TablePair, size_of_one};
pub use unparsed::Unparsed;
pub use values::{DATE_SPELLING, NUMBER_SPELLING, value_words};
pub use why::{KindReason, kind_reason};
