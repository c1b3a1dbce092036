//! `compare` on two folders.

use std::cmp::Ordering;
use std::io::{self, IsTerminal, Write};
use std::ops::ControlFlow;
use std::time::{Duration, Instant};

use anyhow::{Result, bail};
use rayon::prelude::*;
use tideline_core::internal::kinds::Comparison;
use tideline_core::internal::kinds::text::sections::SectionChange;
use tideline_core::internal::kinds::text::{Grain, Repeat, Repeats};
use tideline_core::internal::model::Status;
use tideline_core::internal::rules::Rules;
use tideline_core::internal::tree::{self, Note, Pair, PairSink, Progress, TreeComparison, TreeOptions};
use tideline_views::json::{self, records::Record};
use tideline_views::report::Body;
use tideline_views::terminal::{self, Look, draw_folders, draw_repeats, draw_sections, draw_tree, write_account};
use tideline_views::{PairView, Title, note, plural, sections_in_words};

use super::files::{add_repeats, write_path};
use super::named::{Named, all_that_is_shown, compare_asked};
use super::output::{Inside, Output, Terminal};
use crate::args::SortBy;
use crate::commands::pairs::Trees;
use crate::commands::print::{printing, printing_changes};
use crate::commands::progress::with_progress;
use crate::commands::request::Request;
use crate::commands::unused::{tell_unfitted, tell_unused};
use crate::commands::{Outcome, tell};

/// Files whose contents are told at a time, in parallel.
const AT_ONCE: usize = 64;
/// How often what is printed goes on its way, at least.
const OFTEN: Duration = Duration::from_millis(100);

pub(super) fn run(request: &Request, output: &Output, trees: &Trees) -> Result<Outcome> {
    let by_counts = matches!(request.sort, SortBy::Changes | SortBy::Lines);
    let options = if by_counts { request.trees.clone() } else { output.needed(request.trees.clone()) };
    let whole = |options| -> Result<_> {
        let (mut comparison, named) = with_progress(|progress| compare_asked(request, trees, options, progress))?;
        comparison.pairs.sort_by(|one, other| order(request.sort, one, other));
        Ok((comparison, named))
    };
    let is_streamed = request.paths.is_empty() && request.sort == SortBy::Path;
    let comparison = match output {
        Output::Quiet => whole(options)?.0,
        Output::Json { each_file, .. } if is_streamed && *each_file != Inside::Repeats => {
            stream(output, trees, &all_that_is_shown(request, options))?
        }
        Output::Paths { .. } if is_streamed => stream(output, trees, &all_that_is_shown(request, options))?,
        Output::Paths { null } => {
            let (comparison, _) = whole(options)?;
            printing(false, |out| comparison.pairs.iter().try_for_each(|pair| write_path(&pair.path, *null, out)))?;
            comparison
        }
        Output::Json { grain, each_file } => {
            let (comparison, named) = whole(options)?;
            let named_files = named.iter().all(|named| named.is_file);
            let inside = if named_files && *each_file == Inside::Nothing { Inside::Changes } else { *each_file };
            printing(false, |out| {
                json::write_record(&json::opening(&trees.labels), out)?;
                let mut pairs = comparison.pairs.iter();
                pairs.try_for_each(|pair| write_records(pair, trees, (inside, grain), out))?;
                if inside == Inside::Repeats {
                    let repeats = repeats_in(&comparison, trees);
                    repeats.iter().try_for_each(|repeat| json::write_record(&json::repeat(repeat), out))?;
                }
                json::write_record(&json::tree_summary(&comparison), out)
            })?;
            comparison
        }
        Output::Terminal(terminal) => {
            let Terminal { look, paged, each_file, .. } = terminal;
            let (comparison, named) = whole(options)?;
            let named_files = !named.is_empty() && named.iter().all(|named| named.is_file);
            if terminal.changes.is_some() {
                check_changes(terminal, &named, &comparison)?;
            }
            let has_changes = named_files || *each_file == Inside::Changes;
            let print = if has_changes { printing_changes } else { printing };
            print(*paged, &mut |out: &mut dyn Write| {
                match each_file {
                    Inside::Sections => return draw_each_sections(&comparison, trees, look, out),
                    Inside::Repeats => return draw_repeats(&repeats_in(&comparison, trees), look, out),
                    Inside::Folders(depth) => {
                        let depth = depth.map(usize::from);
                        return draw_folders(&request.view(&comparison, &trees.labels), depth, look, out);
                    }
                    Inside::Nothing | Inside::Changes => {}
                }
                if named_files {
                    return draw_files(&named, &comparison, trees, look, out);
                }
                draw_tree(&request.view(&comparison, &trees.labels), look, out)?;
                if *each_file == Inside::Changes {
                    draw_each(&comparison, trees, look, out)?;
                    tell_what_is_not_drawn(&comparison, out)?;
                }
                Ok(())
            })?;
            comparison
        }
    };
    if request.paths.is_empty() {
        tell_unfitted(&request.trees);
    }
    Ok(concluded(&comparison, request.contents.all_rules()))
}

/// Refuses numbers of changes where not one file is named, or it does not have them.
fn check_changes(terminal: &Terminal, named: &[Named], comparison: &TreeComparison) -> Result<()> {
    let [Named { path, is_file: true }] = named else {
        bail!("cannot show some changes of two folders: name one file after them");
    };
    let pair = comparison.pairs.iter().find(|pair| pair.path == *path || pair.path_before() == path);
    let changes = pair.map_or(0, |pair| pair.extent.counted + pair.extent.muted);
    terminal.check_changes(&path.to_text(), changes.max(1))
}

/// Which of two pairs comes first; those that are alike in it stay as they are.
pub(crate) fn order(by: SortBy, one: &Pair, other: &Pair) -> Ordering {
    let size = |pair: &Pair| pair.before.map_or(0, |side| side.size).max(pair.after.map_or(0, |side| side.size));
    let time = |pair: &Pair| pair.before.and_then(|side| side.modified).max(pair.after.and_then(|side| side.modified));
    match by {
        SortBy::Path => Ordering::Equal,
        SortBy::Changes => other.extent.counted.cmp(&one.extent.counted),
        SortBy::Lines => other.extent.size.cmp(&one.extent.size),
        SortBy::Size => size(other).cmp(&size(one)),
        SortBy::Time => time(other).cmp(&time(one)),
    }
}

/// Prints pairs as soon as they are known. Of the pairs, what is returned holds only those that could not be read.
fn stream(output: &Output, trees: &Trees, options: &TreeOptions) -> Result<TreeComparison> {
    let mut comparison = TreeComparison::default();
    printing(false, |out| {
        if let Output::Json { .. } = output {
            json::write_record(&json::opening(&trees.labels), out)?;
        }
        // What is told of the inside of a file is made where its contents are compared.
        let shown = match output {
            Output::Json { grain, each_file } if *each_file != Inside::Nothing => Some((*each_file, grain)),
            Output::Json { .. } | Output::Quiet | Output::Paths { .. } | Output::Terminal(_) => None,
        };
        let inspect = shown.map(|shown| {
            move |pair: &Pair, comparison: &Comparison<'_>| records_inside(pair, comparison, trees, shown)
        });
        let mut printer = Printer { output, out, unreadable: Vec::new(), flushed: Instant::now(), result: Ok(()) };
        let mut compare = |progress: &Progress| {
            let inspect = inspect.as_ref().map(|inspect| inspect as &tree::Inspect<'_>);
            tree::compare_into(trees.both(), options, progress, inspect, &mut printer)
        };
        // On a terminal, the pairs themselves tell that the work goes on.
        comparison = if io::stdout().is_terminal() {
            compare(&Progress::default())
        } else {
            with_progress(|progress| compare(progress))
        };
        printer.result?;
        if let Output::Json { .. } = output {
            json::write_record(&json::tree_summary(&comparison), printer.out)?;
        }
        comparison.pairs = printer.unreadable;
        Ok(())
    })?;
    Ok(comparison)
}

/// Prints the pairs of two trees one by one.
struct Printer<'a> {
    output: &'a Output,
    out: &'a mut dyn Write,
    unreadable: Vec<Pair>,
    flushed: Instant,
    result: io::Result<()>,
}

impl Printer<'_> {
    fn print(&mut self, pair: &Pair, made: &[u8]) -> io::Result<()> {
        match self.output {
            Output::Paths { null } => write_path(&pair.path, *null, self.out)?,
            Output::Json { .. } => {
                json::write_record(&Record::Pair(json::tree_pair(pair)), self.out)?;
                self.out.write_all(made)?;
            }
            Output::Quiet | Output::Terminal(_) => {}
        }
        if self.flushed.elapsed() > OFTEN {
            self.out.flush()?;
            self.flushed = Instant::now();
        }
        Ok(())
    }
}

impl PairSink for Printer<'_> {
    fn pair(&mut self, pair: Pair, made: Vec<u8>) -> ControlFlow<()> {
        self.result = self.print(&pair, &made);
        if pair.status == Status::Unreadable {
            self.unreadable.push(pair);
        }
        if self.result.is_ok() { ControlFlow::Continue(()) } else { ControlFlow::Break(()) }
    }
}

/// Says on standard error what could not be read and which rules did nothing, and what the exit status tells.
pub(crate) fn concluded(comparison: &TreeComparison, rules: &Rules) -> Outcome {
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
        match &pair.note {
            Some(Note::UnreadableBefore(reason)) if path.is_empty() => {
                tell(&format!("cannot read all of the side before: {reason}"));
            }
            Some(Note::UnreadableAfter(reason)) if path.is_empty() => {
                tell(&format!("cannot read all of the side after: {reason}"));
            }
            _ => tell(&format!("cannot read {path}: {reason}")),
        }
    }
}

/// The pairs with contents to show.
fn with_contents(comparison: &TreeComparison) -> impl Iterator<Item = &Pair> {
    comparison.pairs.iter().filter(|pair| pair.is_file() && pair.contents_differ())
}

/// Draws every pair with contents to show, each below an empty line.
fn draw_each(comparison: &TreeComparison, trees: &Trees, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let look = look.clone().legend(false);
    let draw = |pair: &Pair| {
        let mut drawn = b"\n".to_vec();
        draw_pair(pair, trees, &look, &mut drawn).map(|()| drawn)
    };
    in_order(comparison, draw, |drawn| out.write_all(&drawn?))
}

/// Says which contents were not drawn, and how to see them.
fn tell_what_is_not_drawn(comparison: &TreeComparison, out: &mut dyn Write) -> io::Result<()> {
    let count = |status: Status| comparison.pairs.iter().filter(|pair| pair.is_file() && pair.status == status).count();
    let parts: Vec<String> = [(Status::New, "new"), (Status::Gone, "gone")]
        .into_iter()
        .filter_map(|(status, word)| match count(status) {
            0 => None,
            files => Some(plural(files, &format!("{word} file"))),
        })
        .collect();
    if parts.is_empty() {
        return Ok(());
    }
    writeln!(out, "\nnot printed: the contents of {}; name a file after the two folders to see it", parts.join(" and "))
}

/// Makes something of every pair with contents to show, some at a time on all cores, and passes it on in order.
fn in_order<T: Send>(
    comparison: &TreeComparison,
    make: impl Fn(&Pair) -> T + Sync,
    mut take: impl FnMut(T) -> io::Result<()>,
) -> io::Result<()> {
    let pairs: Vec<&Pair> = with_contents(comparison).collect();
    for some in pairs.chunks(AT_ONCE) {
        let made: Vec<T> = some.par_iter().map(|pair| make(pair)).collect();
        made.into_iter().try_for_each(&mut take)?;
    }
    Ok(())
}

/// The edits that repeat in all files with contents to show.
fn repeats_in(comparison: &TreeComparison, trees: &Trees) -> Vec<Repeat> {
    let mut repeats = Repeats::default();
    let of_pair = |pair: &Pair| {
        let mut repeats = Repeats::default();
        trees.with_pair(pair, |held| match held {
            Body::Pair(view) => add_repeats(&pair.path, &view, &mut repeats),
            // A file that has become unreadable since has nothing to tell.
            Body::Nothing(_) => {}
        });
        repeats
    };
    // Nothing is written here that could fail.
    let _ = in_order(comparison, of_pair, |found| {
        repeats.merge(found);
        Ok(())
    });
    repeats.list()
}

/// Draws the sections that differ of every file with contents to show, and how many there are in all.
fn draw_each_sections(comparison: &TreeComparison, trees: &Trees, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (mut all, mut files, mut others) = (Vec::new(), 0, 0);
    let draw = |pair: &Pair| {
        let mut drawn = Vec::new();
        let sections = trees.with_pair(pair, |held| match held {
            Body::Pair(PairView::Text(view)) => {
                let found = view.section_changes();
                if !found.sections.is_empty() {
                    draw_sections(&view, &found, look, &mut drawn)?;
                    drawn.push(b'\n');
                }
                Ok(found.sections)
            }
            // What is not text has no sections, and a file that has become unreadable since has none to tell.
            Body::Pair(_) | Body::Nothing(_) => Ok(Vec::new()),
        });
        sections.map(|sections| (sections, drawn))
    };
    in_order(comparison, draw, |made: io::Result<(Vec<SectionChange>, Vec<u8>)>| {
        let (sections, drawn) = made?;
        *(if sections.is_empty() { &mut others } else { &mut files }) += 1;
        all.extend(sections);
        out.write_all(&drawn)
    })?;
    writeln!(out, "sections: {} (in {})", sections_in_words(all.iter()), plural(files, "file"))?;
    match others {
        0 => Ok(()),
        1 => writeln!(out, "1 more file differs, in no section"),
        _ => writeln!(out, "{others} more files differ, in no section"),
    }
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

/// The records of what is inside a pair.
fn records_inside(pair: &Pair, comparison: &Comparison<'_>, trees: &Trees, shown: (Inside, &Grain)) -> Vec<u8> {
    let mut made = Vec::new();
    let path = pair.path.to_text();
    let title = Title { name: &path, type_name: &path, labels: &trees.labels, note: None };
    if pair.is_file() && write_inside(pair, &PairView::new(comparison, title), shown, &mut made).is_err() {
        made.clear();
    }
    made
}

/// Writes the record of a pair and, if they are wanted, those of its changes.
fn write_records(pair: &Pair, trees: &Trees, (inside, grain): (Inside, &Grain), out: &mut dyn Write) -> io::Result<()> {
    json::write_record(&Record::Pair(json::tree_pair(pair)), out)?;
    if inside == Inside::Nothing || !pair.is_file() || !pair.contents_differ() {
        return Ok(());
    }
    trees.with_pair(pair, |held| match held {
        Body::Pair(view) => write_inside(pair, &view, (inside, grain), out),
        // A file that has become unreadable since has no changes to tell.
        Body::Nothing(_) => Ok(()),
    })
}

/// Writes the records of what is inside a pair.
fn write_inside(
    pair: &Pair,
    view: &PairView<'_>,
    (inside, grain): (Inside, &Grain),
    out: &mut dyn Write,
) -> io::Result<()> {
    let take = &mut |record| json::write_record(&record, out);
    match inside {
        Inside::Sections => json::give_sections(&pair.path, view, take),
        // They are told of all files together.
        Inside::Repeats => Ok(()),
        Inside::Changes | Inside::Nothing | Inside::Folders(_) => {
            json::give_pair_changes(&pair.path, view, (grain, usize::MAX), take)
        }
    }
}
