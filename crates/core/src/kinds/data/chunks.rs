//! YAML and TOML that is changed line by line: what is not touched stays as it is written.
//!
//! Every member of a branch owns the lines from its own up to the next member's. Members are kept, left out, put in and replaced with their
//! lines; a single value is replaced in its line. What does not stand in lines of its own is not written: whoever asks does without.

use std::ops::Range;

use super::document::{DataFormat, Document, NodeId, NodeKind, ROOT};
use super::part::Part;

/// Writes a document with parts of others in it; nothing where that cannot be done line by line.
pub(super) fn write_chunks(documents: &[&Document<'_>; 3], root: &Part) -> Option<Vec<u8>> {
    let mut out = Vec::new();
    let document = documents[0];
    let whole = 0..document.text().len();
    let writer = Writer { documents };
    writer.part(root, ROOT, whole, &mut out)?;
    Some(out)
}

struct Writer<'w> {
    documents: &'w [&'w Document<'w>; 3],
}

impl Writer<'_> {
    /// Writes the lines of a node of the first document as a part says.
    fn part(&self, part: &Part, node: NodeId, lines: Range<usize>, out: &mut Vec<u8>) -> Option<()> {
        let document = self.documents[0];
        match part {
            Part::Kept(0, _) => out.extend_from_slice(&document.text()[lines]),
            Part::InPlace(_, part) => self.replaced(part, node, lines, out)?,
            Part::Map(Some((0, _)), members) => {
                let parts: Vec<&Part> = members.iter().map(|(_, part)| part).collect();
                self.branch(&parts, node, lines, out)?;
            }
            Part::List(Some((0, _)), items) => {
                let parts: Vec<&Part> = items.iter().collect();
                self.branch(&parts, node, lines, out)?;
            }
            Part::Kept(..) | Part::Map(..) | Part::List(..) => return None,
        }
        Some(())
    }

    /// Another value in the place of a node.
    fn replaced(&self, part: &Part, node: NodeId, lines: Range<usize>, out: &mut Vec<u8>) -> Option<()> {
        let Part::Kept(from, other) = part else { return None };
        let (document, source) = (self.documents[0], self.documents[*from]);
        let (old, new) = (document.span(node), source.span(*other));
        let is_line = |document: &Document<'_>, node: NodeId, span: &Range<usize>| {
            !document.kind(node).is_branch() && !document.text()[span.clone()].contains(&b'\n')
        };
        // A value without text of its own has no place in its line.
        if is_line(document, node, &old) && is_line(source, *other, &new) && !old.is_empty() && !new.is_empty() {
            let text = document.text();
            out.extend_from_slice(&text[lines.start..old.start]);
            out.extend_from_slice(&source.text()[new]);
            out.extend_from_slice(&text[old.end..lines.end]);
            return Some(());
        }
        if node == ROOT {
            return None;
        }
        let indent = indentation(document, lines.start);
        self.inserted(source, *other, &indent, out)
    }

    /// The lines of a node of another document, indented anew.
    fn inserted(&self, source: &Document<'_>, node: NodeId, indent: &[u8], out: &mut Vec<u8>) -> Option<()> {
        let text = source.text();
        let start = line_start(text, source.span_with_key(node).start);
        let is_item = text[start..source.span_with_key(node).start].trim_ascii() == b"-";
        if !begins_line(source, node) || is_item && source.nodes[node].key.is_some() {
            return None;
        }
        let end = line_end(text, source.span_with_key(node).end.max(start));
        let own = indentation(source, start);
        if !out.is_empty() && !out.ends_with(b"\n") {
            out.push(b'\n');
        }
        for line in text[start..end].split_inclusive(|byte| *byte == b'\n') {
            match line.strip_prefix(own.as_slice()) {
                Some(rest) => {
                    out.extend_from_slice(indent);
                    out.extend_from_slice(rest);
                }
                None => out.extend_from_slice(line),
            }
        }
        if !out.ends_with(b"\n") {
            out.push(b'\n');
        }
        Some(())
    }

    fn branch(&self, parts: &[&Part], node: NodeId, lines: Range<usize>, out: &mut Vec<u8>) -> Option<()> {
        let document = self.documents[0];
        let text = document.text();
        let mut children: Vec<NodeId> = document.children(node).collect();
        children.sort_by_key(|child| document.span_with_key(*child).start);
        let first = *children.first()?;
        if !children.iter().all(|child| begins_line(document, *child)) {
            return None;
        }
        let starts: Vec<usize> =
            children.iter().map(|child| line_start(text, document.span_with_key(*child).start)).collect();
        if !starts.is_sorted() || starts.windows(2).any(|pair| pair[0] == pair[1]) || starts[0] < lines.start {
            return None;
        }
        let chunk = |child: NodeId| -> Option<Range<usize>> {
            let at = children.iter().position(|own| *own == child)?;
            Some(starts[at]..starts.get(at + 1).copied().unwrap_or(lines.end))
        };
        let indent = indentation(document, line_start(text, document.span_with_key(first).start));
        out.extend_from_slice(&text[lines.start..starts[0]]);
        for part in parts {
            match part {
                Part::Kept(from, other) if *from != 0 => self.inserted(self.documents[*from], *other, &indent, out)?,
                part => {
                    let own = part.origin()?;
                    if !out.is_empty() && !out.ends_with(b"\n") {
                        out.push(b'\n');
                    }
                    self.part(part, own, chunk(own)?, out)?;
                }
            }
        }
        Some(())
    }
}

fn line_start(text: &[u8], at: usize) -> usize {
    memchr::memrchr(b'\n', &text[..at.min(text.len())]).map_or(0, |end| end + 1)
}

fn line_end(text: &[u8], at: usize) -> usize {
    let at = at.min(text.len());
    if at > 0 && text[at - 1] == b'\n' {
        return at;
    }
    memchr::memchr(b'\n', &text[at..]).map_or(text.len(), |end| at + end + 1)
}

/// Whether nothing but indentation, the sign of a list or the bracket of a table stands before a node in its line.
fn begins_line(document: &Document<'_>, node: NodeId) -> bool {
    let text = document.text();
    let start = document.span_with_key(node).start;
    let lead = &text[line_start(text, start)..start];
    match document.format() {
        DataFormat::Yaml => {
            let lead = lead.trim_ascii();
            // The first member of an item of a list stands behind the sign of the list.
            lead.is_empty() || lead == b"-"
        }
        // The names of the tables that a table is in stand in its header.
        DataFormat::Toml => {
            let lead = lead.trim_ascii();
            lead.is_empty() || lead.starts_with(b"[") && document.kind(node) != NodeKind::Text
        }
        _ => false,
    }
}

fn indentation(document: &Document<'_>, line: usize) -> Vec<u8> {
    let text = &document.text()[line..];
    text[..text.iter().take_while(|byte| matches!(byte, b' ' | b'\t')).count()].to_vec()
}
