//! How similar two nodes are that stand in lists.

use std::collections::HashMap;

use super::document::{Document, NodeId, NodeKind};
use crate::internal::align::MOST_WEIGHED_MEMBERS;

/// Nodes that share less are no pair.
pub(super) const LEAST: f32 = 0.3;

/// How much two nodes share, from 0 to 1.
pub(super) fn likeness((before, b): (&Document<'_>, NodeId), (after, a): (&Document<'_>, NodeId)) -> f32 {
    let (one, other) = (&before.nodes[b], &after.nodes[a]);
    if one.kind != other.kind {
        return 0.0;
    }
    if one.meaning == other.meaning {
        return 1.0;
    }
    match one.kind {
        NodeKind::Element if before.key(b) != after.key(a) => 0.0,
        NodeKind::Map | NodeKind::Element => of_members((before, b), (after, a)),
        NodeKind::List => of_items((before, b), (after, a)),
        _ => of_values(before.value(b), after.value(a)),
    }
}

/// Whether two nodes may be one where each stands alone between equal ones: branches that share anything, however deep in
/// lists.
pub(super) fn share_anything((before, b): (&Document<'_>, NodeId), (after, a): (&Document<'_>, NodeId)) -> bool {
    if !before.kind(b).is_branch() {
        return false;
    }
    let are_lists = (before.kind(b), after.kind(a)) == (NodeKind::List, NodeKind::List);
    likeness((before, b), (after, a)) > 0.0
        || are_lists
            && before
                .children(b)
                .zip(after.children(a))
                .take(MOST_WEIGHED_MEMBERS)
                .any(|(b, a)| share_anything((before, b), (after, a)))
}

fn of_members((before, b): (&Document<'_>, NodeId), (after, a): (&Document<'_>, NodeId)) -> f32 {
    let mut members: HashMap<&str, u64> = HashMap::new();
    let mut count = 0_usize;
    for child in before.children(b).take(MOST_WEIGHED_MEMBERS) {
        members.insert(before.key(child).unwrap_or_default(), before.nodes[child].meaning);
        count += 1;
    }
    let mut shared = 0.0;
    let mut others = 0_usize;
    for child in after.children(a).take(MOST_WEIGHED_MEMBERS) {
        others += 1;
        match members.get(after.key(child).unwrap_or_default()) {
            Some(meaning) if *meaning == after.nodes[child].meaning => shared += 1.0,
            // A name alone says little: records of one list have the same names.
            Some(_) => shared += 0.25,
            None => {}
        }
    }
    let element = usize::from(before.kind(b) == NodeKind::Element);
    (shared + 0.5 * element as f32) / (count.max(others) + element).max(1) as f32
}

fn of_items((before, b): (&Document<'_>, NodeId), (after, a): (&Document<'_>, NodeId)) -> f32 {
    let mut items: HashMap<u64, usize> = HashMap::new();
    let mut count = 0_usize;
    for child in before.children(b).take(MOST_WEIGHED_MEMBERS) {
        *items.entry(before.nodes[child].meaning).or_default() += 1;
        count += 1;
    }
    let (mut shared, mut others) = (0_usize, 0_usize);
    for child in after.children(a).take(MOST_WEIGHED_MEMBERS) {
        others += 1;
        if let Some(left) = items.get_mut(&after.nodes[child].meaning).filter(|left| **left > 0) {
            *left -= 1;
            shared += 1;
        }
    }
    shared as f32 / count.max(others).max(1) as f32
}

/// What two texts have in common at their ends.
fn of_values(one: &str, other: &str) -> f32 {
    let (one, other) = (one.as_bytes(), other.as_bytes());
    let longest = one.len().max(other.len());
    if longest == 0 {
        return 1.0;
    }
    let head = one.iter().zip(other).take_while(|(one, other)| one == other).count();
    let rest = one.len().min(other.len()) - head;
    let tail = one.iter().rev().zip(other.iter().rev()).take(rest).take_while(|(one, other)| one == other).count();
    (head + tail) as f32 / longest as f32
}
