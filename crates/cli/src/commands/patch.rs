//! `patch`: a patch that turns one file into the other.

use std::io::{self, Write};
use std::path::Path;
use std::time::SystemTime;

use anyhow::{Context, Result, bail};
use jiff::{Timestamp, tz::TimeZone};
use tideline_core::align::{Bounds, Edit, align};
use tideline_core::patch::{FileLabel, PatchOptions, write_file_patch};
use tideline_sources::Content;

use super::Outcome;
use super::print::printing;
use super::sides::{Sides, open_files};
use crate::args::PatchArgs;

pub(super) fn run(args: &PatchArgs) -> Result<Outcome> {
    if args.before.is_dir() && args.after.is_dir() {
        return super::tree_patch::run(args);
    }
    let sides = open_files(&args.before, &args.after)?;
    let edits = align(&sides.before, &sides.after, &Bounds::default());
    let labels = match &args.labels {
        Some((before, after)) => (FileLabel::new(before.as_str()), FileLabel::new(after.as_str())),
        None => (label(&args.before, &sides.before), label(&args.after, &sides.after)),
    };
    let options = PatchOptions::default().context(args.context.lines());
    let write = |out: &mut dyn Write| write_patch(&labels, &sides, &edits, &options, out);
    match &args.output {
        Some(path) => write_new_file(path, write)?,
        None => printing(false, write)?,
    }
    Ok(if edits.is_empty() { Outcome::Same } else { Outcome::Different })
}

fn write_patch(
    labels: &(FileLabel, FileLabel),
    sides: &Sides,
    edits: &[Edit],
    options: &PatchOptions,
    mut out: &mut dyn Write,
) -> io::Result<()> {
    write_file_patch((&labels.0, &labels.1), (&sides.before, &sides.after), edits, options, &mut out)
}

fn label(path: &Path, content: &Content) -> FileLabel {
    FileLabel::new(path.as_os_str().as_encoded_bytes()).stamp(content.modified().and_then(stamp))
}

/// A time as the headers of a patch have it: nanoseconds, and the offset of the local time zone.
pub(super) fn stamp(time: SystemTime) -> Option<String> {
    let stamp = Timestamp::try_from(time).ok()?;
    Some(stamp.to_zoned(TimeZone::system()).strftime("%Y-%m-%d %H:%M:%S.%9f %z").to_string())
}

/// Writes a file that must not exist yet: to a temporary file beside it, flushed, then put in place in one step.
pub(super) fn write_new_file(path: &Path, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> Result<()> {
    let doing = || format!("cannot write {}", path.display());
    if path.symlink_metadata().is_ok() {
        bail!("{}: it exists already; remove it first, or choose another name", doing());
    }
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let file = temporary(folder).with_context(doing)?;
    let mut out = io::BufWriter::new(file.as_file());
    write(&mut out).and_then(|()| out.flush()).with_context(doing)?;
    drop(out);
    file.as_file().sync_all().with_context(doing)?;
    file.persist_noclobber(path).map_err(|failed| failed.error).with_context(doing)?;
    Ok(())
}

/// A temporary file is private by default; a result gets the permissions that any new file gets.
fn temporary(folder: &Path) -> io::Result<tempfile::NamedTempFile> {
    let mut builder = tempfile::Builder::new();
    builder.prefix(".tideline-");
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        builder.permissions(std::fs::Permissions::from_mode(0o666));
    }
    builder.tempfile_in(folder)
}
