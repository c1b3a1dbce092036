//! What is known of an image besides its pixels: texts, times, density, what a camera noted, the colour profile.

use std::collections::BTreeMap;
use std::io::Read;

use flate2::read::ZlibDecoder;
use image::{ImageDecoder, ImageFormat};

/// What is known, by names.
pub type Facts = BTreeMap<String, String>;

/// Text of a chunk that is kept.
const MOST_TEXT: usize = 64 << 10;
/// Facts of one image that are kept.
const MOST_FACTS: usize = 1000;

/// What is known of an image.
pub(super) fn of(bytes: &[u8], format: ImageFormat, decoder: &mut impl ImageDecoder) -> Facts {
    let mut facts = Facts::new();
    match format {
        ImageFormat::Png => chunks(bytes, &mut facts),
        ImageFormat::Jpeg => segments(bytes, &mut facts),
        _ => {}
    }
    if let Ok(Some(profile)) = decoder.icc_profile() {
        let hash = blake3::hash(&profile).to_hex();
        facts.insert("colour profile".to_owned(), format!("{} bytes, hash {}", profile.len(), &hash[..8]));
    }
    if let Ok(Some(exif)) = decoder.exif_metadata() {
        of_camera(exif, &mut facts);
    }
    if let Ok(Some(xmp)) = decoder.xmp_metadata() {
        let hash = blake3::hash(&xmp).to_hex();
        facts.insert("XMP".to_owned(), format!("{} bytes, hash {}", xmp.len(), &hash[..8]));
    }
    facts
}

/// Adds a fact; what has the name of another gets a number.
fn add(facts: &mut Facts, name: &str, value: String) {
    if facts.len() >= MOST_FACTS {
        return;
    }
    let mut own = name.to_owned();
    let mut number = 2;
    while facts.contains_key(&own) {
        own = format!("{name} ({number})");
        number += 1;
    }
    facts.insert(own, value);
}

/// The fields of Exif (CIPA DC-008).
fn of_camera(exif: Vec<u8>, facts: &mut Facts) {
    let Ok(exif) = exif::Reader::new().read_raw(exif) else { return };
    for field in exif.fields().filter(|field| field.ifd_num == exif::In::PRIMARY) {
        let value: String = field.display_value().with_unit(&exif).to_string().chars().take(200).collect();
        add(facts, &format!("Exif {}", field.tag), value);
    }
}

/// Reads the chunks of a PNG that say something besides pixels (W3C, "Portable Network Graphics Specification", third edition).
fn chunks(bytes: &[u8], facts: &mut Facts) {
    const SIGNATURE: usize = 8;
    let mut at = SIGNATURE;
    while let Some(head) = bytes.get(at..at + 8) {
        let length = u32::from_be_bytes([head[0], head[1], head[2], head[3]]) as usize;
        let Some(data) = bytes.get(at + 8..at + 8 + length) else { return };
        match &head[4..8] {
            b"tEXt" => {
                if let Some((name, text)) = cut(data) {
                    add(facts, &format!("text {}", latin1(name)), latin1(text));
                }
            }
            b"zTXt" => {
                if let Some((name, [_, packed @ ..])) = cut(data) {
                    add(facts, &format!("text {}", latin1(name)), latin1(&unpacked(packed)));
                }
            }
            b"iTXt" => international(data, facts),
            b"pHYs" if length == 9 => {
                let number = |at: usize| u32::from_be_bytes([data[at], data[at + 1], data[at + 2], data[at + 3]]);
                let unit = if data[8] == 1 { "a metre" } else { "of no unit" };
                add(facts, "density", format!("{} × {} pixels {unit}", number(0), number(4)));
            }
            b"tIME" if length == 7 => {
                let year = u16::from_be_bytes([data[0], data[1]]);
                let [month, day, hour, minute, second] = [data[2], data[3], data[4], data[5], data[6]];
                let time = format!("{year}-{month:02}-{day:02} {hour:02}:{minute:02}:{second:02}");
                add(facts, "time of change", time);
            }
            b"gAMA" if length == 4 => {
                let gamma = u32::from_be_bytes([data[0], data[1], data[2], data[3]]);
                add(facts, "gamma", format!("{:.5}", f64::from(gamma) / 100_000.0));
            }
            b"IEND" => return,
            _ => {}
        }
        at += 12 + length;
    }
}

fn international(data: &[u8], facts: &mut Facts) {
    let Some((name, [is_packed, _, rest @ ..])) = cut(data) else { return };
    let Some((_, rest)) = cut(rest) else { return };
    let Some((_, text)) = cut(rest) else { return };
    let text = if *is_packed == 1 { unpacked(text) } else { text.to_vec() };
    let text = String::from_utf8_lossy(&text).chars().take(MOST_TEXT).collect();
    add(facts, &format!("text {}", latin1(name)), text);
}

/// What stands before and behind a zero byte.
fn cut(data: &[u8]) -> Option<(&[u8], &[u8])> {
    let at = memchr::memchr(0, data)?;
    Some((&data[..at], &data[at + 1..]))
}

fn unpacked(packed: &[u8]) -> Vec<u8> {
    let mut text = Vec::new();
    // What is damaged is kept as far as it goes.
    let _ = ZlibDecoder::new(packed).take(MOST_TEXT as u64).read_to_end(&mut text);
    text
}

fn latin1(text: &[u8]) -> String {
    text.iter().take(MOST_TEXT).map(|byte| char::from(*byte)).collect()
}

/// Reads the segments of a JPEG that say something besides pixels (ITU-T T.81, T.871).
fn segments(bytes: &[u8], facts: &mut Facts) {
    let mut at = 2;
    while let Some([0xff, marker, high, low]) = bytes.get(at..at + 4) {
        let length = usize::from(u16::from_be_bytes([*high, *low]));
        let Some(data) = bytes.get(at + 4..at + 2 + length) else { return };
        match marker {
            0xfe => add(facts, "comment", String::from_utf8_lossy(data).into_owned()),
            0xe0 if data.starts_with(b"JFIF\0") && data.len() >= 12 => {
                let unit = match data[7] {
                    1 => "an inch",
                    2 => "a centimetre",
                    _ => "of no unit",
                };
                let number = |at: usize| u16::from_be_bytes([data[at], data[at + 1]]);
                add(facts, "density", format!("{} × {} pixels {unit}", number(8), number(10)));
            }
            // From here on there are pixels.
            0xda => return,
            _ => {}
        }
        at += 2 + length;
    }
}
