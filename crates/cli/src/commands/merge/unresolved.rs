//! Files in which marked conflicts are left.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, Result};
use tideline_core::internal::kinds::{ContentOptions, Read, read};
use tideline_core::internal::merge::{MarkedConflict, marked_conflicts};
use tideline_core::internal::model::Status;
use tideline_core::internal::plan::path_of;
use tideline_core::internal::tree::{self, EntryType, MemoryTree, Tree};
use tideline_sources::{LookInto, Side, resolve};
use tideline_views::json::merge_records::UnresolvedRecord;
use tideline_views::json::records::Record;
use tideline_views::json::{self, TextOrBytes};
use tideline_views::{plural, shown_path, shown_text};

use crate::args::MergeArgs;
use crate::commands::print::printing;
use crate::commands::progress::with_progress;
use crate::commands::{Outcome, tell};
use crate::settings::{side_options, tree_options};

/// A file, and the conflicts in it.
type Found = (PathBuf, Vec<MarkedConflict>);

pub(super) fn run(args: &MergeArgs) -> Result<Outcome> {
    let options = side_options(&args.files, &args.sides, args.read.kind).look_into(LookInto::Nothing);
    let (mut found, mut is_troubled) = (Vec::new(), false);
    for path in &args.unresolved {
        let opened = with_progress(|progress| resolve(path, &options.clone().progress(Arc::clone(progress))))?;
        match opened.side {
            Side::File(content) => {
                let conflicts = conflicts_in(path, &content);
                content.check().with_context(|| format!("cannot tell what is in {}", path.display()))?;
                found.extend(conflicts.map(|conflicts| (path.clone(), conflicts)));
            }
            Side::Tree(tree) => is_troubled |= in_tree(args, path, &*tree, &mut found)?,
        }
    }
    printing(false, |out| {
        for (path, conflicts) in &found {
            for conflict in conflicts {
                if args.json {
                    let lines = (conflict.lines.start + 1, conflict.lines.end);
                    let (mine, theirs) = (conflict.mine.clone(), conflict.theirs.clone());
                    let path = TextOrBytes::Text(path.to_string_lossy().into_owned());
                    json::write_record(&Record::Unresolved(UnresolvedRecord { path, lines, mine, theirs }), out)?;
                    continue;
                }
                let sides = [&conflict.mine, &conflict.theirs].map(|label| shown_text(label, args.colour.plain));
                let sides = if sides.iter().all(|label| label.is_empty()) {
                    String::new()
                } else {
                    format!("  {} and {}", sides[0], sides[1])
                };
                writeln!(out, "{}:{}{sides}", shown_path(path), conflict.lines.start + 1)?;
            }
        }
        let count: usize = found.iter().map(|(_, conflicts)| conflicts.len()).sum();
        if args.json {
            return Ok(());
        }
        match count {
            0 => writeln!(out, "no conflict is left"),
            _ => writeln!(out, "{} left in {}", plural(count, "conflict"), plural(found.len(), "file")),
        }
    })?;
    Ok(match (is_troubled, found.is_empty()) {
        (true, _) => Outcome::Trouble,
        (false, true) => Outcome::Same,
        (false, false) => Outcome::Different,
    })
}

fn conflicts_in(path: &Path, bytes: &[u8]) -> Option<Vec<MarkedConflict>> {
    let Read::Text(text) = read(path.as_os_str().as_encoded_bytes(), bytes, false, &ContentOptions::default()) else {
        return None;
    };
    Some(marked_conflicts(&text)).filter(|conflicts| !conflicts.is_empty())
}

/// Looks through a tree; whether something in it could not be read.
fn in_tree(args: &MergeArgs, root: &Path, tree: &dyn Tree, found: &mut Vec<Found>) -> Result<bool> {
    let options = tree_options(&args.files, ContentOptions::default())?.counts(false).moves(false);
    let nothing = MemoryTree::new();
    let all = with_progress(|progress| tree::compare(&nothing, tree, &options, progress));
    let mut is_troubled = false;
    for pair in &all.pairs {
        let Some(inner) = path_of(&pair.path) else { continue };
        let path = if root.as_os_str() == "." { inner } else { root.join(inner) };
        if pair.status == Status::Unreadable {
            tell(&format!("cannot read {}", shown_path(&path)));
            is_troubled = true;
        } else if pair.types.1 == Some(EntryType::File) {
            match tree.contents(&pair.path) {
                Ok(contents) => {
                    found.extend(conflicts_in(&path, (*contents).as_ref()).map(|conflicts| (path, conflicts)));
                }
                Err(error) => {
                    tell(&format!("cannot read {}: {error}", shown_path(&path)));
                    is_troubled = true;
                }
            }
        }
    }
    Ok(is_troubled)
}
