//! The inputs of the benchmark: made by rule, the same in every run.

use std::fs::File;
use std::io::{BufWriter, Write};
use std::path::{Path, PathBuf};

use anyhow::Result;

type Pair = (PathBuf, PathBuf);

/// A small generator of numbers that look random (G. Marsaglia, "Xorshift RNGs", J. Stat. Soft. 8, 2003).
pub(super) struct Numbers(u64);

impl Numbers {
    pub(super) fn new(seed: u64) -> Self {
        Self(seed | 1)
    }

    pub(super) fn next(&mut self) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0
    }

    pub(super) fn below(&mut self, limit: usize) -> usize {
        (self.next() % limit as u64) as usize
    }
}

fn write(path: &Path, lines: impl Iterator<Item = String>) -> Result<()> {
    let mut out = BufWriter::new(File::create(path)?);
    for line in lines {
        out.write_all(line.as_bytes())?;
    }
    Ok(out.flush()?)
}

fn paths(folder: &Path, name: &str) -> Pair {
    (folder.join(format!("{name}.before")), folder.join(format!("{name}.after")))
}

/// Two files of a few lines.
pub(super) fn tiny(folder: &Path) -> Result<Pair> {
    let pair = paths(folder, "tiny");
    write(&pair.0, (0..20).map(|n| format!("level {n}\n")))?;
    write(&pair.1, (0..20).map(|n| format!("level {}\n", if n == 7 { 70 } else { n })))?;
    Ok(pair)
}

fn log_line(n: usize, numbers: &mut Numbers) -> String {
    const WORDS: [&str; 8] = ["gauge", "level", "sensor", "uplink", "battery", "retry", "poll", "store"];
    let (second, value) = (n / 9, numbers.below(10_000));
    format!(
        "2031-04-{:02} {:02}:{:02}:{:02}.{:03} {} {} value={value} seq={n}\n",
        1 + second / 86_400 % 28,
        second / 3600 % 24,
        second / 60 % 60,
        second % 60,
        numbers.below(1000),
        WORDS[n % 8],
        WORDS[n * 5 % 7],
    )
}

/// Two logs of about so many bytes, with so many edits scattered over the second.
pub(super) fn logs(folder: &Path, bytes: usize, edits: usize) -> Result<Pair> {
    let lines = bytes / log_line(1, &mut Numbers::new(1)).len();
    edited(folder, "logs", lines, edits)
}

/// A text of so many lines, and a copy with so many edits scattered over it.
pub(super) fn edited(folder: &Path, name: &str, lines: usize, edits: usize) -> Result<Pair> {
    let pair = paths(folder, name);
    let mut numbers = Numbers::new(42);
    write(&pair.0, (0..lines).map(|n| log_line(n, &mut numbers)))?;
    write_edited(&pair.1, (lines, edits), 7)?;
    Ok(pair)
}

/// A text of so many lines, and two copies with so many edits each, at different places.
pub(super) fn edited_twice(folder: &Path, lines: usize, edits: usize) -> Result<[PathBuf; 3]> {
    let (base, mine) = edited(folder, "merged", lines, edits)?;
    let theirs = folder.join("merged-theirs.log");
    write_edited(&theirs, (lines, edits), 11)?;
    Ok([base, mine, theirs])
}

/// Writes the text of [`edited`] with so many edits; a seed says where they are.
fn write_edited(path: &Path, (lines, edits): (usize, usize), seed: u64) -> Result<()> {
    let (mut numbers, mut places) = (Numbers::new(42), Numbers::new(seed));
    let every = lines / edits.max(1);
    let mut next = places.below(every);
    let changed = (0..lines).flat_map(|n| {
        let line = log_line(n, &mut numbers);
        if n != next {
            return vec![line];
        }
        next = (n / every + 1) * every + places.below(every);
        match places.below(3) {
            0 => Vec::new(),
            1 => vec![line, format!("inserted after {n}\n")],
            _ => vec![line.replace("value=", "value=-")],
        }
    });
    write(path, changed)
}

/// The log of [`logs`] twice, the second time half a day later, with so many edits scattered over it.
pub(super) fn clocks(folder: &Path, bytes: usize, edits: usize) -> Result<Pair> {
    let pair = logs(folder, bytes, edits)?;
    let later = folder.join("later.log");
    let text = std::fs::read_to_string(&pair.1)?;
    // The second figure of the hour is all that has to differ.
    let shifted = text.lines().map(|line| match line.as_bytes().get(12) {
        Some(figure) if line.starts_with("2031") => {
            let other = char::from(if *figure == b'9' { b'0' } else { figure + 1 });
            format!("{}{other}{}\n", &line[..12], &line[13..])
        }
        _ => format!("{line}\n"),
    });
    write(&later, shifted)?;
    Ok((pair.0, later))
}

/// Two files of so many lines of which no two are the same, made of random numbers and of words that all of them share.
pub(super) fn unrelated(folder: &Path, lines: usize) -> Result<Pair> {
    let pair = paths(folder, "unrelated");
    for (path, seed) in [(&pair.0, 11), (&pair.1, 13)] {
        let mut numbers = Numbers::new(seed);
        write(
            path,
            (0..lines).map(|_| {
                let (station, verb) = (WORDS[numbers.below(WORDS.len())], WORDS[numbers.below(WORDS.len())]);
                format!("{station} {verb} level {:016x} at {}\n", numbers.next(), numbers.below(1 << 30))
            }),
        )?;
    }
    Ok(pair)
}

const WORDS: [&str; 24] = [
    "mouth", "quay", "light", "reach", "sluice", "landing", "hythe", "skerry", "heron", "kelp", "cobble", "marsh",
    "read", "written", "checked", "missing", "late", "rising", "falling", "steady", "cleaned", "moved", "repaired",
    "silent",
];

/// One line of so many bytes on either side, with three edits.
pub(super) fn giant_line(folder: &Path, bytes: usize) -> Result<Pair> {
    let pair = paths(folder, "giant");
    let record =
        |n: usize| format!("{{\"gauge\":{n},\"name\":\"station {}\",\"level\":{}}},", n % 97, (n * 7919) % 1000);
    let records = bytes / record(100_000).len();
    let edited = |n: usize| match n {
        n if n == records / 7 => "{\"gauge\":0},".to_owned(),
        n if n == records / 2 => record(n).replace("station", "pier"),
        n if n == records - 3 => String::new(),
        n => record(n),
    };
    write(&pair.0, (0..records).map(record))?;
    write(&pair.1, (0..records).map(edited))?;
    Ok(pair)
}

/// A program of about so many bytes with comments, quoted text and numbers, and one with so many of its lines edited.
pub(super) fn source(folder: &Path, bytes: usize, edits: usize) -> Result<Pair> {
    let pair = (folder.join("before.rs"), folder.join("after.rs"));
    let line = |n: usize| match n % 5 {
        0 => format!("// Step {n} of the reading, with a \"quote\" in it.\n"),
        1 => format!("fn step_{n}(level: f64) -> f64 {{\n"),
        2 => format!("    let name = \"gauge {n} // not a comment\"; /* inside */\n"),
        3 => format!("    level * {}.{} + offset({n}, 'x')\n", n % 97, n % 13),
        _ => "}\n".to_owned(),
    };
    let lines = bytes / 43;
    let every = lines / edits;
    write(&pair.0, (0..lines).map(line))?;
    write(&pair.1, (0..lines).map(|n| if n % every == 3 { format!("edited {n}\n") } else { line(n) }))?;
    Ok(pair)
}

/// Text of so many words, wrapped at another width, with an edit in 5,000 words.
pub(super) fn wrapped(folder: &Path, words: usize) -> Result<Pair> {
    let pair = paths(folder, "wrapped");
    let mut numbers = Numbers::new(17);
    let words: Vec<String> = (0..words).map(|_| format!("w{}", numbers.below(5000))).collect();
    for (path, width, is_edited) in [(&pair.0, 11, false), (&pair.1, 13, true)] {
        write(
            path,
            words.iter().enumerate().map(|(at, word)| {
                let word = if is_edited && at % 5000 == 17 { "edited" } else { word };
                let gap = if at % width == 0 { "\n" } else { " " };
                format!("{word}{}", if at % 400 == 399 { "\n\n" } else { gap })
            }),
        )?;
    }
    Ok(pair)
}

/// Trees of so many files, of which each has a block that goes to the next one.
pub(super) fn moved_blocks(folder: &Path, files: usize) -> Result<Pair> {
    let pair = paths(folder, "blocks");
    let line = |file: usize, at: usize| format!("reading {at} of the gauge in file {file}\n");
    for (root, from) in [(&pair.0, 0), (&pair.1, 1)] {
        for file in 0..files {
            let inside = root.join((file / 100).to_string());
            std::fs::create_dir_all(&inside)?;
            let own = (0..40).map(|at| line(file, at));
            let block = (100..112).map(|at| line((file + files - from) % files, at));
            write(&inside.join(format!("{file}.txt")), own.chain(block))?;
        }
    }
    Ok(pair)
}

/// Trees of so many files with the same contents, all of them renamed.
pub(super) fn renamed(folder: &Path, files: usize) -> Result<Pair> {
    let pair = paths(folder, "renamed");
    for (root, name) in [(&pair.0, "spring"), (&pair.1, "autumn")] {
        std::fs::create_dir_all(root.join(name))?;
        for file in 0..files {
            write(
                &root.join(format!("{name}/{name}-{file}")),
                ["one\n", "two\n", "three\n"].into_iter().map(str::to_owned),
            )?;
        }
    }
    Ok(pair)
}

/// Pairs of single lines that are as hard as can be, with their names.
pub(super) fn hostile_lines(folder: &Path, bytes: usize) -> Result<Vec<(&'static str, PathBuf, PathBuf)>> {
    let mut made = Vec::new();
    for (name, token) in [("digits and dots", "1."), ("one token", "1,"), ("brackets", "}"), ("no separator", "tide")] {
        let pair = paths(folder, token.trim_matches(['.', ',', '}']));
        let pair = (pair.0.with_extension(name), pair.1.with_extension(name));
        let line = |end: &str| token.repeat(bytes / token.len()) + end + "\n";
        write(&pair.0, std::iter::once(line("x")))?;
        write(&pair.1, std::iter::once(format!("y{}", line("z"))))?;
        made.push((name, pair.0, pair.1));
    }
    Ok(made)
}

/// Pairs that are as hard as can be, with their names.
pub(super) fn worst(folder: &Path, lines: usize) -> Result<Vec<(&'static str, PathBuf, PathBuf)>> {
    let path = |name: &str| folder.join(name);
    write(&path("same"), (0..lines).map(|_| "tide\n".to_owned()))?;
    write(&path("two"), (0..lines).map(|n| ["ebb\n", "flow\n"][n % 2].to_owned()))?;
    write(&path("three"), (0..lines).map(|n| ["flow\n", "flow\n", "ebb\n"][n % 3].to_owned()))?;
    write(&path("rising"), (0..lines).map(|n| format!("{n}\n")))?;
    write(&path("falling"), (0..lines).rev().map(|n| format!("{n}\n")))?;
    for (name, seed) in [("few1", 3), ("few2", 5)] {
        let mut numbers = Numbers::new(seed);
        write(&path(name), (0..lines).map(|_| format!("{}\n", numbers.below(8))))?;
    }
    Ok(vec![
        ("one line repeated", path("same"), path("two")),
        ("alternating", path("two"), path("three")),
        ("reversed", path("rising"), path("falling")),
        ("few lines at random", path("few1"), path("few2")),
    ])
}

/// Two trees of so many files of a few kilobytes, in folders of fifty, of which so many differ.
pub(super) fn trees(folder: &Path, name: &str, files: usize, changed: usize) -> Result<Pair> {
    let folder = folder.join(format!("trees-{name}"));
    let pair = (folder.join("before"), folder.join("after"));
    let every = files / changed.max(1);
    for n in 0..files {
        let mut numbers = Numbers::new(n as u64);
        let lines = 5 + numbers.below(80);
        let text: String = (0..lines).map(|at| log_line(n * 100 + at, &mut numbers)).collect();
        let inner = format!("part{}/folder{}", n / 1000, n / 50);
        for root in [&pair.0, &pair.1] {
            let path = root.join(&inner);
            if n % 50 == 0 {
                std::fs::create_dir_all(&path)?;
            }
            let is_changed = changed > 0 && n % every == every / 2 && root == &pair.1;
            let text = if is_changed { text.replacen("value=", "value=-", 1) } else { text.clone() };
            std::fs::write(path.join(format!("file{n}.log")), text)?;
        }
    }
    Ok(pair)
}

/// Two trees of so many files, with five edits in each.
pub(super) fn releases(folder: &Path, name: &str, files: usize) -> Result<Pair> {
    let (work, after) = (folder.join(name), folder.join(format!("{name}-after")));
    let mut numbers = Numbers::new(5);
    for n in 0..files {
        let name = format!("d{}/f{n}.txt", n % 200);
        let lines: Vec<String> = (0..60).map(|line| log_line(n * 60 + line, &mut numbers)).collect();
        let changed: Vec<String> = lines
            .iter()
            .enumerate()
            .map(|(at, line)| if at % 12 == 5 { line.replace("value=", "value=-") } else { line.clone() })
            .collect();
        for (root, lines) in [(&work, lines), (&after, changed)] {
            let path = root.join(&name);
            std::fs::create_dir_all(path.parent().unwrap_or(root))?;
            std::fs::write(path, lines.concat())?;
        }
    }
    Ok((work, after))
}

/// A tree of so many files, and a patch of about 2.5 kB for each of them.
pub(super) fn patched_tree(folder: &Path, files: usize, program: &str) -> Result<Pair> {
    let (work, after) = releases(folder, "work", files)?;
    let patch = folder.join("work.patch");
    make_patch(program, &work, &after, &patch)?;
    Ok((work, patch))
}

/// A folder of 40 files of 300 lines, and a folder of 60 patches for them, each about two files.
pub(super) fn series(folder: &Path, program: &str) -> Result<Pair> {
    const FILES: usize = 40;
    let (work, patches, next) = (folder.join("series-work"), folder.join("series"), folder.join("series-next"));
    for made in [&work, &patches, &next] {
        std::fs::create_dir_all(made)?;
    }
    let mut numbers = Numbers::new(11);
    let mut files: Vec<Vec<String>> =
        (0..FILES).map(|file| (0..300).map(|line| log_line(file * 300 + line, &mut numbers)).collect()).collect();
    for (n, lines) in files.iter().enumerate() {
        std::fs::write(work.join(format!("f{n}.txt")), lines.concat())?;
    }
    for patch in 0..60 {
        let mut made = Vec::new();
        for n in [patch % FILES, (patch * 7 + 3) % FILES] {
            let name = format!("f{n}.txt");
            let (before, after) = (next.join("before"), next.join("after"));
            std::fs::write(&before, files[n].concat())?;
            let line = patch * 5 % 300;
            files[n].splice(line..=line, [format!("patched by {patch}\n"), format!("and once more by {patch}\n")]);
            std::fs::write(&after, files[n].concat())?;
            let labels = format!("a/{name},b/{name}");
            let words = ["patch", "--labels", &labels];
            made.extend(std::process::Command::new(program).args(words).args([&before, &after]).output()?.stdout);
        }
        std::fs::write(patches.join(format!("{patch:02}.patch")), made)?;
    }
    Ok((work, patches))
}

/// A file of so many lines in a folder, and a patch with an edit in a hundred made before a line was added above all.
pub(super) fn shifted(folder: &Path, lines: usize, program: &str) -> Result<Pair> {
    let pair = edited(folder, "shifted", lines, lines / 100)?;
    let (work, patch) = (folder.join("shifted-work"), folder.join("shifted.patch"));
    let (one, two) = (folder.join("shifted-one"), folder.join("shifted-two"));
    for (root, from) in [(&one, &pair.0), (&two, &pair.1), (&work, &pair.0)] {
        std::fs::create_dir_all(root)?;
        std::fs::copy(from, root.join("log"))?;
    }
    make_patch(program, &one, &two, &patch)?;
    let text = std::fs::read(work.join("log"))?;
    std::fs::write(work.join("log"), [b"a line above all\n", &text[..]].concat())?;
    Ok((work, patch))
}

/// Writes the patch of two trees with our own program.
fn make_patch(program: &str, before: &Path, after: &Path, patch: &Path) -> Result<()> {
    let made = std::process::Command::new(program).args(["patch", "--labels", "a,b"]).args([before, after]).output()?;
    std::fs::write(patch, made.stdout)?;
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use tideline_core::internal::align::{Bounds, align};

    #[test]
    fn edited_inputs_have_about_the_edits_they_promise() -> Result<()> {
        let folder = tempfile::tempdir()?;
        let (before, after) = edited(folder.path(), "edited", 20_000, 100)?;
        let (before, after) = (std::fs::read(before)?, std::fs::read(after)?);
        let edits = align(&before, &after, &Bounds::default());
        assert!((90..=100).contains(&edits.len()), "{}", edits.len());
        Ok(())
    }

    #[test]
    fn unrelated_inputs_have_nothing_in_common() -> Result<()> {
        let folder = tempfile::tempdir()?;
        let (before, after) = unrelated(folder.path(), 500)?;
        let (before, after) = (std::fs::read(before)?, std::fs::read(after)?);
        let edits = align(&before, &after, &Bounds::default());
        assert_eq!((edits.len(), edits[0].before.lines.len(), edits[0].after.lines.len()), (1, 500, 500));
        Ok(())
    }

    #[test]
    fn trees_differ_in_as_many_files_as_asked_for() -> Result<()> {
        use tideline_core::internal::model::Status;
        use tideline_core::internal::tree::{Progress, TreeOptions, compare};
        let folder = tempfile::tempdir()?;
        let (before, after) = trees(folder.path(), "few", 200, 3)?;
        let (before, after) = (tideline_sources::FolderTree::new(before), tideline_sources::FolderTree::new(after));
        let comparison = compare(&before, &after, &TreeOptions::default(), &Progress::default());
        assert_eq!((comparison.files(), comparison.count(Status::Changed)), (200, 3));
        Ok(())
    }
}
