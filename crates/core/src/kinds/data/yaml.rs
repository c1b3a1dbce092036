//! YAML 1.2 by the core schema: anchors, aliases, tags, several documents.

use std::borrow::Cow;
use std::collections::HashMap;
use std::ops::Range;

use foldhash::quality::RandomState;
use saphyr_parser::{Event, Marker, Parser, ScalarStyle, Span, StrInput, Tag};

use super::build::Builder;
use super::document::{DataFormat, Document, NodeId, NodeKind, Stored};
use super::failure::Failure;
use crate::internal::kinds::number::Decimal;
use crate::internal::rules::{comments, languages::Syntax};

/// Reads the documents of a text; several make a list.
pub(super) fn read<'t>(text: Cow<'t, [u8]>, hasher: &RandomState) -> Result<Document<'t>, Failure> {
    let own = text.to_vec();
    let string = String::from_utf8(own)
        .map_err(|error| Failure::new(error.utf8_error().valid_up_to(), "this is not text in UTF-8"))?;
    let (parsed, documents) = with_closed_brackets(&string)?;
    let mut reader = Reader {
        builder: Builder::new(text, DataFormat::Yaml, hasher)?,
        places: Places::of(&string),
        anchors: HashMap::new(),
        ends: Vec::new(),
    };
    if documents != 1 {
        reader.builder.open(NodeKind::List, (None, None), (0, 0))?;
        reader.builder.is_many();
    }
    reader.read(&parsed, &string)?;
    if documents != 1 {
        reader.builder.close(string.len());
    }
    if let Some(syntax) = Syntax::of("x.yaml") {
        reader.builder.comments(comments(string.as_bytes(), syntax));
    }
    Ok(reader.builder.finish())
}

fn count_documents(text: &str) -> Result<usize, Failure> {
    let places = Places::of(text);
    let mut documents = 0;
    for event in Parser::new(StrInput::new(text)) {
        let (event, _) = event.map_err(|error| failure(&error, &places))?;
        documents += usize::from(matches!(event, Event::DocumentStart(_)));
    }
    Ok(documents)
}

/// Brackets that may stand further left than the standard allows.
const MOST_BRACKETS: usize = 64;

/// The text as it is parsed, and how many documents it holds.
///
/// A bracket that closes a list or a map on a line of its own has to be indented more than what the list is in; hardly a reader but the parser insists on that. Such a
/// bracket is put on the line above, letter for letter, so that all places stay what they are.
fn with_closed_brackets(text: &str) -> Result<(Cow<'_, str>, usize), Failure> {
    let first = match count_documents(text) {
        Ok(documents) => return Ok((Cow::Borrowed(text), documents)),
        Err(failure) => failure,
    };
    let mut letters: Vec<char> = text.chars().collect();
    let places = Places::of(text);
    for _ in 0..MOST_BRACKETS {
        let parsed: String = letters.iter().collect();
        let Some(at) = misplaced_bracket(&parsed, &letters) else {
            return count_documents(&parsed).map(|documents| (Cow::Owned(parsed), documents)).map_err(|_| first);
        };
        let Some(line) = letters[..at].iter().rposition(|letter| *letter == '\n') else { break };
        // A comment at the end of the line above would take the bracket in.
        let above = letters[..line].iter().rposition(|letter| *letter == '\n').map_or(0, |end| end + 1);
        if let Some(comment) = comment_in(text, &places, above, line) {
            letters[comment..line].fill(' ');
        }
        letters[line] = ' ';
    }
    Err(first)
}

/// The bracket at which the parser fails, if it does so at one.
fn misplaced_bracket(text: &str, letters: &[char]) -> Option<usize> {
    let error = Parser::new(StrInput::new(text)).find_map(Result::err)?;
    let near = error.marker().index();
    let found = (near.saturating_sub(1)..=near).find(|at| matches!(letters.get(*at), Some(']' | '}')))?;
    let line = letters[..found].iter().rposition(|letter| *letter == '\n')?;
    letters[line + 1..found].iter().all(|letter| *letter == ' ').then_some(found)
}

/// Where a comment begins in a line, in letters.
fn comment_in(text: &str, places: &Places, from: usize, to: usize) -> Option<usize> {
    let byte = |letter: usize| places.byte(&Marker::new(letter, 0, 0));
    let syntax = Syntax::of("x.yaml")?;
    let (start, end) = (byte(from), byte(to));
    let found =
        comments(text.as_bytes(), syntax).into_iter().find(|comment| comment.start >= start && comment.start < end)?;
    Some(from + text[start..found.start].chars().count())
}

fn failure(error: &saphyr_parser::ScanError, places: &Places) -> Failure {
    Failure::new(places.byte(error.marker()), error.info())
}

/// Where letters begin in a text, in bytes.
struct Places {
    /// The place of each so many letters; nothing where every letter is a byte.
    marks: Option<Vec<u32>>,
    text: String,
}

/// Letters between two marks.
const STEP: usize = 64;

impl Places {
    fn of(text: &str) -> Self {
        if text.is_ascii() {
            return Self { marks: None, text: String::new() };
        }
        let marks = text.char_indices().step_by(STEP).map(|(at, _)| at as u32).collect();
        Self { marks: Some(marks), text: text.to_owned() }
    }

    fn byte(&self, marker: &Marker) -> usize {
        let Some(marks) = &self.marks else { return marker.index() };
        let letter = marker.index();
        let Some(&start) = marks.get(letter / STEP) else { return self.text.len() };
        let rest = &self.text[start as usize..];
        rest.char_indices().nth(letter % STEP).map_or(self.text.len(), |(at, _)| start as usize + at)
    }
}

/// A branch that is open.
struct Branch {
    is_map: bool,
    /// A key that waits for its value, and where it begins.
    key: Option<(Stored, usize)>,
    /// Whether a key comes next.
    wants_key: bool,
    /// The anchor that names the branch, and its node.
    anchor: Option<(usize, NodeId)>,
    /// Where the last node in it ends.
    end: usize,
}

struct Reader<'t> {
    builder: Builder<'t>,
    places: Places,
    anchors: HashMap<usize, NodeId>,
    ends: Vec<Branch>,
}

impl Reader<'_> {
    /// Reads the parsed text, whose letters have the places of those of the text.
    fn read(&mut self, parsed: &str, text: &str) -> Result<(), Failure> {
        let mut events = Parser::new(StrInput::new(parsed));
        while let Some(event) = events.next() {
            let (event, span) = event.map_err(|error| failure(&error, &self.places))?;
            let place = self.places.byte(&span.start)..self.places.byte(&span.end);
            if self.ends.last().is_some_and(|branch| branch.is_map && branch.wants_key)
                && !matches!(event, Event::MappingEnd)
            {
                self.key(event, place, &mut events, text)?;
                continue;
            }
            match event {
                Event::DocumentEnd => self.anchors.clear(),
                Event::Scalar(value, style, anchor, tag) => {
                    self.scalar(&value, style, anchor, tag.as_deref(), place)?;
                }
                Event::SequenceStart(anchor, tag) => self.open(NodeKind::List, anchor, tag.as_deref(), place.start)?,
                Event::MappingStart(anchor, tag) => self.open(NodeKind::Map, anchor, tag.as_deref(), place.start)?,
                Event::SequenceEnd | Event::MappingEnd => self.close(&span, &place),
                Event::Alias(anchor) => self.alias(anchor, &place)?,
                Event::Nothing | Event::StreamStart | Event::StreamEnd | Event::DocumentStart(_) => {}
            }
        }
        Ok(())
    }

    /// Reads a key. What is no single value is known by how it is written.
    fn key<'e>(
        &mut self,
        first: Event<'e>,
        place: Range<usize>,
        events: &mut Parser<'e, StrInput<'e>>,
        text: &str,
    ) -> Result<(), Failure> {
        let mut end = place.end;
        let stored = match first {
            Event::Scalar(value, ..) => self.builder.store(&value, place.start)?,
            Event::Alias(_) => self.builder.make(&text[place.clone()])?,
            _ => {
                let mut depth = 1;
                while depth > 0 {
                    let Some(event) = events.next() else { break };
                    let (event, span) = event.map_err(|error| failure(&error, &self.places))?;
                    end = end.max(self.places.byte(&span.end));
                    match event {
                        Event::SequenceStart(..) | Event::MappingStart(..) => depth += 1,
                        Event::SequenceEnd | Event::MappingEnd => depth -= 1,
                        _ => {}
                    }
                }
                self.builder.make(text[place.start..end].trim())?
            }
        };
        if let Some(branch) = self.ends.last_mut() {
            branch.key = Some((stored, place.start));
            branch.wants_key = false;
        }
        Ok(())
    }

    /// The key that waits for a value, and where the value begins with it.
    fn taken_key(&mut self, start: usize) -> (Option<Stored>, usize) {
        let Some(branch) = self.ends.last_mut().filter(|branch| branch.is_map) else { return (None, start) };
        branch.wants_key = true;
        branch.key.take().map_or((None, start), |(key, from)| (Some(key), from))
    }

    fn ended(&mut self, end: usize) {
        if let Some(branch) = self.ends.last_mut() {
            branch.end = branch.end.max(end);
        }
    }

    fn tag(&mut self, tag: Option<&Tag>) -> Result<Option<Stored>, Failure> {
        match tag.filter(|tag| !tag.is_yaml_core_schema() && tag.handle != "!!" && !tag.suffix.is_empty()) {
            Some(tag) => Ok(Some(self.builder.make(&format!("{}{}", tag.handle, tag.suffix))?)),
            None => Ok(None),
        }
    }

    fn scalar(
        &mut self,
        value: &str,
        style: ScalarStyle,
        anchor: usize,
        tag: Option<&Tag>,
        place: Range<usize>,
    ) -> Result<(), Failure> {
        let (key, from) = self.taken_key(place.start);
        let (kind, written) = match tag.filter(|tag| tag.is_yaml_core_schema() || tag.handle == "!!") {
            Some(tag) if tag.suffix == "str" => (NodeKind::Text, None),
            _ if style != ScalarStyle::Plain => (NodeKind::Text, None),
            // `!` alone says: a text.
            _ if tag.is_some_and(|tag| tag.handle == "!" && tag.suffix.is_empty()) => (NodeKind::Text, None),
            _ => resolved(value),
        };
        let tag = self.tag(tag)?;
        let stored = match &written {
            Some(written) => self.builder.make(written)?,
            None => self.builder.store(value, place.start + usize::from(style != ScalarStyle::Plain))?,
        };
        // A folded or literal block ends behind its last line end.
        let shown = self.builder.text()[place.clone()].trim_ascii_end().len();
        let place = place.start..place.start + shown;
        if anchor > 0 {
            self.anchors.insert(anchor, self.builder.len());
        }
        self.ended(place.end.max(from));
        self.builder.leaf(kind, (key, stored, tag), (from, place))
    }

    fn open(&mut self, kind: NodeKind, anchor: usize, tag: Option<&Tag>, start: usize) -> Result<(), Failure> {
        let (key, from) = self.taken_key(start);
        let tag = self.tag(tag)?;
        let node = self.builder.len();
        self.builder.open(kind, (key, tag), (from, start))?;
        let is_map = kind == NodeKind::Map;
        let anchor = (anchor > 0).then_some((anchor, node));
        self.ends.push(Branch { is_map, key: None, wants_key: is_map, anchor, end: start });
        Ok(())
    }

    fn close(&mut self, span: &Span, place: &Range<usize>) {
        let Some(branch) = self.ends.pop() else { return };
        // Behind a block, the parser stands at what comes next.
        let end = if span.is_empty() { branch.end } else { place.end };
        self.builder.close(end);
        if let Some((anchor, node)) = branch.anchor {
            self.anchors.insert(anchor, node);
        }
        self.ended(end);
    }

    fn alias(&mut self, anchor: usize, place: &Range<usize>) -> Result<(), Failure> {
        let (key, from) = self.taken_key(place.start);
        let Some(&node) = self.anchors.get(&anchor) else {
            return Err(Failure::new(place.start, "this alias stands inside what it names"));
        };
        self.ended(place.end);
        self.builder.repeat(node, key, (from, place.clone()))
    }
}

/// What a plain value is in the core schema (YAML 1.2.2, section 10.3.2), and how JSON would write it where that is another way.
fn resolved(value: &str) -> (NodeKind, Option<String>) {
    match value {
        "" | "~" | "null" | "Null" | "NULL" => return (NodeKind::Null, Some("null".to_owned())),
        "true" | "True" | "TRUE" => return (NodeKind::Boolean, Some("true".to_owned())),
        "false" | "False" | "FALSE" => return (NodeKind::Boolean, Some("false".to_owned())),
        ".nan" | ".NaN" | ".NAN" => return (NodeKind::Number, Some("nan".to_owned())),
        _ => {}
    }
    if Decimal::read(value.as_bytes()).is_some() {
        return (NodeKind::Number, None);
    }
    let unsigned = value.strip_prefix(['+', '-']).unwrap_or(value);
    let sign = if value.starts_with('-') { "-" } else { "" };
    if matches!(unsigned, ".inf" | ".Inf" | ".INF") {
        return (NodeKind::Number, Some(format!("{sign}inf")));
    }
    for (prefix, radix) in [("0o", 8), ("0x", 16)] {
        if let Some(number) = value.strip_prefix(prefix).and_then(|digits| u128::from_str_radix(digits, radix).ok()) {
            return (NodeKind::Number, Some(number.to_string()));
        }
    }
    match plain_number(unsigned) {
        Some(number) => (NodeKind::Number, Some(format!("{sign}{number}"))),
        None => (NodeKind::Text, None),
    }
}

/// A number that may begin with zeros or a point, or end with one, as JSON writes it.
fn plain_number(text: &str) -> Option<String> {
    let (mantissa, exponent) = match text.find(['e', 'E']) {
        Some(at) => text.split_at(at),
        None => (text, ""),
    };
    let (whole, fraction) = mantissa.split_once('.').unwrap_or((mantissa, ""));
    if whole.is_empty() && fraction.is_empty() {
        return None;
    }
    let whole = match whole.trim_start_matches('0') {
        "" => "0",
        whole => whole,
    };
    let point = if fraction.is_empty() { "" } else { "." };
    let number = format!("{whole}{point}{fraction}{exponent}");
    Decimal::read(number.as_bytes()).is_some().then_some(number)
}
