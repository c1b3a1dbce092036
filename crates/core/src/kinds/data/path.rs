//! Paths of nodes: JSON Pointers (RFC 6901); of XML, the names of elements with their positions, as XPath writes them.

use std::collections::HashMap;

use super::document::{DataFormat, Document, NodeId, NodeKind, ROOT};

/// Adds the step to a child of a map or a list.
pub(super) fn push_key(path: &mut String, key: &str) {
    path.push('/');
    for letter in key.chars() {
        match letter {
            '~' => path.push_str("~0"),
            '/' => path.push_str("~1"),
            other => path.push(other),
        }
    }
}

/// The steps to the children of a node, in order.
pub(super) struct Steps {
    steps: Vec<String>,
}

impl Steps {
    /// Of the children of a branch.
    pub(super) fn of(document: &Document<'_>, node: NodeId) -> Self {
        let is_xml = document.format() == DataFormat::Xml;
        let mut steps = Vec::new();
        if !is_xml {
            for (index, child) in document.children(node).enumerate() {
                let mut step = String::new();
                match document.key(child) {
                    Some(key) => push_key(&mut step, key),
                    None => push_key(&mut step, &index.to_string()),
                }
                steps.push(step);
            }
            return Self { steps };
        }
        let names: Vec<String> = document.children(node).map(|child| xml_name(document, child)).collect();
        let mut all: HashMap<&str, usize> = HashMap::new();
        names.iter().for_each(|name| *all.entry(name).or_default() += 1);
        let mut seen: HashMap<&str, usize> = HashMap::new();
        for name in &names {
            let position = seen.entry(name).or_default();
            *position += 1;
            steps.push(if all[name.as_str()] > 1 { format!("/{name}[{position}]") } else { format!("/{name}") });
        }
        Self { steps }
    }

    /// The step to a child, by its index among them.
    pub(super) fn get(&self, index: usize) -> &str {
        self.steps.get(index).map_or("", String::as_str)
    }
}

fn xml_name(document: &Document<'_>, node: NodeId) -> String {
    let key = document.key(node).unwrap_or_default();
    match document.kind(node) {
        NodeKind::Text => "text()".to_owned(),
        NodeKind::Comment => "comment()".to_owned(),
        NodeKind::Instruction => format!("processing-instruction({key})"),
        _ => key.to_owned(),
    }
}

/// The path of a node.
pub(super) fn path_of(document: &Document<'_>, node: NodeId) -> String {
    let mut path = String::new();
    let mut at = ROOT;
    while at != node {
        let next = document.children(at).enumerate().find(|(_, child)| node < child + document.size(*child));
        let Some((index, child)) = next else { return path };
        path.push_str(Steps::of(document, at).get(index));
        at = child;
    }
    path
}

/// The node that a JSON Pointer leads to.
pub(super) fn find(document: &Document<'_>, from: NodeId, pointer: &str) -> Option<NodeId> {
    let mut at = from;
    for step in pointer.strip_prefix('/').into_iter().flat_map(|steps| steps.split('/')) {
        let step = step.replace("~1", "/").replace("~0", "~");
        at = match document.kind(at) {
            NodeKind::Map => document.member(at, &step)?,
            NodeKind::List => {
                let is_index = !step.is_empty() && (step == "0" || !step.starts_with('0'));
                let index = is_index.then(|| step.parse::<usize>().ok()).flatten()?;
                document.children(at).nth(index)?
            }
            NodeKind::Element => {
                let is_named = |child: &NodeId| document.key(*child) == Some(step.as_str());
                document.children(at).find(is_named)?
            }
            _ => return None,
        };
    }
    Some(at)
}

/// A path of XML without its positions.
pub(super) fn without_positions(path: &str) -> String {
    let mut plain = String::with_capacity(path.len());
    let mut rest = path;
    while let Some(open) = rest.find('[') {
        plain.push_str(&rest[..open]);
        rest = rest[open..].find(']').map_or("", |close| &rest[open + close + 1..]);
    }
    plain.push_str(rest);
    plain
}
