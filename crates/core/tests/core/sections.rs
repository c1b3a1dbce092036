//! The section of a line, in every family of files that is listed.

use tideline_core::internal::kinds::text::sections::{LANGUAGES, Language};
use tideline_core::internal::rules::languages::SYNTAXES;
use tideline_core::internal::text::file_type::{FILE_TYPES, FileType};

/// For each family: a file name, a text, and the section of the line that holds the word `here`.
const EXAMPLES: [(&str, &str, &str); 31] = [
    (
        "a.rs",
        "impl Gauge {\n    pub fn read(\n        &self,\n    ) -> Level {\n        if x {\n            here\n",
        "pub fn read(",
    ),
    (
        "a.py",
        "class Gauge:\n    def zero(self):\n        pass\n\n    async def read(self):\n        if x:\n            here\n",
        "async def read(self)",
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
    ("a.go", "func (g *Gauge) Read() int {\n\tif x {\n\t\there()\n", "func (g *Gauge) Read() int"),
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
    ("a.yml", "gauges:\n  mouth:\n    here: 1\n", "mouth"),
    ("a.json", "{\n  \"gauges\": {\n    \"mouth\": [\n      \"here\"\n", "\"mouth\": ["),
    ("a.md", "# Tides\n\n## Ebb\n\nhere\n", "Ebb"),
    ("Makefile", "all: gauge\n\there\n", "all: gauge"),
];

fn section(name: &str, text: &str) -> Option<String> {
    let line = text.find("here").map(|at| text[..at].rfind('\n').map_or(0, |end| end + 1)).unwrap();
    Language::of(name).and_then(|language| language.section(text.as_bytes(), line))
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
