//! How close the scripts are to the smallest there are, on pairs of real files.

use std::collections::HashMap;
use std::fs;
use std::path::PathBuf;
use std::time::Instant;

use anyhow::{Context, Result, ensure};
use tideline_core::internal::align::{Bounds, align};

/// Prints, for each pair of files, the size of the script and its ratio to the smallest.
pub(super) fn print(files: &[PathBuf]) -> Result<()> {
    ensure!(files.len().is_multiple_of(2), "name two files for each pair");
    println!("{:<44} {:>9} {:>9} {:>9} {:>7}", "pair", "lines", "script", "smallest", "ratio");
    for pair in files.chunks(2) {
        let read = |path: &PathBuf| fs::read(path).with_context(|| format!("cannot read {}", path.display()));
        let (before, after) = (read(&pair[0])?, read(&pair[1])?);
        let started = Instant::now();
        let edits = align(&before, &after, &Bounds::default());
        let took = started.elapsed();
        let size: usize = edits.iter().map(|edit| edit.before.lines.len() + edit.after.lines.len()).sum();
        let (b, a) = (lines(&before), lines(&after));
        let smallest = smallest(&b, &a);
        let name = pair[1].file_name().unwrap_or_default().to_string_lossy().into_owned();
        let ratio = size as f64 / smallest.max(1) as f64;
        println!("{name:<44} {:>9} {size:>9} {smallest:>9} {ratio:>7.4}   in {took:.2?}", b.len() + a.len());
    }
    Ok(())
}

fn lines(text: &[u8]) -> Vec<&[u8]> {
    text.split_inclusive(|&byte| byte == b'\n').collect()
}

/// The true smallest size, by going forward with no bound (E. W. Myers, Algorithmica 1, 1986, section 2). It shares no code
/// with the alignment.
fn smallest(before: &[&[u8]], after: &[&[u8]]) -> usize {
    let mut numbers = HashMap::new();
    let mut number = |lines: &[&[u8]]| -> Vec<usize> {
        lines
            .iter()
            .map(|line| {
                let next = numbers.len();
                *numbers.entry(line.to_vec()).or_insert(next)
            })
            .collect()
    };
    let (before, after) = (number(before), number(after));
    let most = before.len() + after.len();
    let shift = most + 1;
    let mut reached = vec![0_usize; 2 * most + 3];
    for size in 0..=most {
        for k in (0..=2 * size).step_by(2) {
            let slot = shift + k - size;
            let mut x = if k == 0 || (k != 2 * size && reached[slot - 1] < reached[slot + 1]) {
                reached[slot + 1]
            } else {
                reached[slot - 1] + 1
            };
            let mut y = (x + shift).wrapping_sub(slot);
            while x < before.len() && y < after.len() && before[x] == after[y] {
                (x, y) = (x + 1, y + 1);
            }
            reached[slot] = x;
            if x >= before.len() && y >= after.len() && y <= most {
                return size;
            }
        }
    }
    most
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The smallest size by a full table.
    fn by_table(before: &[&[u8]], after: &[&[u8]]) -> usize {
        let mut common = vec![vec![0; after.len() + 1]; before.len() + 1];
        for (i, line) in before.iter().enumerate() {
            for (j, other) in after.iter().enumerate() {
                common[i + 1][j + 1] =
                    if line == other { common[i][j] + 1 } else { common[i][j + 1].max(common[i + 1][j]) };
            }
        }
        before.len() + after.len() - 2 * common[before.len()][after.len()]
    }

    #[test]
    fn the_reference_is_the_smallest_there_is() {
        let texts =
            ["", "a\n", "a\nb\nc\n", "c\nb\na\n", "a\na\nb\na\n", "b\nx\na\ny\nb\nz", "a\nb\na\nb\na\nb\n", "z\n"];
        for before in texts {
            for after in texts {
                let (b, a) = (lines(before.as_bytes()), lines(after.as_bytes()));
                assert_eq!(smallest(&b, &a), by_table(&b, &a), "{before:?} to {after:?}");
            }
        }
    }
}
