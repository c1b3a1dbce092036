//! Bytes: ranges that differ, whatever they mean.

mod compare;
mod format;

pub(super) use compare::compare_bytes;
pub use format::format_of;
