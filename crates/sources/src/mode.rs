//! Permission bits, where the system has them.

use std::fs::Metadata;

#[cfg(unix)]
pub(crate) fn mode_of(found: &Metadata) -> Option<u32> {
    use std::os::unix::fs::PermissionsExt;
    Some(found.permissions().mode() & 0o7777)
}

#[cfg(not(unix))]
pub(crate) fn mode_of(_: &Metadata) -> Option<u32> {
    None
}
