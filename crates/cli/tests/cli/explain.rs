//! `explain`

use crate::support::Folder;

fn folder() -> Folder {
    let folder = Folder::with(&[
        ("one/s/a.py", "x = 1  # old\ny = 2\nz = 3\n# tail\n"),
        ("two/s/a.py", "x = 1  # new\ny  = 2\nz = 4  # four\n"),
        ("two/new.py", "x\n"),
    ]);
    folder.write("tideline.toml", b"[[rule]]\nname = \"remarks\"\nwhat = \"comments\"\neffect = \"mute\"\n");
    folder
}

#[test]
fn each_verdict_names_the_rule_and_where_it_was_declared() {
    let folder = folder();
    let explain = |arguments: &[&str]| {
        let ran =
            folder.run(&[&["explain", "--ignore", "space-amount", "one/s/a.py", "two/s/a.py"], arguments].concat());
        assert_eq!((ran.status, ran.err.as_str()), (Some(0), ""), "{arguments:?}");
        ran.out
    };
    let muted = explain(&["--line", "before:1"]);
    assert!(muted.starts_with("s/a.py    one ○  two ●    1 line\n"), "{muted}");
    assert!(
        muted
            .contains("line 1 in one, line 1 in two: muted (change 1)\n    ○ 1  x = 1  # old\n    ● 1  x = 1  # new\n"),
        "{muted}"
    );
    assert!(muted.contains("    remarks mutes \"  # old\" in one, \"  # new\" in two  (tideline.toml:1)\n"), "{muted}");
    let ignored = explain(&["--line", "after:2"]);
    assert!(ignored.contains("line 2 in one, line 2 in two: ignored\n"), "{ignored}");
    assert!(ignored.contains("    space-amount ignores \" \" in one, \"  \" in two  (command line)\n"), "{ignored}");
    let counts = explain(&["--line", "after:3"]);
    assert!(counts.contains(": counts (change 2)\n"), "{counts}");
    assert!(counts.contains("remarks mutes nothing in one, \"  # four\" in two"), "{counts}");
    assert!(counts.contains("    what else differs is put aside by no rule\n"), "{counts}");
    let gone = explain(&["--line", "before:4"]);
    assert!(
        gone.contains("line 4 in one: muted") && gone.contains("remarks mutes \"# tail\" in one, nothing in two"),
        "{gone}"
    );
    assert_eq!(explain(&["--change", "2"]).matches("counts (change 2)").count(), 1);
    let equal = folder.run(&["explain", "--no-config", "one/s/a.py", "one/s/a.py", "--line", "before:2"]);
    assert!(equal.out.contains("equal, byte for byte"), "{}", equal.out);
}

#[test]
fn a_file_of_two_trees_is_found_by_its_path() {
    let folder = folder();
    for path in ["s/a.py", "a.py"] {
        let ran = folder.run(&["explain", "one", "two", path, "--line", "after:1"]);
        assert!(ran.out.contains("muted (change 1)"), "{}{}", ran.out, ran.err);
    }
}

#[test]
fn what_cannot_be_explained_is_said() {
    let folder = folder();
    folder.write("bytes", b"\0\x01");
    let cases: [(&[&str], &str); 6] = [
        (&["one/s/a.py", "two/s/a.py", "--line", "before:9"], "there is no line 9 in one"),
        (&["one/s/a.py", "two/s/a.py", "--change", "9"], "there is no change 9"),
        (&["one/s/a.py", "two/s/a.py", "--line", "middle:1"], "give a side and a line number"),
        (&["one", "two", "--line", "before:1"], "name the file in them too"),
        (&["one", "two", "new.py", "--line", "before:1"], "new.py is new: all of it counts"),
        (&["bytes", "one/s/a.py", "--line", "before:1"], "it is not compared by lines"),
    ];
    for (arguments, reason) in cases {
        let ran = folder.run(&[&["explain"], arguments].concat());
        assert_eq!(ran.status, Some(2), "{arguments:?}: {}", ran.out);
        assert!(ran.err.contains(reason), "{arguments:?}: {}", ran.err);
    }
}

#[test]
fn explanations_and_rules_come_as_records() {
    let folder = Folder::with(&[("b.log", "06:00:00.1 low = 1\nsame\n"), ("a.log", "07:00:00.1 low = 2\nsame\n")]);
    let records = |arguments: &[&str]| -> Vec<serde_json::Value> {
        let ran = folder.run(arguments);
        assert_eq!(ran.status, Some(0), "{}", ran.err);
        ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
    };
    let explained = records(&["explain", "--json", "--mute", "timestamps", "b.log", "a.log", "--change", "1"]);
    assert_eq!(explained.len(), 1, "{explained:?}");
    assert_eq!((&explained[0]["record"], &explained[0]["verdict"]), (&"explanation".into(), &"counted".into()));
    assert_eq!(explained[0]["after"]["text"], "07:00:00.1 low = 2\n");
    assert_eq!(explained[0]["rules"][0]["before"][0], "06:00:00.1");
    let equal = records(&["explain", "--json", "b.log", "a.log", "--line", "before:2"]);
    assert_eq!((&equal[0]["verdict"], &equal[0]["change"]), (&"equal".into(), &serde_json::Value::Null));
    let rules = records(&["rules", "--json", "--mute", "*.log: numbers", "--ignore", "case"]);
    let named: Vec<&str> = rules.iter().map(|rule| rule["name"].as_str().unwrap()).collect();
    assert_eq!(named, ["case", "*.log: numbers"]);
    assert_eq!(rules[1]["files"], serde_json::json!(["*.log"]));
}
