//! Sides that are no folders: archives, inventories, revisions.

use std::fs::{self, File};
use std::io::Write;
use std::path::PathBuf;
use std::process::Command;

use anyhow::{Result, ensure};

use super::timing::{Run, best, shell};
use super::{Bench, inputs, row, verdict};

/// Bytes of each file of a large tree.
const LARGE_FILE: usize = 5 << 20;

impl Bench {
    /// A compressed archive of 2 GB against its folder, and against one in which some files differ.
    pub(super) fn archive(&self) -> Result<()> {
        let folder = self.large_tree((2 << 30) / self.scale)?;
        let archive = self.folder.join("large.tar.zst");
        let paths = [folder.display().to_string(), archive.display().to_string()];
        let pack = "tar -C \"$0\" -cf - . | zstd -q -T0 -3 -f -o \"$1\"";
        ensure!(Command::new("sh").args(["-c", pack, &paths[0], &paths[1]]).status()?.success(), "cannot pack");
        let reference =
            "zstd -dc \"$1\" | tar -xO -f - >/dev/null; find \"$0\" -type f -print0 | xargs -0 cat >/dev/null";
        let times = best(2, &[self.compare(&archive, &folder), shell(reference, &folder, &archive)])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("a tar.zst of 2 GB against its folder", times[0].seconds, times[1].seconds, ratio, "1.5", ratio <= 1.5);
        let megabytes = times[0].peak_bytes as f64 / 1e6;
        println!("{:<44} {:>43.1} {:>10}{}", "  peak memory in MB", megabytes, "200", verdict(megabytes <= 200.0));
        for number in 0..3 {
            let mut file = File::options().append(true).open(folder.join(format!("{number}/0.log")))?;
            file.write_all(b"one line more\n")?;
        }
        let times = best(2, &[self.compare(&archive, &folder), shell(reference, &folder, &archive)])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("the same where three files differ", times[0].seconds, times[1].seconds, ratio, "-", true);
        Ok(())
    }

    /// What is in a tree written down, with one hash and with two.
    pub(super) fn inventory(&self) -> Result<()> {
        let (small, _) = inputs::trees(&self.folder, "inventory", 20_000 / self.scale, 0)?;
        let large = self.large_tree((1 << 30) / self.scale)?;
        for (folder, title) in [(small, "an inventory of 20,000 files"), (large, "an inventory of 1 GB in large files")]
        {
            let path = folder.display().to_string();
            let reading = shell("find \"$0\" -type f | xargs -P2 cat >/dev/null", &folder, &folder);
            let times = best(9, &[Run::new(&[&self.program, "inventory", &path, "-o", "-"]), reading])?;
            let ratio = times[0].seconds / times[1].seconds;
            row(title, times[0].seconds, times[1].seconds, ratio, "1.2", ratio <= 1.2);
            let sums = shell("find \"$0\" -type f | xargs -n 50 -P2 sha256sum >/dev/null", &folder, &folder);
            let both = Run::new(&[&self.program, "inventory", &path, "-o", "-", "--hash", "sha256"]);
            let times = best(3, &[both, sums])?;
            let ratio = times[0].seconds / times[1].seconds;
            row("  with SHA-256 too", times[0].seconds, times[1].seconds, ratio, "1.2", ratio <= 1.2);
        }
        Ok(())
    }

    /// Two revisions of which three files differ, and the working folder.
    pub(super) fn revisions(&self) -> Result<()> {
        let (folder, _) = inputs::trees(&self.folder, "revisions", 20_000 / self.scale, 0)?;
        let git = |arguments: &[&str]| -> Result<()> {
            let mut command = Command::new("git");
            command.arg("-C").arg(&folder).args([
                "-c",
                "user.name=Ada",
                "-c",
                "user.email=ada@merrow.example",
                "-c",
                "maintenance.auto=false",
            ]);
            ensure!(command.args(arguments).status()?.success(), "git {arguments:?} failed");
            Ok(())
        };
        git(&["init", "--quiet"])?;
        git(&["add", "--all"])?;
        git(&["commit", "--quiet", "--message", "one"])?;
        let mut files: Vec<PathBuf> = fs::read_dir(&folder)?.flatten().map(|entry| entry.path()).collect();
        files.sort();
        for file in files.iter().filter(|path| path.is_dir() && !path.ends_with(".git")).take(3) {
            fs::write(file.join("new.txt"), "new\n")?;
        }
        git(&["add", "--all"])?;
        git(&["commit", "--quiet", "--message", "two"])?;
        git(&["gc", "--quiet"])?;
        let path = folder.display().to_string();
        let compare = |after: &str| Run::new(&[&self.program, "compare", "--repository", &path, "git:HEAD~1", after]);
        let listing = "git -C \"$0\" ls-tree -r HEAD~1 >/dev/null; git -C \"$0\" ls-tree -r HEAD >/dev/null";
        let times = best(9, &[compare("git:HEAD"), shell(listing, &folder, &folder)])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("two revisions of 20,000 files", times[0].seconds, times[1].seconds, ratio, "2.0", ratio <= 2.0);
        let times = best(5, &[compare(&path), Self::reading(&folder, &folder)])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("a revision against the working folder", times[0].seconds, times[1].seconds, ratio, "-", true);
        Ok(())
    }

    /// Log files of 5 MB each, no two of them alike.
    fn large_tree(&self, bytes: usize) -> Result<PathBuf> {
        let folder = self.folder.join(format!("large-{bytes}"));
        if folder.exists() {
            return Ok(folder);
        }
        let mut random = inputs::Numbers::new(7);
        for number in 0..bytes.div_ceil(LARGE_FILE) {
            let inner = folder.join((number % 20).to_string());
            fs::create_dir_all(&inner)?;
            let mut text = String::with_capacity(LARGE_FILE + 100);
            while text.len() < LARGE_FILE {
                let (gauge, level) = (random.below(900), random.below(5_000));
                text.push_str(&format!("{:08} gauge {gauge} level {level} mm, mark {:x}\n", text.len(), random.next()));
            }
            fs::write(inner.join(format!("{}.log", number / 20)), text)?;
        }
        Ok(folder)
    }
}
