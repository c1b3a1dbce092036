//! The layouts at several widths, with and without colour, on texts of wide and combining letters.

use std::process::Command;

use unicode_width::UnicodeWidthStr;

use crate::support::Folder;

const BEFORE: &str = "# 潮位計\n\tlevel = read()\ncafe\u{301} am Kai\nshort\nsame\n";
const AFTER: &str = "# 潮位計\n\tlevel = mean(read())\ncafe\u{301} am Pier\nshort\nsame\nadded 水位 at the end of a line that is long enough to wrap in half of eighty columns\n";

fn tides() -> Folder {
    Folder::with(&[("spring/t.py", BEFORE), ("autumn/t.py", AFTER)])
}

fn drawn(folder: &Folder, options: &[&str]) -> String {
    let mut arguments = options.to_vec();
    arguments.extend(["spring/t.py", "autumn/t.py"]);
    let ran = folder.run(&arguments);
    assert_eq!((ran.status, ran.err.as_str()), (Some(1), ""));
    ran.out
}

/// What is left when the colours are taken away.
fn without_colours(text: &str) -> String {
    let mut parts = text.split('\u{1b}');
    let first = parts.next().unwrap_or_default().to_owned();
    parts.fold(first, |text, part| text + part.split_once('m').map_or("", |(_, rest)| rest))
}

#[test]
fn beside_fits_its_width_and_keeps_its_columns() {
    let folder = tides();
    for width in [80, 160] {
        for colour in ["always", "never"] {
            let text = drawn(&folder, &["--layout", "beside", "--width", &width.to_string(), "--color", colour]);
            let text = without_colours(&text);
            let mut bars = Vec::new();
            for row in text.lines().filter(|row| row.contains(" │ ")) {
                assert!(row.width() <= width, "{width}: {row}");
                bars.push(row[..row.find('│').unwrap()].width());
            }
            assert!(bars.len() >= 7, "{text}");
            assert!(bars.iter().all(|&bar| bar == bars[0]), "{width}: the bar is straight: {bars:?}\n{text}");
            for piece in ["潮位計", "mean(read())", "cafe\u{301} am Pier", "columns"] {
                assert!(text.contains(piece), "{piece} at {width}: {text}");
            }
        }
    }
}

#[test]
fn beside_shows_both_halves_of_an_edited_line_in_one_row() {
    let text = drawn(&tides(), &["--layout", "beside", "--width", "80"]);
    let row = text.lines().find(|row| row.contains("am Kai")).unwrap();
    assert!(row.starts_with(" ○  3  cafe") && row.contains("│  ●  3  cafe\u{301} am Pier"), "{text}");
    let markers = text.lines().skip_while(|row| *row != row_of(&text)).nth(1).unwrap();
    let column = |row: &str, at: usize| row[..at].width();
    let place = |piece: &str| column(row, row.find(piece).unwrap());
    assert_eq!(markers.find('^').map(|at| column(markers, at)), Some(place("Kai")));
    assert_eq!(markers.rfind('^').map(|at| column(markers, at)), Some(place("Pier") + 3));
    let divider = |row: &str| row.find('│').map(|at| column(row, at));
    assert_eq!(divider(markers), divider(row), "the divider goes on: {text}");
}

fn row_of(text: &str) -> &str {
    text.lines().find(|row| row.contains("am Kai")).unwrap()
}

#[test]
fn inline_marks_words_in_place() {
    let folder = tides();
    for width in ["80", "160"] {
        let text = drawn(&folder, &["--layout", "inline", "--width", width]);
        assert!(text.contains(" ◐  3   3    cafe\u{301} am ○‹Kai›●‹Pier›\n"), "{text}");
        assert!(text.contains("level = ●‹mean(›read()●‹)›\n"), "{text}");
        let plain = drawn(&folder, &["--layout", "inline", "--plain"]);
        assert!(plain.contains("am o<Kai>*<Pier>\n"), "{plain}");
        let coloured = without_colours(&drawn(&folder, &["--layout", "inline", "--color", "always"]));
        assert!(coloured.contains("am KaiPier\n"), "{coloured}");
    }
}

#[test]
fn one_column_is_the_same_text_in_colour_and_without_at_every_width() {
    let folder = tides();
    for layout in ["stacked", "inline"] {
        for width in ["80", "160"] {
            let draw = |colour: &str| {
                drawn(&folder, &["--layout", layout, "--width", width, "--color", colour, "--no-legend"])
            };
            let marks = |text: &str| text.replace(['○', '●', '‹', '›', '^'], "").replace(" \n", "\n");
            let lines = |text: &str| -> Vec<String> {
                marks(text).lines().map(|row| row.trim_end().to_owned()).filter(|row| !row.is_empty()).collect()
            };
            assert_eq!(lines(&without_colours(&draw("always"))), lines(&draw("never")), "{layout} at {width}");
            let texts = ["潮位計", "cafe\u{301} am", "half of eighty columns", "level ="];
            assert!(texts.iter().all(|text| draw("never").contains(text)));
        }
    }
}

#[test]
fn every_layout_shows_the_same_changes() {
    let folder = tides();
    let headings = |layout: &str| -> Vec<String> {
        let text = drawn(&folder, &["--layout", layout]);
        text.lines().filter(|row| row.starts_with("  change ")).map(str::to_owned).collect()
    };
    assert_eq!(headings("stacked"), headings("beside"));
    assert_eq!(headings("stacked"), headings("inline"));
    assert_eq!(headings("stacked").len(), 2);
}

#[test]
fn a_moved_block_is_shown_at_both_ends() {
    let block = "the storm came from the west\nand the gauge stood under water\n";
    let rest: String = (0..20).map(|n| format!("reading {n}\n")).collect();
    let folder = Folder::with(&[("a", &format!("{block}{rest}")), ("b", &format!("{rest}{block}"))]);
    for layout in ["stacked", "inline", "beside"] {
        let ran = folder.run(&["--layout", layout, "a", "b"]);
        assert!(ran.out.contains("    1 change "), "{}", ran.out);
        assert!(ran.out.contains("change 1 of 1 · lines 1–2 moved to lines 21–22\n"), "{}", ran.out);
        assert!(ran.out.contains("change 1 of 1 · lines 21–22 moved here from lines 1–2\n"), "{}", ran.out);
        assert_eq!(ran.out.matches(" ↷ ").count(), 5, "four lines and the legend: {}", ran.out);
    }
}

#[test]
fn a_very_long_line_is_cut_around_its_change() {
    let line = |word: &str| format!("{}{word}{}\n", "x,".repeat(20_000), "y,".repeat(20_000));
    let folder = Folder::with(&[("a", &line("ebb")), ("b", &line("flow"))]);
    for layout in ["stacked", "beside", "inline"] {
        let ran = folder.run(&["--layout", layout, "a", "b"]);
        assert!(ran.out.len() < 12_000, "{} bytes", ran.out.len());
        assert!(ran.out.contains("ebb") && ran.out.contains("flow") && ran.out.contains("columns ...]"), "{}", ran.out);
    }
}

#[test]
fn code_is_coloured_by_its_syntax_unless_told_not_to() {
    let folder = tides();
    let colours = |options: &[&str]| {
        let text = drawn(&folder, &[&["--color", "always", "--context", "all"], options].concat());
        text.contains("\u{1b}[38;2;143;155;168m#")
    };
    assert!(colours(&[]), "the comment has the colour of comments");
    assert!(colours(&["--syntax", "on"]));
    assert!(!colours(&["--syntax", "off"]));
    let light = drawn(&folder, &["--color", "always", "--context", "all", "--theme", "light"]);
    assert!(light.contains("\u{1b}[38;2;93;103;113m#"), "{light:?}");
}

/// Runs a command line in a terminal of its own, by the `script` program of util-linux.
fn in_terminal(folder: &Folder, line: &str) -> Option<String> {
    let output = Command::new("script")
        .args(["-qec", line, "/dev/null"])
        .current_dir(folder.path())
        .env("TERM", "xterm-256color")
        .env("LESS", "FRX")
        .env_remove("NO_COLOR")
        .output()
        .ok()?;
    Some(String::from_utf8_lossy(&output.stdout).into_owned())
}

#[test]
fn long_output_on_a_terminal_goes_through_the_pager() {
    let before: String = (0..400).map(|n| format!("{n}\n")).collect();
    let folder = Folder::with(&[("a", &before), ("b", "none\n"), ("c", "0\n")]);
    let program = env!("CARGO_BIN_EXE_tideline");
    let run = |options: &str, pager: &str| {
        in_terminal(&folder, &format!("stty rows 24 cols 100; PAGER='{pager}' {program} --theme dark {options}"))
    };
    let Some(paged) = run("a b", "sed s/^/PAGED/") else {
        eprintln!("skipped: there is no `script` program to make a terminal with");
        return;
    };
    assert!(paged.contains("PAGED"), "{paged}");
    assert!(!run("--no-pager a b", "sed s/^/PAGED/").unwrap().contains("PAGED"));
    assert!(!run("c b", "sed s/^/PAGED/").unwrap().contains("PAGED"), "what fits on the screen is not paged");
    assert!(run("a b", "no-such-pager").unwrap().contains("399"), "without a pager the output still comes");
    let wide = in_terminal(&folder, &format!("stty rows 24 cols 150; {program} --theme dark --no-pager c b")).unwrap();
    assert!(wide.contains('│'), "a wide terminal shows both sides beside each other: {wide}");
}

#[test]
fn a_pager_that_can_search_steps_from_change_to_change() {
    let before: String = (0..400).map(|n| format!("{n}\n")).collect();
    let after = before.replace("\n100\n", "\nhundred\n").replace("\n300\n", "\nmore\n");
    let folder = Folder::with(&[("a", &before), ("b", &after)]);
    // A program of the pager's name that tells what it is started with.
    folder.write("bin/less", b"#!/bin/sh\nprintf 'GIVEN <%s>\\n' \"$@\"\ncat >/dev/null\n");
    let program = env!("CARGO_BIN_EXE_tideline");
    let line = format!(
        "stty rows 24 cols 100; chmod +x bin/less; PATH=$PWD/bin:$PATH PAGER=less {program} --context 30 --theme dark a b"
    );
    let Some(started) = in_terminal(&folder, &line) else { return };
    assert!(started.contains("GIVEN <-R>"), "colours come through whatever LESS says: {started}");
    assert!(started.contains("GIVEN <+/^  changes? [0-9]\r\ng>"), "{started}");
    assert!(started.contains("GIVEN <-Psn, N\\: next, previous change   q\\: quit>"), "{started}");
}

#[test]
fn few_colours_are_readable_on_either_ground() {
    let folder = Folder::with(&[("a", "low\n"), ("b", "high\n")]);
    let drawn = |theme: &str| {
        let mut command = folder.command(&["--color", "always", "--theme", theme, "a", "b"]);
        let output = command.env_remove("COLORTERM").output().unwrap();
        String::from_utf8(output.stdout).unwrap()
    };
    // Yellow and cyan on dark, red and blue on light; never one of the other ground's.
    let (dark, light) = (drawn("dark"), drawn("light"));
    assert!(dark.contains("\u{1b}[33m") && dark.contains("\u{1b}[36m"), "{dark:?}");
    assert!(light.contains("\u{1b}[31m") && light.contains("\u{1b}[34m"), "{light:?}");
    assert!(!light.contains("\u{1b}[33m") && !light.contains("\u{1b}[36m") && !light.contains("38;2"), "{light:?}");
    let noted = folder.run(&["--syntax", "on", "a", "b"]);
    assert_eq!(noted.err, "tideline: note: --syntax on does nothing here: it needs 256 colours or more\n");
    let unknown = folder.run(&["--syntax", "on", "--color", "always", "a", "b"]);
    assert!(unknown.err.contains("the name of the file does not tell a language that is known"), "{}", unknown.err);
    let known = folder.run(&["compare", "--syntax", "on", "--color", "always", "a", "b", "--quiet"]);
    assert_eq!(known.err, "");
}

#[test]
fn everything_of_a_giant_line_can_be_shown() {
    let line: String = (0..20_000).map(|at| format!("v{at},")).collect();
    let folder =
        Folder::with(&[("a.txt", &format!("{line}\n")), ("b.txt", &format!("{}\n", line.replace("v9000,", "x,")))]);
    for layout in ["stacked", "beside", "inline"] {
        let arguments = ["a.txt", "b.txt", "--layout", layout];
        let cut = folder.run(&arguments);
        assert!(cut.out.len() < 20_000 && cut.out.contains("columns ...]"), "{layout}: {}", cut.out);
        let whole = folder.run(&[&arguments[..], &["--context", "all"]].concat());
        assert!(whole.out.len() > line.len() && !whole.out.contains("columns ...]"), "{layout}");
    }
    let page = |context: &str| {
        folder.run(&["report", "a.txt", "b.txt", "-o", "-", "--format", "html", "--context", context]).out
    };
    assert!(page("3").contains("columns ...]"));
    assert!(!page("all").contains("columns ...]"));
}
