//! Pixels that differ, grouped into regions: those that are near each other in one box.

use std::collections::HashMap;

use super::overlap::Tile;
use crate::internal::model::image::Area;

/// More regions tell a reader less: farther ones are grouped then.
const MOST: usize = 64;
/// The smallest and the largest tile, in pixels a side.
const TILES: (usize, usize) = (2, 32);
/// Tiles along the longer side of an image.
const ALONG: usize = 100;

/// A box around pixels that differ.
#[derive(Clone, Copy, Debug)]
pub(super) struct Found {
    /// Where it is, from where the images begin to overlap.
    pub(super) area: Area,
    pub(super) pixels: usize,
    sum: f64,
    measured: u32,
    pub(super) largest: f32,
}

impl Found {
    /// How far apart colours in it are on average.
    pub(super) fn mean(&self) -> f32 {
        (self.sum / f64::from(self.measured.max(1))) as f32
    }

    fn of(tile: &Tile) -> Self {
        let (columns, rows) = (tile.columns, tile.rows);
        let area = Area { x: columns.0, y: rows.0, width: columns.1 + 1 - columns.0, height: rows.1 + 1 - rows.0 };
        Self { area, pixels: tile.pixels, sum: tile.sum, measured: tile.measured, largest: tile.largest }
    }

    fn add(&mut self, other: &Self) {
        self.area = around(self.area, other.area);
        self.pixels += other.pixels;
        self.sum += other.sum;
        self.measured += other.measured;
        self.largest = self.largest.max(other.largest);
    }
}

/// The box around two others.
fn around(one: Area, other: Area) -> Area {
    let (x, y) = (one.x.min(other.x), one.y.min(other.y));
    let right = (one.x + one.width).max(other.x + other.width);
    let bottom = (one.y + one.height).max(other.y + other.height);
    Area { x, y, width: right - x, height: bottom - y }
}

fn touch(one: &Area, other: &Area, within: usize) -> bool {
    let near = |a: (usize, usize), b: (usize, usize)| a.0 <= b.0 + b.1 + within && b.0 <= a.0 + a.1 + within;
    near((one.x, one.width), (other.x, other.width)) && near((one.y, one.height), (other.y, other.height))
}

/// How many pixels a tile of an image of this size has along a side.
pub(super) fn tile_side(width: usize, height: usize) -> usize {
    (width.max(height) / ALONG).clamp(TILES.0, TILES.1)
}

/// The regions, from the upper left to the lower right.
pub(super) fn regions(tiles: &[((usize, usize), Tile)], side: usize) -> Vec<Found> {
    let mut reach = 1;
    let mut found = together(grouped(tiles, reach), side);
    while found.len() > MOST && reach < ALONG {
        reach *= 2;
        found = together(grouped(tiles, reach), side * reach);
    }
    found.sort_by_key(|region| (region.area.y, region.area.x));
    found
}

/// Tiles that are no farther from each other than `reach`, in one box each.
fn grouped(tiles: &[((usize, usize), Tile)], reach: usize) -> Vec<Found> {
    let mut left: HashMap<(usize, usize), &Tile> = tiles.iter().map(|(place, tile)| (*place, tile)).collect();
    let mut found = Vec::new();
    for (place, tile) in tiles {
        if left.remove(place).is_none() {
            continue;
        }
        let mut region = Found::of(tile);
        let mut waiting = vec![*place];
        while let Some((x, y)) = waiting.pop() {
            for near_y in y.saturating_sub(reach)..=y + reach {
                for near_x in x.saturating_sub(reach)..=x + reach {
                    if let Some(tile) = left.remove(&(near_x, near_y)) {
                        region.add(&Found::of(tile));
                        waiting.push((near_x, near_y));
                    }
                }
            }
        }
        found.push(region);
    }
    found
}

/// Boxes that overlap or nearly touch, as one.
fn together(mut found: Vec<Found>, within: usize) -> Vec<Found> {
    loop {
        let before = found.len();
        let mut merged: Vec<Found> = Vec::with_capacity(before);
        for region in found {
            match merged.iter_mut().find(|other| touch(&other.area, &region.area, within)) {
                Some(other) => other.add(&region),
                None => merged.push(region),
            }
        }
        found = merged;
        if found.len() == before {
            return found;
        }
    }
}
