//! From arguments, environment and terminal to the options of the core and the views.

mod files;
mod labels;
mod look;
mod read;

pub(crate) use files::{folder_tree, tree_options};
pub(crate) use labels::{Names, name_sides, name_trees};
pub(crate) use look::look;
pub(crate) use read::encodings;
