//! Progress of long work, on a terminal only and only when it takes longer than half a second.

use std::io::{self, IsTerminal};
use std::sync::Arc;
use std::sync::mpsc::{RecvTimeoutError, channel};
use std::thread;
use std::time::{Duration, Instant};

use indicatif::{HumanBytes, HumanCount, ProgressBar, ProgressStyle};
use tideline_core::internal::tree::Progress;

/// How long work may take before it is spoken of.
const PATIENCE: Duration = Duration::from_millis(500);
const REFRESH: Duration = Duration::from_millis(100);

/// Does some work while its progress is shown.
pub(super) fn with_progress<T>(work: impl FnOnce(&Arc<Progress>) -> T) -> T {
    let progress = Arc::new(Progress::default());
    if !io::stderr().is_terminal() {
        return work(&progress);
    }
    let (done, is_done) = channel::<()>();
    thread::scope(|scope| {
        let progress = &progress;
        scope.spawn(move || {
            let started = Instant::now();
            if is_done.recv_timeout(PATIENCE) != Err(RecvTimeoutError::Timeout) {
                return;
            }
            let bar = ProgressBar::new_spinner().with_style(ProgressStyle::default_spinner());
            while is_done.recv_timeout(REFRESH) == Err(RecvTimeoutError::Timeout) {
                let (files, bytes) = progress.so_far();
                let rate = bytes as f64 / started.elapsed().as_secs_f64();
                let (files, bytes, rate) = (HumanCount(files), HumanBytes(bytes), HumanBytes(rate as u64));
                bar.set_message(format!("{files} files, {bytes}, {rate}/s"));
                bar.tick();
            }
            bar.finish_and_clear();
        });
        let result = work(progress);
        drop(done);
        result
    })
}

/// Does some work on two contents while it is said that it goes on.
pub(super) fn with_spinner<T>(bytes: usize, work: impl FnOnce() -> T) -> T {
    if !io::stderr().is_terminal() {
        return work();
    }
    let (done, is_done) = channel::<()>();
    thread::scope(|scope| {
        scope.spawn(move || {
            if is_done.recv_timeout(PATIENCE) != Err(RecvTimeoutError::Timeout) {
                return;
            }
            let bar = ProgressBar::new_spinner().with_style(ProgressStyle::default_spinner());
            while is_done.recv_timeout(REFRESH) == Err(RecvTimeoutError::Timeout) {
                let elapsed = (bar.elapsed() + PATIENCE).as_secs();
                bar.set_message(format!("comparing {}, {elapsed} s", HumanBytes(bytes as u64)));
                bar.tick();
            }
            bar.finish_and_clear();
        });
        let result = work();
        drop(done);
        result
    })
}
