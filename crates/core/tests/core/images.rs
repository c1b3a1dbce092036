//! Images: decoded, laid over each other, and the regions that differ.

use std::io::Cursor;

use image::{DynamicImage, ImageFormat, Rgba, RgbaImage};
use proptest::prelude::*;
use tideline_core::internal::kinds::image::{ENCODING, METADATA, UNSEEN, distance};
use tideline_core::internal::kinds::{Comparison, ContentOptions, KindOptions, Tolerance, WantedKind, compare};
use tideline_core::internal::model::image::{Area, ImageChangeKind, ImageComparison, Relation, Turn};
use tideline_core::internal::model::{Form, Kind, Status, Unit};
use tideline_core::internal::rules::Effect;

/// A chart of a coast that nothing is symmetric in.
fn chart(width: u32, height: u32) -> RgbaImage {
    let mut state = 12_345_u32;
    let mut noise = move || {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        (state >> 16) as u8
    };
    RgbaImage::from_fn(width, height, |x, y| {
        let depth = ((x * x + 3 * y * y + x * y) / 37 % 200) as u8;
        Rgba([depth, noise() / 8 + 40, 200 - depth / 2, 255])
    })
}

fn encoded(image: &RgbaImage, format: ImageFormat) -> Vec<u8> {
    let mut bytes = Vec::new();
    let image = DynamicImage::ImageRgba8(image.clone());
    let image = if format == ImageFormat::Jpeg { DynamicImage::ImageRgb8(image.into_rgb8()) } else { image };
    image.write_to(&mut Cursor::new(&mut bytes), format).unwrap();
    bytes
}

fn png(image: &RgbaImage) -> Vec<u8> {
    encoded(image, ImageFormat::Png)
}

fn compared(before: &[u8], after: &[u8], options: &ContentOptions) -> (ImageComparison, Status) {
    let comparison = compare(b"chart.png", (before, after), options);
    let status = comparison.status(false);
    match comparison {
        Comparison::Image(images) => (images.found, status),
        other => panic!("these are images, not {:?}: {:?}", other.kind(), other.unparsed()),
    }
}

fn found(before: &RgbaImage, after: &RgbaImage) -> ImageComparison {
    compared(&png(before), &png(after), &ContentOptions::default()).0
}

fn tolerating(tolerance: &str) -> ContentOptions {
    ContentOptions::default().how(KindOptions::default().tolerance(Tolerance::parse(tolerance)))
}

fn painted(image: &RgbaImage, area: Area, colour: [u8; 4]) -> RgbaImage {
    let mut painted = image.clone();
    for y in area.y..area.y + area.height {
        for x in area.x..area.x + area.width {
            painted.put_pixel(x as u32, y as u32, Rgba(colour));
        }
    }
    painted
}

const fn area(x: usize, y: usize, width: usize, height: usize) -> Area {
    Area { x, y, width, height }
}

fn whole(found: &ImageComparison) -> Relation {
    match found.changes.as_slice() {
        [only] => match only.kind {
            ImageChangeKind::Whole(relation) => relation,
            kind => panic!("a change of the whole image, not {kind:?}"),
        },
        all => panic!("one change of the whole image, not {all:?}"),
    }
}

#[test]
fn regions_are_boxes_around_what_differs() {
    let before = chart(200, 120);
    let (buoy, light) = (area(20, 30, 12, 9), area(150, 80, 7, 20));
    let after = painted(&painted(&before, buoy, [255, 0, 0, 255]), light, [0, 255, 0, 255]);
    let found = found(&before, &after);
    let areas: Vec<Area> = found.changes.iter().map(|change| change.after.unwrap()).collect();
    assert_eq!(areas, [buoy, light]);
    assert!(found.changes.iter().all(|change| change.form == Form::Edited && change.before == change.after));
    assert_eq!(found.pixels, 12 * 9 + 7 * 20);
    assert_eq!((found.extent().unit, found.extent().size, found.extent().counted), (Unit::Pixels, found.pixels, 2));
    assert!(found.changes.iter().all(|change| change.largest >= change.mean && change.mean > 20.0));
}

#[test]
fn the_same_pixels_in_another_file_are_muted_with_the_reason() {
    let image = chart(60, 40);
    for (format, cause) in [(ImageFormat::Bmp, ENCODING), (ImageFormat::Tiff, ENCODING), (ImageFormat::WebP, ENCODING)]
    {
        let (found, status) = compared(&png(&image), &encoded(&image, format), &ContentOptions::default());
        assert_eq!(status, Status::Muted, "{format:?}");
        assert!(found.changes.is_empty());
        assert_eq!(found.account.by_rule(Effect::Mute), [(cause, 1)], "{format:?}");
        assert!(found.attributes.iter().any(|attribute| attribute.name == "format"));
    }
}

/// A PNG with a chunk of text put behind its header.
fn with_text(png: &[u8], name: &str, text: &str) -> Vec<u8> {
    let data = [name.as_bytes(), b"\0", text.as_bytes()].concat();
    let mut crc = flate2::Crc::new();
    crc.update(b"tEXt");
    crc.update(&data);
    let chunk = [&(data.len() as u32).to_be_bytes()[..], b"tEXt", &data, &crc.sum().to_be_bytes()].concat();
    let header = 8 + 25;
    [&png[..header], &chunk, &png[header..]].concat()
}

#[test]
fn what_is_known_besides_pixels_is_listed() {
    let image = png(&chart(30, 30));
    let (before, after) = (with_text(&image, "Author", "harbour office"), with_text(&image, "Author", "keeper"));
    let (found, status) = compared(&before, &after, &ContentOptions::default());
    assert_eq!(status, Status::Muted);
    assert_eq!(found.account.by_rule(Effect::Mute), [(METADATA, 1)]);
    let told: Vec<_> =
        found.attributes.iter().map(|attribute| (&*attribute.name, attribute.before.as_deref())).collect();
    assert_eq!(told, [("text Author", Some("harbour office"))]);
    assert_eq!(found.attributes[0].after.as_deref(), Some("keeper"));
}

#[test]
fn an_image_that_was_turned_is_told_as_that_and_compared_after_it() {
    let before = chart(90, 50);
    let turns: [(Turn, RgbaImage); 5] = [
        (Turn::Right, image::imageops::rotate90(&before)),
        (Turn::Half, image::imageops::rotate180(&before)),
        (Turn::Left, image::imageops::rotate270(&before)),
        (Turn::Mirrored, image::imageops::flip_horizontal(&before)),
        (Turn::Flipped, image::imageops::flip_vertical(&before)),
    ];
    for (turn, after) in turns {
        assert_eq!(whole(&found(&before, &after)), Relation::Turned(turn));
        let touched = painted(&after, area(5, 6, 4, 3), [255, 255, 255, 255]);
        let found = found(&before, &touched);
        assert_eq!(found.changes.len(), 2, "{turn:?}, and what was painted");
        assert_eq!(found.changes[1].after, Some(area(5, 6, 4, 3)));
    }
}

#[test]
fn an_image_that_was_shifted_cropped_or_extended_is_told_as_that() {
    let before = chart(160, 100);
    let mut shifted = RgbaImage::from_pixel(160, 100, Rgba([9, 9, 9, 255]));
    image::imageops::replace(&mut shifted, &before, 7, -4);
    assert_eq!(whole(&found(&before, &shifted)), Relation::Shifted(7, -4));
    let cropped = image::imageops::crop_imm(&before, 21, 13, 100, 70).to_image();
    assert_eq!(whole(&found(&before, &cropped)), Relation::Cropped(area(21, 13, 100, 70)));
    let mut extended = RgbaImage::from_pixel(220, 180, Rgba([250, 250, 250, 255]));
    image::imageops::replace(&mut extended, &before, 30, 40);
    assert_eq!(whole(&found(&before, &extended)), Relation::Extended(area(30, 40, 160, 100)));
    let corner = image::imageops::crop_imm(&before, 0, 0, 100, 70).to_image();
    assert_eq!(whole(&found(&before, &corner)), Relation::Cropped(area(0, 0, 100, 70)));
}

#[test]
fn an_image_that_was_scaled_is_told_as_that() {
    let before = RgbaImage::from_fn(200, 100, |x, y| {
        let is_land = (x / 40 + y / 25) % 2 == 0;
        Rgba(if is_land { [90, 140, 60, 255] } else { [120, 180, (200 + x / 10) as u8, 255] })
    });
    let after = image::imageops::resize(&before, 100, 50, image::imageops::FilterType::Triangle);
    let found = found(&before, &after);
    assert!(matches!(found.changes[0].kind, ImageChangeKind::Whole(Relation::Scaled)), "{:?}", found.changes);
    let other = RgbaImage::from_fn(100, 50, |x, y| Rgba([(x * 2) as u8, (y * 5) as u8, 0, 255]));
    assert!(self::found(&before, &other).changes.iter().all(|change| change.kind == ImageChangeKind::Pixels));
}

#[test]
fn what_one_image_alone_has_is_gone_or_new() {
    let before = RgbaImage::from_pixel(40, 30, Rgba([1, 2, 3, 255]));
    let after = RgbaImage::from_pixel(40, 36, Rgba([1, 2, 3, 255]));
    let there = found(&before, &after);
    assert_eq!(there.changes.len(), 1);
    assert_eq!((there.changes[0].form, there.changes[0].after), (Form::New, Some(area(0, 30, 40, 6))));
    let back = found(&after, &before);
    assert_eq!((back.changes[0].form, back.changes[0].before), (Form::Gone, Some(area(0, 30, 40, 6))));
}

#[test]
fn a_tolerance_is_a_distance_of_colours() {
    let before = RgbaImage::from_pixel(20, 20, Rgba([100, 100, 100, 255]));
    let near = painted(&before, area(2, 2, 5, 5), [103, 100, 100, 255]);
    let far = painted(&near, area(12, 12, 3, 3), [255, 100, 100, 255]);
    assert!(distance([100 * 257, 100 * 257, 100 * 257, u16::MAX], [103 * 257, 100 * 257, 100 * 257, u16::MAX]) < 2.0);
    let (found, status) = compared(&png(&before), &png(&near), &tolerating("2"));
    assert_eq!((status, found.changes.len()), (Status::Muted, 0));
    assert_eq!(found.account.by_rule(Effect::Mute), [("tolerance 2", 25)]);
    let (found, status) = compared(&png(&before), &png(&far), &tolerating("2%"));
    assert_eq!((status, found.changes.len(), found.pixels), (Status::Changed, 1, 9));
}

#[test]
fn opacity_counts_and_the_colour_of_what_is_transparent_does_not() {
    let before = RgbaImage::from_pixel(10, 10, Rgba([10, 20, 30, 255]));
    assert_eq!(found(&before, &painted(&before, area(1, 1, 2, 2), [10, 20, 30, 128])).pixels, 4);
    let clear = painted(&before, area(4, 4, 3, 3), [0, 0, 0, 0]);
    let other = painted(&before, area(4, 4, 3, 3), [200, 0, 0, 0]);
    let (found, status) = compared(&png(&clear), &png(&other), &ContentOptions::default());
    assert_eq!((status, found.account.by_rule(Effect::Mute)), (Status::Muted, vec![(UNSEEN, 9)]));
}

#[test]
fn sixteen_bits_are_compared_as_such() {
    let deep = |value: u16| {
        let pixels = image::ImageBuffer::from_pixel(8, 8, image::Rgb([value, 0, 0]));
        let mut bytes = Vec::new();
        DynamicImage::ImageRgb16(pixels).write_to(&mut Cursor::new(&mut bytes), ImageFormat::Png).unwrap();
        bytes
    };
    // Both are the same in eight bits.
    let (found, status) = compared(&deep(40_000), &deep(40_001), &ContentOptions::default());
    assert_eq!((status, found.pixels), (Status::Changed, 64));
}

#[test]
fn frames_of_an_animation_are_compared_one_by_one() {
    let gif = |frames: &[RgbaImage]| {
        let mut bytes = Vec::new();
        let mut encoder = image::codecs::gif::GifEncoder::new(&mut bytes);
        encoder.encode_frames(frames.iter().cloned().map(image::Frame::new)).unwrap();
        drop(encoder);
        bytes
    };
    let still = RgbaImage::from_pixel(30, 20, Rgba([255, 255, 255, 255]));
    let lit = painted(&still, area(4, 5, 3, 3), [0, 0, 0, 255]);
    let before = gif(&[still.clone(), lit.clone(), still.clone()]);
    let after = gif(&[still.clone(), still, lit.clone(), lit]);
    let (found, _) = compared(&before, &after, &ContentOptions::default());
    let told: Vec<_> = found.changes.iter().map(|change| (change.frame, change.form, change.kind)).collect();
    assert_eq!(
        told,
        [
            (1, Form::Edited, ImageChangeKind::Pixels),
            (2, Form::Edited, ImageChangeKind::Pixels),
            (3, Form::New, ImageChangeKind::Frame),
        ]
    );
}

#[test]
fn the_contents_decide_whatever_the_name_says() {
    let (before, after) = (png(&chart(20, 20)), encoded(&chart(20, 20), ImageFormat::Bmp));
    for name in [&b"chart.txt"[..], b"chart.csv", b"chart"] {
        let comparison = compare(name, (&before, &after), &ContentOptions::default());
        assert_eq!(comparison.kind(), Kind::Image);
    }
    let bytes = ContentOptions::default().kind(Some(WantedKind::As(Kind::Bytes)));
    assert_eq!(compare(b"chart.png", (&before, &after), &bytes).kind(), Kind::Bytes);
    // An image and something else are no two images.
    assert_eq!(compare(b"chart.png", (&before, b"\0\x01"), &ContentOptions::default()).kind(), Kind::Bytes);
}

#[test]
fn damaged_images_and_those_that_claim_too_much_are_told_with_the_reason() {
    let good = png(&chart(64, 64));
    let cut = &good[..good.len() / 2];
    // The header of the image says how large it is, and a checksum says that this is so.
    let mut bomb = good.clone();
    bomb[16..20].copy_from_slice(&60_000_u32.to_be_bytes());
    bomb[20..24].copy_from_slice(&60_000_u32.to_be_bytes());
    let mut crc = flate2::Crc::new();
    crc.update(&bomb[12..29]);
    bomb[29..33].copy_from_slice(&crc.sum().to_be_bytes());
    for (wrong, why) in [(cut, ""), (&bomb[..], "60000 × 60000")] {
        for (before, after, is_before) in [(wrong, &good[..], true), (&good[..], wrong, false)] {
            let comparison = compare(b"chart.png", (before, after), &ContentOptions::default());
            let unparsed = comparison.unparsed().expect("it cannot be read");
            assert!(unparsed.is_fatal && unparsed.kind == Kind::Image);
            assert_eq!(unparsed.is_before, is_before);
            assert!(unparsed.reason.contains(why) && !unparsed.reason.is_empty(), "{}", unparsed.reason);
        }
    }
    let told = ContentOptions::default().kind(Some(WantedKind::As(Kind::Image)));
    assert!(compare(b"a.txt", (b"text\n", b"other\n"), &told).unparsed().is_some_and(|unparsed| unparsed.is_fatal));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(120))]

    #[test]
    fn every_pixel_that_differs_is_in_exactly_one_region(
        boxes in prop::collection::vec((0..140_usize, 0..90_usize, 1..20_usize, 1..10_usize), 0..12)
    ) {
        let before = chart(160, 100);
        let mut after = before.clone();
        for (x, y, width, height) in boxes {
            after = painted(&after, area(x, y, width, height), [255, 255, 0, 255]);
        }
        let found = found(&before, &after);
        let mut inside = 0;
        for (x, y, pixel) in before.enumerate_pixels() {
            if pixel == after.get_pixel(x, y) {
                continue;
            }
            let (x, y) = (x as usize, y as usize);
            let holders = found.changes.iter().filter(|change| {
                let area = change.after.unwrap();
                (area.x..area.x + area.width).contains(&x) && (area.y..area.y + area.height).contains(&y)
            });
            prop_assert_eq!(holders.count(), 1, "the pixel at {}, {}", x, y);
            inside += 1;
        }
        prop_assert_eq!(inside, found.pixels);
    }

    #[test]
    fn exchanged_sides_tell_the_same_regions(
        (boxes, width, height) in (
            prop::collection::vec((0..60_usize, 0..40_usize, 1..20_usize, 1..10_usize), 0..8), 60..100_u32, 40..70_u32
        )
    ) {
        // Of one colour each, so that neither is a part of the other, nor turned.
        let before = RgbaImage::from_pixel(80, 50, Rgba([40, 90, 160, 255]));
        let mut after = RgbaImage::from_pixel(width, height, Rgba([40, 90, 160, 255]));
        for (x, y, wide, high) in boxes {
            let (x, y) = (x.min(width as usize - 1), y.min(height as usize - 1));
            let (wide, high) = (wide.min(width as usize - x), high.min(height as usize - y));
            after = painted(&after, area(x, y, wide, high), [250, 220, (x * 4) as u8, 255]);
        }
        let (there, back) = (found(&before, &after), found(&after, &before));
        let told = |found: &ImageComparison, is_mirrored: bool| {
            let mut told: Vec<_> = found.changes.iter().map(|change| {
                let sides = if is_mirrored { (change.after, change.before) } else { (change.before, change.after) };
                let form = match change.form {
                    Form::Gone if is_mirrored => Form::New,
                    Form::New if is_mirrored => Form::Gone,
                    form => form,
                };
                format!("{form:?} {sides:?} {} {:.3} {:.3}", change.pixels, change.mean, change.largest)
            }).collect();
            told.sort();
            told
        };
        prop_assert_eq!(told(&there, false), told(&back, true));
        prop_assert_eq!((there.pixels, there.compared), (back.pixels, back.compared));
    }

    #[test]
    fn a_known_shift_or_crop_comes_back_as_that(
        (x, y, width, height) in (0..60_u32, 0..40_u32, 70..100_u32, 40..60_u32)
    ) {
        let before = chart(160, 100);
        let cropped = image::imageops::crop_imm(&before, x, y, width, height).to_image();
        let part = area(x as usize, y as usize, width as usize, height as usize);
        prop_assert_eq!(whole(&found(&before, &cropped)), Relation::Cropped(part));
        prop_assert_eq!(whole(&found(&cropped, &before)), Relation::Extended(part));
        let (right, down) = (i64::from(x) - 30, i64::from(y) - 20);
        if (right, down) != (0, 0) {
            let mut shifted = RgbaImage::from_pixel(160, 100, Rgba([9, 9, 9, 255]));
            image::imageops::replace(&mut shifted, &before, right, down);
            prop_assert_eq!(whole(&found(&before, &shifted)), Relation::Shifted(right, down));
        }
    }

    #[test]
    fn no_bytes_break_a_reader(
        (format, at, byte, end) in (0..6_usize, any::<prop::sample::Index>(), any::<u8>(), any::<prop::sample::Index>())
    ) {
        let formats = [ImageFormat::Png, ImageFormat::Jpeg, ImageFormat::Gif, ImageFormat::Bmp, ImageFormat::Tiff, ImageFormat::Ico];
        let good = encoded(&chart(16, 16), formats[format]);
        let mut broken = good.clone();
        let place = at.index(broken.len());
        broken[place] = byte;
        broken.truncate(end.index(broken.len()) + 1);
        // Whatever comes of it, something is told.
        let comparison = compare(b"chart", (&good, &broken), &ContentOptions::default());
        prop_assert!(comparison.unparsed().is_some() || comparison.extent().unit != Unit::Lines || good == broken);
    }
}

#[test]
fn a_form_that_is_not_read_is_compared_by_its_bytes_and_that_is_said() {
    // A TIFF whose photometric interpretation is one that no decoder here knows: its tag is the only one of its kind.
    let tiff = encoded(&chart(12, 12), ImageFormat::Tiff);
    let tag = tiff.windows(8).position(|bytes| bytes == [6, 1, 3, 0, 1, 0, 0, 0]).expect("it has that tag");
    let mut other = tiff.clone();
    other[tag + 8] = 32;
    let comparison = compare(b"chart.tiff", (&tiff, &other), &ContentOptions::default());
    assert_eq!(comparison.kind(), Kind::Bytes);
    let unparsed = comparison.unparsed().expect("it is said");
    assert!(!unparsed.is_fatal && !unparsed.is_before && unparsed.kind == Kind::Image);
    assert_eq!(comparison.extent().counted, 1);
    let told = ContentOptions::default().kind(Some(WantedKind::As(Kind::Image)));
    assert!(compare(b"chart.tiff", (&tiff, &other), &told).unparsed().is_some_and(|unparsed| unparsed.is_fatal));
}
