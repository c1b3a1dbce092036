//! Images turned and mirrored.

use super::pixels::Pixels;
use crate::internal::model::image::Turn;

/// Every way to turn or mirror an image.
pub(super) const TURNS: [Turn; 7] =
    [Turn::Mirrored, Turn::Flipped, Turn::Half, Turn::Right, Turn::Left, Turn::Transposed, Turn::Transverse];

/// The size of an image that was turned.
pub(super) fn size(turn: Turn, (width, height): (usize, usize)) -> (usize, usize) {
    match turn {
        Turn::Mirrored | Turn::Flipped | Turn::Half => (width, height),
        Turn::Right | Turn::Left | Turn::Transposed | Turn::Transverse => (height, width),
    }
}

/// Where a pixel of the turned image was; the size is that of the image before it was turned.
pub(super) fn source(turn: Turn, (width, height): (usize, usize), (x, y): (usize, usize)) -> (usize, usize) {
    match turn {
        Turn::Mirrored => (width - 1 - x, y),
        Turn::Flipped => (x, height - 1 - y),
        Turn::Half => (width - 1 - x, height - 1 - y),
        Turn::Right => (y, height - 1 - x),
        Turn::Left => (width - 1 - y, x),
        Turn::Transposed => (y, x),
        Turn::Transverse => (width - 1 - y, height - 1 - x),
    }
}

/// An image turned.
pub(super) fn turned(image: &Pixels, turn: Turn) -> Pixels {
    let own = (image.width(), image.height());
    image.taken(size(turn, own), |x, y| source(turn, own, (x, y)))
}
