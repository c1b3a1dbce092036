//! A report on two trees.

use std::io::{self, Write};

use anyhow::Result;
use rayon::prelude::*;
use tideline_core::internal::model::{Kind, Status};
use tideline_core::internal::tree::{Pair, Progress};
use tideline_views::html::{self, Assets};
use tideline_views::json::document::Document;
use tideline_views::json::records::Record;
use tideline_views::report::Body;
use tideline_views::{json, markdown, plural};

use super::super::Outcome;
use super::super::compare::{compare_asked, concluded};
use super::super::pairs::Trees;
use super::super::progress::with_progress;
use super::folder;
use super::found::{Found, size};
use super::making::Making;
use super::target::{Format, Target, write_one};

/// A page of a whole tree holds the changes of files up to this size.
const MOST_IN_A_PAGE: usize = 32 << 20;
/// Equal text that each of many files in one page keeps in its folds, in bytes.
const MOST_FOLDED_EACH: usize = 64 << 10;
/// Files that are made ready at a time, in parallel; only so many are in memory at once.
const AT_A_TIME: usize = 64;

pub(super) fn run(making: &Making, trees: Trees, target: &Target) -> Result<Outcome> {
    let request = &making.request;
    with_progress(|progress| {
        let (comparison, _) = compare_asked(request, &trees, request.trees.clone(), progress)?;
        let shown: Vec<usize> = (0..comparison.pairs.len()).filter(|&at| is_shown(&comparison.pairs[at])).collect();
        let bytes = shown.iter().map(|&at| size(&comparison.pairs[at])).sum();
        let title = making.title(|| format!("{} → {}", trees.labels.before, trees.labels.after));
        let (paths, shape) = (making.paths(&trees.labels), making.shape(bytes));
        let found = Found { making, trees, comparison, shown, title, paths, shape };
        match target {
            Target::Folder(path) => folder::write(&found, path, progress)?,
            _ => write_one(target, |out| match target.format() {
                Format::Html => found.write_page(progress, out),
                Format::Markdown => found.write_markdown(progress, out).map(|()| found.held(found.shown.len())),
                Format::Png => Err(io::Error::other("an image is of two files; name the two images")),
                Format::Json => found.write_json(progress, out).map(|()| found.held(found.shown.len())),
            })?,
        }
        Ok(concluded(&found.comparison, request.contents.all_rules()))
    })
}

/// Whether something of the contents of a pair is shown: of texts what differs in them, or all that came or went; of what is not text, what is
/// known of two that differ.
fn is_shown(pair: &Pair) -> bool {
    pair.is_file()
        && match pair.kind {
            Some(Kind::Text | Kind::Table | Kind::Data) => {
                pair.contents_differ() || matches!(pair.status, Status::Gone | Status::New)
            }
            Some(_) => pair.before.is_some() && pair.after.is_some() && pair.contents_differ(),
            None => false,
        }
}

impl Found<'_> {
    /// Makes a part of the report for each file with something to show, some at a time in parallel, and passes them on in order, until
    /// there are enough.
    fn in_order(
        &self,
        make: impl Fn(usize, &Pair) -> io::Result<Vec<u8>> + Sync,
        mut take: impl FnMut(Vec<u8>) -> io::Result<bool>,
    ) -> io::Result<()> {
        for (group, indexes) in self.shown.chunks(AT_A_TIME).enumerate() {
            let numbered = indexes.par_iter().enumerate();
            let made: Vec<io::Result<Vec<u8>>> =
                numbered.map(|(at, &index)| make(group * AT_A_TIME + at, &self.comparison.pairs[index])).collect();
            for part in made {
                if !take(part?)? {
                    return Ok(());
                }
            }
        }
        Ok(())
    }

    /// Of how many files a report shows the contents.
    fn held(&self, files: usize) -> String {
        let all = plural(self.shown.len(), "file");
        if files == self.shown.len() { all } else { format!("{files} of {all}") }
    }

    fn write_page(&self, progress: &Progress, out: &mut dyn Write) -> io::Result<String> {
        let shape = self.shape.clone().most_folded(MOST_FOLDED_EACH);
        let id = |number: usize| format!("f{}", number + 1);
        // The tree comes first, and must know which files follow it.
        let (mut held, mut parts) = (0, Vec::new());
        let make = |number: usize, pair: &Pair| {
            let mut part = Vec::new();
            self.with_file(pair, progress, |file| html::write_file(file, &id(number), &shape, &mut part))?;
            Ok(part)
        };
        self.in_order(make, |part| {
            let fits = parts.len() + part.len() <= MOST_IN_A_PAGE;
            if fits {
                parts.extend(part);
                held += 1;
            }
            Ok(fits)
        })?;
        let href = |index: usize| {
            let number = self.shown.binary_search(&index).ok().filter(|&number| number < held);
            number.map(|number| format!("#{}", id(number)))
        };
        let left = self.shown.len() - held;
        let mut more = |out: &mut dyn Write| {
            out.write_all(&parts)?;
            html::write_left(left, MOST_IN_A_PAGE, out)
        };
        let head = self.head();
        html::write_tree_page(
            &head,
            &self.view(),
            &href,
            Assets::Inline,
            Some((&mut more, !shape.tells_sections())),
            out,
        )?;
        Ok(self.held(held))
    }

    fn write_markdown(&self, progress: &Progress, out: &mut dyn Write) -> io::Result<()> {
        let head = self.head();
        markdown::write_head(&head, out)?;
        markdown::write_tree(&self.view(), out)?;
        let make = |_: usize, pair: &Pair| {
            let mut part = Vec::new();
            self.with_file(pair, progress, |file| markdown::write_file(file, &self.shape, &mut part))?;
            Ok(part)
        };
        self.in_order(make, |part| out.write_all(&part).map(|()| true))
    }

    fn write_json(&self, progress: &Progress, out: &mut dyn Write) -> io::Result<()> {
        let head = self.head();
        let mut document = Document::begin(&head, out)?;
        document.add(&json::opening(&self.trees.labels))?;
        let mut next = 0;
        let pairs = &self.comparison.pairs;
        let make = |_: usize, pair: &Pair| {
            let mut part = Vec::new();
            if !pair.contents_differ() {
                return Ok(part);
            }
            self.with_file(pair, progress, |file| {
                let Body::Pair(view) = &file.body else { return Ok(()) };
                let take = &mut |record| json::write_record(&record, &mut part);
                if self.shape.tells_sections() {
                    return json::give_sections(&pair.path, view, take);
                }
                json::give_pair_changes(&pair.path, view, (self.shape.marked(), self.shape.changes_shown()), take)
            })?;
            Ok(part)
        };
        let mut shown = self.shown.iter();
        self.in_order(make, |part| {
            let upto = shown.next().map_or(next, |&index| index + 1);
            for pair in &pairs[next..upto] {
                document.add(&Record::Pair(json::tree_pair(pair)))?;
            }
            next = upto;
            document.add_written(&part).map(|()| true)
        })?;
        for pair in &pairs[next..] {
            document.add(&Record::Pair(json::tree_pair(pair)))?;
        }
        document.add(&json::tree_summary(&self.comparison))?;
        document.end()
    }

    pub(super) fn view(&self) -> tideline_views::TreeView<'_> {
        self.making.request.view(&self.comparison, &self.trees.labels)
    }
}
