//! `compare` on two folders.

use std::io::{self, Write};

use anyhow::Result;
use tideline_core::kinds::text::Grain;
use tideline_core::model::Status;
use tideline_core::rules::Rules;
use tideline_core::tree::{Pair, TreeComparison};
use tideline_views::json::{self, records::Record};
use tideline_views::report::Body;
use tideline_views::terminal::{self, Look, draw_tree, write_account};
use tideline_views::{Labels, TreeView, note};

use super::named::{Named, compare_asked};
use super::settings::Settings;
use crate::args::{CompareArgs, FilesArgs, TrustChoice};
use crate::commands::pairs::Trees;
use crate::commands::print::printing;
use crate::commands::progress::with_progress;
use crate::commands::unused::tell_unused;
use crate::commands::{Outcome, tell};
use crate::settings::{name_trees, tree_options};

pub(super) fn run(args: &CompareArgs, settings: &Settings, trees: &Trees) -> Result<Outcome> {
    let look = &settings.look;
    let mut options = tree_options(&args.files, settings.contents.clone())?;
    if args.quiet {
        options = options.counts(false).moves(false);
    } else if args.flat || args.null {
        options = options.counts(false);
    }
    let asked =
        with_progress(|progress| compare_asked(trees, options, &args.paths, args.counted_only, &args.files, progress));
    let (comparison, paths) = asked?;
    let named_files = !paths.is_empty() && paths.iter().all(|path| path.is_file);
    let paged = settings.paged && !args.json && !args.flat && !args.null;
    if !args.quiet {
        printing(paged, |out| {
            if args.json {
                write_json(&comparison, trees, args.each_file || named_files, look.marked(), out)
            } else if args.flat || args.null {
                write_flat(&comparison, args.null, out)
            } else if named_files {
                draw_files(&paths, &comparison, trees, look, out)
            } else {
                draw_tree(&view_of(&comparison, &trees.labels, &args.files, args.counted_only), look, out)?;
                if args.each_file { draw_each(&comparison, trees, look, out) } else { Ok(()) }
            }
        })?;
    }
    Ok(concluded(&comparison, settings.contents.all_rules()))
}

/// Says on standard error what could not be read and which rules did nothing, and what the exit status tells.
pub(in crate::commands) fn concluded(comparison: &TreeComparison, rules: &Rules) -> Outcome {
    complain_of_unreadable(comparison);
    if comparison.differs() || !comparison.account.is_empty() {
        tell_unused(rules, &comparison.account);
    }
    outcome(comparison)
}

/// What the exit status tells of two trees.
fn outcome(comparison: &TreeComparison) -> Outcome {
    if comparison.count(Status::Unreadable) > 0 {
        Outcome::Trouble
    } else if comparison.differs() {
        Outcome::Different
    } else {
        Outcome::Same
    }
}

/// What could not be read is said on standard error too, where a script that reads the output sees it.
fn complain_of_unreadable(comparison: &TreeComparison) {
    for pair in comparison.pairs.iter().filter(|pair| pair.status == Status::Unreadable) {
        let path = String::from_utf8_lossy(&pair.path);
        let reason = note(pair).unwrap_or_default();
        tell(&format!("cannot read {path}: {reason}"));
    }
}

/// Two trees as the options want them shown.
pub(in crate::commands) fn view_of<'a>(
    comparison: &'a TreeComparison,
    labels: &'a Labels,
    files: &'a FilesArgs,
    counted_only: bool,
) -> TreeView<'a> {
    TreeView {
        labels,
        comparison,
        only: (!files.only.is_empty()).then_some(files.only.as_slice()),
        muted_is_hidden: counted_only,
        trusted: files.trust.map(|trust| match trust {
            TrustChoice::Size => "size",
            TrustChoice::Time => "size and time",
        }),
    }
}

/// Draws what is known of two trees.
pub(super) fn draw_known(
    comparison: &TreeComparison,
    args: &CompareArgs,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let labels = name_trees(&args.before, &args.after);
    draw_tree(&view_of(comparison, &labels, &args.files, args.counted_only), look, out)
}

fn write_flat(comparison: &TreeComparison, null: bool, out: &mut dyn Write) -> io::Result<()> {
    for pair in &comparison.pairs {
        out.write_all(&pair.path)?;
        out.write_all(if null { b"\0" } else { b"\n" })?;
    }
    Ok(())
}

/// Draws every pair with contents to show, each below an empty line.
fn draw_each(comparison: &TreeComparison, trees: &Trees, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let look = look.clone().legend(false);
    for pair in comparison.pairs.iter().filter(|pair| pair.is_file() && pair.contents_differ()) {
        writeln!(out)?;
        draw_pair(pair, trees, &look, out)?;
    }
    Ok(())
}

/// Draws the files that were named, whatever became of them.
fn draw_files(
    named: &[Named],
    comparison: &TreeComparison,
    trees: &Trees,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    for (index, named) in named.iter().enumerate() {
        if index > 0 {
            writeln!(out)?;
        }
        let is_named = |pair: &&Pair| pair.path == named.path || *pair.path_before() == named.path;
        let path = String::from_utf8_lossy(&named.path).into_owned();
        match comparison.pairs.iter().find(is_named) {
            None => {
                let (before, after) = (&trees.labels.before, &trees.labels.after);
                let aside = if comparison.account.is_empty() { "" } else { ", but for what is put aside" };
                writeln!(out, "{} is the same in {before} and {after}{aside}", path.escape_debug())?;
                write_account(&comparison.account, true, look, out)?;
            }
            Some(pair) if pair.is_file() => draw_pair(pair, trees, look, out)?,
            Some(pair) => {
                let note = note(pair).unwrap_or_default();
                writeln!(out, "{}: {} {}", path.escape_debug(), pair.status.name(), note.escape_debug())?;
            }
        }
    }
    Ok(())
}

fn draw_pair(pair: &Pair, trees: &Trees, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let path = String::from_utf8_lossy(&pair.path);
    trees.with_pair(pair, |held| match held {
        Body::Pair(view) => terminal::draw_pair(&view, look, out),
        Body::Nothing(why) => writeln!(out, "{}: {why}", path.escape_debug()),
    })
}

fn write_json(
    comparison: &TreeComparison,
    trees: &Trees,
    changes: bool,
    grain: &Grain,
    out: &mut dyn Write,
) -> io::Result<()> {
    json::write_record(&json::opening(&trees.labels), out)?;
    for pair in &comparison.pairs {
        json::write_record(&Record::Pair(json::tree_pair(pair)), out)?;
        if changes && pair.is_file() && pair.contents_differ() {
            trees.with_pair(pair, |held| match held {
                Body::Pair(view) => {
                    let take = &mut |record| json::write_record(&record, out);
                    json::give_pair_changes(&pair.path, &view, (grain, usize::MAX), take)
                }
                // A file that has become unreadable since has no changes to tell.
                Body::Nothing(_) => Ok(()),
            })?;
        }
    }
    json::write_record(&json::tree_summary(comparison), out)
}
