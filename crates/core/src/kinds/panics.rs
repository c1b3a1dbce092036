//! Packages that read images and documents may panic on damaged ones: that is a failure like others, and nothing is printed of it.

use std::cell::Cell;
use std::panic::{self, AssertUnwindSafe};
use std::sync::Once;

thread_local! {
    static IS_QUIET: Cell<bool> = const { Cell::new(false) };
}

/// What comes of some work; nothing where it panics.
pub fn caught<T>(work: impl FnOnce() -> T) -> Option<T> {
    static HOOK: Once = Once::new();
    HOOK.call_once(|| {
        let told = panic::take_hook();
        panic::set_hook(Box::new(move |info| {
            if !IS_QUIET.get() {
                told(info);
            }
        }));
    });
    let was_quiet = IS_QUIET.replace(true);
    let done = panic::catch_unwind(AssertUnwindSafe(work));
    IS_QUIET.set(was_quiet);
    done.ok()
}

#[cfg(test)]
mod tests {
    #[test]
    fn a_panic_is_a_failure() {
        assert_eq!(super::caught(|| 1), Some(1));
        assert_eq!(super::caught(|| -> u8 { panic!("not printed") }), None);
    }
}
