//! Why files are compared as what they are.

use super::options::ContentOptions;

/// Why files are compared as what they are.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum KindReason {
    /// It was told for all files.
    Told,
    /// It was said for files of these patterns.
    Assigned(Vec<String>),
    /// Their contents tell it.
    Contents,
}

/// Why a file is compared as what it is.
pub fn kind_reason(path: &[u8], options: &ContentOptions) -> KindReason {
    if options.is_told() {
        return KindReason::Told;
    }
    match options.patterns_of(path) {
        Some(patterns) => KindReason::Assigned(patterns.to_vec()),
        None => KindReason::Contents,
    }
}
