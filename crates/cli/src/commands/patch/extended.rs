//! The extended patch format: one file, with the headers that say what the plain format cannot.

use std::io::{self, Write};

use tideline_core::internal::align::{Bounds, align};
use tideline_core::internal::patch::{
    Binary, BinaryContents, FileLabel, FilePatch, Operation, PatchOptions, write_extended, write_file_patch,
};

/// The mode of a symbolic link in a patch.
pub(super) const LINK_MODE: u32 = 0o120_000;

/// A file on one side.
pub(super) struct Version {
    /// Its name in the patch; that of the other side where it is not there.
    pub(super) name: Vec<u8>,
    /// Its type and permissions as the format has them.
    pub(super) mode: Option<u32>,
    /// What it holds, or where a link points; none if there is no such file.
    pub(super) contents: Option<Vec<u8>>,
}

/// The mode of a file in a patch, which knows only whether it can be run.
pub(super) fn file_mode(permissions: u32) -> u32 {
    0o100_000 | if permissions & 0o111 != 0 { 0o755 } else { 0o644 }
}

/// Writes what turns a file into another version of it, line by line if both are to be read as text. Tells whether there is anything to carry.
pub(super) fn write_versions(
    (before, after): (Version, Version),
    (moved, is_text): (bool, bool),
    options: &PatchOptions,
    out: &mut dyn Write,
) -> io::Result<bool> {
    let absent = (before.contents.is_none(), after.contents.is_none());
    let moved = moved && absent == (false, false);
    let modes = (before.mode, after.mode);
    let (old, new) = (before.contents.unwrap_or_default(), after.contents.unwrap_or_default());
    let carried = || Binary::Carried(BinaryContents::Whole(new.clone()), Some(BinaryContents::Whole(old.clone())));
    let file = FilePatch {
        before: Some(before.name),
        after: Some(after.name),
        operation: if moved { Operation::Move } else { Operation::Change },
        modes,
        absent,
        binary: (!is_text && old != new).then(carried),
        ..FilePatch::default()
    };
    let edits = if is_text { align(&old, &new, &Bounds::default()) } else { Vec::new() };
    if edits.is_empty() && file.binary.is_none() && !moved && modes.0 == modes.1 {
        return Ok(false);
    }
    write_extended(&file, &mut { &mut *out })?;
    let label = |name: Option<Vec<u8>>, absent: bool| {
        FileLabel::new(if absent { b"/dev/null".to_vec() } else { name.unwrap_or_default() })
    };
    let labels = (label(file.before, absent.0), label(file.after, absent.1));
    write_file_patch((&labels.0, &labels.1), (&old, &new), &edits, options, &mut { out })?;
    Ok(true)
}
