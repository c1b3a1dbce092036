//! JSON Merge Patch (RFC 7396): a document with what is to change in another, null for what goes.

use std::borrow::Cow;

use super::document::{DataFormat, Document, NodeId, NodeKind, ROOT};
use super::draft::Draft;
use super::json_patch::{DataPatchError, DataPatched, compact, malformed, means_the_same, unreadable};
use super::part::{Part, expand};
use super::path::push_key;
use super::read::read_document;
use super::render::quoted;

/// What a merge patch cannot say.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum MergePatchError {
    /// The documents are not both maps.
    #[error("a merge patch is between two maps, and one of the documents is none")]
    NotMaps,
    /// A value is null, which a merge patch takes for a removal.
    #[error("{0} is null, which a merge patch takes for a removal; --format json-patch can say it")]
    Null(String),
    /// A list differs, which a merge patch replaces as a whole only.
    #[error("the list {0} differs, and a merge patch cannot change a list in part; --format json-patch can say it")]
    List(String),
}

/// Writes the merge patch that turns one document into another.
///
/// # Errors
/// When it cannot be said so: with the path.
pub fn write_merge_patch(before: &Document<'_>, after: &Document<'_>) -> Result<Vec<u8>, MergePatchError> {
    if before.kind(ROOT) != NodeKind::Map || after.kind(ROOT) != NodeKind::Map {
        return Err(MergePatchError::NotMaps);
    }
    if means_the_same((before, ROOT), (after, ROOT)) {
        return Ok(Vec::new());
    }
    let patch = of_maps((before, ROOT), (after, ROOT), ("", 1))?;
    Ok(format!("{patch}\n").into_bytes())
}

fn of_maps(
    (before, b): (&Document<'_>, NodeId),
    (after, a): (&Document<'_>, NodeId),
    (path, depth): (&str, usize),
) -> Result<String, MergePatchError> {
    let mut members = Vec::new();
    let inner = |key: &str| {
        let mut inner = path.to_owned();
        push_key(&mut inner, key);
        inner
    };
    for child in before.children(b) {
        let key = before.key(child).unwrap_or_default();
        if after.member(a, key).is_none() {
            members.push(format!("{}: null", quoted(key)));
        }
    }
    for child in after.children(a) {
        let key = after.key(child).unwrap_or_default();
        let own = after.member(a, key).unwrap_or(child);
        let path = inner(key);
        let value = match before.member(b, key) {
            Some(old) if means_the_same((before, old), (after, own)) => continue,
            Some(old) if before.kind(old) == NodeKind::Map && after.kind(own) == NodeKind::Map => {
                of_maps((before, old), (after, own), (&path, depth + 1))?
            }
            Some(old) if before.kind(old) == NodeKind::List && after.kind(own) == NodeKind::List => {
                return Err(MergePatchError::List(path));
            }
            _ => {
                no_nulls(after, own, &path)?;
                compact(after, own)
            }
        };
        members.push(format!("{}: {value}", quoted(key)));
    }
    let indent = "  ".repeat(depth);
    Ok(format!("{{\n{indent}{}\n{}}}", members.join(&format!(",\n{indent}")), "  ".repeat(depth - 1)))
}

/// Refuses null in what would come in whole; inside lists it is a value like others.
fn no_nulls(document: &Document<'_>, node: NodeId, path: &str) -> Result<(), MergePatchError> {
    match document.kind(node) {
        NodeKind::Null => Err(MergePatchError::Null(path.to_owned())),
        NodeKind::Map => document.children(node).try_for_each(|child| {
            let mut inner = path.to_owned();
            push_key(&mut inner, document.key(child).unwrap_or_default());
            no_nulls(document, child, &inner)
        }),
        _ => Ok(()),
    }
}

/// Puts a merge patch into a document. What it does not touch stays as it is written.
///
/// # Errors
/// When either cannot be read.
pub fn apply_merge_patch(text: &[u8], patch: &[u8]) -> Result<DataPatched, DataPatchError> {
    let document =
        read_document(Cow::Borrowed(text), DataFormat::Json).map_err(|failure| unreadable(&failure, text))?;
    let changes =
        read_document(Cow::Borrowed(patch), DataFormat::Json).map_err(|failure| malformed(&failure, patch))?;
    let mut draft = Draft::of(&document, &[&changes]);
    let documents = draft.documents.clone();
    let mut operations = 0;
    let root = std::mem::replace(&mut draft.root, Part::Kept(0, ROOT));
    draft.root = merged(&documents, root, ROOT, &mut operations);
    Ok(DataPatched { text: draft.text(), operations })
}

/// The procedure of RFC 7396, section 2.
fn merged(documents: &[&Document<'_>], target: Part, patch: NodeId, operations: &mut usize) -> Part {
    let changes = documents[1];
    if changes.kind(patch) != NodeKind::Map {
        *operations += 1;
        return Part::Kept(1, patch);
    }
    let mut target = target;
    expand(documents, &mut target);
    let (origin, mut members) = match target {
        Part::Map(origin, members) => (origin, members),
        _ => (None, Vec::new()),
    };
    for child in changes.children(patch) {
        let key = changes.key(child).unwrap_or_default();
        let at = members.iter().rposition(|(own, _)| own == key);
        if changes.kind(child) == NodeKind::Null {
            if let Some(at) = at {
                members.remove(at);
                *operations += 1;
            }
            continue;
        }
        match at {
            Some(at) => {
                let own = members[at].1.clone();
                let new = merged(documents, own.clone(), child, operations);
                members[at].1 = if matches!(new, Part::Kept(1, _)) { own.replaced_by(new) } else { new };
            }
            None => {
                // What is new holds no null either.
                let fresh = merged(documents, Part::Map(None, Vec::new()), child, operations);
                members.push((key.to_owned(), fresh));
            }
        }
    }
    Part::Map(origin, members)
}
