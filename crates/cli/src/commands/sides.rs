//! Opening the two sides of a command.

use std::fs;
use std::io::ErrorKind;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use tideline_sources::{Content, OpenError, Origin, open};

use crate::settings::{Names, name_sides};

/// Two opened files.
pub(super) struct Sides {
    pub(super) before: Content,
    pub(super) after: Content,
    pub(super) names: Names,
    paths: (PathBuf, PathBuf),
}

impl Sides {
    /// Fails when a side was changed while it was read: what was told of it may never have been so.
    ///
    /// # Errors
    /// When it was.
    pub(super) fn check(&self) -> Result<()> {
        for (content, path) in [(&self.before, &self.paths.0), (&self.after, &self.paths.1)] {
            content.check().with_context(|| format!("cannot tell what is in {}", path.display()))?;
        }
        Ok(())
    }

    /// The name by which rules, sections and syntax know the file.
    pub(super) fn type_name(&self) -> &str {
        if self.names.name.is_empty() { &self.names.labels.after } else { &self.names.name }
    }
}

/// Opens two files, and explains what cannot be compared.
pub(super) fn open_files(before: &Path, after: &Path) -> Result<Sides> {
    let (origin_before, origin_after) = (Origin::of(before), Origin::of(after));
    if origin_before == Origin::StandardInput && origin_after == Origin::StandardInput {
        bail!("cannot compare standard input with itself: only one side can be `-`");
    }
    for path in [before, after] {
        if path.as_os_str() != "-" && path.symlink_metadata().is_err_and(|error| error.kind() == ErrorKind::NotFound) {
            return Err(OpenError::Missing { path: path.to_path_buf() }.into());
        }
    }
    let is_folder = |path: &Path| fs::metadata(path).is_ok_and(|facts| facts.is_dir());
    match (is_folder(before), is_folder(after)) {
        (true, false) => bail!(folder_against_file(before, after)),
        (false, true) => bail!(folder_against_file(after, before)),
        (true, true) => {
            bail!("cannot compare {} with {}: both are folders; name a file in each", before.display(), after.display())
        }
        (false, false) => {}
    }
    let names = name_sides(&origin_before, &origin_after);
    let paths = (before.to_path_buf(), after.to_path_buf());
    Ok(Sides { before: open(&origin_before)?, after: open(&origin_after)?, names, paths })
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
