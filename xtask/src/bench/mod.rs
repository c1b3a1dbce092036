//! `cargo xtask bench`: the speed of the whole program, as ratios to what the design names.
//!
//! Inputs are made anew in a temporary folder. Each figure is the best of several runs, so that what else the machine does
//! counts little; the reference runs in turn with the program.

mod inputs;
mod kinds;
mod media;
mod merging;
mod script_size;
mod sides;
mod timing;

use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::{Result, ensure};

use crate::root;
use timing::{Run, best, shell};

/// Runs the benchmark: all rows that have `only` in their names, with inputs a tenth the size when it is to be quick, and
/// the size of the script for pairs of real files.
pub(crate) fn run(only: Option<&str>, quick: bool, pairs: &[PathBuf]) -> Result<()> {
    let built = Command::new(env!("CARGO")).args(["build", "--quiet", "--release"]).current_dir(root()).status()?;
    ensure!(built.success(), "the program does not build");
    if !pairs.is_empty() {
        return script_size::print(pairs);
    }
    let folder = tempfile::tempdir()?;
    let bench = Bench {
        program: root().join("target/release/tideline").display().to_string(),
        folder: folder.path().to_path_buf(),
        scale: if quick { 10 } else { 1 },
    };
    println!("{:<44} {:>10} {:>10} {:>8} {:>10}", "work", "tideline", "reference", "ratio", "target");
    let rows: [(&str, Row); 29] = [
        ("tiny", Bench::tiny),
        ("logs", Bench::logs),
        ("muted-clocks", Bench::muted_clocks),
        ("rules", Bench::rules),
        ("unrelated", Bench::unrelated),
        ("doubled", Bench::doubled),
        ("giant-line", Bench::giant_line),
        ("hostile-lines", Bench::hostile_lines),
        ("renamed", Bench::renamed),
        ("wrapped", Bench::wrapped),
        ("moved-blocks", Bench::moved_blocks),
        ("worst", Bench::worst),
        ("equal-trees", Bench::equal_trees),
        ("three-changed", Bench::three_changed),
        ("many-small", Bench::many_small),
        ("apply-many", Bench::apply_many),
        ("apply-series", Bench::apply_series),
        ("apply-shifted", Bench::apply_shifted),
        ("sync", Bench::sync),
        ("report", Bench::report),
        ("archive", Bench::archive),
        ("inventory", Bench::inventory),
        ("revisions", Bench::revisions),
        ("merge-files", Bench::merge_files),
        ("merge-trees", Bench::merge_trees),
        ("tables", Bench::tables),
        ("data", Bench::data),
        ("disks", Bench::disks),
        ("images", Bench::images),
    ];
    for (_, row) in rows.iter().filter(|(name, _)| only.is_none_or(|only| name.contains(only))) {
        row(&bench)?;
    }
    Ok(())
}

/// Measures and prints one row or several.
type Row = fn(&Bench) -> Result<()>;

struct Bench {
    program: String,
    folder: PathBuf,
    scale: usize,
}

impl Bench {
    fn compare(&self, before: &Path, after: &Path) -> Run {
        Run::new(&[&self.program, "compare", &before.display().to_string(), &after.display().to_string()])
    }

    fn tiny(&self) -> Result<()> {
        let (before, after) = inputs::tiny(&self.folder)?;
        let times = best(200, &[self.compare(&before, &after), Run::new(&["true"])])?;
        let more = (times[0].seconds - times[1].seconds) * 1000.0;
        row("two tiny files, ms more than `true`", times[0].seconds, times[1].seconds, more, "2 ms", more <= 2.0);
        Ok(())
    }

    fn logs(&self) -> Result<()> {
        let (before, after) = inputs::logs(&self.folder, 500_000_000 / self.scale, 1000)?;
        let size = before.metadata()?.len() + after.metadata()?.len();
        let reference = shell("cat \"$0\" \"$1\" | wc -l", &before, &after);
        let times = best(5, &[self.compare(&before, &after), reference])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("two logs of 500 MB, 1,000 edits", times[0].seconds, times[1].seconds, ratio, "0.6", ratio <= 0.6);
        let memory = times[0].peak_bytes as f64 / size as f64;
        println!(
            "{:<44} {:>43.2} {:>10}{}",
            "  peak memory to the size of both",
            memory,
            "1.1",
            verdict(memory <= 1.1)
        );
        Ok(())
    }

    /// Rules cost what they touch: with few lines that differ, hardly anything; with a clock on every line, a reading of all.
    fn muted_clocks(&self) -> Result<()> {
        let bytes = 500_000_000 / self.scale;
        let muted = |(before, after): &(PathBuf, PathBuf)| {
            let paths = [before.display().to_string(), after.display().to_string()];
            Run::new(&[&self.program, "compare", "--counted-only", "--mute", "timestamps", &paths[0], &paths[1]])
        };
        let pair = inputs::logs(&self.folder, bytes, 1000)?;
        let times = best(5, &[muted(&pair), self.compare(&pair.0, &pair.1)])?;
        let ratio = times[0].seconds / times[1].seconds;
        let title = "the same with --mute timestamps, to without";
        row(title, times[0].seconds, times[1].seconds, ratio, "2.0", ratio <= 2.0);
        let pair = inputs::clocks(&self.folder, bytes, 1000)?;
        let reference = shell("cat \"$0\" \"$1\" | wc -l", &pair.0, &pair.1);
        let times = best(2, &[muted(&pair), reference])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("the same, every line with another clock", times[0].seconds, times[1].seconds, ratio, "-", true);
        Ok(())
    }

    /// What each rule costs on a program and on a log of 20 MB.
    fn rules(&self) -> Result<()> {
        const RULES: [&str; 6] = ["comments", "numbers", "timestamps", "space-amount", "case", "line-breaks"];
        let program = inputs::source(&self.folder, 20_000_000 / self.scale, 1000 / self.scale)?;
        let log = inputs::logs(&self.folder, 20_000_000 / self.scale, 1000 / self.scale)?;
        for (what, (before, after), rules) in [("program", program, &RULES[..]), ("log", log, &RULES[1..])] {
            let paths = [before.display().to_string(), after.display().to_string()];
            for rule in rules {
                let ruled = Run::new(&[&self.program, "compare", "--mute", rule, &paths[0], &paths[1]]);
                let times = best(5, &[ruled, self.compare(&before, &after)])?;
                let ratio = times[0].seconds / times[1].seconds;
                let title = format!("a {what} of 20 MB, --mute {rule}, to without");
                row(&title, times[0].seconds, times[1].seconds, ratio, "2.0", ratio <= 2.0);
            }
        }
        Ok(())
    }

    fn unrelated(&self) -> Result<()> {
        let (before, after) = inputs::unrelated(&self.folder, 1_000_000 / self.scale)?;
        let reference = shell("cat \"$0\" \"$1\" | LC_ALL=C sort -u | wc -l", &before, &after);
        let times = best(3, &[self.compare(&before, &after), reference])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("two unrelated files of 1,000,000 lines", times[0].seconds, times[1].seconds, ratio, "0.8", ratio <= 0.8);
        Ok(())
    }

    /// What a rule about breaks costs where every line is broken elsewhere.
    fn wrapped(&self) -> Result<()> {
        let (before, after) = inputs::wrapped(&self.folder, 400_000 / self.scale)?;
        let paths = [before.display().to_string(), after.display().to_string()];
        let muted = Run::new(&[&self.program, "compare", "--mute", "line-breaks", &paths[0], &paths[1]]);
        let times = best(3, &[muted, self.compare(&before, &after)])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("400,000 words wrapped anew, to without", times[0].seconds, times[1].seconds, ratio, "-", true);
        Ok(())
    }

    /// What blocks that move between files cost.
    fn moved_blocks(&self) -> Result<()> {
        let (before, after) = inputs::moved_blocks(&self.folder, 5000 / self.scale)?;
        let paths = [before.display().to_string(), after.display().to_string()];
        let without = Run::new(&[&self.program, "compare", "--no-moves", &paths[0], &paths[1]]);
        let times = best(3, &[self.compare(&before, &after), without])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("5,000 blocks that moved, to --no-moves", times[0].seconds, times[1].seconds, ratio, "-", true);
        Ok(())
    }

    fn doubled(&self) -> Result<()> {
        let lines = 1_000_000 / self.scale;
        let one = inputs::edited(&self.folder, "one", lines, lines / 100)?;
        let two = inputs::edited(&self.folder, "two", 2 * lines, lines / 50)?;
        let times = best(9, &[self.compare(&two.0, &two.1), self.compare(&one.0, &one.1)])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("twice the lines, an edit in 100", times[0].seconds, times[1].seconds, ratio, "2.1", ratio <= 2.1);
        Ok(())
    }

    /// Reading both trees, as the design names it.
    fn reading(before: &Path, after: &Path) -> Run {
        shell("find \"$0\" \"$1\" -type f -print0 | xargs -0 cat >/dev/null", before, after)
    }

    fn equal_trees(&self) -> Result<()> {
        self.trees("two equal trees of 20,000 files", 20_000, 0, 0.3)
    }

    fn three_changed(&self) -> Result<()> {
        self.trees("trees of 22,000 files, three changed", 22_000, 3, 2.0)
    }

    fn trees(&self, title: &str, files: usize, changed: usize, target: f64) -> Result<()> {
        let name = format!("{files}-{changed}");
        let (before, after) = inputs::trees(&self.folder, &name, files / self.scale, changed)?;
        let times = best(5, &[self.compare(&before, &after), Self::reading(&before, &after)])?;
        let ratio = times[0].seconds / times[1].seconds;
        row(title, times[0].seconds, times[1].seconds, ratio, &format!("{target:.1}"), ratio <= target);
        Ok(())
    }

    fn many_small(&self) -> Result<()> {
        let (before, after) = inputs::trees(&self.folder, "many", 200_000 / self.scale, 100)?;
        let times = best(1, &[self.compare(&before, &after), Self::reading(&before, &after)])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("trees of 200,000 files a side", times[0].seconds, times[1].seconds, ratio, "-", true);
        let megabytes = times[0].peak_bytes as f64 / 1e6;
        println!("{:<44} {:>43.1} {:>10}{}", "  peak memory in MB", megabytes, "600", verdict(megabytes <= 600.0));
        Ok(())
    }

    /// Puts the patches whose paths begin so in and takes them out again in turn, so that every run has the same to do.
    fn applying(&self, patch: &Path, work: &Path) -> Run {
        let script = "export XDG_STATE_HOME=\"$3\"; way=; if [ -e \"$3.in\" ]; then way=--reverse; rm \"$3.in\"; else touch \"$3.in\"; fi; \
            \"$0\" apply $way --drop-folders 1 --into \"$2\" \"$1\"* && sync -f \"$2\"";
        let state = self.folder.join("state");
        let words =
            [&self.program, &patch.display().to_string(), &work.display().to_string(), &state.display().to_string()];
        Run::new(&[&["sh", "-c", script], &words.map(String::as_str)[..]].concat())
    }

    fn apply_many(&self) -> Result<()> {
        let (work, patch) = inputs::patched_tree(&self.folder, 20_000 / self.scale, &self.program)?;
        let copying = shell("cp -r \"$0\" \"$1.$$\"; sync -f \"$1.$$\"", &work, &self.folder.join("copy"));
        let times = best(4, &[self.applying(&patch, &work), copying])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("a patch of 50 MB into 20,000 files", times[0].seconds, times[1].seconds, ratio, "2.0", ratio <= 2.0);
        Ok(())
    }

    /// All patches of a series in one call.
    fn apply_series(&self) -> Result<()> {
        let (work, patches) = inputs::series(&self.folder, &self.program)?;
        let copying = shell("cp -r \"$0\" \"$1.$$\"; sync -f \"$1.$$\"", &work, &self.folder.join("series-copy"));
        let times = best(9, &[self.applying(&patches.join(""), &work), copying])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("a series of 60 patches for 40 files", times[0].seconds, times[1].seconds, ratio, "3.0", ratio <= 3.0);
        Ok(())
    }

    fn apply_shifted(&self) -> Result<()> {
        let (work, patch) = inputs::shifted(&self.folder, 1_000_000 / self.scale, &self.program)?;
        let times = best(2, &[self.applying(&patch, &work)])?;
        let title = "10,000 shifted hunks, 1,000,000 lines, seconds";
        row(title, times[0].seconds, 0.0, times[0].seconds, "seconds", times[0].seconds < 5.0);
        Ok(())
    }

    /// A tree into an empty folder, and then again with nothing to do.
    fn sync(&self) -> Result<()> {
        let (from, _) = inputs::trees(&self.folder, "sync", 20_000 / self.scale, 0)?;
        let into = self.folder.join("sync-into");
        let words = [&self.program, &from.display().to_string(), &into.display().to_string()];
        let state = format!("export XDG_STATE_HOME=\"{}\"", self.folder.join("state").display());
        // A folder of its own for each try, so that nothing has to be cleared.
        let fresh = format!("{state}; mkdir \"$2.$$\"; \"$0\" sync \"$1\" \"$2.$$\" --go && sync -f \"$2.$$\"");
        let copying = "mkdir \"$1.$$\"; cp -a \"$0/.\" \"$1.$$\"; sync -f \"$1.$$\"";
        let run = |script: &str, words: &[&str]| Run::new(&[&["sh", "-c", script], words].concat());
        let all = words.map(String::as_str);
        let copy = self.folder.join("sync-copy").display().to_string();
        let times = best(4, &[run(&fresh, &all), run(copying, &[all[1], &copy])])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("20,000 files synced into an empty folder", times[0].seconds, times[1].seconds, ratio, "1.0", ratio <= 1.0);
        let again = format!("{state}; exec \"$0\" sync \"$1\" \"$2\" --go");
        let times = best(5, &[run(&again, &all), Self::reading(&from, &into)])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("the same again, with nothing to do", times[0].seconds, times[1].seconds, ratio, "1.0", ratio <= 1.0);
        Ok(())
    }

    /// A folder of pages, recorded and flushed, and the same changes drawn into a file.
    fn report(&self) -> Result<()> {
        let pair = inputs::releases(&self.folder, "reported", 4000 / self.scale)?;
        let (state, site) = (self.folder.join("state"), self.folder.join("site"));
        let paths = [pair.0, pair.1, state, site].map(|path| path.display().to_string());
        let words: Vec<&str> = std::iter::once(&self.program).chain(&paths).map(String::as_str).collect();
        let run = |script: &str| Run::new(&[&["sh", "-c", script], &words[..]].concat());
        // A folder of its own for each try, so that nothing has to be cleared.
        let report = run("export XDG_STATE_HOME=\"$3\"; exec \"$0\" report \"$1\" \"$2\" -o \"$4.$$/\"");
        let drawing = run("exec \"$0\" compare --each-file \"$1\" \"$2\" > \"$4.txt\"");
        let times = best(4, &[report, drawing])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("a folder report on 4,000 differing files", times[0].seconds, times[1].seconds, ratio, "2.0", ratio <= 2.0);
        let megabytes = times[0].peak_bytes as f64 / 1e6;
        println!("{:<44} {:>43.1} {:>10}{}", "  peak memory in MB", megabytes, "200", verdict(megabytes <= 200.0));
        Ok(())
    }

    fn giant_line(&self) -> Result<()> {
        let (before, after) = inputs::giant_line(&self.folder, 40_000_000 / self.scale)?;
        let size = before.metadata()?.len() + after.metadata()?.len();
        let reference = shell("tr , '\\n' < \"$0\"; tr , '\\n' < \"$1\"", &before, &after);
        let times = best(5, &[self.compare(&before, &after), reference])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("one line of 40 MB, three edits", times[0].seconds, times[1].seconds, ratio, "3.0", ratio <= 3.0);
        let memory = times[0].peak_bytes as f64 / size as f64;
        println!(
            "{:<44} {:>43.2} {:>10}{}",
            "  peak memory to the size of both",
            memory,
            "6.0",
            verdict(memory <= 6.0)
        );
        Ok(())
    }

    fn hostile_lines(&self) -> Result<()> {
        for (name, before, after) in inputs::hostile_lines(&self.folder, 10_000_000 / self.scale)? {
            let times = best(1, &[self.compare(&before, &after)])?;
            let title = format!("one line of 10 MB: {name}, in seconds");
            row(&title, times[0].seconds, 0.0, times[0].seconds, "seconds", times[0].seconds < 10.0);
        }
        Ok(())
    }

    fn renamed(&self) -> Result<()> {
        let (one, other) = inputs::renamed(&self.folder, 16_000 / self.scale)?;
        let times = best(3, &[self.compare(&one, &other), Self::reading(&one, &other)])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("16,000 equal files, all renamed", times[0].seconds, times[1].seconds, ratio, "-", true);
        Ok(())
    }

    fn worst(&self) -> Result<()> {
        for (name, before, after) in inputs::worst(&self.folder, 200_000 / self.scale)? {
            let times = best(1, &[self.compare(&before, &after)])?;
            let title = format!("200,000 lines: {name}, in seconds");
            row(&title, times[0].seconds, 0.0, times[0].seconds, "seconds", times[0].seconds < 10.0);
        }
        Ok(())
    }
}

fn row(title: &str, program: f64, reference: f64, ratio: f64, target: &str, held: bool) {
    println!("{title:<44} {program:>9.4}s {reference:>9.4}s {ratio:>8.2} {target:>10}{}", verdict(held));
}

fn verdict(held: bool) -> &'static str {
    if held { "" } else { "   MISSED" }
}
