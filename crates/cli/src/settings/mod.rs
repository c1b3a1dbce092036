//! From arguments, environment, configuration and terminal to the options of the core and the views.

mod config;
mod contents;
mod files;
mod labels;
mod labels_of_three;
mod look;
mod read;

pub(crate) use config::{Config, FILE_NAME, KeyChoice, Saved, nearest_file};
pub(crate) use contents::{ON_THE_COMMAND_LINE, content_options, rules};
pub(crate) use files::{side_options, statuses, togethers, tree_options};
pub(crate) use labels::{Names, name_sides, name_trees};
pub(crate) use labels_of_three::{NamesOfThree, name_three};
pub(crate) use look::{grain, grain_of, is_paged, look, look_of_colours};
pub(crate) use read::{encodings, how, kind};
