//! What is made of the comparison of a pair.

use super::Pair;
use crate::internal::kinds::Comparison;

/// What is made of the comparison of each pair of contents that differ, as soon as it is known: in several threads at once. Of the
/// pair, the path is known then.
pub type Inspect<'i> = dyn Fn(&Pair, &Comparison<'_>) -> Vec<u8> + Sync + 'i;
