//! The public face of the crate: few functions over what is in [`internal`](crate::internal).

mod compare;
mod merge;
mod options;
pub mod patch;
mod take;

pub use compare::{compare, compare_trees};
pub use merge::{Merged, merge};
pub use options::{OptionError, Options};
pub use take::{TakeError, take};
