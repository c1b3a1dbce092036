//! `patch` on two files.

use std::cell::Cell;
use std::io::Write;
use std::path::Path;

use anyhow::{Result, bail};
use tideline_core::internal::align::{Bounds, align};
use tideline_core::internal::patch::{FileLabel, PatchOptions, write_file_patch};
use tideline_core::internal::rules::Account;
use tideline_core::internal::tree::TreePath;
use tideline_sources::Content;

use super::common::{in_memory, inputs, stamp, tell_left_out, wanted};
use super::extended::{Version, file_mode, write_versions};
use crate::args::{PatchArgs, PatchFormat};
use crate::commands::Outcome;
use crate::commands::print::printing;
use crate::commands::request::Request;
use crate::commands::sides::Sides;
use crate::commands::writing::write_output;

pub(super) fn run(args: &PatchArgs, request: &Request, sides: &Sides) -> Result<Outcome> {
    let mut account = Account::default();
    let path = sides.type_name().as_bytes();
    let wanted = wanted((&sides.before, &sides.after), path, request, &mut account);
    let is_text = |bytes: &[u8]| request.contents.reads_as_lines(path, bytes);
    let is_text = is_text(&sides.before) && is_text(&wanted);
    if !is_text && args.format == PatchFormat::Unified && *sides.before != *wanted {
        bail!(
            "cannot write a patch of {} and {} in the unified format: they are not both text; `--format extended` carries \
             any contents, and `--kind text` reads them as text",
            args.before.display(),
            args.after.display()
        );
    }
    let options = PatchOptions::default().context(args.context.lines());
    let differs = Cell::new(false);
    let write = |mut out: &mut dyn Write| {
        if args.format == PatchFormat::Extended {
            // Rules say nothing of a file that comes or goes as a whole.
            let after = if is_null(&args.before) { &sides.after } else { &*wanted };
            let versions = (version(args, sides, true, &sides.before), version(args, sides, false, after));
            differs.set(write_versions(versions, (false, is_text), &options, out)?);
            return Ok(());
        }
        let edits = align(&sides.before, &wanted, &Bounds::default());
        differs.set(!edits.is_empty());
        let labels = match &args.labels {
            Some((before, after)) => (FileLabel::new(before.as_str()), FileLabel::new(after.as_str())),
            None => (label(&args.before, &sides.before), label(&args.after, &sides.after)),
        };
        write_file_patch((&labels.0, &labels.1), (&sides.before, &wanted), &edits, &options, &mut out)
    };
    if let Some(path) = &args.output {
        inputs(args).refuse(path)?;
    }
    match &args.output {
        Some(path) => {
            let bytes = in_memory(write)?;
            sides.check()?;
            write_output(path, bytes)?;
        }
        None => printing(false, write)?,
    }
    tell_left_out(&account, request.counted_only);
    sides.check()?;
    Ok(if differs.get() { Outcome::Different } else { Outcome::Same })
}

/// A side in the extended format. Both have the name of the file before: that is the one which the patch changes.
fn version(args: &PatchArgs, sides: &Sides, is_before: bool, contents: &[u8]) -> Version {
    let (path, content) = if is_before { (&args.before, &sides.before) } else { (&args.after, &sides.after) };
    let named = [&args.before, &args.after].into_iter().find(|path| !is_null(path) && path.as_os_str() != "-");
    let file_name = named.and_then(|path| path.file_name());
    let name = file_name.map_or(sides.type_name().as_bytes(), |name| name.as_encoded_bytes());
    let name = match &args.labels {
        Some((before, after)) => if is_before { before } else { after }.as_bytes().to_vec(),
        None => TreePath::from(if is_before { "a" } else { "b" }).join(name).to_vec(),
    };
    let is_there = !is_null(path);
    Version {
        name,
        // What comes through a pipe has no permissions: a file that anyone may read.
        mode: is_there.then(|| file_mode(content.mode().unwrap_or(0o644))),
        contents: is_there.then(|| contents.to_vec()),
    }
}

/// Whether a path stands for no file at all.
fn is_null(path: &Path) -> bool {
    path.as_os_str() == "/dev/null"
}

fn label(path: &Path, content: &Content) -> FileLabel {
    FileLabel::new(path.as_os_str().as_encoded_bytes()).stamp(content.modified().and_then(stamp))
}
