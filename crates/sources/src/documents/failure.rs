//! Why documents cannot be read.

/// Why a document cannot be read whose reader fails without a reason.
pub(super) const DAMAGED: &str = "it is damaged in a way that its reader cannot tell";
/// Why a document that a password protects cannot be read.
pub(super) const PASSWORD: &str = "it is protected by a password";
