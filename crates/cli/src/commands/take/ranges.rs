//! `take` of two contents that are compared byte by byte, range by range.

use std::io::{self, Write};

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::{BytesPair, ContentOptions, WantedKind, compare};
use tideline_core::internal::merge::take_ranges;
use tideline_core::internal::model::Kind;
use tideline_views::terminal::{Look, draw_pair};
use tideline_views::{Labels, PairView, Title, json};

use super::target::{Into, selection, write, write_done};
use crate::args::TakeArgs;
use crate::commands::Outcome;
use crate::commands::print::printing;
use crate::commands::sides::Sides;

/// Carries ranges of two contents into one of them.
pub(super) fn run(
    args: &TakeArgs,
    sides: &Sides,
    pair: &BytesPair<'_>,
    (contents, look): (&ContentOptions, &Look),
) -> Result<Outcome> {
    if args.ask || !args.lines.is_empty() {
        bail!("--ask and --lines are for text: ranges of bytes are taken by --changes or --all-but");
    }
    let target = Into::of(args, sides)?;
    let cannot = || format!("cannot take changes of {} and {}", args.before.display(), args.after.display());
    let picked = selection(args).numbered(pair.found.changes.len()).with_context(cannot)?;
    let taken = take_ranges((pair.before, pair.after), &pair.found, target.into, &picked);
    sides.check()?;
    let replaces = args.output.as_ref().is_some_and(|output| output.symlink_metadata().is_ok());
    let is_same = taken == target.bytes;
    let run = match args.dry_run || is_same && args.output.is_none() {
        true => None,
        false => write(args, (target.path, target.bytes), taken.clone())?,
    };
    let labels = Labels::new("as it was", "as it is now");
    let as_bytes = contents.clone().kind(Some(WantedKind::As(Kind::Bytes)));
    let made = compare(b"", (target.bytes, &taken), &as_bytes);
    let title = Title { name: &target.label, type_name: sides.type_name(), labels: &labels, note: None };
    let view = PairView::new(&made, title);
    let count = picked.iter().filter(|picked| **picked).count();
    printing(false, |out| {
        if args.json {
            return write_json(sides, &view, run, (&labels, look), out);
        }
        if !is_same {
            draw_pair(&view, &look.clone().legend(false), out)?;
            writeln!(out)?;
        }
        write_done(args, (target.path, replaces), (count, picked.len(), ""), run, out)
    })?;
    Ok(Outcome::Same)
}

fn write_json(
    sides: &Sides,
    view: &PairView<'_>,
    run: Option<u64>,
    (labels, look): (&Labels, &Look),
    out: &mut dyn Write,
) -> io::Result<()> {
    json::write_record(&json::opening(labels), out)?;
    let path = sides.type_name().as_bytes();
    json::give_pair_changes(path, view, (look.marked(), usize::MAX), &mut |record| json::write_record(&record, out))?;
    json::write_record(&json::run_record(run, run.is_some()), out)
}
