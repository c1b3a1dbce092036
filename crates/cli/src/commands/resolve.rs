//! What the two sides of a command stand for.

use std::io::ErrorKind;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::plan::path_of;
use tideline_core::internal::tree::{Tree, TreePath};
use tideline_sources::{
    Argument, Content, LookInto, OpenError, OpenedSide, Origin, Side, SideOptions, resolve, resolve_both,
};
use tideline_views::Labels;

use super::pairs::Trees;
use super::progress::with_progress;
use super::sides::Sides;
use crate::settings::{Names, name_sides, name_trees};

/// What two arguments stand for.
pub(crate) enum Resolved {
    /// Two files.
    Files(Box<Sides>),
    /// Two trees.
    Trees(Box<Trees>),
}

/// Opens both sides, and explains what cannot be compared.
pub(crate) fn resolve_sides(
    (before, after): (&Path, &Path),
    options: &SideOptions,
    contents: &ContentOptions,
) -> Result<Resolved> {
    if before.as_os_str() == "-" && after.as_os_str() == "-" {
        bail!("cannot compare standard input with itself: only one side can be `-`");
    }
    // What is missing is told before anything large is read.
    for path in [before, after] {
        let is_path = matches!(Argument::of(path), Argument::Path(_));
        if is_path && Argument::is_revision(before) && path.symlink_metadata().is_err() {
            bail!(
                "cannot open {}: there is no such file or folder; to name a path of both sides, the working folder comes \
                 first, as in `tideline {} . {}`",
                path.display(),
                before.display(),
                path.display()
            );
        }
        if is_path && path.symlink_metadata().is_err_and(|error| error.kind() == ErrorKind::NotFound) {
            return Err(OpenError::Missing { path: path.to_path_buf() }.into());
        }
    }
    let (opened_before, opened_after) =
        with_progress(|progress| resolve_both((before, after), &options.clone().progress(Arc::clone(progress))))?;
    let about = (opened_before.about.clone(), opened_after.about.clone());
    let is_beside_revision = Argument::is_revision(before) || Argument::is_revision(after);
    let own = (opened_before.label.as_deref(), opened_after.label.as_deref());
    match (opened_before.side, opened_after.side) {
        (Side::Tree(tree_before), Side::Tree(tree_after)) => Ok(Resolved::Trees(Box::new(Trees {
            before: tree_before,
            after: tree_after,
            labels: Labels { about, ..with_own(name_trees(before, after), own) },
            contents: contents.clone(),
            on_disk: {
                let is_plain = |path: &Path| is_on_disk(path, options.opens_archives()) && path.is_dir();
                (is_plain(before), is_plain(after))
            },
        }))),
        (Side::File(file_before), Side::File(file_after)) => {
            let named = |path: &Path, name: &Option<String>, other: &Path| match (name, Argument::of(path)) {
                (Some(name), _) => Origin::Path(path.with_file_name(name)),
                // The revision stands where a folder would.
                (None, Argument::Revision { revision, path: inner }) => {
                    let revision = revision.unwrap_or_else(|| "staged".to_owned()).replace('/', "\u{2215}");
                    // Without a path, that of the other side was meant.
                    Origin::Path(Path::new(&revision).join(inner.map_or_else(|| other.to_path_buf(), PathBuf::from)))
                }
                (None, Argument::Path(path)) if is_beside_revision => Origin::Path(Path::new(ON_DISK).join(path)),
                _ => Origin::of(path),
            };
            let mut names =
                name_sides(&named(before, &opened_before.name, after), &named(after, &opened_after.name, before));
            names.labels.about = about;
            Ok(Resolved::Files(Box::new(Sides {
                before: file_before,
                after: file_after,
                names,
                paths: (before.to_path_buf(), after.to_path_buf()),
                on_disk: (
                    is_on_disk(before, opened_before.about.is_some()),
                    is_on_disk(after, opened_after.about.is_some()),
                ),
            })))
        }
        (Side::Tree(_), Side::File(_)) => bail!(folder_against_file(before, after)),
        (Side::File(_), Side::Tree(_)) => bail!(folder_against_file(after, before)),
    }
}

/// What a file of the working folder is called beside one of a revision.
const ON_DISK: &str = "on disk";

/// Whether a path is that of a file whose contents are compared as they are.
fn is_on_disk(path: &Path, is_made: bool) -> bool {
    !is_made && matches!(Argument::of(path), Argument::Path(_))
}

/// Labels with those that sides have of their own.
fn with_own(mut labels: Labels, (before, after): (Option<&str>, Option<&str>)) -> Labels {
    if let Some(before) = before {
        before.clone_into(&mut labels.before);
    }
    if let Some(after) = after {
        after.clone_into(&mut labels.after);
    }
    labels
}

/// Opens two files, and explains what cannot be compared.
pub(crate) fn open_files(before: &Path, after: &Path) -> Result<Sides> {
    let options = SideOptions::default().look_into(LookInto::Nothing);
    match resolve_sides((before, after), &options, &ContentOptions::default())? {
        Resolved::Files(sides) => Ok(*sides),
        Resolved::Trees(_) => {
            bail!("cannot compare {} with {}: both are folders; name a file in each", before.display(), after.display())
        }
    }
}

/// Opens a file of two trees on both sides; on the disk where both trees are folders there.
pub(crate) fn open_in_trees(
    trees: &Trees,
    (before, after): (&Path, &Path),
    (inner_before, inner_after): &(TreePath, TreePath),
) -> Result<Sides> {
    let full = |root: &Path, path: &TreePath| path_of(path).map_or_else(|| root.to_path_buf(), |path| root.join(path));
    let paths = (full(before, inner_before), full(after, inner_after));
    if before.is_dir() && after.is_dir() {
        return open_files(&paths.0, &paths.1);
    }
    let read = |tree: &dyn Tree, path: &TreePath, shown: &Path| {
        let doing = || format!("cannot read {}", shown.display());
        let metadata = tree.metadata(path).ok();
        let contents = tree.contents(path).map_err(anyhow::Error::from).with_context(doing)?;
        Ok::<_, anyhow::Error>(Content::of(contents, metadata.and_then(|metadata| metadata.modified)))
    };
    let labels = trees.labels.clone();
    Ok(Sides {
        before: read(trees.both().0, inner_before, &paths.0)?,
        after: read(trees.both().1, inner_after, &paths.1)?,
        names: Names { name: inner_after.to_text(), labels },
        paths,
        on_disk: (before.is_dir(), after.is_dir()),
    })
}

/// Opens a folder, an archive or a revision as a tree.
pub(crate) fn open_tree(path: &Path, options: &SideOptions) -> Result<OpenedSide> {
    let opened = with_progress(|progress| resolve(path, &options.clone().progress(Arc::clone(progress))))?;
    match &opened.side {
        Side::Tree(_) => Ok(opened),
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
        None if folder.is_file() => "--kind bytes compares both as they are".to_owned(),
        None => "name two files".to_owned(),
    };
    let file = if file.as_os_str() == "-" { "standard input".to_owned() } else { file.display().to_string() };
    let kind = if folder.is_file() { "an archive" } else { "a folder" };
    format!(
        "cannot compare {} with {file}: {} is {kind} and the other is not; {advice}",
        folder.display(),
        folder.display()
    )
}
