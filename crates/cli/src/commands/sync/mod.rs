//! `sync`: makes one folder like another, with a plan first.

mod refusals;

use std::fs;
use std::io::{self, Write};
use std::path::Path;

use anyhow::{Context, Result, anyhow, bail};
use tideline_core::internal::model::Status;
use tideline_core::internal::plan::{
    Item, Plan, Side, SyncMode, SyncOptions, SyncPlan, SyncStep, Verb, checked_path, path_of, plan_sync,
};
use tideline_core::internal::rules::Account;
use tideline_core::internal::tree::{self, Note, Tree, TreeComparison, TreePath};
use tideline_journal::{LeftOut, Outcome as Carried};
use tideline_sources::{Argument, SideOptions};
use tideline_views::json::{self, plan as records};
use tideline_views::terminal::{Look, PlanView, draw_plan, write_account};
use tideline_views::{Labels, plain_reason, plural, shown_message, shown_path};

use super::compare::narrowed;
use super::print::printing;
use super::progress::with_progress;
use super::unpacked::unpacked;
use super::unused::tell_unused;
use super::writing::{Inputs, carry_out, carry_out_what_can_be, quoted, run_and_undo, typed, write_output};
use super::{Outcome, tell};
use crate::args::{KindArgs, LinksChoice, SyncArgs};
use crate::settings::{Config, content_options, look_of_colours, name_trees, side_options, tree_options};
use refusals::{Removals, Roots};

/// A plan and what it is about.
struct Made {
    plan: SyncPlan,
    roots: Roots,
    labels: Labels,
    account: Account,
    /// The command that carries it out.
    command: String,
    /// Whether links in the tree that is carried from are followed.
    follows_links: bool,
    /// What is carried from, where it is no folder on the disk.
    elsewhere: Option<Box<dyn Tree>>,
}

impl Made {
    /// A path as the person knows it: by the name of its tree.
    fn named(&self, path: &Path) -> String {
        let roots = [(&self.roots.into, &self.labels.after), (&self.roots.from, &self.labels.before)];
        let below = roots.into_iter().find_map(|(root, label)| Some((label, path.strip_prefix(root).ok()?)));
        match below {
            Some((label, rest)) if rest.as_os_str().is_empty() => label.clone(),
            Some((label, rest)) => format!("{label}/{}", shown_path(rest)),
            None => shown_path(path),
        }
    }

    /// What is left out, in words.
    fn says(&self, left_out: &LeftOut) -> String {
        let mut reason = left_out.reason.clone();
        for (root, label) in [(&self.roots.into, &self.labels.after), (&self.roots.from, &self.labels.before)] {
            reason = reason.replace(&format!("{}/", root.display()), &format!("{label}/"));
        }
        format!("{} {reason}", self.named(&left_out.path))
    }

    /// What ends with status 2 is said on standard error too.
    fn tell_trouble(&self, done: Option<&Carried>) {
        for one in self.plan.undecided.iter().filter(|one| one.is_trouble) {
            tell(&format!("cannot read {}: {}", String::from_utf8_lossy(&one.path), plain_reason(&one.reason)));
        }
        for left_out in done.iter().flat_map(|done| &done.left_out) {
            tell(&format!("left out: {}", self.says(left_out)));
        }
    }
}

pub(super) fn run(args: &SyncArgs) -> Result<Outcome> {
    let config = Config::load(&args.what)?;
    let look = look_of_colours(&args.colour.for_records(args.json), &config.view)?;
    if let Some(path) = &args.save_plan {
        let paths = [&args.from, &args.into].into_iter().flatten().map(std::path::PathBuf::as_path).collect();
        Inputs { paths, is_earlier: |bytes| records::read_plan(bytes).is_ok(), command: "sync" }.refuse(path)?;
    }
    if args.files.open_archives {
        bail!("cannot sync with --open-archives: an archive in a folder is carried as the file that it is");
    }
    let made = match &args.plan {
        Some(_) if !args.files.is_default() || !args.what.is_default() => {
            bail!(
                "cannot narrow a saved plan: --plan carries it out as it was made; make a new plan with other options"
            )
        }
        Some(path) => kept(path, args)?,
        None => planned(args, &config)?,
    };
    if let Some(path) = &args.save_plan {
        let mut bytes = Vec::new();
        let mut plan = made.plan.clone();
        let (target, source) = made.roots.trees(&options(args))?;
        plan.add_hashes((&*target, &*source.tree));
        records::write_plan(&plan, made.roots.as_bytes(), &mut bytes)?;
        write_output(path, bytes)?;
    }
    let done = if args.go { Some(carry(args, &made)?) } else { None };
    printing(false, |out| {
        if args.json { write_json(&made, done.as_ref(), out) } else { draw(&made, done.as_ref(), &look, out) }
    })?;
    let troubled = made.plan.undecided.iter().any(|one| one.is_trouble);
    made.tell_trouble(done.as_ref());
    let left_out = done.as_ref().is_some_and(|done| !done.left_out.is_empty());
    Ok(if troubled || left_out {
        Outcome::Trouble
    } else if !made.plan.undecided.is_empty() || done.is_none() && !made.plan.steps.is_empty() {
        Outcome::Different
    } else {
        Outcome::Same
    })
}

/// Compares both folders and plans what is to be done.
fn planned(args: &SyncArgs, config: &Config) -> Result<Made> {
    let (Some(from), Some(into)) = (&args.from, &args.into) else { bail!("sync needs two folders, FROM and INTO") };
    let roots = Roots::checked(from, into, args.remove_many)?;
    let options_of_sides = options(args);
    let contents = content_options(&args.what, config, (None, None), false)?;
    let mut options = tree_options(&args.files, contents.clone())?.counts(false);
    if !args.paths.is_empty() && args.files.only.is_empty() {
        // What is the same below the paths counts among what was looked at.
        options = options.only(Some(Status::ALL.to_vec()));
    }
    if roots.is_from_elsewhere {
        refuse_for_elsewhere(args, from)?;
    }
    let (target, opened) = roots.trees(&options_of_sides)?;
    let source = opened.tree;
    let comparison = with_progress(|progress| tree::compare(&*target, &*source, &options, progress));
    // What is missing from a part of an archive may be in the rest of it.
    let damage = comparison.pairs.iter().find(|pair| pair.path.is_root()).and_then(|pair| pair.note.as_ref());
    if let Some(Note::UnreadableAfter(reason)) = damage {
        bail!("cannot sync from {}: {reason}; nothing was written", from.display());
    }
    let in_into = |comparison: &TreeComparison| -> usize {
        comparison.counts.iter().filter(|(status, _)| **status != Status::New).map(|(_, count)| count).sum()
    };
    let all = in_into(&comparison);
    let comparison = narrowed(comparison, &args.paths, (&*target, &*source))?;
    let looked_at = in_into(&comparison);
    let way = match (args.newer, args.both_ways) {
        (_, true) => SyncMode::BothWays,
        (true, _) => SyncMode::Newer,
        _ => SyncMode::All,
    };
    let options = SyncOptions::default().mode(way).mirror(args.mirror);
    let mut plan = plan_sync(&comparison, (&*target, &*source), &options);
    if roots.makes_into && !plan.steps.is_empty() {
        let metadata = source.metadata(&TreePath::ROOT).unwrap_or_default();
        let will = Item::Folder { mode: metadata.mode, modified: metadata.modified.map(Into::into) };
        let (moved_from, same_as) = (None, None);
        let step = SyncStep { path: TreePath::ROOT, moved_from, same_as, side: Side::Into, was: Item::Nothing, will };
        plan.steps.insert(0, step);
    }
    if !args.remove_many {
        Removals { files: plan.total(Verb::Remove).0, looked_at, all }.refuse_many(&roots.into)?;
    }
    if !comparison.account.is_empty() {
        tell_unused(contents.all_rules(), &comparison.account);
    }
    let mut named = name_trees(from, into);
    if let Some(label) = opened.label {
        named.before = label;
    }
    named.about.0 = opened.about;
    let command = match &args.save_plan {
        Some(path) => format!("tideline sync --plan {} --go", quoted(path.as_os_str())),
        None => format!("{} --go", typed().trim_end_matches(" --dry-run")),
    };
    let follows_links = args.files.links == LinksChoice::Follow;
    let elsewhere = roots.is_from_elsewhere.then_some(source);
    Ok(Made { plan, roots, labels: named, account: comparison.account, command, follows_links, elsewhere })
}

/// Reads a plan that was kept.
fn kept(path: &Path, args: &SyncArgs) -> Result<Made> {
    let doing = || format!("cannot read the plan {}", path.display());
    let bytes = fs::read(path).with_context(doing)?;
    let (mut plan, from, into) = records::read_plan(&bytes).map_err(|reason| anyhow!("{}: {reason}", doing()))?;
    for step in &plan.steps {
        for name in [Some(&step.path), step.moved_from.as_ref()].into_iter().flatten().filter(|name| !name.is_empty()) {
            let shown = String::from_utf8_lossy(name).escape_debug().to_string();
            checked_path(name).with_context(|| format!("{}: the name {shown} is not followed", doing()))?;
        }
    }
    let root = |bytes: &[u8]| path_of(bytes).with_context(|| format!("{}: a root cannot be a path here", doing()));
    let (from, into) = (root(&from)?, root(&into)?);
    let roots = Roots::checked(&from, &into, true)?;
    if (&roots.from, &roots.into) != (&from, &into) {
        bail!("{}: its folders stand elsewhere now; make the plan anew", doing());
    }
    let (target, source) = roots.trees(&options(args))?;
    plan.recognize((&*target, &*source.tree));
    let labels = name_trees(&from, &into);
    let command = format!("tideline sync --plan {} --go", quoted(path.as_os_str()));
    let account = Account::default();
    Ok(Made { plan, roots, labels, account, command, follows_links: false, elsewhere: None })
}

/// How both sides are opened.
fn options(args: &SyncArgs) -> SideOptions {
    side_options(&args.files, &args.sides, KindArgs::default())
}

/// Refuses what only two folders can do.
fn refuse_for_elsewhere(args: &SyncArgs, from: &Path) -> Result<()> {
    let from = from.display();
    if args.both_ways {
        bail!("cannot sync both ways with {from}: it is not a folder, and is never written to");
    }
    if args.save_plan.is_some() {
        bail!("cannot save a plan that carries from {from}: only plans of two folders are kept");
    }
    if args.newer && Argument::is_revision(args.from.as_deref().unwrap_or(Path::new(""))) {
        bail!("cannot tell what is newer in {from}: a revision holds no times of its files");
    }
    Ok(())
}

fn carry(args: &SyncArgs, made: &Made) -> Result<Carried> {
    if let Some(tree) = &made.elsewhere {
        let ready = with_progress(|progress| unpacked(&made.plan, &**tree, &made.roots.into, progress))?;
        let mut carried = with_progress(|progress| carry_out_what_can_be(&ready.plan, progress))?;
        carried.left_out.extend(ready.left_out);
        return Ok(carried);
    }
    let mut plan: Plan = made.plan.steps_below(&made.roots.into, &made.roots.from);
    plan.follows_links = made.follows_links;
    if args.plan.is_some() {
        // Just that plan, or nothing.
        return Ok(Carried { run: carry_out(&plan)?, ..Carried::default() });
    }
    with_progress(|progress| carry_out_what_can_be(&plan, progress))
}

fn draw(made: &Made, done: Option<&Carried>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (from, into) = (&made.labels.before, &made.labels.after);
    let whole = shown_path(&made.roots.into);
    let view = PlanView { from, into, into_in_full: &whole, plan: &made.plan, is_done: done.is_some() };
    draw_plan(&view, look, out)?;
    write_account(&made.account, false, look, out)?;
    if made.plan.steps.is_empty() {
        return Ok(());
    }
    let direction = if made.plan.both_ways {
        format!("between {from} and {into}, from the newer side to the older")
    } else {
        format!("from {from} into {into}")
    };
    writeln!(out)?;
    let Some(done) = done else {
        writeln!(out, "nothing was written. To carry it out, {direction}:")?;
        return writeln!(out, "  {}", made.command);
    };
    for left_out in &done.left_out {
        writeln!(out, "! left out: {}", shown_message(&made.says(left_out)))?;
    }
    let missed = match done.left_out.len() {
        0 => String::new(),
        count => format!(", but for {}", plural(count, "path")),
    };
    match done.run {
        Some(run) => writeln!(out, "done, {direction}{missed} {}", run_and_undo(run)),
        None => writeln!(out, "nothing was written{missed}"),
    }
}

fn write_json(made: &Made, done: Option<&Carried>, out: &mut dyn Write) -> io::Result<()> {
    records::write_plan(&made.plan, made.roots.as_bytes(), out)?;
    let Some(done) = done else { return Ok(()) };
    for left_out in &done.left_out {
        let path = left_out.path.as_os_str().as_encoded_bytes();
        json::write_record(&records::left_out(path, &left_out.reason), out)?;
    }
    json::write_record(&json::run_record(done.run, done.run.is_some()), out)
}
