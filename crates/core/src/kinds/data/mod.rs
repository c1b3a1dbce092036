//! Data: documents of JSON, YAML, TOML and XML, compared node by node by what they mean.
//!
//! A text becomes a [`Document`] whose nodes know their places, and a hash of what they mean: nodes that mean the same are equal whatever the
//! order of keys, the spelling of numbers and the white space between them. Members of maps are compared by name, records of lists by what
//! identifies them, other lists by our own alignment.

mod build;
mod causes;
mod chunks;
mod compare;
mod document;
mod draft;
mod failure;
mod found;
mod identity;
mod json;
mod json_patch;
mod likeness;
mod merge;
mod merge_patch;
mod part;
mod path;
mod read;
mod render;
mod toml;
mod xml;
mod yaml;

pub use document::{Children, DataFormat, Document, DuplicateKey, NodeId, NodeKind};
pub use failure::Failure;
pub use json_patch::{DataPatchError, DataPatched, apply_json_patch, is_json_patch, write_json_patch};
pub use merge::{DataMerge, merge_documents};
pub use merge_patch::{MergePatchError, apply_merge_patch, write_merge_patch};
pub(super) use read::{compare_data, read_pair};
pub use read::{find_node, format_of, read_document};
