//! Whether one image is the other as a whole: shifted, cropped, extended, scaled, turned or mirrored.

use std::borrow::Cow;

use rayon::prelude::*;

use super::colour::distance;
use super::overlap::Overlap;
use super::pixels::Pixels;
use super::sampled::{places, share_alike, shift};
use super::turned::{TURNS, size, source, turned};
use crate::internal::model::image::{Area, Relation};

/// A smaller share of places that differ is no image that was shifted or turned as a whole.
const LEAST_DIFFERING: f64 = 0.01;
/// So much of both must be the same after it.
const LEAST_ALIKE: f64 = 0.9;
/// Distances that scaling alone makes.
pub(super) const SCALING_DISTANCE: f32 = 12.0;

/// Two images that can be laid over each other.
pub(super) struct Laid<'p> {
    pub(super) relation: Option<Relation>,
    /// Both as they are compared: turned or scaled.
    pub(super) before: Cow<'p, Pixels>,
    pub(super) after: Cow<'p, Pixels>,
    /// Where the first pixel before is in the image after.
    pub(super) offset: (i64, i64),
    /// How many pixels of each image one of those compared stands for, across and down.
    pub(super) scale: ((f64, f64), (f64, f64)),
}

impl<'p> Laid<'p> {
    /// Two images as they are.
    pub(super) fn unmoved(before: &'p Pixels, after: &'p Pixels) -> Self {
        Self::with(None, Cow::Borrowed(before), Cow::Borrowed(after), (0, 0))
    }

    fn with(relation: Option<Relation>, before: Cow<'p, Pixels>, after: Cow<'p, Pixels>, offset: (i64, i64)) -> Self {
        Self { relation, before, after, offset, scale: ((1.0, 1.0), (1.0, 1.0)) }
    }
}

fn size_of(image: &Pixels) -> (usize, usize) {
    (image.width(), image.height())
}

/// How two images are laid over each other.
pub(super) fn lay<'p>(before: &'p Pixels, after: &'p Pixels) -> Laid<'p> {
    let (own, other) = (size_of(before), size_of(after));
    let differing = if own == other {
        let all = places(own.0, own.1).count();
        let found: Vec<(usize, usize)> =
            places(own.0, own.1).filter(|&(x, y)| before.pixel(x, y) != after.pixel(x, y)).collect();
        if (found.len() as f64) < all as f64 * LEAST_DIFFERING {
            return Laid::unmoved(before, after);
        }
        found
    } else {
        Vec::new()
    };
    if let Some(found) = turned_over(before, after, &differing) {
        return found;
    }
    if let Some(found) = shifted(before, after) {
        return found;
    }
    if own != other
        && let Some(found) = scaled(before, after)
    {
        return found;
    }
    Laid::unmoved(before, after)
}

/// The same turned or mirrored, if it is. Of images of one size, it must explain the places that differ.
fn turned_over<'p>(before: &'p Pixels, after: &'p Pixels, differing: &[(usize, usize)]) -> Option<Laid<'p>> {
    let (own, other) = (size_of(before), size_of(after));
    let share = |turn, places: &mut dyn Iterator<Item = (usize, usize)>| {
        let (mut same, mut all) = (0_usize, 0_usize);
        for (x, y) in places {
            let (from_x, from_y) = source(turn, own, (x, y));
            same += usize::from(before.pixel(from_x, from_y) == after.pixel(x, y));
            all += 1;
        }
        same as f64 / all.max(1) as f64
    };
    // An even ground looks alike however it is turned: the turn that explains most is the one.
    let of_turn = |turn| {
        let all = share(turn, &mut places(other.0, other.1));
        let own = if differing.is_empty() { all } else { share(turn, &mut differing.iter().copied()) };
        (turn, all.min(own))
    };
    let fitting = TURNS.into_iter().filter(|turn| size(*turn, own) == other).map(of_turn);
    let best = fitting.max_by(|one, two| one.1.total_cmp(&two.1));
    let (turn, _) = best.filter(|(_, share)| *share >= LEAST_ALIKE)?;
    // An image of one colour is not turned.
    if own != other && is_flat(before) {
        return None;
    }
    Some(Laid::with(Some(Relation::Turned(turn)), Cow::Owned(turned(before, turn)), Cow::Borrowed(after), (0, 0)))
}

fn is_flat(image: &Pixels) -> bool {
    let first = image.pixel(0, 0);
    places(image.width(), image.height()).all(|(x, y)| image.pixel(x, y) == first)
}

/// The same shifted, cropped or extended, if it is.
fn shifted<'p>(before: &'p Pixels, after: &'p Pixels) -> Option<Laid<'p>> {
    let (own, other) = (size_of(before), size_of(after));
    let offset = if own == other {
        shift(before, after, |x, y| before.pixel(x, y) != after.pixel(x, y))?
    } else if own.0 * own.1 <= other.0 * other.1 {
        shift(before, after, |_, _| true).or_else(|| corner(before, after))?
    } else {
        let (x, y) = shift(after, before, |_, _| true).or_else(|| corner(before, after))?;
        (-x, -y)
    };
    let overlap = Overlap::of(own, other, offset);
    let is_much = overlap.pixels() * 4 >= (own.0 * own.1).min(other.0 * other.1);
    if !is_much || share_alike(before, after, &overlap) < LEAST_ALIKE {
        return None;
    }
    let area = |(x, y): (usize, usize)| Area { x, y, width: overlap.width, height: overlap.height };
    let relation = if own == other {
        Relation::Shifted(offset.0, offset.1)
    } else if (overlap.width, overlap.height) == other {
        Relation::Cropped(area(overlap.before))
    } else if (overlap.width, overlap.height) == own {
        Relation::Extended(area(overlap.after))
    } else {
        Relation::Shifted(offset.0, offset.1)
    };
    Some(Laid::with(Some(relation), Cow::Borrowed(before), Cow::Borrowed(after), offset))
}

/// No shift at all, if one image is a corner of the other.
fn corner(before: &Pixels, after: &Pixels) -> Option<(i64, i64)> {
    let overlap = Overlap::of(size_of(before), size_of(after), (0, 0));
    let is_flat = is_flat(before) || is_flat(after);
    (!is_flat && share_alike(before, after, &overlap) >= LEAST_ALIKE).then_some((0, 0))
}

/// The same scaled, if it is: the larger image is made as small as the other.
fn scaled<'p>(before: &'p Pixels, after: &'p Pixels) -> Option<Laid<'p>> {
    let (own, other) = (size_of(before), size_of(after));
    let is_one_way = (own.0 <= other.0 && own.1 <= other.1) || (own.0 >= other.0 && own.1 >= other.1);
    if !is_one_way || own.0.min(own.1).min(other.0).min(other.1) < 4 {
        return None;
    }
    let ratio = |one: usize, other: usize| other as f64 / one as f64;
    // Nobody would say that an image was scaled which lost its proportions.
    let (across, down) = (ratio(own.0, other.0), ratio(own.1, other.1));
    if !(0.8..=1.25).contains(&(across / down)) {
        return None;
    }
    let smaller = (own.0.min(other.0), own.1.min(other.1));
    let fit = |image: &'p Pixels| {
        if size_of(image) == smaller { Cow::Borrowed(image) } else { Cow::Owned(reduced(image, smaller)) }
    };
    let (old, new) = (fit(before), fit(after));
    if !looks_alike(&old, &new) {
        return None;
    }
    let scale = |size: (usize, usize)| (ratio(smaller.0, size.0), ratio(smaller.1, size.1));
    Some(Laid {
        relation: Some(Relation::Scaled),
        before: old,
        after: new,
        offset: (0, 0),
        scale: (scale(own), scale(other)),
    })
}

/// An image with fewer pixels, each the average of those that it stands for.
fn reduced(image: &Pixels, (width, height): (usize, usize)) -> Pixels {
    let along = |at: usize, small: usize, large: usize| {
        let (start, end) = (at * large / small, ((at + 1) * large / small).max(at * large / small + 1));
        (start, end.min(large))
    };
    let rows: Vec<Vec<u8>> = (0..height)
        .into_par_iter()
        .map(|y| {
            let down = along(y, height, image.height());
            (0..width).flat_map(|x| image.average(along(x, width, image.width()), down)).collect()
        })
        .collect();
    Pixels::eight(width, height, rows.concat())
}

/// Whether two images of one size show the same: where one of them is not of its most usual colour, both are nearly of one.
fn looks_alike(before: &Pixels, after: &Pixels) -> bool {
    let ground = before.average((0, before.width()), (0, before.height())).map(|value| u16::from(value) * 257);
    let (mut near, mut all) = (0_usize, 0_usize);
    for (x, y) in places(before.width(), before.height()) {
        let (old, new) = (before.pixel(x, y), after.pixel(x, y));
        if distance(old, ground) < SCALING_DISTANCE && distance(new, ground) < SCALING_DISTANCE {
            continue;
        }
        near += usize::from(distance(old, new) <= SCALING_DISTANCE);
        all += 1;
    }
    all > 0 && near * 10 >= all * 8
}
