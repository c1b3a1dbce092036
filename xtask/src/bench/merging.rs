//! Merges: of files, and of trees.

use std::process::Command;

use anyhow::{Result, ensure};

use super::timing::{Run, best};
use super::{Bench, inputs, row};

impl Bench {
    /// Three files merged, to one comparison of two of them.
    pub(super) fn merge_files(&self) -> Result<()> {
        let files = inputs::edited_twice(&self.folder, 500_000 / self.scale, 2000 / self.scale)?;
        let [base, mine, theirs] = files.each_ref().map(|path| path.display().to_string());
        let merge = Run::new(&[&self.program, "merge", "--prefer", "mine", &base, &mine, &theirs]);
        let times = best(5, &[merge, self.compare(&files[0], &files[1])])?;
        let ratio = times[0].seconds / times[1].seconds;
        row("three files of 500,000 lines merged", times[0].seconds, times[1].seconds, ratio, "2.5", ratio <= 2.5);
        Ok(())
    }

    /// Three trees of 20,000 files, of which few differ: told, and merged as a plan.
    pub(super) fn merge_trees(&self) -> Result<()> {
        let files = 20_000 / self.scale;
        let (base, mine) = inputs::trees(&self.folder, "base-and-mine", files, 30)?;
        let theirs = self.folder.join("theirs");
        let copied = Command::new("cp").arg("-r").arg(&base).arg(&theirs).status()?;
        ensure!(copied.success(), "cannot copy a tree");
        let paths = [&base, &mine, &theirs].map(|path| path.display().to_string());
        let told = Run::new(&[&self.program, "compare", "--base", &paths[0], &paths[1], &paths[2]]);
        let plan = Run::new(&[&self.program, "merge", &paths[0], &paths[1], &paths[2], "-o", &paths[1]]);
        let times = best(5, &[told, plan, Self::reading(&base, &mine)])?;
        for (at, title) in [(0, "three trees of 20,000 files compared"), (1, "  merged, as a plan")] {
            let ratio = times[at].seconds / times[2].seconds;
            row(title, times[at].seconds, times[2].seconds, ratio, "0.45", ratio <= 0.45);
        }
        Ok(())
    }
}
