//! `show`: an existing patch, drawn like a comparison.

use anyhow::{Result, anyhow};
use tideline_core::internal::patch::{Binary, FilePatch, LineRole, Operation, Patch, read_patch, without_folders};
use tideline_sources::{Origin, open};
use tideline_views::terminal::{PatchedFile, draw_patch};
use tideline_views::{Labels, plural};

use super::Outcome;
use super::print::printing_changes;
use crate::args::{ShowArgs, WhatArgs};
use crate::settings::{Config, is_paged, look};

pub(super) fn run(args: &ShowArgs) -> Result<Outcome> {
    let config = Config::load(&WhatArgs::default())?;
    let look = look(&args.look, &config.view)?;
    let content = open(&Origin::of(&args.patch))?;
    let name =
        if args.patch.as_os_str() == "-" { "standard input".to_owned() } else { args.patch.display().to_string() };
    let patch = read_patch(&content).map_err(|error| anyhow!("cannot read the patch {name}, {error}"))?;
    let headings: Vec<Heading> = patch.files.iter().map(Heading::of).collect();
    let files: Vec<PatchedFile<'_>> = patch
        .files
        .iter()
        .zip(&headings)
        .map(|(file, heading)| PatchedFile {
            name: &heading.name,
            labels: &heading.labels,
            note: heading.note.as_deref(),
            hunks: &file.hunks,
        })
        .collect();
    printing_changes(is_paged(&args.look, &config.view), |out| {
        writeln!(out, "{name}    {}", counts(&patch))?;
        draw_patch(&files, &look, out)
    })?;
    Ok(Outcome::Same)
}

/// What a patch holds, in numbers.
fn counts(patch: &Patch) -> String {
    let hunks: usize = patch.files.iter().map(|file| file.hunks.len()).sum();
    let lines = |role: LineRole| {
        let all = patch.files.iter().flat_map(|file| &file.hunks).flat_map(|hunk| &hunk.lines);
        all.filter(|line| line.role == role).count()
    };
    let (gone, new) = (lines(LineRole::Gone), lines(LineRole::New));
    format!(
        "{}, {}, {} gone, {new} new",
        plural(patch.files.len(), "file"),
        plural(hunks, "hunk"),
        plural(gone, "line")
    )
}

/// What stands above the hunks of a file.
struct Heading {
    name: String,
    labels: Labels,
    note: Option<String>,
}

impl Heading {
    fn of(file: &FilePatch) -> Self {
        let text = |name: &[u8]| String::from_utf8_lossy(name).into_owned();
        let plain = || Labels::new("before", "after");
        let mut notes = Vec::new();
        let (name, labels) = match (&file.before, &file.after) {
            (Some(before), Some(after)) if file.operation != Operation::Change => {
                let verb = if file.operation == Operation::Move { "moved" } else { "copied" };
                notes.push(format!("{verb} from {}", text(before)));
                (text(after), plain())
            }
            (Some(before), Some(after)) => match (without_folders(before, 1), without_folders(after, 1)) {
                (Some(one), Some(other)) if one == other && before != after => {
                    let folder = |name: &[u8]| text(&name[..name.len() - one.len()]).trim_end_matches('/').to_owned();
                    (text(one), Labels::new(folder(before), folder(after)))
                }
                _ if before == after => (text(after), plain()),
                _ => (String::new(), Labels::new(text(before), text(after))),
            },
            (None, Some(name)) => {
                notes.push("new file".to_owned());
                (text(name), plain())
            }
            (Some(name), None) => {
                notes.push("gone file".to_owned());
                (text(name), plain())
            }
            (None, None) => (String::new(), plain()),
        };
        if let (Some(before), Some(after)) = file.modes
            && before != after
        {
            notes.push(format!("mode {before:o}, now {after:o}"));
        }
        if file.is_new() && file.before.is_some() && file.operation == Operation::Change {
            notes.push("new file".to_owned());
        }
        if file.is_gone() && file.after.is_some() {
            notes.push("gone file".to_owned());
        }
        match &file.binary {
            Some(Binary::Differs) => notes.push("not text; the patch says only that it differs".to_owned()),
            Some(Binary::Carried(..)) => notes.push("contents that are not text".to_owned()),
            None => {}
        }
        Self { name, labels, note: (!notes.is_empty()).then(|| notes.join(", ")) }
    }
}
