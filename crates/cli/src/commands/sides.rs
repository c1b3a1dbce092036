//! Two opened files.

use std::ops::Range;
use std::path::PathBuf;

use anyhow::{Context, Result};
use jiff::Timestamp;
use tideline_core::internal::kinds::{self, Comparison, ContentOptions};
use tideline_core::internal::tree::Attribute;
use tideline_sources::Content;
use tideline_views::Title;
use tideline_views::json::SideMetadata;

use crate::settings::Names;

/// Two opened files.
pub(crate) struct Sides {
    pub(crate) before: Content,
    pub(crate) after: Content,
    pub(crate) names: Names,
    /// As they were named.
    pub(crate) paths: (PathBuf, PathBuf),
    /// Whether each is a file on the disk, and its contents are those of that file: only then it can be written to.
    pub(crate) on_disk: (bool, bool),
}

impl Sides {
    /// Fails when a side was changed while it was read: what was told of it may never have been so.
    ///
    /// # Errors
    /// When it was.
    pub(crate) fn check(&self) -> Result<()> {
        for (content, path) in [(&self.before, &self.paths.0), (&self.after, &self.paths.1)] {
            content.check().with_context(|| format!("cannot tell what is in {}", path.display()))?;
        }
        Ok(())
    }

    /// What both files have no data for, at the same offsets.
    fn shared_holes(&self) -> Vec<Range<usize>> {
        if self.before.len() != self.after.len() {
            return Vec::new();
        }
        let (before, after) = (self.before.holes(), self.after.holes());
        let mut shared = Vec::new();
        let mut at = 0;
        for hole in before {
            while after.get(at).is_some_and(|other| other.end <= hole.start) {
                at += 1;
            }
            let others = after[at..].iter().take_while(|other| other.start < hole.end);
            shared.extend(others.map(|other| hole.start.max(other.start)..hole.end.min(other.end)));
        }
        shared
    }

    /// Whether both files hold the same bytes. What has no place on the disk is not read.
    pub(crate) fn are_same(&self) -> bool {
        let holes = self.shared_holes();
        if self.before.len() != self.after.len() || holes.is_empty() {
            return *self.before == *self.after;
        }
        let starts = std::iter::once(0).chain(holes.iter().map(|hole| hole.end));
        let ends = holes.iter().map(|hole| hole.start).chain(std::iter::once(self.before.len()));
        starts.zip(ends).all(|(start, end)| self.before[start..end] == self.after[start..end])
    }

    /// Compares the files.
    pub(crate) fn compare(&self, contents: &ContentOptions) -> Comparison<'_> {
        let holes = self.shared_holes();
        let with_holes = (!holes.is_empty()).then(|| contents.clone().holes(holes));
        let contents = with_holes.as_ref().unwrap_or(contents);
        let names = (self.type_name_before().as_bytes(), self.type_name().as_bytes());
        kinds::compare_named(names, (&self.before, &self.after), contents)
    }

    /// What stands above the comparison.
    pub(crate) fn title<'a>(&'a self, note: Option<&'a str>) -> Title<'a> {
        let names = &self.names;
        Title { name: &names.name, type_name: self.type_name(), labels: &names.labels, note }
    }

    /// What is known of each file without reading it.
    pub(crate) fn metadata(&self) -> (SideMetadata, SideMetadata) {
        let of = |content: &Content| SideMetadata { size: content.len() as u64, modified: content.modified() };
        (of(&self.before), of(&self.after))
    }

    /// What differs between two files besides their contents, in words.
    pub(crate) fn attributes_in_words(&self, attributes: &[Attribute]) -> Vec<String> {
        let time = |content: &Content| {
            let time = content.modified().and_then(|time| Timestamp::try_from(time).ok());
            time.map_or_else(String::new, |time| time.strftime("%Y-%m-%d %H:%M:%S").to_string())
        };
        let told = |attribute: &Attribute| match attribute {
            Attribute::Mode => {
                let mode = |content: &Content| content.mode().unwrap_or(0);
                format!("mode {:o}, now {:o}", mode(&self.before), mode(&self.after))
            }
            Attribute::Time => format!("changed {}, now {} (UTC)", time(&self.before), time(&self.after)),
        };
        attributes.iter().map(told).collect()
    }

    /// The name by which rules know the file before.
    pub(crate) fn type_name_before(&self) -> &str {
        if self.names.name.is_empty() { &self.names.labels.before } else { &self.names.name }
    }

    /// The name by which rules, sections and syntax know the file.
    pub(crate) fn type_name(&self) -> &str {
        if self.names.name.is_empty() { &self.names.labels.after } else { &self.names.name }
    }
}
