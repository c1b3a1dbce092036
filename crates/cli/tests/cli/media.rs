//! What is not text, as people meet it: images, bytes, documents, and programs of their own that read them.

use std::fs;

use serde_json::Value;

use crate::support::browser::Page;
use crate::support::terminal::Terminal;
use crate::support::{Folder, Ran};

macro_rules! demo {
    ($name:literal) => {
        (
            include_bytes!(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/media/spring/", $name)) as &[u8],
            include_bytes!(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/media/autumn/", $name)) as &[u8],
        )
    };
}

/// The demo's files that are not text, in two folders.
fn media() -> Folder {
    let folder = Folder::new();
    for (name, (spring, autumn)) in [
        ("chart.png", demo!("chart.png")),
        ("gauge.bin", demo!("gauge.bin")),
        ("letter.docx", demo!("letter.docx")),
        ("levels.xlsx", demo!("levels.xlsx")),
    ] {
        folder.write(&format!("spring/{name}"), spring);
        folder.write(&format!("autumn/{name}"), autumn);
    }
    folder
}

fn both(name: &str) -> [String; 2] {
    [format!("spring/{name}"), format!("autumn/{name}")]
}

fn run(folder: &Folder, before: &[&str], name: &str) -> Ran {
    let both = both(name);
    folder.run(&[before, &[both[0].as_str(), both[1].as_str()]].concat())
}

fn records(ran: &Ran) -> Vec<Value> {
    ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

fn told(ran: &Ran, all: &[&str]) {
    for words in all {
        assert!(ran.out.contains(words), "{words:?} is told: {}{}", ran.out, ran.err);
    }
}

#[test]
fn a_tree_counts_each_kind_in_its_unit() {
    let folder = media();
    let ran = folder.run(&["spring", "autumn"]);
    assert_eq!(ran.status, Some(1));
    told(
        &ran,
        &[
            "chart.png      2 changes, 615 pixels",
            "gauge.bin      5 changes, 4 ○ 19 ● bytes",
            "letter.docx    4 changes, 2 ○ 4 ● paragraphs",
            "levels.xlsx    5 changes, 2 ○ 10 ● cells",
        ],
    );
    let pairs = records(&folder.run(&["--json", "spring", "autumn"]));
    let units: Vec<&str> = pairs.iter().filter_map(|record| record["unit"].as_str()).collect();
    assert_eq!(units, ["pixels", "bytes", "paragraphs", "cells"]);
    let each = folder.run(&["--each-file", "--no-legend", "spring", "autumn"]);
    told(&each, &["at 146, 128", "offset 0x500 (1,280) · 15 bytes new", "paragraph 7 new", "sheet Levels, row 2"]);
}

#[test]
fn an_image_is_told_in_numbers_and_regions_and_shown_in_small_where_there_are_colours() {
    let folder = media();
    let ran = run(&folder, &[], "chart.png");
    told(
        &ran,
        &[
            "320 × 200 pixels, PNG, RGB, 8 bits a channel",
            "615 of 64,000 pixels differ (1.0 %)",
            "text Edition: spring 2031, now autumn 2031",
            "1 ◐ 33 × 26 pixels at 189, 89   174 pixels differ",
        ],
    );
    assert!(!ran.out.contains('▀'));
    let coloured = run(&folder, &["--color", "always"], "chart.png");
    assert!(coloured.out.contains('▀') && coloured.out.contains("what differs"));
    assert!(coloured.out.contains("\x1b[38;2;"), "in the colours of the image");
    assert!(!run(&folder, &["--color", "always", "--no-preview"], "chart.png").out.contains('▀'));
    let chosen = run(&folder, &["--changes", "2"], "chart.png");
    assert!(chosen.out.contains("at 146, 128") && !chosen.out.contains("at 189, 89"), "{}", chosen.out);
    let records = records(&run(&folder, &["--json"], "chart.png"));
    let image = records.iter().find(|record| record["record"] == "image").unwrap();
    assert_eq!((&image["differing"], &image["before"]["width"]), (&615.into(), &320.into()));
    assert_eq!(image["attributes"][0]["after"], "autumn 2031");
    let pixels: Vec<&Value> = records.iter().filter(|record| record["record"] == "pixels").collect();
    assert_eq!((pixels.len(), &pixels[1]["after"]["x"]), (2, &146.into()));
    // Everything is near enough to everything.
    let near = run(&folder, &["--tolerance", "100"], "chart.png");
    assert_eq!(near.status, Some(0));
    told(&near, &["0 changes", "muted 615 pixels: tolerance 100"]);
}

#[test]
fn the_same_pixels_in_other_bytes_are_muted_and_quiet_says_so_too() {
    let folder = media();
    let png = demo!("chart.png").0;
    // A chunk of text more, between two others.
    let mut with_text = png[..33].to_vec();
    let data = b"Place\0the outer bar";
    let mut crc = flate2::Crc::new();
    crc.update(b"tEXt");
    crc.update(data);
    with_text.extend_from_slice(&(data.len() as u32).to_be_bytes());
    with_text.extend_from_slice(b"tEXt");
    with_text.extend_from_slice(data);
    with_text.extend_from_slice(&crc.sum().to_be_bytes());
    with_text.extend_from_slice(&png[33..]);
    folder.write("autumn/chart.png", &with_text);
    let ran = run(&folder, &[], "chart.png");
    assert_eq!(ran.status, Some(0), "{}", ran.out);
    told(&ran, &["muted 1 place: metadata 1", "text Place: none, now the outer bar"]);
    assert_eq!(run(&folder, &["--quiet"], "chart.png").status, Some(0));
    assert_eq!(run(&folder, &["--quiet", "--kind", "bytes"], "chart.png").status, Some(1));
    let tree = folder.run(&["spring", "autumn", "chart.png"]);
    assert_eq!(tree.status, Some(0), "{}", tree.out);
    fs::remove_dir_all(folder.path().join("one")).unwrap_or_default();
    for (side, bytes) in [("one", png), ("two", &with_text[..])] {
        folder.write(&format!("{side}/chart.png"), bytes);
    }
    assert_eq!(folder.run(&["--quiet", "one", "two"]).status, Some(0));
    told(&folder.run(&["one", "two"]), &["1 muted", "chart.png    1 place muted: metadata"]);
    // A document that was only packed anew: the time of its first part is another.
    let letter = demo!("letter.docx").0;
    let mut repacked = letter.to_vec();
    repacked[10] ^= 1;
    folder.write("spring/letter.docx", letter);
    folder.write("autumn/letter.docx", &repacked);
    let ran = run(&folder, &[], "letter.docx");
    assert_eq!(ran.status, Some(0), "{}", ran.out);
    told(&ran, &["muted 1 place: packing of the document"]);
    assert_eq!(run(&folder, &["--quiet"], "letter.docx").status, Some(0));
    assert_eq!(folder.run(&["--quiet", "spring", "autumn", "letter.docx"]).status, Some(0));
    // Whoever writes goes by bytes.
    let sync = folder.run(&["sync", "two", "one", "--go"]);
    assert_eq!(sync.status, Some(0), "{}{}", sync.out, sync.err);
    assert_eq!(folder.read("one/chart.png"), with_text);
}

#[test]
fn a_report_writes_both_images_and_the_difference() {
    let folder = media();
    let ran = run(&folder, &["report", "-o", "chart-difference.png"], "chart.png");
    assert_eq!(ran.status, Some(1), "{}", ran.err);
    let png = folder.read("chart-difference.png");
    assert!(png.starts_with(b"\x89PNG"));
    let size = |at: usize| u32::from_be_bytes([png[at], png[at + 1], png[at + 2], png[at + 3]]);
    assert_eq!((size(16), size(20)), (3 * 320 + 4 * 16, 200 + 2 * 16));
    for (arguments, why) in [
        (&["report", "-o", "x.png", "spring/gauge.bin", "autumn/gauge.bin"][..], "they are not both images"),
        (&["report", "-o", "x.png", "spring", "autumn"], "name the two images"),
    ] {
        let ran = folder.run(arguments);
        assert_eq!(ran.status, Some(2), "{arguments:?}");
        assert!(ran.err.contains(why), "{}", ran.err);
        assert!(!folder.path().join("x.png").exists());
    }
    let markdown = run(&folder, &["report", "-o", "-", "--format", "markdown"], "chart.png");
    told(&markdown, &["615 of 64,000 pixels differ", "33 × 17 pixels at 146, 128"]);
}

#[test]
fn a_page_of_images_is_blended_zoomed_and_stepped_through_in_a_browser() {
    let folder = media();
    assert_eq!(run(&folder, &["report", "-o", "page.html"], "chart.png").status, Some(1));
    let Some(page) = Page::new() else { return };
    page.open(&folder.path().join("page.html"));
    page.assert_quiet(folder.path());
    let loaded = "[...document.querySelectorAll('.pictures img')].every((image) => image.naturalWidth > 0)";
    assert_eq!(page.get(loaded), true, "images come from the page itself");
    assert_eq!(page.get("document.querySelectorAll('.boxes rect').length"), 2);
    let view = || page.get("document.querySelector('.pictures').dataset.view");
    assert_eq!(view(), "beside");
    page.click("[data-show=blend]");
    assert_eq!(view(), "blend");
    assert_eq!(page.get("document.querySelector('.layers .new').style.opacity"), "0.5");
    assert_eq!(page.get("getComputedStyle(document.querySelector('.layers .under')).visibility"), "visible");
    page.get("(() => { const input = document.querySelector('.blend-tool input'); input.value = 80; input.dispatchEvent(new Event('input')); return 1; })()");
    assert_eq!(page.get("document.querySelector('.layers .new').style.opacity"), "0.8");
    page.click("[data-swap]");
    assert_eq!(page.get("document.querySelector('.layers .new').style.opacity"), "0.2");
    page.click("[data-show=difference]");
    assert_eq!(page.get("getComputedStyle(document.querySelector('.layers .mask')).visibility"), "visible");
    assert_eq!(page.get("document.querySelector('.layers .new').style.opacity"), "");
    page.click(".same-tool input");
    assert_eq!(page.get("getComputedStyle(document.querySelector('.layers .new')).visibility"), "hidden");
    let transform = || page.get("document.querySelector('.stage.after .layers').style.transform");
    let fitted = transform();
    page.click("[data-zoom='1']");
    assert_ne!(transform(), fitted);
    page.click("[data-zoom='0']");
    assert_eq!(transform(), fitted);
    page.click(".regions tr:nth-child(2) td:nth-child(3)");
    assert_ne!(transform(), fitted, "the region is looked at");
    assert_eq!(page.get("document.querySelector('.boxes rect.now').getAttribute('x')"), "146");
    page.press("b");
    assert_eq!(page.get("document.querySelector('.boxes rect.now').getAttribute('x')"), "189");
}

#[test]
fn damaged_images_are_unreadable_with_the_reason_and_the_rest_goes_on() {
    let folder = media();
    let png = demo!("chart.png").1;
    folder.write("autumn/chart.png", &png[..png.len() / 2]);
    let ran = run(&folder, &[], "chart.png");
    assert_eq!((ran.status, ran.out.as_str()), (Some(2), ""));
    assert!(ran.err.contains("cannot compare autumn as image: ") && ran.err.contains("--kind bytes"), "{}", ran.err);
    assert_eq!(run(&folder, &["--kind", "bytes"], "chart.png").status, Some(1));
    let tree = folder.run(&["spring", "autumn"]);
    assert_eq!(tree.status, Some(2));
    told(&tree, &["1 unreadable", "! chart.png", "gauge.bin      5 changes"]);
    let report = folder.run(&["report", "spring", "autumn", "-o", "report/"]);
    assert_eq!(report.status, Some(2), "{}", report.err);
}

#[test]
fn ranges_of_bytes_are_shown_beside_each_other_and_taken_by_number() {
    let folder = media();
    let ran = run(&folder, &["--layout", "beside", "--width", "160", "--context", "0", "--plain"], "gauge.bin");
    told(
        &ran,
        &[
            "o 0020  72 65 20 31 2e 34 00 00  00 00 00 00 00 00 00 00  re 1.4.......... : * 0020  72 65 20 31 2e 35",
            "change 3 of 5 - offset 0x500 (1,280) - 15 bytes new",
        ],
    );
    let narrow = run(&folder, &["--layout", "beside", "--width", "60"], "gauge.bin");
    assert!(
        narrow.out.lines().filter(|line| line.contains('│')).all(|line| line.chars().count() <= 60),
        "{}",
        narrow.out
    );
    let taken = run(&folder, &["take", "--changes", "1,3", "--into", "before"], "gauge.bin");
    assert_eq!(taken.status, Some(0), "{}", taken.err);
    told(&taken, &["took 2 of 5 changes into spring/gauge.bin", "as it is now"]);
    let now = folder.read("spring/gauge.bin");
    assert_eq!(&now[0x500..0x50f], b"Held\x01\x02guard\0\x7f\x7f\x7f");
    assert_eq!(
        records(&run(&folder, &["--json"], "gauge.bin")).iter().filter(|record| record["record"] == "range").count(),
        3
    );
    folder.run(&["undo"]);
    assert_eq!(folder.read("spring/gauge.bin"), demo!("gauge.bin").0);
    run(&folder, &["take", "--changes", "1-5", "--into", "before", "-o", "all.bin"], "gauge.bin");
    assert_eq!(folder.read("all.bin"), demo!("gauge.bin").1);
    let dry = run(&folder, &["take", "--changes", "1", "--into", "after", "--dry-run", "--json"], "gauge.bin");
    assert_eq!((dry.status, records(&dry).last().unwrap()["run"].as_u64()), (Some(0), None));
    assert_eq!(folder.read("autumn/gauge.bin"), demo!("gauge.bin").1);
}

#[test]
fn documents_are_told_by_places_that_a_reader_knows() {
    let folder = media();
    told(
        &run(&folder, &["--no-legend"], "letter.docx"),
        &[
            "office text (DOCX); not compared: ",
            "change 1 of 4 · paragraph 4 · in The lamp",
            " ○  4        The lamp was lit on every night of the season. The new wick burns shorter than the last one.",
            "change 2 of 4 · paragraph 7 new · in The gauges",
        ],
    );
    told(
        &run(&folder, &["--no-legend"], "levels.xlsx"),
        &[
            "sheet Levels: 4 rows, now 5: 1 edited, 1 new; rows matched by gauge (found)",
            "change 1 of 7 · sheet Levels, row 2 · gauge Harbour mouth",
            " ◐ C2 high_m   3.81 → 3.86",
            "sheet Crew: new: 2 rows",
        ],
    );
    let cells = records(&run(&folder, &["--json"], "levels.xlsx"));
    let row = cells.iter().find(|record| record["record"] == "row").unwrap();
    assert_eq!((&row["sheet"], &row["cells"][0]["cell"]), (&"Levels".into(), &"C2".into()));
    // The archive that a document is inside is opened when that is asked for.
    told(&run(&folder, &["--kind", "archive"], "letter.docx"), &["letter.docx: zip archive", "document.xml"]);
    assert_eq!(run(&folder, &["--ignore", "numbers", "--quiet"], "letter.docx").status, Some(1));
    let sections = run(&folder, &["--sections"], "letter.docx");
    told(&sections, &["The gauges"]);
    for name in ["letter.docx", "levels.xlsx"] {
        let taken = run(&folder, &["take", "--changes", "1", "--into", "before"], name);
        assert_eq!(taken.status, Some(2));
        assert!(taken.err.contains("they are documents"), "{}", taken.err);
    }
    assert_eq!(run(&folder, &["report", "-o", "page.html"], "levels.xlsx").status, Some(1));
    let page = String::from_utf8(folder.read("page.html")).unwrap();
    assert!(page.contains("<h3>sheet Levels</h3>") && page.contains("<ins>3.8<mark>6</mark></ins>"));
    assert_eq!(run(&folder, &["report", "-o", "page.html"], "letter.docx").status, Some(1));
    assert!(String::from_utf8(folder.read("page.html")).unwrap().contains("paragraph 7 new"));
}

#[test]
fn a_patch_names_what_it_cannot_carry() {
    let folder = media();
    let ran = folder.run(&["patch", "spring", "autumn"]);
    for name in ["chart.png", "gauge.bin", "letter.docx", "levels.xlsx"] {
        assert!(ran.err.contains(&format!("not in the patch: {name}")), "{name}: {}", ran.err);
    }
    let image = run(&folder, &["take", "--changes", "1", "--into", "before"], "chart.png");
    assert_eq!(image.status, Some(2));
    assert!(image.err.contains("regions of images are not carried"), "{}", image.err);
    assert_eq!(folder.read("spring/chart.png"), demo!("chart.png").0);
}

#[test]
fn what_is_not_carried_in_parts_is_taken_and_merged_as_a_whole() {
    let folder = media();
    for (name, why) in [
        ("chart.png", "regions of images are not carried"),
        ("letter.docx", "documents, of which only the text is read"),
        ("levels.xlsx", "documents, of which only the text is read"),
    ] {
        let [spring, autumn] = both(name).map(|path| folder.read(&path));
        let taken = run(&folder, &["take", "--changes", "1", "--into", "before"], name);
        assert_eq!(taken.status, Some(2));
        assert!(taken.err.contains(why) && taken.err.contains("take the whole file"), "{}", taken.err);
        assert_eq!(folder.read(&format!("spring/{name}")), spring);
        // One side changed it: that one is the result.
        let base = format!("base-{name}");
        folder.write(&base, &spring);
        let [mine, theirs] = both(name);
        let merged = folder.run(&["merge", &base, &mine, &theirs, "-o", "merged"]);
        assert_eq!(merged.status, Some(0), "{}", merged.err);
        assert_eq!(folder.read("merged"), autumn);
        // Both did: neither is lost, and nothing claims to be the result.
        folder.write(&mine, &[&spring[..], b"\n"].concat());
        let clash = format!("clash-{name}");
        let merged = folder.run(&["merge", &base, &mine, &theirs, "-o", &clash]);
        assert_eq!(merged.status, Some(1), "{}", merged.err);
        told(&merged, &[&format!("not merged into {clash}: not text, and both")]);
        assert!(!folder.path().join(&clash).exists());
        assert_eq!(folder.read(&format!("{clash}.autumn-{name}.conflict")), autumn);
    }
}

#[test]
fn explain_says_how_a_file_was_read_and_why() {
    let folder = media();
    for (name, words) in [
        ("chart.png", "compared as images, pixel by pixel (PNG): both begin like images"),
        ("gauge.bin", "compared byte by byte: they are not both text, nor images or documents of one kind"),
        ("letter.docx", "compared as the text of documents, paragraph by paragraph (office text (DOCX))"),
        ("levels.xlsx", "compared as sheets, each a table (workbook (XLSX))"),
    ] {
        let ran = run(&folder, &["explain"], name);
        assert_eq!(ran.status, Some(0), "{}", ran.err);
        told(&ran, &[words]);
    }
    told(&run(&folder, &["explain", "--kind", "bytes"], "chart.png"), &["compared byte by byte: --kind says so"]);
    folder.write("tideline.toml", b"[[kind]]\nfiles = \"*.png\"\nkind = \"bytes\"\n");
    told(&run(&folder, &["explain"], "chart.png"), &["a [[kind]] of the configuration says so for *.png"]);
    let record = &records(&run(&folder, &["explain", "--json"], "gauge.bin"))[0];
    assert_eq!((&record["record"], &record["kind"]), (&"reading".into(), &"bytes".into()));
    told(&run(&folder, &["explain", "--change", "2"], "levels.xlsx"), &["change 2, ", "counts: no rule"]);
    assert!(run(&folder, &["explain", "--line", "before:1"], "gauge.bin").err.contains("not compared by lines"));
}

#[test]
fn the_screen_shows_an_image_and_steps_through_bytes() {
    let folder = media();
    let mut screen =
        Terminal::start(&folder, env!("CARGO_BIN_EXE_tideline"), &["review", "spring", "autumn"], (110, 30));
    screen.shows("4 files: 0 same");
    screen.keys("\r");
    let shown = screen.shows("what differs");
    assert!(shown.contains('▀') && shown.contains("615 of 64,000 pixels differ"), "{shown}");
    screen.keys(".");
    screen.shows("change 1 of 5");
    screen.keys("nn");
    screen.shows("change 5 of 5");
    screen.keys(".");
    screen.shows("paragraph 7 new");
    screen.keys("\u{1b}");
    screen.shows("4 files: 0 same");
    screen.keys("q");
    assert_eq!(screen.end().code(), Some(1));
}

#[cfg(unix)]
mod converters {
    use super::*;
    use std::os::unix::fs::PermissionsExt;

    /// Charts of a format that nobody knows, and a program that reads them.
    fn charts() -> Folder {
        let folder = Folder::new();
        folder.write("old.chart", b"\0\x01depth 4\nmouth 3\n");
        folder.write("new.chart", b"\0\x01depth 4\nmouth 5\n");
        let script = folder.write(
            "chart-text",
            b"#!/bin/sh\nif grep -q broken \"$1\"; then echo 'no chart' >&2; exit 4; fi\ntail -c +3 \"$1\"\n",
        );
        fs::set_permissions(script, fs::Permissions::from_mode(0o755)).unwrap();
        folder
    }

    fn configuration(folder: &Folder) -> String {
        format!(
            "[[converter]]\nfiles = [\"*.chart\"]\ncommand = [\"{}/chart-text\", \"{{file}}\"]\n",
            folder.path().display()
        )
    }

    #[test]
    fn a_converter_holds_where_it_was_allowed_and_nowhere_else() {
        let folder = charts();
        folder.write("mine.toml", configuration(&folder).as_bytes());
        let ran = folder.run(&["--config", "mine.toml", "old.chart", "new.chart"]);
        assert_eq!(ran.status, Some(1), "{}", ran.err);
        told(&ran, &["mouth 3", "mouth 5", "text from"]);
        told(&folder.run(&["explain", "--config", "mine.toml", "old.chart", "new.chart"]), &["text from"]);
        // What came with somebody's folder runs no program.
        folder.write("tideline.toml", configuration(&folder).replace("chart-text", "chart-text-marked").as_bytes());
        let marked = folder
            .write("chart-text-marked", format!("#!/bin/sh\ntouch '{}/was-run'\n", folder.path().display()).as_bytes());
        fs::set_permissions(marked, fs::Permissions::from_mode(0o755)).unwrap();
        let ran = folder.run(&["old.chart", "new.chart"]);
        assert_eq!(ran.status, Some(1));
        assert!(ran.err.contains("[[converter]] in tideline.toml:1 is not used"), "{}", ran.err);
        assert!(ran.err.contains("--config tideline.toml allows it"), "{}", ran.err);
        told(&ran, &["offset 0x10 (16)"]);
        assert!(!folder.path().join("was-run").exists());
    }

    #[test]
    fn a_converter_that_fails_makes_its_pair_unreadable() {
        let folder = charts();
        folder.write("mine.toml", configuration(&folder).as_bytes());
        folder.write("new.chart", b"\0\x01broken\n");
        let ran = folder.run(&["--config", "mine.toml", "old.chart", "new.chart"]);
        assert_eq!(ran.status, Some(2));
        assert!(ran.err.contains("chart-text failed") && ran.err.contains("no chart"), "{}", ran.err);
        for (side, name) in [("one", "old.chart"), ("two", "new.chart")] {
            folder.write(&format!("{side}/a.chart"), &folder.read(name));
            folder.write(&format!("{side}/b.txt"), side.as_bytes());
        }
        let tree = folder.run(&["--config", "mine.toml", "one", "two"]);
        assert_eq!(tree.status, Some(2));
        told(&tree, &["1 changed, 1 unreadable", "no chart"]);
    }

    #[test]
    fn a_wrong_converter_is_refused_with_its_line() {
        let folder = charts();
        for (text, why) in [
            ("[[converter]]\nfiles = \"*.x\"\ncommand = [\"cat\"]\n", "line 3: a command says how it gets the file"),
            ("[[converter]]\ncommand = [\"cat\", \"{stdin}\"]\n", "needs the key `files`"),
            (
                "[[converter]]\nfiles = \"*.x\"\ncommand = [\"cat\", \"{stdin}\"]\nkind = \"image\"\n",
                "line 4: a converter writes text",
            ),
            ("[[kind]]\nfiles = \"*.html\"\nread = \"all\"\n", "line 3: `all` is no way to read a file"),
        ] {
            folder.write("mine.toml", text.as_bytes());
            let ran = folder.run(&["--config", "mine.toml", "old.chart", "new.chart"]);
            assert_eq!(ran.status, Some(2));
            assert!(ran.err.contains(why), "{}", ran.err);
        }
    }
}

#[test]
fn a_page_is_compared_by_what_is_seen_where_that_was_said() {
    let folder = Folder::with(&[
        ("one.html", "<p>The <b>mouth</b> is low.</p>\n"),
        ("two.html", "<div><p>The <i>mouth</i>\n is low.</p></div>\n"),
        ("tideline.toml", "[[kind]]\nfiles = \"*.html\"\nread = \"visible-text\"\n"),
    ]);
    let ran = folder.run(&["one.html", "two.html"]);
    told(&ran, &["0 changes", "visible text of a page (HTML); not compared, but different: markup"]);
    assert_eq!(folder.run(&["--no-config", "one.html", "two.html"]).out.matches("The <").count(), 2);
}
