//! Three versions merged by what they mean: tables by key, data by path.
//!
//! What one side alone changed is brought together here. What both changed is left to whoever merges lines: three texts in the layout of mine
//! come out, which differ in nothing but that.

mod tables;
mod three;
mod versions;

pub use three::ByKind;
pub(super) use three::Versions;
pub(super) use versions::versions_by_kind;
