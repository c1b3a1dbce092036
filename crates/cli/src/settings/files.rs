//! Which files of a tree will be looked at, and how closely.

use anyhow::{Result, bail};
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::merge::Together;
use tideline_core::internal::model::Status;
use tideline_core::internal::rules::split_patterns;
use tideline_core::internal::tree::{Attributes, Filter, TreeOptions, Trust};
use tideline_sources::{Allowed, Limits, LookInto, SideOptions};

use crate::args::{AttributeChoice, FilesArgs, KindArgs, KindChoice, LinksChoice, OnlyChoice, SideArgs, TrustChoice};
use crate::commands::own_entries;

/// Builds the options of a comparison of trees, and sees to it that no more files are worked on at once than was said.
pub(crate) fn tree_options(args: &FilesArgs, contents: ContentOptions) -> Result<TreeOptions> {
    if let Some(jobs) = args.jobs {
        // Where the threads have been started already, a comparison before this one said how many.
        let _ = rayon::ThreadPoolBuilder::new().num_threads(usize::from(jobs)).build_global();
    }
    let patterns = |lists: &[String]| lists.iter().flat_map(|list| split_patterns(list)).collect::<Vec<_>>();
    let (include, exclude) = (patterns(&args.include), patterns(&args.exclude));
    let filter = Filter::default().include(&include)?.exclude(&exclude)?.depth(args.depth.map(usize::from));
    let attributes = Attributes {
        mode: args.also_compare.contains(&AttributeChoice::Mode),
        time: args.also_compare.contains(&AttributeChoice::Time),
    };
    Ok(TreeOptions::default()
        .filter(filter)
        .attributes(attributes)
        .moves(!args.no_moves)
        .contents(contents)
        .trust(args.trust.map(|trust| match trust {
            TrustChoice::Size => Trust::Size,
            TrustChoice::Time => Trust::Time,
        }))
        .only((!args.only.is_empty()).then_some(statuses(args)?)))
}

/// The statuses that were asked for.
pub(crate) fn statuses(args: &FilesArgs) -> Result<Vec<Status>> {
    let status = |choice: &OnlyChoice| match choice {
        OnlyChoice::Status(status) => Ok(*status),
        OnlyChoice::Together(together) => {
            bail!("--only {} is for three versions: name what both sides come from with --base", together.name())
        }
    };
    args.only.iter().map(status).collect()
}

/// Of three versions, what was asked for; nothing means all.
pub(crate) fn togethers(args: &FilesArgs) -> Result<Vec<Together>> {
    let together = |choice: &OnlyChoice| match choice {
        OnlyChoice::Together(together) => Ok(*together),
        OnlyChoice::Status(status) => {
            bail!("--only {} is for two sides; of three, give one-sided, alike, apart or conflict", status.name())
        }
    };
    args.only.iter().map(together).collect()
}

/// Builds the options by which sides are opened.
pub(crate) fn side_options(args: &FilesArgs, sides: &SideArgs, kind: KindArgs) -> SideOptions {
    let default = Limits::default();
    let limits = Limits {
        expanded_size: sides.expanded_size.unwrap_or(default.expanded_size),
        expansion_ratio: sides.expansion_ratio.unwrap_or(default.expansion_ratio),
        entries: sides.archive_entries.map_or(default.entries, |entries| entries as usize),
        depth: sides.archive_depth.map_or(default.depth, usize::from),
    };
    SideOptions::default()
        .follow_links(args.links == LinksChoice::Follow)
        .with_repositories(args.with_repositories)
        .use_ignore_files(args.use_ignore_files)
        .no_ignore_files(args.no_ignore_files)
        .open_archives(args.open_archives)
        .look_into(match kind.kind {
            Some(KindChoice::Archive) => LookInto::Documents,
            Some(KindChoice::Text | KindChoice::Bytes) => LookInto::Nothing,
            Some(KindChoice::Table | KindChoice::Data | KindChoice::Image | KindChoice::Auto) | None => {
                LookInto::Archives
            }
        })
        .limits(limits)
        .repository(sides.repository.clone())
        .allowed(Allowed { filters: sides.run_filters, fetching: sides.fetch_missing })
        .without(own_entries())
}
