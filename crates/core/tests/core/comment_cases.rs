//! Tricky but ordinary texts, language by language: what is a comment in them stands between `«` and `»`, and nothing else is one.
//!
//! Each is tried both ways: what the comments say can change under `comments`, and what stands outside of them cannot.

use tideline_core::internal::align::work;
use tideline_core::internal::kinds::text::{TextOptions, compare_masked};
use tideline_core::internal::rules::{MaskedText, comments, languages::SYNTAXES, languages::Syntax};

use crate::rules::file_rules;

/// A file name, and texts in it. Text that must count says `none`, comments say `one`.
type Cases = (&'static str, &'static [&'static str]);

const CASES: &[Cases] = &[
    (
        "a.sh",
        &[
            "echo a#none «# one»\n",
            "echo ${x#none} ${#none} $# none «# one»\n",
            "echo \"$(echo \"# none\" # none\n) # none\" «# one»\n",
            "echo `echo '# none'` «# one»\n",
            "echo $((16#none)) $((1 << 2)) «# one»\n",
            "cat <<EOF\n# none\n EOF # none\nEOF none\nEOF\n«# one»\n",
            "cat <<-'END OF'\n# none\n\tEND OF\n«# one»\n",
            "cat <<< \"# none\"\n«# one»\n",
            "cat <<A <<\\B\n# none\nA\n# none\nB\necho none «# one»\n",
            "echo a\\ #none \\# none\n",
            "echo $'it\\'s # none' «# one»\n",
            "x='a\n# none\n' «# one»\n",
            "echo ${x:-\"}\" # none}\n",
            "#!/bin/none\n«# one»\n",
            "(none) «# one»\necho none;«# one»\n",
            "echo \"${x:-'# none'}\" «# one»\n",
            "((x = y << 2)) «# one»\necho none\n",
            "case $x in\na) echo '#none';; «# one»\nesac\n",
            "echo {#none,=#none} [#none\n",
        ],
    ),
    (
        "a.pl",
        &[
            "my $n = $#none; my $m = $#{none}; «# one»\n",
            "s#none#none#g; «# one»\n",
            "my @a = qw(a # none\n b); «# one»\n",
            "my $s = q{ { # none } # none }; «# one»\n",
            "$x =~ m{# none}x; «# one»\n",
            "$x =~ s{# none}{# none}e; «# one»\n",
            "tr/#none/a/; «# one»\n",
            "print <<\"A\", <<'B';\n# none\nA\n# none\nB\nnone(); «# one»\n",
            "print <<~EOT;\n  # none\n  EOT\n«# one»\n",
            "split /# none/, $x; «# one»\n",
            "split / # none/, $x; «# one»\n",
            "f / # none/;\n",
            "my $y = $x / 2; «# one / none»\n",
            "my %h = (s => 1, y => 2); «# one»\n",
            "$h{s} = $h{y}; «# one»\nnone\n",
            "none();\n«=pod\n\none\n\n=cut»\nnone();\n",
            "none();\n__END__\n# none\n",
            "print \"# none\\\" # none\"; «# one»\n",
            "format STDOUT =\n@<<< # none\n$none\n.\n«# one»\n",
            "my $s = 'it\\'s # none'; «# one»\n",
            "if ($x =~ /\\/# none/) { } «# one»\n",
            "#!/usr/bin/none\n«# one»\n",
        ],
    ),
    (
        "a.rb",
        &[
            "s = \"#{h[\"a # none\"]} # none\" «# one»\n",
            "s = %w[a # none] «# one»\n",
            "s = %q(a (b) # none) «# one»\n",
            "s = <<~A + <<~'B'\n  # none\nA\n  # none\nB\nnone «# one»\n",
            "s = <<-EOT\n# none\n  EOT\n«# one»\n",
            "s = ?# + '# none' «# one»\n",
            "x =~ /# none/ «# one»\n",
            "x =~ /#{a[\"/\"]} # none/ «# one»\n",
            "a = b / c «# one / two»\nnone\n",
            "f /a # none/\n",
            "s = :\"# none\" «# one»\n",
            "none\n«=begin\none\n=end»\nnone\n",
            "none\n__END__\n# none\n",
            "s = `echo # none` «# one»\n",
            "s = %r{# none} «# one»\n",
            "a << B «# one»\nnone\n",
            "s = 'it\\'s # none' «# one»\n",
        ],
    ),
    (
        "a.js",
        &[
            "let a = `${f(\"// none\")} // none`; «// one»\n",
            "let a = `${`/* none */`} // none`; «/* one */»\n",
            "let r = /[/*]none/; «// one»\n",
            "if (x) /[\"'] none/.test(y); // none\n«// one»\n",
            "let d = a / b; «// one / two»\nnone\n",
            "return /\\/*none/.test(x) «/* one */»\n",
            "let u = \"http://none\"; «// one»\n",
            "let s = 'a\\\n// none'; «// one»\n",
            "const e = <p title=\"// none\">it's // none</p>; «// one»\n",
            "const e = (<div>{«/* one */»} /* none */ <b/>none</div>); «// one»\n",
            "const e = <>// none <a href='x'>\"</a></>; «// one»\n",
            "if (a < b) { } «// one»\nlet n = none > 1;\n",
            "#!/usr/bin/none\n«// one»\n",
            "let s = `a\n// none\n`; «// one»\n",
            "x = a++ / none // none\nnone\n",
        ],
    ),
    (
        "a.yaml",
        &[
            "a: it's none «# one»\nb: x#none\n",
            "a: \"# none\" «# one»\n",
            "a: 'it''s # none' «# one»\n",
            "a: |\n  # none\n   none\n  # none\nb: none «# one»\n",
            "a: >- «# one»\n  # none\nb: none\n",
            "- |\n # none\n- none «# one»\n",
            "- key: |\n    # none\n  other: none «# one»\n",
            "--- |\n# none\nnone\n...\n«# one»\n",
            "a: !!str |\n  # none\n«# one»\n",
            "a: x 'none\nb: 'z # none' «# one»\n",
            "a: [\"x # none\", 'y # none'] «# one»\n",
            "{a: 'x # none', \"b\": none} «# one»\n",
            "a: \"none\n  # none\" «# one»\n",
            "a: &x 'y # none' «# one»\n",
            "a: http://none#none «# one»\n",
            "a:\n  - b: >2\n       # none\n    c: none «# one»\n",
            "a: this goes on\n  'twas none\nb: \"# none\"\n",
        ],
    ),
    (
        "a.ps1",
        &[
            "$s = \"a `\" # none\" «# one»\n",
            "$s = 'it''s # none' «# one»\n",
            "$s = @\"\n# none\n \"@ none\n\"@ «# one»\n",
            "$s = @'\n# none\n'@\n«# one»\n",
            "$s = \"$(f \"# none\") # none\" «# one»\n",
            "f a#none «# one»\n",
            "«<# one\none #>» none\n",
            "f `# none\n",
            "$s = \"a\"\"# none\" «# one»\n",
            "$x = @{ a = 1 } «# one»\nnone\n",
        ],
    ),
    (
        "a.ex",
        &[
            "s = \"#{h[\"# none\"]} # none\" «# one»\n",
            "s = ~s(# none) «# one»\n",
            "s = ~r/# none/ «# one»\n",
            "s = ~S\"\"\"\n# none\n\"\"\" «# one»\n",
            "s = \"\"\"\n# none\n\"\"\" «# one»\n",
            "c = ?# «# one»\nnone\n",
            "c = ?\" «# one»\nnone\n",
            "s = '# none' «# one»\n",
            "s = ~w[a # none] «# one»\n",
            "s = '''\n# none\n''' «# one»\n",
            "s = ~s{a \\} # none} «# one»\n",
        ],
    ),
    (
        "a.sql",
        &[
            "select '-- none', 'it''s -- none' «-- one»\n",
            "select $$-- none$$, $f$ -- none $$ $f$ «-- one»\n",
            "select \"-- none\", `-- none`, [-- none] «-- one»\n",
            "/*! none */ select 1 «/* one */»\n",
            "select /*+ none */ 1 «-- one»\n",
            "select 'it\\'s -- none'; -- none\n«-- one»\n",
            "«/* one /* one */» none */ select 1\n",
            "select a - -none «-- one»\n",
            "select $1, $2 «-- one»\nnone\n",
            "select 'a\n-- none\n' «-- one»\n",
        ],
    ),
    (
        "Makefile",
        &[
            "a: none «# one»\n",
            "\techo '# none'\n",
            "a: b\n\techo none \\\n  # none\n«# one»\n",
            "x = a\\#none «# one»\n",
            "x = $(subst #,none,a)\n",
            "define x\n# none\nendef\n«# one»\n",
            "«# one \\\n one»\nnone = 1\n",
            "x = \"«# one»\nnone = 1\n",
            "a: ; echo # none\n",
            "x = a\\\\«# one»\nnone = 1\n",
        ],
    ),
    (
        "a.cmake",
        &[
            "set(a \"# none\") «# one»\n",
            "set(a [[# none]]) «# one»\n",
            "set(a [=[ ]] # none ]=]) «# one»\n",
            "«#[[ one\none ]]» none()\n",
            "«#[==[ ]] one ]==]» none()\n",
            "set(a \\# none)\n",
            "set(a \"x\\\"# none\") «# one»\n",
            "set(a \"\n# none\n\") «# one»\n",
            "«# one»\nnone()\n",
            "none() «#[ one»\n",
        ],
    ),
    (
        "a.tex",
        &[
            "none \\% none «% one»\n",
            "\\verb|% none| «% one»\n",
            "\\begin{verbatim}\n% none\n\\end{verbatim}\n«% one»\n",
            "\\url{http://x/%none} «% one»\n",
            "\\begin{lstlisting}[language=C]\n% none\n\\end{lstlisting} «% one»\n",
            "none%«one»\n",
            "\\href{a%none}{b} «% one»\n",
            "\\lstinline[x]!% none! «% one»\n",
            "  «% one»\nnone\n",
        ],
    ),
    (
        "a.tf",
        &[
            "a = <<EOF\n# none\n EOF\nEOF\n«# one»\n",
            "a = <<-EOF\n  // none\n  EOF\n«// one»\n",
            "a = \"${f(\"# none\")} # none\" «# one»\n",
            "a = \"// none\" «// one»\n",
            "a = none «/* one */»\n",
            "a = \"\\\"# none\" «# one»\n",
            "a = \"$${# none\" «# one»\n",
            "«# one»\nnone = 1\n",
        ],
    ),
    (
        "a.swift",
        &[
            "let s = #\"a\" // none\"# «// one»\n",
            "let s = \"\\(f(\"// none\")) // none\" «// one»\n",
            "let s = \"\"\"\n// none\n\"\"\" «// one»\n",
            "let r = /[\"] none/ «// one»\n",
            "let r = #/ // none /# «// one»\n",
            "«/* one /* one */ one */» none\n",
            "let d = a / b «// one»\nnone\n",
            "let s = ##\"\"\"\n\"\"\"# // none\n\"\"\"## «// one»\n",
            "let s = \"it's // none\" «// one»\n",
        ],
    ),
    (
        "a.html",
        &[
            "<p title=\"<!-- none -->\">«<!-- one -->»</p>\n",
            "<!--[if IE]> none <![endif]-->\n",
            "<!--> none -->\n",
            "<!---> none -->\n",
            "«<!-- one --!>» none -->\n",
            "<textarea><!-- none --></textarea>«<!-- one -->»\n",
            "<script type=\"application/json\">{\"a\": \"// none\"} // none</script>\n",
            "<script>let s = `${\"// none\"}`; «// one»\n</script>\n",
            "<style>a { b: url(/*none*/) } «/* one */»</style>\n",
            "<script type='text/template'><!-- none --></script>\n",
            "it's none «<!-- one -->» it's\n",
            "<title><!-- none --></title>\n",
        ],
    ),
    (
        "a.xml",
        &[
            "<a b='<!-- none -->'/>«<!-- one -->»\n",
            "<![CDATA[ <!-- none --> ]]>«<!-- one -->»\n",
            "<?pi <!-- none --> ?>«<!-- one -->»\n",
            "<!DOCTYPE a [ <!ENTITY x \"<!-- none -->\"> «<!-- one -->» ]><a>none</a>\n",
            "<a>it's «<!-- one -->» none</a>\n",
        ],
    ),
    (
        "Dockerfile",
        &[
            "RUN cat <<EOF\n# none\nEOF\n«# one»\n",
            "RUN echo # none\n",
            "RUN cat <<-\"E\"\n# none\n\tE\n«# one»\n",
            "«# one»\nRUN none\n",
        ],
    ),
    (
        "a.cs",
        &[
            "var s = $\"{f(\"// none\")} // none\"; «// one»\n",
            "var s = @\"c:\\\"; «// one»\nnone();\n",
            "var s = $@\"a\"\"{x} // none\"; «// one»\n",
            "var s = \"\"\"\"\n\"\"\" // none\n\"\"\"\"; «// one»\n",
            "#region it's // none\n«// one»\n#endregion\n",
            "#error don't /* none\n«// one»\n",
            "var s = $$\"\"\"{ // none {{f(\"// none\")}} \"\"\"; «// one»\n",
            "char c = '\"'; «// one»\nnone();\n",
            "var s = $\"{{ // none\"; «// one»\n",
            "x = a / b; «/* one */» none();\n",
        ],
    ),
    (
        "a.erl",
        &[
            "C = $%, none «% one»\n",
            "C = $\", none «% one»\n",
            "C = $\\\", none «% one»\n",
            "A = 'a % none' «% one»\n",
            "S = \"a % none\" «% one»\n",
            "S = \"\"\"\n% none \" none\n\"\"\" «% one»\n",
        ],
    ),
    (
        "a.R",
        &[
            "s <- r\"(# none \" none)\" «# one»\n",
            "x %#% none «# one»\n",
            "s <- R'--[# none]--' «# one»\n",
            "`a # none` <- 1 «# one»\n",
            "s <- 'it\\'s # none' «# one»\n",
        ],
    ),
    (
        "a.c",
        &[
            "char c = '\"'; «// one»\nnone();\n",
            "int n = 1'000; f(\"a'b // none\"); «// one»\n",
            "#include <a//none>\n«// one»\n",
            "#error don't // none\n«// one»\n",
            "«// one \\\none»\nnone();\n",
            "char *s = \"a\\\n// none\"; «// one»\n",
        ],
    ),
    ("a.cpp", &["auto s = u8R\"(// none)\"; «// one»\n", "int FOOR = none; «// one»\n"]),
    ("a.dart", &["var s = r'\\'; «// one»\nnone();\n", "var s = '${f('// none')} // none'; «// one»\n"]),
    (
        "a.groovy",
        &[
            "def s = /a \" none/ «// one»\n",
            "def s = $/ // none /$ «// one»\n",
            "def s = \"${f(\"// none\")} // none\" «// one»\n",
        ],
    ),
    (
        "a.hs",
        &[
            "{-# LANGUAGE None, none #-}\n«-- one»\n",
            "s = [r| -- none |] «-- one»\n",
            "f' = none «-- one»\n",
            "a --> none\n",
            "«{- one {- one -} one -}» none\n",
        ],
    ),
    (
        "a.ml",
        &[
            "let s = {|(* none *)|} «(* one *)»\n",
            "«(* one \"*)\" one *)» none\n",
            "let s = {x| (* none *) |} |x} «(* one *)»\n",
            "let c = '\"' «(* one *)» none\n",
            "let f = ( *) none\n",
        ],
    ),
    (
        "a.properties",
        &["key=a\\\n# none\n«# one»\n", "key=a#none\n", "«! one»\nkey=none\n", "key=a\\\\\n«# one»\nkey=none\n"],
    ),
    (
        "a.kt",
        &[
            "val s = \"${f(\"// none\")} // none\" «// one»\n",
            "val s = \"\"\"\\\"\"\" «// one»\nnone()\n",
            "val `// none` = 1 «// one»\n",
        ],
    ),
    ("a.scala", &["val s = s\"${f(\"// none\")} // none\" «// one»\n", "val c = '\"' «// one»\nnone\n"]),
    (
        "a.py",
        &[
            "s = f\"{d[\"# none\"]} # none\" «# one»\n",
            "s = f'{x:{\"# none\"}}' «# one»\n",
            "s = r'\\' # none' «# one»\n",
            "s = '''\n# none\n''' «# one»\n",
            "#!/usr/bin/none\n«# one»\n",
            "s = f\"{{# none\" «# one»\n",
        ],
    ),
    (
        "a.jl",
        &["s = \"$(f(\"# none\")) # none\" «# one»\n", "a = b' «# one»\nnone\n", "«#= one #= one =# one =#» none\n"],
    ),
    ("a.css", &["a { b: url(/*none*/); } «/* one */»\n", "a { content: '/* none */' } «/* one */»\n"]),
    (
        "a.php",
        &[
            "<?php $s = <<<\"X\"\n// none\n  X; «// one»\n",
            "<p>// none</p><?php none(); «// one »?><p># none</p>\n",
            "<?php $s = `# none`; «# one»\n",
        ],
    ),
    (
        "a.lua",
        &["s = [==[ -- none ]] ]==] «-- one»\n", "«--[==[ one ]] one ]==]» none\n", "a = b[c[1]] «-- one»\nnone\n"],
    ),
];

/// A case without its marks, and the comments in it.
fn read(case: &str) -> (String, Vec<std::ops::Range<usize>>) {
    let (mut text, mut found) = (String::new(), Vec::new());
    for part in case.split('«') {
        match part.split_once('»') {
            Some((comment, rest)) => {
                found.push(text.len()..text.len() + comment.len());
                text += comment;
                text += rest;
            }
            None => text += part,
        }
    }
    (text, found)
}

#[test]
fn comments_are_told_from_text_in_every_language() {
    let mut wrong = Vec::new();
    for (name, cases) in CASES {
        let syntax = Syntax::of(name).unwrap_or_else(|| panic!("{name} is known"));
        for case in *cases {
            let (text, wanted) = read(case);
            let found = comments(text.as_bytes(), syntax);
            if found != wanted {
                let told: Vec<&str> = found.iter().map(|range| &text[range.clone()]).collect();
                wrong.push(format!("{name}: {text:?} has the comments {told:?}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{} cases\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
fn what_comments_say_does_not_count_and_all_else_does() {
    for (name, cases) in CASES {
        let rules = file_rules("comments", "", name);
        let differs = |one: &str, other: &str| {
            let masked = |text: &str| MaskedText::new(text.as_bytes().to_vec(), &rules);
            compare_masked(&masked(one), &masked(other), &TextOptions::default()).differs()
        };
        for case in *cases {
            let (text, found) = read(case);
            let mut outside = text.clone();
            for range in found.iter().rev() {
                let said = text[range.clone()].replace("one", "two");
                outside.replace_range(range.clone(), &said);
            }
            assert!(!differs(&text, &outside), "{name}: {text:?} and {outside:?}");
            for (at, _) in text.match_indices("none").filter(|(at, _)| !found.iter().any(|range| range.contains(at))) {
                let mut other = text.clone();
                other.replace_range(at..at + 4, "nine");
                assert!(differs(&text, &other), "{name}: {text:?} and {other:?}");
            }
        }
    }
}

#[test]
fn the_work_keeps_step_with_the_text_in_every_language() {
    const HOSTILE: [&str; 30] = [
        "<a b={", "${\"", "\"${", "#{\"", "((\n", "((", "$((", "${'", "<<A\n", "<<\"", "a: |", ": a", "[[", "/[", "/",
        "r", "@\"", ";", "\\begin{", "\\url{", "%w[", "~s(", "{|", "(*", "<!--", "<a ", "$a$", "'", "`", "R\"(",
    ];
    for syntax in &SYNTAXES {
        for token in HOSTILE {
            let steps = |count: usize| work::counted(|| comments(token.repeat(count).as_bytes(), syntax)).1;
            let (few, many) = (steps(2000), steps(8000));
            assert!(many <= 6 * few + 200_000, "{} {token:?}: {few} steps, then {many}", syntax.name);
        }
    }
}
