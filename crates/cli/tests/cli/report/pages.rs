//! Pages, in a real browser.

use std::fs;
use std::path::Path;

use serde_json::json;

use super::{changes, page_of, records, trees};
use crate::support::Folder;
use crate::support::browser::Page;

/// What a parser of HTML (by the standard's own algorithm) complains of.
fn complaints(path: &Path) -> Vec<String> {
    let text = fs::read_to_string(path).unwrap();
    scraper::Html::parse_document(&text).errors.iter().map(ToString::to_string).collect()
}

#[test]
fn pages_are_well_formed() {
    let folder = trees();
    folder.write("b/odd \"name\" & <more>.txt", b"\0not text");
    folder.write("a/odd \"name\" & <more>.txt", "text with \u{1b}[31m, \u{202e}, a\r\nb\r\n</code></pre>\n".as_bytes());
    folder.write("b/tabs & tags.txt", b"\n\n<p>&amp;\n\tone\n");
    folder.write("a/tabs & tags.txt", b"\n\n<p>&amp;\n one \x07\n");
    folder.write("b/bell \x07 and \x1b.txt", b"one\n");
    let title = ["--title", "a \x1b[31m title"];
    folder.run(&[&["report", "--mute", "case", "b", "a", "-o", "site/"], &title[..]].concat());
    folder.run(&[&["report", "--mute", "case", "b", "a", "-o", "one.html"], &title[..]].concat());
    folder.run(&["report", "b/gauge.py", "a/gauge.py", "-o", "file.html"]);
    folder.run(&["report", "b/chart.png", "a/chart.png", "-o", "bytes.html"]);
    let pages = fs::read_dir(folder.path().join("site/pages")).unwrap().map(|entry| entry.unwrap().path());
    let others = ["site/index.html", "one.html", "file.html", "bytes.html"].map(|name| folder.path().join(name));
    for path in pages.chain(others) {
        assert_eq!(complaints(&path), Vec::<String>::new(), "{}", path.display());
    }
}

#[test]
fn a_folder_leads_from_the_tree_to_each_file_and_back() {
    let Some(page) = Page::new() else { return };
    let folder = trees();
    folder.run(&["report", "b", "a", "-o", "site/"]);
    let site = folder.path().join("site");
    page.open(&site.join("index.html"));
    assert_eq!(page.text("h1"), "b → a");
    assert_eq!(page.text(".summary"), "7 files: 1 same, 3 changed, 1 new, 1 gone, 1 moved");
    assert_eq!(page.seen(".tree li[data-status]"), 6);
    assert_eq!(page.seen(".tree li[data-status] a"), 6, "each has a page");

    for (choice, listed) in [("changed", 2), ("gone", 1), ("new", 0)] {
        page.click(&format!("input[value={choice}]"));
        assert_eq!(page.seen(".tree li[data-status]"), listed + 1, "what moved has changes too");
        assert_eq!(page.text("#found"), format!("{} of 6 listed", listed + 1));
    }
    page.reload();
    page.press("/");
    page.type_text("DOWN/lev");
    assert_eq!(page.seen(".tree li[data-status]"), 1);
    assert_eq!(page.text(".tree li:not([hidden])[data-status] .name"), "levels.txt");
    page.press("Enter");
    page.press("Escape");
    page.follow(".tree li:not([hidden])[data-status] a");
    assert_eq!(page.text("h1"), "deep/down/levels.txt");

    page.follow("a[rel=prev]");
    assert!(page.text("main").contains("offset 0x5 (5)"), "where bytes differ");
    let files = ["chart.png", "levels.txt", "gone.txt", "new.txt", "gauge.py", "there.txt"];
    for (number, name) in files.iter().enumerate() {
        assert_eq!(site.join("pages").join(page.place()), page_of(&site, name));
        if number + 1 < files.len() {
            page.follow("a[rel=next]");
        }
    }
    page.follow("a[rel=prev]");
    assert_eq!(page.text("h1"), "gauge.py");
    page.follow("a[rel=up]");
    assert_eq!(page.place(), "index.html");
    page.click("#fold-all");
    assert_eq!(page.seen(".tree li[data-status]"), 3, "what lies in folders is folded");
    page.assert_quiet(&site);
}

#[test]
fn keys_and_switches_do_what_the_page_says() {
    let Some(page) = Page::new() else { return };
    let folder = trees();
    let records = records(&folder, &["--mute", "case"]);
    let wanted = changes(&records)["deep/down/levels.txt"];
    folder.run(&["report", "--mute", "case", "b", "a", "-o", "site/"]);
    let site = folder.path().join("site");
    page.open(&page_of(&site, "levels.txt"));
    assert_eq!((page.seen(".change"), wanted), (3, 3));
    assert_eq!(page.text("#where"), "3 changes");

    for (key, place, told) in
        [("n", "#c1", "1 of 3"), ("n", "#c2", "2 of 3"), ("n", "#c3", "3 of 3"), ("b", "#c2", "2 of 3")]
    {
        page.press(key);
        assert!(page.place().ends_with(place), "{key} leads to {}", page.place());
        assert_eq!(page.text("#where"), told);
    }
    assert_eq!(page.text("#c2 h3 a"), "change 2 of 3");
    page.press("m");
    assert_eq!(page.seen(".change"), 2);
    assert_eq!(page.text("#c2 h3 a"), "change 2 of 2", "only what counts is numbered now");
    assert_eq!(page.text("#where"), "2 of 2");

    let columns = "new Set([...document.querySelector('.row.edited').children].map((cell) => cell.getBoundingClientRect().x)).size";
    let wrap = "getComputedStyle(document.querySelector('.row code')).whiteSpaceCollapse + getComputedStyle(document.querySelector('.row code')).textWrapMode";
    assert_eq!((page.get(columns), page.get(wrap)), (json!(4), json!("preservewrap")));
    page.press("l");
    page.press("w");
    page.press("t");
    let switched = (json!(3), json!("preservenowrap"), json!("light"), json!("light"));
    let now = || {
        let scheme = page.get("getComputedStyle(document.documentElement).colorScheme");
        (page.get(columns), page.get(wrap), page.get("document.documentElement.dataset.theme"), scheme)
    };
    assert_eq!(now(), switched);
    page.follow("a[rel=next]");
    page.follow_key(",");
    assert_eq!(site.join("pages").join(page.place()), page_of(&site, "levels.txt"));
    assert_eq!(now().1, switched.1, "a choice is remembered");
    assert_eq!((page.seen(".change"), now().3), (2, switched.3.clone()));
    assert_eq!(page.get("document.querySelector('[data-switch=muted]').ariaPressed"), json!("false"));

    page.press("?");
    assert_eq!(page.get("document.querySelector('.keys').open"), json!(true));
    let listed = page.get("[...document.querySelectorAll('.keys kbd')].map((key) => key.textContent).join('')");
    assert_eq!(listed, json!("nb.,lwmfat?"));
    page.assert_quiet(&site);
}

#[test]
fn both_ends_of_a_moved_block_are_stops_of_one_change() {
    let Some(page) = Page::new() else { return };
    let folder = Folder::new();
    let block: String = (0..6).map(|at| format!("the level of the gauge at hour {at}\n")).collect();
    let rest: String = (0..20).map(|at| format!("the tables of the year {at}\n")).collect();
    folder.write("b", format!("{block}{rest}low = 1\n").as_bytes());
    folder.write("a", format!("{rest}{block}low = 2\n").as_bytes());
    folder.run(&["report", "b", "a", "-o", "r.html"]);
    page.open(&folder.path().join("r.html"));
    assert_eq!((page.seen(".change"), page.text("#where")), (3, "2 changes".to_owned()));
    let told = ["1 of 2", "1 of 2", "2 of 2"].map(|expected| {
        page.press("n");
        (page.text("#where"), expected.to_owned())
    });
    assert!(told.iter().all(|(told, expected)| told == expected), "{told:?}");
}

#[test]
fn folds_open_into_numbered_lines_and_the_strip_jumps() {
    let Some(page) = Page::new() else { return };
    let folder = trees();
    folder.run(&["report", "b/deep/down/levels.txt", "a/deep/down/levels.txt", "-o", "r.html"]);
    page.open(&folder.path().join("r.html"));
    let folds: Vec<String> = serde_json::from_value(
        page.get("[...document.querySelectorAll('.fold > summary')].map((fold) => fold.textContent)"),
    )
    .unwrap();
    assert_eq!(folds, ["36 equal lines", "34 equal lines", "13 equal lines", "17 equal lines"]);
    page.press("f");
    let rows = "[...document.querySelectorAll('.row')].map((row) => [...row.children].map((cell) => cell.textContent))";
    let rows: Vec<Vec<String>> = serde_json::from_value(page.get(rows)).unwrap();
    // With all folds open, both files stand in the page, line by line.
    for (side, place, class) in [("b/deep/down/levels.txt", 0, "new"), ("a/deep/down/levels.txt", 1, "gone")] {
        let own = format!(
            "[...document.querySelectorAll('.row:not(.{class})')].map((row) => [...row.querySelectorAll('code')].at({})\
             .textContent).join('\\n') + '\\n'",
            if place == 0 { 0 } else { -1 }
        );
        let text = String::from_utf8(folder.read(side)).unwrap();
        assert_eq!(page.get(&own), json!(text), "{side}");
    }
    assert_eq!(rows.last().unwrap(), &["120", "level 120", "121", "level 120"]);
    page.press("f");
    assert_eq!(page.seen(".row"), 3 * 7, "folded again");

    assert_eq!(page.get("document.querySelectorAll('.strip a').length"), json!(3));
    page.get(
        "document.querySelectorAll('.strip a')[2].dispatchEvent(new MouseEvent('click', { bubbles: true })) ?? null",
    );
    assert!(page.place().ends_with("#c3"), "{}", page.place());
    assert_eq!(page.get("document.querySelector('.now').id"), json!("c3"));
    page.assert_quiet(folder.path());
}

#[test]
fn of_two_columns_only_one_is_copied() {
    let Some(page) = Page::new() else { return };
    let folder = trees();
    folder.run(&["report", "b/deep/down/levels.txt", "a/deep/down/levels.txt", "-o", "r.html"]);
    page.open(&folder.path().join("r.html"));
    let copied = |line: &str| {
        let begun = format!(
            "document.querySelector({line:?}).dispatchEvent(new PointerEvent('pointerdown', {{ bubbles: true }}))"
        );
        let all = "getSelection().selectAllChildren(document.querySelector('#c1 .rows'))";
        let text = page.get(&format!("({begun}, {all}, getSelection().toString())"));
        text.as_str().unwrap().split_whitespace().map(str::to_owned).collect::<Vec<_>>().join(" ")
    };
    let lines = |high: u32| format!("level 37 level 38 level 39 interval = {high} level 41 level 42 level 43");
    assert_eq!(copied("#c1 .row.edited code:last-child"), lines(30));
    assert_eq!(copied("#c1 .row.edited code"), lines(60));
}

#[test]
fn names_and_contents_stay_text() {
    let Some(page) = Page::new() else { return };
    let script = "<script>document.title = 'obeyed'</script><img src=http://gauge.example/x onerror=alert(1)>";
    let name = "<img src=x onerror=\"document.title='obeyed'\">'&amp;.html";
    let folder = Folder::new();
    folder.write(&format!("b/{name}"), format!("one\n{script}\n").as_bytes());
    folder.write(&format!("a/{name}"), format!("two\n{script}\n</pre></code></main>{script}\n").as_bytes());
    folder.write("b/#?%00 .md", b"x\n");
    folder.write("a/#?%00 .md", format!("x\n{}{script}\n", "--> ]]> ").as_bytes());
    folder.run(&["report", "b", "a", "-o", "site/", "--title", script]);
    folder.run(&["report", "b", "a", "-o", "one.html"]);
    for start in ["site/index.html", "one.html"] {
        page.open(&folder.path().join(start));
        let names = page.get("[...document.querySelectorAll('.tree .name')].map((name) => name.textContent)");
        assert_eq!(names, json!(["#?%00 .md", name]));
        let link = ".tree > li:nth-of-type(2) a";
        if start.starts_with("site") {
            page.follow(link);
        } else {
            page.click(link);
        }
        let lines = page.get("[...document.querySelectorAll('.row.new code')].map((line) => line.textContent)");
        assert!(
            lines
                .to_string()
                .contains(&json!(format!("</pre></code></main>{script}")).to_string().trim_matches('"').to_owned()),
            "{lines}"
        );
        assert_eq!(page.get("document.querySelectorAll('img, main script').length"), json!(0));
        assert_ne!(page.get("document.title"), json!("obeyed"));
    }
    page.assert_quiet(folder.path());
}

/// The texts of a page whose colour stands out too little from the ground, by WCAG 2.2 (success criterion 1.4.3).
const FAINT_TEXTS: &str = r#"(() => {
  const canvas = new OffscreenCanvas(1, 1).getContext("2d", { willReadFrequently: true });
  const rgba = (colour) => {
    canvas.clearRect(0, 0, 1, 1);
    canvas.fillStyle = colour;
    canvas.fillRect(0, 0, 1, 1);
    return [...canvas.getImageData(0, 0, 1, 1).data];
  };
  const light = ([r, g, b]) => {
    const part = (value) => (value /= 255) <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
    return 0.2126 * part(r) + 0.7152 * part(g) + 0.0722 * part(b);
  };
  const ground = (element) => {
    for (let at = element; at; at = at.parentElement) {
      const colour = rgba(getComputedStyle(at).backgroundColor);
      if (colour[3] === 255) return colour;
    }
    return [255, 255, 255];
  };
  const faint = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode()) {
    const element = walker.currentNode.parentElement;
    if (!walker.currentNode.data.trim() || !element.checkVisibility()) continue;
    const style = getComputedStyle(element);
    const [a, b] = [light(rgba(style.color)), light(ground(element))].sort((a, b) => b - a);
    const ratio = (a + 0.05) / (b + 0.05);
    if (ratio < 4.5 || style.opacity < 1) faint.push([walker.currentNode.data.trim(), element.className, ratio]);
  }
  return faint;
})()"#;

#[test]
fn every_text_stands_out_from_its_ground_and_fits_a_phone() {
    let Some(page) = Page::new() else { return };
    let folder = trees();
    let code = |high: &str| format!("import os  # the gauge\n\ndef level():\n\treturn \"high\" + {high} + os.name\n");
    folder.write("b/code.py", code("12").as_bytes());
    folder.write("a/code.py", code("\t30").as_bytes());
    folder.run(&["report", "--mute", "case", "--syntax", "on", "b", "a", "-o", "one.html"]);
    for dark in [false, true] {
        page.set_dark(dark);
        page.open(&folder.path().join("one.html"));
        page.press("n");
        page.press("f");
        page.press("?");
        assert_eq!(page.get(FAINT_TEXTS), json!([]), "dark: {dark}");
    }
    for width in [360, 700, 1280] {
        page.set_width(width);
        let wide = page.get("document.documentElement.scrollWidth - document.documentElement.clientWidth");
        assert_eq!(wide, json!(0), "nothing sticks out at {width}");
    }
    page.assert_quiet(folder.path());
}

#[test]
fn without_scripts_all_can_be_read() {
    let Some(page) = Page::new() else { return };
    let folder = trees();
    folder.run(&["report", "b", "a", "-o", "one.html"]);
    page.without_scripts();
    page.open(&folder.path().join("one.html"));
    assert_eq!(page.get("document.documentElement.className"), json!(""));
    assert_eq!(page.seen(".bar button, .finder, .keys"), 0, "what only scripts can do is not offered");
    assert_eq!(page.seen(".tree li[data-status]"), 6);
    assert_eq!(page.text("#f2-c1 .row.edited code:last-child ins"), "30");
    page.click(".fold summary");
    assert!(page.text(".fold pre").starts_with("level 1\nlevel 2\n"));
    page.click(".tree a[href='#f4']");
    assert!(page.place().ends_with("#f4"));
}
