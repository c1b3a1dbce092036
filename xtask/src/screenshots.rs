//! The pictures of the documentation: each a command run on the demo data in a real terminal window.

use std::process::Command;

use anyhow::{Context, Result, ensure};

use crate::root;
use crate::window::{Ground, Window, shoot_page};

/// A picture: its name, what is typed, and the ground of the window.
struct Shot {
    name: &'static str,
    typed: &'static str,
    ground: Ground,
}

const fn shot(name: &'static str, ground: Ground, typed: &'static str) -> Shot {
    Shot { name, typed, ground }
}

const SHOTS: [Shot; 14] = [
    shot(
        "tree",
        Ground::Dark,
        "tideline --exclude contacts --exclude chart --exclude notes --exclude forms spring autumn",
    ),
    shot(
        "revision",
        Ground::Light,
        "cd kit; tideline --theme light git:HEAD; tideline --theme light git:HEAD stations/skerry-light.toml",
    ),
    shot("stacked", Ground::Dark, "tideline {spring,autumn}/stations/harbour-mouth.toml"),
    shot("beside", Ground::Dark, "tideline --layout beside {spring,autumn}/scripts/tide_table.py"),
    shot("explain", Ground::Light, "tideline explain --theme light spring autumn harbour-mouth.log --line after:32"),
    shot("apply", Ground::Dark, "tideline apply --into autumn patches/editor.patch; tideline undo"),
    shot("sync", Ground::Dark, "tideline sync --mirror autumn spring stations scripts tools contacts archive"),
    shot(
        "kinds",
        Ground::Dark,
        "tideline --no-legend --kind table --ignore 'column:updated_*' exports/{spring,autumn}/marks.csv; tideline --kind data exports/spring/uplink.json exports/autumn/uplink.yaml",
    ),
    shot("review-merge", Ground::Dark, "tideline review --base {spring,keeper,office}/stations/harbour-mouth.toml"),
    shot("image", Ground::Dark, "tideline media/{spring,autumn}/chart.png"),
    shot("bytes", Ground::Light, "tideline --theme light --no-pager --layout beside media/{spring,autumn}/gauge.bin"),
    shot(
        "document",
        Ground::Dark,
        "tideline --no-pager --context 1 media/{spring,autumn}/letter.docx; tideline --no-legend --counted-only media/{spring,autumn}/levels.xlsx | head -14",
    ),
    shot("review-tree", Ground::Dark, "tideline review spring autumn"),
    shot(
        "review-file",
        Ground::Light,
        "tideline review --theme light --layout beside {spring,autumn}/scripts/tide_table.py",
    ),
];

/// Pages of the reports in [`REPORTS`]: the name of the picture, the page, and whether the system is dark.
const PAGES: [(&str, &str, bool); 5] = [
    ("report-tree", "report/index.html", false),
    ("report-file", "report/pages/tide_table.py-751dd3b6f8ff.html", false),
    ("report-table", "marks.html", false),
    ("report-image", "chart.html#show-difference", false),
    ("report-image-blend", "chart.html#show-blend", true),
];

/// What writes the reports of which pages are drawn.
const REPORTS: [&[&str]; 3] = [
    &["report", "spring", "autumn", "-o", "report/"],
    &[
        "report",
        "--kind",
        "table",
        "--mute",
        "column:updated_*",
        "exports/spring/marks.csv",
        "exports/autumn/marks.csv",
        "-o",
        "marks.html",
    ],
    &["report", "media/spring/chart.png", "media/autumn/chart.png", "-o", "chart.html"],
];

/// Draws the pictures whose names contain `only`.
pub(crate) fn draw(only: Option<&str>) -> Result<()> {
    let built = Command::new(env!("CARGO")).args(["build", "--quiet", "--release"]).current_dir(root()).status()?;
    ensure!(built.success(), "the program does not build");
    // Its name is in some pictures.
    let folder = tempfile::Builder::new().prefix("merrow").rand_bytes(0).tempdir()?;
    let program = root().join("target/release/tideline");
    let demo = Command::new(&program).arg("demo").arg(folder.path().join("demo")).output()?;
    ensure!(demo.status.success(), "the demo data cannot be written: {}", String::from_utf8_lossy(&demo.stderr));
    std::os::unix::fs::symlink(&program, folder.path().join("tideline")).context("cannot link the program")?;
    let window = Window { folder: folder.path().join("demo"), programs: folder.path().to_path_buf() };
    let is_wanted = |name: &str| only.is_none_or(|only| name.contains(only));
    let picture = |name: &str| root().join("docs/screenshots").join(name).with_extension("png");
    for shot in SHOTS.iter().filter(|shot| is_wanted(shot.name)) {
        let picture = picture(shot.name);
        window.shoot(shot.typed, shot.ground, &picture).with_context(|| format!("cannot draw {}", shot.name))?;
        println!("{}", picture.display());
    }
    for arguments in REPORTS {
        let mut report = Command::new(&program);
        report.args(arguments).current_dir(&window.folder).env("XDG_STATE_HOME", folder.path().join("state"));
        report.output().context("cannot write the report")?;
    }
    for (name, page, is_dark) in PAGES.into_iter().filter(|(name, ..)| is_wanted(name)) {
        let picture = picture(name);
        shoot_page(&window.folder.join(page), is_dark, &picture).with_context(|| format!("cannot draw {name}"))?;
        println!("{}", picture.display());
    }
    Ok(())
}
