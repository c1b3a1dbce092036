//! Draws a comparison onto any writer.
//!
//! [`terminal`] draws for people: rows of styled text, in 24-bit colour, in fewer colours, or in none. [`json`] writes records for programs,
//! [`html`] pages for a browser, [`markdown`] text for a review or a wiki.
//! What is drawn is a [`FileView`] or a [`TreeView`]; both know nothing of how.

mod excerpt;
mod gap;
mod groups;
mod hex;
pub mod html;
mod items;
pub mod json;
mod line_pair;
pub mod markdown;
mod marks;
mod muted_run;
mod pair_view;
mod pictures;
pub mod report;
mod rows;
mod shortened;
mod shown;
mod strip;
mod syntax;
pub mod terminal;
mod three;
mod view;
mod wording;
mod wrapping;

pub use items::{BytesView, DataView, ImageView, SheetsView, TableView};
pub use pair_view::PairView;
pub use pictures::beside_as_png;
pub use shown::{shown_message, shown_path, shown_text};
pub use syntax::knows_syntax;
pub use three::{MergeView, MergedTreeView};
pub use view::{Context, FileView, Labels, Syntax, Title, TreeView};
pub use wording::change::changes_in_words;
pub use wording::document::document_line;
pub use wording::encodings::{encoding_note, unparsed_in_words};
pub use wording::merge::{counts_in_words, tree_clashes, tree_counts_in_words, value_in_words};
pub use wording::reading::reading_in_words;
pub use wording::section::sections_in_words;
pub use wording::sync::plain_reason;
pub use wording::tree::{note, notes_on_what_is_hidden, tree_in_words};
pub use wording::{bytes_in_words, plural};
