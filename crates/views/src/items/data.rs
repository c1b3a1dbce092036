//! Two documents, ready to be drawn.

use tideline_core::internal::kinds::data::{DataFormat, Document, NodeKind};
use tideline_core::internal::model::data::{DataComparison, NodeChange, NodePlace};
use tideline_core::internal::model::{Extent, Form};
use tideline_core::internal::rules::Account;

use super::item::{Item, Value, ValueEdit, Whole};
use super::view::{Around, ItemView};
use crate::view::Title;
use crate::wording::{grouped, plural};

/// Two documents and what differs between them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct DataView<'a> {
    /// What stands above.
    pub title: Title<'a>,
    /// The document before.
    pub before: &'a Document<'a>,
    /// The document after.
    pub after: &'a Document<'a>,
    /// What differs.
    pub comparison: &'a DataComparison,
}

/// The path of the branch that a node is in; the root itself is `/`.
pub(crate) fn enclosing(path: &str) -> String {
    match path.rfind('/') {
        Some(0) | None => "/".to_owned(),
        Some(at) => path[..at].to_owned(),
    }
}

/// A path as it is shown: the document itself has one too.
fn shown(path: &str) -> String {
    if path.is_empty() { "/".to_owned() } else { path.to_owned() }
}

fn value(document: &Document<'_>, place: Option<&NodePlace>) -> Value {
    let Some(place) = place else { return Value::Missing };
    match place.node {
        Some(node) if document.kind(node) == NodeKind::Null => Value::Null,
        Some(node) if document.kind(node).is_branch() => {
            let count = document.children(node).count();
            let word = match document.kind(node) {
                NodeKind::List => "item",
                NodeKind::Map => "member",
                _ => "node",
            };
            Value::Text(format!("{} of {}", document.kind(node).name(), plural(count, word)).into_bytes())
        }
        // Quotes tell a text that looks like a number from one.
        Some(node) if document.kind(node) == NodeKind::Text && document.format() != DataFormat::Xml => {
            Value::Text(text_value(document.value(node)))
        }
        Some(node) => Value::Text(document.value(node).as_bytes().to_vec()),
        None => Value::Text(document.text()[place.span.clone()].to_vec()),
    }
}

fn text_value(text: &str) -> Vec<u8> {
    let looks_like = text.is_empty()
        || matches!(text, "true" | "false" | "null")
        || text.starts_with(|first: char| first.is_ascii_digit() || first == '-');
    if looks_like { format!("\"{text}\"").into_bytes() } else { text.as_bytes().to_vec() }
}

fn is_branch(document: &Document<'_>, place: Option<&NodePlace>) -> bool {
    place.and_then(|place| place.node).is_some_and(|node| document.kind(node).is_branch())
}

fn lines_in_words((first, last): (usize, usize)) -> String {
    if first == last {
        format!("line {}", grouped(first))
    } else {
        format!("lines {}–{}", grouped(first), grouped(last))
    }
}

impl DataView<'_> {
    fn place(&self, change: &NodeChange) -> String {
        match (&change.before, &change.after) {
            (Some(before), Some(after)) if change.form == Form::Moved => {
                format!(
                    "{}, from {} {}",
                    lines_in_words(after.lines),
                    shown(&before.path),
                    lines_in_words(before.lines)
                )
            }
            (Some(before), Some(after)) if before.lines.0 != after.lines.0 => {
                format!("line {}, now line {}", grouped(before.lines.0), grouped(after.lines.0))
            }
            (_, Some(place)) if change.form == Form::Edited => format!("line {}", grouped(place.lines.0)),
            (_, Some(place)) | (Some(place), None) => lines_in_words(place.lines),
            (None, None) => String::new(),
        }
    }

    /// The lines of a branch that one side alone has.
    fn lines(document: &Document<'_>, place: &NodePlace) -> Whole {
        let text = document.text();
        let line = memchr::memrchr(b'\n', &text[..place.span.start]).map_or(0, |end| end + 1);
        // What else stands in its first line is not a part of it.
        let start = if text[line..place.span.start].trim_ascii().is_empty() { line } else { place.span.start };
        let end = place.span.end.max(place.span.start);
        let block = &text[start..end];
        let lines: Vec<Vec<u8>> =
            block.split(|byte| *byte == b'\n').map(|line| line.trim_ascii_end().to_vec()).collect();
        Whole::Lines(without_indentation(lines))
    }
}

/// Lines without the indentation that all of them have.
fn without_indentation(lines: Vec<Vec<u8>>) -> Vec<Vec<u8>> {
    let indent = |line: &Vec<u8>| line.iter().take_while(|byte| matches!(byte, b' ' | b'\t')).count();
    let least = lines.iter().filter(|line| !line.is_empty()).map(indent).min().unwrap_or_default();
    lines.into_iter().map(|line| line.get(least..).unwrap_or_default().to_vec()).collect()
}

impl ItemView for DataView<'_> {
    fn title(&self) -> &Title<'_> {
        &self.title
    }

    fn extent(&self) -> Extent {
        self.comparison.extent()
    }

    fn account(&self) -> (&Account, bool) {
        (&self.comparison.account, self.comparison.hidden > 0)
    }

    fn len(&self) -> usize {
        self.comparison.changes.len()
    }

    fn facts(&self) -> Vec<String> {
        let (before, after) = (self.before.format(), self.after.format());
        if before == after {
            return vec![format!("compared as {}", before.name())];
        }
        let labels = self.title.labels;
        vec![format!("{} is {}, {} is {}", labels.before, before.name(), labels.after, after.name())]
    }

    fn troubles(&self) -> Vec<String> {
        let of = |document: &Document<'_>, label: &str| -> Vec<String> {
            let told = document.duplicates().iter().take(3);
            told.map(|again| format!("{label}: the key {} stands here twice, again in line {}", again.key, again.line))
                .collect()
        };
        let labels = self.title.labels;
        of(self.before, &labels.before).into_iter().chain(of(self.after, &labels.after)).collect()
    }

    fn item(&self, index: usize) -> Item {
        let change = &self.comparison.changes[index];
        let (before, after) = (change.before.as_ref(), change.after.as_ref());
        let path = change.place().map_or("", |place| &place.path);
        let is_comment = change.place().is_some_and(|place| place.node.is_none());
        let title = if is_comment { format!("{}, comment", shown(path)) } else { shown(path) };
        let document = if change.after.is_some() { self.after } else { self.before };
        let whole = match (change.form, change.place()) {
            (Form::Gone | Form::New, Some(place)) if is_branch(document, Some(place)) => Self::lines(document, place),
            (Form::Gone | Form::New, Some(place)) => Whole::Values(vec![(String::new(), value(document, Some(place)))]),
            _ => Whole::None,
        };
        let edits = if change.form == Form::Edited {
            vec![ValueEdit {
                name: title.clone(),
                column: 0,
                before: value(self.before, before),
                after: value(self.after, after),
                weight: change.weight,
                cause: change.cause.clone(),
            }]
        } else {
            Vec::new()
        };
        let at = change.place().map_or(0, |place| place.span.start);
        Item {
            number: change.number,
            form: change.form,
            weight: change.weight,
            cause: change.cause.clone(),
            group: Some(enclosing(path)),
            title,
            place: self.place(change),
            share: at as f64 / document.text().len().max(1) as f64,
            edits,
            whole,
        }
    }

    fn around(&self, index: usize, most: usize) -> Around {
        let change = &self.comparison.changes[index];
        let document = if change.after.is_some() { self.after } else { self.before };
        let Some((place, node)) = change.place().and_then(|place| Some((place, place.node?))) else {
            return Default::default();
        };
        let Some(parent) = parent_of(document, node) else { return Default::default() };
        let siblings: Vec<usize> = document.children(parent).collect();
        let Some(own) = siblings.iter().position(|sibling| *sibling == node) else { return Default::default() };
        let told = |at: usize| {
            let sibling = siblings[at];
            let name = document.key(sibling).map_or_else(|| at.to_string(), str::to_owned);
            let whole = NodePlace { node: Some(sibling), ..place.clone() };
            let value = value(document, Some(&whole));
            (
                format!(
                    "{}/{name}",
                    if enclosing(&place.path) == "/" { String::new() } else { enclosing(&place.path) }
                ),
                String::from_utf8_lossy(value.shown().0).into_owned(),
            )
        };
        let first = own.saturating_sub(most);
        let last = own.saturating_add(most).min(siblings.len() - 1);
        ((first..own).map(told).collect(), (own + 1..=last).map(told).collect())
    }
}

/// The branch that a node is in.
fn parent_of(document: &Document<'_>, node: usize) -> Option<usize> {
    let mut at = 0;
    loop {
        let next = document.children(at).find(|child| node < child + document.size(*child))?;
        if next == node {
            return Some(at);
        }
        at = next;
    }
}
