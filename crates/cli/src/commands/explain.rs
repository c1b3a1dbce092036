//! `explain`: how files are read and why, and why a line or a change counts, is muted or is ignored.

use std::io::Write;

use anyhow::{Result, bail};
use tideline_core::internal::kinds::text::{Explanation, LineOf, explain_change, explain_line};
use tideline_core::internal::kinds::{Comparison, TextPair, kind_reason};
use tideline_views::json;
use tideline_views::terminal::{draw_explanations, draw_item_explanation, draw_reading};
use tideline_views::{PairView, reading_in_words};

use super::Outcome;
use super::compare::locate;
use super::lines::AskedLines;
use super::print::printing;
use super::request::{Asked, Request};
use super::resolve::{Resolved, open_in_trees};
use super::sides::Sides;
use crate::args::{ExplainArgs, FilesArgs, LineChoice};
use crate::settings::{Config, look_of_colours};

pub(super) fn run(args: &ExplainArgs) -> Result<Outcome> {
    let config = Config::load(&args.what)?;
    let ExplainArgs { before, after, what, read, counted_only, sides, .. } = args;
    let (paths, files) = (&[][..], &FilesArgs::default());
    let lines = AskedLines { holds: Some(&args.holds), part: None };
    let request = Request::new(
        &Asked { before, after, paths, what, read, files, sides, counted_only: *counted_only, lines },
        &config,
    )?;
    let look = look_of_colours(&args.colour.for_records(args.json), &config.view)?;
    let both = (args.before.as_path(), args.after.as_path());
    let sides = match (request.open()?, &args.path) {
        (Resolved::Trees(trees), Some(path)) => {
            let found = locate(&trees, path)?;
            open_in_trees(&trees, both, &found)?
        }
        (Resolved::Files(_), Some(path)) => {
            bail!("cannot look for {} in two files: a path can follow two folders only", path.display())
        }
        (Resolved::Trees(_), None) => bail!(
            "cannot explain a line of {} and {}: they are folders; name the file in them too",
            args.before.display(),
            args.after.display()
        ),
        (Resolved::Files(sides), None) => *sides,
    };
    let comparison = sides.compare(&request.contents);
    request.check_lines(&comparison, &sides.names.labels)?;
    request.check_kind(&comparison, &sides.names.labels)?;
    let view = PairView::new(&comparison, sides.title(None));
    let reading = reading_in_words(&view, &kind_reason(sides.type_name().as_bytes(), &request.contents));
    let head = |out: &mut dyn Write| {
        if args.json {
            json::write_record(&json::rules::reading(&comparison, reading.clone()), out)
        } else {
            draw_reading(&sides.title(None), &reading, &look, out)
        }
    };
    let Comparison::Text(texts) = &comparison else {
        explain_items(args, &comparison, &sides)?;
        printing(false, |out| {
            head(out)?;
            match args.change {
                Some(number) if !args.json => draw_item_explanation(&view, number as usize, &look, out),
                _ => Ok(()),
            }
        })?;
        return sides.check().map(|()| Outcome::Same);
    };
    if args.line.is_none() && args.change.is_none() {
        printing(false, head)?;
        return sides.check().map(|()| Outcome::Same);
    }
    let TextPair { before, after, found, .. } = &**texts;
    let line = |side: LineOf, line: usize, label: &str| -> Result<Vec<Explanation>> {
        match explain_line(before, after, found, (side, line - 1)) {
            Some(explanation) => Ok(vec![explanation]),
            None => bail!("there is no line {line} in {label}"),
        }
    };
    let labels = &sides.names.labels;
    let explanations = match (args.line, args.change) {
        (Some(LineChoice::Before(number)), _) => line(LineOf::Before, number, &labels.before)?,
        (Some(LineChoice::After(number)), _) => line(LineOf::After, number, &labels.after)?,
        (None, number) => {
            let number = number.unwrap_or(1) as usize;
            match explain_change(before, after, found, number) {
                Some(explanations) => explanations,
                None => bail!("there is no change {number}: changes are numbered from 1 to {}", found.changes.len()),
            }
        }
    };
    printing(false, |out| match view {
        PairView::Text(view) if args.json => {
            explanations.iter().try_for_each(|one| json::write_record(&json::rules::explanation(&view, one), out))
        }
        PairView::Text(view) => draw_explanations(&view, &explanations, &look, out),
        _ => Ok(()),
    })?;
    sides.check().map(|()| Outcome::Same)
}

/// Refuses a line of what has none, and a change that is not there.
fn explain_items(args: &ExplainArgs, comparison: &Comparison<'_>, sides: &Sides) -> Result<()> {
    if args.line.is_some() {
        bail!(
            "cannot explain a line of {}: it is not compared by lines; name a change, or add --kind text",
            sides.type_name()
        );
    }
    let extent = comparison.extent();
    let all = extent.counted + extent.muted;
    match args.change {
        Some(number) if number as usize > all => {
            bail!("there is no change {number}: changes are numbered from 1 to {all}")
        }
        _ => Ok(()),
    }
}
