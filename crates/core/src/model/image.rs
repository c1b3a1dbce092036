//! What differs between two images.

use serde::{Deserialize, Serialize};

use super::{Extent, Form, Unit, Weight};
use crate::internal::rules::Account;

/// A part of an image, in pixels from its upper left corner.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Area {
    /// The column of its first pixel.
    pub x: usize,
    /// The row of its first pixel.
    pub y: usize,
    /// How many pixels it is wide.
    pub width: usize,
    /// How many pixels it is high.
    pub height: usize,
}

/// How one image comes of the other as a whole.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Relation {
    /// It was shifted by so many pixels to the right and down.
    Shifted(i64, i64),
    /// Only this part of the image before is left.
    Cropped(Area),
    /// It became a part of a larger image, at this place.
    Extended(Area),
    /// It was scaled.
    Scaled,
    /// It was turned or mirrored.
    Turned(Turn),
}

/// How an image was turned or mirrored.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Turn {
    /// A quarter to the right.
    Right,
    /// By half.
    Half,
    /// A quarter to the left.
    Left,
    /// Left and right exchanged.
    Mirrored,
    /// Up and down exchanged.
    Flipped,
    /// Rows and columns exchanged.
    Transposed,
    /// The same, the other way.
    Transverse,
}

/// What a change of an image is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum ImageChangeKind {
    /// Pixels that differ.
    Pixels,
    /// The image as a whole.
    Whole(Relation),
    /// A frame of an animation.
    Frame,
}

/// A region of an image that differs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct RegionChange {
    /// Its number in its file, from 1.
    pub number: usize,
    /// What happened.
    pub form: Form,
    /// Whether it counts.
    pub weight: Weight,
    /// What it is.
    pub kind: ImageChangeKind,
    /// The frame of an animation, from 0.
    pub frame: usize,
    /// Where it is before; in an image that was turned or scaled, where it would be in the image after.
    pub before: Option<Area>,
    /// Where it is after.
    pub after: Option<Area>,
    /// Pixels in it that differ and count.
    pub pixels: usize,
    /// How far apart their colours are on average, from 0 to 100.
    pub mean: f32,
    /// How far apart they are at most.
    pub largest: f32,
}

/// Something that is known of an image besides its pixels, and differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct ImageAttribute {
    /// What it is.
    pub name: String,
    /// What it was.
    pub before: Option<String>,
    /// What it is.
    pub after: Option<String>,
}

/// What differs between two images.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct ImageComparison {
    /// The changes by number.
    pub changes: Vec<RegionChange>,
    /// What differs besides pixels.
    pub attributes: Vec<ImageAttribute>,
    /// Pixels that differ and count.
    pub pixels: usize,
    /// Pixels that were compared.
    pub compared: usize,
    /// What does not count.
    pub account: Account,
}

impl ImageComparison {
    /// Whether anything differs that counts.
    pub fn differs(&self) -> bool {
        !self.changes.is_empty()
    }

    /// How much differs, in pixels.
    pub fn extent(&self) -> Extent {
        Extent {
            counted: self.changes.len(),
            muted: 0,
            size: self.pixels,
            unit: Unit::Pixels,
            gone: self.pixels,
            new: self.pixels,
        }
    }
}
