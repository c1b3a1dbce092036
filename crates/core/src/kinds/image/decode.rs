//! Images read from the bytes of a file.

use std::io::Cursor;

use image::codecs::gif::GifDecoder;
use image::codecs::png::PngDecoder;
use image::codecs::webp::WebPDecoder;
use image::metadata::Orientation;
use image::{
    AnimationDecoder, ColorType, DynamicImage, ExtendedColorType, Frames, ImageDecoder, ImageError, ImageFormat, Limits,
};

use super::facts::{self, Facts};
use super::pixels::Pixels;
use crate::internal::kinds::panics::caught;

/// Images with more pixels, all frames together, are not decoded.
pub const MOST_PIXELS: u64 = 1 << 27;
/// Memory that a decoder may take besides the pixels.
const MOST_MEMORY: u64 = 2 << 30;

/// An image as a viewer shows it.
#[derive(Clone, Debug)]
pub struct Picture {
    /// The name of its format.
    pub format: &'static str,
    /// The pixels of each frame; of an image that does not move, of the one.
    pub frames: Vec<Pixels>,
    /// How long each frame is shown, in milliseconds.
    pub delays: Vec<u32>,
    /// How colours are written in the file.
    pub colour: String,
    /// What else is known of it, by names.
    pub facts: Facts,
}

impl Picture {
    /// How many pixels it is wide.
    pub fn width(&self) -> usize {
        self.frames[0].width()
    }

    /// How many pixels it is high.
    pub fn height(&self) -> usize {
        self.frames[0].height()
    }
}

/// The format of an image that is read, by its first bytes.
fn format_of(bytes: &[u8]) -> Option<(ImageFormat, &'static str)> {
    let format = image::guess_format(bytes).ok()?;
    let name = match format {
        ImageFormat::Png => "PNG",
        ImageFormat::Jpeg => "JPEG",
        ImageFormat::Gif => "GIF",
        ImageFormat::Bmp => "BMP",
        ImageFormat::WebP => "WebP",
        ImageFormat::Tiff => "TIFF",
        ImageFormat::Ico => "ICO",
        _ => return None,
    };
    Some((format, name))
}

/// Whether contents are an image of a format that is read: its first bytes tell, whatever the file is called.
pub fn is_image(bytes: &[u8]) -> bool {
    // Two letters alone begin a bitmap; its header says how large it is.
    let is_bitmap = |bytes: &[u8]| bytes.len() > 30 && matches!(bytes[14], 12 | 40 | 52 | 56 | 64 | 108 | 124);
    format_of(bytes).is_some_and(|(format, _)| format != ImageFormat::Bmp || is_bitmap(bytes))
}

/// Why an image cannot be read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unreadable {
    /// The reason, in words.
    pub reason: String,
    /// Whether the image may be whole, in a form of its format that is not read.
    pub is_unsupported: bool,
}

impl From<String> for Unreadable {
    fn from(reason: String) -> Self {
        Self { reason, is_unsupported: false }
    }
}

impl From<ImageError> for Unreadable {
    fn from(error: ImageError) -> Self {
        Self { reason: error.to_string(), is_unsupported: matches!(error, ImageError::Unsupported(_)) }
    }
}

/// Reads an image.
///
/// # Errors
/// When it is none, damaged, larger than any that is read, or of a form that is not read.
pub fn read_image(bytes: &[u8]) -> Result<Picture, Unreadable> {
    // Decoders may panic on what nobody thought of.
    caught(|| decoded(bytes))
        .unwrap_or_else(|| Err(Unreadable { reason: "its decoder fails on it".to_owned(), is_unsupported: true }))
}

fn decoded(bytes: &[u8]) -> Result<Picture, Unreadable> {
    let (format, name) = format_of(bytes).ok_or_else(|| "this is no image of a format that is read".to_owned())?;
    let mut reader = image::ImageReader::with_format(Cursor::new(bytes), format);
    reader.limits(limits());
    let mut decoder = reader.into_decoder()?;
    let (width, height) = decoder.dimensions();
    within_bounds(width, height, 1)?;
    let colour = colour_in_words(decoder.original_color_type());
    let is_deep = is_deep(decoder.color_type());
    let orientation = decoder.orientation().unwrap_or(Orientation::NoTransforms);
    let facts = facts::of(bytes, format, &mut decoder);
    if let Some(frames) = animation(bytes, format, (width, height)) {
        let (frames, delays) = frames?;
        return Ok(Picture { format: name, frames, delays, colour, facts });
    }
    let mut decoded = DynamicImage::from_decoder(decoder)?;
    decoded.apply_orientation(orientation);
    let pixels = of_decoded(decoded, is_deep);
    Ok(Picture { format: name, frames: vec![pixels], delays: Vec::new(), colour, facts })
}

fn limits() -> Limits {
    let mut limits = Limits::default();
    limits.max_alloc = Some(MOST_MEMORY);
    limits
}

fn within_bounds(width: u32, height: u32, frames: u64) -> Result<(), String> {
    let pixels = u64::from(width) * u64::from(height);
    if pixels == 0 {
        return Err("it has no pixels".to_owned());
    }
    if pixels.saturating_mul(frames) > MOST_PIXELS {
        let most = MOST_PIXELS / 1_000_000;
        let of = if frames > 1 { format!(" in {frames} frames") } else { String::new() };
        return Err(format!(
            "it claims {width} × {height} pixels{of}; images of more than {most} million are not read"
        ));
    }
    Ok(())
}

fn of_decoded(decoded: DynamicImage, is_deep: bool) -> Pixels {
    let (width, height) = (decoded.width() as usize, decoded.height() as usize);
    if is_deep {
        return Pixels::sixteen(width, height, decoded.into_rgba16().into_raw());
    }
    Pixels::eight(width, height, decoded.into_rgba8().into_raw())
}

fn is_deep(colour: ColorType) -> bool {
    !matches!(colour, ColorType::L8 | ColorType::La8 | ColorType::Rgb8 | ColorType::Rgba8)
}

fn colour_in_words(colour: ExtendedColorType) -> String {
    let channels = match colour.channel_count() {
        1 => "grey",
        2 => "grey with opacity",
        3 => "RGB",
        _ => "RGB with opacity",
    };
    let bits = colour.bits_per_pixel() / u16::from(colour.channel_count().max(1));
    match bits {
        1 => format!("{channels}, 1 bit a channel"),
        bits => format!("{channels}, {bits} bits a channel"),
    }
}

/// The frames of an image that moves, and how long each is shown.
type Moving = Result<(Vec<Pixels>, Vec<u32>), Unreadable>;

/// Reads the frames of an animation; nothing where the image does not move.
fn animation(bytes: &[u8], format: ImageFormat, size: (u32, u32)) -> Option<Moving> {
    let input = || Cursor::new(bytes);
    match format {
        ImageFormat::Gif => {
            let mut decoder = GifDecoder::new(input()).ok()?;
            decoder.set_limits(limits()).ok()?;
            // The first frame of one that does not move is the image.
            let read = frames(decoder.into_frames(), size);
            match read {
                Ok((frames, _)) if frames.len() == 1 => None,
                read => Some(read),
            }
        }
        ImageFormat::WebP => {
            let decoder = WebPDecoder::new(input()).ok()?;
            decoder.has_animation().then(|| frames(decoder.into_frames(), size))
        }
        ImageFormat::Png => {
            let decoder = PngDecoder::with_limits(input(), limits()).ok()?;
            if !decoder.is_apng().ok()? {
                return None;
            }
            let moving = decoder.apng().map_err(Unreadable::from).and_then(|apng| frames(apng.into_frames(), size));
            // Frames of more than eight bits are not read; the image that stands for them is.
            Some(moving).filter(|moving| !matches!(moving, Err(why) if why.is_unsupported))
        }
        _ => None,
    }
}

fn frames(moving: Frames<'_>, (width, height): (u32, u32)) -> Moving {
    let (mut frames, mut delays) = (Vec::new(), Vec::new());
    for frame in moving {
        within_bounds(width, height, frames.len() as u64 + 1)?;
        let frame = frame?;
        let (numerator, denominator) = frame.delay().numer_denom_ms();
        delays.push(numerator / denominator.max(1));
        let buffer = frame.into_buffer();
        let (width, height) = (buffer.width() as usize, buffer.height() as usize);
        frames.push(Pixels::eight(width, height, buffer.into_raw()));
    }
    if frames.is_empty() {
        return Err("it has no frame".to_owned().into());
    }
    Ok((frames, delays))
}
