//! The records of ranges of bytes.

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use tideline_core::internal::model::{Form, Weight};

#[cfg(feature = "schema")]
use super::names::{FormName, WeightName};
use super::value::TextOrBytes;

/// A range of bytes that differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct RangeRecord {
    /// The path of its pair.
    pub path: TextOrBytes,
    /// Its number in its file, from 1.
    pub number: usize,
    /// What happened.
    #[cfg_attr(feature = "schema", schemars(with = "FormName"))]
    pub form: Form,
    /// Whether it counts.
    #[cfg_attr(feature = "schema", schemars(with = "WeightName"))]
    pub weight: Weight,
    /// Where it is before; of a new range, the place where it came to be.
    pub before: RangeSide,
    /// Where it is after.
    pub after: RangeSide,
}

/// A range of one side.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct RangeSide {
    /// The offset of its first byte, from 0.
    pub offset: usize,
    /// How many bytes it has.
    pub length: usize,
    /// Its bytes in base64; null where there are more than a mebibyte.
    pub base64: Option<String>,
}
