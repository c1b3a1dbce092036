//! `compare`: what changed between two files.

use std::io::Write;

use anyhow::Result;
use tideline_core::kinds::text::{TextOptions, compare};
use tideline_views::terminal::{FileView, draw_stacked};

use super::sides::{Sides, open_files};
use super::{Outcome, printing};
use crate::args::CompareArgs;
use crate::settings::look;

pub(super) fn run(args: &CompareArgs) -> Result<Outcome> {
    let look = look(&args.look)?;
    let sides = open_files(&args.before, &args.after)?;
    if args.quiet {
        let same = *sides.before == *sides.after;
        return Ok(if same { Outcome::Same } else { Outcome::Different });
    }
    let comparison = compare(&sides.before, &sides.after, &TextOptions::default());
    if !comparison.differs() {
        printing(|out| writeln!(out, "{}", same_line(&sides)))?;
        return Ok(Outcome::Same);
    }
    let view = FileView {
        name: &sides.names.name,
        labels: &sides.names.labels,
        before: &sides.before,
        after: &sides.after,
        comparison: &comparison,
    };
    printing(|out| draw_stacked(&view, &look, out))?;
    Ok(Outcome::Different)
}

/// The one line that says that two files are the same.
fn same_line(sides: &Sides) -> String {
    let names = &sides.names;
    let size = match sides.before.len() {
        1 => "1 byte".to_owned(),
        size => format!("{size} bytes"),
    };
    let (before, after) = (&names.labels.before, &names.labels.after);
    if names.name.is_empty() {
        format!("{before} and {after} are the same ({size})")
    } else {
        format!("{} is the same in {before} and {after} ({size})", names.name)
    }
}
