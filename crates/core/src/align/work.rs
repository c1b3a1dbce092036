//! How much work an alignment does, counted in steps: a byte or a line looked at, a pair weighed, a diagonal followed. Tests hold the count
//! under a multiple of the size of the input, so that no stage grows with its square.

use std::cell::Cell;

thread_local! {
    static STEPS: Cell<u64> = const { Cell::new(0) };
}

/// Counts some steps of this thread.
pub(crate) fn count(steps: usize) {
    STEPS.with(|counted| counted.set(counted.get().wrapping_add(steps as u64)));
}

/// Does some work on one thread, and counts its steps.
///
/// # Panics
/// When no thread can be started.
pub fn counted<T: Send>(work: impl FnOnce() -> T + Send) -> (T, u64) {
    let one = rayon::ThreadPoolBuilder::new().num_threads(1).build().expect("a thread can be started");
    one.install(|| {
        STEPS.with(|counted| counted.set(0));
        let result = work();
        (result, STEPS.with(Cell::get))
    })
}
