//! The part that two images share, compared pixel by pixel.

use rayon::prelude::*;

use super::colour::distance;
use super::pixels::Pixels;
use crate::internal::align::work;

/// Of a tile in which all pixels that differ count, the distances of so many are measured.
const MEASURED: u32 = 256;

/// The part that two images share: where it begins in each, and its size.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Overlap {
    pub(super) before: (usize, usize),
    pub(super) after: (usize, usize),
    pub(super) width: usize,
    pub(super) height: usize,
}

impl Overlap {
    /// The part that two images share when the first pixel before is at `offset` in the image after.
    pub(super) fn of(before: (usize, usize), after: (usize, usize), offset: (i64, i64)) -> Self {
        let along = |before: usize, after: usize, offset: i64| {
            let start = offset.max(0);
            let end = (before as i64 + offset).min(after as i64).max(start);
            ((start - offset) as usize, start as usize, (end - start) as usize)
        };
        let (bx, ax, width) = along(before.0, after.0, offset.0);
        let (by, ay, height) = along(before.1, after.1, offset.1);
        Self { before: (bx, by), after: (ax, ay), width, height }
    }

    pub(super) fn pixels(&self) -> usize {
        self.width * self.height
    }
}

/// Which pixels that differ count.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Counting {
    /// Distances up to this one are tolerated.
    pub(super) tolerance: Option<f32>,
    /// Distances up to this one are what scaling does.
    pub(super) scaling: Option<f32>,
}

/// A square of pixels in which some differ and count.
#[derive(Clone, Copy, Debug)]
pub(super) struct Tile {
    /// The first and the last column and row with such a pixel, from where the images begin to overlap.
    pub(super) columns: (usize, usize),
    pub(super) rows: (usize, usize),
    pub(super) pixels: usize,
    pub(super) sum: f64,
    pub(super) measured: u32,
    pub(super) largest: f32,
}

/// What was found.
#[derive(Debug, Default)]
pub(super) struct Differing {
    /// Tiles in which pixels differ and count, by their column and row.
    pub(super) tiles: Vec<((usize, usize), Tile)>,
    /// Pixels that differ by no more than is tolerated.
    pub(super) tolerated: usize,
    /// Pixels that differ by no more than scaling does.
    pub(super) scaled: usize,
    /// Pixels that are transparent on both sides.
    pub(super) unseen: usize,
}

/// Compares the part that two images share, in tiles of so many pixels a side.
pub(super) fn compare_overlap(
    before: &Pixels,
    after: &Pixels,
    overlap: &Overlap,
    (side, counting): (usize, Counting),
) -> Differing {
    work::count(overlap.pixels());
    let bands: Vec<Differing> = (0..overlap.height.div_ceil(side))
        .into_par_iter()
        .map(|band| {
            let mut found = Differing::default();
            let mut tiles: Vec<Option<Tile>> = vec![None; overlap.width.div_ceil(side)];
            for y in band * side..((band + 1) * side).min(overlap.height) {
                compare_row((before, after, overlap), y, (side, counting), &mut tiles, &mut found);
            }
            let numbered = tiles.into_iter().enumerate();
            found.tiles = numbered.filter_map(|(column, tile)| Some(((column, band), tile?))).collect();
            found
        })
        .collect();
    let mut all = Differing::default();
    for band in bands {
        all.tiles.extend(band.tiles);
        all.tolerated += band.tolerated;
        all.scaled += band.scaled;
        all.unseen += band.unseen;
    }
    all
}

fn compare_row(
    (before, after, overlap): (&Pixels, &Pixels, &Overlap),
    y: usize,
    (side, counting): (usize, Counting),
    tiles: &mut [Option<Tile>],
    found: &mut Differing,
) {
    let at = |x: usize| ((overlap.before.0 + x, overlap.before.1 + y), (overlap.after.0 + x, overlap.after.1 + y));
    let same = |x: usize, pixels: usize| {
        let (one, other) = at(x);
        before.same_run(one, after, other, pixels)
    };
    if same(0, overlap.width) {
        return;
    }
    for (column, tile) in tiles.iter_mut().enumerate() {
        let (start, end) = (column * side, ((column + 1) * side).min(overlap.width));
        if same(start, end - start) {
            continue;
        }
        for x in start..end {
            let (one, other) = at(x);
            let (old, new) = (before.pixel(one.0, one.1), after.pixel(other.0, other.1));
            if old == new {
                continue;
            }
            if old[3] == 0 && new[3] == 0 {
                found.unseen += 1;
                continue;
            }
            let must_be_measured = counting.tolerance.is_some() || counting.scaling.is_some();
            let is_measured = must_be_measured || tile.as_ref().is_none_or(|tile| tile.measured < MEASURED);
            let apart = if is_measured { distance(old, new) } else { 0.0 };
            if counting.tolerance.is_some_and(|most| apart <= most) {
                found.tolerated += 1;
                continue;
            }
            if counting.scaling.is_some_and(|most| apart <= most) {
                found.scaled += 1;
                continue;
            }
            let tile = tile.get_or_insert(Tile {
                columns: (x, x),
                rows: (y, y),
                pixels: 0,
                sum: 0.0,
                measured: 0,
                largest: 0.0,
            });
            tile.columns = (tile.columns.0.min(x), tile.columns.1.max(x));
            tile.rows = (tile.rows.0.min(y), tile.rows.1.max(y));
            tile.pixels += 1;
            if is_measured {
                tile.sum += f64::from(apart);
                tile.measured += 1;
                tile.largest = tile.largest.max(apart);
            }
        }
    }
}
