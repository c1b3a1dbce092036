//! `compare`: what changed between two files or two trees.
//!
//! There is one way through it, and other commands that compare share its steps: arguments become a [`Request`] and an [`Output`], a
//! request becomes two sides, the sides a comparison, and the output prints it.

mod base;
mod files;
mod named;
mod output;
mod trees;
mod watch;

use anyhow::Result;

use super::Outcome;
use super::lines::AskedLines;
use super::request::{Asked, Request};
use super::resolve::{Resolved, refuse_paths};
use crate::args::{CompareArgs, FilesArgs};
use crate::settings::Config;
pub(super) use files::{give_records, give_section_records};
pub(crate) use named::{all_that_is_shown, compare_asked};
pub(super) use named::{locate, narrowed};
use output::Output;
pub(crate) use trees::{concluded, order};

pub(super) fn run(args: &CompareArgs) -> Result<Outcome> {
    let config = Config::load(&args.what)?;
    if let Some(base) = &args.base {
        return base::run(args, base, &config);
    }
    let CompareArgs { before, after, paths, what, read, files, counted_only, sides, .. } = args;
    let lines = AskedLines { holds: Some(&args.holds), part: Some(&args.part) };
    // Of folders that are counted for the one above them, all is looked at.
    let all = FilesArgs { depth: None, ..files.clone() };
    let files = if args.folders { &all } else { files };
    let asked = Asked { before, after, paths, what, read, files, sides, counted_only: *counted_only, lines };
    let request = Request::new(&asked, &config)?.sorted_by(args.sort);
    match Output::of(args, &config)? {
        Output::Terminal(terminal) if args.watch => {
            // What came before is not waited for in a pager.
            once(&request, &Output::Terminal(output::Terminal { paged: false, ..terminal.clone() }))?;
            watch::run(&request, &terminal.look)
        }
        output if output.looks_again(&request) => once(&request.looked_at_again(), &output),
        output => once(&request, &output),
    }
}

/// Refuses paths that were named after two files.
pub(crate) fn paths_refused(request: &Request) -> Result<()> {
    refuse_paths(&request.paths, &request.before, &request.after)
}

/// Compares two files, or two trees.
fn once(request: &Request, output: &Output) -> Result<Outcome> {
    match request.open()? {
        Resolved::Trees(trees) => trees::run(request, output, &trees),
        Resolved::Files(sides) => {
            refuse_paths(&request.paths, &request.before, &request.after)?;
            files::run(request, output, &sides)
        }
    }
}
