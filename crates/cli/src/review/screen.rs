//! The terminal while it shows a screen: entered, and left on every way out.

use std::io::{self, Write, stdout};
use std::panic;
use std::sync::Once;
use std::sync::atomic::{AtomicBool, Ordering};

use crossterm::event::{DisableBracketedPaste, DisableMouseCapture, EnableBracketedPaste, EnableMouseCapture};
use crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen, SetTitle, disable_raw_mode, enable_raw_mode};
use crossterm::{cursor, execute};

/// Whether the terminal shows a screen.
static IS_ENTERED: AtomicBool = AtomicBool::new(false);

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
        show()?;
        Ok(Self)
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        leave();
    }
}

/// Shows the screen, for the first time or again.
pub(super) fn show() -> io::Result<()> {
    enable_raw_mode()?;
    IS_ENTERED.store(true, Ordering::SeqCst);
    execute!(
        stdout(),
        EnterAlternateScreen,
        EnableMouseCapture,
        EnableBracketedPaste,
        SetTitle("tideline review"),
        cursor::Hide
    )
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
