//! Why documents cannot be read.

/// Why a document that a password protects cannot be read.
pub(super) const PASSWORD: &str = "it is protected by a password";
