//! The screen of a merge: both sides above, the result below; conflict by conflict, a person decides.

mod draw;
mod file;
mod list;
mod pressed;
mod state;

use std::path::{Path, PathBuf};

use anyhow::{Result, bail};
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::merge::Three;

use super::stage::{Stage, Surface};
use crate::args::ReviewArgs;
use crate::commands::Outcome;
use crate::commands::request::Request;
use crate::commands::versions::{OpenedVersions, open_versions};
use crate::settings::side_options;
use file::{MergedFile, Place};

/// Opens the three versions that are brought together.
pub(super) fn opened(args: &ReviewArgs, base: &Path) -> Result<OpenedVersions> {
    if args.after.as_os_str().is_empty() {
        bail!("cannot bring sides together: name both, after the base");
    }
    let paths = Three::new(base, args.before.as_path(), args.after.as_path());
    let options = side_options(&args.files, &args.sides, args.read.kind);
    let opened = open_versions(paths, &options, &[])?;
    if let OpenedVersions::Trees(trees) = &opened {
        if args.output.is_some() {
            bail!("-o is for files: of folders, each result is saved in {}", args.before.display());
        }
        if !trees.on_disk.mine {
            bail!(
                "cannot save into {}: it is no folder on the disk; `tideline merge -o` makes a new one",
                args.before.display()
            );
        }
    }
    Ok(opened)
}

/// Shows the merge until its reader leaves it.
pub(super) fn show<B: Surface>(
    stage: &mut Stage<'_, B>,
    args: &ReviewArgs,
    request: &Request,
    versions: OpenedVersions,
) -> Result<Outcome> {
    let contents: &ContentOptions = &request.contents;
    match versions {
        OpenedVersions::Trees(trees) => list::show(stage, contents, &trees),
        OpenedVersions::Files(files) => {
            files.check()?;
            let out: PathBuf = args.output.clone().unwrap_or_else(|| args.before.clone());
            let labels = files.names.labels.clone();
            let name = if files.names.name.is_empty() { labels.mine.clone() } else { files.names.name.clone() };
            let place = Place::of(&out, &args.before, &files.contents.mine)?;
            let bytes = files.bytes();
            let Some(merged) = MergedFile::of(&name, bytes, contents) else {
                bail!("cannot show {name}: not all three versions are text; `tideline merge` brings them together");
            };
            Ok(file::show(stage, &merged, (&name, &labels), place)?.outcome)
        }
    }
}
