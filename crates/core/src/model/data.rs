//! What differs between two documents that are compared by what they mean.

use std::ops::Range;

use serde::{Deserialize, Serialize};

use super::{Extent, Form, Unit, Weight};
use crate::internal::rules::Account;

/// Where a node is on one side.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct NodePlace {
    /// The node, by its index in its document; none of a comment that is no node.
    pub node: Option<usize>,
    /// Its path: a JSON Pointer (RFC 6901), of XML the names of the elements with their positions.
    pub path: String,
    /// Its first and its last line, from 1.
    pub lines: (usize, usize),
    /// Its bytes in the text, with its name.
    pub span: Range<usize>,
    /// The values in it: 1 of a single one.
    pub leaves: usize,
}

/// A node that differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct NodeChange {
    /// Its number in its file, from 1.
    pub number: usize,
    /// What happened.
    pub form: Form,
    /// Whether it counts.
    pub weight: Weight,
    /// What mutes it: a rule, a tolerance.
    pub cause: Option<String>,
    /// Where it is before.
    pub before: Option<NodePlace>,
    /// Where it is after.
    pub after: Option<NodePlace>,
}

impl NodeChange {
    /// The place that a reader looks at first: after, or before where there is no other.
    pub fn place(&self) -> Option<&NodePlace> {
        self.after.as_ref().or(self.before.as_ref())
    }

    pub(crate) fn mirrored(self) -> Self {
        Self { form: self.form.mirrored(), before: self.after, after: self.before, ..self }
    }
}

/// What differs between two documents.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct DataComparison {
    /// The changes by number.
    pub changes: Vec<NodeChange>,
    /// What does not count: by rules, and by what the documents mean.
    pub account: Account,
    /// How many changes are muted and left out.
    pub hidden: usize,
}

impl DataComparison {
    /// Whether anything differs that counts.
    pub fn differs(&self) -> bool {
        self.changes.iter().any(|change| change.weight == Weight::Counted)
    }

    /// How much differs, in values.
    pub fn extent(&self) -> Extent {
        let mut extent = Extent { unit: Unit::Nodes, ..Extent::default() };
        for change in &self.changes {
            if change.weight == Weight::Muted {
                extent.muted += 1;
                continue;
            }
            extent.counted += 1;
            let leaves = |place: &Option<NodePlace>| place.as_ref().map_or(0, |place| place.leaves);
            let (gone, new) = match change.form {
                Form::Moved => (0, 0),
                Form::Edited => (1, 1),
                Form::Gone | Form::New => (leaves(&change.before), leaves(&change.after)),
            };
            extent.gone += gone;
            extent.new += new;
            extent.size += gone.max(new).max(1);
        }
        extent
    }
}
