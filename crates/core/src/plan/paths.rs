//! Names that come from somewhere else and must not lead out of a folder.

use std::path::PathBuf;

/// Why a name is not used.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum UnsafeName {
    /// It is empty, or names the folder itself.
    #[error("it names no file")]
    Empty,
    /// It begins at the root.
    #[error("it is absolute, and only names inside the folder are followed")]
    Absolute,
    /// It leads upwards.
    #[error("it leads out of the folder with `..`")]
    Upwards,
    /// It holds a NUL or another control character.
    #[error("it holds a control character")]
    Control,
    /// It cannot be a path on this system.
    #[error("it cannot be a path on this system")]
    Foreign,
}

/// A relative path inside a folder, made of a name that comes from elsewhere, such as a patch.
///
/// # Errors
/// When the name is empty, absolute, leads upwards, or holds control characters.
///
/// ```
/// use tideline_core::internal::plan::checked_name;
///
/// assert!(checked_name(b"stations/skerry.toml").is_ok());
/// assert!(checked_name(b"../skerry.toml").is_err());
/// ```
pub fn checked_name(name: &[u8]) -> Result<PathBuf, UnsafeName> {
    if name.iter().any(u8::is_ascii_control) {
        return Err(UnsafeName::Control);
    }
    checked_path(name)
}

/// The same for a name that Tideline itself wrote down: one with control characters is a name like any other.
///
/// # Errors
/// When the name is empty, absolute, leads upwards, or holds a NUL.
pub fn checked_path(name: &[u8]) -> Result<PathBuf, UnsafeName> {
    if name.contains(&0) {
        return Err(UnsafeName::Control);
    }
    if name.starts_with(b"/") || name.get(1) == Some(&b':') && name.get(2) == Some(&b'\\') {
        return Err(UnsafeName::Absolute);
    }
    let mut path = PathBuf::new();
    for part in name.split(|&byte| byte == b'/' || cfg!(windows) && byte == b'\\') {
        match part {
            b"" | b"." => {}
            b".." => return Err(UnsafeName::Upwards),
            part => path.push(os_string(part)?),
        }
    }
    if path.as_os_str().is_empty() { Err(UnsafeName::Empty) } else { Ok(path) }
}

#[cfg(unix)]
fn os_string(part: &[u8]) -> Result<std::ffi::OsString, UnsafeName> {
    use std::os::unix::ffi::OsStringExt;
    Ok(std::ffi::OsString::from_vec(part.to_vec()))
}

#[cfg(not(unix))]
fn os_string(part: &[u8]) -> Result<std::ffi::OsString, UnsafeName> {
    std::str::from_utf8(part).map(Into::into).map_err(|_| UnsafeName::Foreign)
}

/// The path that stands for bytes, where they can be one on this system.
pub fn path_of(bytes: &[u8]) -> Option<PathBuf> {
    os_string(bytes).ok().map(PathBuf::from)
}
