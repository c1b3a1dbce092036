//! Images made of two others: what differs between them, and both beside each other.

use std::io;

use image::codecs::png::PngEncoder;
use image::{ExtendedColorType, ImageEncoder};
use tideline_core::internal::kinds::image::{ImagePair, Pixels, distance};
use tideline_core::internal::model::image::Area;

/// Marks a pixel that differs.
const MARK: [u8; 3] = [0xff, 0x2d, 0x55];
/// The ground of transparent pixels, in squares.
const GROUNDS: [u8; 2] = [0xff, 0xdd];
/// The side of a square of the ground.
const SQUARE: usize = 8;
/// What is between two images beside each other.
const GAP: usize = 16;
/// What stands around and between images.
const PAPER: [u8; 3] = [0x80, 0x80, 0x80];
/// A pixel that is the same is shown so much paler.
const PALER: u16 = 3;

/// Which pixels of the first frame after differ and count.
pub(crate) struct Difference<'p> {
    pair: &'p ImagePair<'p>,
    /// The distance up to which colours do not count.
    tolerated: f32,
    areas: Vec<Area>,
}

impl<'p> Difference<'p> {
    /// What differs between two images.
    pub(crate) fn of(pair: &'p ImagePair<'p>) -> Self {
        let of_pixels = pair.found.changes.iter().filter(|change| change.frame == 0 && change.largest > 0.0);
        // Pixels that are tolerated inside a region are no farther apart than the nearest one that counts.
        let areas = of_pixels.filter_map(|change| change.after).collect();
        Self { pair, tolerated: pair.tolerated, areas }
    }

    fn before_at(&self, x: usize, y: usize) -> Option<[u16; 4]> {
        let before = self.pair.placed.turned.as_ref().unwrap_or(&self.pair.before.frames[0]);
        let offset = self.pair.placed.offset;
        let x = usize::try_from(x as i64 - offset.0).ok().filter(|x| *x < before.width())?;
        let y = usize::try_from(y as i64 - offset.1).ok().filter(|y| *y < before.height())?;
        Some(before.pixel(x, y))
    }

    /// Whether a pixel of the image after differs. In an image that was scaled, whole regions do.
    pub(crate) fn is_at(&self, x: usize, y: usize) -> bool {
        let is_inside = self
            .areas
            .iter()
            .any(|area| (area.x..area.x + area.width).contains(&x) && (area.y..area.y + area.height).contains(&y));
        if !is_inside || self.pair.placed.scale.is_some() {
            return is_inside;
        }
        let after = self.pair.after.frames[0].pixel(x, y);
        self.before_at(x, y).is_some_and(|before| before != after && distance(before, after) > self.tolerated)
    }

    /// Whether a pixel in a part of the image after differs.
    pub(crate) fn is_in(&self, (left, right): (usize, usize), (top, bottom): (usize, usize)) -> bool {
        self.areas.iter().any(|area| {
            let columns = area.x.max(left)..(area.x + area.width).min(right);
            let mut rows = area.y.max(top)..(area.y + area.height).min(bottom);
            rows.any(|y| columns.clone().any(|x| self.is_at(x, y)))
        })
    }

    /// The pixels that differ, marked on a transparent ground.
    pub(crate) fn mask(&self) -> Drawn {
        let after = &self.pair.after.frames[0];
        let mut drawn = Drawn::clear(after.width(), after.height());
        for area in &self.areas {
            for y in area.y..(area.y + area.height).min(after.height()) {
                for x in area.x..(area.x + area.width).min(after.width()) {
                    if self.is_at(x, y) {
                        drawn.put((x, y), [MARK[0], MARK[1], MARK[2], 0xff]);
                    }
                }
            }
        }
        drawn
    }
}

/// An image that is made here, with 8 bits a channel.
pub(crate) struct Drawn {
    width: usize,
    height: usize,
    values: Vec<u8>,
}

impl Drawn {
    fn clear(width: usize, height: usize) -> Self {
        Self { width, height, values: vec![0; width * height * 4] }
    }

    fn put(&mut self, (x, y): (usize, usize), pixel: [u8; 4]) {
        let at = (y * self.width + x) * 4;
        self.values[at..at + 4].copy_from_slice(&pixel);
    }

    /// The same pixels as they are.
    pub(crate) fn copy(image: &Pixels) -> Self {
        let mut drawn = Self::clear(image.width(), image.height());
        for y in 0..image.height() {
            for x in 0..image.width() {
                drawn.put((x, y), image.small_pixel(x, y));
            }
        }
        drawn
    }

    /// As a PNG file.
    ///
    /// # Errors
    /// When the image cannot be written.
    pub(crate) fn png(&self) -> io::Result<Vec<u8>> {
        let mut png = Vec::new();
        let (width, height) = (self.width as u32, self.height as u32);
        PngEncoder::new(&mut png)
            .write_image(&self.values, width, height, ExtendedColorType::Rgba8)
            .map_err(io::Error::other)?;
        Ok(png)
    }
}

/// A pixel over the squares that stand for what is transparent.
fn on_ground(pixel: [u8; 4], (x, y): (usize, usize)) -> [u8; 3] {
    let ground = GROUNDS[(x / SQUARE + y / SQUARE) % 2];
    over(pixel, [ground; 3])
}

/// A pixel over a ground.
pub(crate) fn over([r, g, b, alpha]: [u8; 4], ground: [u8; 3]) -> [u8; 3] {
    let blend = |value: u8, ground: u8| {
        let (value, ground, alpha) = (u16::from(value), u16::from(ground), u16::from(alpha));
        ((value * alpha + ground * (255 - alpha)) / 255) as u8
    };
    [blend(r, ground[0]), blend(g, ground[1]), blend(b, ground[2])]
}

/// A pixel that is the same: grey and pale.
pub(crate) fn pale([r, g, b]: [u8; 3]) -> [u8; 3] {
    let grey = (u16::from(r) * 3 + u16::from(g) * 6 + u16::from(b)) / 10;
    [(255 - (255 - grey) / PALER) as u8; 3]
}

/// What marks a pixel that differs.
pub(crate) fn mark() -> [u8; 3] {
    MARK
}

/// The first frames of both images beside each other, then what differs, as a PNG file.
///
/// # Errors
/// When the image cannot be written.
pub fn beside_as_png(pair: &ImagePair<'_>) -> io::Result<Vec<u8>> {
    let (before, after) = (&pair.before.frames[0], &pair.after.frames[0]);
    let height = before.height().max(after.height()) + 2 * GAP;
    let width = before.width() + 2 * after.width() + 4 * GAP;
    let mut drawn = Drawn::clear(width, height);
    for pixel in drawn.values.chunks_exact_mut(4) {
        pixel.copy_from_slice(&[PAPER[0], PAPER[1], PAPER[2], 0xff]);
    }
    let mut put = |image: &Pixels, left: usize, colour: &dyn Fn(usize, usize) -> [u8; 3]| {
        for y in 0..image.height() {
            for x in 0..image.width() {
                let [r, g, b] = colour(x, y);
                drawn.put((left + x, GAP + y), [r, g, b, 0xff]);
            }
        }
    };
    let plain = |image: &Pixels, x: usize, y: usize| on_ground(image.small_pixel(x, y), (x, y));
    put(before, GAP, &|x, y| plain(before, x, y));
    put(after, 2 * GAP + before.width(), &|x, y| plain(after, x, y));
    let difference = Difference::of(pair);
    put(after, 3 * GAP + before.width() + after.width(), &|x, y| {
        if difference.is_at(x, y) { MARK } else { pale(plain(after, x, y)) }
    });
    drawn.png()
}
