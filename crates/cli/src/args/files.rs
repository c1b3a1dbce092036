//! Options for which files of a tree are looked at, and how closely.

use clap::{Args, ValueEnum};
use tideline_core::internal::merge::Together;
use tideline_core::internal::model::Status;
use tideline_core::internal::text::spelling::nearest;

#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "Which files (of two folders)")]
pub(crate) struct FilesArgs {
    /// Show only these statuses: same, muted, changed, gone, new, moved, retyped, unreadable; with --base: one-sided, alike, apart, conflict
    #[arg(long, value_name = "STATUS", value_delimiter = ',', value_parser = parse_only)]
    pub(crate) only: Vec<OnlyChoice>,
    /// Look only at what fits one of these patterns (`*.toml`, `stations/**`); repeatable
    #[arg(long, value_name = "GLOB,…")]
    pub(crate) include: Vec<String>,
    /// Do not look at what fits one of these patterns; repeatable
    #[arg(long, value_name = "GLOB,…")]
    pub(crate) exclude: Vec<String>,
    /// Leave out what the ignore files in the trees name
    #[arg(long)]
    pub(crate) use_ignore_files: bool,
    /// Of a working folder against a `git:REV`, look at what its repository ignores too
    #[arg(long, conflicts_with = "use_ignore_files")]
    pub(crate) no_ignore_files: bool,
    /// Look into the archives and compressed files that are found in trees, as if they were folders and texts
    #[arg(long)]
    pub(crate) open_archives: bool,
    /// Compare the folders of version-control systems too
    #[arg(long)]
    pub(crate) with_repositories: bool,
    /// Go only so many folders deep
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..))]
    pub(crate) depth: Option<u16>,
    /// Compare links as what they are, or what they point to
    #[arg(long, value_name = "HOW", value_enum, default_value_t = LinksChoice::AsIs)]
    pub(crate) links: LinksChoice,
    /// Believe equal sizes, or equal sizes and times, instead of reading contents
    #[arg(long, value_name = "WHAT", value_enum)]
    pub(crate) trust: Option<TrustChoice>,
    /// Compare permissions or times of change too
    #[arg(long, value_name = "WHAT", value_enum, value_delimiter = ',')]
    pub(crate) also_compare: Vec<AttributeChoice>,
    /// Do not look for files that stand elsewhere
    #[arg(long)]
    pub(crate) no_moves: bool,
    /// Work on so many files at once [default: one for each processor]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=1024))]
    pub(crate) jobs: Option<u16>,
}

impl FilesArgs {
    /// Whether nothing was chosen.
    pub(crate) fn is_default(&self) -> bool {
        let Self {
            only,
            include,
            exclude,
            use_ignore_files,
            no_ignore_files,
            open_archives,
            with_repositories,
            depth,
            links,
            trust,
            also_compare,
            no_moves,
            // How fast a plan is made says nothing of what is in it.
            jobs: _,
        } = self;
        let lists = only.is_empty() && include.is_empty() && exclude.is_empty() && also_compare.is_empty();
        let ignored = *use_ignore_files || *no_ignore_files;
        let flags = ignored || *open_archives || *with_repositories || *no_moves || *links == LinksChoice::Follow;
        lists && !flags && depth.is_none() && trust.is_none()
    }
}

/// How links are compared.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum LinksChoice {
    #[default]
    AsIs,
    Follow,
}

/// What is believed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum TrustChoice {
    Size,
    Time,
}

/// What is compared besides contents.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum AttributeChoice {
    Mode,
    Time,
}

/// What is shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum OnlyChoice {
    /// Pairs of a status.
    Status(Status),
    /// Of three versions, what the changes of both sides are to each other.
    Together(Together),
}

impl OnlyChoice {
    fn name(self) -> &'static str {
        match self {
            Self::Status(status) => status.name(),
            Self::Together(together) => together.name(),
        }
    }
}

fn parse_only(text: &str) -> Result<OnlyChoice, String> {
    let together = Together::ALL.into_iter().map(OnlyChoice::Together);
    let all: Vec<OnlyChoice> = Status::ALL.into_iter().map(OnlyChoice::Status).chain(together).collect();
    all.iter().copied().find(|choice| choice.name() == text).ok_or_else(|| {
        let names: Vec<_> = all.iter().map(|choice| choice.name()).collect();
        let meant = nearest(text, names.iter().copied()).map(|meant| format!("did you mean `{meant}`? "));
        format!("{}a status is one of {}", meant.unwrap_or_default(), names[..Status::ALL.len()].join(", "))
    })
}
