//! Markdown and JSON against what `compare` says.

use std::fs;

use pulldown_cmark::{CodeBlockKind, Event, Options, Parser, Tag, TagEnd};
use serde_json::Value;

use super::{changes, records, trees};
use crate::support::Folder;

/// What a reader of Markdown sees: headings of files, rows of the table of files, and the lines of each block.
#[derive(Default)]
struct MarkdownView {
    files: Vec<String>,
    rows: Vec<String>,
    blocks: Vec<String>,
    html: usize,
}

fn seen(text: &str) -> MarkdownView {
    let mut seen = MarkdownView::default();
    let mut within = String::new();
    for event in Parser::new_ext(text, Options::ENABLE_TABLES | Options::ENABLE_STRIKETHROUGH) {
        match event {
            Event::Start(Tag::Heading { .. } | Tag::TableRow | Tag::CodeBlock(CodeBlockKind::Fenced(_))) => {
                within.clear();
            }
            Event::Text(text) | Event::Code(text) => within.push_str(&text),
            Event::End(TagEnd::TableCell) => within.push('\t'),
            Event::End(TagEnd::Heading(level)) if level as usize == 2 => seen.files.push(within.clone()),
            Event::End(TagEnd::TableRow) => seen.rows.push(within.clone()),
            Event::End(TagEnd::CodeBlock) => seen.blocks.push(within.clone()),
            Event::Html(_) | Event::InlineHtml(_) => seen.html += 1,
            _ => {}
        }
    }
    seen
}

fn markdown(folder: &Folder, arguments: &[&str]) -> (String, MarkdownView) {
    folder.run(&[&["report", "-o", "r.md"], arguments].concat());
    let text = String::from_utf8(folder.read("r.md")).unwrap();
    let seen = seen(&text);
    (text, seen)
}

#[test]
fn markdown_has_every_file_and_every_change() {
    let folder = trees();
    let records = records(&folder, &["--mute", "case"]);
    let (text, seen) = markdown(&folder, &["--mute", "case", "b", "a"]);
    let changes: usize = changes(&records).values().sum();
    // A file that came or went is one change more.
    assert_eq!(seen.blocks.len(), changes + 2);
    assert_eq!(
        seen.files,
        ["chart.png", "deep/down/levels.txt", "deep/gone.txt", "deep/new.txt", "gauge.py", "there.txt"]
    );
    let pairs = records.iter().filter(|record| record["record"] == "pair");
    let paths: Vec<&str> = pairs.map(|pair| pair["path"].as_str().unwrap()).collect();
    let listed: Vec<&str> = seen.rows[1..].iter().map(|row| row.split('\t').nth(1).unwrap()).collect();
    assert_eq!(listed[..paths.len()], paths, "the first row is that of the rule, the last those of bytes");
    assert_eq!(seen.rows[0].split('\t').collect::<Vec<_>>()[..2], ["case", "mute"]);
    assert!(text.contains("\n**7 files: 1 same, 3 changed, 1 new, 1 gone, 1 moved**\n"), "{text}");
    assert!(text.contains("\n2 changes, 1 ○ 2 ● + 1 muted, 1 line"), "{text}");
    assert!(seen.blocks[0].contains(" ○  40         interval = 60\n"), "{}", seen.blocks[0]);
    assert!(seen.rows.iter().any(|row| row.starts_with("moved\tthere.txt\tfrom here.txt, 1 change, 1")));
}

#[test]
fn what_is_cut_is_said() {
    let folder = Folder::with(&[("b", &"line\n".repeat(10)), ("a", &"another line\n".repeat(300))]);
    let (text, seen) = markdown(&folder, &["b", "a"]);
    assert_eq!(seen.blocks[0].lines().count(), 80);
    assert!(text.contains("*… 241 more lines of this change left out*"), "{}", &text[text.len() - 200..]);

    let many = |word: &str| {
        (1..400).map(|line| format!("{} {line}\n", if line % 9 == 0 { word } else { "same" })).collect::<String>()
    };
    folder.write("b", many("one").as_bytes());
    folder.write("a", many("other").as_bytes());
    let (text, seen) = markdown(&folder, &["b", "a"]);
    assert_eq!(seen.blocks.len(), 20);
    assert!(text.contains("*24 more changes are left out (--each-limit)*"), "{}", &text[text.len() - 200..]);
    let (_, seen) = markdown(&folder, &["--each-limit", "50", "b", "a"]);
    assert_eq!(seen.blocks.len(), 44);

    folder.run(&["report", "--each-limit", "5", "b", "a", "-o", "r.html"]);
    let page = String::from_utf8(folder.read("r.html")).unwrap();
    assert_eq!(page.matches("<section class=\"change").count(), 5);
    assert!(page.contains("39 more changes are not in this report (--each-limit)."));

    folder.run(&["report", "--each-limit", "5", "b", "a", "-o", "r.json"]);
    let document: Value = serde_json::from_slice(&folder.read("r.json")).unwrap();
    let records = document["records"].as_array().unwrap();
    assert_eq!(records.iter().filter(|record| record["record"] == "change").count(), 5);
    let cut = records.iter().find(|record| record["record"] == "cut").unwrap();
    assert_eq!((cut["path"].as_str(), cut["changes"].as_u64()), (Some("a"), Some(39)));
    assert_eq!(records.last().unwrap()["changes"], 44);
}

#[test]
fn nothing_in_a_file_becomes_markup() {
    let name = "``a|b`*_<b>";
    let evil = "```\n# not a heading\n| not | a table |\n<script>alert(1)</script>\n````\n";
    let folder = Folder::with(&[(&format!("b/{name}"), "one\n"), (&format!("a/{name}"), evil)]);
    let (text, seen) = markdown(&folder, &["b", "a", "--title", "<i>*all*</i> `of` it"]);
    assert_eq!(seen.html, 0, "{text}");
    assert_eq!(seen.files, [name]);
    assert_eq!(seen.rows.len(), 1, "{text}");
    assert!(seen.rows[0].starts_with(&format!("changed\t{name}\t")), "{:?}", seen.rows);
    assert_eq!(seen.blocks.len(), 1);
    assert!(evil.lines().all(|line| seen.blocks[0].contains(line)));
}

#[test]
fn json_has_the_records_of_a_comparison() {
    let folder = trees();
    for options in [&[][..], &["--mute", "case"], &["--only", "changed"], &["--ignore", "case", "--no-moves"]] {
        let wanted = records(&folder, options);
        folder.run(&[&["report", "b", "a", "-o", "r.json", "--title", "The levels"], options].concat());
        let document: Value = serde_json::from_slice(&folder.read("r.json")).unwrap();
        assert_eq!(document["records"].as_array().unwrap(), &wanted, "{options:?}");
        assert_eq!(document["title"], "The levels");
        assert!(
            document["command"].as_str().unwrap().starts_with("tideline report b a -o r.json --title 'The levels'")
        );
    }
    let ran = folder.run(&["compare", "--json", "b/gauge.py", "a/gauge.py"]);
    let wanted: Vec<Value> = ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    folder.run(&["report", "b/gauge.py", "a/gauge.py", "-o", "r.json"]);
    let document: Value = serde_json::from_slice(&folder.read("r.json")).unwrap();
    assert_eq!(document["records"].as_array().unwrap(), &wanted);
}

#[test]
fn a_file_tells_of_the_rules_that_hold_for_it() {
    let folder = trees();
    folder.write(
        "tideline.toml",
        b"[[rule]]\nname = \"levels\"\nfiles = [\"*.txt\"]\nmatch = 'LEVEL'\neffect = \"ignore\"\n",
    );
    let (text, _) = markdown(&folder, &["b/gauge.py", "a/gauge.py"]);
    assert!(text.contains("- No rules in force"), "{text}");
    let (text, _) = markdown(&folder, &["b/deep/down/levels.txt", "a/deep/down/levels.txt"]);
    assert!(text.contains("| `levels` | ignore | `/LEVEL/` | `*.txt` |"), "{text}");
    folder.run(&["report", "b", "a", "-o", "site/"]);
    let page = |name: &str| String::from_utf8(folder.read(&format!("site/{name}"))).unwrap();
    let page_named = |name: &str| fs::read_to_string(super::page_of(&folder.path().join("site"), name)).unwrap();
    assert!(page("index.html").contains("Rules in force: 1"));
    assert!(page_named("levels.txt").contains("Rules in force: 1"));
    assert!(page_named("gauge.py").contains("No rules in force"));
}

#[test]
fn what_is_named_or_left_out_is_counted_as_a_comparison_does() {
    let folder = trees();
    folder.write("b/deep/same.txt", b"same\n");
    folder.write("a/deep/same.txt", b"same\n");
    for arguments in [&["b", "a", "deep"][..], &["--mute", "/./", "--counted-only", "b", "a"], &["b", "a", "gauge.py"]]
    {
        let ran = folder.run(&[&["compare", "--json"], arguments].concat());
        let wanted: Vec<Value> = ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
        folder.run(&[&["report", "-o", "r.json"], arguments].concat());
        let document: Value = serde_json::from_slice(&folder.read("r.json")).unwrap();
        let is_told = |record: &&Value| !matches!(record["record"].as_str(), Some("change" | "aside" | "range"));
        let found: Vec<&Value> = document["records"].as_array().unwrap().iter().filter(is_told).collect();
        assert_eq!(found, wanted.iter().filter(is_told).collect::<Vec<_>>(), "{arguments:?}");
    }
}

#[test]
fn reports_can_tell_sections_instead_of_lines() {
    let folder = Folder::with(&[
        ("one/a.py", "def low():\n    return 1\n\n\ndef high():\n    return 2\n"),
        ("two/a.py", "def low():\n    return 1\n\n\ndef high():\n    return 3\n\n\ndef mean():\n    return 0\n"),
    ]);
    let run = |format: &str| folder.run(&["report", "--sections", "one", "two", "-o", "-", "--format", format]).out;
    let markdown = run("markdown");
    assert!(markdown.contains("| `def high()` | 1 change | lines 5–"), "{markdown}");
    assert!(markdown.contains("| `def mean()` | new | lines 9–10 |") && !markdown.contains("return 3"), "{markdown}");
    let page = run("html");
    assert!(page.contains("<code>def mean()</code></td><td>new</td>") && !page.contains("return 3"), "{page}");
    assert!(!page.contains("Previous change"), "there are no changes to step through");
    let json: Value = serde_json::from_str(&run("json")).unwrap();
    let sections = json["records"].as_array().unwrap().iter().filter(|record| record["record"] == "section");
    assert_eq!(sections.map(|section| section["form"].as_str().unwrap()).collect::<Vec<_>>(), ["edited", "new"]);
}

#[test]
fn close_changes_stand_under_one_heading_in_documents_and_pages() {
    let before = "a = 1\nkept\nb = 1\none\ntwo\nthree\nc = 1\n";
    let after = "a = 2\nkept\nb = 2\none\ntwo\nthree\nc = 2\n";
    let folder = Folder::with(&[("spring/a.py", before), ("autumn/a.py", after)]);
    let (text, seen) = markdown(&folder, &["spring/a.py", "autumn/a.py"]);
    assert_eq!(seen.blocks.len(), 2, "{text}");
    assert!(seen.blocks[0].starts_with("  changes 1–2 of 3 · lines 1–3\n 1 ○  1        a = 1\n"), "{text}");
    assert_eq!(seen.blocks[0].matches("kept").count(), 1, "{text}");
    assert!(seen.blocks[1].starts_with("  change 3 of 3 · line 7\n"), "{text}");
    folder.run(&["report", "spring/a.py", "autumn/a.py", "-o", "r.html"]);
    let page = String::from_utf8(folder.read("r.html")).unwrap();
    let headings: Vec<&str> =
        page.match_indices("<h3").map(|(at, _)| &page[at..at + page[at..].find("</h3>").unwrap()]).collect();
    assert_eq!(headings.len(), 3);
    assert!(headings[0].contains("changes 1–2 of 3") && headings[0].contains("lines 1–3"), "{}", headings[0]);
    assert!(headings[1].contains(">2</a>") && !headings[1].contains("line"), "{}", headings[1]);
}

#[test]
fn a_page_keeps_its_name_when_the_report_is_made_again() {
    let folder = trees();
    let site = folder.path().join("site");
    folder.run(&["report", "b", "a", "-o", "site/"]);
    let first = super::page_of(&site, "levels.txt");
    folder.write("a/added/before/it.txt", b"new\n");
    folder.run(&["report", "b", "a", "-o", "site/"]);
    assert_eq!(super::page_of(&site, "levels.txt"), first);
    // Files of one name have pages of their own.
    folder.write("a/other/levels.txt", b"new\n");
    folder.run(&["report", "b", "a", "-o", "site/"]);
    let pages = fs::read_dir(site.join("pages")).unwrap().map(|page| page.unwrap().file_name().into_string().unwrap());
    assert_eq!(pages.filter(|page| page.starts_with("levels.txt-")).count(), 2);
}

#[test]
fn what_is_folded_away_is_not_called_equal_where_it_differs() {
    let log = |hour: u8, last: u8| -> String {
        let line = |at: usize| format!("{hour}:00:{:02} level {at}\n", at % 60);
        (0..50).map(line).collect::<String>() + &format!("low {last}\n")
    };
    let folder = Folder::new();
    folder.write("b", log(10, 1).as_bytes());
    folder.write("a", log(11, 2).as_bytes());
    for options in [&["--mute", "timestamps", "--counted-only"][..], &["--ignore", "timestamps"]] {
        fs::remove_file(folder.path().join("r.html")).ok();
        folder.run(&[&["report", "b", "a", "-o", "r.html"], options].concat());
        let page = fs::read_to_string(folder.path().join("r.html")).unwrap();
        assert!(page.contains("<summary>47 lines put aside</summary>"), "{options:?}");
        assert!(!page.contains("47 equal lines"), "{options:?}");
    }
}
