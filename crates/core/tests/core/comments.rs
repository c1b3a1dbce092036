//! Comments in every language that is listed, between texts that only look like comments.

use tideline_core::internal::rules::{comments, languages::SYNTAXES, languages::Syntax};

/// For each language: a file name, a text in it, and its comments.
const EXAMPLES: &[(&str, &str, &[&str])] = &[
    (
        "a.c",
        "int a; // one\nchar *s = \"// none /* none */ \\\" // none\"; /* two\n two */ char c = '\"'; // three \\\n goes on\nint b;\n",
        &["// one", "/* two\n two */", "// three \\\n goes on"],
    ),
    (
        "a.cpp",
        "auto s = R\"x(// none )\" /* none */)x\"; // one\nchar c = '\\''; int n = 1'000; // two\n",
        &["// one", "// two"],
    ),
    ("a.cs", "var p = @\"c:\\\"; // one\nvar t = \"\"\"\n // none\n\"\"\"; /* two */\n", &["// one", "/* two */"]),
    (
        "A.java",
        "String s = \"/* none */\"; // one\nString t = \"\"\"\n  // none\n  \"\"\"; /** two */\n",
        &["// one", "/** two */"],
    ),
    ("a.kt", "/* one /* inner */ still one */ val s = \"\"\"// none\"\"\"\n", &["/* one /* inner */ still one */"]),
    ("a.scala", "val c = '\"' // one\n/* two /* in */ */ val s = \"// none\"\n", &["// one", "/* two /* in */ */"]),
    ("a.swift", "let s = \"// none\" // one\n/* a /* b */ c */\n", &["// one", "/* a /* b */ c */"]),
    ("a.dart", "var s = '// none'; // one\n", &["// one"]),
    ("a.gradle", "def s = '''\n// none\n''' // one\n", &["// one"]),
    (
        "a.js",
        "let u = 'http://none'; // one\nlet r = /[/*]\\/\\/ none/g; let d = a / b; // two\nlet t = `// none\n/* none */`; /* three */\nreturn /\\/*none/.test(x)\n",
        &["// one", "// two", "/* three */"],
    ),
    ("a.tsx", "const u: string = \"/* none */\"; /* one */\n", &["/* one */"]),
    ("a.jsonc", "{\"url\": \"http://none\", // one\n \"b\": 1 /* two */}\n", &["// one", "/* two */"]),
    (
        "a.rs",
        "fn f<'a>(s: &'a str) {} // it's one\nlet s = \"\n// none\n\"; let c = '\"'; let q = '\\''; let r = r#\"// none \" /* none\"#; /* two /* in */ */\n",
        &["// it's one", "/* two /* in */ */"],
    ),
    ("a.go", "s := `// none\n/* none` // one\nr := '\"' /* two */\n", &["// one", "/* two */"]),
    ("a.zig", "const s =\n    \\\\// none\n; // one\n", &["// one"]),
    ("a.proto", "string s = 1; // one\noption x = \"// none\"; /* two */\n", &["// one", "/* two */"]),
    (
        "a.py",
        "x = '# none' # one\ny = \"\"\"\n# none\n\"\"\"\nz = \"it's\" # two\nw = '\\'# none'\n",
        &["# one", "# two"],
    ),
    (
        "a.sh",
        "echo $# ${x#none} \"# none\" '# none' a#none # one\ncat <<EOF | sort # two\n# none\nEOF\necho \\# none\n# three\n",
        &["# one", "# two", "# three"],
    ),
    (
        "a.sql",
        "select '-- none', 'it''s -- none' -- one\n/* two /* in */ */ from \"-- none\";\n",
        &["-- one", "/* two /* in */"],
    ),
    (
        "a.html",
        "<p title=\"<!-- none -->\">it's <!-- one --></p>\n<script>let s = '// none'; // two\n</script><style>a { b: url('/* none */') } /* three */</style>\n<!-- four\nfour -->\n",
        &["<!-- one -->", "// two", "/* three */", "<!-- four\nfour -->"],
    ),
    ("a.xml", "<a b='<!-- none -->'/><!-- one --><![CDATA[ <!-- none --> ]]>\n", &["<!-- one -->"]),
    ("a.css", "a::before { content: \"/* none */\"; } /* one */\n", &["/* one */"]),
    ("a.scss", "a { b: url(http://none); } // one\n", &["// one"]),
    (
        "a.php",
        "<p># none</p><!-- one --><?php $s = '# none'; # two\n$t = \"// none\"; // three ?>\n<p>// none</p>\n<?php #[Attribute]\n$u = <<<TXT\n// none\nTXT;\n/* four */\n",
        &["<!-- one -->", "# two", "// three ", "/* four */"],
    ),
    (
        "a.rb",
        "s = \"#{x} # none\" # one\nt = '# none'\n=begin\ntwo\n=end\nu = <<~TXT\n  # none\nTXT\nv = /# none/ # three\n",
        &["# one", "=begin\ntwo\n=end", "# three"],
    ),
    ("a.pl", "my $n = $#list; my $s = '# none'; # one\n=pod\ntwo\n=cut\n", &["# one", "=pod\ntwo\n=cut"]),
    (
        "a.yaml",
        "a: don't # one\nb: \"# none\"\nc: x#none\nd: |\n  # none\n  text\n\n  # none\ne: 'it''s # none' # two\nf:\n  - run: |\n      # none\n    name: x # three\n",
        &["# one", "# two", "# three"],
    ),
    ("a.toml", "a = \"# none\" # one\nb = '''\n# none\n''' # two\nc = '\\' # three\n", &["# one", "# two", "# three"]),
    ("a.ini", "; one\n  # two\nkey = a ; none # none\n", &["; one", "# two"]),
    ("a.properties", "# one\n! two\nkey=a#none\n", &["# one", "! two"]),
    (
        "a.lua",
        "s = '-- none' -- one\n--[[ two\ntwo ]] t = [[\n-- none\n]] u = [==[ -- none ]] ]==] --[=[ three ]] ]=]\n",
        &["-- one", "--[[ two\ntwo ]]", "--[=[ three ]] ]=]"],
    ),
    (
        "a.hs",
        "f' x = x --> none\ng = '\"' -- one\n{- two {- in -} -} h = \"{- none -}\" --- three\n",
        &["-- one", "{- two {- in -} -}", "--- three"],
    ),
    ("a.elm", "s = \"-- none\" -- one\n{- two -}\n", &["-- one", "{- two -}"]),
    ("a.ml", "let s = \"(* none *)\" (* one (* in *) *)\n", &["(* one (* in *) *)"]),
    ("a.ex", "s = \"# none\" # one\n", &["# one"]),
    ("a.erl", "S = \"% none\", % one\n", &["% one"]),
    ("a.R", "s <- '# none' # one\n", &["# one"]),
    ("a.jl", "s = \"# none\" # one\n#= two #= in =# =# a = b'\n", &["# one", "#= two #= in =# =#"]),
    ("a.clj", "(def s \"; none\") ; one\n(def c \\; ) #| two |#\n", &["; one", "#| two |#"]),
    ("a.tex", "100\\% none % one\n", &["% one"]),
    ("a.ps1", "$s = '# none' # one\n<# two #>\n", &["# one", "<# two #>"]),
    ("a.tf", "a = \"# none\" # one\nb = 1 // two\n/* three */\n", &["# one", "// two", "/* three */"]),
    ("Makefile", "a: b # one\n\techo \\# none\n", &["# one"]),
    ("Dockerfile", "# one\nRUN echo # none\n", &["# one"]),
    ("a.cmake", "set(a \"# none\") # one\n#[[ two\ntwo ]]\n", &["# one", "#[[ two\ntwo ]]"]),
    ("a.adb", "S := \"-- none\"; -- one\nC := '\"'; -- two\n", &["-- one", "-- two"]),
];

#[test]
fn every_language_knows_its_comments_and_leaves_the_rest_alone() {
    for (name, text, wanted) in EXAMPLES {
        let found = comments(text.as_bytes(), Syntax::of(name).unwrap_or_else(|| panic!("{name} is known")));
        let found: Vec<&str> = found.into_iter().map(|range| &text[range]).collect();
        assert_eq!(&found, wanted, "{name}");
    }
}

#[test]
fn every_language_has_an_example() {
    for syntax in &SYNTAXES {
        let shown = EXAMPLES.iter().any(|(name, ..)| Syntax::of(name).is_some_and(|found| found.name == syntax.name));
        assert!(shown, "{} has an example", syntax.name);
    }
}

#[test]
fn unfinished_and_hostile_texts_end_where_the_text_ends() {
    for (name, _, _) in EXAMPLES {
        let syntax = Syntax::of(name).unwrap();
        for text in [
            "/*", "/* /* a", "\"", "'", "`", "<!--", "<a b=\"", "<?php", "{-", "--[[", "\\", "<<EOF", "=begin", "r#\"",
            "|", "/[", "<script>",
        ] {
            for range in comments(text.as_bytes(), syntax) {
                assert!(range.end <= text.len(), "{name}: {text}");
            }
        }
    }
}

proptest::proptest! {
    #[test]
    fn comments_are_in_order_and_inside_the_text(which in 0..EXAMPLES.len(), pieces in proptest::collection::vec(0..24_usize, 0..30)) {
        const PIECES: [&str; 24] = [
            "/*", "*/", "//", "\n", "\"", "'", "`", "#", "--", "[[", "]]", "<!--", "-->", "<a ", ">", "<?", "?>", "\\", "{-", "-}",
            "x ", "<<A\n", "\u{e9}", "|\n  ",
        ];
        let text: String = pieces.into_iter().map(|piece| PIECES[piece]).collect();
        let found = comments(text.as_bytes(), Syntax::of(EXAMPLES[which].0).unwrap());
        let mut at = 0;
        for range in found {
            proptest::prop_assert!(at <= range.start && range.start < range.end && range.end <= text.len(), "{:?}", range);
            at = range.end;
        }
    }
}

#[test]
fn a_text_may_end_within_anything() {
    let text = "x = <<\"IN\nit # is\nIN\ny = <<~'OUT' # said\nout\nOUT\n/* c */ // d\n#= e =# --[[ f ]] <!-- g --> r#\"h\"# '''i'''\n";
    for name in ["a.rb", "a.sh", "a.pl", "a.php", "a.py", "a.rs", "a.js", "a.lua", "a.html", "a.yaml", "a.sql", "a.hs"]
    {
        let syntax = Syntax::of(name).unwrap();
        for start in 0..text.len() {
            for end in start..=text.len() {
                let cut = &text.as_bytes()[start..end];
                assert!(comments(cut, syntax).iter().all(|found| found.end <= cut.len()), "{name}: {start}..{end}");
            }
        }
    }
}
