//! How far long work has come, for whoever watches it.

use std::sync::atomic::{AtomicU64, Ordering::Relaxed};

/// How far long work has come, to be looked at from another thread.
#[derive(Debug, Default)]
pub struct Progress {
    files: AtomicU64,
    bytes: AtomicU64,
}

impl Progress {
    /// Files (of a comparison: pairs of them) that are done, and bytes that were looked at or written.
    pub fn so_far(&self) -> (u64, u64) {
        (self.files.load(Relaxed), self.bytes.load(Relaxed))
    }

    /// One more file, and the bytes that it took.
    pub fn add(&self, bytes: u64) {
        self.files.fetch_add(1, Relaxed);
        self.bytes.fetch_add(bytes, Relaxed);
    }
}
