//! `report`: what differs, written into a file for others.

mod base;
mod files;
mod folder;
mod found;
mod making;
mod target;
mod tree;

use std::env;

use anyhow::{Context as _, Result, bail};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use tideline_views::html::SIGNATURE;
use tideline_views::report::Shape;

use super::Outcome;
use super::lines::AskedLines;
use super::remembered::Remembered;
use super::request::{Asked, Request};
use super::resolve::{Resolved, refuse_paths};
use super::writing::{Inputs, typed};
use crate::args::ReportArgs;
use crate::settings::{Config, grain};
use making::{MOST_IN_MARKDOWN, Making};
use target::{Format, Target};

pub(super) fn run(args: &ReportArgs) -> Result<Outcome> {
    let target = Target::of(args)?;
    if let Some(path) = target.path() {
        let is_earlier = |bytes: &[u8]| memchr::memmem::find(bytes, SIGNATURE.as_bytes()).is_some();
        Inputs { paths: vec![&args.before, &args.after], is_earlier, command: "report" }.refuse(path)?;
    }
    if args.open && target.path().is_none() {
        bail!("cannot open a report that goes to standard output: name a file with -o");
    }
    let config = Config::load(&args.what)?;
    if let Some(base) = &args.base {
        let outcome =
            base::run(&base::Asked { args, base, config: &config, made: made()?, command: typed() }, &target)?;
        return opened(args, &target).map(|()| outcome);
    }
    let ReportArgs { before, after, paths, what, read, files, counted_only, sides, .. } = args;
    let lines = AskedLines { holds: Some(&args.holds), part: Some(&args.part) };
    let request = Request::new(
        &Asked { before, after, paths, what, read, files, sides, counted_only: *counted_only, lines },
        &config,
    )?
    .looked_at_again();
    let markdown = (target.format() == Format::Markdown).then_some(MOST_IN_MARKDOWN);
    let shape = Shape::default()
        .context(args.context)
        .grain(grain(&args.grain)?)
        .sections(args.sections)
        .most_changes(args.each_limit.or(markdown).unwrap_or(usize::MAX));
    let shape = if args.with_notes { shape.remarks(Remembered::of(before, after)?.remarks()) } else { shape };
    let making =
        Making { request, title: args.title.clone(), syntax: args.syntax, shape, made: made()?, command: typed() };
    let outcome = match making.request.open()? {
        Resolved::Trees(trees) => tree::run(&making, *trees, &target)?,
        Resolved::Files(sides) => {
            refuse_paths(paths, before, after)?;
            files::run(&making, &sides, &target)?
        }
    };
    opened(args, &target)?;
    Ok(outcome)
}

/// Shows the report in the desktop's browser, if that was asked for.
fn opened(args: &ReportArgs, target: &Target) -> Result<()> {
    if let Some(path) = target.shown().filter(|_| args.open) {
        open::that_detached(&path).with_context(|| format!("cannot open {} in a browser", path.display()))?;
    }
    Ok(())
}

/// When the report is made, for a reader. A build that is to come out the same each time says when that is
/// (<https://reproducible-builds.org/specs/source-date-epoch/>).
fn made() -> Result<String> {
    let (time, zone) = match env::var("SOURCE_DATE_EPOCH") {
        Ok(seconds) => {
            let wrong = || format!("cannot use SOURCE_DATE_EPOCH {seconds}: give seconds since 1970");
            let time = seconds.parse().ok().and_then(|seconds| Timestamp::from_second(seconds).ok());
            (time.with_context(wrong)?, TimeZone::UTC)
        }
        Err(_) => (Timestamp::now(), TimeZone::system()),
    };
    Ok(time.to_zoned(zone).strftime("%Y-%m-%d %H:%M %Z").to_string())
}
