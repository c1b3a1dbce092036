//! How far apart two colours are to the eye: their distance in OKLab (Björn Ottosson, "A perceptual color space for image processing", 2020),
//! times a hundred, so that black and white are 100 apart.

use std::sync::OnceLock;

/// How far apart two pixels are, from 0 to about 100. Pixels that are not opaque are looked at on black and on white: the greater distance holds.
pub fn distance(before: [u16; 4], after: [u16; 4]) -> f32 {
    if before == after {
        return 0.0;
    }
    let is_opaque = before[3] == u16::MAX && after[3] == u16::MAX;
    if is_opaque {
        return apart(lab(linear(before)), lab(linear(after)));
    }
    let on = |ground: f32| apart(lab(over(before, ground)), lab(over(after, ground)));
    on(0.0).max(on(1.0))
}

fn apart(one: [f32; 3], other: [f32; 3]) -> f32 {
    let squares: f32 = one.iter().zip(&other).map(|(a, b)| (a - b) * (a - b)).sum();
    squares.sqrt() * 100.0
}

/// A pixel in linear light.
fn linear(pixel: [u16; 4]) -> [f32; 3] {
    let table = table();
    [table[usize::from(pixel[0])], table[usize::from(pixel[1])], table[usize::from(pixel[2])]]
}

/// A pixel over a grey ground, as a screen blends it.
fn over(pixel: [u16; 4], ground: f32) -> [f32; 3] {
    let alpha = f32::from(pixel[3]) / f32::from(u16::MAX);
    let table = table();
    let channel = |value: u16| {
        let blended = f32::from(value) * alpha + ground * f32::from(u16::MAX) * (1.0 - alpha);
        table[(blended.round() as usize).min(usize::from(u16::MAX))]
    };
    [channel(pixel[0]), channel(pixel[1]), channel(pixel[2])]
}

/// Values of sRGB (IEC 61966-2-1) in linear light.
fn table() -> &'static [f32] {
    static TABLE: OnceLock<Vec<f32>> = OnceLock::new();
    TABLE.get_or_init(|| {
        let value = |value: u16| {
            let value = f32::from(value) / f32::from(u16::MAX);
            if value <= 0.04045 { value / 12.92 } else { ((value + 0.055) / 1.055).powf(2.4) }
        };
        (0..=u16::MAX).map(value).collect()
    })
}

fn lab([r, g, b]: [f32; 3]) -> [f32; 3] {
    let l = (0.412_221_46 * r + 0.536_332_55 * g + 0.051_445_995 * b).cbrt();
    let m = (0.211_903_5 * r + 0.680_699_5 * g + 0.107_396_96 * b).cbrt();
    let s = (0.088_302_46 * r + 0.281_718_85 * g + 0.629_978_7 * b).cbrt();
    [
        0.210_454_26 * l + 0.793_617_8 * m - 0.004_072_047 * s,
        1.977_998_5 * l - 2.428_592_2 * m + 0.450_593_7 * s,
        0.025_904_037 * l + 0.782_771_77 * m - 0.808_675_77 * s,
    ]
}

#[cfg(test)]
mod tests {
    use super::distance;

    const fn opaque(r: u16, g: u16, b: u16) -> [u16; 4] {
        [r * 257, g * 257, b * 257, u16::MAX]
    }

    #[test]
    fn black_and_white_are_a_hundred_apart_and_near_colours_are_near() {
        let far = distance(opaque(0, 0, 0), opaque(255, 255, 255));
        assert!((far - 100.0).abs() < 0.1, "{far}");
        assert!(distance(opaque(200, 10, 10), opaque(201, 10, 10)) < 0.5);
        assert!(distance(opaque(255, 0, 0), opaque(0, 0, 255)) > 40.0);
    }

    #[test]
    fn opacity_counts_and_what_nobody_sees_does_not() {
        let clear = |r| [r, 0, 0, 0];
        assert!(distance(clear(0), clear(u16::MAX)) < 1e-3);
        assert!(
            (distance(clear(0), opaque(0, 0, 0)) - 100.0).abs() < 0.1,
            "on white, this is black where there was white"
        );
    }
}
