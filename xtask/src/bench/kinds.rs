//! Tables and data.

use std::fs::{self, File};
use std::hint::black_box;
use std::io::{BufWriter, Write};
use std::path::{Path, PathBuf};
use std::time::Instant;

use anyhow::Result;
use serde_json::Value;

use super::timing::{Run, best, shell};
use super::{Bench, row, verdict};

/// A step through all numbers below `count`, each once, in another order.
fn shuffled(count: usize) -> impl Iterator<Item = usize> {
    // A number that shares no factor with any count that is used here.
    const STEP: usize = 7_368_787;
    (0..count).map(move |at| at * STEP % count)
}

/// Two tables of 20 columns: the second in another order, with an edit in each 500th row and without each 1,000th.
fn tables(folder: &Path, rows: usize) -> Result<(PathBuf, PathBuf)> {
    let paths = (folder.join("before.csv"), folder.join("after.csv"));
    for (path, is_after) in [(&paths.0, false), (&paths.1, true)] {
        let mut out = BufWriter::new(File::create(path)?);
        let names: Vec<String> = (0..17).map(|column| format!("v{column}")).collect();
        writeln!(out, "id,station,{},updated_at", names.join(","))?;
        let order: Box<dyn Iterator<Item = usize>> =
            if is_after { Box::new(shuffled(rows)) } else { Box::new(0..rows) };
        for id in order.filter(|id| !is_after || id % 1000 != 3) {
            write!(out, "{},station-{}", 1_000_000 + id, id % 977)?;
            for column in 0..17 {
                let is_edited = is_after && column == 3 && id % 500 == 7;
                let value = if is_edited { 99_999 } else { (id * 7 + column * 13) % 90_000 };
                write!(out, ",{}.{:02}", value / 100, value % 100)?;
            }
            writeln!(out, ",2031-03-01")?;
        }
        out.flush()?;
    }
    Ok(paths)
}

/// Two documents of JSON: records in another order, some with an edit, half with their keys in another order.
fn documents(folder: &Path, records: usize) -> Result<(PathBuf, PathBuf)> {
    let paths = (folder.join("before.json"), folder.join("after.json"));
    for (path, is_after) in [(&paths.0, false), (&paths.1, true)] {
        let mut out = BufWriter::new(File::create(path)?);
        write!(out, "{{\n \"readings\": [")?;
        let order: Box<dyn Iterator<Item = usize>> =
            if is_after { Box::new(shuffled(records)) } else { Box::new(0..records) };
        for (at, id) in order.enumerate() {
            let level = if is_after && id % 1000 == 5 { 99 } else { id % 90 };
            let (one, other) = (format!("\"by\": \"keeper {}\"", id % 40), format!("\"ok\": {}", id % 3 == 0));
            let meta = if is_after && id % 2 == 0 { [other, one] } else { [one, other] };
            let comma = if at == 0 { "" } else { "," };
            write!(
                out,
                "{comma}\n  {{\n   \"id\": {id},\n   \"levels\": [{level}.5, {}.25, 3.75, 1.125],\n   \"meta\": {{{}}},\n   \"note\": \"calm sea with a light swell from the south\"\n  }}",
                id % 80,
                meta.join(", ")
            )?;
        }
        write!(out, "\n ]\n}}\n")?;
        out.flush()?;
    }
    Ok(paths)
}

impl Bench {
    fn compare_as(&self, options: &[&str], (before, after): &(PathBuf, PathBuf)) -> Run {
        let (before, after) = (before.display().to_string(), after.display().to_string());
        Run::new(&[&[&self.program, "compare", "--no-pager"], options, &[before.as_str(), &after]].concat())
    }

    pub(super) fn tables(&self) -> Result<()> {
        let paths = tables(&self.folder, 1_000_000 / self.scale)?;
        let size = paths.0.metadata()?.len() + paths.1.metadata()?.len();
        let sort = shell("LC_ALL=C sort \"$0\" \"$1\"", &paths.0, &paths.1);
        let runs = [
            self.compare_as(&["--kind", "table", "--key", "id"], &paths),
            self.compare_as(&["--kind", "table"], &paths),
            sort,
        ];
        let times = best(3, &runs)?;
        let ratio = times[0].seconds / times[2].seconds;
        row("tables of 1,000,000 rows, by key", times[0].seconds, times[2].seconds, ratio, "1.5", ratio <= 1.5);
        let memory = times[0].peak_bytes as f64 / size as f64;
        let held = verdict(memory <= 2.0);
        println!("{:<44} {:>43.2} {:>10}{held}", "  peak memory to the size of both", memory, "2.0");
        let ratio = times[1].seconds / times[2].seconds;
        row("  the same, the key found", times[1].seconds, times[2].seconds, ratio, "-", true);
        Ok(())
    }

    pub(super) fn data(&self) -> Result<()> {
        let paths = documents(&self.folder, 600_000 / self.scale)?;
        let times = best(2, &[self.compare_as(&["--kind", "data", "--quiet"], &paths)])?;
        let mut reference = f64::INFINITY;
        for _ in 0..2 {
            let started = Instant::now();
            let read = |path: &Path| -> Result<Value> { Ok(serde_json::from_slice(&fs::read(path)?)?) };
            let both = (read(&paths.0)?, read(&paths.1)?);
            reference = reference.min(started.elapsed().as_secs_f64());
            black_box(both);
        }
        let ratio = times[0].seconds / reference;
        row("100 MB of JSON a side", times[0].seconds, reference, ratio, "3", ratio <= 3.0);
        Ok(())
    }
}
