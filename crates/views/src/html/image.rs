//! Images: both beside each other, one over the other, or only what differs, with zoom.

use std::io::{self, Write};

use askama::Template;
use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use tideline_core::internal::kinds::image::Picture;

use super::items::{address, rendered, say};
use super::rows::form_word;
use super::streamed::Streamed;
use crate::items::{ImageView, ItemView};
use crate::marks::Marks;
use crate::pictures::{Difference, Drawn};
use crate::report::Shape;
use crate::shown::shown_name;

/// A file of more bytes is not put into a page as it is.
const LARGEST_FILE: usize = 16 << 20;
/// Images with more pixels are not put into a page.
const MOST_PIXELS: usize = 40_000_000;

#[derive(Template)]
#[template(path = "image.html")]
struct Images {
    labels: (String, String),
    before: Shown,
    after: Shown,
    mask: String,
    left_out: bool,
    regions: Vec<Region>,
}

struct Shown {
    source: String,
    width: usize,
    height: usize,
}

struct Region {
    id: String,
    number: usize,
    form: &'static str,
    mark: &'static str,
    what: String,
    much: String,
    /// Where it is in the image after, or in the one before where it is not there.
    x: usize,
    y: usize,
    width: usize,
    height: usize,
}

/// Writes two images.
pub(super) fn write_image(view: &ImageView<'_>, id: &str, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    let mut body = |out: &mut dyn Write| writeln!(out, "{}", rendered(&images(view, id, shape)?));
    say(view, shape, Streamed::new(&mut body), out)
}

fn images(view: &ImageView<'_>, id: &str, shape: &Shape) -> io::Result<Images> {
    let pair = view.pair;
    let pixels = |picture: &Picture| picture.width() * picture.height();
    let left_out = pixels(&pair.before) + pixels(&pair.after) > MOST_PIXELS;
    let (before, after, mask) = if left_out {
        (String::new(), String::new(), String::new())
    } else {
        let mask = Difference::of(pair).mask().png()?;
        (source(pair.files.0, &pair.before)?, source(pair.files.1, &pair.after)?, data("image/png", &mask))
    };
    let region = |change: &tideline_core::internal::model::image::RegionChange| {
        let area = change.after.or(change.before).unwrap_or_default();
        Region {
            id: address(id, change.number),
            number: change.number,
            form: form_word(change.form),
            mark: Marks::of(false).of_form(change.form),
            what: view.what(change),
            much: ImageView::how_much(change),
            x: area.x,
            y: area.y,
            width: area.width,
            height: area.height,
        }
    };
    let shown = |source: String, picture: &Picture| Shown { source, width: picture.width(), height: picture.height() };
    let labels = view.labels();
    Ok(Images {
        labels: (shown_name(&labels.before, false), shown_name(&labels.after, false)),
        before: shown(before, &pair.before),
        after: shown(after, &pair.after),
        mask,
        left_out,
        regions: pair.found.changes.iter().take(shape.changes_shown()).map(region).collect(),
    })
}

/// The address of an image in the page itself: the file, where a browser shows its format, else its first frame.
fn source(file: &[u8], picture: &Picture) -> io::Result<String> {
    let name = match picture.format {
        "PNG" => "image/png",
        "JPEG" => "image/jpeg",
        "GIF" => "image/gif",
        "BMP" => "image/bmp",
        "WebP" => "image/webp",
        _ => "",
    };
    if !name.is_empty() && file.len() <= LARGEST_FILE {
        return Ok(data(name, file));
    }
    Ok(data("image/png", &Drawn::copy(&picture.frames[0]).png()?))
}

fn data(name: &str, bytes: &[u8]) -> String {
    format!("data:{name};base64,{}", BASE64_STANDARD.encode(bytes))
}
