//! The pixels of an image.

use std::borrow::Cow;

/// The pixels of an image, row by row: red, green, blue and opacity, not premultiplied.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Pixels {
    width: usize,
    height: usize,
    values: Values,
}

#[derive(Clone, Debug, PartialEq, Eq)]
enum Values {
    Eight(Vec<u8>),
    Sixteen(Vec<u16>),
}

/// Values of a pixel.
const CHANNELS: usize = 4;

impl Pixels {
    /// Pixels of 8 bits a channel.
    ///
    /// # Panics
    /// When there are not four values for each pixel.
    pub fn eight(width: usize, height: usize, values: Vec<u8>) -> Self {
        assert_eq!(values.len(), width * height * CHANNELS, "four values a pixel");
        Self { width, height, values: Values::Eight(values) }
    }

    /// Pixels of 16 bits a channel.
    ///
    /// # Panics
    /// When there are not four values for each pixel.
    pub fn sixteen(width: usize, height: usize, values: Vec<u16>) -> Self {
        assert_eq!(values.len(), width * height * CHANNELS, "four values a pixel");
        Self { width, height, values: Values::Sixteen(values) }
    }

    /// How many pixels it is wide.
    pub fn width(&self) -> usize {
        self.width
    }

    /// How many pixels it is high.
    pub fn height(&self) -> usize {
        self.height
    }

    /// Whether a channel has 16 bits.
    pub(super) fn is_deep(&self) -> bool {
        matches!(self.values, Values::Sixteen(_))
    }

    /// The same with 16 bits a channel.
    pub(super) fn deep(&self) -> Cow<'_, Self> {
        match &self.values {
            Values::Sixteen(_) => Cow::Borrowed(self),
            Values::Eight(values) => {
                let values = values.iter().map(|value| u16::from(*value) * 257).collect();
                Cow::Owned(Self { width: self.width, height: self.height, values: Values::Sixteen(values) })
            }
        }
    }

    /// A pixel, with 16 bits a channel.
    pub fn pixel(&self, x: usize, y: usize) -> [u16; CHANNELS] {
        let at = (y * self.width + x) * CHANNELS;
        match &self.values {
            Values::Eight(values) => std::array::from_fn(|channel| u16::from(values[at + channel]) * 257),
            Values::Sixteen(values) => std::array::from_fn(|channel| values[at + channel]),
        }
    }

    /// A pixel with 8 bits a channel.
    pub fn small_pixel(&self, x: usize, y: usize) -> [u8; CHANNELS] {
        let at = (y * self.width + x) * CHANNELS;
        match &self.values {
            Values::Eight(values) => std::array::from_fn(|channel| values[at + channel]),
            Values::Sixteen(values) => std::array::from_fn(|channel| (values[at + channel] >> 8) as u8),
        }
    }

    /// A number for each pixel of a part of a row; of two pixels of one depth that are not the same, never the same one.
    pub(super) fn keys(&self, (x, y): (usize, usize), pixels: usize, keys: &mut Vec<u64>) {
        let start = (y * self.width + x) * CHANNELS;
        let range = start..start + pixels * CHANNELS;
        keys.clear();
        match &self.values {
            Values::Eight(values) => {
                let key = |pixel: &[u8]| u64::from(u32::from_le_bytes([pixel[0], pixel[1], pixel[2], pixel[3]]));
                keys.extend(values[range].chunks_exact(CHANNELS).map(key));
            }
            Values::Sixteen(values) => {
                let key = |pixel: &[u16]| pixel.iter().fold(0, |key, value| (key << 16) | u64::from(*value));
                keys.extend(values[range].chunks_exact(CHANNELS).map(key));
            }
        }
    }

    /// Whether so many pixels from a place on are the same as those of another image from a place on. Both have as many bits.
    pub(super) fn same_run(&self, at: (usize, usize), other: &Self, there: (usize, usize), pixels: usize) -> bool {
        let start = |image: &Self, (x, y): (usize, usize)| (y * image.width + x) * CHANNELS;
        let (one, two) = (start(self, at), start(other, there));
        let count = pixels * CHANNELS;
        match (&self.values, &other.values) {
            (Values::Eight(b), Values::Eight(a)) => b[one..one + count] == a[two..two + count],
            (Values::Sixteen(b), Values::Sixteen(a)) => b[one..one + count] == a[two..two + count],
            _ => (0..pixels).all(|x| self.pixel(at.0 + x, at.1) == other.pixel(there.0 + x, there.1)),
        }
    }

    /// The same with each pixel taken from another place.
    pub(super) fn taken(&self, (width, height): (usize, usize), from: impl Fn(usize, usize) -> (usize, usize)) -> Self {
        fn gather<V: Copy + Default>(
            values: &[V],
            own: usize,
            (width, height): (usize, usize),
            from: impl Fn(usize, usize) -> (usize, usize),
        ) -> Vec<V> {
            let mut taken = Vec::with_capacity(width * height * CHANNELS);
            for y in 0..height {
                for x in 0..width {
                    let (x, y) = from(x, y);
                    let at = (y * own + x) * CHANNELS;
                    taken.extend_from_slice(&values[at..at + CHANNELS]);
                }
            }
            taken
        }
        let values = match &self.values {
            Values::Eight(values) => Values::Eight(gather(values, self.width, (width, height), from)),
            Values::Sixteen(values) => Values::Sixteen(gather(values, self.width, (width, height), from)),
        };
        Self { width, height, values }
    }

    /// The average colour of a part of it, as 8 bits a channel; of a large part, that of some of its pixels.
    pub fn average(&self, (left, right): (usize, usize), (top, bottom): (usize, usize)) -> [u8; CHANNELS] {
        const MOST_A_SIDE: usize = 8;
        let step = |from: usize, to: usize| ((to - from) / MOST_A_SIDE).max(1);
        let (mut sums, mut alpha, mut count) = ([0_u64; 3], 0_u64, 0_u64);
        for y in (top..bottom).step_by(step(top, bottom)) {
            for x in (left..right).step_by(step(left, right)) {
                let [r, g, b, a] = self.small_pixel(x, y).map(u64::from);
                for (sum, value) in sums.iter_mut().zip([r, g, b]) {
                    *sum += value * a;
                }
                (alpha, count) = (alpha + a, count + 1);
            }
        }
        let colour = sums.map(|sum| sum.checked_div(alpha).unwrap_or(0) as u8);
        [colour[0], colour[1], colour[2], (alpha / count.max(1)) as u8]
    }
}
