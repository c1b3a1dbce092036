//! The two trees of a sync.

use serde::{Deserialize, Serialize};

/// One of the two trees of a sync.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Side {
    /// The tree that is carried from.
    From,
    /// The tree that is carried into.
    Into,
}
