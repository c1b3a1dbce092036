//! The tree: folders in folders, with what differs.

use std::collections::BTreeMap;
use std::io::{self, Write};
use std::iter::Peekable;

use askama::Template;
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::Pair;

use super::filters;
use crate::marks::Marks;
use crate::shown::{shown_bytes, shown_name};
use crate::view::TreeView;
use crate::wording::tree::{Inside, is_told_by_contents, is_within, left_out, newer, says};

#[derive(Template)]
#[template(path = "tree.html")]
struct TreePart<'a> {
    statuses: Vec<Choice>,
    root: &'a FolderPart,
    notes: Vec<String>,
    before: String,
    after: String,
}

/// A status to filter by.
struct Choice {
    word: &'static str,
    mark: &'static str,
    count: usize,
}

/// A folder and all that is listed in it.
#[derive(Default, Template)]
#[template(path = "folder.html")]
struct FolderPart {
    name: String,
    path: String,
    entries: Vec<EntryPart>,
    folders: Vec<FolderPart>,
}

struct EntryPart {
    statuses: String,
    word: &'static str,
    mark: &'static str,
    name: String,
    href: Option<String>,
    says: String,
    newer: Option<&'static str>,
}

/// Writes the tree and what finds something in it.
pub(super) fn write_tree(
    view: &TreeView<'_>,
    href: &dyn Fn(usize) -> Option<String>,
    out: &mut dyn Write,
) -> io::Result<()> {
    let pairs = &view.comparison.pairs;
    let mut by_folder: BTreeMap<Vec<u8>, Listed<'_>> = BTreeMap::new();
    let mut listed: BTreeMap<Status, usize> = BTreeMap::new();
    for (index, pair) in pairs.iter().enumerate() {
        if !is_told_by_contents(pairs, index) {
            // Folders are counted apart, as in the summary.
            *listed.entry(pair.status).or_default() += usize::from(!pair.is_folder());
            let (folder, name) = pair.path.split();
            let listed = by_folder.entry(in_order(folder)).or_insert_with(|| (folder, Vec::new()));
            listed.1.push(entry(pair, name, href(index)));
        }
    }
    let choices = Status::ALL.iter().filter_map(|&status| {
        let count = *listed.get(&status)?;
        Some(Choice { word: status.name(), mark: Marks::of(false).of_status(status), count })
    });
    let mut folders = by_folder.into_values().peekable();
    let root = folder(b"", &mut folders);
    let part = TreePart {
        statuses: choices.collect(),
        root: &root,
        notes: left_out(view, false),
        before: shown_name(&view.labels.before, false),
        after: shown_name(&view.labels.after, false),
    };
    part.write_into(&mut { out })
}

/// A folder, and what is listed in it.
type Listed<'p> = (&'p [u8], Vec<EntryPart>);

/// A path by which a folder comes before all that is in it, and that before what only has a longer name.
fn in_order(path: &[u8]) -> Vec<u8> {
    path.iter().map(|&byte| if byte == b'/' { 0 } else { byte }).collect()
}

/// A folder with the folders in it; one that holds only one folder is told together with that.
fn folder<'p>(path: &[u8], rest: &mut Peekable<impl Iterator<Item = Listed<'p>>>) -> FolderPart {
    let mut part = FolderPart { path: format!("{}/", shown_bytes(path, false)), ..FolderPart::default() };
    if let Some((_, entries)) = rest.next_if(|(folder, _)| *folder == path) {
        part.entries = entries;
    }
    while let Some(next) = rest.peek().map(|(next, _)| *next)
        && (path.is_empty() || is_within(next, path))
    {
        let start = if path.is_empty() { 0 } else { path.len() + 1 };
        let end = memchr::memchr(b'/', &next[start..]).map_or(next.len(), |at| start + at);
        let mut inner = folder(&next[..end], rest);
        let name = format!("{}/", shown_bytes(&next[start..end], false));
        if inner.entries.is_empty() && inner.folders.len() == 1 {
            inner = inner.folders.remove(0);
        }
        inner.name = format!("{name}{}", inner.name);
        part.folders.push(inner);
    }
    part
}

fn entry(pair: &Pair, name: &[u8], href: Option<String>) -> EntryPart {
    let word = pair.status.name();
    let changed_too = pair.status == Status::Moved && pair.extent.counted > 0;
    let slash = if pair.is_folder() { "/" } else { "" };
    EntryPart {
        statuses: if changed_too { format!("{word} changed") } else { word.to_owned() },
        word,
        mark: Marks::of(false).of_status(pair.status),
        name: format!("{}{slash}", shown_bytes(name, false)),
        href,
        says: shown_name(&says(pair, Inside::default()), false),
        newer: newer(pair),
    }
}
