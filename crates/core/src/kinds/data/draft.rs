//! A document of JSON that is being changed: what is not touched stays as it is written.

use super::document::{Document, NodeId, NodeKind, ROOT};
use super::part::{Part, expand};
use super::render::Style;

/// A document that is being changed, with what comes into it from other documents.
pub(super) struct Draft<'d> {
    pub(super) documents: Vec<&'d Document<'d>>,
    pub(super) root: Part,
}

/// The last step of a path that leads into a list or a map.
pub(super) enum Place<'p> {
    /// A member of a map, and its name.
    Member(&'p mut Vec<(String, Part)>, String),
    /// An item of a list, by its index; the end of the list too.
    Item(&'p mut Vec<Part>, usize),
}

/// Why a path leads nowhere: the pointer up to where it does not fit, and what is wrong there.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Misfit {
    pub(super) pointer: String,
    pub(super) reason: String,
}

impl Misfit {
    pub(super) fn new(pointer: impl Into<String>, reason: impl Into<String>) -> Self {
        Self { pointer: pointer.into(), reason: reason.into() }
    }
}

/// The steps of a JSON Pointer (RFC 6901).
pub(super) fn steps_of(pointer: &str) -> Result<Vec<String>, Misfit> {
    if pointer.is_empty() {
        return Ok(Vec::new());
    }
    let Some(steps) = pointer.strip_prefix('/') else {
        return Err(Misfit::new(pointer, "a pointer is empty or begins with `/`"));
    };
    let step = |step: &str| {
        let is_escaped =
            step.match_indices('~').all(|(at, _)| matches!(step.as_bytes().get(at + 1), Some(b'0' | b'1')));
        is_escaped.then(|| step.replace("~1", "/").replace("~0", "~"))
    };
    steps.split('/').map(|text| step(text).ok_or_else(|| Misfit::new(pointer, "`~` is written `~0`"))).collect()
}

/// The index that a step names; the end of the list where `-` does.
fn index_of(step: &str, len: usize) -> Option<usize> {
    let is_number =
        !step.is_empty() && step.bytes().all(|byte| byte.is_ascii_digit()) && (step == "0" || !step.starts_with('0'));
    if step == "-" { Some(len) } else { is_number.then(|| step.parse().ok()).flatten() }
}

impl<'d> Draft<'d> {
    /// A draft of a document, into which parts of others may come.
    pub(super) fn of(document: &'d Document<'d>, others: &[&'d Document<'d>]) -> Self {
        let documents = std::iter::once(document).chain(others.iter().copied()).collect();
        Self { documents, root: Part::Kept(0, ROOT) }
    }

    /// The place that a pointer leads to, which may not be there yet.
    pub(super) fn place(&mut self, pointer: &str) -> Result<Option<Place<'_>>, Misfit> {
        let mut steps = steps_of(pointer)?;
        let Some(last) = steps.pop() else { return Ok(None) };
        let documents = &self.documents;
        let mut at = &mut self.root;
        let mut reached = String::new();
        for step in steps {
            at = at.content_mut();
            expand(documents, at);
            super::path::push_key(&mut reached, &step);
            let missing = || Misfit::new(reached.clone(), "there is nothing at this path");
            at = match at {
                Part::Map(_, members) => {
                    members.iter_mut().rev().find(|(key, _)| *key == step).map(|(_, part)| part).ok_or_else(missing)?
                }
                Part::List(_, items) => {
                    let index = index_of(&step, items.len()).ok_or_else(missing)?;
                    items.get_mut(index).ok_or_else(missing)?
                }
                Part::Kept(..) | Part::InPlace(..) => return Err(missing()),
            };
        }
        at = at.content_mut();
        expand(documents, at);
        match at {
            Part::Map(_, members) => Ok(Some(Place::Member(members, last))),
            Part::List(_, items) => {
                let wrong = || Misfit::new(pointer, format!("`{last}` is no place of a list of {}", items.len()));
                let index = index_of(&last, items.len()).filter(|index| *index <= items.len()).ok_or_else(wrong)?;
                Ok(Some(Place::Item(items, index)))
            }
            Part::Kept(..) | Part::InPlace(..) => {
                Err(Misfit::new(pointer, "what it would be in is neither a list nor a map"))
            }
        }
    }

    /// What stands at a pointer.
    pub(super) fn get(&mut self, pointer: &str) -> Result<Part, Misfit> {
        let missing = || Misfit::new(pointer, "there is nothing at this path");
        match self.place(pointer)? {
            None => Ok(self.root.clone()),
            Some(Place::Member(members, key)) => {
                members.iter().rev().find(|(own, _)| *own == key).map(|(_, part)| part.clone()).ok_or_else(missing)
            }
            Some(Place::Item(items, index)) => items.get(index).cloned().ok_or_else(missing),
        }
    }

    /// Whether two parts mean the same.
    pub(super) fn is_equal(&self, one: &Part, other: &Part) -> bool {
        let (mut one, mut other) = (one.content().clone(), other.content().clone());
        expand(&self.documents, &mut one);
        expand(&self.documents, &mut other);
        match (&one, &other) {
            (Part::Map(_, old), Part::Map(_, new)) => {
                old.len() == new.len()
                    && old
                        .iter()
                        .all(|(key, part)| new.iter().any(|(other, there)| other == key && self.is_equal(part, there)))
            }
            (Part::List(_, old), Part::List(_, new)) => {
                old.len() == new.len() && old.iter().zip(new).all(|(one, other)| self.is_equal(one, other))
            }
            (Part::Kept(b, old), Part::Kept(a, new)) => {
                let (before, after) = (self.documents[*b], self.documents[*a]);
                let (one, other) = (before.kind(*old), after.kind(*new));
                let number = |document: &Document<'_>, node: NodeId| {
                    crate::internal::kinds::number::Decimal::read(document.value(node).as_bytes())
                        .map(|number| format!("{:?}", number.parts()))
                };
                match (one, other) {
                    (NodeKind::Number, NodeKind::Number) => number(before, *old) == number(after, *new),
                    _ => one == other && before.value(*old) == after.value(*new),
                }
            }
            _ => false,
        }
    }

    /// The text of the draft: what was not touched as it was written.
    pub(super) fn text(&self) -> Vec<u8> {
        let document = self.documents[0];
        let style = Style::of(document);
        let root = document.span(ROOT);
        let mut out = document.text()[..root.start].to_vec();
        style.write(&self.documents, &self.root, &style.indentation_at(document, ROOT), &mut out);
        out.extend_from_slice(&document.text()[root.end..]);
        out
    }
}
