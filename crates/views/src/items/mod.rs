//! Tables and documents, whose changes are told value by value.

mod data;
mod item;
mod table;
mod view;

pub use data::DataView;
pub(crate) use item::{Item, Value, ValueEdit, Whole};
pub use table::TableView;
pub(crate) use view::{ItemView, strip_of};
