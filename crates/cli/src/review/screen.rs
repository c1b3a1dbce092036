//! The terminal while it shows a screen: entered, and left on every way out.

use std::io::{self, Write, stdout};
use std::panic;
use std::sync::Once;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread;

use crossterm::event::{DisableBracketedPaste, DisableMouseCapture, EnableBracketedPaste, EnableMouseCapture};
use crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode};
use crossterm::{cursor, execute};
use signal_hook::consts::SIGTSTP;
use signal_hook::iterator::Signals;
use signal_hook::low_level::emulate_default_handler;

/// Whether the terminal shows a screen.
static IS_ENTERED: AtomicBool = AtomicBool::new(false);

/// Whether the screen came back after somebody else stopped the program.
static CAME_BACK: AtomicBool = AtomicBool::new(false);

/// The terminal shows a screen as long as this lives.
pub(super) struct Screen;

impl Screen {
    /// Enters the screen. A panic leaves it before it is told.
    pub(super) fn enter() -> io::Result<Self> {
        static HOOK: Once = Once::new();
        HOOK.call_once(|| {
            let told = panic::take_hook();
            panic::set_hook(Box::new(move |info| {
                leave();
                told(info);
            }));
        });
        static STOPS: Once = Once::new();
        STOPS.call_once(listen_to_stops);
        show()?;
        Ok(Self)
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        leave();
    }
}

/// Leaves the screen before a signal from elsewhere stops the program, and shows it when it goes on.
fn listen_to_stops() {
    // Where signals cannot be listened to, the program stops as it is.
    let Ok(mut signals) = Signals::new([SIGTSTP]) else { return };
    thread::spawn(move || {
        for signal in signals.forever() {
            let was_entered = IS_ENTERED.load(Ordering::SeqCst);
            leave();
            let _ = emulate_default_handler(signal);
            if was_entered && show().is_ok() {
                CAME_BACK.store(true, Ordering::SeqCst);
            }
        }
    });
}

/// Whether the screen came back since this was asked last, and is to be drawn anew.
pub(super) fn came_back() -> bool {
    CAME_BACK.swap(false, Ordering::SeqCst)
}

/// Shows the screen, for the first time or again.
pub(super) fn show() -> io::Result<()> {
    enable_raw_mode()?;
    IS_ENTERED.store(true, Ordering::SeqCst);
    execute!(stdout(), EnterAlternateScreen, EnableMouseCapture, EnableBracketedPaste, cursor::Hide)
}

/// Puts the terminal back as it was, once.
pub(crate) fn leave() {
    if !IS_ENTERED.swap(false, Ordering::SeqCst) {
        return;
    }
    // Nothing more can be done for a terminal that is gone.
    let _ = execute!(stdout(), DisableBracketedPaste, DisableMouseCapture, LeaveAlternateScreen, cursor::Show);
    let _ = disable_raw_mode();
    let _ = stdout().flush();
}
