//! `patch`: a patch that turns one file into the other.

use std::borrow::Cow;
use std::cell::Cell;
use std::io::{self, Write};
use std::path::Path;
use std::time::SystemTime;

use anyhow::{Context, Result};
use jiff::{Timestamp, tz::TimeZone};
use tideline_core::align::{Bounds, align};
use tideline_core::kinds::ContentOptions;
use tideline_core::patch::{FileLabel, PatchOptions, carried_out, write_file_patch};
use tideline_core::rules::{Account, Effect, Seen};
use tideline_core::tree::join;
use tideline_sources::Content;

use super::Outcome;
use super::extended_patch::{Version, file_mode, write_versions};
use super::print::printing;
use super::sides::{Sides, open_files};
use super::writing::{Inputs, write_output};
use crate::args::{PatchArgs, PatchFormat};
use crate::settings::{Config, content_options};

pub(super) fn run(args: &PatchArgs) -> Result<Outcome> {
    if args.before.is_dir() && args.after.is_dir() {
        return super::tree_patch::run(args);
    }
    let config = Config::load(&args.what)?;
    let contents = content_options(&args.what, &config, (None, None), args.counted_only)?;
    let sides = open_files(&args.before, &args.after)?;
    let mut account = Account::default();
    let path = sides.type_name().as_bytes();
    let wanted = wanted((&sides.before, &sides.after), path, &contents, args.counted_only, &mut account);
    let options = PatchOptions::default().context(args.context.lines());
    let differs = Cell::new(false);
    let write = |mut out: &mut dyn Write| {
        if args.format == PatchFormat::Extended {
            let versions = (version(args, &sides, true), version(args, &sides, false));
            let is_carried = write_versions(versions, false, |_, _| wanted.to_vec(), &options, out)?;
            differs.set(is_carried);
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
    tell_left_out(&account, args.counted_only);
    sides.check()?;
    Ok(if differs.get() { Outcome::Different } else { Outcome::Same })
}

/// What a patch must not overwrite; an earlier patch is no part of a side.
pub(super) fn inputs(args: &PatchArgs) -> Inputs<'_> {
    Inputs { paths: vec![&args.before, &args.after], is_earlier: is_patch, command: "patch" }
}

pub(super) fn is_patch(bytes: &[u8]) -> bool {
    tideline_core::patch::read_shared_patch(&bytes::Bytes::copy_from_slice(bytes))
        .is_ok_and(|patch| !patch.files.is_empty())
}

/// What a patch turns the side before into: the side after, or as much of it as counts.
pub(super) fn wanted<'b>(
    (before, after): (&'b [u8], &'b [u8]),
    path: &[u8],
    contents: &ContentOptions,
    counted_only: bool,
    account: &mut Account,
) -> Cow<'b, [u8]> {
    let lens = contents.lens(path);
    // Rules are about text.
    let is_text = || [before, after].iter().all(|bytes| memchr::memchr(0, bytes).is_none());
    if lens.is_clear() || !is_text() {
        return Cow::Borrowed(after);
    }
    let carried = carried_out(&Seen::new(before, &lens), &Seen::new(after, &lens), counted_only);
    account.add(&carried.account);
    Cow::Owned(carried.text)
}

/// Says on standard error which differences rules kept out of a patch.
pub(super) fn tell_left_out(account: &Account, counted_only: bool) {
    let effects = [(Effect::Mute, "muted"), (Effect::Ignore, "ignored")];
    for (effect, word) in effects.into_iter().filter(|(effect, _)| *effect == Effect::Ignore || counted_only) {
        let parts: Vec<_> = account.by_rule(effect).iter().map(|(rule, lines)| format!("{rule} {lines}")).collect();
        if !parts.is_empty() {
            let (total, parts) = (account.total(effect), parts.join(", "));
            super::tell(&format!("not in the patch: {word} lines {total}: {parts}"));
        }
    }
}

/// A side in the extended format. Both have the name of the file before: that is the one which the patch changes.
fn version(args: &PatchArgs, sides: &Sides, is_before: bool) -> Version {
    let (path, content) = if is_before { (&args.before, &sides.before) } else { (&args.after, &sides.after) };
    let named = [&args.before, &args.after].into_iter().find(|path| !is_null(path) && path.as_os_str() != "-");
    let file_name = named.and_then(|path| path.file_name());
    let name = file_name.map_or(sides.type_name().as_bytes(), |name| name.as_encoded_bytes());
    let name = match &args.labels {
        Some((before, after)) => if is_before { before } else { after }.as_bytes().to_vec(),
        None => join(if is_before { b"a" } else { b"b" }, name),
    };
    let is_there = !is_null(path);
    Version {
        name,
        is_file: is_there,
        // What comes through a pipe has no permissions: a file that anyone may read.
        mode: is_there.then(|| file_mode(content.mode().unwrap_or(0o644))),
        contents: is_there.then(|| content.to_vec()),
    }
}

/// Whether a path stands for no file at all.
fn is_null(path: &Path) -> bool {
    path.as_os_str() == "/dev/null"
}

fn label(path: &Path, content: &Content) -> FileLabel {
    FileLabel::new(path.as_os_str().as_encoded_bytes()).stamp(content.modified().and_then(stamp))
}

/// A time as the headers of a patch have it: nanoseconds, and the offset of the local time zone.
pub(super) fn stamp(time: SystemTime) -> Option<String> {
    let stamp = Timestamp::try_from(time).ok()?;
    Some(stamp.to_zoned(TimeZone::system()).strftime("%Y-%m-%d %H:%M:%S.%9f %z").to_string())
}

/// What would be printed, for a file that an option names.
pub(super) fn in_memory(write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> Result<Vec<u8>> {
    let mut bytes = Vec::new();
    write(&mut bytes).context("cannot make the patch")?;
    Ok(bytes)
}
