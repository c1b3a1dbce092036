//! What contents mean, and how they are compared.
//!
//! [`compare`] decides how a pair is compared, and compares it. A new kind is a new arm of [`Comparison`].

mod comparison;
pub mod data;
mod hint;
mod kind_options;
mod known;
mod lines_of;
mod number;
mod options;
mod read;
mod scratch;
mod structured;
pub mod table;
pub mod text;
mod values;

pub use comparison::{BytesPair, Comparison, TextPair, compare, compare_named};
pub use hint::{KindHint, kind_hint};
pub use kind_options::KindOptions;
pub use number::{Decimal, Tolerance};
pub(crate) use options::KindChosen;
pub use options::{Assignment, ContentOptions, WantedKind};
pub use read::{Read, read, read_text};
pub use scratch::{Scratch, ScratchFile};
pub use structured::{DataPair, TablePair, Unparsed, size_of_one};
pub use values::{DATE_SPELLING, NUMBER_SPELLING, value_words};
