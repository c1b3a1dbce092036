//! What is known of the entries of an inventory.

use tideline_core::internal::tree::TreeError;

use super::format::Rules;
use crate::hashing::Algorithm;

/// By what the contents of an entry are known, and why they could not be read, if so.
#[derive(Clone, Debug, Default)]
pub(super) struct Hashes(pub(super) Vec<(Algorithm, Vec<u8>)>, pub(super) Option<TreeError>);

/// What was read of an inventory before its entries.
#[derive(Clone, Debug, Default)]
pub struct InventoryHead {
    /// The tree, as it was named; none in a checksum list.
    pub root: Option<Vec<u8>>,
    /// What of the tree was left out.
    pub rules: Rules,
}
