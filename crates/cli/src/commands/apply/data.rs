//! `apply` of patches for documents of JSON: RFC 6902, RFC 7396.

use std::io::{self, Write};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, anyhow, bail};
use tideline_core::internal::kinds::data::{DataPatched, apply_json_patch, apply_merge_patch, is_json_patch};
use tideline_core::internal::kinds::{ContentOptions, read_text};
use tideline_core::internal::plan::{Contents, ExpectedState, Fingerprint, Plan, Step};
use tideline_sources::{Origin, open};
use tideline_views::{json, plural, shown_path};

use crate::args::{ApplyArgs, ApplyFormat};
use crate::commands::Outcome;
use crate::commands::print::printing;
use crate::commands::writing::{carry_out, expected_state, in_full, run_and_undo};

/// What became of patches that may be of JSON.
pub(super) enum Tried {
    /// They were, and this came of them.
    Done(Outcome),
    /// They are not; what came from standard input, if that was read.
    NotJson(Option<Vec<u8>>),
}

/// Applies patches of JSON, if these are some.
pub(super) fn run(args: &ApplyArgs) -> Result<Tried> {
    let is_merge = args.format == Some(ApplyFormat::MergePatch);
    let mut patches: Vec<(&PathBuf, Vec<u8>)> = Vec::new();
    for path in &args.patches {
        let content = open(&Origin::of(path))?;
        if !is_merge && !is_json_patch(&content) {
            let is_input = |path: &PathBuf| path.as_os_str() == "-";
            let read = patches.iter().find(|(path, _)| is_input(path)).map(|(_, bytes)| bytes.clone());
            return Ok(Tried::NotJson(read.or_else(|| is_input(path).then(|| content.to_vec()))));
        }
        patches.push((path, content.to_vec()));
    }
    let what = if is_merge { "a merge patch" } else { "a JSON Patch" };
    let Some(into) = args.into.as_deref().filter(|into| !into.is_dir()) else {
        bail!("{what} names no file: say which one it is for, with --into FILE");
    };
    if args.reverse || args.keep_going || args.mark {
        bail!("{what} is put in as a whole: --reverse, --keep-going and --mark are for patches of lines");
    }
    let content = open(&Origin::of(into))?;
    let read = read_text(into.as_os_str().as_encoded_bytes(), &content, true, &ContentOptions::default());
    let (text, written) = read.ok_or_else(|| anyhow!("cannot apply {what} to {}: it is not text", into.display()))?;
    let mut text = text.into_owned();
    let mut operations = 0;
    for (path, patch) in &patches {
        let apply = if is_merge { apply_merge_patch } else { apply_json_patch };
        let DataPatched { text: patched, operations: done } =
            apply(&text, patch).with_context(|| format!("cannot apply {} to {}", path.display(), into.display()))?;
        text = patched;
        operations += done;
    }
    let bytes = written.encoded(&text).ok_or_else(|| {
        anyhow!(
            "cannot write {}: {} lacks letters of what comes in; turn it into UTF-8 first",
            into.display(),
            written.name()
        )
    })?;
    let is_same = bytes == *content;
    let goes_to = args.output.as_deref().unwrap_or(into);
    let run = if args.dry_run || is_same && args.output.is_none() {
        None
    } else {
        let path = in_full(goes_to)?;
        let expected = match &args.output {
            Some(_) => expected_state(&path)?,
            None => ExpectedState::File(Fingerprint::of(&content)),
        };
        let mut steps = vec![Step::write(path.clone(), expected, Contents::Bytes(bytes))];
        if let Some(suffix) = &args.backup {
            let mut copy = path.into_os_string();
            copy.push(suffix);
            steps.push(Step::write(copy.into(), ExpectedState::Nothing, Contents::Bytes(content.to_vec())));
        }
        carry_out(&Plan::of(steps))?
    };
    printing(false, |out| {
        if args.json {
            return json::write_record(&json::run_record(run, run.is_some()), out);
        }
        tell(args, goes_to, (operations, run), out)
    })?;
    Ok(Tried::Done(Outcome::Same))
}

fn tell(args: &ApplyArgs, into: &Path, (operations, run): (usize, Option<u64>), out: &mut dyn Write) -> io::Result<()> {
    let verb = if args.dry_run { "would apply" } else { "applied" };
    write!(out, "{verb} {} to {}", plural(operations, "operation"), shown_path(into))?;
    match run {
        Some(run) => writeln!(out, " {}", run_and_undo(run)),
        None if args.dry_run => writeln!(out, "; nothing was written, this was a trial"),
        None => writeln!(out, ": nothing to write"),
    }
}
