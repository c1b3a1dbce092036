//! Three versions of a tree.

use std::collections::HashMap;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::merge::{MergeSteps, Prefer, StepContents, Three, Together, TreeMerge, TreeMergeOptions};
use tideline_core::internal::plan::{Contents, Item, Plan, SyncStep, Verb, path_of};
use tideline_core::internal::tree::{
    self, Attributes, MemoryTree, Progress, Tree, TreeComparison, TreeOptions, TreePath,
};
use tideline_journal::{LeftOut, Outcome as Carried, Staging};
use tideline_views::json::{self, merge as records, plan as plan_records};
use tideline_views::terminal::draw_merged_tree;
use tideline_views::{MergedTreeView, bytes_in_words, plural, shown_path};

use super::options::{marks, options, prefer};
use crate::args::{FilesArgs, MergeArgs};
use crate::commands::print::printing;
use crate::commands::progress::with_progress;
use crate::commands::versions::{TreeVersions, tell_unreadable};
use crate::commands::writing::{carry_out_what_can_be, in_full, journal, run_and_undo, typed};
use crate::commands::{Outcome, carry_out_silently, tell};
use crate::settings::{Config, look, togethers, tree_options};

pub(super) fn run(
    args: &MergeArgs,
    config: &Config,
    contents: &ContentOptions,
    versions: &TreeVersions,
) -> Result<Outcome> {
    if args.files.open_archives {
        bail!("cannot merge with --open-archives: an archive in a folder is merged as the file that it is");
    }
    if args.name.is_some() {
        bail!("--name is for files: of folders, each file has its own path");
    }
    let look = look(&args.look(), &config.view)?;
    let only = togethers(&args.files)?;
    let target = args.output.as_deref().map(|output| Target::of(output, versions)).transpose()?;
    let tree_options = compared_options(args)?;
    let merge_options = TreeMergeOptions {
        contents: contents.clone(),
        texts: options(args),
        marks: marks(args, &versions.labels),
        prefer: prefer(args),
        keeps_results: target.is_some(),
    };
    let merge = with_progress(|progress| versions.merged(&tree_options, &merge_options, progress));
    let steps = target.as_ref().map(|target| target.steps(&merge, versions, &tree_options));
    let carried = match (&target, &steps) {
        (Some(target), Some(steps)) if args.go => Some(target.carry(steps, versions)?),
        _ => None,
    };
    let only = if args.list { vec![Together::Conflict] } else { only };
    let only = (!only.is_empty()).then_some(&only[..]);
    let view = MergedTreeView { labels: &versions.labels, merge: &merge, only };
    printing(false, |out| {
        if args.json {
            return write_json(&view, carried.as_ref(), out);
        }
        draw_merged_tree(&view, &look, out)?;
        if merge.dropped > 0 {
            let lines = plural(merge.dropped, "line");
            writeln!(
                out,
                "  {lines} of {} dropped: they differ only in text that does not count",
                versions.labels.theirs
            )?;
        }
        if let (Some(target), Some(steps)) = (&target, &steps) {
            target.tell(&merge, steps, carried.as_ref(), out)?;
        }
        Ok(())
    })?;
    let refused = steps.iter().flat_map(|steps| &steps.refused);
    let refused: Vec<String> =
        refused.map(|(path, why)| format!("{}: the name is not followed: {why}", path.to_text())).collect();
    refused.iter().for_each(|told| tell(told));
    let is_troubled = tell_unreadable(&merge);
    let left_out = carried.as_ref().map_or(0, |carried| carried.left_out.len());
    Ok(if left_out > 0 || !refused.is_empty() || is_troubled {
        Outcome::Trouble
    } else if merge.has_conflicts() || steps.is_some_and(|steps| !steps.plan.steps.is_empty()) && carried.is_none() {
        Outcome::Different
    } else {
        Outcome::Same
    })
}

/// Merges what is at one path of the base into mine on the disk, conflicts decided for one side; what was done, in words.
pub(crate) fn decide_one(
    versions: &TreeVersions,
    contents: &ContentOptions,
    path: &TreePath,
    prefer: Prefer,
) -> Result<String> {
    let attributes = Attributes { mode: true, ..Attributes::default() };
    let tree_options = TreeOptions::default().attributes(attributes).counts(false);
    let options = TreeMergeOptions {
        contents: contents.clone(),
        prefer: Some(prefer),
        keeps_results: true,
        ..TreeMergeOptions::default()
    };
    let mut merge = versions.merged(&tree_options, &options, &Progress::default());
    merge.entries.retain(|entry| entry.path == *path);
    (merge.new_folders, merge.gone_folders) = (Vec::new(), Vec::new());
    let target = Target::of(&versions.paths.mine, versions)?;
    let steps = target.steps(&merge, versions, &tree_options);
    let shown = path.to_text();
    if steps.plan.steps.is_empty() {
        return Ok(format!("{shown}: {} has that already", versions.labels.mine));
    }
    let (plan, left_out, _staging) = target.plan(&steps, versions)?;
    if let Some(left_out) = left_out.first() {
        bail!("{shown}: {}", left_out.reason);
    }
    let done = carry_out_silently(&plan)?;
    Ok(format!(
        "{shown}: {}{}",
        totals(&steps),
        done.run.map_or_else(String::new, |run| format!(" {}", run_and_undo(run)))
    ))
}

/// How either side is compared with the base: by bytes and permissions, whatever the rules say, so that nothing is left behind.
fn compared_options(args: &MergeArgs) -> Result<TreeOptions> {
    let attributes = Attributes { mode: true, ..Attributes::default() };
    let files = FilesArgs { only: Vec::new(), ..args.files.clone() };
    Ok(tree_options(&files, ContentOptions::default())?.attributes(attributes).counts(false).only(None))
}

/// The folder that the merge goes to.
struct Target {
    /// It, in full.
    folder: PathBuf,
    /// As it was named.
    shown: PathBuf,
    /// Whether it is to be made.
    is_new: bool,
}

impl Target {
    fn of(output: &Path, versions: &TreeVersions) -> Result<Self> {
        let shown = output.display();
        if output.symlink_metadata().is_err() {
            let folder = in_full(output)?;
            let Three { base, mine, theirs } = versions.paths.as_ref();
            for side in [base, mine, theirs] {
                if side.canonicalize().is_ok_and(|side| folder.starts_with(side)) {
                    bail!("cannot write {shown}: it would be inside {}; name a folder elsewhere", side.display());
                }
            }
            return Ok(Self { folder, shown: output.to_path_buf(), is_new: true });
        }
        // A link to MINE is MINE.
        if !output.is_dir() {
            bail!("cannot write {shown}: it is no folder, and the sides are folders");
        }
        let folder = output.canonicalize().with_context(|| format!("cannot write {shown}"))?;
        let mine = versions.paths.mine.canonicalize().ok().filter(|_| versions.on_disk.mine);
        if mine.as_ref() == Some(&folder) {
            return Ok(Self { folder, shown: output.to_path_buf(), is_new: false });
        }
        bail!(
            "cannot write {shown}: it is there already; OUT is MINE, {}, or a new folder",
            versions.paths.mine.display()
        )
    }

    fn steps(&self, merge: &TreeMerge, versions: &TreeVersions, options: &TreeOptions) -> MergeSteps {
        let trees = versions.trees();
        if !self.is_new {
            return merge.steps_into_mine(trees, &versions.labels);
        }
        let nothing = MemoryTree::new();
        let all: TreeComparison = with_progress(|progress| tree::compare(&nothing, trees.mine, options, progress));
        let mut steps = merge.steps_into_new(trees, &all, &versions.labels);
        let metadata = trees.mine.metadata(&TreePath::ROOT).unwrap_or_default();
        let will = Item::Folder { mode: metadata.mode, modified: metadata.modified.map(Into::into) };
        let root = SyncStep {
            path: TreePath::ROOT,
            moved_from: None,
            same_as: None,
            side: tideline_core::internal::plan::Side::Into,
            was: Item::Nothing,
            will,
        };
        steps.plan.steps.insert(0, root);
        steps
    }

    /// Writes the merge.
    fn carry(&self, steps: &MergeSteps, versions: &TreeVersions) -> Result<Carried> {
        let (plan, left_out, _staging) = self.plan(steps, versions)?;
        let mut carried = with_progress(|progress| carry_out_what_can_be(&plan, progress))?;
        carried.left_out.extend(left_out);
        Ok(carried)
    }

    /// The steps with what they write. What is on no disk is unpacked first; the folder that holds it stays until it is written.
    fn plan(&self, steps: &MergeSteps, versions: &TreeVersions) -> Result<(Plan, Vec<LeftOut>, Staging)> {
        let staging = journal()?.staging()?;
        let (mut ready, mut left_out) = (HashMap::new(), Vec::new());
        let mut number = 0;
        for step in steps.plan.steps.iter().filter(|step| step.moved_from.is_none()) {
            let Some(contents) = steps.contents.get(&step.path) else { continue };
            let (tree, root, inner) = match contents {
                StepContents::Bytes(bytes) => {
                    ready.insert(step.path.clone(), Contents::Bytes(bytes.clone()));
                    continue;
                }
                StepContents::Mine(inner) => {
                    (&versions.trees.mine, root(&versions.paths.mine, versions.on_disk.mine)?, inner)
                }
                StepContents::Theirs(inner) => {
                    (&versions.trees.theirs, root(&versions.paths.theirs, versions.on_disk.theirs)?, inner)
                }
            };
            let on_disk = root.as_ref().and_then(|root| Some(root.join(path_of(inner)?)));
            let stamp = if let Item::File { stamp, .. } = &step.will { Some(*stamp) } else { None };
            let made = match on_disk {
                Some(path) => Ok(Contents::CopyOf(path, stamp)),
                None => {
                    number += 1;
                    staged(&**tree, inner, &staging, number)
                }
            };
            match made {
                Ok(contents) => drop(ready.insert(step.path.clone(), contents)),
                Err(error) => {
                    let path = path_of(&step.path).map_or_else(|| self.folder.clone(), |path| self.folder.join(path));
                    left_out.push(LeftOut { path, reason: format!("cannot be read: {error}") });
                }
            }
        }
        let mut plan = steps.plan.steps_with(&self.folder, ready);
        for (path, is_on_disk) in
            [(&versions.paths.mine, versions.on_disk.mine), (&versions.paths.theirs, versions.on_disk.theirs)]
        {
            if let Some(root) = root(path, is_on_disk)?
                && !plan.roots.contains(&root)
            {
                plan.roots.push(root);
            }
        }
        Ok((plan, left_out, staging))
    }

    /// Says what was done, or what would be and how to do it.
    fn tell(
        &self,
        merge: &TreeMerge,
        steps: &MergeSteps,
        carried: Option<&Carried>,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        let shown = shown_path(&self.shown);
        writeln!(out)?;
        let Some(carried) = carried else {
            if steps.plan.steps.is_empty() {
                return writeln!(out, "nothing to write: {shown} holds all of it already");
            }
            writeln!(out, "nothing was written. To merge into {shown} ({}):", totals(steps))?;
            return writeln!(out, "  {} --go", typed().trim_end_matches(" --dry-run"));
        };
        for left_out in &carried.left_out {
            writeln!(out, "! left out: {} {}", shown_path(&left_out.path), left_out.reason)?;
        }
        let missed = match carried.left_out.len() {
            0 => String::new(),
            count => format!(", but for {}", plural(count, "path")),
        };
        let open = merge.entries.iter().filter(|entry| entry.is_open()).count();
        match carried.run {
            Some(run) => writeln!(out, "merged into {shown}: {}{missed} {}", totals(steps), run_and_undo(run)),
            None => writeln!(out, "nothing was written{missed}"),
        }?;
        if open > 0 {
            let left = plural(open, "conflict");
            writeln!(
                out,
                "{left} left, named above; `tideline merge --unresolved {shown}` lists conflict marks and versions to choose from"
            )?;
        }
        Ok(())
    }
}

/// A folder on the disk that is read from, in full.
fn root(path: &Path, is_on_disk: bool) -> Result<Option<PathBuf>> {
    if !is_on_disk {
        return Ok(None);
    }
    path.canonicalize().map(Some).with_context(|| format!("cannot read {}", path.display()))
}

/// Unpacks a file into the journal's own folder.
fn staged(tree: &dyn Tree, path: &TreePath, staging: &Staging, number: usize) -> io::Result<Contents> {
    let mut opened = tree.open(path).map_err(io::Error::other)?;
    let mut staged = staging.begin(&number.to_string())?;
    io::copy(&mut opened.reader, &mut staged)?;
    staged.finish()
}

/// What the steps come to, in words.
fn totals(steps: &MergeSteps) -> String {
    let of = |verb: Verb| steps.plan.total(verb);
    let told = |verb: Verb, word: &str| match of(verb) {
        (0, _) => None,
        (count, bytes) if matches!(verb, Verb::Copy | Verb::Replace) => {
            Some(format!("{word} {} ({})", plural(count, "file"), bytes_in_words(bytes)))
        }
        (count, _) => Some(format!(
            "{word} {}",
            plural(count, if matches!(verb, Verb::MakeFolder | Verb::RemoveFolder) { "folder" } else { "file" })
        )),
    };
    let verbs = [
        (Verb::Copy, "new:"),
        (Verb::Replace, "replaced:"),
        (Verb::Move, "moved:"),
        (Verb::Remove, "removed:"),
        (Verb::MakeFolder, "made:"),
        (Verb::RemoveFolder, "removed:"),
    ];
    let told: Vec<String> = verbs.into_iter().filter_map(|(verb, word)| told(verb, word)).collect();
    told.join(", ")
}

fn write_json(view: &MergedTreeView<'_>, carried: Option<&Carried>, out: &mut dyn Write) -> io::Result<()> {
    records::write_trees(view, out)?;
    let Some(carried) = carried else { return Ok(()) };
    for left_out in &carried.left_out {
        let path = left_out.path.as_os_str().as_encoded_bytes();
        json::write_record(&plan_records::left_out(path, &left_out.reason), out)?;
    }
    json::write_record(&json::run_record(carried.run, carried.run.is_some()), out)
}
