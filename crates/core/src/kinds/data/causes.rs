//! What makes two documents other bytes though they mean the same.

use super::document::{Document, NodeId, NodeKind};
use crate::internal::kinds::values::NUMBER_SPELLING;
use crate::internal::rules::{Account, Effect};

/// Keys of a map in another order.
pub(super) const KEY_ORDER: &str = "key order";
/// Attributes of an element in another order.
pub(super) const ATTRIBUTE_ORDER: &str = "attribute order";
/// White space, quotes, escapes, and whatever else the format leaves to the writer.
pub(super) const LAYOUT: &str = "layout";
/// Comments.
pub(super) const COMMENTS: &str = "comments";

/// Puts down what is written differently in two nodes that mean the same.
pub(super) fn put_causes(
    (before, b): (&Document<'_>, NodeId),
    (after, a): (&Document<'_>, NodeId),
    account: &mut Account,
) {
    let mut waiting = vec![(b, a)];
    while let Some((b, a)) = waiting.pop() {
        let (one, other) = (&before.nodes[b], &after.nodes[a]);
        if one.form == other.form {
            continue;
        }
        match one.kind {
            NodeKind::Number => account.put(NUMBER_SPELLING, Effect::Mute, 1),
            NodeKind::Map | NodeKind::Element => {
                let mut old: Vec<NodeId> = before.children(b).collect();
                let mut new: Vec<NodeId> = after.children(a).collect();
                let names = |document: &Document<'_>, nodes: &[NodeId]| -> Vec<String> {
                    let named = nodes.iter().filter(|node| is_named(document, **node, one.kind));
                    named.map(|node| document.key(*node).unwrap_or_default().to_owned()).collect()
                };
                if names(before, &old) != names(after, &new) {
                    let cause = if one.kind == NodeKind::Map { KEY_ORDER } else { ATTRIBUTE_ORDER };
                    account.put(cause, Effect::Mute, 1);
                }
                // Members with one name are told apart by what they mean.
                let sort = |document: &Document<'_>, nodes: &mut Vec<NodeId>| {
                    nodes.sort_by_cached_key(|node| {
                        if is_named(document, *node, one.kind) {
                            (document.key(*node).unwrap_or_default().to_owned(), document.nodes[*node].meaning)
                        } else {
                            // Behind all attributes, in order.
                            (char::MAX.to_string(), *node as u64)
                        }
                    });
                };
                sort(before, &mut old);
                sort(after, &mut new);
                waiting.extend(old.into_iter().zip(new));
            }
            _ => waiting.extend(before.children(b).zip(after.children(a))),
        }
    }
}

fn is_named(document: &Document<'_>, node: NodeId, parent: NodeKind) -> bool {
    parent == NodeKind::Map || document.kind(node) == NodeKind::Attribute
}
