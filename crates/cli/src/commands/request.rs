//! What a reading command compares, as plain values that are checked. Arguments and configuration become a request once; from then on
//! they are not asked again.

use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::{Comparison, ContentOptions};
use tideline_core::internal::model::{Kind, Status};
use tideline_core::internal::tree::{Attribute, TreeComparison, TreeOptions, TreePath};
use tideline_sources::SideOptions;
use tideline_views::{Labels, TreeView, encoding_note};

use super::lines::{AskedLines, Lines};
use super::resolve::{Resolved, resolve_sides};
use super::sides::Sides;
use crate::args::{AttributeChoice, FilesArgs, ReadArgs, SideArgs, SortBy, TrustChoice, WhatArgs};
use crate::settings::{Config, content_options, encodings, how, kind, side_options, statuses, tree_options};

/// What is compared, and how.
#[derive(Clone)]
pub(crate) struct Request {
    /// The sides, as they were named.
    pub(crate) before: PathBuf,
    pub(crate) after: PathBuf,
    /// What was named in two trees; nothing means all of them.
    pub(crate) paths: Vec<PathBuf>,
    /// How contents are compared.
    pub(crate) contents: ContentOptions,
    /// How trees are compared.
    pub(crate) trees: TreeOptions,
    /// Which statuses were asked for by name.
    pub(crate) only: Vec<Status>,
    /// Whether muted changes are left out.
    pub(crate) counted_only: bool,
    /// What the order of pairs goes by.
    pub(crate) sort: SortBy,
    /// What is compared besides contents.
    pub(crate) also_compare: Vec<AttributeChoice>,
    sides: SideOptions,
    /// Which lines are compared, and which of them are kept together.
    lines: Lines,
    /// The paths that were paired by hand.
    pairs: Vec<(PathBuf, PathBuf)>,
    /// What is believed instead of reading contents, in words.
    trusted: Option<&'static str>,
}

/// The arguments that a request is made of.
pub(crate) struct Asked<'a> {
    pub(crate) before: &'a Path,
    pub(crate) after: &'a Path,
    pub(crate) paths: &'a [PathBuf],
    pub(crate) what: &'a WhatArgs,
    pub(crate) read: &'a ReadArgs,
    pub(crate) files: &'a FilesArgs,
    pub(crate) sides: &'a SideArgs,
    pub(crate) counted_only: bool,
    pub(crate) lines: AskedLines<'a>,
}

impl Request {
    /// The same where contents are looked at again once the trees are compared: what was found in them is held for that.
    pub(crate) fn looked_at_again(mut self) -> Self {
        self.contents = self.contents.compared_once();
        self.trees = self.trees.contents(self.contents.clone());
        self
    }

    /// The same for whoever works on lines: what would be a table or data is text.
    pub(crate) fn lines_only(mut self) -> Self {
        self.contents = self.contents.lines_only();
        self.trees = self.trees.contents(self.contents.clone());
        self
    }

    /// The same for whoever carries bytes: images and documents are what their files hold.
    pub(crate) fn by_bytes(mut self) -> Self {
        self.contents = self.contents.by_bytes();
        self.trees = self.trees.contents(self.contents.clone());
        self
    }

    /// Refuses contents that are not of the kind that was told for them.
    pub(crate) fn check_kind(&self, comparison: &Comparison<'_>, labels: &Labels) -> Result<()> {
        let Some(unparsed) = comparison.unparsed().filter(|unparsed| unparsed.is_fatal) else { return Ok(()) };
        let label = if unparsed.is_before { &labels.before } else { &labels.after };
        let (kind, reason) = (unparsed.kind.name(), &unparsed.reason);
        let place = unparsed.place.map_or_else(String::new, |(line, column)| format!("line {line}, column {column}: "));
        let instead = match unparsed.kind {
            Kind::Text => "--kind bytes compares it byte by byte".to_owned(),
            Kind::Image => "--kind bytes compares it byte by byte".to_owned(),
            _ => format!("without --kind {kind} it is compared as text"),
        };
        bail!("cannot compare {label} as {kind}: {place}{reason}; {instead}");
    }

    /// The same with the pairs in another order.
    pub(crate) fn sorted_by(mut self, sort: SortBy) -> Self {
        self.sort = sort;
        self
    }

    /// Checks arguments, with what the configuration adds to them.
    pub(crate) fn new(asked: &Asked<'_>, config: &Config) -> Result<Self> {
        let contents = content_options(asked.what, config, encodings(asked.read)?, asked.counted_only)?;
        let contents = contents.kind(kind(asked.read.kind)).how(how(&asked.read.how));
        let contents = contents.read_documents(config.readers());
        let lines = Lines::new(&asked.lines)?;
        let text = contents.text_options().clone();
        let text = text.holds(lines.holds.clone()).parts(lines.parts.before.clone(), lines.parts.after.clone());
        let contents = contents.text(text);
        let pairs = asked.lines.part.map_or(&[][..], |part| &part.pair);
        let inner = pairs.iter().map(|(before, after)| (tree_path(before), tree_path(after)));
        let trees =
            tree_options(asked.files, contents.clone())?.pairs(inner.collect()).renames(asked.lines.part.is_some());
        Ok(Self {
            before: asked.before.to_path_buf(),
            after: asked.after.to_path_buf(),
            paths: asked.paths.to_vec(),
            trees,
            contents,
            lines,
            pairs: pairs.to_vec(),
            only: statuses(asked.files)?,
            counted_only: asked.counted_only,
            sort: SortBy::Path,
            also_compare: asked.files.also_compare.clone(),
            sides: side_options(asked.files, asked.sides, asked.read.kind),
            trusted: asked.files.trust.map(|trust| match trust {
                TrustChoice::Size => "size",
                TrustChoice::Time => "size and time",
            }),
        })
    }

    /// Opens both sides, and refuses what was asked of two files where they are folders, and the other way round.
    pub(crate) fn open(&self) -> Result<Resolved> {
        let resolved = resolve_sides((&self.before, &self.after), &self.sides, &self.contents)?;
        match &resolved {
            Resolved::Trees(trees) => {
                self.lines.refuse_for_trees()?;
                for (before, after) in &self.pairs {
                    for (tree, path, root) in
                        [(trees.both().0, before, &self.before), (trees.both().1, after, &self.after)]
                    {
                        let missing =
                            || format!("cannot pair {}: it cannot be found in {}", path.display(), root.display());
                        tree.metadata(&tree_path(path)).map_err(anyhow::Error::from).with_context(missing)?;
                    }
                }
            }
            Resolved::Files(_) if !self.pairs.is_empty() => {
                bail!("--pair is for two folders; name the two files themselves to compare them")
            }
            Resolved::Files(_) => {}
        }
        Ok(resolved)
    }

    /// Whether two contents are the same: those of the files, or of the lines that are compared.
    pub(crate) fn is_same(&self, sides: &Sides, comparison: &Comparison<'_>) -> bool {
        match comparison {
            Comparison::Text(texts) if self.lines.is_part() => texts.before.text() == texts.after.text(),
            _ => sides.are_same(),
        }
    }

    /// What differs between two files besides their contents, of what is compared.
    pub(crate) fn attributes(&self, sides: &Sides) -> Vec<Attribute> {
        let (before, after) = (&sides.before, &sides.after);
        let differs = |choice: &AttributeChoice| match choice {
            AttributeChoice::Mode => (before.mode() != after.mode()).then_some(Attribute::Mode),
            AttributeChoice::Time => (before.modified() != after.modified()).then_some(Attribute::Time),
        };
        self.also_compare.iter().filter_map(differs).collect()
    }

    /// Whether only some lines are compared.
    pub(crate) fn is_part(&self) -> bool {
        self.lines.is_part()
    }

    /// What the heading of two files says: which lines are left out, what they are written in, and what else differs.
    pub(crate) fn note(&self, comparison: &Comparison<'_>, attributes: Vec<String>) -> Option<String> {
        let notes: Vec<String> =
            self.lines.note().into_iter().chain(encoding_note(comparison)).chain(attributes).collect();
        (!notes.is_empty()).then(|| notes.join(", "))
    }

    /// Refuses lines that are not there.
    pub(crate) fn check_lines(&self, comparison: &Comparison<'_>, labels: &Labels) -> Result<()> {
        self.lines.check(comparison, labels)
    }

    /// Two compared trees as they are to be shown.
    pub(crate) fn view<'a>(&'a self, comparison: &'a TreeComparison, labels: &'a Labels) -> TreeView<'a> {
        TreeView {
            labels,
            comparison,
            only: (!self.only.is_empty()).then_some(self.only.as_slice()),
            muted_is_hidden: self.counted_only,
            is_sorted: self.sort != SortBy::Path,
            trusted: self.trusted,
        }
    }
}

fn tree_path(path: &Path) -> TreePath {
    path.as_os_str().as_encoded_bytes().into()
}
