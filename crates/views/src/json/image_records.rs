//! The records of images.

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use tideline_core::internal::model::{Form, Weight};

#[cfg(feature = "schema")]
use super::names::{FormName, WeightName};
use super::value::TextOrBytes;

/// What is known of two images.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct ImageRecord {
    /// The path of its pair.
    pub path: TextOrBytes,
    /// The image before.
    pub before: ImageSide,
    /// The image after.
    pub after: ImageSide,
    /// Pixels that were compared.
    pub compared: usize,
    /// Pixels that differ and count.
    pub differing: usize,
    /// What is known besides pixels, and differs.
    pub attributes: Vec<ImageAttributeRecord>,
}

/// An image.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct ImageSide {
    /// How many pixels it is wide.
    pub width: usize,
    /// How many pixels it is high.
    pub height: usize,
    /// How many frames it has.
    pub frames: usize,
    /// The format of its file.
    pub format: String,
    /// How its colours are written.
    pub colours: String,
}

/// Something known of two images that differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct ImageAttributeRecord {
    /// What it is.
    pub name: String,
    /// What it was.
    pub before: Option<String>,
    /// What it is.
    pub after: Option<String>,
}

/// A region of two images that differs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct PixelsRecord {
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
    /// The frame, from 1.
    pub frame: usize,
    /// What happened to the image as a whole, where that is the change.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub whole: Option<String>,
    /// Where it is before.
    pub before: Option<AreaRecord>,
    /// Where it is after.
    pub after: Option<AreaRecord>,
    /// Pixels in it that differ and count.
    pub pixels: usize,
    /// How far apart their colours are on average, in hundredths of the distance of black and white in OKLab.
    pub mean_distance: f32,
    /// How far apart they are at most.
    pub largest_distance: f32,
}

/// A part of an image, in pixels from its upper left corner.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct AreaRecord {
    /// The column of its first pixel, from 0.
    pub x: usize,
    /// The row of its first pixel, from 0.
    pub y: usize,
    /// How many pixels it is wide.
    pub width: usize,
    /// How many pixels it is high.
    pub height: usize,
}
