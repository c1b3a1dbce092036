//! `apply`: puts patches into files or a folder.

mod data;
mod target;
mod told;

use std::collections::HashSet;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, anyhow, bail};
use bytes::Bytes;
use tideline_core::internal::patch::apply::{Applier, ApplyOptions, Now};
use tideline_core::internal::patch::{FilePatch, Patch, read_shared_patch, write_part};
use tideline_core::internal::plan::{Contents, FileAttributes, Plan, Step};
use tideline_sources::{Origin, open};

use super::Outcome;
use super::print::printing;
use super::writing::{Inputs, carry_out, expected_state, in_full, journal, tell_open_runs};
use crate::args::{ApplyArgs, WhatArgs};
use crate::settings::{Config, look_of_colours, rules};
use target::Target;
use told::{Told, ToldPatch};

pub(super) fn run(args: &ApplyArgs) -> Result<Outcome> {
    let input = match data::run(args)? {
        data::Tried::Done(outcome) => return Ok(outcome),
        data::Tried::NotJson(input) => input,
    };
    let what = WhatArgs { ignore: args.ignore.clone(), no_config: true, ..WhatArgs::default() };
    let config = Config::load(&WhatArgs::default())?;
    let look = look_of_colours(&args.colour.for_records(args.json), &config.view)?;
    let into = args.into.as_deref().unwrap_or(Path::new("."));
    let (root, only) = split_target(into)?;
    let name = only.as_deref().map(Path::to_string_lossy).unwrap_or_default().into_owned();
    let options = ApplyOptions {
        drop_folders: args.drop_folders,
        tolerance: args.slack,
        file_rules: rules(&what, &Config::default())?.file_rules(name.as_bytes()),
        mark: args.mark,
        only,
    };
    let mut inputs: Vec<&Path> = args.patches.iter().map(PathBuf::as_path).collect();
    inputs.push(into);
    if let Some(output) = &args.output {
        Inputs { paths: inputs.clone(), is_earlier: |_| false, command: "apply" }.refuse(output)?;
    }
    let target = Target::new(&root)?;
    let mut applier = Applier::new(&target, options);
    let mut told = Told::default();
    let mut leftovers: Vec<(PathBuf, Vec<FilePatch>)> = Vec::new();
    for (path, name, patch) in read_all(args, input)? {
        let applied = applier.apply(patch, &name).map_err(|error| anyhow!("cannot apply {name}, {error}"))?;
        if !applied.leftover.is_empty() {
            leftovers.push((leftover_path(path, &leftovers), applied.leftover));
        }
        told.patches.push(ToldPatch { name, dropped: applied.dropped, parts: applied.parts });
    }
    told.leftovers = leftovers.iter().map(|(path, _)| path.clone()).collect();
    let is_whole = leftovers.is_empty();
    told.writes = is_whole || args.keep_going || args.mark;
    let mut plan = if told.writes { plan_of(args, &target, applier)? } else { Plan::default() };
    if told.writes && args.keep_going {
        let inputs = Inputs { paths: inputs, is_earlier: super::patch::is_patch, command: "apply" };
        plan.steps.extend(leftover_steps(leftovers, args.reverse, &inputs)?);
        told.replaced = told.leftovers.iter().any(|path| path.symlink_metadata().is_ok());
    }
    told.nothing_to_do = plan.steps.is_empty();
    told.run = if args.dry_run { None } else { carry_out_if_any(&plan)? };
    printing(false, |out| if args.json { told.write_json(args, out) } else { told.draw(args, &look, out) })?;
    Ok(if is_whole { Outcome::Same } else { Outcome::Different })
}

/// All patches, with their paths and names, in the order in which they apply: the last one comes out first.
/// What came from standard input may have been read already.
fn read_all(args: &ApplyArgs, mut input: Option<Vec<u8>>) -> Result<Vec<(&Path, String, Patch)>> {
    let mut read = |path: &Path| -> Result<(String, Patch)> {
        let name = if path.as_os_str() == "-" { "standard input".to_owned() } else { path.display().to_string() };
        let bytes = match input.take_if(|_| path.as_os_str() == "-") {
            Some(bytes) => Bytes::from(bytes),
            None => Bytes::from_owner(open(&Origin::of(path))?),
        };
        let patch = read_shared_patch(&bytes).map_err(|error| {
            let hint = if args.patches.len() > 1 && args.into.is_none() && path.is_file() {
                format!("; if {name} is the file that the patch is for, name it with --into")
            } else {
                String::new()
            };
            anyhow!("cannot read the patch {name}, {error}{hint}")
        })?;
        Ok((name, if args.reverse { patch.reversed() } else { patch }))
    };
    let mut patches = Vec::with_capacity(args.patches.len());
    for path in &args.patches {
        let (name, patch) = read(path)?;
        patches.push((path.as_path(), name, patch));
    }
    if args.reverse {
        patches.reverse();
    }
    Ok(patches)
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

fn plan_of(args: &ApplyArgs, target: &Target, applier: Applier<'_>) -> Result<Plan> {
    let Some(output) = &args.output else { return target.plan(applier.changes(), args.backup.as_deref()) };
    let doing = || format!("cannot write the result to {}", output.display());
    let (now, mode) =
        applier.only().with_context(|| format!("{}: the patch is about more than one file, or removes it", doing()))?;
    let Now::File(bytes) = now else { bail!("{}: the patch is about a link", doing()) };
    let path = in_full(output)?;
    let expected = expected_state(&path)?;
    let attributes = FileAttributes::of(mode, None);
    Ok(Plan::of(vec![Step::Write { path, expected, contents: Contents::Bytes(bytes.to_vec()), attributes }]))
}

fn carry_out_if_any(plan: &Plan) -> Result<Option<u64>> {
    if plan.steps.is_empty() {
        tell_open_runs(&journal()?);
        return Ok(None);
    }
    carry_out(plan)
}

/// Where what has no place is written; of two patches of one name, each has its own.
fn leftover_path(patch: &Path, others: &[(PathBuf, Vec<FilePatch>)]) -> PathBuf {
    let name = patch.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let name = if patch.as_os_str() == "-" { "standard-input" } else { name.strip_suffix(".patch").unwrap_or(&name) };
    let taken: HashSet<&PathBuf> = others.iter().map(|(path, _)| path).collect();
    let names = std::iter::once(String::new()).chain((2..).map(|number| format!("-{number}")));
    let paths = names.map(|number| PathBuf::from(format!("{name}.leftover{number}.patch")));
    paths.into_iter().find(|path| !taken.contains(path)).unwrap_or_default()
}

/// Writes what has no place as patches of their own.
fn leftover_steps(leftovers: Vec<(PathBuf, Vec<FilePatch>)>, reversed: bool, inputs: &Inputs<'_>) -> Result<Vec<Step>> {
    let step = |(path, files): (PathBuf, Vec<FilePatch>)| {
        // The leftover of a patch that was to be taken out is written as the patch itself was.
        let files = if reversed { Patch { files }.reversed().files } else { files };
        let mut bytes = Vec::new();
        files.iter().try_for_each(|file| write_part(file, &mut bytes)).context("cannot write the leftover")?;
        inputs.refuse(&path)?;
        let path = in_full(&path)?;
        let expected = expected_state(&path)?;
        Ok(Step::write(path, expected, Contents::Bytes(bytes)))
    };
    leftovers.into_iter().map(step).collect()
}
