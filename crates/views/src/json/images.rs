//! Images as records.

use std::io;

use tideline_core::internal::kinds::image::Picture;
use tideline_core::internal::model::image::{Area, ImageChangeKind};

use super::image_records::{AreaRecord, ImageAttributeRecord, ImageRecord, ImageSide, PixelsRecord};
use super::items::{Take, give_cut};
use super::records::Record;
use super::value::text;
use crate::items::ImageView;

/// Gives a record for the images, and one for each region that differs; up to so many.
pub(super) fn give_regions(path: &[u8], view: &ImageView<'_>, most: usize, take: &mut Take<'_>) -> io::Result<()> {
    let (pair, found) = (view.pair, &view.pair.found);
    let attributes = found.attributes.iter().map(|attribute| ImageAttributeRecord {
        name: attribute.name.clone(),
        before: attribute.before.clone(),
        after: attribute.after.clone(),
    });
    take(Record::Image(ImageRecord {
        path: text(path),
        before: side(&pair.before),
        after: side(&pair.after),
        compared: found.compared,
        differing: found.changes.iter().filter(|change| change.largest > 0.0).map(|change| change.pixels).sum(),
        attributes: attributes.collect(),
    }))?;
    for change in found.changes.iter().take(most) {
        let is_whole = matches!(change.kind, ImageChangeKind::Whole(_));
        take(Record::Pixels(PixelsRecord {
            path: text(path),
            number: change.number,
            form: change.form,
            weight: change.weight,
            frame: change.frame + 1,
            whole: is_whole.then(|| view.what(change)),
            before: change.before.as_ref().map(area),
            after: change.after.as_ref().map(area),
            pixels: change.pixels,
            mean_distance: rounded(change.mean),
            largest_distance: rounded(change.largest),
        }))?;
    }
    give_cut(path, found.changes.len(), most, take)
}

/// Two places behind the point.
fn rounded(distance: f32) -> f32 {
    (distance * 100.0).round() / 100.0
}

fn side(picture: &Picture) -> ImageSide {
    ImageSide {
        width: picture.width(),
        height: picture.height(),
        frames: picture.frames.len(),
        format: picture.format.to_owned(),
        colours: picture.colour.clone(),
    }
}

fn area(area: &Area) -> AreaRecord {
    AreaRecord { x: area.x, y: area.y, width: area.width, height: area.height }
}
