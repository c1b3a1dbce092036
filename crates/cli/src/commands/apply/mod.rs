//! `apply`: puts patches into files or a folder.

mod one;
mod target;

use std::io::{self, Write};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, anyhow, bail};
use bytes::Bytes;
use tideline_core::patch::{FileLabel, FilePatch, Fit, read_shared_patch, write_hunks};
use tideline_core::plan::{Contents, FileAttributes, Plan, Step};
use tideline_sources::{Origin, open};
use tideline_views::json::{self, records::Record};
use tideline_views::terminal::{AppliedFile, AppliedHow, Look, draw_applied};
use tideline_views::{shown_message, shown_path};

use super::Outcome;
use super::print::printing;
use super::writing::{Inputs, carry_out, in_full, journal, standing, tell_open_runs};
use crate::args::{ApplyArgs, WhatArgs};
use crate::settings::{Config, look_of_colours, rules};
use one::{Manner, put_in, reason};
use target::Target;

pub(super) fn run(args: &ApplyArgs) -> Result<Outcome> {
    let what = WhatArgs { ignore: args.ignore.clone(), no_config: true, ..WhatArgs::default() };
    let config = Config::load(&WhatArgs::default())?;
    let look = look_of_colours(&args.colour, &config.view)?;
    let into = args.into.as_deref().unwrap_or(Path::new("."));
    let (root, into_file) = split_target(into)?;
    let name = into_file.as_deref().map(Path::to_string_lossy).unwrap_or_default().into_owned();
    let manner = Manner {
        drop_folders: args.drop_folders,
        slack: args.slack,
        lens: rules(&what, &Config::default())?.lens(name.as_bytes()),
        mark: args.mark,
        into_file,
    };
    if let Some(output) = &args.output {
        let mut paths: Vec<&Path> = args.patches.iter().map(PathBuf::as_path).collect();
        paths.push(into);
        Inputs { paths, is_earlier: |_| false, command: "apply" }.refuse(output)?;
    }
    let mut target = Target::new(&root)?;
    let mut applied = Applied { patches: Vec::new(), leftovers: Vec::new(), replaced: false };
    for path in &args.patches {
        let name = if path.as_os_str() == "-" { "standard input".to_owned() } else { path.display().to_string() };
        let content = open(&Origin::of(path))?;
        let patch = read_shared_patch(&Bytes::from_owner(content))
            .map_err(|error| anyhow!("cannot read the patch {name}, {error}"))?;
        let patch = if args.reverse { patch.reversed() } else { patch };
        let outcome = put_in(patch, &name, &mut target, &manner)?;
        if !outcome.leftovers.is_empty() {
            applied.leftovers.push((leftover_path(path), outcome.leftovers));
        }
        applied.patches.push((name, outcome.dropped, outcome.files));
    }
    let whole = applied.leftovers.is_empty();
    let writes = whole || args.keep_going || args.mark;
    let mut plan = if writes { plan_of(args, target)? } else { Plan::default() };
    if writes && args.keep_going {
        let mut paths: Vec<&Path> = args.patches.iter().map(PathBuf::as_path).collect();
        paths.push(into);
        let inputs = Inputs { paths, is_earlier: super::patch::is_patch, command: "apply" };
        plan.steps.extend(applied.leftover_steps(args.reverse, &inputs)?);
        applied.replaced = applied.leftovers.iter().any(|(path, _)| path.symlink_metadata().is_ok());
    }
    let run = if args.dry_run { None } else { carry_out_if_any(&plan)? };
    printing(false, |out| {
        if args.json {
            applied.write_json(run, writes && !args.dry_run, out)
        } else {
            applied.draw(args, writes, run, plan.steps.is_empty(), &look, out)
        }
    })?;
    Ok(if whole { Outcome::Same } else { Outcome::Different })
}

/// The folder that names are looked for in, and the one file in it, if it is one that was named.
fn split_target(into: &Path) -> Result<(PathBuf, Option<PathBuf>)> {
    if into.is_dir() {
        return Ok((into.to_path_buf(), None));
    }
    if into.symlink_metadata().is_err() {
        bail!("cannot apply a patch to {}: there is no such file or folder", into.display());
    }
    let whole = in_full(into)?;
    let folder = whole.parent().unwrap_or(Path::new("/")).to_path_buf();
    Ok((folder, whole.file_name().map(PathBuf::from)))
}

fn plan_of(args: &ApplyArgs, target: Target) -> Result<Plan> {
    let Some(output) = &args.output else { return target.plan(args.backup.as_deref()) };
    let file = target.only().with_context(|| {
        format!("cannot write the result to {}: the patch is about more than one file", output.display())
    })?;
    let Some(bytes) = file.will.clone() else {
        bail!("cannot write the result to {}: the patch removes the file", output.display());
    };
    let path = in_full(output)?;
    let expected = standing(&path)?;
    let attributes = FileAttributes::of(file.mode, None);
    Ok(Plan::of(vec![Step::Write { path, expected, contents: Contents::Bytes(bytes), attributes }]))
}

fn carry_out_if_any(plan: &Plan) -> Result<Option<u64>> {
    if plan.steps.is_empty() {
        tell_open_runs(&journal()?);
        return Ok(None);
    }
    carry_out(plan)
}

fn leftover_path(patch: &Path) -> PathBuf {
    if patch.as_os_str() == "-" {
        return PathBuf::from("standard-input.leftover.patch");
    }
    let name = patch.file_name().unwrap_or_default().to_string_lossy().into_owned();
    PathBuf::from(format!("{}.leftover.patch", name.strip_suffix(".patch").unwrap_or(&name)))
}

/// What became of all patches.
struct Applied {
    /// The name of each, the leading folders dropped, and its files.
    patches: Vec<(String, usize, Vec<AppliedFile>)>,
    /// Where what does not fit goes.
    leftovers: Vec<(PathBuf, Vec<FilePatch>)>,
    /// Whether such a file was there already.
    replaced: bool,
}

impl Applied {
    fn files(&self) -> impl Iterator<Item = &AppliedFile> {
        self.patches.iter().flat_map(|(_, _, files)| files)
    }

    /// Writes what does not fit as patches of their own.
    fn leftover_steps(&self, reversed: bool, inputs: &Inputs<'_>) -> Result<Vec<Step>> {
        let steps = self.leftovers.iter().map(|(path, files)| {
            let mut bytes = Vec::new();
            for file in files {
                // The leftover of a patch that was to be taken out is written as the patch itself was.
                let file = if reversed { file.clone().reversed() } else { file.clone() };
                let label =
                    |name: &Option<Vec<u8>>| FileLabel::new(name.clone().unwrap_or_else(|| b"/dev/null".to_vec()));
                write_hunks((&label(&file.before), &label(&file.after)), &file.hunks, &mut bytes)?;
            }
            inputs.refuse(path)?;
            let path = in_full(path)?;
            let expected = standing(&path)?;
            Ok(Step::write(path, expected, Contents::Bytes(bytes)))
        });
        steps.collect()
    }

    fn draw(
        &self,
        args: &ApplyArgs,
        writes: bool,
        run: Option<u64>,
        nothing_to_do: bool,
        look: &Look,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        for (name, dropped, files) in &self.patches {
            let folders = match (dropped, args.drop_folders) {
                (0, _) | (_, Some(_)) => String::new(),
                (1, None) => ", 1 leading folder dropped from its names".to_owned(),
                (count, None) => format!(", {count} leading folders dropped from its names"),
            };
            let verb = if args.reverse { "taking out" } else { "applying" };
            writeln!(out, "{verb} {}{folders}", shown_message(name))?;
            draw_applied(files, args.reverse, look, out)?;
        }
        writeln!(out, "{}", self.verdict(args, writes, run, nothing_to_do))
    }

    /// The last line: what was written, and how to take it back.
    fn verdict(&self, args: &ApplyArgs, writes: bool, run: Option<u64>, nothing_to_do: bool) -> String {
        let count = |is: fn(&AppliedHow) -> bool| self.files().filter(|file| is(&file.how)).count();
        let parts = [
            (count(|how| *how == AppliedHow::Changed), "changed"),
            (count(|how| *how == AppliedHow::Created), "new"),
            (count(|how| *how == AppliedHow::Deleted), "removed"),
            (count(|how| matches!(how, AppliedHow::Moved(_))), "moved"),
            (count(|how| *how == AppliedHow::AlreadyIn), "as wanted already"),
        ];
        let parts: Vec<String> =
            parts.into_iter().filter(|(count, _)| *count > 0).map(|(count, word)| format!("{count} {word}")).collect();
        let misfits: usize = self.files().map(AppliedFile::misfits).sum();
        if !writes {
            let missing = count(|how| *how == AppliedHow::Missing);
            let mut why = Vec::new();
            if misfits > 0 {
                why.push(format!("{misfits} {} no place", if misfits == 1 { "hunk has" } else { "hunks have" }));
            }
            if missing > 0 {
                why.push(format!("{missing} {} not there", if missing == 1 { "file is" } else { "files are" }));
            }
            return format!(
                "nothing was written: {}; --keep-going places the rest, --mark shows both in the file",
                why.join(", ")
            );
        }
        if nothing_to_do {
            return format!("already {}: nothing to do", if args.reverse { "taken out" } else { "applied" });
        }
        let left = match (&self.leftovers[..], args.mark) {
            ([], _) => String::new(),
            (_, true) => format!("; {misfits} without a place stand between marks"),
            (leftovers, false) => {
                let names: Vec<_> = leftovers.iter().map(|(path, _)| shown_path(path)).collect();
                let replaced = if self.replaced { ", in the place of what was there" } else { "" };
                format!("; what has no place is in {}{replaced}", names.join(", "))
            }
        };
        match run {
            Some(run) => format!("files: {}{left} (run {run}; `tideline undo` puts it back)", parts.join(", ")),
            None => format!("files: {}{left}; nothing was written, this was a trial", parts.join(", ")),
        }
    }

    fn write_json(&self, run: Option<u64>, written: bool, out: &mut dyn Write) -> io::Result<()> {
        for file in self.files() {
            let hunks = file.hunks.iter().zip(&file.fits).map(|(hunk, fit)| match fit {
                Fit::Placed(placed) => json::applied_hunk(hunk.line, Some(placed), None, false),
                Fit::AlreadyIn(_) => json::applied_hunk(hunk.line, None, None, true),
                Fit::Parts(parts) => {
                    let first = parts.iter().find_map(|part| match part {
                        Fit::Placed(placed) => Some(placed),
                        _ => None,
                    });
                    json::applied_hunk(hunk.line, first, None, first.is_none())
                }
                Fit::Misfit(misfit) => json::applied_hunk(hunk.line, None, Some(reason(misfit)), false),
            });
            json::write_record(&Record::Applied(json::applied_file(file, hunks.collect())), out)?;
        }
        json::write_record(&json::run_record(run, written), out)
    }
}
