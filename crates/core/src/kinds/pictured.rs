//! Images: which contents are one, and what differs in them.

use super::image::{ImagePair, Picture, compare_images, is_image, read_image};
use super::options::{ContentOptions, WantedKind};
use super::unparsed::Unparsed;
use crate::internal::model::Kind;

/// Whether two contents are compared as images, so that other bytes may be the same pixels.
fn are_images(path: &[u8], (before, after): (&[u8], &[u8]), options: &ContentOptions) -> bool {
    match options.reading_of(path).kind {
        _ if options.is_by_bytes() => false,
        Some(WantedKind::As(kind)) => kind == Kind::Image,
        Some(WantedKind::Auto) | None => is_image(before) && is_image(after),
    }
}

/// Whether two contents that are not the same bytes may be equal in what they show: the same pixels, the same document packed in another way.
pub fn may_show_the_same(
    (path_before, path): (&[u8], &[u8]),
    (before, after): (&[u8], &[u8]),
    options: &ContentOptions,
) -> bool {
    let is_document = |path: &[u8], bytes: &[u8]| {
        options.documents().is_some_and(|readers| readers.may_read(path, bytes, options.read_as(path)))
    };
    are_images(path, (before, after), options) || is_document(path_before, before) && is_document(path, after)
}

/// Compares two contents as images, if they are to be compared so: both are, or it was said that they are. Else why they cannot be.
pub(super) fn pictured<'b>(
    (path_before, path): (&[u8], &[u8]),
    (before, after): (&'b [u8], &'b [u8]),
    options: &ContentOptions,
) -> Option<Result<ImagePair<'b>, Unparsed>> {
    if !are_images(path, (before, after), options) {
        return None;
    }
    let read = |bytes: &[u8], is_before: bool| -> Result<Picture, Unparsed> {
        read_image(bytes).map_err(|why| {
            // A form that is not read is compared by its bytes, unless images were asked for.
            let is_fatal = !why.is_unsupported || options.is_as(Kind::Image);
            Unparsed { kind: Kind::Image, is_before, place: None, reason: why.reason, is_fatal }
        })
    };
    let (one, other) = rayon::join(|| read(before, true), || read(after, false));
    Some(one.and_then(|one| Ok((one, other?))).map(|(one, other)| {
        let how = options.how_of(if path.is_empty() { path_before } else { path });
        compare_images(one, other, (before, after), &how)
    }))
}
