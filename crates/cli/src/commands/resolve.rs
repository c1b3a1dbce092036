//! What the two sides of a command stand for.

use std::io::ErrorKind;
use std::path::{Path, PathBuf};

use anyhow::{Result, bail};
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::tree::Tree;
use tideline_sources::{OpenError, Origin, Side, SideOptions, resolve};

use super::pairs::Trees;
use super::sides::Sides;
use crate::args::FilesArgs;
use crate::settings::{name_sides, name_trees, side_options};

/// What two arguments stand for.
pub(crate) enum Resolved {
    /// Two files.
    Files(Box<Sides>),
    /// Two trees.
    Trees(Box<Trees>),
}

/// Opens both sides, and explains what cannot be compared.
pub(crate) fn resolve_both(
    (before, after): (&Path, &Path),
    options: &SideOptions,
    contents: &ContentOptions,
) -> Result<Resolved> {
    let (origin_before, origin_after) = (Origin::of(before), Origin::of(after));
    if origin_before == Origin::StandardInput && origin_after == Origin::StandardInput {
        bail!("cannot compare standard input with itself: only one side can be `-`");
    }
    for path in [before, after] {
        if path.as_os_str() != "-" && path.symlink_metadata().is_err_and(|error| error.kind() == ErrorKind::NotFound) {
            return Err(OpenError::Missing { path: path.to_path_buf() }.into());
        }
    }
    // Standard input is read last: when the other side is a folder, it need not be typed at all.
    let open_last = |last: &Path, other: &Path, opened: &Side| match opened {
        Side::Tree(_) if last.as_os_str() == "-" => bail!(folder_against_file(other, last)),
        _ => Ok(resolve(last, options)?),
    };
    let (side_before, side_after) = if origin_before == Origin::StandardInput {
        let opened = resolve(after, options)?;
        (open_last(before, after, &opened)?, opened)
    } else {
        let opened = resolve(before, options)?;
        let last = open_last(after, before, &opened)?;
        (opened, last)
    };
    match (side_before, side_after) {
        (Side::Tree(tree_before), Side::Tree(tree_after)) => Ok(Resolved::Trees(Box::new(Trees {
            before: tree_before,
            after: tree_after,
            labels: name_trees(before, after),
            contents: contents.clone(),
        }))),
        (Side::File(file_before), Side::File(file_after)) => Ok(Resolved::Files(Box::new(Sides {
            before: file_before,
            after: file_after,
            names: name_sides(&origin_before, &origin_after),
            paths: (before.to_path_buf(), after.to_path_buf()),
        }))),
        (Side::Tree(_), Side::File(_)) => bail!(folder_against_file(before, after)),
        (Side::File(_), Side::Tree(_)) => bail!(folder_against_file(after, before)),
    }
}

/// Opens two files, and explains what cannot be compared.
pub(crate) fn open_files(before: &Path, after: &Path) -> Result<Sides> {
    match resolve_both((before, after), &SideOptions::default(), &ContentOptions::default())? {
        Resolved::Files(sides) => Ok(*sides),
        Resolved::Trees(_) => {
            bail!("cannot compare {} with {}: both are folders; name a file in each", before.display(), after.display())
        }
    }
}

/// Opens a folder as a tree.
pub(crate) fn open_tree(path: &Path, files: &FilesArgs) -> Result<Box<dyn Tree>> {
    match resolve(path, &side_options(files))? {
        Side::Tree(tree) => Ok(tree),
        Side::File(_) => bail!("cannot look into {}: it is a file", path.display()),
    }
}

/// Refuses paths that were named after two files.
pub(crate) fn refuse_paths(paths: &[PathBuf], before: &Path, after: &Path) -> Result<()> {
    let Some(path) = paths.first() else { return Ok(()) };
    let (before, after) = (before.display(), after.display());
    bail!("cannot look for {} in {before} and {after}: paths can follow two folders only", path.display())
}

fn folder_against_file(folder: &Path, file: &Path) -> String {
    let inside = file.file_name().map(|name| folder.join(name)).filter(|path| path.is_file());
    let advice = match inside {
        Some(path) => format!("did you mean {}?", path.display()),
        None => "name two files".to_owned(),
    };
    let file = if file.as_os_str() == "-" { "standard input".to_owned() } else { file.display().to_string() };
    format!(
        "cannot compare {} with {file}: {} is a folder and the other is not; {advice}",
        folder.display(),
        folder.display()
    )
}
