//! Files in which marked conflicts are left, and versions that were written beside a conflict.

use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, Result};
use tideline_core::internal::kinds::{ContentOptions, Read, read};
use tideline_core::internal::merge::{MarkedConflict, is_named_beside, marked_conflicts};
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

/// What is left to decide, in a file.
enum Left {
    /// These conflicts are marked in it.
    Marked(Vec<MarkedConflict>),
    /// It is a version of another file, which no marks can show.
    Version,
}

/// A file, and what is left in it.
type Found = (PathBuf, Left);

pub(super) fn run(args: &MergeArgs) -> Result<Outcome> {
    let options = side_options(&args.files, &args.sides, args.read.kind).look_into(LookInto::Nothing);
    let (mut found, mut is_troubled) = (Vec::new(), false);
    for path in &args.unresolved {
        let opened = with_progress(|progress| resolve(path, &options.clone().progress(Arc::clone(progress))))?;
        match opened.side {
            Side::File(content) => {
                let left = left_in(path, &content);
                content.check().with_context(|| format!("cannot tell what is in {}", path.display()))?;
                found.extend(left.map(|left| (path.clone(), left)));
            }
            Side::Tree(tree) => is_troubled |= in_tree(args, path, &*tree, &mut found)?,
        }
    }
    printing(false, |out| {
        for (path, left) in &found {
            if args.json {
                write_records(path, left, out)?;
            } else {
                write_lines(path, left, args.colour.plain, out)?;
            }
        }
        if args.json { Ok(()) } else { writeln!(out, "{}", counted(&found)) }
    })?;
    Ok(match (is_troubled, found.is_empty()) {
        (true, _) => Outcome::Trouble,
        (false, true) => Outcome::Same,
        (false, false) => Outcome::Different,
    })
}

fn write_records(path: &Path, left: &Left, out: &mut dyn Write) -> io::Result<()> {
    let record = |lines, mine: &str, theirs: &str| {
        let path = TextOrBytes::Text(path.to_string_lossy().into_owned());
        Record::Unresolved(UnresolvedRecord { path, lines, mine: mine.to_owned(), theirs: theirs.to_owned() })
    };
    match left {
        Left::Version => json::write_record(&record(None, "", ""), out),
        Left::Marked(conflicts) => conflicts.iter().try_for_each(|conflict| {
            let lines = (conflict.lines.start + 1, conflict.lines.end);
            json::write_record(&record(Some(lines), &conflict.mine, &conflict.theirs), out)
        }),
    }
}

fn write_lines(path: &Path, left: &Left, is_plain: bool, out: &mut dyn Write) -> io::Result<()> {
    let Left::Marked(conflicts) = left else {
        return writeln!(out, "{}  a version to choose from", shown_path(path));
    };
    conflicts.iter().try_for_each(|conflict| {
        let sides = [&conflict.mine, &conflict.theirs].map(|label| shown_text(label, is_plain));
        let sides = if sides.iter().all(|label| label.is_empty()) {
            String::new()
        } else {
            format!("  {} and {}", sides[0], sides[1])
        };
        writeln!(out, "{}:{}{sides}", shown_path(path), conflict.lines.start + 1)
    })
}

/// What was found, in a sentence.
fn counted(found: &[Found]) -> String {
    let (mut conflicts, mut files, mut versions) = (0, 0, 0);
    for (_, left) in found {
        match left {
            Left::Marked(marked) => (conflicts, files) = (conflicts + marked.len(), files + 1),
            Left::Version => versions += 1,
        }
    }
    let marked = format!("{} left in {}", plural(conflicts, "conflict"), plural(files, "file"));
    let beside =
        format!("{} left beside {}", plural(versions, "version"), if versions == 1 { "a file" } else { "files" });
    match (conflicts, versions) {
        (0, 0) => "no conflict marks, and no versions to choose from".to_owned(),
        (_, 0) => marked,
        (0, _) => beside,
        _ => format!("{marked}, {beside}"),
    }
}

/// What is left to decide in a file.
fn left_in(path: &Path, bytes: &[u8]) -> Option<Left> {
    if path.file_name().is_some_and(|name| is_named_beside(name.as_encoded_bytes())) {
        return Some(Left::Version);
    }
    let Read::Text(text) = read(path.as_os_str().as_encoded_bytes(), bytes, false, &ContentOptions::default()) else {
        return None;
    };
    Some(marked_conflicts(&text)).filter(|conflicts| !conflicts.is_empty()).map(Left::Marked)
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
                    found.extend(left_in(&path, (*contents).as_ref()).map(|left| (path, left)));
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
