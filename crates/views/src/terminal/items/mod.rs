//! Tables and documents on a terminal: changes one above the other, or the rows of a table in a grid.

mod block;
mod grid;
mod heading;
mod hint;

pub(super) use block::draw_items;
pub(super) use grid::draw_grid;
pub(super) use heading::{is_chosen, role_of, write_heading, write_legend, write_not_shown};
pub use hint::write_kind_hint;
