//! The section of a line, in every family of files that is listed.

use tideline_core::internal::kinds::text::sections::{LANGUAGES, Language, SectionName, Sections, section_changes};
use tideline_core::internal::kinds::text::{TextOptions, compare};
use tideline_core::internal::model::Form;
use tideline_core::internal::rules::languages::SYNTAXES;
use tideline_core::internal::text::file_type::{FILE_TYPES, FileType};

/// For each family: a file name, a text, and the section of the line that holds the word `here`.
const EXAMPLES: [(&str, &str, &str); 34] = [
    (
        "a.rs",
        "impl Gauge {\n    pub fn read(\n        &self,\n    ) -> Level {\n        if x {\n            here\n",
        "pub fn read( › if x",
    ),
    (
        "a.py",
        "class Gauge:\n    def zero(self):\n        pass\n\n    async def read(self):\n        if x:\n            here\n",
        "async def read(self) › if x",
    ),
    (
        "a.c",
        "static int zero;\n\nstatic int\nread_level(struct gauge *g,\n           int n)\n{\n\there;\n",
        "read_level(struct gauge *g,",
    ),
    ("a.cpp", "namespace tide {\nclass Gauge : public Base {\n  void here();\n", "class Gauge : public Base"),
    ("a.cs", "class Gauge\n{\n    public int Read()\n    {\n        here;\n", "public int Read()"),
    ("A.java", "class Gauge {\n    public int read() {\n        here();\n", "public int read()"),
    ("a.kt", "class Gauge {\n    suspend fun read(): Int {\n        here()\n", "suspend fun read(): Int"),
    ("a.js", "export async function read(gauge) {\n  here();\n", "export async function read(gauge)"),
    ("a.tsx", "class Gauge {\n  private read(n: number): Level {\n    here();\n", "private read(n: number): Level"),
    ("a.go", "func (g *Gauge) Read() int {\n\tif x {\n\t\there()\n", "func (g *Gauge) Read() int › if x"),
    ("a.swift", "struct Gauge {\n  mutating func read() -> Int {\n    here()\n", "mutating func read() -> Int"),
    ("a.scala", "object Gauge {\n  def read(): Int = {\n    here()\n", "def read(): Int ="),
    ("a.rb", "class Gauge\n  def read\n    here\n", "def read"),
    ("a.php", "class Gauge {\n    public function read() {\n        here();\n", "public function read()"),
    ("a.pl", "sub read {\n    here();\n", "sub read"),
    ("a.lua", "local function read(gauge)\n  here()\n", "local function read(gauge)"),
    ("a.sh", "read_level() {\n  here\n", "read_level()"),
    ("a.hs", "readLevel :: Gauge -> Int\nreadLevel g =\n  here g\n", "readLevel g ="),
    ("a.ex", "defmodule Gauge do\n  def read(g) do\n    here\n", "def read(g) do"),
    ("a.R", "read_level <- function(gauge) {\n  here\n", "read_level <- function(gauge)"),
    ("a.jl", "function read(gauge)\n    here\n", "function read(gauge)"),
    ("a.sql", "CREATE TABLE gauge (\n  here int\n", "CREATE TABLE gauge ("),
    ("a.scss", ".gauge > .level {\n  here: 1;\n", ".gauge > .level"),
    ("a.html", "<body>\n  <section id=\"tide\">\n    here\n", "<section id=\"tide\">"),
    ("a.xml", "<estuary>\n  <gauge id=\"1\">\n    here\n", "<gauge id=\"1\">"),
    ("a.toml", "[sensor]\nx = 1\n[sensor.primary]\nhere = 1\n", "[sensor.primary]"),
    ("a.ini", "[sensor]\nhere = 1\n", "[sensor]"),
    ("a.yml", "gauges:\n  mouth:\n    here: 1\n", "gauges › mouth"),
    ("a.json", "{\n  \"gauges\": {\n    \"mouth\": [\n      \"here\"\n", "gauges › mouth"),
    ("a.md", "# Tides\n\n## Ebb\n\nhere\n", "Ebb"),
    ("a.po", "msgid \"ebb\"\nmsgstr \"\"\n\nmsgid \"flow\"\nmsgstr \"here\"\n", "\"flow\""),
    ("Makefile", "all: gauge\n\there\n", "all: gauge"),
    ("a.rst", "Tides\n=====\n\nEbb\n---\n\nhere\n", "Ebb"),
    ("a.tex", "\\chapter{Tides}\n\\section*{Ebb and flood}\nhere\n", "Ebb and flood"),
];

/// The same for what is more than a function at the margin.
const FURTHER: [(&str, &str, Option<&str>); 48] = [
    ("a.js", "/**\n * here\n */\nasync function send(level) {\n", Some("above async function send(level)")),
    ("a.js", "class Gauge {\n  read() {\n  }\n\n  // here\n  send(level) {\n", Some("above send(level)")),
    ("a.js", "function send() {\n  // here\n  if (late) {\n", Some("function send()")),
    ("a.js", "// here\n\nfunction send() {\n", None),
    ("a.js", "/* here */\nconst LATE = 5;\n", Some("above const LATE")),
    ("a.js", "function send() {\n  // here\n  const late = 5;\n", Some("function send()")),
    ("a.js", "const DEFAULTS = {\n  here: 1,\n", Some("DEFAULTS")),
    ("a.rs", "impl Gauge {\n    #[must_use] // here\n    pub fn read() {\n", Some("above pub fn read()")),
    ("a.rs", "/// here\n#[test]\nfn reads() {\n", Some("above fn reads()")),
    ("a.rs", "impl Gauge {\n    /// here\n    pub const LATE: u8 = 1;\n", Some("above pub const LATE")),
    ("a.py", "@here\ndef read():\n    pass\n", Some("above def read()")),
    ("a.h", "/* here */\nint read_level(struct gauge *g);\n", Some("above int read_level(struct gauge *g)")),
    ("a.c", "int read(void)\n{\n\tgoto out;\nout:\n\there;\n", Some("int read(void)")),
    ("a.po", "msgid \"ebb\"\nmsgstr \"\"\n\n#: here:1\nmsgid \"flow\"\n", Some("above \"flow\"")),
    ("a.md", "# Tides\n\n~~~\n```\n# no heading\n~~~\n\nhere\n", Some("Tides")),
    ("a.md", "# Tides\n\n````\n```\n# no heading\n````\n\nhere\n", Some("Tides")),
    ("a.rst", "Tides\n~~~~~\n\n.. note::\n\n   here\n", Some(".. note")),
    ("a.rst", "Tides\n~~~~~\n\n.. note::\n\n   x\n\nhere\n", Some("Tides")),
    ("a.html", "<body>\n  <div class=\"x\" id=\"tide\">\n    here\n", Some("<div class=\"x\" id=\"tide\">")),
    ("a.html", "<dl>\n  <dt>Ebb</dt>\n    here\n", Some("<dt>Ebb</dt>")),
    ("a.html", "{% block levels %}\n  here\n{% endblock %}\n", Some("block levels")),
    ("a.sql", "create table a (\n  x int\n);\n\nhere;\n", None),
    ("a.yml", "jobs:\n  build:\n    steps:\n    - here: 1\n", Some("jobs › build › steps")),
    (
        "a.yml",
        "jobs:\n  build:\n    steps:\n      - run: x\n      - env:\n          here: 1\n",
        Some("jobs › build › steps › env"),
    ),
    ("a.toml", "[ebb]\nx = 1\n\n[here]\ny = 1\n", None),
    ("a.rs.orig", "fn read() {\n    here\n", Some("fn read()")),
    ("a.js", "function read(gauge) {\n  if (late) {\n    here();\n", Some("function read(gauge) › if (late)")),
    ("a.js", "levels.get = function (station) {\n  if (late) {\n    here();\n", Some("levels.get › if (late)")),
    ("a.js", "const read = async (gauge) => {\n  here();\n", Some("read")),
    ("a.js", "module.exports = {\n  read: function (gauge) {\n    here();\n", Some("read")),
    (
        "a.js",
        "class Gauge {\n  static async read(gauge) {\n    for (const x of y) {\n      here();\n",
        Some("static async read(gauge) › for (const x of y)"),
    ),
    (
        "a.js",
        "describe('the gauge', () => {\n  it('reads levels', () => {\n    here();\n",
        Some("it('reads levels', () =>"),
    ),
    ("a.js", "if (late) {\n  here();\n}\n", None),
    (
        "a.ts",
        "class Gauge {\n  read<T extends Level>(n: number): T {\n    here();\n",
        Some("read<T extends Level>(n: number): T"),
    ),
    ("a.ts", "export const read = <T>(gauge: Gauge<T>): Level => {\n  here();\n", Some("read")),
    ("a.py", "def main(arguments):\n    if late:\n        here\n", Some("def main(arguments) › if late")),
    ("a.py", "def main(arguments):\n    if late:\n        x\n    here\n", Some("def main(arguments)")),
    (
        "a.py",
        "def main(arguments):\n    if late:\n        x\n    else:\n        here\n",
        Some("def main(arguments) › else"),
    ),
    ("a.c", "int read(void)\n{\n\tif (late) {\n\t\there;\n", Some("int read(void) › if (late)")),
    ("a.html", "<body>\n  <script>\n    function read() {\n      here();\n", Some("function read()")),
    ("a.html", "<head>\n  <style>\n    .gauge {\n      here: 1;\n", Some(".gauge")),
    ("a.html", "<body>\n  <script>\n    function read() {\n    }\n  </script>\n  <main>\n    here\n", Some("<main>")),
    ("a.md", "Tides\n=====\n\nhere\n", Some("Tides")),
    ("a.md", "# Tides\n\n```sh\n# no heading\n```\n\nhere\n", Some("Tides")),
    ("a.md", "# Tides\n\ntext\n\n---\n\nhere\n", Some("Tides")),
    (
        "a.sql",
        "CREATE OR REPLACE FUNCTION level(n int)\nRETURNS int AS $$\nhere\n",
        Some("CREATE OR REPLACE FUNCTION level(n int)"),
    ),
    ("a.sql", "create temporary table gauge (\n  here int\n", Some("create temporary table gauge (")),
    ("Makefile", "all: gauge\n\techo\n\ngauge: x\n\there\n", Some("gauge: x")),
];

fn section(name: &str, text: &str) -> Option<String> {
    let line = text.find("here").map(|at| text[..at].rfind('\n').map_or(0, |end| end + 1)).unwrap();
    let end = text[line..].find('\n').map_or(text.len(), |end| line + end + 1);
    let SectionName { title, block, outer, is_above } = Sections::new(name, text.as_bytes(), 1).of(&(line..end))?;
    let parts: Vec<String> = outer.into_iter().chain([title]).chain(block).collect();
    Some(format!("{}{}", if is_above { "above " } else { "" }, parts.join(" › ")))
}

#[test]
fn every_family_knows_its_sections() {
    for (name, text, expected) in EXAMPLES {
        assert_eq!(section(name, text).as_deref(), Some(expected), "{name}");
    }
    let covered = |language: &Language| {
        EXAMPLES.iter().any(|(name, ..)| Language::of(name).is_some_and(|found| found.types == language.types))
    };
    for language in &LANGUAGES {
        assert!(covered(language), "{} has an example", language.types[0]);
    }
}

#[test]
fn a_function_comes_first_and_a_block_only_after_it() {
    for (name, text, expected) in FURTHER {
        assert_eq!(section(name, text).as_deref(), expected, "{name}: {text}");
    }
}

#[test]
fn sections_are_the_same_however_often_they_are_asked_for() {
    let function =
        |at: usize| format!("def read_{at}(gauge):\n    if late_{at}:\n        x = {at}\n    return {at}\n\n");
    let text: String = (0..3000).map(function).collect();
    let (once, often) = (Sections::new("a.py", text.as_bytes(), 1), Sections::new("a.py", text.as_bytes(), 10_000));
    for line in memchr::memmem::find_iter(text.as_bytes(), b"        x = ").step_by(97) {
        let found = often.at(line);
        assert_eq!(once.at(line), found);
        assert!(found.unwrap().block.unwrap().starts_with("if late_"));
    }
    assert_eq!(often.all().len(), 6000);
    assert!(often.all().iter().filter(|section| !section.is_block).all(|section| section.lines.len() == 5));
}

#[test]
fn a_line_at_the_margin_of_a_nested_language_is_in_no_section() {
    assert_eq!(section("a.py", "def read():\n    pass\n\nhere = 1\n"), None);
    assert_eq!(section("a.py", "def read():\n    pass\n\nGAUGES = [\n    here,\n"), None);
    assert_eq!(section("unknown.xyz", "def read():\n    here\n"), None);
}

#[test]
fn sections_and_comments_speak_of_types_that_there_are() {
    let is_known = |name: &str| FILE_TYPES.iter().any(|file_type| file_type.name == name);
    for name in LANGUAGES.iter().flat_map(|language| language.types).chain(SYNTAXES.iter().map(|syntax| &syntax.name)) {
        assert!(is_known(name), "{name}");
    }
    for file_type in &FILE_TYPES {
        for ending in file_type.endings {
            assert_eq!(FileType::of(ending).map(|found| found.name), Some(file_type.name), "{ending}");
        }
    }
    assert_eq!(FileType::of("ports/CMakeLists.txt").map(|found| found.name), Some("CMake"));
    assert_eq!(FileType::of("ports/LEVELS.SQL").map(|found| found.name), Some("SQL"));
}

/// What became of each section, in order, and how many changes are in none.
fn told(name: &str, before: &str, after: &str) -> (Vec<String>, usize) {
    let (b, a) = (before.as_bytes(), after.as_bytes());
    let found = section_changes(name, (b, a), &compare(b, a, &TextOptions::default()));
    let line = |change: &tideline_core::internal::kinds::text::sections::SectionChange| {
        let form = match change.form {
            Form::Edited => format!("{} in", change.changes),
            form => format!("{form:?}").to_lowercase(),
        };
        format!("{form} {}", change.path.join(" › "))
    };
    (found.sections.iter().map(line).collect(), found.outside)
}

#[test]
fn sections_that_differ_are_told_by_their_names() {
    let before = "import tide\n\nclass Gauge:\n    def zero(self):\n        return 0\n\n    def read(self):\n        if self.late:\n            wait()\n        return 1\n\ndef old():\n    pass\n";
    let after = "import tides\n\nclass Gauge:\n    def zero(self, datum):\n        return datum\n\n    def read(self):\n        if self.late:\n            wait(5)\n        return 2\n\n    def close(self):\n        pass\n\nclass New:\n    def inside(self):\n        pass\n";
    let (sections, outside) = told("a.py", before, after);
    assert_eq!(
        sections,
        [
            "1 in class Gauge › def zero(self, datum)",
            "1 in class Gauge › def read(self)",
            "new class Gauge › def close(self)",
            "new class New",
            "gone def old()"
        ]
    );
    assert_eq!(outside, 1);
}

#[test]
fn a_section_that_moved_is_told_as_moved() {
    let part = |name: &str| {
        format!(
            "def {name}(gauge):\n    level = gauge.read_{name}()\n    print(level, \"{name} was read\")\n    return level\n\n"
        )
    };
    let before = [part("mouth"), part("quay"), part("light"), part("reach")].concat();
    let after = [part("quay"), part("light"), part("reach"), part("mouth")].concat();
    let (sections, outside) = told("a.py", &before, &after);
    assert_eq!((sections, outside), (vec!["moved def mouth(gauge)".to_owned()], 0));
}

#[test]
fn of_sections_with_one_name_those_with_paired_headings_are_the_same() {
    let kept = "## 1.1\n\n### Fixed\n- the datum of the quay\n\n### Fixed\n- the pause of the light\n";
    let (before, after) = (
        format!("# Kit\n\n{kept}"),
        format!("# Kit\n\n## 1.1\n\n### Fixed\n- a bell that rang twice\n\n{}", &kept[8..]),
    );
    let (sections, outside) = told("CHANGES.md", &before, &after.replace("the pause", "the long pause"));
    assert_eq!((sections, outside), (vec!["new Kit › 1.1 › Fixed".to_owned(), "1 in Kit › 1.1 › Fixed".to_owned()], 0));
}

#[test]
fn a_section_keeps_its_name_when_what_it_is_derived_from_changes() {
    let before = "pub trait Reading {\n    fn level(&self);\n}\n";
    let after = "pub trait Reading: Sealed {\n    fn level(&self);\n}\n";
    assert_eq!(told("a.rs", before, after), (vec!["1 in pub trait Reading: Sealed".to_owned()], 0));
    let (before, after) =
        ("# Note: the quay\n\nIt is high.\n", "# Note: the lock\n\nIt is shut, and deep, and wide.\n");
    assert_eq!(told("a.md", before, after).0, ["new Note: the lock", "gone Note: the quay"]);
}
