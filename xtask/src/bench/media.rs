//! Images and bytes.

use std::fs::File;
use std::hint::black_box;
use std::io::{BufWriter, Write};
use std::path::{Path, PathBuf};
use std::time::Instant;

use anyhow::{Result, anyhow};
use image::{Rgb, RgbImage};
use tideline_core::internal::kinds::image::read_image;

use super::timing::{Run, best, shell};
use super::{Bench, row};

/// Bytes that look random and are always the same.
struct Noise(u64);

impl Noise {
    fn next(&mut self) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0
    }
}

/// Two images of a machine's disk: a third of each is zeros. The second has some edits, and the third a few bytes more in its middle.
fn disks(folder: &Path, bytes: usize) -> Result<[PathBuf; 3]> {
    const BLOCK: usize = 64 << 10;
    let paths = ["before.img", "after.img", "shifted.img"].map(|name| folder.join(name));
    for (which, path) in paths.iter().enumerate() {
        let mut out = BufWriter::with_capacity(1 << 20, File::create(path)?);
        let mut noise = Noise(0x7469_6465);
        for block in 0..bytes / BLOCK {
            let mut contents = vec![0_u8; BLOCK];
            if block % 3 != 0 {
                contents.chunks_exact_mut(8).for_each(|chunk| chunk.copy_from_slice(&noise.next().to_le_bytes()));
            }
            if which == 1 && block % 31 == 7 {
                contents[block % BLOCK] ^= 0x55;
            }
            if which == 2 && block == bytes / BLOCK / 2 {
                out.write_all(b"a few bytes more")?;
            }
            out.write_all(&contents)?;
        }
        out.flush()?;
    }
    Ok(paths)
}

/// Two images with noise as a camera has it: the second with some boxes painted, and the third shifted.
fn photos(folder: &Path, width: u32, height: u32) -> Result<[PathBuf; 3]> {
    let paths = ["before.png", "after.png", "moved.png"].map(|name| folder.join(name));
    let mut noise = Noise(0x6d65_7272);
    let photo = RgbImage::from_fn(width, height, |x, y| {
        let grain = noise.next();
        let tone = |base: u32, bits: u64| (base % 200) as u8 + (bits % 24) as u8;
        Rgb([tone(x / 40, grain), tone(y / 30, grain >> 8), tone((x + y) / 50, grain >> 16)])
    });
    let mut painted = photo.clone();
    for at in 0..20 {
        for (x, y) in (0..60).flat_map(|x| (0..40).map(move |y| (x, y))) {
            let place = (at * (width - 60) / 20 + x, (at * 7 % 20) * (height - 40) / 20 + y);
            painted.put_pixel(place.0, place.1, Rgb([255, 40, 40]));
        }
    }
    let moved = RgbImage::from_fn(width, height, |x, y| {
        *photo.get_pixel_checked(x.wrapping_sub(17), y + 9).unwrap_or(&Rgb([0, 0, 0]))
    });
    for (path, image) in paths.iter().zip([&photo, &painted, &moved]) {
        image.save(path)?;
    }
    Ok(paths)
}

impl Bench {
    pub(super) fn disks(&self) -> Result<()> {
        let [before, after, shifted] = disks(&self.folder, 2_000_000_000 / self.scale)?;
        let reference = shell("cat \"$0\" \"$1\" >/dev/null", &before, &after);
        let times = best(3, &[self.compare(&before, &after), self.compare(&before, &shifted), reference])?;
        let ratio = times[0].seconds / times[2].seconds;
        row("two disk images of 2 GB, to reading them", times[0].seconds, times[2].seconds, ratio, "1.0", ratio <= 1.0);
        let ratio = times[1].seconds / times[2].seconds;
        row("  the same, 16 bytes put into the middle", times[1].seconds, times[2].seconds, ratio, "-", true);
        Ok(())
    }

    pub(super) fn images(&self) -> Result<()> {
        let side = if self.scale > 1 { (2048, 1536) } else { (8192, 6144) };
        let [before, after, moved] = photos(&self.folder, side.0, side.1)?;
        let runs = [&after, &moved]
            .map(|other| Run::new(&[&self.program, &before.display().to_string(), &other.display().to_string()]));
        let times = best(3, &runs)?;
        let mut reference = f64::INFINITY;
        for _ in 0..2 {
            let files = [std::fs::read(&before)?, std::fs::read(&after)?];
            let started = Instant::now();
            let decoded = files
                .iter()
                .map(|file| read_image(file).map_err(|why| anyhow!(why.reason)))
                .collect::<Result<Vec<_>>>()?;
            reference = reference.min(started.elapsed().as_secs_f64());
            black_box(decoded);
        }
        let ratio = times[0].seconds / reference;
        row("two images of 50 megapixels, to decoding", times[0].seconds, reference, ratio, "1.5", ratio <= 1.5);
        let ratio = times[1].seconds / reference;
        row("  the same, one shifted", times[1].seconds, reference, ratio, "1.5", ratio <= 1.5);
        Ok(())
    }
}
