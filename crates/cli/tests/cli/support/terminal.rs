//! A program in a pseudo-terminal, whose screen is read as a terminal draws it.

use std::io::{Read, Write};
use std::num::NonZeroU16;
use std::process::{Child, ExitStatus};
use std::sync::{Arc, Mutex};
use std::thread;
use std::time::{Duration, Instant};

use pty_process::Size;
use pty_process::blocking::{Command, Pty};

use super::Folder;

/// How long a program may take to draw what is waited for.
const PATIENCE: Duration = Duration::from_secs(30);

/// Sends a signal to the program that was started with these words.
pub(crate) fn signal(name: &str, words: &[&str]) {
    let is_it = |cmdline: &[u8]| {
        let typed: Vec<&[u8]> = cmdline.split(|&byte| byte == 0).filter(|word| !word.is_empty()).collect();
        typed.iter().map(|word| String::from_utf8_lossy(word)).eq(words.iter().copied())
    };
    let processes = std::fs::read_dir("/proc").unwrap().flatten();
    let pids = processes.filter_map(|process| {
        let cmdline = std::fs::read(process.path().join("cmdline")).ok()?;
        is_it(&cmdline).then(|| process.file_name().to_string_lossy().into_owned())
    });
    let pids: Vec<String> = pids.collect();
    assert_eq!(pids.len(), 1, "{words:?} runs once");
    let status = std::process::Command::new("bash").args(["-c", "kill -s \"$0\" \"$1\"", name, &pids[0]]).status();
    assert!(status.unwrap().success());
}

/// A terminal in which a program runs.
pub(crate) struct Terminal {
    pty: Arc<Pty>,
    child: Child,
    screen: Arc<Mutex<vt100::Parser>>,
}

fn size_of(number: u16) -> NonZeroU16 {
    NonZeroU16::new(number).unwrap()
}

impl Terminal {
    /// Starts a program in the folder of a test, in a terminal of so many columns and rows.
    pub(crate) fn start(folder: &Folder, program: &str, arguments: &[&str], (columns, rows): (u16, u16)) -> Self {
        let (pty, inner) = pty_process::blocking::open().unwrap();
        pty.resize(Size::new(rows, columns)).unwrap();
        let mut command = Command::new(program).args(arguments).current_dir(folder.path());
        for name in ["NO_COLOR", "CLICOLOR_FORCE", "COLUMNS", "LINES", "PAGER", "VISUAL", "EDITOR"] {
            command = command.env_remove(name);
        }
        let own = std::path::Path::new(env!("CARGO_BIN_EXE_tideline")).parent().unwrap();
        let path = format!("{}:{}", own.display(), std::env::var("PATH").unwrap());
        let command = command
            .env("PATH", path)
            .env("TERM", "xterm-256color")
            .env("COLORTERM", "truecolor")
            .env("XDG_CONFIG_HOME", folder.path().join(".config"))
            .env("XDG_STATE_HOME", folder.path().join(".state"));
        let child = command.spawn(inner).unwrap();
        let (pty, screen) =
            (Arc::new(pty), Arc::new(Mutex::new(vt100::Parser::new(size_of(rows), size_of(columns), 0))));
        let (reader, drawn) = (Arc::clone(&pty), Arc::clone(&screen));
        thread::spawn(move || {
            let mut bytes = [0; 1 << 16];
            // The end of the program ends the reading.
            while let Ok(read) = (&*reader).read(&mut bytes) {
                if read == 0 {
                    break;
                }
                drawn.lock().unwrap().process(&bytes[..read]);
            }
        });
        Self { pty, child, screen }
    }

    /// Types keys, as their bytes.
    pub(crate) fn keys(&self, keys: &str) {
        (&*self.pty).write_all(keys.as_bytes()).unwrap();
    }

    /// What is on the screen, row by row.
    pub(crate) fn text(&self) -> String {
        self.screen.lock().unwrap().screen().contents()
    }

    /// Whether the program shows a screen of its own.
    pub(crate) fn is_alternate(&self) -> bool {
        self.screen.lock().unwrap().screen().alternate_screen()
    }

    /// Makes the terminal another size.
    pub(crate) fn resize(&self, columns: u16, rows: u16) {
        self.screen.lock().unwrap().set_size(size_of(rows), size_of(columns));
        self.pty.resize(Size::new(rows, columns)).unwrap();
    }

    /// Waits until the screen is as it should be, and returns it.
    #[track_caller]
    pub(crate) fn until(&self, is_wanted: impl Fn(&str) -> bool) -> String {
        let started = Instant::now();
        loop {
            let text = self.text();
            if is_wanted(&text) {
                // The rest of the same screen may be on its way.
                thread::sleep(Duration::from_millis(30));
                if self.text() == text {
                    return text;
                }
                continue;
            }
            assert!(started.elapsed() < PATIENCE, "this is not what was waited for:\n{text}");
            thread::sleep(Duration::from_millis(10));
        }
    }

    /// Waits until some words are on the screen.
    #[track_caller]
    pub(crate) fn shows(&self, words: &str) -> String {
        self.until(|text| text.contains(words))
    }

    /// Waits until the program ends.
    #[track_caller]
    pub(crate) fn end(&mut self) -> ExitStatus {
        let started = Instant::now();
        loop {
            if let Some(status) = self.child.try_wait().unwrap() {
                return status;
            }
            assert!(started.elapsed() < PATIENCE, "it does not end:\n{}", self.text());
            thread::sleep(Duration::from_millis(10));
        }
    }
}

impl Drop for Terminal {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
