//! What a reader of the program's output meets: moved and edited blocks, lines indented differently, changes above a section.

use serde_json::Value;

use crate::support::Folder;

/// A function of six lines.
fn function(name: &str) -> String {
    let body: String = (0..4).map(|line| format!("    {name}_{line} = read({name}, {line})\n")).collect();
    format!("def {name}(gauge):\n{body}    return {name}_0\n")
}

fn pair(before: &str, after: &str) -> Folder {
    Folder::with(&[("spring/gauge.py", before), ("autumn/gauge.py", after)])
}

/// The changes in the records of `--json`.
fn changes(folder: &Folder) -> Vec<Value> {
    let out = folder.run(&["spring/gauge.py", "autumn/gauge.py", "--json"]).out;
    let records = out.lines().map(|line| serde_json::from_str::<Value>(line).unwrap());
    records.filter(|record| record["record"] == "change").collect()
}

/// A function that went behind two others and was edited on its way.
fn moved_and_edited() -> (String, String) {
    let [ebb, flow, slack] = ["ebb", "flow", "slack"].map(function);
    let edited = ebb.replace("ebb_2 = read(ebb, 2)", "ebb_2 = read(ebb, 20)");
    (format!("{ebb}\n{flow}\n{slack}"), format!("{flow}\n{slack}\n{edited}"))
}

#[test]
fn both_ends_of_a_block_say_how_much_of_it_was_edited() {
    let (before, after) = moved_and_edited();
    let folder = pair(&before, &after);
    let out = folder.run(&["spring/gauge.py", "autumn/gauge.py"]).out;
    assert!(out.contains("lines 1–7 moved to lines 14–20, 1 of them edited\n"), "{out}");
    assert!(out.contains("lines 14–20 moved here from lines 1–7, 1 of them edited\n"), "{out}");
    let marked = out.lines().skip_while(|row| !row.contains("read(ebb, 20)")).nth(1).unwrap();
    assert_eq!(marked.trim(), "^^", "{out}");
    let all = changes(&folder);
    let moved: Vec<&Value> = all.iter().filter(|change| change["form"] == "moved").collect();
    assert_eq!(moved.len(), 1, "{all:#?}");
    assert_eq!(moved[0]["words"].as_array().unwrap().len(), 1, "one line differs");
    assert_eq!((&moved[0]["words"][0]["before_line"], &moved[0]["words"][0]["after_line"]), (&4.into(), &18.into()));
}

#[test]
fn a_moved_and_edited_block_is_carried_as_it_is_after() {
    let (before, after) = moved_and_edited();
    for (into, wanted) in [("before", &after), ("after", &before)] {
        let folder = pair(&before, &after);
        let all = format!("1-{}", changes(&folder).len());
        let taken = folder.run(&["take", "spring/gauge.py", "autumn/gauge.py", "--changes", &all, "--into", into]);
        assert_eq!(taken.status, Some(0), "{}", taken.err);
        let side = if into == "before" { "spring/gauge.py" } else { "autumn/gauge.py" };
        assert_eq!(String::from_utf8(folder.read(side)).unwrap(), *wanted, "into {into}");
    }
}

#[test]
fn a_block_that_was_only_indented_on_its_way_says_so() {
    let [ebb, flow] = ["ebb", "flow"].map(function);
    let indented: String = ebb.lines().map(|line| format!("    {line}\n")).collect();
    let folder = pair(&format!("{ebb}\n{flow}\nend = 1\n"), &format!("{flow}\nend = 1\n\nclass Gauge:\n{indented}"));
    let out = folder.run(&["spring/gauge.py", "autumn/gauge.py"]).out;
    assert!(out.contains("lines 1–6 moved to lines 11–16, indented differently\n"), "{out}");
}

#[test]
fn a_change_above_a_function_is_named_by_it() {
    let before = "class Gauge:\n    x = 1\n\n    # Reads the level.\n    def read(self):\n        return 1\n";
    let folder = pair(before, &before.replace("Reads the level.", "Reads the mean level."));
    let out = folder.run(&["spring/gauge.py", "autumn/gauge.py"]).out;
    assert!(out.contains("change 1 of 1 · line 4 · above def read(self)\n"), "{out}");
    let found = &changes(&folder)[0];
    assert_eq!((&found["section"], &found["above_section"]), (&"def read(self)".into(), &true.into()));
    folder.run(&["report", "spring/gauge.py", "autumn/gauge.py", "-o", "r.html"]);
    let page = String::from_utf8(folder.read("r.html")).unwrap();
    assert!(page.contains("above <code>def read(self)</code>"), "{page}");
    // In the function itself nothing is said of that.
    let inside = pair(before, &before.replace("return 1", "return 2"));
    assert_eq!(changes(&inside)[0].get("above_section"), None);
}

#[test]
fn a_patch_says_line_by_line_what_a_reader_sees_as_one() {
    // A lone bracket that both sides have stays as it is in a patch, whatever is drawn as one change.
    let before = "start\n    return level_of(gauge)\n}\nend\n";
    let after = "start\n}\n    return level_of(gauge, now)\nend\n";
    let folder = pair(before, after);
    assert_eq!(changes(&folder).len(), 1);
    let patch = folder.run(&["patch", "spring/gauge.py", "autumn/gauge.py"]).out;
    let body: Vec<&str> = patch.lines().skip_while(|line| !line.starts_with("@@")).skip(1).collect();
    assert_eq!(body, [" start", "-    return level_of(gauge)", " }", "+    return level_of(gauge, now)", " end"]);
}
