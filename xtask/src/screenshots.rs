//! The pictures of the documentation: each a command run on the demo data in a real terminal window.

use std::process::Command;

use anyhow::{Context, Result, ensure};

use crate::root;
use crate::window::Window;

/// A picture: its name, and what is typed.
struct Shot {
    name: &'static str,
    typed: &'static str,
}

const SHOTS: [Shot; 2] = [
    Shot { name: "stacked", typed: "tideline spring/stations/harbour-mouth.toml autumn/stations/harbour-mouth.toml" },
    Shot {
        name: "patch",
        typed: "tideline patch spring/stations/harbour-mouth.toml autumn/stations/harbour-mouth.toml",
    },
];

/// Draws the pictures whose names contain `only`.
pub(crate) fn draw(only: Option<&str>) -> Result<()> {
    let built = Command::new(env!("CARGO")).args(["build", "--quiet", "--release"]).current_dir(root()).status()?;
    ensure!(built.success(), "the program does not build");
    let folder = tempfile::tempdir()?;
    let program = root().join("target/release/tideline");
    let demo = Command::new(&program).arg("demo").arg(folder.path().join("demo")).output()?;
    ensure!(demo.status.success(), "the demo data cannot be written: {}", String::from_utf8_lossy(&demo.stderr));
    std::os::unix::fs::symlink(&program, folder.path().join("tideline")).context("cannot link the program")?;
    let window = Window { folder: folder.path().join("demo"), programs: folder.path().to_path_buf() };
    for shot in SHOTS.iter().filter(|shot| only.is_none_or(|only| shot.name.contains(only))) {
        let picture = root().join("docs/screenshots").join(shot.name).with_extension("png");
        window.shoot(shot.typed, &picture).with_context(|| format!("cannot draw {}", shot.name))?;
        println!("{}", picture.display());
    }
    Ok(())
}
