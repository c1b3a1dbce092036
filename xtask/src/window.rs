//! A terminal window on a display of its own, and a picture of it. Needs Xvfb, xterm and ImageMagick's `import`;
//! pages need Chromium.

use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::thread::sleep;
use std::time::Duration;

use anyhow::{Context, Result, ensure};

/// Where the commands of a picture run, and where the program lies.
pub(crate) struct Window {
    pub(crate) folder: PathBuf,
    pub(crate) programs: PathBuf,
}

/// The ground of a window.
#[derive(Clone, Copy)]
pub(crate) enum Ground {
    Dark,
    Light,
}

impl Ground {
    /// The colours of the ground and of the letters on it.
    fn colours(self) -> [&'static str; 2] {
        match self {
            Self::Dark => ["#10151c", "#d7dde4"],
            Self::Light => ["#fbfaf7", "#1d242c"],
        }
    }
}

/// A process that ends when this is dropped.
struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        // It may have ended by itself already.
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

impl Window {
    /// Types a command line, waits for what it prints, and saves the window as a picture of 1280 by 800.
    pub(crate) fn shoot(&self, typed: &str, ground: Ground, picture: &Path) -> Result<()> {
        let (_screen, display) = screen()?;
        let script = "printf '$ %s\\n' \"$0\"; eval \"$0\"; printf '\\e[?25l'; sleep 60";
        let [back, letters] = ground.colours();
        let path = format!("{}:{}", self.programs.display(), std::env::var("PATH").unwrap_or_default());
        let terminal = Command::new("xterm")
            .args(["-geometry", "139x40+0+0", "-b", "14", "-fa", "DejaVu Sans Mono", "-fs", "11"])
            .args(["-bg", back, "-fg", letters, "+sb", "-xrm", "XTerm*directColor: true"])
            // xterm takes these two out of the environment it was given.
            .args(["-e", "env", "TERM=xterm-256color", "COLORTERM=truecolor", "bash", "-c", script, typed])
            .env("DISPLAY", &display)
            .env("PATH", path)
            .env("LC_ALL", "C.UTF-8")
            .env("XDG_STATE_HOME", self.programs.join("state"))
            .current_dir(&self.folder)
            .stderr(Stdio::null())
            .spawn()
            .context("cannot start xterm; is it installed?")?;
        let _terminal = Running(terminal);
        sleep(Duration::from_millis(2000));
        let import = Command::new("import").args(["-window", "root"]).arg(picture).env("DISPLAY", &display).status();
        ensure!(import.context("cannot start import; is ImageMagick installed?")?.success(), "import failed");
        Ok(())
    }
}

/// Saves a page as a picture of 1280 by 800, as a browser shows it on a light or a dark system.
pub(crate) fn shoot_page(page: &Path, is_dark: bool, picture: &Path) -> Result<()> {
    let profile = tempfile::tempdir()?;
    let output = Command::new("chromium")
        .args(["--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--hide-scrollbars"])
        .args(["--window-size=1280,800", "--virtual-time-budget=2000"])
        .arg(format!("--blink-settings=preferredColorScheme={}", u8::from(!is_dark)))
        .arg(format!("--user-data-dir={}", profile.path().display()))
        .arg(format!("--screenshot={}", picture.display()))
        .arg(format!("file://{}", page.display()))
        .output()
        .context("cannot start chromium; is it installed?")?;
    ensure!(output.status.success(), "chromium failed: {}", String::from_utf8_lossy(&output.stderr));
    Ok(())
}

/// A display in memory, and its name.
fn screen() -> Result<(Running, String)> {
    let mut server = Command::new("Xvfb")
        .args(["-displayfd", "1", "-screen", "0", "1280x800x24", "-nolisten", "tcp"])
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .context("cannot start Xvfb; is it installed?")?;
    let out = server.stdout.take().context("Xvfb has no output")?;
    let server = Running(server);
    let mut number = String::new();
    BufReader::new(out).read_line(&mut number)?;
    ensure!(!number.trim().is_empty(), "Xvfb did not start");
    Ok((server, format!(":{}", number.trim())))
}
