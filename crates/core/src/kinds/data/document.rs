//! A document as a tree of nodes, each with its place in the text.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::Arc;

use crate::internal::kinds::lines_of::LineIndex;

/// What a node is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum NodeKind {
    /// No value.
    Null,
    /// True or false.
    Boolean,
    /// A number.
    Number,
    /// A text.
    Text,
    /// A date or a time, of a format that has them.
    Date,
    /// Values in order.
    List,
    /// Values by name.
    Map,
    /// An element of XML: attributes, then contents.
    Element,
    /// An attribute of an element.
    Attribute,
    /// A comment that is a part of the document.
    Comment,
    /// A processing instruction.
    Instruction,
}

impl NodeKind {
    /// Whether it holds other nodes.
    pub fn is_branch(self) -> bool {
        matches!(self, Self::List | Self::Map | Self::Element)
    }

    /// Its name, for a reader.
    pub fn name(self) -> &'static str {
        match self {
            Self::Null => "null",
            Self::Boolean => "true or false",
            Self::Number => "number",
            Self::Text => "text",
            Self::Date => "date",
            Self::List => "list",
            Self::Map => "map",
            Self::Element => "element",
            Self::Attribute => "attribute",
            Self::Comment => "comment",
            Self::Instruction => "processing instruction",
        }
    }
}

/// A node, by its index in its document.
pub type NodeId = usize;

/// Text that is a part of the document, or was made of one.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Stored {
    start: u32,
    len: u32,
    is_made: bool,
}

/// One node. Nodes stand in the order of the text: behind a node come the nodes that it holds.
#[derive(Clone, Debug)]
pub(super) struct Node {
    pub(super) kind: NodeKind,
    /// Its name, where it has one.
    pub(super) key: Option<Stored>,
    /// Of a leaf, its value without quotes and escapes. Of a number, as JSON writes it where that can be said. Of an element, nothing.
    pub(super) value: Stored,
    /// A tag of YAML that changes what the node means.
    pub(super) tag: Option<Stored>,
    /// Where it is in the text, its name left out.
    pub(super) span: (u32, u32),
    /// Where its name begins, or itself where it has none.
    pub(super) from: u32,
    /// The index behind the last node in it.
    pub(super) end: u32,
    /// What it means: equal nodes have equal hashes, whatever the order of keys and the spelling of numbers.
    pub(super) meaning: u64,
    /// The same with the order of keys and the spelling of numbers.
    pub(super) form: u64,
}

/// What a document was read from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum DataFormat {
    /// JSON, RFC 8259.
    Json,
    /// JSON documents, one in each line.
    JsonLines,
    /// YAML 1.2, with the core schema.
    Yaml,
    /// TOML 1.
    Toml,
    /// XML 1.0 with namespaces.
    Xml,
}

impl DataFormat {
    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            Self::Json => "JSON",
            Self::JsonLines => "JSON Lines",
            Self::Yaml => "YAML",
            Self::Toml => "TOML",
            Self::Xml => "XML",
        }
    }
}

/// A key that an object has more than once.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DuplicateKey {
    /// The key.
    pub key: String,
    /// The line of the last of them, from 1.
    pub line: usize,
}

/// A document.
#[derive(Clone, Debug)]
pub struct Document<'t> {
    pub(super) text: Cow<'t, [u8]>,
    pub(super) made: String,
    pub(super) nodes: Vec<Node>,
    pub(super) format: DataFormat,
    /// Keys that stand in one map more than once.
    pub(super) duplicates: Vec<DuplicateKey>,
    /// Comments that are no nodes: their places.
    pub(super) comments: Vec<Range<usize>>,
    /// Whether it is a list of documents of one text.
    pub(super) is_many: bool,
    pub(super) lines: Arc<LineIndex>,
}

/// The document itself.
pub(super) const ROOT: NodeId = 0;

impl<'t> Document<'t> {
    /// The text that it was read from, in UTF-8.
    pub fn text(&self) -> &[u8] {
        &self.text
    }

    /// What it was read from.
    pub fn format(&self) -> DataFormat {
        self.format
    }

    /// Keys that stand in one map more than once.
    pub fn duplicates(&self) -> &[DuplicateKey] {
        &self.duplicates
    }

    /// How many nodes it has.
    pub fn len(&self) -> usize {
        self.nodes.len()
    }

    /// Whether it holds nothing.
    pub fn is_empty(&self) -> bool {
        self.nodes.is_empty()
    }

    /// What a node is.
    pub fn kind(&self, node: NodeId) -> NodeKind {
        self.nodes[node].kind
    }

    pub(super) fn stored(&self, stored: Stored) -> &str {
        let range = stored.start as usize..stored.start as usize + stored.len as usize;
        if stored.is_made {
            &self.made[range]
        } else {
            // What was read is text; a document that is not does not come about.
            std::str::from_utf8(&self.text[range]).unwrap_or_default()
        }
    }

    /// The name of a node, where it has one.
    pub fn key(&self, node: NodeId) -> Option<&str> {
        self.nodes[node].key.map(|key| self.stored(key))
    }

    /// The value of a leaf, without quotes and escapes.
    pub fn value(&self, node: NodeId) -> &str {
        self.stored(self.nodes[node].value)
    }

    /// The tag of a node, where it has one that changes what it means.
    pub fn tag(&self, node: NodeId) -> Option<&str> {
        self.nodes[node].tag.map(|tag| self.stored(tag))
    }

    /// Where a node is in the text, its name left out.
    pub fn span(&self, node: NodeId) -> Range<usize> {
        let (start, end) = self.nodes[node].span;
        start as usize..end as usize
    }

    /// Where a node is in the text, with its name.
    pub fn span_with_key(&self, node: NodeId) -> Range<usize> {
        self.nodes[node].from as usize..self.nodes[node].span.1 as usize
    }

    /// The lines of a node, with its name, from 1.
    pub fn lines(&self, node: NodeId) -> (usize, usize) {
        let span = self.span_with_key(node);
        let last = span.end.saturating_sub(1).max(span.start);
        (self.lines.line_of(&self.text, span.start), self.lines.line_of(&self.text, last))
    }

    /// The line that a place of the text is in, from 1.
    pub fn line_at(&self, at: usize) -> usize {
        self.lines.line_of(&self.text, at)
    }

    /// The nodes that a node holds.
    pub fn children(&self, node: NodeId) -> Children<'_> {
        Children { nodes: &self.nodes, at: node + 1, end: self.nodes[node].end as usize }
    }

    /// How many nodes there are in a node, itself included.
    pub fn size(&self, node: NodeId) -> usize {
        self.nodes[node].end as usize - node
    }

    /// The member of a map with a name; of several, the last, as readers of JSON do it.
    pub fn member(&self, map: NodeId, key: &str) -> Option<NodeId> {
        let mut found = None;
        for child in self.children(map) {
            if self.key(child) == Some(key) {
                found = Some(child);
            }
        }
        found
    }
}

/// The nodes that a node holds, in order.
#[derive(Clone, Debug)]
pub struct Children<'d> {
    nodes: &'d [Node],
    at: NodeId,
    end: NodeId,
}

impl Iterator for Children<'_> {
    type Item = NodeId;

    fn next(&mut self) -> Option<NodeId> {
        if self.at >= self.end {
            return None;
        }
        let node = self.at;
        self.at = self.nodes[node].end as usize;
        Some(node)
    }
}

impl Stored {
    /// A part of the text.
    pub(super) fn part(range: Range<usize>) -> Self {
        Self { start: range.start as u32, len: (range.end - range.start) as u32, is_made: false }
    }

    /// A part of what was made.
    pub(super) fn made(range: Range<usize>) -> Self {
        Self { start: range.start as u32, len: (range.end - range.start) as u32, is_made: true }
    }
}
