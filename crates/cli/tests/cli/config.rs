//! `tideline.toml`, and the commands about it: `rules`, `saved`.

use std::fs;

use crate::support::Folder;

const LOGS: [(&str, &str); 4] = [
    ("one/a.log", "06:00:00.1 low\n"),
    ("two/a.log", "07:00:00.1 low\n"),
    ("one/a.txt", "06:00:00.1 low\r\n"),
    ("two/a.txt", "06:00:00.1 low\n"),
];
const CLOCK: &str = "[[rule]]\nname = \"log clock\"\nfiles = [\"*.log\"]\nmatch = '^\\S+ '\neffect = \"mute\"\n";

fn with_config(text: &str) -> Folder {
    let folder = Folder::with(&LOGS);
    folder.write("tideline.toml", text.as_bytes());
    folder
}

#[test]
fn rules_hold_for_the_files_they_name() {
    let folder = with_config(CLOCK);
    let ran = folder.run(&["one", "two"]);
    assert!(ran.out.contains("2 files: 0 same, 1 muted, 1 changed\n  muted 1 line: log clock 1\n"), "{}", ran.out);
    for switch in [["--rules", "off"], ["--no-config", "--no-moves"]] {
        let off = folder.run(&[&switch[..], &["one", "two"]].concat());
        assert!(off.out.contains("2 files: 0 same, 2 changed\n"), "{}", off.out);
    }
    let decided = folder.run(&["--ignore", "log clock", "one", "two"]);
    assert!(decided.out.contains("2 files: 1 same, 1 changed\n  ignored 1 line: log clock 1\n"), "{}", decided.out);
}

#[test]
fn the_nearest_configuration_wins_over_the_users_own() {
    let folder = with_config(CLOCK);
    folder.write(
        ".config/tideline/tideline.toml",
        b"[[rule]]\nname = \"log clock\"\nmatch = 'x'\neffect = \"ignore\"\n[[rule]]\nname = \"ends\"\nwhat = \"line-ends\"\neffect = \"ignore\"\n[view]\nplain = true\n",
    );
    let ran = folder.run(&["rules"]);
    let lines: Vec<&str> = ran.out.lines().collect();
    assert!(lines[0].starts_with("2 rules are in force; read: tideline.toml, "), "{}", ran.out);
    assert!(lines[2].contains("log clock    mutes /^\\S+ /"), "{}", ran.out);
    assert!(lines[3].contains("ends         ignores line-ends"), "{}", ran.out);
    assert!(lines[2].ends_with("*.log        tideline.toml:1") && lines[3].ends_with("tideline.toml:5"), "{}", ran.out);
    let compared = folder.run(&["one", "two"]);
    assert!(compared.out.starts_with("one o  two *    2 files: 1 same, 1 muted\n"), "{}", compared.out);
    // Also from a folder below.
    let below = folder.command(&["../one", "../two"]).current_dir(folder.path().join("one")).output().unwrap();
    assert!(String::from_utf8_lossy(&below.stdout).contains("1 same, 1 muted"));
    let other = folder.write("other.toml", b"");
    let chosen = folder.run(&["--config", other.to_str().unwrap(), "one", "two"]);
    assert!(chosen.out.contains("1 same, 1 changed"), "{}", chosen.out);
}

#[test]
fn kinds_say_how_files_are_read_and_which_rules_hold() {
    let folder = with_config(&format!(
        "{CLOCK}[[rule]]\nname = \"ends\"\nwhat = \"line-ends\"\neffect = \"ignore\"\n[[kind]]\nfiles = [\"a.log\"]\nrules = [\"ends\"]\n[[kind]]\nfiles = \"*.dat\"\nkind = \"bytes\"\n[[kind]]\nfiles = \"*.old\"\nencoding = \"latin1\"\n"
    ));
    folder.write("one/x.dat", b"a\n");
    folder.write("two/x.dat", b"b\n");
    folder.write("one/x.old", b"caf\xe9 1\n");
    folder.write("two/x.old", b"caf\xe9 2\n");
    let ran = folder.run(&["one", "two"]);
    assert!(ran.out.contains("a.log    1 change, 1 ○ 1 ●"), "the clock does not hold for it:\n{}", ran.out);
    assert!(ran.out.contains("x.dat    1 change, 1 ○ 1 ● bytes"), "{}", ran.out);
    assert!(!ran.out.contains("a.txt"), "{}", ran.out);
    let old = folder.run(&["one/x.old", "two/x.old"]);
    assert!(old.out.contains("café 1"), "{}", old.out);
}

#[test]
fn the_view_has_defaults_that_options_overrule() {
    let folder = with_config("[view]\nlayout = \"beside\"\ncontext = 0\nlegend = false\nwidth = 60\n");
    folder.write("a", b"same\nold\nsame\n");
    folder.write("b", b"same\nnew\nsame\n");
    let ran = folder.run(&["a", "b"]);
    assert!(ran.out.contains('│') && !ran.out.contains("same") && !ran.out.contains("gone: only"), "{}", ran.out);
    let stacked = folder.run(&["--layout", "stacked", "--context", "1", "a", "b"]);
    assert!(stacked.out.contains("    1   1    same\n"), "{}", stacked.out);
}

#[test]
fn mistakes_are_told_with_file_line_and_advice() {
    let cases = [
        ("[[rule]]\nname = \"x\"\nefect = \"mute\"\n", "line 3: a [[rule]] has no key `efect`; did you mean `effect`?"),
        ("[[rules]]\nname = \"x\"\n", "line 1: the configuration has no key `rules`; did you mean `rule`?"),
        ("[view]\nlayot = \"beside\"\n", "line 2: [view] has no key `layot`; did you mean `layout`?"),
        ("[view]\nlayout = \"besides\"\n", "line 2: `besides` is no layout; it can be stacked, beside, inline"),
        ("\n[[rule]]\nmatch = 'a'\neffect = \"mute\"\n", "line 2: a [[rule]] needs the key `name`"),
        ("[[rule]]\nname = \"x\"\neffect = \"mute\"\n", "line 1: the rule `x` needs a pattern"),
        (
            "[[rule]]\nname = \"x\"\nrenamed = { before = \"a\", afer = \"b\" }\neffect = \"mute\"\n",
            "line 3: renamed has no key `afer`; did you mean `after`?",
        ),
        (
            "[[rule]]\nname = \"x\"\nrenamed = { before = \"a\", after = \"a\" }\neffect = \"mute\"\n",
            "line 3: `a` and `a` are no names of one thing",
        ),
        (
            "[[rule]]\nname = \"x\"\nrenamed = \"a=b\"\neffect = \"mute\"\n",
            "line 3: `renamed` of a [[rule]] is a table, as in { before = \"a\", after = \"b\" }",
        ),
        ("[[rule]]\nname = \"x\"\nmatch = 'a('\neffect = \"mute\"\n", "line 3: the pattern /a(/ is malformed"),
        ("[[rule]]\nname = \"x\"\nmatch = 3\neffect = \"mute\"\n", "line 3: `match` of a [[rule]] is a text in quotes"),
        (
            "[[rule]]\nname = \"x\"\nmatch = 'a'\neffect = \"hide\"\n",
            "line 4: `hide` is no effect; a rule can `ignore` or `mute`",
        ),
        ("[[rule]]\nname = \"case\"\nmatch = 'a'\neffect = \"mute\"\n", "line 2: `case` cannot be the name of a rule"),
        (
            "[[rule]]\nname = \"x\"\nwhat = \"spce\"\neffect = \"mute\"\n",
            "line 3: `spce` is neither built in nor the name of a rule; did you mean `space`?",
        ),
        ("[[kind]]\nfiles = \"*.x\"\nrules = [\"clock\"]\n", "names the rule `clock`, which there is not"),
        ("[[kind]]\nfiles = \"*.x\"\nkind = \"tabel\"\n", "line 3: `tabel` is no kind"),
        ("[saved.kit]\nbefore = \"one\"\n", "line 1: [saved.kit] needs the key `after`"),
        (
            "[saved.kit]\nbefore = \"one\"\nafter = \"two\"\nignor = \"case\"\n",
            "line 4: [saved.kit] has no key `ignor`; did you mean `ignore`?",
        ),
        ("a = = 1\n", "line 1: "),
        ("rule = 1\n", "line 1: write [[rule]] with two brackets"),
    ];
    for (text, wanted) in cases {
        let folder = with_config(text);
        let ran = folder.run(&["one", "two"]);
        assert_eq!((ran.status, ran.out.as_str()), (Some(2), ""), "{text}");
        assert!(ran.err.starts_with("tideline: cannot use tideline.toml"), "{}", ran.err);
        assert!(ran.err.contains(wanted), "{text}: {}", ran.err);
    }
    let folder = Folder::with(&LOGS);
    folder.write("tideline.toml", b"\xff\xfe");
    assert!(folder.run(&["one", "two"]).err.contains("it is not text in UTF-8"));
}

#[test]
fn saved_comparisons_are_listed_and_run() {
    let folder = with_config(
        "[saved.kit]\nbefore = \"one\"\nafter = \"two\"\nignore = [\"line-ends\", \"/^\\\\S+ /\"]\nexclude = \"*.x\"\ncontext = 1\nno_moves = true\n",
    );
    let list = folder.run(&["saved"]);
    assert_eq!(
        list.out,
        "  kit    --ignore=line-ends --ignore=/^\\S+ / --context=1 --exclude=*.x --no-moves one two    (tideline.toml:1)\n"
            .replace("--context=1 --exclude=*.x --no-moves", "--exclude=*.x --no-moves --context=1")
    );
    let ran = folder.run(&["saved", "kit"]);
    assert!(ran.out.contains("2 files: 2 same\n"), "{}", ran.out);
    assert_eq!(ran.status, Some(0));
    let more = folder.run(&["saved", "kit", "--quiet"]);
    assert_eq!((more.status, more.out.as_str()), (Some(0), ""));
    let unknown = folder.run(&["saved", "kti"]);
    assert_eq!(unknown.status, Some(2));
    assert!(unknown.err.contains("there is no saved comparison `kti`; did you mean `kit`?"), "{}", unknown.err);
    assert!(Folder::new().run(&["saved"]).err.contains("there are no saved comparisons"));
    // Its paths are those of the folder of the configuration.
    let below = folder.command(&["saved", "kit"]).current_dir(folder.path().join("one")).output().unwrap();
    assert!(String::from_utf8_lossy(&below.stdout).contains("2 files: 2 same"));
}

#[test]
fn a_starting_file_is_written_once_and_can_be_read() {
    let folder = Folder::with(&LOGS);
    let ran = folder.run(&["rules", "init"]);
    assert_eq!((ran.status, ran.err.as_str()), (Some(0), ""));
    assert_eq!(folder.run(&["rules"]).out, "no rule is in force; read: tideline.toml\n");
    let written = folder.read("tideline.toml");
    // Its examples are right: without their comment signs, they are a configuration.
    let text = String::from_utf8(written.clone()).unwrap();
    let keys = [
        "[[",
        "[view",
        "[saved",
        "name ",
        "files ",
        "match ",
        "what ",
        "effect ",
        "kind ",
        "encoding ",
        "rules ",
        "layout ",
        "context ",
        "grain ",
        "before ",
        "after ",
        "ignore ",
        "exclude ",
    ];
    let examples = text.lines().filter_map(|line| {
        line.strip_prefix("# ").filter(|rest| {
            keys.iter().any(|key| rest.starts_with(key)) && (rest.contains(" = ") || rest.starts_with('['))
        })
    });
    let examples: String = examples.map(|line| format!("{line}\n")).collect();
    folder.write("examples.toml", examples.as_bytes());
    let read = folder.run(&["rules", "--config", "examples.toml"]);
    assert!(read.out.starts_with("2 rules are in force"), "{}{}\n{examples}", read.out, read.err);
    let again = folder.run(&["rules", "init"]);
    assert_eq!(again.status, Some(2));
    assert!(again.err.contains("it exists already"), "{}", again.err);
    assert_eq!(fs::read(folder.path().join("tideline.toml")).unwrap(), written);
}

#[test]
fn testing_rules_marks_and_names_what_each_matches() {
    let folder = Folder::with(&[("x.py", "a = 10  # ten\n# all\nb = \"# no\"\n")]);
    let ran = folder.run(&["rules", "test", "--mute", "comments", "--ignore", "numbers,uuids", "x.py"]);
    let wanted = "x.py    3 lines, 3 rules hold
  a  numbers ignores: 1 match  (command line)
  b  uuids ignores: 0 matches  (command line)
  c  comments mutes: 2 matches, 1 whole line gone  (command line)

 ac   1    a = 10  # ten
               aaccccccc
 c    2    # all
           ccccc
      3    b = \"# no\"
";
    assert_eq!(ran.out, wanted);
    let none = folder.run(&["rules", "test", "x.py"]);
    assert_eq!(none.status, Some(2));
    assert!(none.err.contains("there is no rule to test"), "{}", none.err);
}

#[test]
fn a_rename_of_the_configuration_holds_like_one_of_the_command_line() {
    let folder = Folder::with(&[
        (
            "tideline.toml",
            "[[rule]]\nname = \"the new word\"\nrenamed = { before = \"a=b, c\", after = \"sensor\" }\neffect = \"ignore\"\n",
        ),
        ("one", "read a=b, c now\n"),
        ("two", "read sensor now\n"),
    ]);
    let ran = folder.run(&["one", "two"]);
    assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
    assert!(ran.out.contains("ignored 1 line: the new word 1"), "{}", ran.out);
    let listed = folder.run(&["rules"]);
    assert!(listed.out.contains(r"ignores renamed:a\=b\, c=sensor"), "{}", listed.out);
}

#[test]
fn a_rule_for_some_files_holds_when_either_name_fits_and_each_is_read_by_its_own() {
    let folder = Folder::with(&[
        ("tideline.toml", "[[rule]]\nname = \"clock\"\nfiles = [\"*.log\"]\nmatch = '^\\d+ '\neffect = \"ignore\"\n"),
        ("a.log", "1 low\n"),
        ("b.txt", "2 low\n"),
        ("c.py", "low # one\n"),
        ("d.sql", "low -- two\n"),
    ]);
    for sides in [["a.log", "b.txt"], ["b.txt", "a.log"]] {
        assert_eq!(folder.run(&sides).status, Some(0), "{sides:?}");
    }
    for sides in [["c.py", "d.sql"], ["d.sql", "c.py"]] {
        assert_eq!(folder.run(&[sides[0], sides[1], "--ignore", "comments"]).status, Some(0), "{sides:?}");
        assert_eq!(folder.run(&sides).status, Some(1), "{sides:?}");
    }
}
