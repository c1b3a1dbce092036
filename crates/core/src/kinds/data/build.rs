//! Documents are built node by node, as their text is read; their hashes are found on the way.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::Arc;

use foldhash::quality::RandomState;
use std::hash::{BuildHasher, Hasher};

use super::document::{DataFormat, Document, DuplicateKey, Node, NodeId, NodeKind, Stored};
use super::failure::Failure;
use crate::internal::kinds::lines_of::LineIndex;
use crate::internal::kinds::number::Decimal;

/// Nodes inside nodes.
pub(super) const DEEPEST: usize = 200;
/// Bytes of a document.
const LARGEST: usize = u32::MAX as usize;
/// Nodes of a document for each byte of its text, and as many as even a short one may have: what aliases repeat is a part of the document.
const MOST_NODES: (usize, usize) = (4, 100_000);
/// Duplicate keys that are told of.
const MOST_DUPLICATES: usize = 100;

/// A document that is being read.
pub(super) struct Builder<'t> {
    document: Document<'t>,
    open: Vec<Open>,
    hasher: RandomState,
    most: usize,
}

/// A branch that is not closed yet.
struct Open {
    node: NodeId,
    meaning: u64,
    form: u64,
    /// Of the keys of a map, their hashes and nodes.
    keys: Vec<(u64, NodeId)>,
}

impl<'t> Builder<'t> {
    /// A document of a text. Documents that are compared share a hasher.
    pub(super) fn new(text: Cow<'t, [u8]>, format: DataFormat, hasher: &RandomState) -> Result<Self, Failure> {
        if text.len() >= LARGEST {
            return Err(Failure::new(0, "the document is larger than 4 GiB"));
        }
        if let Err(error) = std::str::from_utf8(&text) {
            return Err(Failure::new(error.valid_up_to(), "this is not text in UTF-8"));
        }
        let most = (text.len() * MOST_NODES.0).max(MOST_NODES.1);
        Ok(Self {
            document: Document {
                text,
                made: String::new(),
                nodes: Vec::new(),
                format,
                duplicates: Vec::new(),
                comments: Vec::new(),
                is_many: false,
                lines: Arc::new(LineIndex::default()),
            },
            open: Vec::new(),
            hasher: hasher.clone(),
            most,
        })
    }

    /// Keeps a text that is not a part of the document as it stands.
    pub(super) fn make(&mut self, text: &str) -> Result<Stored, Failure> {
        let start = self.document.made.len();
        if start + text.len() >= LARGEST {
            return Err(Failure::new(0, "what the document stands for is larger than 4 GiB"));
        }
        self.document.made.push_str(text);
        Ok(Stored::made(start..start + text.len()))
    }

    /// The same for a text that may be a part of the document.
    pub(super) fn store(&mut self, text: &str, place: usize) -> Result<Stored, Failure> {
        let bytes = text.as_bytes();
        if self.document.text.get(place..place + bytes.len()) == Some(bytes) {
            return Ok(Stored::part(place..place + bytes.len()));
        }
        self.make(text)
    }

    pub(super) fn stored(&self, stored: Stored) -> &str {
        self.document.stored(stored)
    }

    /// How many branches are open.
    pub(super) fn depth(&self) -> usize {
        self.open.len()
    }

    /// The nodes so far.
    pub(super) fn len(&self) -> usize {
        self.document.nodes.len()
    }

    fn push(&mut self, node: Node) -> Result<NodeId, Failure> {
        let at = node.span.0 as usize;
        if self.document.nodes.len() >= self.most {
            return Err(Failure::new(at, "what is repeated by reference makes the document too large"));
        }
        self.document.nodes.push(node);
        Ok(self.document.nodes.len() - 1)
    }

    /// Opens a branch; `from` is where its name begins, or itself.
    pub(super) fn open(
        &mut self,
        kind: NodeKind,
        (key, tag): (Option<Stored>, Option<Stored>),
        (from, start): (usize, usize),
    ) -> Result<(), Failure> {
        if self.open.len() >= DEEPEST {
            return Err(Failure::new(start, format!("more than {DEEPEST} levels of nesting")));
        }
        let (from, start) = (from as u32, start as u32);
        let value = Stored::default();
        let node = Node { kind, key, value, tag, span: (start, start), from, end: 0, meaning: 0, form: 0 };
        let node = self.push(node)?;
        self.open.push(Open { node, meaning: 0, form: 0, keys: Vec::new() });
        Ok(())
    }

    /// Closes the branch that was opened last, which ends at a place of the text.
    pub(super) fn close(&mut self, end: usize) {
        let Some(open) = self.open.pop() else { return };
        let len = self.document.nodes.len() as u32;
        let kind = self.document.nodes[open.node].kind;
        self.note_duplicates(&open.keys, kind);
        let node = &self.document.nodes[open.node];
        let name = if kind == NodeKind::Element { node.key.map(|key| self.document.stored(key)) } else { None };
        let tag = node.tag.map(|tag| self.document.stored(tag));
        let sealed = |folded: u64| {
            let mut hasher = self.hasher.build_hasher();
            hasher.write_u8(kind as u8);
            for text in [name, tag].into_iter().flatten() {
                hasher.write(text.as_bytes());
                hasher.write_u8(0xff);
            }
            hasher.write_u64(folded);
            hasher.write_u64(u64::from(len) - open.node as u64);
            hasher.finish()
        };
        let (meaning, form) = (sealed(open.meaning), sealed(open.form));
        let node = &mut self.document.nodes[open.node];
        (node.end, node.span.1, node.meaning, node.form) = (len, end as u32, meaning, form);
        self.add_to_parent(open.node);
    }

    /// Adds a leaf.
    pub(super) fn leaf(
        &mut self,
        kind: NodeKind,
        (key, value, tag): (Option<Stored>, Stored, Option<Stored>),
        (from, span): (usize, Range<usize>),
    ) -> Result<(), Failure> {
        let hash = |by_value: bool| {
            let mut hasher = self.hasher.build_hasher();
            hasher.write_u8(kind as u8);
            if let Some(tag) = tag {
                hasher.write(self.document.stored(tag).as_bytes());
                hasher.write_u8(0xff);
            }
            let value = self.document.stored(value).as_bytes();
            match (by_value && kind == NodeKind::Number).then(|| Decimal::read(value)).flatten() {
                Some(number) => {
                    let (negative, digits, exponent) = number.parts();
                    hasher.write(digits);
                    hasher.write_i64(exponent);
                    hasher.write_u8(u8::from(negative));
                }
                None => hasher.write(value),
            }
            hasher.finish()
        };
        let meaning = hash(true);
        let form = if kind == NodeKind::Number { hash(false) } else { meaning };
        let end = self.document.nodes.len() as u32 + 1;
        let span = (span.start as u32, span.end as u32);
        let node = self.push(Node { kind, key, value, tag, span, from: from as u32, end, meaning, form })?;
        self.add_to_parent(node);
        Ok(())
    }

    /// Adds to the hashes of the branch that a node is in.
    fn add_to_parent(&mut self, node: NodeId) {
        let Some(open) = self.open.last_mut() else { return };
        let Node { meaning, form, key, kind, .. } = self.document.nodes[node];
        let parent = self.document.nodes[open.node].kind;
        let mixed = |one: u64, other: u64| {
            let mut hasher = self.hasher.build_hasher();
            hasher.write_u64(one);
            hasher.write_u64(other);
            hasher.finish()
        };
        // Elements have their name in their own hash.
        let key = key.filter(|_| kind != NodeKind::Element).map_or(0, |key| {
            let mut hasher = self.hasher.build_hasher();
            hasher.write(self.document.stored(key).as_bytes());
            hasher.finish()
        });
        open.form = mixed(open.form, mixed(key, form));
        if parent == NodeKind::Map || kind == NodeKind::Attribute {
            open.meaning = open.meaning.wrapping_add(mixed(key, meaning));
            open.keys.push((key, node));
        } else {
            open.meaning = mixed(open.meaning, meaning);
        }
    }

    fn note_duplicates(&mut self, keys: &[(u64, NodeId)], kind: NodeKind) {
        if keys.len() < 2 || kind == NodeKind::Element || self.document.duplicates.len() >= MOST_DUPLICATES {
            return;
        }
        let mut sorted = keys.to_vec();
        sorted.sort_unstable();
        for (index, pair) in sorted.windows(2).enumerate() {
            let is_last = sorted.get(index + 2).is_none_or(|next| next.0 != pair[1].0);
            if pair[0].0 == pair[1].0 && is_last {
                let node = pair[1].1;
                let line = self.document.line_at(self.document.nodes[node].from as usize);
                let key = self.document.key(node).unwrap_or_default().to_owned();
                self.document.duplicates.push(DuplicateKey { key, line });
            }
        }
    }

    /// Repeats a node that stands elsewhere in the document, under another name.
    pub(super) fn repeat(
        &mut self,
        node: NodeId,
        key: Option<Stored>,
        (from, place): (usize, Range<usize>),
    ) -> Result<(), Failure> {
        let size = self.document.nodes[node].end as usize - node;
        if self.document.nodes.len() + size > self.most {
            return Err(Failure::new(from, "what is repeated by reference makes the document too large"));
        }
        let first = self.document.nodes.len();
        for at in node..node + size {
            let mut copy = self.document.nodes[at].clone();
            copy.end = (copy.end as usize - node + first) as u32;
            if at == node {
                copy.key = key;
                copy.from = from as u32;
                copy.span = (place.start as u32, place.end as u32);
            }
            self.document.nodes.push(copy);
        }
        self.add_to_parent(first);
        Ok(())
    }

    /// Tells of comments that are no nodes.
    pub(super) fn comments(&mut self, comments: Vec<Range<usize>>) {
        self.document.comments = comments;
    }

    /// Tells that the document is a list of documents.
    pub(super) fn is_many(&mut self) {
        self.document.is_many = true;
    }

    /// The text.
    pub(super) fn text(&self) -> &[u8] {
        &self.document.text
    }

    /// The document, all of whose branches are closed.
    pub(super) fn finish(mut self) -> Document<'t> {
        self.document.nodes.shrink_to_fit();
        self.document
    }
}
