//! JSON Patch (RFC 6902): operations on a document of JSON, put in and written.

use std::borrow::Cow;

use super::document::{DataFormat, Document, NodeId, NodeKind, ROOT};
use super::draft::{Draft, Misfit, Place};
use super::failure::Failure;
use super::likeness::{LEAST, likeness};
use super::part::Part;
use super::path::push_key;
use super::read::read_document;
use super::render::quoted;
use crate::internal::align::{Bounds, align_items, pair_alike};

/// Why a patch cannot be put into a document.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum DataPatchError {
    /// The patch cannot be read.
    #[error("the patch cannot be read: line {line}, column {column}: {reason}")]
    Malformed {
        /// The line in the patch, from 1.
        line: usize,
        /// The column, from 1.
        column: usize,
        /// What is wrong there.
        reason: String,
    },
    /// The document that it is for cannot be read.
    #[error("line {line}, column {column}: {reason}")]
    Document {
        /// The line in the document, from 1.
        line: usize,
        /// The column, from 1.
        column: usize,
        /// What is wrong there.
        reason: String,
    },
    /// An operation does not fit.
    #[error("operation {number} ({operation} {pointer}) does not fit: {reason}")]
    Misfit {
        /// Its number in the patch, from 1.
        number: usize,
        /// What it would do.
        operation: String,
        /// The pointer that does not fit.
        pointer: String,
        /// Why it does not.
        reason: String,
    },
}

pub(super) fn malformed(failure: &Failure, text: &[u8]) -> DataPatchError {
    let (line, column) = failure.line_and_column(text);
    DataPatchError::Malformed { line, column, reason: failure.reason.clone() }
}

pub(super) fn unreadable(failure: &Failure, text: &[u8]) -> DataPatchError {
    let (line, column) = failure.line_and_column(text);
    DataPatchError::Document { line, column, reason: failure.reason.clone() }
}

/// What came of a patch.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DataPatched {
    /// The document as it is now.
    pub text: Vec<u8>,
    /// How many operations were carried out.
    pub operations: usize,
}

/// Whether a text is a JSON Patch: a list of records that name an operation.
pub fn is_json_patch(text: &[u8]) -> bool {
    if !text.trim_ascii_start().starts_with(b"[") || memchr::memmem::find(text, b"\"op\"").is_none() {
        return false;
    }
    let Ok(document) = read_document(Cow::Borrowed(text), DataFormat::Json) else { return false };
    let is_operation = |node: NodeId| {
        let has = |name: &str| document.kind(node) == NodeKind::Map && document.member(node, name).is_some();
        has("op") && has("path")
    };
    document.kind(ROOT) == NodeKind::List
        && document.children(ROOT).next().is_some()
        && document.children(ROOT).all(is_operation)
}

/// Puts a patch into a document: all of it, or nothing. What it does not touch stays as it is written.
///
/// # Errors
/// When either cannot be read, or an operation does not fit.
pub fn apply_json_patch(text: &[u8], patch: &[u8]) -> Result<DataPatched, DataPatchError> {
    let document =
        read_document(Cow::Borrowed(text), DataFormat::Json).map_err(|failure| unreadable(&failure, text))?;
    let operations =
        read_document(Cow::Borrowed(patch), DataFormat::Json).map_err(|failure| malformed(&failure, patch))?;
    if operations.kind(ROOT) != NodeKind::List {
        return Err(malformed(&Failure::new(0, "a patch is a list of operations"), patch));
    }
    let mut draft = Draft::of(&document, &[&operations]);
    let mut count = 0;
    for (index, node) in operations.children(ROOT).enumerate() {
        let text_of = |name: &str| {
            let member = operations.member(node, name).filter(|member| operations.kind(*member) == NodeKind::Text);
            member.map(|member| operations.value(member).to_owned())
        };
        let at = operations.span(node).start;
        let missing = |name: &str| malformed(&Failure::new(at, format!("an operation needs `{name}`")), patch);
        if operations.kind(node) != NodeKind::Map {
            return Err(malformed(&Failure::new(at, "an operation is a map"), patch));
        }
        let operation = text_of("op").ok_or_else(|| missing("op"))?;
        let path = text_of("path").ok_or_else(|| missing("path"))?;
        let value = || operations.member(node, "value").map(|node| Part::Kept(1, node)).ok_or_else(|| missing("value"));
        let from = || text_of("from").ok_or_else(|| missing("from"));
        let done = match operation.as_str() {
            "add" => add(&mut draft, &path, value()?),
            "remove" => remove(&mut draft, &path).map(|_| ()),
            "replace" => replace(&mut draft, &path, value()?),
            "move" => carry(&mut draft, &from()?, &path),
            "copy" => {
                let part = draft.get(&from()?);
                part.and_then(|part| add(&mut draft, &path, part))
            }
            "test" => {
                let wanted = value()?;
                draft.get(&path).and_then(|own| {
                    let is_equal = draft.is_equal(&own, &wanted);
                    if is_equal { Ok(()) } else { Err(Misfit::new(path.clone(), "another value stands there")) }
                })
            }
            other => {
                let reason = format!("`{other}` is no operation; there are add, remove, replace, move, copy, test");
                return Err(malformed(&Failure::new(at, reason), patch));
            }
        };
        done.map_err(|misfit| DataPatchError::Misfit {
            number: index + 1,
            operation: operation.clone(),
            pointer: misfit.pointer,
            reason: misfit.reason,
        })?;
        count += usize::from(operation != "test");
    }
    Ok(DataPatched { text: draft.text(), operations: count })
}

fn add(draft: &mut Draft<'_>, path: &str, part: Part) -> Result<(), Misfit> {
    match draft.place(path)? {
        None => draft.root = part,
        Some(Place::Member(members, key)) => match members.iter_mut().rev().find(|(own, _)| *own == key) {
            Some((_, own)) => *own = own.replaced_by(part),
            None => members.push((key, part)),
        },
        Some(Place::Item(items, index)) => items.insert(index, part),
    }
    Ok(())
}

fn remove(draft: &mut Draft<'_>, path: &str) -> Result<Part, Misfit> {
    let missing = || Misfit::new(path, "there is nothing at this path");
    match draft.place(path)? {
        None => Err(Misfit::new(path, "the document as a whole cannot be removed")),
        Some(Place::Member(members, key)) => {
            let at = members.iter().rposition(|(own, _)| *own == key).ok_or_else(missing)?;
            Ok(members.remove(at).1)
        }
        Some(Place::Item(items, index)) => {
            if index < items.len() {
                Ok(items.remove(index))
            } else {
                Err(missing())
            }
        }
    }
}

fn replace(draft: &mut Draft<'_>, path: &str, part: Part) -> Result<(), Misfit> {
    let missing = || Misfit::new(path, "there is nothing at this path");
    match draft.place(path)? {
        None => draft.root = part,
        Some(Place::Member(members, key)) => {
            let own = &mut members.iter_mut().rev().find(|(own, _)| *own == key).ok_or_else(missing)?.1;
            *own = own.replaced_by(part);
        }
        Some(Place::Item(items, index)) => {
            let own = items.get_mut(index).ok_or_else(missing)?;
            *own = own.replaced_by(part);
        }
    }
    Ok(())
}

fn carry(draft: &mut Draft<'_>, from: &str, path: &str) -> Result<(), Misfit> {
    if path.strip_prefix(from).is_some_and(|rest| rest.starts_with('/')) {
        return Err(Misfit::new(path, "it cannot be moved into itself"));
    }
    let part = remove(draft, from)?;
    add(draft, path, part)
}

/// A value of so many bytes is told again in a test before it is removed or replaced.
const TESTED: usize = 200;

/// Writes the patch that turns one document into another, an operation a line; nothing where they mean the same.
pub fn write_json_patch(before: &Document<'_>, after: &Document<'_>) -> Vec<u8> {
    let plain = operations(before, after);
    let (moves, moved) = with_moves(before, after);
    let size = |operations: &[String]| operations.iter().map(String::len).sum::<usize>();
    let chosen = match moved {
        Some(text) if !moves.is_empty() => match read_document(Cow::Owned(text), DataFormat::Json) {
            Ok(between) => {
                let rest = self::operations(&between, after);
                let all: Vec<String> = moves.into_iter().chain(rest).collect();
                if size(&all) < size(&plain) { all } else { plain }
            }
            Err(_) => plain,
        },
        _ => plain,
    };
    if chosen.is_empty() {
        return Vec::new();
    }
    format!("[\n  {}\n]\n", chosen.join(",\n  ")).into_bytes()
}

/// Nodes that stand elsewhere in maps, as operations, and the document with them carried out.
fn with_moves(before: &Document<'_>, after: &Document<'_>) -> (Vec<String>, Option<Vec<u8>>) {
    let mut operations = Vec::new();
    let mut draft = Draft::of(before, &[]);
    for (from, to, is_copy) in transfers(before, after) {
        let (name, done) = if is_copy {
            ("copy", draft.get(&from).and_then(|part| add(&mut draft, &to, part)))
        } else {
            ("move", carry(&mut draft, &from, &to))
        };
        if done.is_ok() {
            operations.push(format!("{{\"op\": \"{name}\", \"from\": {}, \"path\": {}}}", quoted(&from), quoted(&to)));
        }
    }
    let text = (!operations.is_empty()).then(|| draft.text());
    (operations, text)
}

/// Nodes of one meaning that have another path after: from, to, and whether the first one stays.
fn transfers(before: &Document<'_>, after: &Document<'_>) -> Vec<(String, String, bool)> {
    use std::collections::HashMap;
    let mut by_meaning: HashMap<u64, Vec<String>> = HashMap::new();
    each_member(before, &mut |path, node| {
        if before.span(node).len() > TESTED / 4 {
            by_meaning.entry(hash_of(before, node)).or_default().push(path.to_owned());
        }
    });
    let is_there = |document: &Document<'_>, path: &str| super::path::find(document, ROOT, path);
    let mut found: Vec<(String, String, bool)> = Vec::new();
    let mut taken: Vec<String> = Vec::new();
    each_member(after, &mut |path, node| {
        let Some(sources) =
            (after.span(node).len() > TESTED / 4).then(|| by_meaning.get(&hash_of(after, node))).flatten()
        else {
            return;
        };
        let parent = path.rfind('/').map_or("", |at| &path[..at]);
        let fits = is_there(before, parent).is_some_and(|parent| before.kind(parent) == NodeKind::Map);
        let is_inside = taken.iter().any(|taken| path.starts_with(&format!("{taken}/")));
        if !fits || is_there(before, path).is_some() || is_inside {
            return;
        }
        // What stays where it was is copied, what does not is moved.
        let stays = |source: &&String| {
            is_there(after, source).is_some_and(|there| means_the_same((after, there), (after, node)))
        };
        let leaves = |source: &&String| !stays(source) && !found.iter().any(|(from, ..)| from == *source);
        if let Some(source) = sources.iter().find(leaves) {
            found.push((source.clone(), path.to_owned(), false));
            taken.push(path.to_owned());
        } else if let Some(source) = sources.iter().find(stays) {
            found.push((source.clone(), path.to_owned(), true));
            taken.push(path.to_owned());
        }
    });
    found
}

/// Calls `take` with each member of a map that no list holds, and its path.
fn each_member(document: &Document<'_>, take: &mut dyn FnMut(&str, NodeId)) {
    let mut waiting = vec![(String::new(), ROOT)];
    while let Some((path, node)) = waiting.pop() {
        if document.kind(node) != NodeKind::Map {
            continue;
        }
        let mut inner = Vec::new();
        for child in document.children(node) {
            let mut own = path.clone();
            push_key(&mut own, document.key(child).unwrap_or_default());
            take(&own, child);
            inner.push((own, child));
        }
        waiting.extend(inner.into_iter().rev());
    }
}

/// The operations that turn one document into another.
fn operations(before: &Document<'_>, after: &Document<'_>) -> Vec<String> {
    let mut writer = Writer { before, after, operations: Vec::new() };
    writer.nodes(ROOT, ROOT, "");
    writer.operations
}

struct Writer<'w> {
    before: &'w Document<'w>,
    after: &'w Document<'w>,
    /// Operations, as they are written.
    operations: Vec<String>,
}

impl Writer<'_> {
    fn nodes(&mut self, b: NodeId, a: NodeId, path: &str) {
        if means_the_same((self.before, b), (self.after, a)) {
            return;
        }
        match (self.before.kind(b), self.after.kind(a)) {
            (NodeKind::Map, NodeKind::Map) => self.members(b, a, path),
            (NodeKind::List, NodeKind::List) => self.items(b, a, path),
            _ => {
                self.test(b, path);
                let value = compact(self.after, a);
                self.push(format!("{{\"op\": \"replace\", \"path\": {}, \"value\": {value}}}", quoted(path)));
            }
        }
    }

    fn push(&mut self, text: String) {
        self.operations.push(text);
    }

    /// Makes sure that the value which goes is the one that was seen.
    fn test(&mut self, b: NodeId, path: &str) {
        let value = compact(self.before, b);
        if value.len() <= TESTED {
            self.push(format!("{{\"op\": \"test\", \"path\": {}, \"value\": {value}}}", quoted(path)));
        }
    }

    fn remove(&mut self, b: NodeId, path: &str) {
        self.test(b, path);
        self.push(format!("{{\"op\": \"remove\", \"path\": {}}}", quoted(path)));
    }

    fn add(&mut self, a: NodeId, path: &str) {
        let value = compact(self.after, a);
        self.push(format!("{{\"op\": \"add\", \"path\": {}, \"value\": {value}}}", quoted(path)));
    }

    fn members(&mut self, b: NodeId, a: NodeId, path: &str) {
        let inner = |key: &str| {
            let mut inner = path.to_owned();
            push_key(&mut inner, key);
            inner
        };
        let mut seen = std::collections::HashSet::new();
        for child in self.before.children(b).collect::<Vec<_>>().into_iter().rev() {
            let key = self.before.key(child).unwrap_or_default().to_owned();
            if self.after.member(a, &key).is_none() && seen.insert(key.clone()) {
                self.remove(child, &inner(&key));
            }
        }
        let mut seen = std::collections::HashSet::new();
        for child in self.after.children(a).collect::<Vec<_>>() {
            let key = self.after.key(child).unwrap_or_default().to_owned();
            if !seen.insert(key.clone()) {
                continue;
            }
            let own = self.after.member(a, &key).unwrap_or(child);
            match self.before.member(b, &key) {
                Some(old) => self.nodes(old, own, &inner(&key)),
                None => self.add(own, &inner(&key)),
            }
        }
    }

    /// Items are made what they are from the front: what stands before one has its last index already.
    fn items(&mut self, b: NodeId, a: NodeId, path: &str) {
        let (before, after) = (self.before, self.after);
        let (old, new): (Vec<_>, Vec<_>) = (before.children(b).collect(), after.children(a).collect());
        let hashes = |document: &Document<'_>, nodes: &[NodeId]| -> Vec<u64> {
            nodes.iter().map(|node| hash_of(document, *node)).collect()
        };
        let stretches = align_items(&hashes(before, &old), &hashes(after, &new), &Bounds::default());
        for (gone, fresh) in stretches {
            let alike =
                |x: usize, y: usize| likeness((before, old[gone.start + x]), (after, new[fresh.start + y])).max(0.01);
            let least = if gone.len() == fresh.len() { 0.0 } else { LEAST };
            let pairs = pair_alike((gone.len(), fresh.len()), least, alike);
            let (mut x, mut y) = (0, 0);
            for (to_x, to_y) in pairs.into_iter().chain([(gone.len(), fresh.len())]) {
                while x < to_x {
                    self.remove(old[gone.start + x], &format!("{path}/{}", fresh.start + y));
                    x += 1;
                }
                while y < to_y {
                    self.add(new[fresh.start + y], &format!("{path}/{}", fresh.start + y));
                    y += 1;
                }
                if to_x < gone.len() && to_y < fresh.len() {
                    self.nodes(old[gone.start + x], new[fresh.start + y], &format!("{path}/{}", fresh.start + y));
                    (x, y) = (x + 1, y + 1);
                }
            }
        }
    }
}

/// Whether two nodes of documents that may have been read apart mean the same.
pub(super) fn means_the_same((before, b): (&Document<'_>, NodeId), (after, a): (&Document<'_>, NodeId)) -> bool {
    let documents = Draft { documents: vec![before, after], root: Part::Kept(0, ROOT) };
    before.size(b) == after.size(a) && documents.is_equal(&Part::Kept(0, b), &Part::Kept(1, a))
}

/// A hash of what a node means that is the same in all documents.
fn hash_of(document: &Document<'_>, node: NodeId) -> u64 {
    crate::internal::text::lines::hash_line(canonical(document, node).as_bytes())
}

/// A node in one form for all that mean the same.
fn canonical(document: &Document<'_>, node: NodeId) -> String {
    match document.kind(node) {
        NodeKind::Map => {
            let mut members: Vec<String> = document
                .children(node)
                .map(|child| {
                    format!("{}:{}", quoted(document.key(child).unwrap_or_default()), canonical(document, child))
                })
                .collect();
            members.sort_unstable();
            format!("{{{}}}", members.join(","))
        }
        NodeKind::List => {
            let items: Vec<String> = document.children(node).map(|child| canonical(document, child)).collect();
            format!("[{}]", items.join(","))
        }
        NodeKind::Number => match crate::internal::kinds::number::Decimal::read(document.value(node).as_bytes()) {
            Some(number) => format!("{:?}", number.parts()),
            None => document.value(node).to_owned(),
        },
        NodeKind::Text => quoted(document.value(node)),
        _ => document.value(node).to_owned(),
    }
}

/// A node in one line.
pub(super) fn compact(document: &Document<'_>, node: NodeId) -> String {
    match document.kind(node) {
        NodeKind::Map => {
            let member = |child: NodeId| {
                format!("{}: {}", quoted(document.key(child).unwrap_or_default()), compact(document, child))
            };
            format!("{{{}}}", document.children(node).map(member).collect::<Vec<_>>().join(", "))
        }
        NodeKind::List => {
            format!(
                "[{}]",
                document.children(node).map(|child| compact(document, child)).collect::<Vec<_>>().join(", ")
            )
        }
        NodeKind::Text => quoted(document.value(node)),
        _ => String::from_utf8_lossy(&document.text()[document.span(node)]).into_owned(),
    }
}
