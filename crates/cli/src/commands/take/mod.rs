//! `take`: carries chosen changes of two files into one of them.

mod ask;
mod ranges;
mod rows;
mod target;

use std::path::Path;

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::{Comparison, TextPair};
use tideline_core::internal::merge::{Pick, take};
use tideline_core::internal::patch::is_patch_text;
use tideline_views::PairView;

use super::Outcome;
use super::compare::locate;
use super::lines::AskedLines;
use super::print::printing;
use super::request::{Asked, Request};
use super::resolve::{Resolved, open_in_trees};
use super::sides::Sides;
use super::writing::Inputs;
use crate::args::{FilesArgs, TakeArgs};
use crate::settings::{Config, look};
use target::{BothTexts, Done, Target, selection};

pub(super) fn run(args: &TakeArgs) -> Result<Outcome> {
    let config = Config::load(&args.what)?;
    match &args.path {
        Some(path) => {
            let sides = of_trees(args, path, &config)?;
            let (before, after) = sides.paths.clone();
            let args = TakeArgs { before, after, path: None, ..args.clone() };
            run_on(&args, &config, Some(sides))
        }
        None => run_on(args, &config, None),
    }
}

/// The two files at a path in two folders.
fn of_trees(args: &TakeArgs, path: &Path, config: &Config) -> Result<Sides> {
    let TakeArgs { before, after, what, read, counted_only, sides, .. } = args;
    let (files, lines) = (&FilesArgs::default(), AskedLines::default());
    let asked = Asked { before, after, paths: &[], what, read, files, sides, counted_only: *counted_only, lines };
    let Resolved::Trees(trees) = Request::new(&asked, config)?.open()? else {
        bail!("cannot look for {} in two files: a path can follow two folders only", path.display());
    };
    let found = locate(&trees, path)?;
    open_in_trees(&trees, (before, after), &found)
}

/// Carries changes of two files, which may be open already.
fn run_on(args: &TakeArgs, config: &Config, opened: Option<Sides>) -> Result<Outcome> {
    let TakeArgs { before, after, what, read, counted_only, sides, .. } = args;
    let (paths, files) = (&[][..], &FilesArgs::default());
    let lines = AskedLines { holds: Some(&args.holds), part: None };
    let request = Request::new(
        &Asked { before, after, paths, what, read, files, sides, counted_only: *counted_only, lines },
        config,
    )?;
    let contents = &request.contents;
    // Records need no answer from the terminal.
    let look = look(&args.look.for_records(args.json), &config.view)?;
    let sides = match opened {
        Some(sides) => sides,
        None => match request.open()? {
            Resolved::Files(sides) => *sides,
            Resolved::Trees(_) => bail!(
                "cannot take changes of two folders: name the file in them too; `tideline sync` makes one folder like another"
            ),
        },
    };
    if let Some(output) = &args.output {
        Inputs { paths: vec![&args.before, &args.after], is_earlier: |_| false, command: "take" }.refuse(output)?;
    }
    let comparison = sides.compare(contents);
    request.check_lines(&comparison, &sides.names.labels)?;
    request.check_kind(&comparison, &sides.names.labels)?;
    if comparison.extracted().is_some() {
        let is_text = |bytes: &[u8]| is_patch_text(bytes);
        let instead = match is_text(&sides.before) && is_text(&sides.after) {
            true => "--kind text takes their lines",
            false => "take the whole file, or its bytes with --kind bytes",
        };
        bail!(
            "cannot take changes of {} and {}: they are documents, of which only the text is read; {instead}",
            args.before.display(),
            args.after.display()
        );
    }
    let texts = match &comparison {
        Comparison::Text(texts) => &**texts,
        Comparison::Table(tables) => return rows::run(args, &sides, tables, contents, &look),
        Comparison::Data(_) => bail!(
            "cannot take changes of {} and {} as data: `patch --format json-patch` and `apply` carry changes of JSON, and \
             without --kind data they are carried as lines",
            args.before.display(),
            args.after.display()
        ),
        Comparison::Sheets(_) => return Ok(Outcome::Same),
        Comparison::Image(_) => bail!(
            "cannot take changes of {} and {}: regions of images are not carried; take the whole file, or its bytes with \
             --kind bytes",
            args.before.display(),
            args.after.display()
        ),
        Comparison::Bytes(bytes) => return ranges::run(args, &sides, bytes, (contents, &look)),
    };
    let TextPair { before, after, found, .. } = texts;
    let target = Target::of(args, &sides, &BothTexts::of(texts))?;
    let picks = if args.ask {
        let PairView::Text(view) = PairView::new(&comparison, sides.title(None)) else { return Ok(Outcome::Same) };
        match ask::picks(&view, target.into, &look)? {
            Some(picks) => picks,
            None => {
                printing(false, |out| writeln!(out, "nothing was written"))?;
                return Ok(Outcome::Same);
            }
        }
    } else {
        selection(args)
            .picks((before, after), found)
            .with_context(|| format!("cannot take changes of {} and {}", args.before.display(), args.after.display()))?
    };
    let taken = take((before, after), found, target.into, &picks);
    let bytes = target.encoded(&taken)?;
    sides.check()?;
    let is_same = bytes == target.bytes;
    let replaces = args.output.as_ref().is_some_and(|output| output.symlink_metadata().is_ok());
    let run = if args.dry_run || is_same && args.output.is_none() { None } else { target.write(args, bytes)? };
    // Lines that are all of a change are the change.
    let all_of_them: Vec<Pick> =
        picks.iter().map(|pick| if *pick == Pick::Leave { Pick::Leave } else { Pick::Take }).collect();
    let whole = picks == all_of_them || take((before, after), found, target.into, &all_of_them) == taken;
    let done = Done { target: &target, taken: &taken, picks: &picks, run, whole, replaces };
    printing(false, |out| {
        if args.json { done.write_json(contents, &look, out) } else { done.draw(args, contents, &look, out) }
    })?;
    Ok(Outcome::Same)
}
