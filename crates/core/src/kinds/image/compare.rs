//! Two images compared.

use std::borrow::Cow;
use std::collections::BTreeSet;
use std::sync::Arc;

use super::causes::{ENCODING, METADATA, SCALING, UNSEEN};
use super::decode::Picture;
use super::overlap::{Counting, Overlap, compare_overlap};
use super::pixels::Pixels;
use super::regions::{Found, regions, tile_side};
use super::relation::{Laid, SCALING_DISTANCE, lay};
use crate::internal::kinds::kind_options::KindOptions;
use crate::internal::model::image::{Area, ImageAttribute, ImageChangeKind, ImageComparison, RegionChange, Relation};
use crate::internal::model::{Form, Weight};
use crate::internal::rules::{Account, Counted, Effect};

/// Two images, and what differs.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct ImagePair<'b> {
    /// The image before.
    pub before: Arc<Picture>,
    /// The image after.
    pub after: Arc<Picture>,
    /// The files that they were read from.
    pub files: (&'b [u8], &'b [u8]),
    /// The first frame before, laid over the one after.
    pub placed: Arc<Placed>,
    /// The distance up to which colours do not count.
    pub tolerated: f32,
    /// What differs.
    pub found: ImageComparison,
}

/// Where an image before lies over the one after.
#[derive(Clone, Debug, Default)]
pub struct Placed {
    /// The image before as it was compared, where it was turned; else it is as it was.
    pub turned: Option<Pixels>,
    /// Where its first pixel is in the image after.
    pub offset: (i64, i64),
    /// How large a pixel of each image is, in pixels of the smaller one, where one was scaled.
    pub scale: Option<((f64, f64), (f64, f64))>,
}

/// Compares two images.
pub(in crate::internal::kinds) fn compare_images<'b>(
    before: Picture,
    after: Picture,
    files: (&'b [u8], &'b [u8]),
    how: &KindOptions,
) -> ImagePair<'b> {
    let mut comparing = Comparing { tolerance: how.colour_tolerance(), ..Comparing::default() };
    let frames = before.frames.len().min(after.frames.len());
    let is_still = before.frames.len() == 1 && after.frames.len() == 1;
    let mut placed = Placed::default();
    for frame in 0..frames {
        let (old, new) = of_one_depth(&before.frames[frame], &after.frames[frame]);
        let laid = if is_still { lay(&old, &new) } else { Laid::unmoved(&old, &new) };
        comparing.frame(frame, &laid, (&old, &new));
        if frame == 0 {
            placed = Placed {
                turned: matches!(laid.relation, Some(Relation::Turned(_))).then(|| laid.before.into_owned()),
                offset: laid.offset,
                scale: matches!(laid.relation, Some(Relation::Scaled)).then_some(laid.scale),
            };
        }
    }
    comparing.other_frames(&before, &after, frames);
    let tolerance = how.tolerance.as_ref().map(|tolerance| tolerance.written().to_owned());
    let tolerated = comparing.tolerance.unwrap_or(0.0);
    let found = comparing.found(attributes(&before, &after), tolerance.as_deref());
    ImagePair { before: Arc::new(before), after: Arc::new(after), files, placed: Arc::new(placed), tolerated, found }
}

/// Two frames with as many bits a channel.
fn of_one_depth<'p>(before: &'p Pixels, after: &'p Pixels) -> (Cow<'p, Pixels>, Cow<'p, Pixels>) {
    if before.is_deep() == after.is_deep() {
        return (Cow::Borrowed(before), Cow::Borrowed(after));
    }
    (before.deep(), after.deep())
}

/// A comparison in the making.
#[derive(Default)]
struct Comparing {
    tolerance: Option<f32>,
    changes: Vec<RegionChange>,
    compared: usize,
    tolerated: usize,
    scaled: usize,
    unseen: usize,
}

impl Comparing {
    fn frame(&mut self, frame: usize, laid: &Laid<'_>, originals: (&Pixels, &Pixels)) {
        let (before, after) = (&*laid.before, &*laid.after);
        let size = |image: &Pixels| (image.width(), image.height());
        let overlap = Overlap::of(size(before), size(after), laid.offset);
        if let Some(relation) = laid.relation {
            self.whole(frame, relation, originals);
        }
        let scaling = matches!(laid.relation, Some(Relation::Scaled)).then_some(SCALING_DISTANCE);
        let side = tile_side(overlap.width, overlap.height);
        let counting = Counting { tolerance: self.tolerance, scaling };
        let differing = compare_overlap(before, after, &overlap, (side, counting));
        self.compared += overlap.pixels();
        self.tolerated += differing.tolerated;
        self.scaled += differing.scaled;
        self.unseen += differing.unseen;
        for region in regions(&differing.tiles, side) {
            self.region(frame, &region, (&overlap, laid));
        }
        // Of an image that was shifted, cropped or extended, what is beside the overlap is told by that.
        if laid.relation.is_none() {
            for (form, area) in beside(size(before), &overlap, Form::Gone) {
                self.one_sided(frame, form, area);
            }
            for (form, area) in beside(size(after), &overlap, Form::New) {
                self.one_sided(frame, form, area);
            }
        }
    }

    fn push(&mut self, mut change: RegionChange) {
        change.number = self.changes.len() + 1;
        self.changes.push(change);
    }

    fn whole(&mut self, frame: usize, relation: Relation, (before, after): (&Pixels, &Pixels)) {
        let all = |image: &Pixels| Area { x: 0, y: 0, width: image.width(), height: image.height() };
        self.push(RegionChange {
            kind: ImageChangeKind::Whole(relation),
            before: Some(all(before)),
            after: Some(all(after)),
            pixels: after.width() * after.height(),
            ..edited(frame)
        });
    }

    fn region(&mut self, frame: usize, region: &Found, (overlap, laid): (&Overlap, &Laid<'_>)) {
        let area = |(x, y): (usize, usize), scale: (f64, f64)| {
            let along = |start: usize, length: usize, scale: f64| {
                let first = (start as f64 * scale).floor() as usize;
                (first, (((start + length) as f64 * scale).ceil() as usize).saturating_sub(first))
            };
            let (x, width) = along(x + region.area.x, region.area.width, scale.0);
            let (y, height) = along(y + region.area.y, region.area.height, scale.1);
            Area { x, y, width, height }
        };
        self.push(RegionChange {
            before: Some(area(overlap.before, laid.scale.0)),
            after: Some(area(overlap.after, laid.scale.1)),
            pixels: region.pixels,
            mean: region.mean(),
            largest: region.largest,
            ..edited(frame)
        });
    }

    fn one_sided(&mut self, frame: usize, form: Form, area: Area) {
        let (before, after) = if form == Form::Gone { (Some(area), None) } else { (None, Some(area)) };
        self.push(RegionChange { form, before, after, pixels: area.width * area.height, ..edited(frame) });
    }

    /// Frames that one side alone has.
    fn other_frames(&mut self, before: &Picture, after: &Picture, both: usize) {
        let all = |image: &Pixels| Area { x: 0, y: 0, width: image.width(), height: image.height() };
        for (at, frame) in before.frames.iter().enumerate().skip(both) {
            self.one_sided(at, Form::Gone, all(frame));
        }
        for (at, frame) in after.frames.iter().enumerate().skip(both) {
            self.one_sided(at, Form::New, all(frame));
        }
        let is_frame = |change: &&mut RegionChange| change.frame >= both;
        self.changes.iter_mut().filter(is_frame).for_each(|change| change.kind = ImageChangeKind::Frame);
    }

    fn found(self, attributes: Vec<ImageAttribute>, tolerance: Option<&str>) -> ImageComparison {
        let mut account = Account::counting(Counted::Pixels);
        if let Some(tolerance) = tolerance {
            account.put(&format!("tolerance {tolerance}"), Effect::Mute, self.tolerated);
        }
        account.put(SCALING, Effect::Mute, self.scaled);
        account.put(UNSEEN, Effect::Mute, self.unseen);
        if self.changes.is_empty() && account.is_empty() {
            account = Account::counting(Counted::Places);
            let written = ["format", "colours"];
            let known = attributes.iter().filter(|attribute| !written.contains(&attribute.name.as_str())).count();
            account.put(METADATA, Effect::Mute, known);
            if known == 0 {
                account.put(ENCODING, Effect::Mute, 1);
            }
        }
        let pixels = self.changes.iter().map(|change| change.pixels).sum();
        ImageComparison { changes: self.changes, attributes, pixels, compared: self.compared, account }
    }
}

fn edited(frame: usize) -> RegionChange {
    RegionChange {
        number: 0,
        form: Form::Edited,
        weight: Weight::Counted,
        kind: ImageChangeKind::Pixels,
        frame,
        before: None,
        after: None,
        pixels: 0,
        mean: 0.0,
        largest: 0.0,
    }
}

/// What an image has to the right of the overlap and below it.
fn beside((width, height): (usize, usize), overlap: &Overlap, form: Form) -> Vec<(Form, Area)> {
    let right = Area { x: overlap.width, y: 0, width: width - overlap.width, height };
    let below = Area { x: 0, y: overlap.height, width: overlap.width, height: height - overlap.height };
    let all = [right, below].into_iter().filter(|area| area.width * area.height > 0);
    all.map(|area| (form, area)).collect()
}

/// What differs between two images besides their pixels.
fn attributes(before: &Picture, after: &Picture) -> Vec<ImageAttribute> {
    let mut all = Vec::new();
    let mut tell = |name: &str, before: Option<String>, after: Option<String>| {
        if before != after {
            all.push(ImageAttribute { name: name.to_owned(), before, after });
        }
    };
    tell("format", Some(before.format.to_owned()), Some(after.format.to_owned()));
    tell("colours", Some(before.colour.clone()), Some(after.colour.clone()));
    for (at, (old, new)) in before.delays.iter().zip(&after.delays).enumerate() {
        let told = |delay: &u32| Some(format!("{delay} ms"));
        tell(&format!("time of frame {}", at + 1), told(old), told(new));
    }
    let names: BTreeSet<&String> = before.facts.keys().chain(after.facts.keys()).collect();
    for name in names {
        tell(name, before.facts.get(name).cloned(), after.facts.get(name).cloned());
    }
    all
}
