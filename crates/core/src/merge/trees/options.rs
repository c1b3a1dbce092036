//! How trees are merged.

use super::super::three_way::{Marks, MergeOptions, Prefer};
use crate::internal::kinds::ContentOptions;

/// How trees are merged. Unchanging once built.
#[derive(Clone, Debug, Default)]
pub struct TreeMergeOptions {
    /// How the contents of files are read, and the rules that hold for them.
    pub contents: ContentOptions,
    /// How texts are merged.
    pub texts: MergeOptions,
    /// How conflicts in texts are marked.
    pub marks: Marks,
    /// Which side decides conflicts.
    pub prefer: Option<Prefer>,
    /// Whether the merged contents are kept; else only what is told of them.
    pub keeps_results: bool,
}
