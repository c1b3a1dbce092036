//! Types of files, known by their names: the one table that sections, comments and colours by syntax go by.

/// A type of files.
#[derive(Debug, PartialEq, Eq)]
pub struct FileType {
    /// What it is called: the name of its language.
    pub name: &'static str,
    /// Endings of file names, without the dot; or whole names. Capitals and small letters are the same.
    pub endings: &'static [&'static str],
}

const fn file_type(name: &'static str, endings: &'static [&'static str]) -> FileType {
    FileType { name, endings }
}

impl FileType {
    /// The type of a file, by its name or its path. What is put behind the ending of a copy does not hide it.
    pub fn of(path: &str) -> Option<&'static Self> {
        const COPIES: [&str; 9] = [".orig", ".bak", ".old", ".new", ".in", ".dist", ".sample", ".example", "~"];
        let (file, ending) = Self::name_and_ending(path);
        let has =
            |file_type: &&Self, name: &str| file_type.endings.iter().any(|known| known.eq_ignore_ascii_case(name));
        FILE_TYPES
            .iter()
            .find(|file_type| has(file_type, file))
            .or_else(|| FILE_TYPES.iter().find(|file_type| has(file_type, ending)))
            .or_else(|| Self::of(COPIES.iter().find_map(|copy| file.strip_suffix(copy))?))
    }

    /// The name of the file that a path leads to, and its ending; the whole name where it has none.
    pub fn name_and_ending(path: &str) -> (&str, &str) {
        let file = path.rsplit(['/', '\\']).next().unwrap_or(path);
        (file, file.rsplit_once('.').map_or(file, |(_, ending)| ending))
    }
}

/// Every type that is known. A new one is a new row.
pub static FILE_TYPES: [FileType; 50] = [
    file_type("Ada", &["adb", "ads"]),
    file_type("C", &["c", "h"]),
    file_type("C#", &["cs"]),
    file_type("C++", &["cc", "cpp", "cxx", "hh", "hpp", "hxx", "ino", "cu"]),
    file_type("CMake", &["cmake", "CMakeLists.txt"]),
    file_type("CSS", &["css"]),
    file_type("Dart", &["dart"]),
    file_type("Dockerfile", &["Dockerfile", "Containerfile"]),
    file_type("Elixir", &["ex", "exs"]),
    file_type("Elm", &["elm"]),
    file_type("Erlang", &["erl", "hrl"]),
    file_type("Go", &["go"]),
    file_type("Groovy", &["groovy", "gradle"]),
    file_type("Haskell", &["hs"]),
    file_type("HTML", &["html", "htm", "xhtml", "vue", "svelte"]),
    file_type("INI", &["ini", "cfg", "conf", "editorconfig", "desktop", "service"]),
    file_type("Java", &["java"]),
    file_type("JavaScript", &["js", "mjs", "cjs", "jsx"]),
    file_type("JSON", &["json", "geojson"]),
    file_type("JSON with comments", &["jsonc", "json5"]),
    file_type("Julia", &["jl"]),
    file_type("Kotlin", &["kt", "kts"]),
    file_type("Lisp", &["lisp", "el", "clj", "cljs", "scm", "rkt"]),
    file_type("Lua", &["lua"]),
    file_type("Makefile", &["mk", "Makefile", "makefile", "GNUmakefile"]),
    file_type("Markdown", &["md", "markdown", "mkd"]),
    file_type("Message catalogue", &["po", "pot"]),
    file_type("OCaml", &["ml", "mli"]),
    file_type("Perl", &["pl", "pm", "t"]),
    file_type("PHP", &["php", "phtml"]),
    file_type("PowerShell", &["ps1", "psm1"]),
    file_type("Properties", &["properties"]),
    file_type("Protocol buffers", &["proto"]),
    file_type("Python", &["py", "pyi", "pyw"]),
    file_type("R", &["r"]),
    file_type("reStructuredText", &["rst"]),
    file_type("Ruby", &["rb", "rake", "Rakefile", "Gemfile", "gemspec"]),
    file_type("Rust", &["rs"]),
    file_type("Scala", &["scala", "sc"]),
    file_type("SCSS", &["scss", "less"]),
    file_type("Shell", &["sh", "bash", "zsh", "ksh", "bashrc", "profile"]),
    file_type("SQL", &["sql", "psql"]),
    file_type("Swift", &["swift"]),
    file_type("Terraform", &["tf", "hcl"]),
    file_type("TeX", &["tex", "sty", "bib"]),
    file_type("TOML", &["toml"]),
    file_type("TypeScript", &["ts", "tsx", "mts", "cts"]),
    file_type("XML", &["xml", "svg", "xsd", "xsl", "plist", "rss"]),
    file_type("YAML", &["yaml", "yml"]),
    file_type("Zig", &["zig"]),
];
