//! `demo`: the demo data in a new folder, and a tour of the commands on it.

mod tour;

use std::ffi::{OsStr, OsString};
use std::fs;
use std::io::{self, IsTerminal, Write};
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, SystemTime};

use anyhow::{Context, Result, bail};
use include_dir::{Dir, DirEntry, include_dir};

use super::Outcome;
use super::print::printing;
use super::writing::quoted;
use crate::args::DemoArgs;
use tour::{REPOSITORY, Stop, TOUR};

static DATA: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/../../demo");

/// The journal of the tour, in its folder.
const JOURNAL: &str = ".journal";

pub(super) fn run(args: &DemoArgs) -> Result<Outcome> {
    let folder = &args.folder;
    let doing = || format!("cannot write the demo data to {}", folder.display());
    if folder.symlink_metadata().is_ok() {
        bail!("{}: it exists already; name a new folder, as in `tideline demo FOLDER`", doing());
    }
    fs::create_dir_all(folder).with_context(doing)?;
    write_folder(&DATA, folder).and_then(|()| finish(folder)).with_context(doing)?;
    let has_repository = make_repository(folder).with_context(doing)?;
    let program = std::env::current_exe().context("cannot find this program to run the tour")?;
    let pauses = !args.no_pause && io::stdin().is_terminal() && io::stdout().is_terminal();
    printing(false, |out| {
        let shown = folder.display();
        writeln!(
            out,
            "Two editions of the Merrow estuary's station kit are now in {shown}, and two that came of the first."
        )?;
        if !has_repository {
            writeln!(out, "The program `git` was not found: the stops about a repository are left out.")?;
        }
        let of_repository = |stop: &&Stop| stop.arguments.contains(&REPOSITORY);
        let stops: Vec<&Stop> = TOUR.iter().filter(|stop| has_repository || !of_repository(stop)).collect();
        for (at, stop) in stops.iter().enumerate() {
            if pauses && at > 0 && !goes_on((at, stops.len()), out)? {
                break;
            }
            show(stop, &program, folder, out)?;
        }
        if folder.join(JOURNAL).exists() {
            fs::remove_dir_all(folder.join(JOURNAL))?;
        }
        writeln!(out, "\nThe files stay in {}. To try next, in that folder:", folder.display())?;
        writeln!(out, "  tideline spring autumn")?;
        if has_repository {
            writeln!(out, "  cd {REPOSITORY} && tideline git:HEAD")?;
        }
        writeln!(out, "  tideline review spring autumn                   (full screen; ? lists the keys)")?;
        writeln!(out, "  tideline review --base spring keeper office     (conflict by conflict)")?;
        writeln!(out, "  tideline report spring autumn -o report.html --open")?;
        writeln!(out, "  tideline take spring autumn harbour-mouth.toml --ask --into before")?;
        writeln!(out, "  tideline undo")?;
        writeln!(out, "  tideline --help")
    })?;
    Ok(Outcome::Same)
}

/// Waits for Enter between two stops; whether the tour goes on.
fn goes_on((done, all): (usize, usize), out: &mut dyn Write) -> io::Result<bool> {
    write!(out, "\n[{done} of {all}] Enter: next stop   q, Enter: end ")?;
    out.flush()?;
    let mut typed = String::new();
    let read = io::stdin().read_line(&mut typed)?;
    Ok(read > 0 && !typed.trim().eq_ignore_ascii_case("q"))
}

fn write_folder(folder: &Dir<'_>, to: &Path) -> io::Result<()> {
    for entry in folder.entries() {
        let path = to.join(entry.path());
        match entry {
            DirEntry::Dir(inner) => {
                fs::create_dir(&path)?;
                write_folder(inner, to)?;
            }
            DirEntry::File(file) => fs::write(&path, file.contents())?,
        }
    }
    Ok(())
}

/// What cannot be embedded: an empty folder, a permission, and times that lie half a year apart.
fn finish(folder: &Path) -> io::Result<()> {
    fs::create_dir(folder.join("autumn/outbox"))?;
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        for (season, mode) in [("spring", 0o644), ("autumn", 0o755)] {
            let path = folder.join(season).join("scripts/fetch_logs.sh");
            fs::set_permissions(path, fs::Permissions::from_mode(mode))?;
        }
    }
    // Noon on the fifth of April, of July and of October 2031, in seconds since 1970.
    let editions =
        [("spring", 1_933_156_800), ("keeper", 1_941_019_200), ("office", 1_941_019_200), ("autumn", 1_948_968_000)];
    let others = ["exports", "media"]
        .into_iter()
        .flat_map(|kind| [(format!("{kind}/spring"), 1_933_156_800), (format!("{kind}/autumn"), 1_948_968_000)]);
    let editions = editions.map(|(season, seconds)| (season.to_owned(), seconds));
    for (season, seconds) in editions.into_iter().chain(others) {
        let time = SystemTime::UNIX_EPOCH + Duration::from_secs(seconds);
        let mut folders = vec![folder.join(season)];
        while let Some(inner) = folders.pop() {
            for entry in fs::read_dir(inner)? {
                let path = entry?.path();
                if path.is_dir() {
                    folders.push(path);
                } else {
                    fs::File::options().append(true).open(path)?.set_modified(time)?;
                }
            }
        }
    }
    Ok(())
}

/// Makes a repository of both editions with the system's program, and changes something in it; whether the program is there.
fn make_repository(folder: &Path) -> io::Result<bool> {
    let kit = folder.join(REPOSITORY);
    let run = |date: &str, arguments: &[&str]| -> io::Result<bool> {
        let mut command = Command::new("git");
        command.arg("-C").arg(folder).args(arguments).stdout(Stdio::null()).stderr(Stdio::null());
        command.envs(OWN_SETTINGS);
        for who in ["AUTHOR", "COMMITTER"] {
            command.env(format!("GIT_{who}_NAME"), "Ada Gauge").env(format!("GIT_{who}_DATE"), date);
            command.env(format!("GIT_{who}_EMAIL"), "ada@merrow.example");
        }
        match command.status() {
            Ok(status) if status.success() => Ok(true),
            Ok(_) => Err(io::Error::other("`git` could not make the repository of the tour")),
            Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(false),
            Err(error) => Err(error),
        }
    };
    if !run("", &["init", "--quiet", "--initial-branch=main", REPOSITORY])? {
        return Ok(false);
    }
    for (edition, subject, date) in [
        ("spring", "Spring edition of the station kit", "2031-04-05T12:00:00+0000"),
        ("autumn", "Autumn edition of the station kit", "2031-10-05T12:00:00+0000"),
    ] {
        for entry in fs::read_dir(&kit)?.collect::<io::Result<Vec<_>>>()? {
            match entry.file_type()? {
                _ if entry.file_name() == ".git" => {}
                kind if kind.is_dir() => fs::remove_dir_all(entry.path())?,
                _ => fs::remove_file(entry.path())?,
            }
        }
        copy_folder(&folder.join(edition), &kit)?;
        run(date, &["-C", REPOSITORY, "add", "--all"])?;
        run(date, &["-C", REPOSITORY, "commit", "--quiet", "--message", subject])?;
    }
    // What somebody has begun and not committed.
    let light = kit.join("stations/skerry-light.toml");
    let text = fs::read_to_string(&light)?;
    fs::write(&light, text.replacen("interval_s = 60", "interval_s = 30", 1))?;
    fs::write(kit.join("notes/round.txt"), "Next round: the lamp of the outer station.\n")?;
    fs::write(kit.join(".gitignore"), "*.cache\n")?;
    fs::write(kit.join("levels/week.cache"), "made anew each week\n")?;
    Ok(true)
}

fn copy_folder(from: &Path, to: &Path) -> io::Result<()> {
    for entry in fs::read_dir(from)? {
        let entry = entry?;
        let target = to.join(entry.file_name());
        if entry.file_type()?.is_dir() {
            fs::create_dir_all(&target)?;
            copy_folder(&entry.path(), &target)?;
        } else {
            fs::copy(entry.path(), target)?;
        }
    }
    Ok(())
}

/// The settings of this person for repositories say nothing of the tour's.
const OWN_SETTINGS: [(&str, &str); 2] = [("GIT_CONFIG_GLOBAL", "/dev/null"), ("GIT_CONFIG_NOSYSTEM", "1")];

/// Shows one command and what it prints, run for real in the folder of the demo.
fn show(stop: &Stop, program: &Path, folder: &Path, out: &mut dyn Write) -> io::Result<()> {
    let typed = if stop.arguments[0] == "compare" { &stop.arguments[1..] } else { stop.arguments };
    let typed: Vec<String> = typed.iter().map(|word| quoted(OsStr::new(word))).collect();
    writeln!(out, "\n{}\n\n$ tideline {}", stop.says, typed.join(" "))?;
    let result = Command::new(program)
        .args(stop.arguments)
        .envs(forced_colour())
        .envs(OWN_SETTINGS)
        // The runs of the tour are recorded in a journal of their own.
        .env("XDG_STATE_HOME", folder.canonicalize()?.join(JOURNAL))
        .current_dir(folder)
        .output()?;
    out.write_all(&result.stdout)?;
    out.write_all(&result.stderr)?;
    let status = result.status.code().map_or_else(|| "none".to_owned(), |code| code.to_string());
    writeln!(out, "(exit status {status})")?;
    out.flush()
}

/// The tour's commands print into a pipe; what the person sees is this program's standard output.
fn forced_colour() -> Option<(OsString, OsString)> {
    let wanted = io::stdout().is_terminal() && std::env::var_os("NO_COLOR").is_none();
    wanted.then(|| ("CLICOLOR_FORCE".into(), "1".into()))
}
