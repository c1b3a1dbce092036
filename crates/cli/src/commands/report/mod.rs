//! `report`: what differs, written down for somebody else.

mod files;
mod folder;
mod target;
mod tree;

use std::env;
use std::path::Path;

use anyhow::{Context as _, Result, bail};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use tideline_core::kinds::ContentOptions;
use tideline_core::rules::Account;
use tideline_views::Syntax;
use tideline_views::html::SIGNATURE;
use tideline_views::report::{Head, Shape};

use super::Outcome;
use super::writing::{Inputs, typed};
use crate::args::{ReportArgs, SyntaxChoice};
use crate::settings::{Config, content_options, encodings, grain};
use target::{Format, Target};

/// Text up to this size is coloured by its syntax unless something else is said.
const COLOURED: u64 = 256 << 10;
/// Changes shown of a file in Markdown unless something else is said.
const MOST_IN_MARKDOWN: usize = 20;

/// What every part of a report is made from.
struct Making<'a> {
    args: &'a ReportArgs,
    contents: ContentOptions,
    shape: Shape,
    made: String,
    command: String,
}

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
    let contents = content_options(&args.what, &config, encodings(&args.read)?, args.counted_only)?;
    let markdown = (target.format() == Format::Markdown).then_some(MOST_IN_MARKDOWN);
    let shape = Shape::default()
        .context(args.context)
        .grain(grain(&args.grain)?)
        .most_changes(args.each_limit.or(markdown).unwrap_or(usize::MAX));
    let making = Making { args, contents, shape, made: made()?, command: typed() };
    let folders = args.before.is_dir() && args.after.is_dir();
    if let Some(path) = args.paths.first().filter(|_| !folders) {
        let (before, after) = (args.before.display(), args.after.display());
        bail!("cannot look for {} in {before} and {after}: paths can follow two folders only", path.display());
    }
    let outcome = if folders { tree::run(&making, &target)? } else { files::run(&making, &target)? };
    if let Some(path) = target.shown().filter(|_| args.open) {
        open::that_detached(&path).with_context(|| format!("cannot open {} in a browser", path.display()))?;
    }
    Ok(outcome)
}

impl Making<'_> {
    /// What stands at the head of a page, which may be about one file.
    fn head<'h>(
        &'h self,
        title: &'h str,
        labels: &'h tideline_views::Labels,
        paths: &'h (String, String),
        account: &'h Account,
        about: Option<&'h [u8]>,
    ) -> Head<'h> {
        Head {
            title,
            labels,
            paths: (&paths.0, &paths.1),
            made: &self.made,
            command: &self.command,
            rules: self.contents.all_rules(),
            account,
            about,
        }
    }

    /// The title that was asked for, or one.
    fn title(&self, otherwise: impl FnOnce() -> String) -> String {
        self.args.title.clone().unwrap_or_else(otherwise)
    }

    /// How files are shown, in a report on so much text.
    fn shape(&self, bytes: u64) -> Shape {
        let syntax = match self.args.syntax.unwrap_or(SyntaxChoice::Auto) {
            SyntaxChoice::On => Syntax::On,
            SyntaxChoice::Auto if bytes <= COLOURED => Syntax::On,
            SyntaxChoice::Auto | SyntaxChoice::Off => Syntax::Off,
        };
        self.shape.clone().syntax(syntax)
    }

    /// The paths of both sides, as they were given.
    fn paths(&self) -> (String, String) {
        let told = |path: &Path| path.display().to_string();
        (told(&self.args.before), told(&self.args.after))
    }
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
