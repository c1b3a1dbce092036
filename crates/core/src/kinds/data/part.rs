//! The parts of a document that is being changed.

use super::document::{Document, NodeId, NodeKind};

/// A part of a draft.
#[derive(Clone, Debug)]
pub(super) enum Part {
    /// A node of one of the documents, as it is written there.
    Kept(usize, NodeId),
    /// A map, and the node that it was.
    Map(Option<(usize, NodeId)>, Vec<(String, Part)>),
    /// A list, and the node that it was.
    List(Option<(usize, NodeId)>, Vec<Part>),
    /// Something else in the place of a node of the first document.
    InPlace(NodeId, Box<Part>),
}

impl Part {
    /// The part itself, wherever it stands.
    pub(super) fn content(&self) -> &Self {
        match self {
            Self::InPlace(_, part) => part.content(),
            part => part,
        }
    }

    /// The same, to be changed.
    pub(super) fn content_mut(&mut self) -> &mut Self {
        match self {
            Self::InPlace(_, part) => part.content_mut(),
            part => part,
        }
    }

    /// The node of the first document in whose place it stands.
    pub(super) fn origin(&self) -> Option<NodeId> {
        match self {
            Self::Kept(0, node)
            | Self::Map(Some((0, node)), _)
            | Self::List(Some((0, node)), _)
            | Self::InPlace(node, _) => Some(*node),
            _ => None,
        }
    }

    /// Another part in the place of this one.
    pub(super) fn replaced_by(&self, part: Self) -> Self {
        match self.origin() {
            Some(node) => Self::InPlace(node, Box::new(part)),
            None => part,
        }
    }
}

/// Makes a branch that is kept one whose members can be changed.
pub(super) fn expand(documents: &[&Document<'_>], part: &mut Part) {
    let Part::Kept(from, node) = *part else { return };
    let document = documents[from];
    let origin = Some((from, node));
    match document.kind(node) {
        NodeKind::Map => {
            let member = |child: NodeId| (document.key(child).unwrap_or_default().to_owned(), Part::Kept(from, child));
            *part = Part::Map(origin, document.children(node).map(member).collect());
        }
        NodeKind::List => {
            *part = Part::List(origin, document.children(node).map(|child| Part::Kept(from, child)).collect());
        }
        _ => {}
    }
}
