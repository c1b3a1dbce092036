//! Three documents merged by path.
//!
//! What theirs changed since the base, and mine did not, comes into mine, which keeps its layout. What both changed is a conflict: for these
//! the document is written three times, with the value of each version, so that whoever marks conflicts in lines finds them there.

use std::borrow::Cow;
use std::collections::{HashMap, HashSet};

use foldhash::quality::RandomState;

use super::chunks::write_chunks;
use super::document::{DataFormat, Document, NodeId, NodeKind, ROOT};
use super::draft::Draft;
use super::identity::record_names;
use super::part::Part;
use super::read::read_with;
use crate::internal::align::{Bounds, align_items};

/// Three documents in the layout of mine. They differ in nothing but what both sides changed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DataMerge {
    /// With what the base has where both changed something.
    pub base: Vec<u8>,
    /// With what mine has there.
    pub mine: Vec<u8>,
    /// With what theirs has there.
    pub theirs: Vec<u8>,
    /// How many changes came in from theirs.
    pub taken: usize,
    /// The paths that both changed.
    pub conflicts: Vec<String>,
}

/// Whose value is written where both changed one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Version {
    Base,
    Mine,
    Theirs,
}

/// The documents by their places in a draft.
const MINE: usize = 0;
const THEIRS: usize = 1;
const BASE: usize = 2;

/// Merges three documents of one format; nothing where one cannot be read, or the result could not be written with certainty.
pub fn merge_documents(format: DataFormat, base: &[u8], mine: &[u8], theirs: &[u8]) -> Option<DataMerge> {
    if format == DataFormat::Xml {
        return None;
    }
    let hasher = RandomState::default();
    let read = |text: &[u8]| read_with(Cow::Owned(text.to_vec()), format, &hasher).ok();
    let (base, mine, theirs) = (read(base)?, read(mine)?, read(theirs)?);
    let write = |version: Version| -> Option<(Vec<u8>, usize, Vec<String>)> {
        let mut merging = Merging {
            documents: [&mine, &theirs, &base],
            version,
            taken: 0,
            conflicts: Vec::new(),
            path: String::new(),
        };
        let root = merging.nodes(Some(ROOT), ROOT, ROOT);
        let text = match format {
            DataFormat::Json | DataFormat::JsonLines => {
                let mut draft = Draft::of(&mine, &[&theirs, &base]);
                draft.root = root.clone();
                draft.text()
            }
            _ => write_chunks(&merging.documents, &root)?,
        };
        // What was written is read again: it has to mean what was meant.
        let written = read_with(Cow::Borrowed(&text), format, &hasher).ok()?;
        let documents = vec![&written, &theirs, &base, &mine];
        let meant = moved_to_last(&root);
        let draft = Draft { documents, root: Part::Kept(0, ROOT) };
        draft.is_equal(&Part::Kept(0, ROOT), &meant).then_some((text, merging.taken, merging.conflicts))
    };
    let (mine_text, taken, conflicts) = write(Version::Mine)?;
    let (base_text, theirs_text) = if conflicts.is_empty() {
        (mine_text.clone(), mine_text.clone())
    } else {
        (write(Version::Base)?.0, write(Version::Theirs)?.0)
    };
    Some(DataMerge { base: base_text, mine: mine_text, theirs: theirs_text, taken, conflicts })
}

/// The same part where mine is the last of the documents.
fn moved_to_last(part: &Part) -> Part {
    let place = |from: usize| if from == MINE { 3 } else { from };
    match part {
        Part::Kept(from, node) => Part::Kept(place(*from), *node),
        Part::Map(_, members) => {
            Part::Map(None, members.iter().map(|(key, part)| (key.clone(), moved_to_last(part))).collect())
        }
        Part::List(_, items) => Part::List(None, items.iter().map(moved_to_last).collect()),
        Part::InPlace(_, part) => moved_to_last(part),
    }
}

struct Merging<'m> {
    documents: [&'m Document<'m>; 3],
    version: Version,
    taken: usize,
    conflicts: Vec<String>,
    path: String,
}

impl Merging<'_> {
    fn meaning(&self, from: usize, node: NodeId) -> u64 {
        self.documents[from].nodes[node].meaning
    }

    fn kind(&self, from: usize, node: NodeId) -> NodeKind {
        self.documents[from].kind(node)
    }

    /// What becomes of a value that mine and theirs have.
    fn nodes(&mut self, base: Option<NodeId>, mine: NodeId, theirs: NodeId) -> Part {
        let own = Part::Kept(MINE, mine);
        let (m, t) = (self.meaning(MINE, mine), self.meaning(THEIRS, theirs));
        let b = base.map(|base| self.meaning(BASE, base));
        if m == t || b == Some(t) {
            return own;
        }
        let kinds = (base.map(|base| self.kind(BASE, base)), self.kind(MINE, mine), self.kind(THEIRS, theirs));
        match (base, kinds) {
            (Some(base), (Some(NodeKind::Map), NodeKind::Map, NodeKind::Map)) => self.members(base, mine, theirs),
            (Some(base), (Some(NodeKind::List), NodeKind::List, NodeKind::List)) => self.lists(base, mine, theirs),
            _ if b == Some(m) => {
                self.taken += 1;
                own.replaced_by(Part::Kept(THEIRS, theirs))
            }
            _ => {
                self.conflicts.push(self.path.clone());
                match (self.version, base) {
                    (Version::Theirs, _) => own.replaced_by(Part::Kept(THEIRS, theirs)),
                    (Version::Base, Some(base)) => own.replaced_by(Part::Kept(BASE, base)),
                    _ => own,
                }
            }
        }
    }

    /// What becomes of a value that mine has and theirs removed.
    fn removed(&mut self, base: NodeId, mine: NodeId) -> Option<Part> {
        let own = Part::Kept(MINE, mine);
        if self.meaning(BASE, base) == self.meaning(MINE, mine) {
            self.taken += 1;
            return None;
        }
        self.conflicts.push(self.path.clone());
        match self.version {
            Version::Mine => Some(own),
            Version::Base => Some(own.replaced_by(Part::Kept(BASE, base))),
            Version::Theirs => None,
        }
    }

    /// What becomes of a value that theirs has and mine does not.
    fn only_theirs(&mut self, base: Option<NodeId>, theirs: NodeId) -> Option<Part> {
        let Some(base) = base else {
            self.taken += 1;
            return Some(Part::Kept(THEIRS, theirs));
        };
        if self.meaning(BASE, base) == self.meaning(THEIRS, theirs) {
            return None;
        }
        self.conflicts.push(self.path.clone());
        match self.version {
            Version::Mine => None,
            Version::Base => Some(Part::Kept(BASE, base)),
            Version::Theirs => Some(Part::Kept(THEIRS, theirs)),
        }
    }

    fn members(&mut self, base: NodeId, mine: NodeId, theirs: NodeId) -> Part {
        let named = |from: usize, node: NodeId| -> Vec<(String, NodeId)> {
            let document = self.documents[from];
            let name = |child: NodeId| (document.key(child).unwrap_or_default().to_owned(), child);
            document.children(node).map(name).collect()
        };
        let (old, own, other) = (named(BASE, base), named(MINE, mine), named(THEIRS, theirs));
        let parts = self.named(&old, &own, &other);
        Part::Map(Some((MINE, mine)), parts)
    }

    /// Merges values that have names. What theirs adds comes behind what it stands behind there.
    fn named(
        &mut self,
        old: &[(String, NodeId)],
        own: &[(String, NodeId)],
        other: &[(String, NodeId)],
    ) -> Vec<(String, Part)> {
        let by_name = |named: &[(String, NodeId)]| -> HashMap<String, NodeId> { named.iter().cloned().collect() };
        let (base, theirs) = (by_name(old), by_name(other));
        let mine: HashSet<&str> = own.iter().map(|(key, _)| key.as_str()).collect();
        let mut parts: Vec<(String, Part)> = Vec::new();
        for (key, node) in own {
            let len = self.path.len();
            super::path::push_key(&mut self.path, key);
            let part = match (base.get(key), theirs.get(key)) {
                (base, Some(theirs)) => Some(self.nodes(base.copied(), *node, *theirs)),
                (Some(base), None) => self.removed(*base, *node),
                (None, None) => Some(Part::Kept(MINE, *node)),
            };
            self.path.truncate(len);
            parts.extend(part.map(|part| (key.clone(), part)));
        }
        let mut present: HashSet<String> = parts.iter().map(|(key, _)| key.clone()).collect();
        let mut behind: Option<&String> = None;
        for (key, node) in other {
            if !mine.contains(key.as_str()) {
                let len = self.path.len();
                super::path::push_key(&mut self.path, key);
                let part = self.only_theirs(base.get(key).copied(), *node);
                self.path.truncate(len);
                if let Some(part) = part {
                    let at = behind.and_then(|behind| parts.iter().position(|(own, _)| own == behind));
                    parts.insert(at.map_or(0, |at| at + 1).min(parts.len()), (key.clone(), part));
                    present.insert(key.clone());
                }
            }
            if present.contains(key) {
                behind = Some(key);
            }
        }
        parts
    }

    fn lists(&mut self, base: NodeId, mine: NodeId, theirs: NodeId) -> Part {
        let items = |from: usize, node: NodeId| self.documents[from].children(node).collect::<Vec<_>>();
        let (old, own, other) = (items(BASE, base), items(MINE, mine), items(THEIRS, theirs));
        let documents = self.documents;
        let names = record_names([(documents[BASE], &old), (documents[MINE], &own), (documents[THEIRS], &other)]);
        if let Some([old_names, own_names, other_names]) = names {
            let named =
                |names: Vec<String>, nodes: &[NodeId]| names.into_iter().zip(nodes.iter().copied()).collect::<Vec<_>>();
            let parts = self.named(&named(old_names, &old), &named(own_names, &own), &named(other_names, &other));
            return Part::List(Some((MINE, mine)), parts.into_iter().map(|(_, part)| part).collect());
        }
        let hashes = |from: usize, nodes: &[NodeId]| -> Vec<u64> {
            nodes.iter().map(|node| documents[from].nodes[*node].meaning).collect()
        };
        let (b, m, t) = (hashes(BASE, &old), hashes(MINE, &own), hashes(THEIRS, &other));
        let bounds = Bounds::default();
        let (by_mine, by_theirs) = (align_items(&b, &m, &bounds), align_items(&b, &t, &bounds));
        let touches = |(one, _): &(std::ops::Range<usize>, std::ops::Range<usize>)| {
            by_mine.iter().any(|(other, _)| one.start <= other.end && other.start <= one.end)
        };
        if by_theirs.iter().any(touches) {
            self.conflicts.push(self.path.clone());
            let whole = Part::Kept(MINE, mine);
            return match self.version {
                Version::Mine => whole,
                Version::Base => whole.replaced_by(Part::Kept(BASE, base)),
                Version::Theirs => whole.replaced_by(Part::Kept(THEIRS, theirs)),
            };
        }
        let mut parts: Vec<Part> = own.iter().map(|node| Part::Kept(MINE, *node)).collect();
        for (gone, new) in by_theirs.into_iter().rev() {
            // Before this stretch, mine has as many more or fewer items as its own edits made.
            let shift = |at: usize| {
                let before = by_mine.iter().filter(|(own, _)| own.end <= at);
                before.fold(at as isize, |at, (own, their)| at + their.len() as isize - own.len() as isize) as usize
            };
            let range = shift(gone.start)..shift(gone.start) + gone.len();
            self.taken += 1;
            parts.splice(range, new.map(|at| Part::Kept(THEIRS, other[at])));
        }
        Part::List(Some((MINE, mine)), parts)
    }
}
