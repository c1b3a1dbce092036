//! Images, pixel by pixel.
//!
//! Both are decoded as a viewer shows them. Where one is the other shifted, cropped, scaled, turned or mirrored, that is a change of its own, and
//! they are compared after it. Pixels that differ are grouped into regions that a person would draw a box around.

mod causes;
mod colour;
mod compare;
mod decode;
mod facts;
mod overlap;
mod pixels;
mod regions;
mod relation;
mod sampled;
mod turned;

pub use causes::{ENCODING, METADATA, SCALING, UNSEEN};
pub use colour::distance;
pub(super) use compare::compare_images;
pub use compare::{ImagePair, Placed};
pub use decode::{MOST_PIXELS, Picture, Unreadable, is_image, read_image};
pub use facts::Facts;
pub use pixels::Pixels;
