//! Tables and data, as people meet them: compared, reported, carried, patched, merged.

use serde_json::Value;

use crate::support::browser::Page;
use crate::support::{Folder, Ran};

const SPRING: &str = "mark,level_m,state,updated_at\nHM-01,1.42,firm,2031-03-01\nHM-02,1.50,firm,2031-03-01\n\
                      SL-01,0.98,check,2031-03-02\nSL-02,2.10,firm,2031-03-02\n";
const AUTUMN: &str = "mark,level_m,state,updated_at\nSL-02,2.10,firm,2031-09-02\nSL-01,0.89,check,2031-09-02\n\
                      HM-02,1.5,lost,2031-09-01\nOB-01,3.00,firm,2031-09-03\n";

fn tables() -> Folder {
    Folder::with(&[("spring/marks.csv", SPRING), ("autumn/marks.csv", AUTUMN)])
}

const TABLES: [&str; 2] = ["spring/marks.csv", "autumn/marks.csv"];

fn run(folder: &Folder, before: &[&str], after: &[&str]) -> Ran {
    folder.run(&[before, after].concat())
}

fn text(folder: &Folder, name: &str) -> String {
    String::from_utf8(folder.read(name)).unwrap()
}

fn write(folder: &Folder, name: &str, text: &str) {
    folder.write(name, text.as_bytes());
}

fn records(ran: &Ran) -> Vec<Value> {
    ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

#[test]
fn a_table_is_told_row_by_row_with_its_key_and_its_columns() {
    let folder = tables();
    let ran = run(&folder, &["--kind", "table", "--ignore", "column:updated_*"], &TABLES);
    assert_eq!(ran.status, Some(1));
    let wanted = [
        "marks.csv    spring ○  autumn ●    4 changes",
        "  4 rows: 2 edited, 1 new, 1 gone; rows matched by mark (found)",
        "  level_m edited in 1 row, state edited in 1 row",
        "  muted 3 rows: row order 2, number spelling 1",
        "  ignored 3 rows: column:updated_* 3",
        "  change 1 of 4 · line 2 gone · mark HM-01",
        " ○ level_m 1.42   state firm   updated_at 2031-03-01",
        " ◌ level_m   1.50 → 1.5   muted: number spelling",
        " ◐ state     firm → lost",
        " ● level_m 3.00   state firm   updated_at 2031-09-03",
    ];
    for line in wanted {
        assert!(ran.out.contains(line), "{line} is not in {}", ran.out);
    }
    let grid = run(&folder, &["--kind", "table", "--ignore", "column:updated_*", "--layout", "beside"], &TABLES);
    assert!(grid.out.contains("mark   level_m      state"), "{}", grid.out);
    assert!(grid.out.contains("2 ◐ HM-02  1.50 → 1.5   firm → lost"), "{}", grid.out);
    assert!(grid.out.contains("equal, folded: updated_at"), "{}", grid.out);
    let plain = run(&folder, &["--kind", "table", "--plain", "--changes", "2"], &TABLES);
    assert!(plain.out.is_ascii() && plain.out.contains("not shown: 4 other changes (--changes)"), "{}", plain.out);
}

#[test]
fn what_only_stands_in_another_order_is_muted_and_the_status_says_so() {
    let shuffled = "mark,level_m\nb,2\na,1.0\n";
    let folder = Folder::with(&[("one/x.csv", "mark,level_m\na,1\nb,2\n"), ("two/x.csv", shuffled)]);
    let both = ["one/x.csv", "two/x.csv"];
    assert_eq!(run(&folder, &["--kind", "table"], &both).status, Some(0));
    assert_eq!(run(&folder, &["--kind", "table", "--quiet"], &both).status, Some(0));
    assert_eq!(run(&folder, &["--kind", "table", "--row-order", "counts", "--quiet"], &both).status, Some(1));
    assert_eq!(run(&folder, &["--kind", "table", "--cells", "text", "--quiet"], &both).status, Some(1));
    assert_eq!(run(&folder, &["--quiet"], &both).status, Some(1), "by lines they differ");
    let tree = run(&folder, &["--kind", "auto"], &["one", "two"]);
    assert_eq!(tree.status, Some(0));
    assert!(tree.out.contains("◌ x.csv    1 muted, 2 rows") && tree.out.contains("1 muted"), "{}", tree.out);
    let plan = folder.run(&["sync", "one", "two"]);
    assert_eq!(plan.status, Some(1), "a sync goes by bytes: {}", plan.out);
}

#[test]
fn records_tell_rows_columns_and_nodes() {
    let folder = tables();
    let all = records(&run(&folder, &["--json", "--kind", "table", "--tolerance", "0.1"], &TABLES));
    let of = |kind: &str| all.iter().filter(|record| record["record"] == kind).collect::<Vec<_>>();
    assert_eq!((of("pair")[0]["kind"].as_str(), of("pair")[0]["unit"].as_str()), (Some("table"), Some("rows")));
    let level = of("column").into_iter().find(|column| column["name"] == "level_m").unwrap();
    assert_eq!((level["cells"].as_str(), level["muted"].as_u64()), (Some("number"), Some(2)));
    let row = of("row").into_iter().find(|row| row["key"][0]["value"] == "SL-01").unwrap();
    let cell = row["cells"].as_array().unwrap().iter().find(|cell| cell["column"] == "level_m").unwrap();
    assert_eq!((cell["before"].as_str(), cell["after"].as_str()), (Some("0.98"), Some("0.89")));
    assert_eq!((cell["weight"].as_str(), cell["rule"].as_str()), (Some("muted"), Some("tolerance 0.1")));
    let folder = Folder::with(&[("a.json", "{\"a\": {\"b\": 60}}"), ("b.yaml", "a:\n  b: 30\n  c: x\n")]);
    let all = records(&folder.run(&["--json", "--kind", "data", "a.json", "b.yaml"]));
    let nodes: Vec<&Value> = all.iter().filter(|record| record["record"] == "node").collect();
    assert_eq!(nodes[0]["before"]["pointer"], "/a/b");
    assert_eq!((nodes[0]["before"]["value"].as_str(), nodes[0]["after"]["line"].as_u64()), (Some("60"), Some(2)));
    assert_eq!((nodes[1]["form"].as_str(), nodes[1]["after"]["pointer"].as_str()), (Some("new"), Some("/a/c")));
}

#[test]
fn what_is_no_table_or_document_is_refused_where_it_was_told_and_text_where_it_was_not() {
    let folder = Folder::with(&[
        ("one/x.json", "{\"a\": 1}\n"),
        ("two/x.json", "{\"a\": 1,\n \"b\" 2}\n"),
        ("tideline.toml", ""),
    ]);
    let both = ["one/x.json", "two/x.json"];
    let ran = run(&folder, &["--kind", "data"], &both);
    assert_eq!((ran.status, ran.out.as_str()), (Some(2), ""));
    assert_eq!(
        ran.err,
        "tideline: cannot compare two as data: line 2, column 6: `:` is expected here; without --kind data it is \
         compared as text\n"
    );
    let ran = run(&folder, &["--kind", "auto"], &both);
    assert_eq!(ran.status, Some(1));
    assert!(ran.out.contains("compared as text: after is no data at line 2, column 6: `:` is expected"), "{}", ran.out);
    let tree = run(&folder, &["--kind", "data"], &["one", "two"]);
    assert_eq!(tree.status, Some(2));
    assert!(tree.out.contains("1 unreadable"), "{}", tree.out);
    folder.write("one/x.bin", &[0, 159, 146, 150, 0, 1]);
    folder.write("two/x.bin", &[0, 159, 146, 150, 0, 2]);
    let ran = run(&folder, &["--kind", "table"], &["one/x.bin", "two/x.bin"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("cannot compare one as table: this is not text"), "{}", ran.err);
    let missing = run(&tables(), &["--kind", "table", "--key", "place"], &TABLES);
    assert_eq!(missing.status, Some(2));
    assert!(
        missing.err.contains("there is no column `place` for the key; columns are mark, level_m"),
        "{}",
        missing.err
    );
    for (option, value) in
        [("--delimiter", "ab"), ("--tolerance", "much"), ("--ignore", "column:"), ("--mute", "path:a")]
    {
        assert_eq!(run(&tables(), &["--kind", "table", option, value], &TABLES).status, Some(2), "{option} {value}");
    }
}

#[test]
fn the_configuration_says_how_files_are_compared() {
    let folder = tables();
    write(
        &folder,
        "tideline.toml",
        "[[kind]]\nfiles = [\"*.csv\"]\nkind = \"table\"\nkey = [\"mark\"]\ntolerance = { level_m = 0.1 }\n\n[[rule]]\nname = \"times\"\nwhat = \"column:updated_at\"\neffect = \"ignore\"\n",
    );
    let ran = run(&folder, &["compare"], &["spring", "autumn"]);
    assert!(ran.out.contains("3 changes, 2 ○ 2 ● rows"), "{}", ran.out);
    let ran = run(&folder, &["compare"], &TABLES);
    assert!(ran.out.contains("rows matched by mark;") || ran.out.contains("rows matched by mark\n"), "{}", ran.out);
    assert!(ran.out.contains("tolerance 0.1"), "{}", ran.out);
    for (line, wanted) in [
        ("kind = \"sheet\"", "`sheet` is no kind; kinds are text, table, data, image, bytes, auto"),
        ("delimiter = \"ab\"", "a delimiter is one character"),
        ("tolerance = \"much\"", "a tolerance is a number"),
        ("row-order = \"yes\"", "`yes` is no row-order; it can be counts, muted"),
    ] {
        write(&folder, "tideline.toml", &format!("[[kind]]\nfiles = [\"*.csv\"]\n{line}\n"));
        let ran = run(&folder, &["compare"], &TABLES);
        assert_eq!(ran.status, Some(2));
        assert!(ran.err.contains("line 3") && ran.err.contains(wanted), "{}", ran.err);
    }
}

#[test]
fn a_comparison_of_lines_says_once_that_another_kind_shows_much_less() {
    let rows: Vec<String> = (0..40).map(|at| format!("{at},level {at}\n")).collect();
    let (one, mut other) = (rows.clone(), rows);
    other.reverse();
    let whole = |rows: &[String]| format!("id,note\n{}", rows.concat());
    let folder = Folder::with(&[("one.csv", &whole(&one)), ("two.csv", &whole(&other))]);
    let ran = folder.run(&["one.csv", "two.csv"]);
    assert!(
        ran.out.ends_with("\n  compared as table, no row differs instead of 78 lines: --kind table\n"),
        "{}",
        ran.out
    );
    assert!(
        !folder.run(&["--kind", "text", "one.csv", "two.csv"]).out.contains("--kind table"),
        "who chose needs no hint"
    );
}

#[test]
fn rows_are_taken_into_either_file_and_put_back() {
    let folder = tables();
    let options = ["--kind", "table", "--ignore", "column:updated_*"];
    let ran = run(&folder, &["take", "--changes", "1,2", "--into", "before"], &[&options[..], &TABLES].concat());
    assert_eq!(ran.status, Some(0), "{}", ran.err);
    assert!(ran.out.contains("took 2 of 4 changes into spring/marks.csv (run 1"), "{}", ran.out);
    let taken = SPRING.replace("HM-01,1.42,firm,2031-03-01\n", "").replace("HM-02,1.50,firm", "HM-02,1.5,lost");
    assert_eq!(text(&folder, "spring/marks.csv"), taken);
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert_eq!(text(&folder, "spring/marks.csv"), SPRING);
    let refused = run(&folder, &["take", "--changes", "9", "--into", "before", "--kind", "table"], &TABLES);
    assert_eq!(refused.status, Some(2));
    assert!(refused.err.contains("there is no change 9: they are numbered from 1 to 5"), "{}", refused.err);
    let refused = run(&folder, &["take", "--ask", "--into", "before", "--kind", "table"], &TABLES);
    assert!(refused.err.contains("rows of tables are taken by --changes or --all-but"), "{}", refused.err);
}

#[test]
fn patches_of_json_are_written_and_put_in() {
    let (before, after) = ("{\n  \"a\": 60,\n  \"b\": [1, 2]\n}\n", "{\"b\": [1, 2, 3], \"a\": 30}");
    let folder = Folder::with(&[("old.json", before), ("new.json", after)]);
    let ran = folder.run(&["patch", "--format", "json-patch", "old.json", "new.json", "-o", "fix.json"]);
    assert_eq!((ran.status, ran.err.as_str()), (Some(1), ""));
    let ran = folder.run(&["apply", "--into", "old.json", "fix.json"]);
    assert!(ran.out.starts_with("applied 2 operations to old.json (run"), "{}{}", ran.out, ran.err);
    assert_eq!(text(&folder, "old.json"), "{\n  \"a\": 30,\n  \"b\": [1, 2, 3]\n}\n");
    let again = folder.run(&["apply", "--into", "old.json", "fix.json"]);
    assert_eq!(again.status, Some(2));
    assert!(again.err.contains("operation 2 (test /a) does not fit: another value stands there"), "{}", again.err);
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert_eq!(text(&folder, "old.json"), before);
    assert_eq!(folder.run(&["patch", "--format", "json-patch", "old.json", "old.json"]).status, Some(0));
    let refused = folder.run(&["patch", "--format", "merge-patch", "old.json", "new.json"]);
    assert_eq!(refused.status, Some(2));
    assert!(refused.err.contains("the list /b differs"), "{}", refused.err);
    write(&folder, "change.json", "{\"a\": null, \"c\": true}");
    let ran = folder.run(&["apply", "--format", "merge-patch", "--into", "old.json", "change.json"]);
    assert_eq!(ran.status, Some(0), "{}", ran.err);
    assert_eq!(text(&folder, "old.json"), "{\n  \"b\": [1, 2],\n  \"c\": true\n}\n");
    write(&folder, "old.json", before);
    let patch = folder.read("fix.json");
    let ran = folder.run_with_input(&["apply", "--into", "old.json", "-"], &patch);
    assert!(ran.out.starts_with("applied 2 operations"), "{}{}", ran.out, ran.err);
    let nowhere = folder.run(&["apply", "fix.json"]);
    assert_eq!(nowhere.status, Some(2));
    assert!(
        nowhere.err.contains("a JSON Patch names no file: say which one it is for, with --into FILE"),
        "{}",
        nowhere.err
    );
}

#[test]
fn versions_merge_by_what_they_mean() {
    let folder = Folder::with(&[
        ("base/x.json", "{\"a\": 1, \"b\": 2}\n"),
        ("mine/x.json", "{\"a\": 9, \"b\": 2}\n"),
        ("theirs/x.json", "{\"b\": 3, \"a\": 1}\n"),
    ]);
    let files = ["base/x.json", "mine/x.json", "theirs/x.json"];
    assert_eq!(run(&folder, &["merge"], &files).status, Some(1), "lines are in conflict");
    let ran = run(&folder, &["merge", "--kind", "data"], &files);
    assert_eq!((ran.status, ran.out.as_str()), (Some(0), "{\"a\": 9, \"b\": 3}\n"));
    assert_eq!(ran.err, "tideline: note: merged by path: 1 value of theirs came in\n");
}

#[test]
fn reports_show_tables_as_grids_and_documents_as_trees() {
    let folder = tables();
    write(&folder, "a.json", "{\"a\": {\"b\": 60, \"c\": {\"d\": 1}}}");
    write(&folder, "b.json", "{\"a\": {\"b\": 30, \"c\": {\"d\": 2}}}");
    let page = |arguments: &[&str]| {
        assert_eq!(run(&folder, &["report", "-o", "page.html"], arguments).status, Some(1));
        scraper::Html::parse_document(&text(&folder, "page.html"))
    };
    let texts = |html: &scraper::Html, selector: &str| -> Vec<String> {
        let selector = scraper::Selector::parse(selector).unwrap();
        html.select(&selector).map(|element| element.text().collect::<String>().trim().to_owned()).collect()
    };
    let html = page(&["--kind", "table", "--mute", "column:updated_at", TABLES[0], TABLES[1]]);
    assert_eq!(texts(&html, ".grid thead tr:first-child th")[2], "mark");
    assert_eq!(texts(&html, ".grid tbody tr").len(), 5);
    assert!(texts(&html, ".grid td.edited").contains(&"firm → lost".to_owned()));
    assert_eq!(texts(&html, ".grid tr.muted").len(), 1, "a row with nothing but its time");
    let html = page(&["--kind", "data", "a.json", "b.json"]);
    assert_eq!(texts(&html, "details.node > summary code"), ["/a", "c"]);
    assert_eq!(texts(&html, ".nodes del"), ["60", "1"]);
    assert_eq!(run(&folder, &["report", "-o", "page.md", "--kind", "table"], &TABLES).status, Some(1));
    let markdown = text(&folder, "page.md");
    assert!(markdown.contains("| 5 | new | `mark OB-01` (line 5) |"), "{markdown}");
}

#[test]
fn a_grid_is_searched_filtered_and_stepped_through_in_a_browser() {
    let folder = tables();
    let ran = run(&folder, &["report", "-o", "page.html", "--kind", "table", "--mute", "column:updated_at"], &TABLES);
    assert_eq!(ran.status, Some(1), "{}", ran.err);
    let Some(page) = Page::new() else { return };
    page.open(&folder.path().join("page.html"));
    let rows = || page.get("[...document.querySelectorAll('.grid tbody tr')].filter((row) => !row.hidden).length");
    let put = |selector: &str, text: &str| {
        page.get(&format!(
            "(() => {{ const input = document.querySelector({selector:?}); input.value = {text:?}; \
             input.dispatchEvent(new Event('input')); return 1; }})()"
        ));
    };
    assert_eq!(rows(), 5);
    put(".grid-search", "sl-0");
    assert_eq!(rows(), 2);
    assert_eq!(page.get("document.querySelector('.grid-count').textContent"), "2 of 5 rows");
    put(".filters td:nth-child(3) input", "SL-01");
    assert_eq!(rows(), 1);
    page.press("n");
    assert_eq!(page.get("document.querySelector('.item.now').cells[2].textContent"), "SL-01");
}
