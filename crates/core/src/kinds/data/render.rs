//! JSON written in the layout of a document.

use std::collections::HashSet;

use super::document::{Document, NodeId, NodeKind, ROOT};
use super::part::{Part, expand};

/// An item of a list, or a member of a map with its name.
type Member<'p> = (Option<&'p str>, &'p Part);

/// How a document is written.
pub(super) struct Style {
    /// What a level is indented by; nothing where the document stands in one line.
    unit: Option<String>,
    line_end: &'static str,
    /// What stands between two items in one line, and between a key and its value.
    comma: &'static str,
    colon: String,
}

impl Style {
    /// That of a document.
    pub(super) fn of(document: &Document<'_>) -> Self {
        let text = document.text();
        let root = document.span(ROOT);
        let first = document.children(ROOT).next().filter(|_| document.kind(ROOT).is_branch());
        let gap = first.map_or(&b""[..], |first| &text[root.start + 1..document.span_with_key(first).start]);
        let line = memchr::memrchr(b'\n', gap);
        let unit = line.map(|line| String::from_utf8_lossy(&gap[line + 1..]).into_owned());
        let line_end = if memchr::memmem::find(text, b"\r\n").is_some() { "\r\n" } else { "\n" };
        let is_tight = unit.is_none() && memchr::memmem::find(text, b", ").is_none();
        let keyed = (1..document.len()).find(|node| document.nodes[*node].key.is_some());
        let colon = keyed.map_or_else(|| ": ".to_owned(), |node| colon_of(document, node));
        Self { unit, line_end, comma: if is_tight { "," } else { ", " }, colon }
    }

    /// The indentation of the line that a node begins in.
    pub(super) fn indentation_at(&self, document: &Document<'_>, node: NodeId) -> String {
        let text = document.text();
        let at = document.span_with_key(node).start;
        let start = memchr::memrchr(b'\n', &text[..at]).map_or(0, |end| end + 1);
        let blank = text[start..at].iter().take_while(|byte| matches!(byte, b' ' | b'\t')).count();
        String::from_utf8_lossy(&text[start..start + blank]).into_owned()
    }

    /// Writes a part that begins in a line with an indentation.
    pub(super) fn write(&self, documents: &[&Document<'_>], part: &Part, indentation: &str, out: &mut Vec<u8>) {
        match part {
            Part::InPlace(_, part) => self.write(documents, part, indentation, out),
            Part::Kept(0, node) => self.write_kept(documents[0], *node, indentation, out),
            Part::Kept(from, node) => {
                let mut part = Part::Kept(*from, *node);
                expand(documents, &mut part);
                match part {
                    Part::Kept(..) => out.extend_from_slice(&documents[*from].text()[documents[*from].span(*node)]),
                    branch => self.write(documents, &branch, indentation, out),
                }
            }
            Part::Map(origin, members) => {
                let items: Vec<Member<'_>> = members.iter().map(|(key, part)| (Some(key.as_str()), part)).collect();
                self.write_branch(documents, (*origin, ["{", "}"]), &items, indentation, out);
            }
            Part::List(origin, items) => {
                let items: Vec<Member<'_>> = items.iter().map(|part| (None, part)).collect();
                self.write_branch(documents, (*origin, ["[", "]"]), &items, indentation, out);
            }
        }
    }

    /// Writes a node as it stands; its lines are indented anew where it comes to another depth.
    fn write_kept(&self, document: &Document<'_>, node: NodeId, indentation: &str, out: &mut Vec<u8>) {
        let text = &document.text()[document.span(node)];
        let own = self.indentation_at(document, node);
        if own == indentation || !text.contains(&b'\n') {
            out.extend_from_slice(text);
            return;
        }
        for (at, line) in text.split_inclusive(|byte| *byte == b'\n').enumerate() {
            if at > 0 {
                out.extend_from_slice(indentation.as_bytes());
            }
            let line = if at > 0 { line.strip_prefix(own.as_bytes()).unwrap_or(line) } else { line };
            out.extend_from_slice(line);
        }
    }

    fn write_branch(
        &self,
        documents: &[&Document<'_>],
        (origin, brackets): (Option<(usize, NodeId)>, [&str; 2]),
        items: &[Member<'_>],
        indentation: &str,
        out: &mut Vec<u8>,
    ) {
        let [open, close] = brackets;
        let own = origin.filter(|(from, _)| *from == 0).map(|(_, node)| Own::of(documents[0], node));
        out.extend_from_slice(open.as_bytes());
        if items.is_empty() {
            out.extend_from_slice(close.as_bytes());
            return;
        }
        // A branch that stood in one line stays in one; one that is new stands as the document does.
        let layout = match (&own, &self.unit) {
            (Some(own), _) if own.first.is_some() => own.layout(),
            (_, Some(unit)) => {
                let inner = format!("{}{indentation}{unit}", self.line_end);
                let between = format!(",{inner}");
                (inner, between, format!("{}{indentation}", self.line_end))
            }
            (_, None) => (String::new(), self.comma.to_owned(), String::new()),
        };
        let (before_first, between, after_last) = layout;
        let inner = before_first.rsplit('\n').next().filter(|_| before_first.contains('\n')).unwrap_or(indentation);
        let mut previous: Option<NodeId> = None;
        for (at, (key, part)) in items.iter().enumerate() {
            let own_place = part.origin();
            let kept = own_place.filter(|node| own.as_ref().is_some_and(|own| own.holds(*node, *key, documents[0])));
            let exact = own.as_ref().and_then(|own| own.gap(documents[0], previous.filter(|_| at > 0), kept, at));
            match exact {
                Some(gap) => out.extend_from_slice(gap),
                None => out.extend_from_slice(if at == 0 { &before_first } else { &between }.as_bytes()),
            }
            match (key, kept) {
                (Some(_), Some(node)) => {
                    let with_key = documents[0].span_with_key(node);
                    out.extend_from_slice(&documents[0].text()[with_key.start..documents[0].span(node).start]);
                }
                (Some(key), None) => {
                    out.extend_from_slice(quoted(key).as_bytes());
                    out.extend_from_slice(self.colon.as_bytes());
                }
                (None, _) => {}
            }
            self.write(documents, part, inner, out);
            previous = kept;
        }
        match own.as_ref().and_then(|own| own.tail(previous)) {
            Some(tail) => out.extend_from_slice(tail),
            None => out.extend_from_slice(after_last.as_bytes()),
        }
        out.extend_from_slice(close.as_bytes());
    }
}

/// The node of the document that a branch was.
struct Own<'t> {
    children: HashSet<NodeId>,
    first: Option<NodeId>,
    last: Option<NodeId>,
    layout: (&'t [u8], Option<&'t [u8]>, &'t [u8]),
}

impl<'t> Own<'t> {
    fn of(document: &'t Document<'_>, node: NodeId) -> Self {
        let text = document.text();
        let span = document.span(node);
        let all: Vec<NodeId> = document.children(node).collect();
        let (first, second, last) = (all.first().copied(), all.get(1).copied(), all.last().copied());
        let children = all.into_iter().collect();
        let (Some(head), Some(tail)) = (first, last) else {
            return Self { children, first, last, layout: (b"", None, b"") };
        };
        let before_first = &text[span.start + 1..document.span_with_key(head).start];
        let between = second.map(|second| &text[document.span(head).end..document.span_with_key(second).start]);
        let after_last = &text[document.span(tail).end..span.end - 1];
        Self { children, first, last, layout: (before_first, between, after_last) }
    }

    /// What stands before the first item, between two, and behind the last.
    fn layout(&self) -> (String, String, String) {
        let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
        let (before_first, between, after_last) = self.layout;
        let between = match between {
            Some(between) => text(between),
            None if before_first.contains(&b'\n') => format!(",{}", text(before_first)),
            None => ", ".to_owned(),
        };
        (text(before_first), between, text(after_last))
    }

    /// Whether a node is a child of it, and has this name.
    fn holds(&self, node: NodeId, key: Option<&str>, document: &Document<'_>) -> bool {
        self.children.contains(&node) && document.key(node) == key
    }

    /// What stands between two nodes that stood next to each other, or before the first.
    fn gap(
        &self,
        document: &'t Document<'_>,
        previous: Option<NodeId>,
        node: Option<NodeId>,
        at: usize,
    ) -> Option<&'t [u8]> {
        let node = node?;
        let start = document.span_with_key(node).start;
        if at == 0 {
            return (self.first == Some(node)).then_some(self.layout.0);
        }
        let previous = previous?;
        let follows = previous + document.size(previous) == node;
        follows.then(|| &document.text()[document.span(previous).end..start])
    }

    /// What stands behind the last node, where it still is the last.
    fn tail(&self, previous: Option<NodeId>) -> Option<&'t [u8]> {
        (previous.is_some() && previous == self.last).then_some(self.layout.2)
    }
}

fn colon_of(document: &Document<'_>, node: NodeId) -> String {
    let (with_key, value) = (document.span_with_key(node), document.span(node));
    let text = &document.text()[with_key.start..value.start];
    let colon = memchr::memrchr(b':', text).unwrap_or(0);
    let start = text[..colon].iter().rposition(|byte| *byte == b'"').map_or(colon, |quote| quote + 1);
    let between = String::from_utf8_lossy(&text[start..]).into_owned();
    if between.contains('\n') || document.kind(node) == NodeKind::Element { ": ".to_owned() } else { between }
}

/// A text as JSON writes it.
pub(super) fn quoted(text: &str) -> String {
    let mut out = String::with_capacity(text.len() + 2);
    out.push('"');
    for letter in text.chars() {
        match letter {
            '"' => out.push_str("\\\""),
            '\\' => out.push_str("\\\\"),
            '\n' => out.push_str("\\n"),
            '\r' => out.push_str("\\r"),
            '\t' => out.push_str("\\t"),
            control if control < ' ' => out.push_str(&format!("\\u{:04x}", u32::from(control))),
            other => out.push(other),
        }
    }
    out.push('"');
    out
}
