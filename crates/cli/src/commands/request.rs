//! What a reading command compares, as plain values that are checked. Arguments and configuration become a request once; from then on
//! they are not asked again.

use std::path::{Path, PathBuf};

use anyhow::Result;
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{TreeComparison, TreeOptions};
use tideline_sources::SideOptions;
use tideline_views::{Labels, TreeView};

use super::resolve::{Resolved, resolve_both};
use crate::args::{FilesArgs, ReadArgs, TrustChoice, WhatArgs};
use crate::settings::{Config, content_options, encodings, side_options, tree_options};

/// What is compared, and how.
#[derive(Clone)]
pub(super) struct Request {
    /// The sides, as they were named.
    pub(super) before: PathBuf,
    pub(super) after: PathBuf,
    /// What was named in two trees; nothing means all of them.
    pub(super) paths: Vec<PathBuf>,
    /// How contents are compared.
    pub(super) contents: ContentOptions,
    /// How trees are compared.
    pub(super) trees: TreeOptions,
    /// Which statuses were asked for by name.
    pub(super) only: Vec<Status>,
    /// Whether muted changes are left out.
    pub(super) counted_only: bool,
    sides: SideOptions,
    /// What is believed instead of reading contents, in words.
    trusted: Option<&'static str>,
}

/// The arguments that a request is made of.
pub(super) struct Asked<'a> {
    pub(super) before: &'a Path,
    pub(super) after: &'a Path,
    pub(super) paths: &'a [PathBuf],
    pub(super) what: &'a WhatArgs,
    pub(super) read: &'a ReadArgs,
    pub(super) files: &'a FilesArgs,
    pub(super) counted_only: bool,
}

impl Request {
    /// Checks arguments, with what the configuration adds to them.
    pub(super) fn new(asked: &Asked<'_>, config: &Config) -> Result<Self> {
        let contents = content_options(asked.what, config, encodings(asked.read)?, asked.counted_only)?;
        Ok(Self {
            before: asked.before.to_path_buf(),
            after: asked.after.to_path_buf(),
            paths: asked.paths.to_vec(),
            trees: tree_options(asked.files, contents.clone())?,
            contents,
            only: asked.files.only.clone(),
            counted_only: asked.counted_only,
            sides: side_options(asked.files),
            trusted: asked.files.trust.map(|trust| match trust {
                TrustChoice::Size => "size",
                TrustChoice::Time => "size and time",
            }),
        })
    }

    /// Opens both sides.
    pub(super) fn open(&self) -> Result<Resolved> {
        resolve_both((&self.before, &self.after), &self.sides, &self.contents)
    }

    /// Two compared trees as they are to be shown.
    pub(super) fn view<'a>(&'a self, comparison: &'a TreeComparison, labels: &'a Labels) -> TreeView<'a> {
        TreeView {
            labels,
            comparison,
            only: (!self.only.is_empty()).then_some(self.only.as_slice()),
            muted_is_hidden: self.counted_only,
            trusted: self.trusted,
        }
    }
}
