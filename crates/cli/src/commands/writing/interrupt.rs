//! Signals that end a program: while a run is at work, it is put back first.

use std::sync::OnceLock;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::thread;

use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
use signal_hook::iterator::Signals;
use signal_hook::low_level::emulate_default_handler;
use tideline_journal::Stop;

use crate::commands::tell;

/// Work that is going on.
static AT_WORK: AtomicUsize = AtomicUsize::new(0);

/// What is done before a signal ends the program.
static BEFORE_SIGNAL: OnceLock<fn()> = OnceLock::new();

/// Listens to the signals that end a program from now on.
pub(crate) fn listen_to_signals() {
    stop();
}

/// Does something before a signal ends the program, such as putting the terminal back.
pub(crate) fn before_signal(action: fn()) {
    // It is set once; a second time it would be the same.
    let _ = BEFORE_SIGNAL.set(action);
}

/// The wish of signals to stop; they are listened to from the first call on.
pub(super) fn stop() -> Stop {
    static STOP: OnceLock<Stop> = OnceLock::new();
    STOP.get_or_init(|| {
        let stop = Stop::default();
        // Where signals cannot be listened to, they end the program at once, and the run can be undone or finished later.
        if let Ok(mut signals) = Signals::new([SIGINT, SIGTERM, SIGHUP]) {
            let asked = stop.clone();
            thread::spawn(move || {
                for signal in signals.forever() {
                    if AT_WORK.load(Ordering::SeqCst) == 0 {
                        if let Some(action) = BEFORE_SIGNAL.get() {
                            action();
                        }
                        // Nothing is being written: the signal does what it does to any program.
                        let _ = emulate_default_handler(signal);
                    }
                    asked.ask();
                    if asked.count() == 1 {
                        tell("interrupted: everything is being put back; a second time leaves the run open");
                    }
                }
            });
        }
        stop
    })
    .clone()
}

/// Does something that a signal must not cut off.
pub(super) fn while_at_work<T>(work: impl FnOnce() -> T) -> T {
    AT_WORK.fetch_add(1, Ordering::SeqCst);
    let done = work();
    AT_WORK.fetch_sub(1, Ordering::SeqCst);
    done
}
