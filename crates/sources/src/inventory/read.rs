//! Reading an inventory, or a checksum list of the trade, as a tree without contents.

use std::io::BufRead;
use std::time::{Duration, SystemTime};

use jiff::Timestamp;
use tideline_core::internal::tree::{EntryMetadata, EntryType, TreeError, TreeErrorKind, TreePath};

use super::format::{Head, Known, Record, VERSION};
use super::known::{Hashes, InventoryHead};
use super::list::Listed;
use super::tree::InventoryTree;
use crate::hashing::{Algorithm, from_hex};
use crate::index::{Index, Node};

/// Reads an inventory. Lines that are damaged are told, with their numbers.
///
/// # Errors
/// When it is of a version that is not known.
pub(super) fn read(mut lines: impl BufRead) -> Result<InventoryTree, TreeError> {
    let (mut index, mut head, mut hasher) = (Index::default(), InventoryHead::default(), blake3::Hasher::new());
    let (mut damage, mut number, mut ended) = (None, 0, false);
    let mut damaged = |number: usize, reason: &str| {
        damage.get_or_insert_with(|| {
            TreeError::new(TreeErrorKind::Damaged, format!("line {number} of the inventory {reason}"))
        });
    };
    let mut line = Vec::new();
    loop {
        line.clear();
        match lines.read_until(b'\n', &mut line) {
            Ok(0) => break,
            Ok(_) => number += 1,
            Err(error) => {
                damaged(number + 1, &format!("cannot be read: {error}"));
                break;
            }
        }
        if ended {
            damaged(number, "comes after the totals, which are the last line");
            break;
        }
        match serde_json::from_slice(&line) {
            Ok(Record::Inventory(told)) if number == 1 => head = head_of(told)?,
            Ok(Record::Inventory(_)) => damaged(number, "is another head"),
            Ok(Record::Entry(known)) => match node_of(&known) {
                Some((path, node)) => index.add(&path, node),
                None => damaged(number, "is damaged: its path, hash or time cannot be read"),
            },
            Ok(Record::Total(total)) => {
                ended = true;
                if from_hex(total.blake3.as_bytes()).as_deref() != Some(hasher.finalize().as_bytes()) {
                    damaged(number, "does not fit the lines above it: the inventory was changed after it was made");
                }
            }
            Err(_) if line.last() != Some(&b'\n') => damaged(number, "is cut off, and nothing follows"),
            Err(error) => damaged(number, &format!("is damaged: {error}")),
        }
        hasher.update(&line);
    }
    if !ended && damage.is_none() {
        let reason = format!("the inventory ends after line {number} without its totals: it is cut off");
        damage = Some(TreeError::new(TreeErrorKind::Damaged, reason));
    }
    Ok(InventoryTree::new(index, head, damage, false))
}

fn head_of(head: Head) -> Result<InventoryHead, TreeError> {
    if head.version != VERSION {
        let reason = format!("the inventory is of version {}, and only version {VERSION} is known", head.version);
        return Err(TreeError::new(TreeErrorKind::Other, reason));
    }
    Ok(InventoryHead { root: head.root.bytes(), rules: head.rules })
}

fn node_of(known: &Known) -> Option<(Vec<u8>, Node<Hashes>)> {
    let entry_type = match &*known.entry_type {
        "file" => EntryType::File,
        "folder" => EntryType::Folder,
        "link" => EntryType::Link,
        other => EntryType::Special(special(other)),
    };
    let octal = |text: &str| u32::from_str_radix(text, 8).ok();
    let mode = known.mode.as_deref().map(octal);
    let unknown = known.mode_known.as_deref().map(|known| octal(known).map(|known| 0o7777 & !known));
    let modified = known.modified.as_deref().map(|text| text.parse::<Timestamp>().ok().map(SystemTime::from));
    let hashes = [(Algorithm::Blake3, &known.blake3), (Algorithm::Sha256, &known.sha256)];
    let hash = |(algorithm, digits): (Algorithm, &Option<String>)| {
        digits.as_ref().map(|digits| {
            let bytes = from_hex(digits.as_bytes()).filter(|bytes| bytes.len() == 32);
            bytes.map(|bytes| (algorithm, bytes))
        })
    };
    let hashes: Option<Vec<(Algorithm, Vec<u8>)>> = hashes.into_iter().filter_map(hash).collect();
    let metadata = EntryMetadata {
        size: known.size.unwrap_or(0),
        modified: modified.map_or(Some(None), |time| time.map(Some))?,
        mode: mode.map_or(Some(None), |mode| mode.map(Some))?,
        mode_unknown: unknown.map_or(Some(0), |unknown| unknown)?,
        time_step: Duration::from_secs(known.modified_step.unwrap_or(0)),
        ..EntryMetadata::default()
    };
    let unreadable = known.unreadable.as_ref().map(|reason| {
        TreeError::new(TreeErrorKind::Other, format!("it could not be read when the inventory was made: {reason}"))
    });
    let target = match &known.target {
        Some(target) => Some(target.bytes()?),
        None => None,
    };
    let held = Hashes(hashes?, unreadable);
    Some((known.path.bytes()?, Node { entry_type, metadata: Some(metadata), target, held, packed: false }))
}

/// What the system calls what is neither a file, a folder nor a link.
fn special(name: &str) -> &'static str {
    const NAMES: [&str; 5] = ["socket", "named pipe", "device", "link loop", "submodule"];
    NAMES.into_iter().find(|known| *known == name).unwrap_or("special file")
}

/// A checksum list as a tree.
pub(super) fn tree_of_list(listed: Vec<Listed>) -> InventoryTree {
    let mut index = Index::default();
    let both_are_possible = listed.iter().all(|entry| entry.algorithm == Algorithm::Sha256 && entry.by_length);
    for Listed { path, algorithm, hash, .. } in listed {
        let held = Hashes(vec![(algorithm, hash)], None);
        let node = Node { entry_type: EntryType::File, metadata: None, target: None, held, packed: false };
        index.add(&TreePath::from(path), node);
    }
    InventoryTree::new(index, InventoryHead::default(), None, both_are_possible)
}
