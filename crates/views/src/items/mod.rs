//! What is no text: changes are told one by one, and each value by value.

mod bytes;
mod data;
mod image;
mod item;
mod sheets;
mod table;
mod view;

pub use bytes::BytesView;
pub use data::DataView;
pub use image::ImageView;
pub(crate) use item::{Item, Value, ValueEdit, Whole};
pub use sheets::SheetsView;
pub use table::TableView;
pub(crate) use view::{ItemView, strip_of};
