//! `demo`: the demo data in a new folder, and a tour of the commands on it.

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

static DATA: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/../../demo");

/// A stop of the tour: what it shows, and the arguments that show it.
struct Stop {
    says: &'static str,
    arguments: &'static [&'static str],
}

/// The repository of the tour, in its folder.
const REPOSITORY: &str = "kit";

/// The journal of the tour, in its folder.
const JOURNAL: &str = ".journal";

const TOUR: [Stop; 52] = [
    Stop {
        says: "Two editions of the kit. Which of its files differ, and how?",
        arguments: &["compare", "spring", "autumn"],
    },
    Stop {
        says: "Only what is new or gone; what else differs is counted.",
        arguments: &["compare", "--only", "new,gone", "spring", "autumn"],
    },
    Stop {
        says: "One file of the tree: a name from it is enough.",
        arguments: &["compare", "spring", "autumn", "check_levels.py"],
    },
    Stop {
        says: "The plotting script stopped working. What did somebody change in its 300 lines?",
        arguments: &["compare", "spring/scripts/plot_levels.py", "autumn/scripts/plot_levels.py"],
    },
    Stop {
        says: "A configuration with edited numbers: the numbers are marked, not the lines alone.",
        arguments: &[
            "compare",
            "--context",
            "1",
            "spring/stations/harbour-mouth.toml",
            "autumn/stations/harbour-mouth.toml",
        ],
    },
    Stop {
        says: "Two files that differ in one letter.",
        arguments: &[
            "compare",
            "--grain",
            "letter",
            "spring/stations/skerry-light.toml",
            "autumn/stations/skerry-light.toml",
        ],
    },
    Stop {
        says: "A text with a paragraph that was added and one that went elsewhere.",
        arguments: &["compare", "--context", "1", "spring/notes/handbook.txt", "autumn/notes/handbook.txt"],
    },
    Stop {
        says: "Which functions, tables and chapters changed, file by file.",
        arguments: &["compare", "--sections", "spring", "autumn", "scripts", "stations"],
    },
    Stop {
        says: "One edit in many files? The option that puts it aside stands behind it.",
        arguments: &["compare", "--repeats", "spring", "autumn", "forms"],
    },
    Stop {
        says: "An export whose rows were sorted anew, with times in every row: which marks changed?",
        arguments: &[
            "compare",
            "--kind",
            "table",
            "--ignore",
            "column:updated_*",
            "exports/spring/marks.csv",
            "exports/autumn/marks.csv",
        ],
    },
    Stop {
        says: "The same as a grid.",
        arguments: &[
            "compare",
            "--kind",
            "table",
            "--ignore",
            "column:updated_*",
            "--layout",
            "beside",
            "exports/spring/marks.csv",
            "exports/autumn/marks.csv",
        ],
    },
    Stop {
        says: "Settings that went from JSON to YAML: what do they say now that they did not say before?",
        arguments: &["compare", "--kind", "data", "exports/spring/uplink.json", "exports/autumn/uplink.yaml"],
    },
    Stop {
        says: "An export of XML, with its attributes and its stations in another order.",
        arguments: &["compare", "--kind", "data", "exports/spring/network.xml", "exports/autumn/network.xml"],
    },
    Stop {
        says: "A folder of exports, each file as what it is.",
        arguments: &["compare", "--kind", "auto", "exports/spring", "exports/autumn"],
    },
    Stop {
        says: "One row of a table carried across, by the number that the comparison prints.",
        arguments: &[
            "take",
            "--kind",
            "table",
            "--ignore",
            "column:updated_*",
            "--changes",
            "2",
            "--into",
            "before",
            "exports/spring/marks.csv",
            "exports/autumn/marks.csv",
            "-o",
            "marks.csv",
        ],
    },
    Stop {
        says: "What changed in the limits of the alarms, as operations on JSON.",
        arguments: &["patch", "--format", "json-patch", "exports/spring/limits.json", "exports/autumn/limits.json"],
    },
    Stop {
        says: "A function that moved to another script: named at both ends.",
        arguments: &[
            "compare",
            "--context",
            "1",
            "spring",
            "autumn",
            "scripts/week_report.py",
            "scripts/report_parts.py",
        ],
    },
    Stop {
        says: "A text that was wrapped anew. Which words changed?",
        arguments: &["compare", "--mute", "line-breaks", "--context", "1", "spring", "autumn", "guide.txt"],
    },
    Stop {
        says: "Code, with before and after beside each other; each change says which function it is in.",
        arguments: &[
            "compare",
            "--layout",
            "beside",
            "--width",
            "140",
            "--context",
            "1",
            "spring/scripts/tide_table.py",
            "autumn/scripts/tide_table.py",
        ],
    },
    Stop {
        says: "The same as one text, with what changed in place.",
        arguments: &[
            "compare",
            "--layout",
            "inline",
            "--context",
            "1",
            "spring/scripts/tide_table.py",
            "autumn/scripts/tide_table.py",
        ],
    },
    Stop {
        says: "Sixty lines differ by their clock, which the configuration mutes. Which of them matters?",
        arguments: &["compare", "--counted-only", "--context", "1", "spring", "autumn", "harbour-mouth.log"],
    },
    Stop {
        says: "A formatter indented this script anew. What else changed in it?",
        arguments: &["compare", "--ignore", "space-amount", "--context", "1", "spring", "autumn", "alarm.js"],
    },
    Stop {
        says: "Only its comments were edited: muted, and the exit status says that nothing differs that counts.",
        arguments: &["compare", "--mute", "comments", "--context", "0", "spring", "autumn", "gauge_math.py"],
    },
    Stop {
        says: "Why does a line count? The rule, where it was declared, and what it matched.",
        arguments: &["explain", "spring", "autumn", "harbour-mouth.log", "--line", "after:32"],
    },
    Stop {
        says: "A comparison that is saved in tideline.toml.",
        arguments: &["saved", "kit", "--only", "muted,changed"],
    },
    Stop {
        says: "For programs: JSON Lines, a record for the pair, one for each change, and a summary.",
        arguments: &["compare", "--json", "spring/stations/skerry-light.toml", "autumn/stations/skerry-light.toml"],
    },
    Stop {
        says: "For somebody who was not here: an index, and a page for each file. Open report/index.html in a browser.",
        arguments: &["report", "spring", "autumn", "-o", "report/"],
    },
    Stop {
        says: "Or one page that needs nothing else, to send along.",
        arguments: &[
            "report",
            "spring/scripts/tide_table.py",
            "autumn/scripts/tide_table.py",
            "-o",
            "tide_table.html",
            "--title",
            "Heights in feet",
        ],
    },
    Stop {
        says: "Or Markdown, for a code review.",
        arguments: &[
            "report",
            "--format",
            "markdown",
            "--context",
            "1",
            "spring/stations/harbour-mouth.toml",
            "autumn/stations/harbour-mouth.toml",
            "-o",
            "-",
        ],
    },
    Stop {
        says: "What differs in a configuration as a patch, for somebody who has only the spring edition.",
        arguments: &["patch", "spring/stations/harbour-mouth.toml", "autumn/stations/harbour-mouth.toml"],
    },
    Stop {
        says: "A patch of one folder; what the format cannot carry is named.",
        arguments: &["patch", "--context", "0", "spring/stations", "autumn/stations"],
    },
    Stop {
        says: "An editor's patch, made for the spring edition of the handbook, as it looks.",
        arguments: &["show", "--context", "1", "patches/editor.patch"],
    },
    Stop {
        says: "The handbook moved on since; the patch goes in where it belongs.",
        arguments: &["apply", "--into", "autumn", "patches/editor.patch"],
    },
    Stop { says: "Every run can be undone.", arguments: &["undo"] },
    Stop {
        says: "A second patch does not fit: nothing is written, and the very words are shown that stand in its way.",
        arguments: &["apply", "--into", "autumn", "patches/second-reading.patch"],
    },
    Stop {
        says: "What fits can go in all the same; the rest becomes a patch of its own.",
        arguments: &["apply", "--keep-going", "--into", "autumn", "patches/second-reading.patch"],
    },
    Stop { says: "And back again.", arguments: &["undo"] },
    Stop { says: "A copy of the spring edition, times and all.", arguments: &["sync", "spring", "copy", "--go"] },
    Stop {
        says: "What would make its stations and tools like those of autumn? Nothing is written yet.",
        arguments: &["sync", "--mirror", "autumn", "copy", "stations", "tools"],
    },
    Stop {
        says: "The same, done: what moved is moved, what autumn does not have goes.",
        arguments: &["sync", "--mirror", "autumn", "copy", "stations", "tools", "--go"],
    },
    Stop {
        says: "Two of the changes were not wanted: they are taken back.",
        arguments: &[
            "take",
            "spring/stations/harbour-mouth.toml",
            "copy/stations/harbour-mouth.toml",
            "--changes",
            "1,3",
            "--into",
            "after",
            "--context",
            "0",
        ],
    },
    Stop { says: "And that can be undone like everything else.", arguments: &["undo"] },
    Stop {
        says: "Keepers and the office both changed the spring edition. What did each do since?",
        arguments: &["compare", "--base", "spring", "keeper", "office"],
    },
    Stop {
        says: "In one file, in three columns.",
        arguments: &[
            "compare",
            "--base",
            "spring",
            "keeper",
            "office",
            "harbour-mouth.toml",
            "--layout",
            "beside",
            "--width",
            "120",
            "--context",
            "1",
        ],
    },
    Stop {
        says: "What both did goes together by itself into a new folder, but for two conflicts.",
        arguments: &["merge", "spring", "keeper", "office", "-o", "merged", "--go"],
    },
    Stop { says: "Where is something left to decide?", arguments: &["merge", "--unresolved", "merged"] },
    Stop {
        says: "The spring edition as it was sent around: a zip archive stands for its folder.",
        arguments: &["compare", "--exclude", "scripts,levels,notes,forms", "spring.zip", "autumn"],
    },
    Stop {
        says: "A repository holds both editions, and somebody works in it. What became different since the last commit?",
        arguments: &["compare", "--repository", REPOSITORY, "git:HEAD", REPOSITORY],
    },
    Stop {
        says: "And between the two commits, in one file?",
        arguments: &["compare", "--repository", REPOSITORY, "git:HEAD~1", "git:HEAD", "skerry-light.toml"],
    },
    Stop {
        says: "What a folder holds can be written down, to see later what became of it.",
        arguments: &["inventory", "spring", "-o", "spring.jsonl"],
    },
    Stop { says: "Here, of another copy.", arguments: &["inventory", "--check", "spring.jsonl", "copy"] },
    Stop {
        says: "And for scripts: nothing is printed, the exit status tells (0 same, 1 different, 2 it could not be told).",
        arguments: &["compare", "--quiet", "spring/stations/harbour-mouth.toml", "spring/stations/harbour-mouth.toml"],
    },
];

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
    let exports = [("exports/spring", 1_933_156_800), ("exports/autumn", 1_948_968_000)];
    for (season, seconds) in editions.into_iter().chain(exports) {
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
