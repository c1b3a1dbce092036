//! What patches of files and of trees share.

use std::borrow::Cow;
use std::io::{self, Write};
use std::time::SystemTime;

use anyhow::{Context, Result};
use jiff::{Timestamp, tz::TimeZone};
use tideline_core::internal::patch::counted_text;
use tideline_core::internal::rules::{Account, Effect, MaskedText};

use crate::args::PatchArgs;
use crate::commands::request::Request;
use crate::commands::tell;
use crate::commands::writing::Inputs;

/// What a patch must not overwrite; an earlier patch is no part of a side.
pub(super) fn inputs(args: &PatchArgs) -> Inputs<'_> {
    Inputs { paths: vec![&args.before, &args.after], is_earlier: is_patch, command: "patch" }
}

pub(in crate::commands) fn is_patch(bytes: &[u8]) -> bool {
    tideline_core::internal::patch::read_shared_patch(&bytes::Bytes::copy_from_slice(bytes))
        .is_ok_and(|patch| !patch.files.is_empty())
}

/// What a patch turns the side before into: the side after, or as much of it as counts.
pub(super) fn wanted<'b>(
    (before, after): (&'b [u8], &'b [u8]),
    path: &[u8],
    request: &Request,
    account: &mut Account,
) -> Cow<'b, [u8]> {
    let file_rules = request.contents.file_rules(path);
    // Rules are about text.
    let is_text = |bytes| request.contents.reads_as_lines(path, bytes);
    if file_rules.is_clear() || !is_text(before) || !is_text(after) {
        return Cow::Borrowed(after);
    }
    let carried = counted_text(
        &MaskedText::new(before, &file_rules).before(),
        &MaskedText::new(after, &file_rules),
        request.counted_only,
    );
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
            tell(&format!("not in the patch: {word} lines {total}: {parts}"));
        }
    }
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
