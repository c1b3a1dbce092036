//! XML 1.0 with namespaces. Entities that a document declares are never expanded: a reference to one is text.

use std::borrow::Cow;
use std::collections::HashSet;
use std::ops::Range;

use foldhash::quality::RandomState;
use quick_xml::NsReader;
use quick_xml::XmlVersion;
use quick_xml::events::{BytesRef, BytesStart, Event};
use quick_xml::name::{NamespaceResolver, ResolveResult};

use super::build::Builder;
use super::document::{DataFormat, Document, NodeKind, Stored};
use super::failure::Failure;

/// Reads a document. It is a list of what stands in it at the outermost level.
pub(super) fn read<'t>(text: Cow<'t, [u8]>, hasher: &RandomState) -> Result<Document<'t>, Failure> {
    let string = String::from_utf8(text.to_vec()).map_err(|_| Failure::new(0, "this is not text in UTF-8"))?;
    let spaces = Spaces::of(&string)?;
    let builder = Builder::new(text, DataFormat::Xml, hasher)?;
    let mut reading =
        Reading { builder, spaces, opened: 0, open: Vec::new(), pending: String::new(), pending_at: 0..0, roots: 0 };
    reading.builder.open(NodeKind::List, (None, None), (0, 0))?;
    let mut reader = reader(&string);
    loop {
        let start = place(&reader);
        let event = reader.read_event().map_err(|error| failure(&error, &reader))?;
        let span = start..place(&reader);
        if !reading.take(event, span, reader.resolver())? {
            break;
        }
    }
    if reading.roots == 0 {
        return Err(Failure::new(string.len(), "there is no element"));
    }
    if !reading.open.is_empty() {
        return Err(Failure::new(string.len(), "the text ends before all elements are closed"));
    }
    reading.builder.close(string.len());
    Ok(reading.builder.finish())
}

fn reader(text: &str) -> NsReader<&[u8]> {
    let mut reader = NsReader::from_str(text);
    reader.config_mut().check_end_names = true;
    reader.config_mut().check_comments = false;
    reader
}

fn place(reader: &NsReader<&[u8]>) -> usize {
    usize::try_from(reader.buffer_position()).unwrap_or(usize::MAX)
}

fn failure(error: &quick_xml::Error, reader: &NsReader<&[u8]>) -> Failure {
    Failure::new(usize::try_from(reader.error_position()).unwrap_or(0), error.to_string())
}

/// How the white space of an element is read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Space {
    /// Only text stands in it: its ends are indentation where they hold a line end.
    Ends,
    /// Only elements stand in it: white space is indentation.
    Indents,
    /// All of it counts.
    Counts,
}

/// How the white space of each element is read, in the order in which they open.
struct Spaces {
    of: Vec<Space>,
}

impl Spaces {
    fn of(text: &str) -> Result<Self, Failure> {
        struct Open {
            index: usize,
            has_text: bool,
            has_elements: bool,
            preserves: bool,
        }
        let mut of = Vec::new();
        let mut open: Vec<Open> = Vec::new();
        let mut reader = reader(text);
        let preserves = |element: &BytesStart<'_>, outer: bool| match element.try_get_attribute("xml:space") {
            Ok(Some(attribute)) => attribute.value.as_ref() == "preserve",
            _ => outer,
        };
        loop {
            match reader.read_event().map_err(|error| failure(&error, &reader))? {
                Event::Start(element) => {
                    let outer = open.last_mut().is_some_and(|open| {
                        open.has_elements = true;
                        open.preserves
                    });
                    let preserves = preserves(&element, outer);
                    open.push(Open { index: of.len(), has_text: false, has_elements: false, preserves });
                    of.push(Space::Counts);
                }
                Event::Empty(_) => {
                    if let Some(open) = open.last_mut() {
                        open.has_elements = true;
                    }
                    of.push(Space::Ends);
                }
                Event::Text(text) => {
                    if let Some(open) = open.last_mut() {
                        open.has_text |= !text.trim_ascii().is_empty();
                    }
                }
                Event::CData(_) | Event::GeneralRef(_) => {
                    if let Some(open) = open.last_mut() {
                        open.has_text = true;
                    }
                }
                Event::End(_) => {
                    if let Some(Open { index, has_text, has_elements, preserves }) = open.pop() {
                        of[index] = match (preserves, has_elements, has_text) {
                            (true, ..) | (_, true, true) => Space::Counts,
                            (_, true, false) => Space::Indents,
                            (_, false, _) => Space::Ends,
                        };
                    }
                }
                Event::Eof => return Ok(Self { of }),
                Event::Decl(_) | Event::PI(_) | Event::DocType(_) | Event::Comment(_) => {}
            }
        }
    }
}

struct Reading<'t> {
    builder: Builder<'t>,
    spaces: Spaces,
    /// How many elements have been opened.
    opened: usize,
    open: Vec<Space>,
    pending: String,
    pending_at: Range<usize>,
    /// Elements at the outermost level.
    roots: usize,
}

impl Reading<'_> {
    /// Takes an event; says whether more follow.
    fn take(&mut self, event: Event<'_>, span: Range<usize>, names: &NamespaceResolver) -> Result<bool, Failure> {
        match event {
            Event::Text(text) => self.add_text(&text.xml10_content(), span),
            Event::CData(text) => self.add_text(&text.xml10_content(), span),
            Event::GeneralRef(name) => self.add_text(&resolved(&name), span),
            Event::Start(element) => {
                self.flush(false)?;
                self.element(&element, &span, names)?;
                self.open.push(self.spaces.of.get(self.opened).copied().unwrap_or(Space::Counts));
                self.opened += 1;
            }
            Event::Empty(element) => {
                self.flush(false)?;
                self.element(&element, &span, names)?;
                self.opened += 1;
                self.builder.close(span.end);
            }
            Event::End(_) => {
                self.flush(true)?;
                self.open.pop();
                self.builder.close(span.end);
            }
            Event::Comment(text) => {
                self.flush(false)?;
                let stored = self.builder.make(text.xml10_content().trim())?;
                self.builder.leaf(NodeKind::Comment, (None, stored, None), (span.start, span))?;
            }
            Event::PI(instruction) => {
                self.flush(false)?;
                let stored = self.builder.make(instruction.content().trim())?;
                let target = self.builder.make(instruction.target())?;
                self.builder.leaf(NodeKind::Instruction, (Some(target), stored, None), (span.start, span))?;
            }
            // What it declares is no part of what the document says; encodings are told of the file.
            Event::Decl(_) | Event::DocType(_) => self.flush(false)?,
            Event::Eof => return Ok(false),
        }
        Ok(true)
    }

    fn add_text(&mut self, text: &str, span: Range<usize>) {
        if self.pending.is_empty() {
            self.pending_at = span.start..span.start;
        }
        self.pending_at.end = span.end;
        self.pending.push_str(text);
    }

    /// Adds the text so far as a node, if any of it counts.
    fn flush(&mut self, at_end: bool) -> Result<(), Failure> {
        let text = std::mem::take(&mut self.pending);
        let is_blank = text.trim_ascii().is_empty();
        let space = self.open.last().copied().unwrap_or(Space::Indents);
        let kept = match space {
            _ if text.is_empty() => return Ok(()),
            Space::Indents => {
                if is_blank {
                    return Ok(());
                }
                text.as_str()
            }
            // White space alone is a value, unless it goes over lines.
            Space::Ends if is_blank && (text.contains('\n') || !at_end) => return Ok(()),
            Space::Ends => without_indentation(&text),
            Space::Counts => text.as_str(),
        };
        if self.open.is_empty() {
            return Err(Failure::new(self.pending_at.start, "text stands outside of the outermost element"));
        }
        let inside = self.pending_at.clone();
        let shown = inside.start + text.find(kept).unwrap_or(0);
        let stored = self.builder.store(kept, shown)?;
        let source = &self.builder.text()[inside.clone()];
        let (lead, tail) = (source.len() - source.trim_ascii_start().len(), source.trim_ascii_end().len());
        let place = if tail > lead { inside.start + lead..inside.start + tail } else { inside };
        self.builder.leaf(NodeKind::Text, (None, stored, None), (place.start, place))
    }

    fn element(
        &mut self,
        element: &BytesStart<'_>,
        span: &Range<usize>,
        names: &NamespaceResolver,
    ) -> Result<(), Failure> {
        if self.open.is_empty() {
            self.roots += 1;
            if self.roots > 1 {
                return Err(Failure::new(span.start, "the document ends before this element"));
            }
        }
        let wrong = |reason: String| Failure::new(span.start, reason);
        let (space, local) = names.resolve_element(element.name());
        let key = self.builder.make(local.as_ref())?;
        let tag = self.namespace(space, span.start)?;
        self.builder.open(NodeKind::Element, (Some(key), tag), (span.start, span.start))?;
        let mut seen = HashSet::new();
        for attribute in element.attributes() {
            let attribute = attribute.map_err(|error| wrong(error.to_string()))?;
            if attribute.key.as_namespace_binding().is_some() {
                continue;
            }
            let (space, local) = names.resolve_attribute(attribute.key);
            let tag = self.namespace(space, span.start)?;
            let key = self.builder.make(&format!("@{}", local.as_ref()))?;
            let value = attribute.normalized_value(XmlVersion::Implicit1_0);
            // A reference that nothing explains is told as it is written.
            let value = value.unwrap_or_else(|_| Cow::Owned(attribute.value.as_ref().to_owned()));
            let stored = self.builder.make(&value)?;
            let name = (local.as_ref().to_owned(), tag.map(|tag| self.builder.stored(tag).to_owned()));
            if !seen.insert(name) {
                return Err(wrong(format!("the attribute {} stands here twice", local.as_ref())));
            }
            let place = self.place_of(attribute.key.as_ref(), span);
            self.builder.leaf(NodeKind::Attribute, (Some(key), stored, tag), (place.start, place))?;
        }
        Ok(())
    }

    /// Where an attribute stands in the tag of its element.
    fn place_of(&self, name: &str, span: &Range<usize>) -> Range<usize> {
        let tag = &self.builder.text()[span.clone()];
        let starts = memchr::memmem::find_iter(tag, name.as_bytes());
        let found = starts.into_iter().find(|&at| {
            let rest = tag[at + name.len()..].trim_ascii_start();
            at > 0 && tag[at - 1].is_ascii_whitespace() && rest.first() == Some(&b'=')
        });
        let Some(at) = found else { return span.start..span.start };
        let rest = &tag[at..];
        let end = rest.iter().position(|byte| matches!(byte, b'"' | b'\'')).and_then(|open| {
            let close = memchr::memchr(rest[open], &rest[open + 1..])?;
            Some(open + close + 2)
        });
        span.start + at..span.start + at + end.unwrap_or(name.len())
    }

    fn namespace(&mut self, space: ResolveResult<'_>, at: usize) -> Result<Option<Stored>, Failure> {
        match space {
            ResolveResult::Unbound => Ok(None),
            ResolveResult::Bound(space) => Ok(Some(self.builder.make(space.as_ref())?)),
            ResolveResult::Unknown(prefix) => {
                Err(Failure::new(at, format!("the prefix {} is bound to no namespace", prefix)))
            }
        }
    }
}

/// What a reference stands for; one that nothing explains, as it is written.
fn resolved(name: &BytesRef<'_>) -> String {
    if let Ok(Some(letter)) = name.resolve_char_ref() {
        return letter.to_string();
    }
    let name = name.xml10_content();
    match name.as_ref() {
        "lt" => "<".to_owned(),
        "gt" => ">".to_owned(),
        "amp" => "&".to_owned(),
        "apos" => "'".to_owned(),
        "quot" => "\"".to_owned(),
        other => format!("&{other};"),
    }
}

/// A text without the white space at its ends that goes over lines.
fn without_indentation(text: &str) -> &str {
    let start = text.trim_ascii_start();
    let text = if text[..text.len() - start.len()].contains('\n') { start } else { text };
    let end = text.trim_ascii_end();
    if text[end.len()..].contains('\n') { end } else { text }
}
