//! What `compare` prints: chosen once, from its arguments.

use std::ops::RangeInclusive;

use anyhow::{Result, bail};
use tideline_core::internal::kinds::text::Grain;
use tideline_core::internal::tree::TreeOptions;
use tideline_views::plural;
use tideline_views::terminal::Look;

use crate::args::CompareArgs;
use crate::commands::request::Request;
use crate::settings::{Config, grain_of, is_paged, look};

/// What is printed.
#[derive(Clone)]
pub(super) enum Output {
    /// Nothing: the exit status tells.
    Quiet,
    /// The paths of what differs.
    Paths {
        /// Whether each ends with a NUL.
        null: bool,
    },
    /// Records for programs.
    Json {
        /// What is marked inside a line.
        grain: Grain,
        /// What of every file follows its pair.
        each_file: Inside,
    },
    /// A view for people.
    Terminal(Terminal),
}

/// A view for people.
#[derive(Clone)]
pub(super) struct Terminal {
    pub(super) look: Look,
    pub(super) paged: bool,
    /// What of every file is below the tree.
    pub(super) each_file: Inside,
    /// The numbers of the changes that are shown, if not all are.
    pub(super) changes: Option<Vec<RangeInclusive<usize>>>,
}

impl Terminal {
    /// Refuses numbers of changes that a pair does not have.
    pub(super) fn check_changes(&self, name: &str, changes: usize) -> Result<()> {
        let last = self.changes.iter().flatten().map(RangeInclusive::end).max();
        match last {
            Some(last) if *last > changes => {
                bail!("cannot show change {last} of {name}: it has {}", plural(changes, "change"))
            }
            _ => Ok(()),
        }
    }
}

/// What is told of the inside of files.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Inside {
    /// Of two trees, nothing; of two files, their changes.
    Nothing,
    /// Changes.
    Changes,
    /// The sections that differ.
    Sections,
    /// Edits that repeat, of all files together.
    Repeats,
    /// How much differs in each folder, down to a depth.
    Folders(Option<u16>),
}

impl Inside {
    fn of(args: &CompareArgs) -> Self {
        if args.folders {
            return Self::Folders(args.files.depth);
        }
        match (args.sections, args.repeats, args.each_file) {
            (true, ..) => Self::Sections,
            (_, true, _) => Self::Repeats,
            (.., true) => Self::Changes,
            (false, false, false) => Self::Nothing,
        }
    }
}

impl Output {
    pub(super) fn of(args: &CompareArgs, config: &Config) -> Result<Self> {
        let grain = grain_of(&args.look, &config.view)?;
        Ok(if args.quiet {
            Self::Quiet
        } else if args.json {
            Self::Json { grain, each_file: Inside::of(args) }
        } else if args.flat || args.null {
            Self::Paths { null: args.null }
        } else {
            let paged = is_paged(&args.look, &config.view);
            let changes = args.changes.clone().map(|numbers| numbers.0);
            let look = look(&args.look, &config.view)?.changes(changes.clone());
            Self::Terminal(Terminal { look, paged, each_file: Inside::of(args), changes })
        })
    }

    /// Whether contents are looked at again once the trees are compared.
    pub(super) fn looks_again(&self, request: &Request) -> bool {
        let names_files = !request.paths.is_empty();
        match self {
            Self::Terminal(Terminal { each_file: Inside::Folders(_), .. }) => false,
            Self::Terminal(Terminal { each_file, .. }) => *each_file != Inside::Nothing || names_files,
            // The records of all files are made where their contents are compared.
            Self::Json { each_file, .. } => *each_file == Inside::Repeats || names_files,
            Self::Quiet | Self::Paths { .. } => false,
        }
    }

    /// The options of a comparison that finds out no more than is printed.
    pub(super) fn needed(&self, options: TreeOptions) -> TreeOptions {
        match self {
            Self::Quiet => options.counts(false).shown(true).moves(false),
            Self::Paths { .. } => options.counts(false).shown(true),
            Self::Json { .. } | Self::Terminal(_) => options,
        }
    }
}
