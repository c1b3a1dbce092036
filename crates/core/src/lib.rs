//! The computation behind Tideline, for programs of one's own: what differs between two contents or two trees, and what to do about it.
//! Bytes and options go in, values come out; there are no files, no clock, no environment and no terminal in here.
//!
//! | to | use |
//! |---|---|
//! | compare two contents, or two trees | [`compare`], [`compare_trees`] |
//! | say what does not count, and what is looked at | [`Options`] |
//! | read, apply and write patches | [`patch`] |
//! | carry chosen changes into one side | [`take`] |
//! | bring together what two sides changed | [`merge`] |
//! | bring trees of one's own | [`Tree`] |
//!
//! ```
//! use tideline_core::{Comparison, Form, Options, compare};
//!
//! let options = Options::new().ignore("comments")?;
//! let comparison = compare("gauge.toml", b"every = 60 # s\n", b"every = 30 # seconds\n", &options);
//! let Comparison::Text(texts) = &comparison else { panic!("both sides are text") };
//! assert_eq!(texts.found.changes[0].form, Form::Edited);
//! assert_eq!(comparison.extent().counted, 1);
//! # Ok::<(), tideline_core::OptionError>(())
//! ```
//!
//! Everything else is [`internal`]: it serves the other crates of Tideline, and changes with them.

mod facade;
pub mod internal;

pub use facade::{Merged, OptionError, Options, TakeError, compare, compare_trees, merge, patch, take};
pub use internal::kinds::document::SheetsPair;
pub use internal::kinds::image::ImagePair;
pub use internal::kinds::{BytesPair, Comparison, DataPair, TablePair, TextPair};
pub use internal::merge::TakeInto;
pub use internal::model::data::{DataComparison, NodeChange, NodePlace};
pub use internal::model::image::{Area, ImageComparison, RegionChange};
pub use internal::model::ranges::{BytesComparison, RangeChange};
pub use internal::model::table::{CellChange, ColumnPair, RowChange, TableComparison};
pub use internal::model::{
    Address, Change, Extent, Form, HiddenStretch, Kind, Place, Span, Status, TextComparison, Unit, Weight,
};
pub use internal::rules::{Account, Effect, MaskedText, PutAside};
pub use internal::text::encoding::TextEncoding;
pub use internal::tree::{
    Attribute, Attributes, ContentId, Contents, Entry, EntryMetadata, EntryType, FileContents, LeftOut, Listing,
    MemoryTree, Note, Opened, Pair, Tree, TreeComparison, TreeError, TreeErrorKind, TreePath, Trust,
};

/// The examples of the README run with those of the documentation.
#[cfg(doctest)]
#[doc = include_str!("../README.md")]
struct Readme;
