//! Running commands and measuring them.

use std::fs;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use anyhow::{Context, Result};

/// A command to be measured.
pub(super) struct Run {
    words: Vec<String>,
}

/// What a command took.
#[derive(Clone, Copy, Debug)]
pub(super) struct Taken {
    pub(super) seconds: f64,
    /// The most memory it held at once; 0 where the system does not tell.
    pub(super) peak_bytes: u64,
}

impl Run {
    pub(super) fn new(words: &[&str]) -> Self {
        Self { words: words.iter().map(|&word| word.to_owned()).collect() }
    }

    fn measure(&self, watch_memory: bool) -> Result<Taken> {
        let started = Instant::now();
        let mut child = Command::new(&self.words[0])
            .args(&self.words[1..])
            .stdout(Stdio::null())
            .spawn()
            .with_context(|| format!("cannot start {}", self.words[0]))?;
        let mut peak_bytes = 0;
        while watch_memory && child.try_wait()?.is_none() {
            peak_bytes = peak_of(child.id()).max(peak_bytes);
            std::thread::sleep(Duration::from_millis(2));
        }
        child.wait()?;
        Ok(Taken { seconds: started.elapsed().as_secs_f64(), peak_bytes })
    }
}

/// A shell command on two files, `$0` and `$1`.
pub(super) fn shell(line: &str, before: &Path, after: &Path) -> Run {
    Run::new(&["sh", "-c", line, &before.display().to_string(), &after.display().to_string()])
}

/// The best time of each command in so many rounds, after one round that warms the cache; and the peak memory.
pub(super) fn best(rounds: usize, runs: &[Run]) -> Result<Vec<Taken>> {
    let mut best = runs.iter().map(|run| run.measure(true)).collect::<Result<Vec<_>>>()?;
    for taken in &mut best {
        taken.seconds = f64::INFINITY;
    }
    for _ in 0..rounds {
        for (run, best) in runs.iter().zip(&mut best) {
            best.seconds = run.measure(false)?.seconds.min(best.seconds);
        }
    }
    Ok(best)
}

fn peak_of(process: u32) -> u64 {
    let status = fs::read_to_string(format!("/proc/{process}/status")).unwrap_or_default();
    let line = status.lines().find_map(|line| line.strip_prefix("VmHWM:"));
    let kilobytes = line.and_then(|rest| rest.trim().trim_end_matches(" kB").parse::<u64>().ok());
    kilobytes.unwrap_or(0) * 1024
}
