//! Three versions of a file.

use std::fs;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::merge::{
    FileMerge, MergedText, MergedValue, Prefer, Resolution, Three, Together, ValueConflict, WholeMerge, merge_files,
    suffix_beside,
};
use tideline_core::internal::plan::{Contents, ExpectedState, FileAttributes, Fingerprint, Plan, Step};
use tideline_views::json::{self, merge as records};
use tideline_views::terminal::draw_merge;
use tideline_views::{MergeView, counts_in_words, plural, shown_path, value_in_words};

use super::options::{marks, options, prefer};
use super::told::{by_kind_in_words, left, notes};
use crate::args::MergeArgs;
use crate::commands::print::printing;
use crate::commands::unused::tell_unused;
use crate::commands::versions::FileVersions;
use crate::commands::writing::{carry_out, expected_state, in_full, run_and_undo};
use crate::commands::{Outcome, tell};
use crate::settings::{Config, look};

/// What is to be written and said.
struct Merged {
    /// The result; nothing where both changed what is not text.
    bytes: Option<Vec<u8>>,
    /// What is left to decide, a sentence each.
    left: Vec<String>,
    /// How many conflicts the preferred side decided, in words, if there were any.
    decided: Option<String>,
    /// What happened, in words.
    counts: String,
    mode: Option<u32>,
}

pub(super) fn run(
    args: &MergeArgs,
    config: &Config,
    contents: &ContentOptions,
    versions: &FileVersions,
) -> Result<Outcome> {
    let type_name = type_name(args, versions);
    let merge = merge_files(type_name.as_bytes(), versions.bytes(), contents, &options(args));
    let modes = MergedValue::of(versions.contents.as_ref().map(|content| content.mode()));
    versions.check()?;
    if args.list || args.json && args.output.is_none() {
        return show(args, config, versions, &type_name, &merge, modes);
    }
    let target = args.output.as_deref().map(|path| Target::of(path, versions)).transpose()?;
    let merged = match &merge {
        FileMerge::Text(text) => of_text(args, versions, text, modes)?,
        FileMerge::Whole(whole) => of_whole(args, versions, *whole, modes),
    };
    let is_whole_conflict = merged.bytes.is_none();
    let outcome = if merged.left.is_empty() { Outcome::Same } else { Outcome::Different };
    if let FileMerge::Text(text) = &merge {
        tell_unused(contents.all_rules(), &text.merge.account);
        notes(text, &versions.names.labels).iter().for_each(|note| tell(&format!("note: {note}")));
    }
    merged.decided.iter().for_each(|decided| tell(&format!("note: {decided}")));
    let Some(target) = target else {
        if let Some(bytes) = &merged.bytes
            && !args.dry_run
        {
            printing(false, |out| out.write_all(bytes))?;
        }
        if args.dry_run {
            printing(false, |out| writeln!(out, "{}", merged.counts))?;
        }
        merged.left.iter().for_each(|left| tell(left));
        if is_whole_conflict {
            tell("nothing is printed: with -o OUT, both versions are written beside OUT");
        }
        return Ok(outcome);
    };
    let run = if args.dry_run { None } else { target.write(args, versions, &merged)? };
    printing(false, |out| {
        if args.json {
            return json::write_record(&json::run_record(run, run.is_some()), out);
        }
        let shown = shown_path(target.shown);
        let did = match (run, args.dry_run) {
            (Some(run), _) => format!(" {}", run_and_undo(run)),
            (None, true) => "; nothing was written, this was a trial".to_owned(),
            (None, false) => ": nothing to write".to_owned(),
        };
        let verb = match (is_whole_conflict, args.dry_run) {
            (true, true) => "would not be merged",
            (true, false) => "not merged",
            (false, true) => "would merge",
            (false, false) => "merged",
        };
        writeln!(out, "{verb} into {shown}: {}{did}", merged.counts)
    })?;
    merged.left.iter().for_each(|left| tell(&format!("{}: {left}", shown_path(target.shown))));
    Ok(outcome)
}

/// The name by which rules know the file.
fn type_name(args: &MergeArgs, versions: &FileVersions) -> String {
    match &args.name {
        Some(name) => name.to_string_lossy().into_owned(),
        None if versions.names.name.is_empty() => {
            versions.paths.mine.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default()
        }
        None => versions.names.name.clone(),
    }
}

/// Prints what each side changed, or only the conflicts.
fn show(
    args: &MergeArgs,
    config: &Config,
    versions: &FileVersions,
    type_name: &str,
    merge: &FileMerge<'_>,
    modes: MergedValue<Option<u32>>,
) -> Result<Outcome> {
    let labels = &versions.names.labels;
    let text = match merge {
        FileMerge::Text(text) => text,
        FileMerge::Whole(whole) => return show_whole(args, labels, *whole),
    };
    let values = values(text, modes);
    let told: Vec<String> = values.iter().map(|value| value_in_words(value, labels)).collect();
    let only = [Together::Conflict];
    let note = (!told.is_empty()).then(|| told.join(", "));
    let view = MergeView {
        name: &versions.names.name,
        type_name,
        labels,
        note: note.as_deref(),
        merge: &text.merge,
        only: args.list.then_some(&only),
        counted_only: false,
    };
    let look = look(&args.look(), &config.view)?;
    printing(false, |out| {
        if args.json {
            return records::write_texts(&view, told, prefer(args).is_some(), out);
        }
        draw_merge(&view, &look, out)
    })?;
    let is_open = text.conflicts() > 0 || !values.is_empty();
    Ok(if is_open && args.prefer.is_none() { Outcome::Different } else { Outcome::Same })
}

/// Prints what becomes of what is not text.
fn show_whole(args: &MergeArgs, labels: &Three<String>, whole: WholeMerge) -> Result<Outcome> {
    let said = whole_in_words(whole, labels);
    printing(false, |out| {
        if args.json {
            return records::write_whole(labels, said, prefer(args).is_some(), out);
        }
        writeln!(out, "{said}")
    })?;
    let is_open = whole == WholeMerge::Conflict && args.prefer.is_none();
    Ok(if is_open { Outcome::Different } else { Outcome::Same })
}

/// What the sides disagree on besides the lines.
fn values(text: &MergedText<'_>, modes: MergedValue<Option<u32>>) -> Vec<ValueConflict> {
    let mut values = text.value_conflicts();
    if let MergedValue::Conflict(Some(mine), Some(theirs)) = modes {
        values.push(ValueConflict::Mode(mine, theirs));
    }
    values
}

fn of_text(
    args: &MergeArgs,
    versions: &FileVersions,
    text: &MergedText<'_>,
    modes: MergedValue<Option<u32>>,
) -> Result<Merged> {
    let labels = &versions.names.labels;
    let conflicts = text.merge.conflicts().count();
    let values = values(text, modes);
    let result = match prefer(args) {
        Some(Prefer::Mine) => text.merge.resolved(|_| Resolution::Mine),
        Some(Prefer::Theirs) => text.merge.resolved(|_| Resolution::Theirs),
        None => text.merge.marked(&marks(args, labels)),
    };
    let left = if args.prefer.is_some() { Vec::new() } else { left(&text.merge, &values, &result, labels) };
    let bytes = text.encoded(&result).with_context(|| {
        format!(
            "cannot merge {}: {} lacks letters of what goes together; turn the files into UTF-8 first",
            versions.paths.mine.display(),
            text.written_in().name()
        )
    })?;
    let counts = match by_kind_in_words(text, labels) {
        Some(by_kind) if text.merge.regions.is_empty() => by_kind,
        Some(by_kind) => format!("{by_kind}; {}", counts_in_words(text.merge.regions.iter(), labels)),
        None => counts_in_words(text.merge.regions.iter(), labels),
    };
    let decided = conflicts + values.len();
    let decided = prefer(args).filter(|_| decided > 0).map(|side| {
        let side = if side == Prefer::Mine { &labels.mine } else { &labels.theirs };
        format!("{} decided for {side}", plural(decided, "conflict"))
    });
    Ok(Merged { bytes: Some(bytes), left, decided, counts, mode: modes.chosen(prefer(args)) })
}

fn of_whole(args: &MergeArgs, versions: &FileVersions, whole: WholeMerge, modes: MergedValue<Option<u32>>) -> Merged {
    let labels = &versions.names.labels;
    let bytes = versions.bytes();
    let counts = whole_in_words(whole, labels);
    let mode = modes.chosen(prefer(args));
    let (bytes, left) = match (whole, prefer(args)) {
        (WholeMerge::Mine | WholeMerge::Alike, _) | (WholeMerge::Conflict, Some(Prefer::Mine)) => {
            (Some(bytes.mine.to_vec()), Vec::new())
        }
        (WholeMerge::Theirs, _) | (WholeMerge::Conflict, Some(Prefer::Theirs)) => {
            (Some(bytes.theirs.to_vec()), Vec::new())
        }
        (WholeMerge::Conflict, None) => (None, vec![counts.clone()]),
    };
    let decided = args.prefer.filter(|_| whole == WholeMerge::Conflict).map(|_| "1 conflict decided".to_owned());
    Merged { bytes, left, decided, counts, mode }
}

fn whole_in_words(whole: WholeMerge, labels: &Three<String>) -> String {
    let Three { mine, theirs, .. } = labels;
    match whole {
        WholeMerge::Mine => format!("not text: {theirs} changed nothing, that of {mine} is taken"),
        WholeMerge::Theirs => format!("not text: {mine} changed nothing, that of {theirs} is taken"),
        WholeMerge::Alike => format!("not text: {mine} and {theirs} are the same"),
        WholeMerge::Conflict => format!("not text, and both {mine} and {theirs} changed it"),
    }
}

/// Where the result goes.
struct Target<'t> {
    path: PathBuf,
    shown: &'t Path,
    /// What stands there.
    expected: ExpectedState,
    /// What it holds now, if that is one of the versions.
    now: Option<(Vec<u8>, Option<u32>)>,
}

impl<'t> Target<'t> {
    fn of(output: &'t Path, versions: &FileVersions) -> Result<Self> {
        let path = in_full(output)?;
        if path.is_dir() {
            bail!("cannot write {}: it is a folder, and the sides are files", output.display());
        }
        let same = |one: &fs::Metadata, other: &fs::Metadata| (one.dev(), one.ino()) == (other.dev(), other.ino());
        let there = fs::metadata(&path).ok();
        let Three { base, mine, theirs } = versions.paths.as_ref();
        let contents = versions.contents.as_ref();
        for (input, content) in [(mine, contents.mine), (theirs, contents.theirs), (base, contents.base)] {
            let is_same =
                there.as_ref().is_some_and(|there| fs::metadata(input).is_ok_and(|input| same(there, &input)));
            if is_same {
                // What was read is what is replaced.
                let expected = ExpectedState::File(Fingerprint::of(content));
                return Ok(Self { path, shown: output, expected, now: Some((content.to_vec(), content.mode())) });
            }
        }
        Ok(Self { expected: expected_state(&path)?, path, shown: output, now: None })
    }

    fn write(&self, args: &MergeArgs, versions: &FileVersions, merged: &Merged) -> Result<Option<u64>> {
        let mut steps = Vec::new();
        let attributes = FileAttributes::of(merged.mode, None);
        match &merged.bytes {
            Some(bytes) if self.now.as_ref() == Some(&(bytes.clone(), merged.mode)) => {}
            Some(bytes) => steps.push(Step::Write {
                path: self.path.clone(),
                expected: self.expected.clone(),
                contents: Contents::Bytes(bytes.clone()),
                attributes,
            }),
            None => {
                let place = match &args.name {
                    Some(name) => in_full(name)?,
                    None => self.path.clone(),
                };
                let (labels, bytes) = (&versions.names.labels, versions.bytes());
                for (label, bytes) in [(&labels.mine, bytes.mine), (&labels.theirs, bytes.theirs)] {
                    let mut path = beside(&place, label, 1);
                    if steps.iter().any(|step: &Step| step.path() == path) {
                        path = beside(&place, label, 2);
                    }
                    tell(&format!("{label} is written to {}", shown_path(&path)));
                    let contents = Contents::Bytes(bytes.to_vec());
                    steps.push(Step::Write {
                        expected: expected_state(&path)?,
                        path,
                        contents,
                        attributes: attributes.clone(),
                    });
                }
            }
        }
        if steps.is_empty() { Ok(None) } else { carry_out(&Plan::of(steps)) }
    }
}

/// Where a version is written beside a file.
fn beside(place: &Path, label: &str, number: usize) -> PathBuf {
    let mut name = place.file_name().unwrap_or_default().to_owned();
    name.push(suffix_beside(label, number));
    place.with_file_name(name)
}
