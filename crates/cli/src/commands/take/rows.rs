//! `take` of two tables, row by row.

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::{ContentOptions, TablePair};
use tideline_core::internal::merge::{Pick, TakeInto, take_rows};
use tideline_views::terminal::Look;

use super::target::{BothTexts, Done, Target, selection};
use crate::args::{SideChoice, TakeArgs};
use crate::commands::Outcome;
use crate::commands::print::printing;
use crate::commands::sides::Sides;

/// Carries rows of two tables into one of them.
pub(super) fn run(
    args: &TakeArgs,
    sides: &Sides,
    tables: &TablePair<'_>,
    contents: &ContentOptions,
    look: &Look,
) -> Result<Outcome> {
    if args.ask || !args.lines.is_empty() {
        bail!("--ask and --lines are for text: rows of tables are taken by --changes or --all-but");
    }
    let both = BothTexts {
        texts: (tables.before.text(), tables.after.text()),
        encodings: tables.encodings,
        rules: (&tables.rules.0, &tables.rules.1),
    };
    let target = Target::of(args, sides, &both)?;
    let cannot = || format!("cannot take changes of {} and {}", args.before.display(), args.after.display());
    let picked = selection(args).numbered(tables.found.changes.len()).with_context(cannot)?;
    let into = if args.into == SideChoice::Before { TakeInto::Before } else { TakeInto::After };
    let taken = take_rows((&tables.before, &tables.after), &tables.found, into, &picked).with_context(cannot)?;
    let bytes = target.encoded(&taken)?;
    sides.check()?;
    let is_same = bytes == target.bytes;
    let replaces = args.output.as_ref().is_some_and(|output| output.symlink_metadata().is_ok());
    let run = if args.dry_run || is_same && args.output.is_none() { None } else { target.write(args, bytes)? };
    let pick = |picked: &bool| if *picked { Pick::Take } else { Pick::Leave };
    let picks: Vec<Pick> = picked.iter().map(pick).collect();
    let done = Done { target: &target, taken: &taken, picks: &picks, run, whole: true, replaces };
    printing(false, |out| {
        if args.json { done.write_json(contents, look, out) } else { done.draw(args, contents, look, out) }
    })?;
    Ok(Outcome::Same)
}
