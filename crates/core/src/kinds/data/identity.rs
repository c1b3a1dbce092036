//! By what records in two lists are known again: a member such as `id` that each of them has, and no two share.

use std::collections::{HashMap, HashSet};

use super::document::{Document, NodeId, NodeKind};
use super::path::find;

/// Members by which records are known where nothing else is told, the best first.
const USUAL: [&str; 3] = ["id", "name", "key"];

/// For each record of two lists, the index of the one that it is on the other side.
pub(super) struct Known {
    /// Of each record before, its partner after.
    pub(super) after_of: Vec<Option<usize>>,
}

/// Pairs the records of two lists by identity; nothing where they have none.
pub(super) fn known_records(
    (before, b): (&Document<'_>, &[NodeId]),
    (after, a): (&Document<'_>, &[NodeId]),
    told: &[String],
) -> Option<Known> {
    if b.is_empty() || a.is_empty() {
        return None;
    }
    let told: Vec<&str> = told.iter().map(String::as_str).collect();
    let usual = USUAL.iter().map(|name| vec![*name]);
    let choices = (!told.is_empty()).then_some(told).into_iter().chain(usual);
    for members in choices {
        let (Some(one), Some(other)) = (names(before, b, &members), names(after, a, &members)) else { continue };
        if let Some(known) = paired(&one, &other) {
            return Some(known);
        }
    }
    None
}

/// What the records of three lists are called by the first usual member that all of them have; nothing where there is none.
pub(super) fn record_names(lists: [(&Document<'_>, &[NodeId]); 3]) -> Option<[Vec<String>; 3]> {
    USUAL.iter().find_map(|name| {
        let [base, mine, theirs] = lists.map(|(document, records)| names(document, records, &[*name]));
        Some([base?, mine?, theirs?])
    })
}

/// The same of the elements in two elements, each known by its name and what identifies it.
pub(super) fn known_elements(
    (before, b): (&Document<'_>, &[NodeId]),
    (after, a): (&Document<'_>, &[NodeId]),
    told: &[String],
) -> Option<Known> {
    let name = |document: &Document<'_>, node: NodeId| {
        let key = document.key(node).unwrap_or_default();
        let own = match document.kind(node) {
            NodeKind::Element => element_name(document, node, told),
            NodeKind::Comment | NodeKind::Instruction => Some(document.value(node).to_owned()),
            _ => None,
        };
        format!(
            "{:?} {} {key} {}",
            document.kind(node),
            document.tag(node).unwrap_or_default(),
            own.unwrap_or_default()
        )
    };
    let names = |document, nodes: &[NodeId]| nodes.iter().map(|node| name(document, *node)).collect::<Vec<_>>();
    paired(&names(before, b), &names(after, a))
}

/// What identifies an element: an attribute, or an element in it that holds a text.
fn element_name(document: &Document<'_>, element: NodeId, told: &[String]) -> Option<String> {
    let value_of = |name: &str| {
        let name = name.trim_start_matches(['/', '@']);
        for child in document.children(element) {
            let key = document.key(child).unwrap_or_default();
            if document.kind(child) == NodeKind::Attribute && key.strip_prefix('@') == Some(name) {
                return Some(document.value(child).to_owned());
            }
            let is_alone = document.kind(child) == NodeKind::Element && document.size(child) == 2;
            if is_alone && key == name && document.kind(child + 1) == NodeKind::Text {
                return Some(document.value(child + 1).to_owned());
            }
        }
        None
    };
    let told: Option<Vec<String>> = told.iter().map(|name| value_of(name)).collect();
    told.filter(|values| !values.is_empty())
        .map(|values| values.join("\u{1f}"))
        .or_else(|| USUAL.iter().find_map(|name| value_of(name)))
}

/// What the records of a list are called by some of their members; nothing where one lacks them, or two share a name.
fn names(document: &Document<'_>, records: &[NodeId], members: &[&str]) -> Option<Vec<String>> {
    let mut seen = HashSet::new();
    let mut names = Vec::with_capacity(records.len());
    for record in records {
        if document.kind(*record) != NodeKind::Map {
            return None;
        }
        let mut name = String::new();
        for member in members {
            let found = match member.strip_prefix('/') {
                Some(_) => find(document, *record, member),
                None => document.member(*record, member),
            };
            let found = found.filter(|found| !document.kind(*found).is_branch())?;
            if document.kind(found) == NodeKind::Null {
                return None;
            }
            name.push_str(document.value(found));
            name.push('\u{1f}');
        }
        if !seen.insert(name.clone()) {
            return None;
        }
        names.push(name);
    }
    Some(names)
}

/// Pairs equal names; nothing where a name stands on one side twice, or none on both.
fn paired(before: &[String], after: &[String]) -> Option<Known> {
    let mut places: HashMap<&str, usize> = HashMap::with_capacity(after.len());
    for (at, name) in after.iter().enumerate() {
        if places.insert(name, at).is_some() {
            return None;
        }
    }
    let mut seen = HashSet::with_capacity(before.len());
    if !before.iter().all(|name| seen.insert(name.as_str())) {
        return None;
    }
    let after_of: Vec<Option<usize>> = before.iter().map(|name| places.get(name.as_str()).copied()).collect();
    after_of.iter().any(Option::is_some).then_some(Known { after_of })
}
