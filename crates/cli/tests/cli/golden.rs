//! All that every command prints and writes on the demo data, kept in `tests/golden/`: what is not meant to change does not.
//!
//! `TIDELINE_WRITE_GOLDEN=1 cargo test -p tideline --test cli golden` writes the files anew; `git diff` then shows what changed.

use std::fs;
use std::path::{Path, PathBuf};

use regex::Regex;

use crate::support::Folder;

/// Each file with the commands whose output it holds, in the order in which they run.
const FILES: &[(&str, &[&str])] = &[
    (
        "compare-tree",
        &[
            "compare spring autumn",
            "spring autumn --plain",
            "spring autumn --only same,changed --also-compare mode,time",
            "spring autumn stations notes/handbook.txt",
            "spring autumn --no-moves --width 70",
            "spring autumn --quiet",
            "spring spring",
            "spring autumn --counted-only --flat",
            "spring autumn --exclude *.toml --color always",
        ],
    ),
    (
        "sections",
        &[
            "spring autumn --sections",
            "spring/scripts/tide_table.py autumn/scripts/tide_table.py --sections --plain",
            "spring/scripts/alarm.js autumn/scripts/alarm.js --sections --json",
            "spring autumn --repeats",
            "spring autumn forms --repeats --json",
        ],
    ),
    (
        "kinds",
        &[
            "--kind table exports/spring/marks.csv exports/autumn/marks.csv",
            "--kind table --ignore column:updated_* exports/spring/marks.csv exports/autumn/marks.csv --layout beside --plain",
            "--kind table --mute column:updated_* exports/spring/marks.csv exports/autumn/marks.csv --json",
            "--kind data exports/spring/uplink.json exports/autumn/uplink.yaml --context 1",
            "--kind data exports/spring/uplink.json exports/autumn/uplink.yaml --json",
            "--kind data exports/spring/network.xml exports/autumn/network.xml --plain",
            "--kind auto exports/spring exports/autumn",
            "--kind auto exports/spring exports/autumn --json",
            "exports/spring/network.xml exports/autumn/network.xml --context 0",
            "take --kind table --changes 2 --into before exports/spring/marks.csv exports/autumn/marks.csv",
            "report --kind table --mute column:updated_* exports/spring/marks.csv exports/autumn/marks.csv -o marks.md",
            "report --kind data exports/spring/uplink.json exports/autumn/uplink.yaml -o uplink.html",
        ],
    ),
    (
        "media",
        &[
            "media/spring media/autumn",
            "media/spring media/autumn --each-file --plain",
            "media/spring/chart.png media/autumn/chart.png --color always --width 100",
            "media/spring/chart.png media/autumn/chart.png --tolerance 30 --json",
            "media/spring/gauge.bin media/autumn/gauge.bin --layout beside --width 160",
            "media/spring/gauge.bin media/autumn/gauge.bin --json",
            "media/spring/letter.docx media/autumn/letter.docx --layout beside --width 160",
            "media/spring/letter.docx media/autumn/letter.docx --json",
            "media/spring/levels.xlsx media/autumn/levels.xlsx --counted-only",
            "media/spring/levels.xlsx media/autumn/levels.xlsx --json",
            "take --changes 1,3 --into before media/spring/gauge.bin media/autumn/gauge.bin -o gauge.bin",
            "explain media/spring/chart.png media/autumn/chart.png --change 1",
            "report media/spring media/autumn -o media.md",
            "report media/spring/gauge.bin media/autumn/gauge.bin -o gauge.html",
        ],
    ),
    ("compare-tree-json", &["spring autumn --json", "spring autumn stations --json"]),
    (
        "compare-file",
        &[
            "spring/notes/handbook.txt autumn/notes/handbook.txt",
            "spring/scripts/tide_table.py autumn/scripts/tide_table.py --plain",
            "spring/scripts/tide_table.py autumn/scripts/tide_table.py --layout beside --width 120 --color always",
            "spring/scripts/tide_table.py autumn/scripts/tide_table.py --layout inline --context all",
            "spring/scripts/alarm.js autumn/scripts/alarm.js --mute space-amount",
            "spring/logs/harbour-mouth.log autumn/logs/harbour-mouth.log --grain letter --context 0",
            "spring/chart/estuary.png autumn/chart/estuary.png",
            "spring autumn scripts/week_report.py scripts/report_parts.py",
            "spring/levels/stations.sql autumn/levels/stations.sql --context 1",
            "spring/contacts autumn/contacts",
        ],
    ),
    (
        "compare-file-json",
        &[
            "spring/notes/handbook.txt autumn/notes/handbook.txt --json",
            "spring/logs/harbour-mouth.log autumn/logs/harbour-mouth.log --json",
            "spring/chart/estuary.png autumn/chart/estuary.png --json",
        ],
    ),
    (
        "rules",
        &[
            "rules",
            "rules test spring/logs/harbour-mouth.log",
            "explain spring/logs/harbour-mouth.log autumn/logs/harbour-mouth.log --line before:3",
            "spring/forms/guide.txt autumn/forms/guide.txt --mute line-breaks",
            "spring/forms/guide.txt autumn/forms/guide.txt --ignore line-breaks --json",
            "explain spring/scripts/alarm.js autumn/scripts/alarm.js --line after:5 --mute space-amount",
            "saved",
        ],
    ),
    (
        "patch",
        &[
            "patch spring autumn",
            "patch spring autumn --format extended",
            "patch spring/notes/handbook.txt autumn/notes/handbook.txt --context 1",
            "show patches/editor.patch",
            "show patches/editor.patch --layout beside --width 120",
        ],
    ),
    (
        "report",
        &[
            "report spring autumn -o report.md",
            "report spring autumn -o report.json",
            "report spring autumn stations -o stations.html",
            "report spring/notes/handbook.txt autumn/notes/handbook.txt -o handbook.html",
        ],
    ),
    (
        "merge",
        &[
            "--base spring keeper office",
            "--base spring keeper office --plain --only conflict,apart --width 60",
            "--base spring keeper office --json",
            "--base spring keeper office gauge_math.py --context 1",
            "--base spring keeper office harbour-mouth.toml --layout beside --width 120 --color always",
            "--base spring keeper office harbour-mouth.toml --layout beside --width 90 --plain --context 0",
            "--base spring keeper office harbour-mouth.toml --layout inline --context 1",
            "--base spring keeper office harbour-mouth.toml --json",
            "merge spring/stations/harbour-mouth.toml keeper/stations/harbour-mouth.toml office/stations/harbour-mouth.toml",
            "merge spring/notes/keepers.txt keeper/notes/keepers.txt office/notes/keepers.txt --json",
            "merge spring/scripts/gauge_math.py keeper/scripts/gauge_math.py office/scripts/gauge_math.py -o gauge_math.py",
            "merge spring keeper office --list --plain",
            "merge spring keeper office -o keeper",
            "merge spring keeper office -o keeper --go --prefer theirs",
            "merge spring keeper office -o keeper --go --json",
            "merge --unresolved keeper",
            "merge --unresolved keeper --json",
            "undo",
            "report --base spring keeper office -o both.md",
            "report --base spring/notes/keepers.txt keeper/notes/keepers.txt office/notes/keepers.txt -o keepers.json",
        ],
    ),
    (
        "write",
        &[
            "apply --dry-run --into autumn patches/editor.patch",
            "apply --into autumn patches/editor.patch",
            "apply --into autumn patches/editor.patch",
            "apply --json --into autumn patches/second-reading.patch",
            "apply --keep-going --into autumn patches/second-reading.patch",
            "undo",
            "take spring/stations/harbour-mouth.toml autumn/stations/harbour-mouth.toml --changes 1,3 --into before --dry-run",
            "take spring/stations/harbour-mouth.toml autumn/stations/harbour-mouth.toml --changes 1,3 --into before --json",
            "take spring/stations/harbour-mouth.toml autumn/stations/harbour-mouth.toml --changes 2 --into after",
            "sync spring copy",
            "sync spring copy --go",
            "sync --mirror autumn copy",
            "sync --mirror autumn copy --json",
            "sync --mirror autumn copy --go",
            "undo",
            "runs",
            "runs --json",
            "undo 1",
        ],
    ),
    (
        "trouble",
        &[
            "",
            "spring",
            "spring nowhere",
            "spring spring/README.md",
            "compare spring autumn --ignore nosuchrule",
            "compare spring autumn --only nosuch",
            "apply --into autumn nowhere.patch",
            "apply --into autumn spring/README.md",
            "undo 77",
            "sync spring spring",
            "sync spring spring/notes",
            "take spring autumn --changes 1",
            "explain spring autumn --line after:1",
            "report spring autumn",
            "patch spring spring/README.md",
            "show spring/README.md",
            "saved nosuch",
        ],
    ),
    (
        "help",
        &[
            "--help",
            "compare --help",
            "explain --help",
            "patch --help",
            "report --help",
            "show --help",
            "apply --help",
            "take --help",
            "merge --help",
            "review --help",
            "inventory --help",
            "sync --help",
            "undo --help",
            "runs --help",
            "rules --help",
            "saved --help",
            "demo --help",
            "completions --help",
            "manual --help",
        ],
    ),
];

fn golden(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/golden").join(format!("{name}.txt"))
}

/// What a command printed, how it ended, and what it wrote to the file that `-o` names.
fn told(folder: &Folder, typed: &str) -> String {
    let words: Vec<&str> = typed.split_whitespace().collect();
    let demo = folder.path().join("tideline-demo");
    let mut command = folder.command(&words);
    let ran = crate::support::Ran::of(&command.current_dir(&demo).env("TZ", "UTC").output().unwrap());
    let mut told = format!("$ tideline {typed}\n{}", ran.out);
    for (mark, text) in [("standard error", &ran.err)] {
        if !text.is_empty() {
            told.push_str(&format!("[{mark}]\n{text}"));
        }
    }
    let output = words.iter().position(|word| *word == "-o").map(|at| words[at + 1]);
    if let Some(name) = output.filter(|name| demo.join(name).is_file()) {
        let written = fs::read(demo.join(name)).unwrap();
        let written = String::from_utf8(written).unwrap_or_else(|error| {
            let bytes = error.into_bytes();
            format!("{} bytes, hash {}", bytes.len(), blake3::hash(&bytes).to_hex())
        });
        told.push_str(&format!("[{name}]\n{written}\n"));
    }
    told.push_str(&format!("[exit status {}]\n\n", ran.status.unwrap()));
    told
}

/// Without what differs from one run to the next: the folder of the test and the time.
fn masked(folder: &Folder, text: &str) -> String {
    let real = folder.path().canonicalize().unwrap();
    let text = text.replace(real.to_str().unwrap(), "FOLDER").replace(folder.path().to_str().unwrap(), "FOLDER");
    // The demo data is of the 2030s.
    let time = Regex::new(r"202\d-\d\d-\d\d([ T]\d\d:\d\d(:\d\d(\.\d+)?)?( ?[+-]\d\d:?\d\d|Z)?)?").unwrap();
    let text = time.replace_all(&text, "TIME");
    let identity = Regex::new(r#""identity":\[\d+,\d+\]"#).unwrap();
    let token = Regex::new(r#""token":"[0-9a-f]+""#).unwrap();
    let since = Regex::new(r#":\[1[78]\d{8},\d+\]"#).unwrap();
    let text = identity.replace_all(&text, r#""identity":IDENTITY"#);
    let text = token.replace_all(&text, r#""token":TOKEN"#);
    since.replace_all(&text, ":TIME").into_owned()
}

#[test]
fn what_is_not_meant_to_change_does_not() {
    let is_writing = std::env::var_os("TIDELINE_WRITE_GOLDEN").is_some();
    for (name, commands) in FILES {
        let folder = Folder::new();
        assert_eq!(folder.run(&["demo"]).status, Some(0));
        // Runs are counted from those that the demo left behind.
        let text: String = commands.iter().map(|typed| told(&folder, typed)).collect();
        let text = masked(&folder, &text);
        if is_writing {
            fs::write(golden(name), &text).unwrap();
        }
        let expected = fs::read_to_string(golden(name)).unwrap_or_default();
        let differs = text.lines().zip(expected.lines()).enumerate().find(|(_, (one, other))| one != other);
        if let Some((line, (is, was))) = differs {
            panic!("{name}.txt, line {}, was\n{was}\nand is\n{is}", line + 1);
        }
        assert_eq!(text.len(), expected.len(), "{name}.txt ends differently");
    }
}
