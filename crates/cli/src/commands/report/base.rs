//! A report on three versions: what each side did since a common base.

use std::collections::HashMap;
use std::io::{self, Write};
use std::path::Path;

use anyhow::{Result, bail};
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::merge::{FileMerge, MergeOptions, MergedEntry, Three, TreeMergeOptions, merge_files};
use tideline_core::internal::tree::TreePath;
use tideline_views::json::document::Document;
use tideline_views::json::merge as records;
use tideline_views::report::{MergedHead, Shape};
use tideline_views::{MergeView, MergedTreeView, Syntax, html, markdown, tree_counts_in_words};

use super::making::MOST_IN_MARKDOWN;
use super::target::{Format, Target, write_one};
use crate::args::{FilesArgs, ReportArgs, SyntaxChoice};
use crate::commands::Outcome;
use crate::commands::progress::with_progress;
use crate::commands::versions::{FileVersions, OpenedVersions, TreeVersions, open_versions};
use crate::settings::{Config, content_options, encodings, grain, how, kind, side_options, togethers, tree_options};

/// Bytes of changes that a page of trees holds.
const ROOM: usize = 32 << 20;

/// What was asked for.
pub(super) struct Asked<'a> {
    pub(super) args: &'a ReportArgs,
    pub(super) base: &'a Path,
    pub(super) config: &'a Config,
    pub(super) made: String,
    pub(super) command: String,
}

pub(super) fn run(asked: &Asked<'_>, target: &Target) -> Result<Outcome> {
    let args = asked.args;
    if args.after.as_os_str().is_empty() {
        bail!("cannot report on a base: name both sides");
    }
    if let Target::Folder(folder) = target {
        let shown = folder.display();
        bail!("cannot write {shown}: three versions make one page; name it, as in -o {shown}page.html");
    }
    let contents = content_options(&args.what, asked.config, encodings(&args.read)?, args.counted_only)?;
    let contents = contents.kind(kind(args.read.kind)).how(how(&args.read.how));
    // What each side did is told by lines: a merge by kind tells only what both changed.
    let contents = contents.lines_only();
    let paths = Three::new(asked.base, args.before.as_path(), args.after.as_path());
    let making = Making { asked, target, contents, shape: shape(args, target)? };
    match open_versions(paths, &side_options(&args.files, &args.sides, args.read.kind), &[])? {
        OpenedVersions::Files(versions) => making.files(&versions),
        OpenedVersions::Trees(versions) => making.trees(&versions),
    }
}

/// How files are shown.
fn shape(args: &ReportArgs, target: &Target) -> Result<Shape> {
    let markdown = (target.format() == Format::Markdown).then_some(MOST_IN_MARKDOWN);
    let syntax = if args.syntax == Some(SyntaxChoice::On) { Syntax::On } else { Syntax::Off };
    Ok(Shape::default()
        .context(args.context)
        .grain(grain(&args.grain)?)
        .syntax(syntax)
        .most_changes(args.each_limit.or(markdown).unwrap_or(usize::MAX)))
}

struct Making<'a> {
    asked: &'a Asked<'a>,
    target: &'a Target,
    contents: ContentOptions,
    shape: Shape,
}

impl Making<'_> {
    fn head<'h>(
        &'h self,
        (title, summary): (&'h str, &'h str),
        (labels, paths): (&'h Three<String>, &'h Three<String>),
    ) -> MergedHead<'h> {
        let title = self.asked.args.title.as_deref().unwrap_or(title);
        MergedHead { title, labels, paths, made: &self.asked.made, command: &self.asked.command, summary }
    }

    fn files(&self, versions: &FileVersions) -> Result<Outcome> {
        let (labels, name) = (&versions.names.labels, &versions.names.name);
        let path = if name.is_empty() { &labels.theirs } else { name };
        let merge = merge_files(path.as_bytes(), versions.bytes(), &self.contents, &MergeOptions::default());
        let FileMerge::Text(text) = &merge else {
            bail!("cannot report on {path} with a base: not all three versions are text");
        };
        versions.check()?;
        let view = MergeView {
            name: path,
            type_name: path,
            labels,
            note: None,
            merge: &text.merge,
            only: None,
            counted_only: self.asked.args.counted_only,
        };
        let counts = view.counts();
        let title = format!("{} and {} since {}", labels.mine, labels.theirs, labels.base);
        let paths = versions.paths.as_ref().map(|path| path.display().to_string());
        let head = self.head((&title, &counts), (labels, &paths));
        write_one(self.target, |out| {
            match self.target.format() {
                Format::Html => {
                    let mut main = |out: &mut dyn Write| html::write_merged_file(&view, "f1", &self.shape, out);
                    html::write_merged_page(&head, false, &mut main, out)?;
                }
                Format::Markdown => {
                    markdown::write_merged_head(&head, out)?;
                    markdown::write_merged_file(&view, &self.shape, out)?;
                }
                Format::Png => return Err(std::io::Error::other("an image is of two files, without --base")),
                Format::Json => {
                    let mut lines = Vec::new();
                    records::write_texts(&view, Vec::new(), false, &mut lines)?;
                    let mut document = Document::begin_merged(&head, out)?;
                    document.add_written(&lines)?;
                    document.end()?;
                }
            }
            Ok(counts.clone())
        })?;
        let differs = text.merge.regions.iter().any(|region| region.counts);
        Ok(if differs { Outcome::Different } else { Outcome::Same })
    }

    fn trees(&self, versions: &TreeVersions) -> Result<Outcome> {
        let args = self.asked.args;
        let files = FilesArgs { only: Vec::new(), ..args.files.clone() };
        let options = tree_options(&files, self.contents.clone())?.counts(false);
        let merging = TreeMergeOptions { contents: self.contents.clone(), ..TreeMergeOptions::default() };
        let mut merge = with_progress(|progress| versions.merged(&options, &merging, progress));
        let named: Vec<TreePath> = args.paths.iter().map(|path| path.as_os_str().as_encoded_bytes().into()).collect();
        if !named.is_empty() {
            merge.entries.retain(|entry| named.iter().any(|named| entry.path.is_within(named)));
        }
        let only = togethers(&args.files)?;
        let view =
            MergedTreeView { labels: &versions.labels, merge: &merge, only: (!only.is_empty()).then_some(&only) };
        let counts = tree_counts_in_words(&merge);
        let labels = &versions.labels;
        let title = format!("{} and {} since {}", labels.mine, labels.theirs, labels.base);
        let paths = versions.paths.as_ref().map(|path| path.display().to_string());
        let head = self.head((&title, &counts), (labels, &paths));
        write_one(self.target, |out| {
            match self.target.format() {
                Format::Html => {
                    let mut main = |out: &mut dyn Write| self.tree_page(&view, versions, out);
                    html::write_merged_page(&head, true, &mut main, out)?;
                }
                Format::Markdown => {
                    markdown::write_merged_head(&head, out)?;
                    markdown::write_merged_tree(&view, out)?;
                    let mut write = |view: &MergeView<'_>, _: &str, out: &mut dyn Write| {
                        markdown::write_merged_file(view, &self.shape, out)
                    };
                    self.each_file(&view, versions, &mut write, out)?;
                }
                Format::Png => return Err(std::io::Error::other("an image is of two files, without --base")),
                Format::Json => {
                    let mut lines = Vec::new();
                    records::write_trees(&view, &mut lines)?;
                    let mut document = Document::begin_merged(&head, out)?;
                    document.add_written(&lines)?;
                    document.end()?;
                }
            }
            Ok(counts.clone())
        })?;
        Ok(if merge.entries.is_empty() { Outcome::Same } else { Outcome::Different })
    }

    fn tree_page(&self, view: &MergedTreeView<'_>, versions: &TreeVersions, out: &mut dyn Write) -> io::Result<()> {
        let mut parts = Vec::new();
        let mut ids = HashMap::new();
        let mut write = |view: &MergeView<'_>, id: &str, out: &mut dyn Write| {
            ids.entry(view.name.to_owned()).or_insert_with(|| id.to_owned());
            html::write_merged_file(view, id, &self.shape, out)
        };
        let left = self.each_file(view, versions, &mut write, &mut parts)?;
        let href = |entry: &MergedEntry| ids.get(&*entry.path.to_text()).cloned();
        html::write_merged_tree(view, &href, out)?;
        out.write_all(&parts)?;
        html::write_left(left, ROOM, out)
    }

    /// Writes the changes of each text that both versions have, as long as there is room; how many files there was none for.
    fn each_file(
        &self,
        view: &MergedTreeView<'_>,
        versions: &TreeVersions,
        write: &mut dyn FnMut(&MergeView<'_>, &str, &mut dyn Write) -> io::Result<()>,
        out: &mut dyn Write,
    ) -> io::Result<usize> {
        let mut counting = Counting { out, written: 0 };
        let (mut number, mut left) = (0, 0);
        for entry in
            view.merge.entries.iter().filter(|entry| view.only.is_none_or(|only| only.contains(&entry.together)))
        {
            let Some(contents) = entry.base.and_then(|_| versions.contents_of(entry)) else { continue };
            if counting.written > ROOM {
                left += 1;
                continue;
            }
            let bytes = contents.as_ref().map(|contents| (**contents).as_ref());
            let FileMerge::Text(text) = merge_files(&entry.path, bytes, &self.contents, &MergeOptions::default())
            else {
                continue;
            };
            let name = entry.path.to_text();
            let view = MergeView {
                name: &name,
                type_name: &name,
                labels: &versions.labels,
                note: None,
                merge: &text.merge,
                only: None,
                counted_only: self.asked.args.counted_only,
            };
            number += 1;
            write(&view, &format!("f{number}"), &mut counting)?;
        }
        Ok(left)
    }
}

/// Counts what is written.
struct Counting<'w> {
    out: &'w mut dyn Write,
    written: usize,
}

impl Write for Counting<'_> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let written = self.out.write(bytes)?;
        self.written += written;
        Ok(written)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }
}
